package solid

import (
	"math"

	"saltkettle/core/couple"
	"saltkettle/core/fem"
)

// Accounts are, by direction, the loads and then what pulls each mass.
func (k *Kernel) Accounts() int { return k.n * (len(k.problem.Loads) + len(k.problem.Pulls)) }

// Sourced are the bodies that something pulls.
func (k *Kernel) Sourced() map[int32]bool {
	set := map[int32]bool{}
	for i := range k.problem.Pulls {
		for b := range k.problem.Pulls[i].Bodies {
			set[b] = true
		}
	}
	return set
}

// Entering adds up what each load and each pull pushes with along each direction, N.
func (k *Kernel) Entering(side int, points []fem.Point, weights, sums []float64) error {
	if err := k.Prepare(side, points); err != nil {
		return err
	}
	all := len(k.problem.Loads) + len(k.problem.Pulls)
	if side < 0 {
		if k.now == nil {
			return nil
		}
		for q, w := range weights {
			rho := k.now.At(density, q)
			for at, n := range k.pulls {
				f, _ := k.pull(at, q, &points[q])
				for i := range k.n {
					sums[i*all+len(k.problem.Loads)+int(n)] += w * rho * f[i]
				}
			}
		}
		return nil
	}
	var by traction
	for _, n := range k.at[side] {
		if k.problem.Loads[n].Kind == Mass && k.now == nil {
			continue
		}
		for q, w := range weights {
			p := points[q]
			p.Number = q
			k.traction(n, &p, &by)
			for i := range k.n {
				sums[i*all+int(n)] += w * by.f[i]
			}
		}
	}
	return nil
}

// Scale is the force by which the bodies are pulled together and apart, N: their stress over a
// section of about their size. Sums of forces are held against it. What moves as a whole, or begins with a stress that it
// gets rid of, has forces that cancel, of which rounding leaves something.
func (k *Kernel) Scale(s *couple.Solution) (float64, error) {
	bodies := map[int32]bool{}
	for b := range k.problem.Bodies {
		bodies[b] = true
	}
	var sum, moved float64
	least, most := [3]float64{math.Inf(1), math.Inf(1), math.Inf(1)}, [3]float64{math.Inf(-1), math.Inf(-1), math.Inf(-1)}
	err := s.System.EachCell(s.State, bodies, func(points []fem.Point, weights []float64) error {
		if err := k.Prepare(-1, points); err != nil {
			return err
		}
		for i, w := range weights {
			p := &points[i]
			var at strained
			if err := k.strained(p, i, &at); err != nil {
				return err
			}
			v := k.true(&at)
			sum += w * tensorSize(&v)
			var begun [6]float64
			for j, l := range k.here.Initial {
				if l != nil {
					begun[j] = k.now.At(initial+j, i)
				}
			}
			sum += w * tensorSize(&begun)
			stiff := math.Abs(at.d[0][0])
			for d := range k.n {
				moved += w * stiff * math.Abs(p.U[k.u+d])
				for _, g := range p.Grad[k.u+d] {
					sum += rounded * w * stiff * math.Abs(g)
				}
			}
			for d, x := range p.X {
				least[d], most[d] = min(least[d], x), max(most[d], x)
			}
		}
		return nil
	})
	size := max(most[0]-least[0], most[1]-least[1], most[2]-least[2])
	if err != nil || size <= 0 {
		return 0, err
	}
	return (sum + rounded*moved/size) / size, nil
}

// rounded is the part of the forces of a motion against which what the solution of the equations leaves of them is held, where they cancel.
const rounded = 1e-4

// tensorSize is the root of the sum of the squares of all components.
func tensorSize(v *[6]float64) float64 {
	return math.Sqrt(v[0]*v[0] + v[1]*v[1] + v[2]*v[2] + 2*(v[3]*v[3]+v[4]*v[4]+v[5]*v[5]))
}

// Gains is how fast the momentum of the bodies grows, N. That of attached masses is among what enters.
func (k *Kernel) Gains(s *couple.Solution) ([]float64, error) {
	sum := make([]float64, k.n)
	own := k.Fork().(*Kernel)
	err := s.System.EachCell(s.State, nil, func(points []fem.Point, weights []float64) error {
		if _, bends := k.problem.Bodies[points[0].Part]; !bends {
			return nil
		}
		if err := own.Prepare(-1, points); err != nil {
			return err
		}
		for q, w := range weights {
			for i := range sum {
				sum[i] += w * own.now.At(density, q) * points[q].Rate[k.u+i]
			}
		}
		return nil
	})
	return sum, err
}
