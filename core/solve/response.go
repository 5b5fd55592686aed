package solve

import (
	"context"
	"errors"
	"fmt"
	"math"
	"math/cmplx"
	"slices"
	"strings"

	"saltkettle/core/couple"
	"saltkettle/core/fem"
	"saltkettle/core/frame"
	"saltkettle/core/model"
	"saltkettle/core/physics/body"
	"saltkettle/core/quantity"
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
	s.Method = "factorisation of the complex equations at each frequency"
	r.followed = followed{}
	peak, largest := s.Swing, 0.0
	every := (len(r.model.Frequencies) + mostKept - 1) / mostKept
	if !r.quiet {
		r.result.History = &result.History{Axis: result.ByFrequency, Readings: map[string]result.Values{}}
	}
	defer stiffen(g)()
	symmetric := !slices.ContainsFunc(g.parts, func(part *portion) bool { return !part.kernel.Symmetric() })
	swept, err := g.Response(ctx, g.kernel, s.State, second, symmetric && second, r.model.Frequencies, func(f float64, u []complex128) error {
		s.Swing = &couple.Swing{
			Real:      couple.Swung(s.State, u, func(v complex128) float64 { return real(v) }),
			Imaginary: couple.Swung(s.State, u, func(v complex128) float64 { return imag(v) }),
			Frequency: f,
		}
		kept := len(r.followed.times)%every == 0
		if size := sizeOf(u); size > largest && kept {
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
		if !kept {
			return nil
		}
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
	if swept.Solved < len(r.model.Frequencies) {
		s.Method = fmt.Sprintf("factorisation of the complex equations at %d frequencies, from which those at the others follow", swept.Solved)
		r.note("The equations were solved at %d of %d frequencies; the others follow from these. Where they are furthest from being kept, that was wrong by %.1g of the largest amplitude.", swept.Solved, len(r.model.Frequencies), swept.Wrong)
	}
	s.Swing = peak
	if fault := (*frame.ModelError)(nil); err != nil && ctx.Err() == nil && !errors.As(err, &fault) {
		return frame.Wrong("run/kind", "let a value swing, as in 100 W + 10 W*swing, and give what swings something that damps it", "the response cannot be found: %v", err)
	}
	return err
}

// mostKept is at how many frequencies fields are kept, evenly among those that are asked for; readings are at all of them.
const mostKept = 120

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

// peak makes a reading of a response that of the frequency at which it is greatest; it must have a value at all of them.
func (r *run) peak(q *result.Reading) error {
	list := r.followed.values[q.Key]
	if len(list) == 0 || q.Missing != "" {
		return nil
	}
	if q.Value = slices.Max(list); math.IsNaN(q.Value) {
		at := r.followed.times[slices.IndexFunc(list, math.IsNaN)]
		return fmt.Errorf("it has none at %s", quantity.Show(at, "Hz", false, 4))
	}
	q.At = nil
	return nil
}

// errStill says that a reading is about what swings, and the run is not.
var errStill = errors.New("the run does not find how anything swings")

// swungReading reads the phase of another reading, or the frequency at which that swings most.
func (r *run) swungReading(q *model.ResolvedSentence) (float64, error) {
	if !r.model.Document.Swings() {
		return 0, errors.Join(couple.ErrAbsent, errStill)
	}
	name := strings.TrimSpace(q.Values[body.Other])
	i := slices.IndexFunc(r.model.Readings, func(o model.ResolvedSentence) bool { return o.ID == name })
	if i < 0 {
		return 0, fmt.Errorf("there is no reading %s", name)
	}
	other := &r.model.Readings[i]
	if other.Kind == body.KeyPhase || other.Kind == body.KeyPeak {
		return 0, fmt.Errorf("%s is no reading that swings", name)
	}
	if q.Kind == body.KeyPeak {
		return summit(r.followed.times, r.followed.values[name])
	}
	s := r.solution()
	middle, swing := s.State, s.Swing
	defer func() { s.State, s.Swing = middle, swing }()
	s.Swing = nil
	var at [3]float64
	for k, state := range []*fem.State{middle, swing.Real, swing.Imaginary} {
		s.State = state
		v, err := r.reading(other)
		if err != nil {
			return 0, err
		}
		at[k] = v.Value
	}
	return math.Atan2(at[2]-at[0], at[1]-at[0]), nil
}

// summit is the place of the greatest of some values, between places by the parabola through the three about it over the
// logarithm of the place.
func summit(x, y []float64) (float64, error) {
	if len(y) == 0 {
		return 0, errors.New("it has no values over frequency")
	}
	k := 0
	for i, v := range y {
		if v > y[k] {
			k = i
		}
	}
	if k == 0 || k == len(y)-1 {
		return 0, fmt.Errorf("it is greatest at the end of the range, at %.4g Hz: ask for others", x[k])
	}
	a, b, c := math.Log(x[k-1]), math.Log(x[k]), math.Log(x[k+1])
	left, right := (y[k]-y[k-1])/(b-a), (y[k+1]-y[k])/(c-b)
	bend := (right - left) / (c - a)
	if bend >= 0 {
		return x[k], nil
	}
	return math.Exp(min(c, max(a, (a+b)/2-left/(2*bend)))), nil
}
