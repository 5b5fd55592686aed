package heat

import (
	"saltkettle/core/couple"
	"saltkettle/core/fem"
)

// Stored is the heat that the bodies take up, W, of a solution in time.
func (k *Kernel) Stored(s *couple.Solution) (float64, error) {
	var sum float64
	err := s.System.EachCell(s.State, nil, func(points []fem.Point, weights []float64) error {
		b := k.laws(points[0].Part)
		b.set.Run(points, k.t)
		for q, w := range weights {
			sum += w * b.set.At(density, q) * b.set.At(capacity, q) * points[q].Rate[k.t]
		}
		return nil
	})
	return sum, err
}

// StoresEvenly says that what the bodies store for a kelvin does not depend on the
// temperature.
func (k *Kernel) StoresEvenly() bool {
	for b := range k.problem.Bodies {
		if p := &k.problem.Bodies[b]; anyUses([]Law{p.Density, p.Capacity}) {
			return false
		}
	}
	return true
}

// Taken is the heat that the bodies have taken up from one state to another, J: the
// integral of ρc over the temperature at every place, however it was gone through.
func (k *Kernel) Taken(s *couple.Solution, before, after []float64) (float64, error) {
	rise := make([]float64, len(after))
	for i := range rise {
		rise[i] = after[i] - before[i]
	}
	if k.held == nil {
		k.held = make([]*content, len(k.problem.Bodies))
	}
	var sum float64
	err := s.System.EachCell(&fem.State{U: after, Rate: rise, Time: s.State.Time}, nil, func(points []fem.Point, weights []float64) error {
		body := points[0].Part
		if k.held[body] == nil {
			k.held[body] = newContent(&k.problem.Bodies[body])
		}
		c := k.held[body]
		for q, w := range weights {
			t, rise := points[q].U[k.t], points[q].Rate[k.t]
			sum += w * c.between(t-rise, t)
		}
		return nil
	})
	return sum, err
}
