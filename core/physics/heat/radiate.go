package heat

import (
	"slices"

	"saltkettle/core/formula"
	"saltkettle/core/frame"
	"saltkettle/core/law"
	"saltkettle/core/material"
	"saltkettle/core/mesh"
	"saltkettle/core/model"
	"saltkettle/core/physics/radiation"
	"saltkettle/core/result"
)

// transparent is the family of materials that let heat radiation pass. Liquids do not:
// a millimetre of water stops it.
const transparent = "gas"

// clear says that heat radiation passes a body of the mesh, or nothing, at −1.
func (d *draft) clear(body int32) bool {
	return body < 0 || d.Part(body).Material.Family == transparent
}

// wall is the opaque body behind a facet that radiation meets, −1 if it meets none.
func (d *draft) wall(k int) int32 {
	f := &d.Mesh.Facets[k]
	here, beyond := d.clear(f.Body), d.clear(f.OtherBody)
	switch {
	case here == beyond:
		return -1
	case here:
		return f.OtherBody
	}
	return f.Body
}

// onAxis says that a facet lies on the axis of an axial space, where it is no surface.
func (d *draft) onAxis(k int) bool {
	if d.Model.Document.Space.Kind != model.Axial {
		return false
	}
	for _, v := range d.Mesh.Facets[k].Corners() {
		if d.Mesh.Nodes[3*v] > 1e-12 {
			return false
		}
	}
	return true
}

// enclosure collects the surfaces that exchange radiation, with their emissivities, and
// finds how they see each other.
func (d *draft) enclosure(on []acting) error {
	if d.exchange < 0 {
		for _, c := range d.conditions {
			if c.Kind == KeyEmissivity {
				d.Warn("%s does nothing: surfaces do not radiate to each other", c.ID)
			}
		}
		return nil
	}
	c := d.conditions[d.exchange]
	if err := d.mirrors(c.ID); err != nil {
		return err
	}
	if len(d.levels) == 0 {
		d.levels.Add(c.Laws["temperature"]) // others are closer to what the parts will have
	}
	e, facets, err := d.radiators(c, on)
	if err != nil {
		return err
	}
	if e.Views, err = d.views(facets); err != nil {
		return err
	}
	d.problem.Enclosure = e
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
func (d *draft) mirrors(sentence string) error {
	for i, c := range d.Model.Cuts {
		at := "space/cuts/" + d.Model.Document.Space.Cuts[i].ID + "/at"
		if d.Model.Document.Space.Kind == model.Axial && c.Axis == 0 {
			return frame.Wrong(at, "take the cut back", "by %s surfaces radiate to each other, and across a cut round the axis there is no symmetry", sentence)
		}
		for _, other := range d.Model.Cuts[:i] {
			if other.Axis == c.Axis && other.At != c.At {
				return frame.Wrong(at, "take one of the two cuts back", "by %s surfaces radiate to each other, and between two planes of symmetry they have images without end", sentence)
			}
		}
	}
	return nil
}

// radiators collects the surfaces that face empty space or gas, with their emissivities.
func (d *draft) radiators(c *model.ResolvedSentence, on []acting) (*Enclosure, []radiation.Facet, error) {
	e := &Enclosure{Surroundings: c.Laws["temperature"]}
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
	for k := range d.Mesh.Facets {
		b := d.wall(k)
		if b < 0 || d.onAxis(k) || d.Mesh.Sides[d.Mesh.Facets[k].Side] == mesh.CutSide {
			continue
		}
		if on[k].radiation >= 0 {
			other := d.conditions[on[k].radiation].ID
			return nil, nil, frame.Wrong("conditions/"+other, "leave one of the two out", "%s lets the %s radiate to surroundings, though %s lets all surfaces radiate to each other and to surroundings", other, d.BodyName(b), c.ID)
		}
		part := d.Part(b)
		var l law.Law
		switch own := d.emissivity[int32(k)]; {
		case on[k].still:
			l = mirror // it takes nothing and sends all back
		case own != nil:
			l = own
		case part.Law(material.Emissivity) != nil:
			l = part.Law(material.Emissivity)
		default:
			if unknown < 0 {
				unknown = d.Owner[b][0]
			}
			continue
		}
		f := &d.Mesh.Facets[k]
		side := f.Side
		if b == f.OtherBody {
			side = f.OtherSide
		}
		of := emissivity(l)
		key := class{b, side, of}
		if _, ok := classes[key]; !ok {
			classes[key] = int32(len(classes))
		}
		facets = append(facets, radiation.Facet{Corners: d.corners(k, b == f.OtherBody), Class: classes[key]})
		e.Facets, e.Of = append(e.Facets, int32(k)), append(e.Of, of)
		d.posed.Facets[int32(k)] = true
	}
	if unknown >= 0 {
		p := &d.Model.Parts[unknown]
		return nil, nil, frame.Wrong("parts/"+p.ID+"/material", "give the material an emissivity, or say of the surface what it is: “The … has emissivity …”", "surfaces radiate to each other, and the emissivity of %s, of which the %s is, is not known", p.Material.Name, p.Name)
	}
	if len(facets) == 0 {
		return nil, nil, frame.Wrong("conditions/"+c.ID, "remove it", "%s acts nowhere: no surface is free to radiate", c.ID)
	}
	return e, facets, nil
}

// corners of a facet, turning left seen from the body before it, or beyond.
func (d *draft) corners(k int, beyond bool) [][3]float64 {
	var list [][3]float64
	for _, v := range d.Mesh.Facets[k].Corners() {
		list = append(list, [3]float64(d.Mesh.Nodes[3*v:3*v+3]))
	}
	if !beyond {
		return list
	}
	slices.Reverse(list)
	return list
}

// views finds the view factors, from the store if they are there.
func (d *draft) views(facets []radiation.Facet) (*radiation.Views, error) {
	out := &result.Radiation{Facets: len(facets)}
	set := &radiation.Settings{Depth: d.Model.Depth, Set: d.Rays}
	switch d.Model.Document.Space.Kind {
	case model.Plane:
		set.Space = radiation.Plane
	case model.Axial:
		set.Space = radiation.Axial
	}
	for _, c := range d.Model.Cuts {
		set.Mirrors = append(set.Mirrors, radiation.Mirror{Axis: c.Axis, At: c.At})
	}
	key := radiation.Key(facets, set)
	store := &radiation.Store{Dir: d.Views}
	var v *radiation.Views
	if d.Views != "" {
		v = store.Load(key)
		out.Reused = v != nil
	}
	if v == nil {
		err := d.Aside("views", func(progress func(part float64)) (err error) {
			set.Progress = progress
			v, err = radiation.Compute(d.Context, facets, set)
			return err
		})
		if err != nil {
			return nil, err
		}
		if d.Views != "" {
			if err := store.Save(key, v); err != nil {
				d.Warn("the view factors could not be kept for later runs: %v", err)
			}
		}
	}
	out.Patches, out.Rays, out.Reciprocity, out.Closure = v.Count(), v.Rays, v.Reciprocity, v.Closure
	for i, open := range v.Open {
		out.Open += open
		out.Area += v.Area[i]
	}
	d.radiation = out
	return v, nil
}

// seen are pairs of facets that radiate to each other: a part from which heat has no
// other way out may have this one. Where others tie two facets together already, there is
// no pair of them.
func (d *draft) seen() [][2]int32 {
	e := d.problem.Enclosure
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
