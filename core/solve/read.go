package solve

import (
	"fmt"
	"strings"

	"saltkettle/core/mesh"
	"saltkettle/core/model"
	"saltkettle/core/physics"
	"saltkettle/core/physics/body"
	"saltkettle/core/physics/heat"
	"saltkettle/core/quantity"
	"saltkettle/core/result"
)

// read takes the readings and the extremes from the solution.
func (r *run) read() error {
	all := make([]int32, r.mesh.NodeCount())
	for i := range all {
		all[i] = int32(i)
	}
	lo, hi, _ := r.solution.Extremes(all)
	r.result.Least, r.result.Greatest = r.extreme(lo), r.extreme(hi)
	for i := range r.model.Readings {
		q := &r.model.Readings[i]
		v, err := r.reading(q)
		if err != nil {
			r.warn("%s could not be read: %v", q.ID, err)
			continue
		}
		r.result.Readings = append(r.result.Readings, v)
	}
	return nil
}

// extreme names the place of an extreme by the first cell that has its node.
func (r *run) extreme(e heat.Extreme) *result.Extreme {
	out := &result.Extreme{Value: e.Value, At: r.place(e.Node)}
	for c := range r.mesh.CellCount() {
		for _, n := range r.mesh.Cells[mesh.WedgeNodes*c : mesh.WedgeNodes*(c+1)] {
			if n == e.Node {
				out.Part = r.bodyName(r.mesh.Body[c])
				return out
			}
		}
	}
	return out
}

func (r *run) place(node int32) [3]float64 { return [3]float64(r.mesh.Nodes[3*node : 3*node+3]) }

// reading evaluates one reading.
func (r *run) reading(q *model.ResolvedSentence) (result.Reading, error) {
	k := q.Definition
	doc := r.model.Document
	out := result.Reading{Key: q.ID, Name: q.Name, Words: doc.Words(physics.Catalog(), q.Sentence), Difference: k.Difference}
	if out.Name == "" {
		out.Name = out.Words
	}
	if q.Formula != nil {
		if err := r.formula(q, &out); err != nil {
			return out, err
		}
		r.show(&out, q)
		return out, nil
	}
	bodies := r.bodySet(q.On)
	whole := q.On.Side == "" && q.On.Facing == ""
	var facets []int32
	if !whole {
		if facets = r.facets(q.On, false); len(facets) == 0 {
			return out, fmt.Errorf("there is no %s", strings.TrimSuffix(doc.PatchWords(q.On), ","))
		}
	}
	switch q.Kind {
	case heat.KeyGreatest, heat.KeyLeast, heat.KeySpread:
		lo, hi, ok := r.solution.Extremes(r.nodes(whole, bodies, facets))
		if !ok {
			return out, fmt.Errorf("nothing is left of the %s in the mesh", doc.PatchWords(q.On))
		}
		switch q.Kind {
		case heat.KeyGreatest:
			at := r.place(hi.Node)
			out.Value, out.At = hi.Value, &at
		case heat.KeyLeast:
			at := r.place(lo.Node)
			out.Value, out.At = lo.Value, &at
		default:
			out.Value = hi.Value - lo.Value
		}
	case heat.KeyMean:
		if whole {
			out.Value = r.solution.InBodies(temperature, bodies).Mean()
		} else {
			out.Value = r.solution.OnFacets(temperature, facets, bodies).Mean()
		}
	case heat.KeyThrough:
		out.Value = r.solution.Through(facets, bodies)
	case body.KeyVolume, body.KeyMass:
		v, err := r.amount(q)
		if err != nil {
			return out, err
		}
		out.Value = v
	default:
		return out, fmt.Errorf("readings of the kind %q cannot be taken", q.Kind)
	}
	r.show(&out, q)
	return out, nil
}

// show converts the value to the unit that the reading asks for.
func (r *run) show(out *result.Reading, q *model.ResolvedSentence) {
	unit := q.Unit
	if unit == "" {
		unit = q.UsualUnit()
	}
	u := quantity.MustUnit(unit) // checked when the model was resolved
	if out.Difference && u.Affine() {
		unit, u = "K", quantity.MustUnit("K")
	}
	out.Unit = u.Dimension.Symbol()
	out.Shown = result.Shown{Value: u.From(out.Value, out.Difference), Unit: unit}
}

// nodes lists the nodes of whole bodies or of facets, each once, ascending.
func (r *run) nodes(whole bool, bodies map[int32]bool, facets []int32) []int32 {
	in := make([]bool, r.mesh.NodeCount())
	if whole {
		for c, b := range r.mesh.Body {
			if bodies[b] {
				for _, n := range r.mesh.Cells[mesh.WedgeNodes*c : mesh.WedgeNodes*(c+1)] {
					in[n] = true
				}
			}
		}
	}
	for _, k := range facets {
		for _, n := range r.mesh.Facets[k].Corners() {
			in[n] = true
		}
	}
	var list []int32
	for n, ok := range in {
		if ok {
			list = append(list, int32(n))
		}
	}
	return list
}

// amount is the volume or the mass of a part: of the mesh for solved parts, so
// that what other parts displace is left out, and of the outlines for parts that
// are shown only.
func (r *run) amount(q *model.ResolvedSentence) (float64, error) {
	p := &r.model.Parts[q.Part]
	var volume float64
	if p.Role == model.Solved {
		for _, b := range r.bodiesOf(q.On) {
			volume += r.solution.Volume[b]
		}
	} else {
		for _, b := range r.model.Bodies {
			if b.Part == q.Part && (q.On.Copy == 0 || q.On.Copy == b.Copy+1) {
				volume += b.Outline.Area() * (b.Z1 - b.Z0)
			}
		}
	}
	if q.Kind == body.KeyVolume {
		return volume, nil
	}
	if p.Density == 0 {
		return 0, fmt.Errorf("%s has no density", p.Material.Name)
	}
	return volume * p.Density, nil
}
