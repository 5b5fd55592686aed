package magnetic

import (
	"maps"
	"math"
	"slices"

	"saltkettle/core/material"
	"saltkettle/core/quantity"
)

// skin says how deep currents go that a field at the highest frequency drives, and warns of bodies whose cells at their surface are
// too thick for that.
func (d *draft) skin() {
	highest := d.problem.Frequency
	if d.problem.Moves {
		for _, f := range d.Model.Frequencies {
			highest = max(highest, f)
		}
	}
	if highest == 0 {
		return
	}
	depths := map[int32]float64{}
	for b, body := range d.problem.Bodies {
		if body.Resistivity == nil {
			continue
		}
		part, mu := d.Part(b), Vacuum
		f, ok := part.Properties[material.Resistivity]
		if !ok {
			continue
		}
		switch {
		case body.Iron != nil:
			_, slope, _ := body.Iron.Strength(0)
			mu = 1 / slope
		case body.Permeability != nil:
			if r, constant := body.Permeability.Constant(); constant {
				mu *= r
			}
		}
		depths[b] = math.Sqrt(f.At(reference) / (math.Pi * highest * mu))
	}
	type surface struct{ all, thick, most float64 } // lengths, m, and the thickest of its cells
	of := map[int32]*surface{}
	for i := range d.Mesh.Facets {
		f := &d.Mesh.Facets[i]
		if f.Other < 0 || f.OtherBody == f.Body {
			continue // what bounds the device may be a plane of symmetry
		}
		for _, side := range []struct{ body, cell int32 }{{f.Body, f.Cell}, {f.OtherBody, f.Other}} {
			depth := depths[side.body]
			if depth == 0 {
				continue
			}
			if of[side.body] == nil {
				of[side.body] = &surface{}
			}
			long, height := d.height(side.cell, f.Corners())
			s := of[side.body]
			s.all += long
			if height > depth/2*float64(max(1, d.Model.Order)) {
				s.thick += long
			}
			s.most = max(s.most, height)
		}
	}
	words := quantity.Show(highest, "Hz", false, 3)
	for _, b := range slices.Sorted(maps.Keys(depths)) {
		depth, iron := depths[b], ""
		switch {
		case d.problem.Bodies[b].Iron == nil:
		case d.problem.Frequency > 0:
			iron = " where its field is weak; where it saturates they go deeper, and it is taken to be as permeable as at the amplitude"
		default:
			iron = "; it is taken to be as permeable as in the steady field, and not to saturate as it swings"
		}
		d.Note("At %s currents go %s deep into the %s, the depth at which they have fallen to a third%s.", words, quantity.Show(depth, "mm", false, 3), d.BodyName(b), iron)
		if s := of[b]; s != nil && s.thick > mostThick*s.all {
			d.Warn("along %s %% of the surface of the %s cells are thicker than half of how deep its currents go at %s, %s, up to %s: what is lost there is not known well; ask for layers of %s or less along it",
				quantity.Figures(100*s.thick/s.all, 2), d.BodyName(b), words, quantity.Show(depth, "mm", false, 2), quantity.Show(s.most, "mm", false, 2), quantity.Show(depth/2, "mm", false, 1))
		}
	}
}

// mostThick is the part of a surface along which cells may be too thick.
const mostThick = 0.1

// height of a cell of a section above one of its sides, and how long that is, m.
func (d *draft) height(cell int32, side []int32) (long, height float64) {
	corners := d.Mesh.Cell(cell)
	area := 0.0
	for i, v := range corners {
		a, b := d.Mesh.At(v), d.Mesh.At(corners[(i+1)%len(corners)])
		area += (a[0]*b[1] - b[0]*a[1]) / 2
	}
	a, b := d.Mesh.At(side[0]), d.Mesh.At(side[1])
	long = math.Hypot(b[0]-a[0], b[1]-a[1])
	if len(corners) == 3 {
		area *= 2
	}
	return long, math.Abs(area) / long
}
