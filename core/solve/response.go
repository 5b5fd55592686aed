package solve

import (
	"context"
	"math"
	"math/cmplx"
	"slices"

	"saltkettle/core/couple"
	"saltkettle/core/frame"
	"saltkettle/core/result"
)

// findResponse finds how the last group whose field has rates swings about its steady state, at
// each of the frequencies.
func (r *run) findResponse(ctx context.Context) error {
	p := r.posed
	own := slices.IndexFunc(p.groups, func(g *group) bool { return g.moves() })
	for n := own + 1; n < len(p.groups); n++ {
		if p.groups[n].moves() {
			own = n
		}
	}
	g := p.groups[own]
	second := g.parts[0].Inertial
	for _, part := range g.parts {
		if part.Inertial != second {
			return frame.Wrong("run/kind", "switch off what couples them", "%s and %s, which act on each other, have rates of different order", g.parts[0].Name, part.Name)
		}
	}
	p.marching = own
	s := r.solution()
	s.Method = "LU factorisation of the complex equations at each frequency"
	r.followed = followed{}
	peak, largest := s.Swing, 0.0
	if !r.quiet {
		r.result.History = &result.History{Axis: result.ByFrequency, Readings: map[string]result.Values{}}
	}
	defer stiffen(g, true)()
	err := g.Response(ctx, g.kernel, s.State, second, r.model.Frequencies, func(f float64, u []complex128) error {
		s.Swing = &couple.Swing{
			Real:      couple.Swung(s.State, u, func(v complex128) float64 { return real(v) }),
			Imaginary: couple.Swung(s.State, u, func(v complex128) float64 { return imag(v) }),
		}
		if size := sizeOf(u); size > largest {
			largest, peak = size, s.Swing
			if r.surface != nil {
				r.surface.Shown = len(r.surface.Moments)
			}
		}
		if err := r.follow(f); err != nil {
			return err
		}
		if r.quiet {
			return nil
		}
		r.report(Event{Nodes: r.mesh.NodeCount(), Cells: r.mesh.CellCount(), Part: float64(len(r.followed.times)) / float64(len(r.model.Frequencies))})
		list, err := r.values()
		if err != nil {
			return err
		}
		surface, err := r.drawing()
		if err != nil {
			return err
		}
		surface.Axis = result.ByFrequency
		return r.keepFields(f, list)
	})
	s.Swing = peak
	if err != nil && ctx.Err() == nil {
		return frame.Wrong("run/kind", "let a value swing, as in 100 W + 10 W*swing, and give what swings something that damps it", "the response cannot be found: %v", err)
	}
	return err
}

// sizeOf is the largest of some amplitudes.
func sizeOf(u []complex128) (most float64) {
	for _, v := range u {
		most = max(most, cmplx.Abs(v))
	}
	return most
}

// moves says that a field of the group has rates.
func (g *group) moves() bool {
	return slices.ContainsFunc(g.parts, func(p *portion) bool { return p.about().Changes || p.Inertial })
}

// amplitude is how far a component of a field swings at a node.
func amplitude(s *couple.Solution, equation int32) float64 {
	middle := s.State.U[equation]
	return math.Hypot(s.Swing.Real.U[equation]-middle, s.Swing.Imaginary.U[equation]-middle)
}

// peak makes a reading of a response that of the frequency at which it is greatest.
func (r *run) peak(q *result.Reading) {
	if list := r.followed.values[q.Key]; len(list) > 0 && q.Missing == "" {
		q.Value = slices.Max(list)
		q.At = nil
	}
}
