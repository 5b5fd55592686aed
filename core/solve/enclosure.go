package solve

import (
	"context"
	"slices"

	"saltkettle/core/formula"
	"saltkettle/core/mesh"
	"saltkettle/core/model"
	"saltkettle/core/physics/heat"
	"saltkettle/core/physics/law"
	"saltkettle/core/physics/radiation"
	"saltkettle/core/result"
)

// transparent is the family of materials that let heat radiation pass. Liquids do not:
// a millimetre of water stops it.
const transparent = "gas"

// clear says that heat radiation passes a body of the mesh, or nothing, at −1.
func (r *run) clear(body int32) bool {
	return body < 0 || r.model.Parts[r.owner[body][0]].Material.Family == transparent
}

// wall is the opaque body behind a facet that radiation meets, −1 if it meets none.
func (r *run) wall(k int) int32 {
	f := &r.mesh.Facets[k]
	here, beyond := r.clear(f.Body), r.clear(f.OtherBody)
	switch {
	case here == beyond:
		return -1
	case here:
		return f.OtherBody
	}
	return f.Body
}

// onAxis says that a facet lies on the axis of an axial space, where it is no surface.
func (r *run) onAxis(k int) bool {
	if r.model.Document.Space.Kind != model.Axial {
		return false
	}
	for _, v := range r.mesh.Facets[k].Corners() {
		if r.mesh.Nodes[3*v] > 1e-12 {
			return false
		}
	}
	return true
}

// enclosure collects the surfaces that exchange radiation, with their emissivities, and
// finds how they see each other.
func (d *draft) enclosure(ctx context.Context, on []acting) error {
	if d.exchange < 0 || !d.run.model.Heat {
		for _, c := range d.run.model.Conditions {
			if c.Kind == heat.KeyEmissivity {
				d.warn("%s does nothing: surfaces do not radiate to each other", c.ID)
			}
		}
		return nil
	}
	r := d.run
	c := &r.model.Conditions[d.exchange]
	if err := r.mirrors(c.ID); err != nil {
		return err
	}
	if len(d.levels) == 0 {
		d.level(c.Laws["temperature"]) // others are closer to what the parts will have
	}
	e, facets, err := d.radiators(c, on)
	if err != nil {
		return err
	}
	if e.Views, err = r.views(ctx, facets); err != nil {
		return err
	}
	d.heat.Enclosure = e
	for range e.Emissivity {
		d.keys.radiations = append(d.keys.radiations, c.ID)
	}
	// Where radiation gets out it fixes the level of the temperature.
	for i, k := range e.Facets {
		if v, ok := e.Emissivity[e.Of[i]].Constant(); ok && v == 0 {
			continue
		}
		if p := e.Views.Patch[i]; e.Views.Open[p] > 1e-6*e.Views.Area[p] {
			d.anchors = append(d.anchors, k)
		}
	}
	return nil
}

// mirrors checks that radiation can be mirrored at all cuts of the model.
func (r *run) mirrors(sentence string) error {
	for i, c := range r.model.Cuts {
		at := "space/cuts/" + r.model.Document.Space.Cuts[i].ID + "/at"
		if r.model.Document.Space.Kind == model.Axial && c.Axis == 0 {
			return wrong(at, "take the cut back", "by %s surfaces radiate to each other, and across a cut round the axis there is no symmetry", sentence)
		}
		for _, other := range r.model.Cuts[:i] {
			if other.Axis == c.Axis && other.At != c.At {
				return wrong(at, "take one of the two cuts back", "by %s surfaces radiate to each other, and between two planes of symmetry they have images without end", sentence)
			}
		}
	}
	return nil
}

