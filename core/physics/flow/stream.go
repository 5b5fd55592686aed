package flow

import (
	"math"

	"saltkettle/core/fem"
	"saltkettle/core/formula"
	"saltkettle/core/law"
	"saltkettle/core/model"
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
	for n, k := range facets {
		normal, _ := d.normalOf(k)
		var u [3]float64
		for i := range laws {
			u[i] = set.At(i, n)
		}
		d.wide = max(d.wide, size(u))
		switch through := dot(u, normal); {
		case math.Abs(through) <= aside*size(u):
			along = append(along, k)
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
	return nil
}
