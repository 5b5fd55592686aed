package magnetic

import (
	"fmt"
	"maps"
	"math"
	"slices"

	"saltkettle/core/material"
	"saltkettle/core/mesh"
	"saltkettle/core/model"
	"saltkettle/core/quantity"
	"saltkettle/core/shape"
)

// skin says how deep currents go that a field at the highest frequency drives, and warns of bodies whose cells at their surface are
// too thick for that.
func (d *draft) skin() {
	frequency := highest(d.Model)
	if frequency == 0 {
		return
	}
	depths := map[int32]float64{}
	for b, body := range d.problem.Bodies {
		if body.Resistivity == nil {
			continue
		}
		if depth := depthIn(d.Part(b), frequency); depth > 0 {
			depths[b] = depth
		}
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
	words := quantity.Show(frequency, "Hz", false, 3)
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

// highest is the highest frequency at which fields change, Hz, 0 for none.
func highest(r *model.Resolved) (most float64) {
	for i := range r.Conditions {
		if c := &r.Conditions[i]; c.Kind == KeyAlternates && c.Laws["frequency"] != nil {
			most, _ = c.Laws["frequency"].Constant()
		}
	}
	if r.Document.Swings() {
		for _, f := range r.Frequencies {
			most = max(most, f)
		}
	}
	return most
}

// depthIn is how deep currents go into a part at a frequency where its field is weak, m, 0 if that is not known.
func depthIn(part *model.ResolvedPart, frequency float64) float64 {
	f, ok := part.Properties[material.Resistivity]
	if !ok {
		return 0
	}
	mu := Vacuum
	if curve, is := part.Properties[material.Magnetisation]; is {
		mu = curve.At(weak) / weak
	} else if l := part.Law(material.Permeability); l != nil {
		if r, constant := l.Constant(); constant {
			mu *= r
		}
	}
	return math.Sqrt(f.At(reference) / (math.Pi * frequency * mu))
}

// weak is a field strength at which iron is as permeable as at first, A/m.
const weak = 1e-3

// Layers along the surface of a conductor, if nothing is said: the first a third as thick as currents go deep, and all of them more than
// three times.
const (
	layersGrowth = 1.3
	layers       = 5
	firstLayer   = 1 / 3.
)

// expect is how deep currents go into conductors, and the layers of cells that this needs along their sides.
func expect(r *model.Resolving) (list []model.Expected) {
	frequency := highest(r.Resolved)
	if frequency == 0 || !r.Document.Space.Flat() {
		return nil
	}
	done := map[int]bool{}
	for k := range r.Conditions {
		c := &r.Conditions[k]
		if c.Kind != KeyDriven && c.Kind != KeyTotal && c.Kind != KeyMoves {
			continue
		}
		for _, i := range c.Parts {
			part := &r.Parts[i]
			depth := depthIn(part, frequency)
			if done[i] || depth == 0 || part.Part == nil || part.Outline == nil || firstLayer*depth > part.Size/2 || 3*depth > thickness(part.Outline)/2 {
				continue
			}
			done[i] = true
			wall := mesh.Wall{First: firstLayer * depth, Growth: layersGrowth, Count: layers}
			x := model.Expected{Part: i}
			for _, loop := range part.Outline.Loops {
				for _, edge := range loop {
					if r.Document.Space.Kind == model.Axial && max(edge.From.X, edge.To.X) <= nearAxis || slices.ContainsFunc(x.Walls, func(w mesh.SideWall) bool { return w.Side == edge.Name }) {
						continue
					}
					x.Walls = append(x.Walls, mesh.SideWall{Side: edge.Name, Within: true, Wall: wall})
				}
			}
			x.Layers = fmt.Sprintf("%d layers within the %s, the first %s thick, as currents go %s deep at %s", layers, part.Name, quantity.Show(wall.First, "mm", false, 2), quantity.Show(depth, "mm", false, 2), quantity.Show(frequency, "Hz", false, 3))
			list = append(list, x)
		}
	}
	return list
}

// thickness is the lesser one of the width and the height of an outline, m.
func thickness(o *shape.Outline) float64 {
	lo, hi := o.Box()
	return min(hi.X-lo.X, hi.Y-lo.Y)
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