// radiators collects the surfaces that face empty space or gas, with their emissivities.
func (d *draft) radiators(c *model.ResolvedSentence, on []acting) (*heat.Enclosure, []radiation.Facet, error) {
	r := d.run
	e := &heat.Enclosure{Surroundings: c.Laws["temperature"]}
	number := map[law.Law]int32{}
	emissivity := func(l law.Law) int32 {
		i, ok := number[l]
		if !ok {
			i = int32(len(e.Emissivity))
			number[l] = i
			e.Emissivity = append(e.Emissivity, l)
		}
		return i
	}
	mirror := law.Law(formula.Fixed(0))
	type class struct {
		body, side, of int32
	}
	classes := map[class]int32{}
	var facets []radiation.Facet
	unknown := -1 // the first part without an emissivity
	for k := range r.mesh.Facets {
		b := r.wall(k)
		if b < 0 || r.onAxis(k) || r.mesh.Sides[r.mesh.Facets[k].Side] == mesh.CutSide {
			continue
		}
		if on[k].radiation >= 0 {
			other := r.model.Conditions[on[k].radiation].ID
			return nil, nil, wrong("conditions/"+other, "leave one of the two out", "%s lets the %s radiate to surroundings, though %s lets all surfaces radiate to each other and to surroundings", other, r.bodyName(b), c.ID)
		}
		part := &r.model.Parts[r.owner[b][0]]
		var l law.Law
		switch own := d.emissivity[int32(k)]; {
		case on[k].still:
			l = mirror // it takes nothing and sends all back
		case own != nil:
			l = own
		case part.Emissivity.Program != nil:
			l = part.Emissivity.Program
		default:
			if unknown < 0 {
				unknown = r.owner[b][0]
			}
			continue
		}
		f := &r.mesh.Facets[k]
		side := f.Side
		if b == f.OtherBody {
			side = f.OtherSide
		}
		of := emissivity(l)
		key := class{b, side, of}
		if _, ok := classes[key]; !ok {
			classes[key] = int32(len(classes))
		}
		facets = append(facets, radiation.Facet{Corners: r.corners(k, b == f.OtherBody), Class: classes[key]})
		e.Facets, e.Of = append(e.Facets, int32(k)), append(e.Of, of)
		d.facets[int32(k)] = true
	}
	if unknown >= 0 {
		p := &r.model.Parts[unknown]
		return nil, nil, wrong("parts/"+p.ID+"/material", "give the material an emissivity, or say of the surface what it is: “The … has emissivity …”", "surfaces radiate to each other, and the emissivity of %s, of which the %s is, is not known", p.Material.Name, p.Name)
	}
	if len(facets) == 0 {
		return nil, nil, wrong("conditions/"+c.ID, "remove it", "%s acts nowhere: no surface is free to radiate", c.ID)
	}
	return e, facets, nil
}

// corners of a facet, turning left seen from the body before it, or beyond.
func (r *run) corners(k int, beyond bool) [][3]float64 {
	var list [][3]float64
	for _, v := range r.mesh.Facets[k].Corners() {
		list = append(list, [3]float64(r.mesh.Nodes[3*v:3*v+3]))
	}
	if !beyond {
		return list
	}
	slices.Reverse(list)
	return list
}

// views finds the view factors, from the store if they are there.
func (r *run) views(ctx context.Context, facets []radiation.Facet) (*radiation.Views, error) {
	out := &result.Radiation{Facets: len(facets)}
	set := &radiation.Settings{Depth: r.model.Depth, Set: r.rays, Progress: func(part float64) {
		if !r.quiet {
			r.report(Event{Nodes: r.mesh.NodeCount(), Cells: r.mesh.CellCount(), Part: part})
		}
	}}
	switch r.model.Document.Space.Kind {
	case model.Plane:
		set.Space = radiation.Plane
	case model.Axial:
		set.Space = radiation.Axial
	}
	for _, c := range r.model.Cuts {
		set.Mirrors = append(set.Mirrors, radiation.Mirror{Axis: c.Axis, At: c.At})
	}
	key := radiation.Key(facets, set)
	store := &radiation.Store{Dir: r.opt.Views}
	var v *radiation.Views
	if r.opt.Views != "" {
		v = store.Load(key)
		out.Reused = v != nil
	}
	if v == nil {
		before := r.stage
		if !r.quiet {
			r.enter("views")
		}
		var err error
		v, err = radiation.Compute(ctx, facets, set)
		if err != nil {
			return nil, err
		}
		if !r.quiet {
			r.enter(before)
		}
		if r.opt.Views != "" {
			if err := store.Save(key, v); err != nil {
				r.warn("the view factors could not be kept for later runs: %v", err)
			}
		}
	}
	out.Patches, out.Rays, out.Reciprocity, out.Closure = v.Count(), v.Rays, v.Reciprocity, v.Closure
	for i, open := range v.Open {
		out.Open += open
		out.Area += v.Area[i]
	}
	r.result.Radiation = out
	return v, nil
}

// seen are pairs of facets that radiate to each other: a part from which heat has no
// other way out may have this one. Where others tie two facets together already, there is
// no pair of them.
func (d *draft) seen() [][2]int32 {
	e := d.heat.Enclosure
	if e == nil {
		return nil
	}
	n := e.Views.Count()
	facet := make([]int32, n) // of each patch one that takes part, or −1
	for i := range facet {
		facet[i] = -1
	}
	for i, p := range e.Views.Patch {
		if v, ok := e.Emissivity[e.Of[i]].Constant(); (!ok || v != 0) && facet[p] < 0 {
			facet[p] = e.Facets[i]
		}
	}
	var pairs [][2]int32
	met, reached := make([]bool, n), make([]int, 0, n)
	for start := range n {
		if met[start] || facet[start] < 0 {
			continue
		}
		met[start], reached = true, append(reached[:0], start)
		for len(reached) > 0 {
			i := reached[len(reached)-1]
			reached = reached[:len(reached)-1]
			for j, s := range e.Views.Exchange[i*n : (i+1)*n] {
				if s > 0 && !met[j] && facet[j] >= 0 {
					met[j], reached = true, append(reached, j)
					pairs = append(pairs, [2]int32{facet[i], facet[j]})
				}
			}
		}
	}
	return pairs
}
