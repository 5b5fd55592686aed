package flow

import (
	"math"

	"saltkettle/core/couple"
	"saltkettle/core/fem"
	"saltkettle/core/formula"
	"saltkettle/core/law"
	"saltkettle/core/model"
	"saltkettle/core/quantity"
)

// aside is the part of the speed of a stream below which it goes along a facet.
const aside = 1e-6

// stream lets a wide stream in where it is directed inwards, with its own speed, and out against no pressure where it is
// directed outwards; where it goes along a facet fluid slips there.
func (d *draft) stream(c *model.ResolvedSentence, facets []int32) error {
	laws := make([]Law, d.problem.Dimension)
	for i := range laws {
		if laws[i] = c.Laws[axes[i]]; laws[i] == nil {
			laws[i] = formula.Fixed(0)
		}
	}
	set := law.NewSet(laws...)
	points := make([]fem.Point, len(facets))
	for n, k := range facets {
		corners := d.Mesh.Facets[k].Corners()
		for _, v := range corners {
			for i, x := range d.Mesh.At(v) {
				points[n].X[i] += x / float64(len(corners))
			}
		}
	}
	set.Run(points, -1)
	for i := range laws {
		if err := set.Check(i, -1, "speed of the stream", law.NoBound, false); err != nil {
			return err
		}
	}
	var in, out, along []int32
	w := wideStream{id: c.ID}
	for n, k := range facets {
		normal, area := d.normalOf(k)
		var u [3]float64
		for i := range laws {
			u[i] = set.At(i, n)
		}
		d.wide = max(d.wide, size(u))
		switch through := dot(u, normal); {
		case math.Abs(through) <= aside*size(u):
			along = append(along, k)
			w.beside += area * size(u)
		case through < 0:
			in = append(in, k)
		default:
			out = append(out, k)
		}
	}
	if len(in) > 0 {
		d.problem.Inlets = append(d.problem.Inlets, in)
		d.inlets = append(d.inlets, c.ID)
		for i, l := range laws {
			d.hold(c.ID, in, i, l, nil)
		}
	}
	if len(out) > 0 {
		d.problem.Openings = append(d.problem.Openings, Opening{Facets: out, Pressure: formula.Fixed(0)})
		d.openings = append(d.openings, c.ID)
	}
	if len(along) > 0 {
		d.slip(c, along)
	}
	w.along, w.out = along, out
	d.streams = append(d.streams, w)
	return nil
}

// wideStream is what is looked at once it is solved.
type wideStream struct {
	id         string
	along, out []int32
	beside     float64 // its own speed over the facets that it goes along, m³/s
}

const (
	// hurried is the part by which a stream may be faster or slower at sides that it goes along than it would be without what
	// stands in it.
	hurried = 0.05
	// returned is the part of an end through which fluid may come back.
	returned = 0.02
)

// cramped warns of streams whose sides are too near to what stands in them, and of ends within a wake.
func (d *draft) cramped(s *couple.Solution) error {
	k := d.built
	look := func(facets []int32, f func(p *fem.Point, w float64)) error {
		var sides []fem.Side
		for _, facet := range facets {
			sides = append(sides, s.Side(facet, false))
		}
		return s.System.EachSide(s.State, sides, func(_ int, points []fem.Point, weights []float64) error {
			for q, w := range weights {
				f(&points[q], w/d.measure(points[q].X[0]))
			}
			return nil
		})
	}
	for _, w := range d.streams {
		passes, all, back := 0., 0., 0.
		if err := look(w.along, func(p *fem.Point, by float64) { passes += by * k.speed(p) }); err != nil {
			return err
		}
		err := look(w.out, func(p *fem.Point, by float64) {
			if all += by; k.through(p) < 0 {
				back += by
			}
		})
		if err != nil {
			return err
		}
		if w.beside > 0 && math.Abs(passes/w.beside-1) > hurried {
			words := "faster"
			if passes < w.beside {
				words = "slower"
			}
			d.Warn("at the sides that the stream of %s goes along it is %s %% %s than it would be with nothing in it: they are too near; move them away until readings stay", w.id, quantity.Figures(100*math.Abs(passes/w.beside-1), 2), words)
		}
		if back > returned*all {
			d.Warn("fluid comes back through %s %% of where the stream of %s leaves: it ends within a wake; make the room behind it longer", quantity.Figures(100*back/all, 2), w.id)
		}
	}
	return nil
}
