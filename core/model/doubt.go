package model

import (
	"slices"
	"strings"

	"saltkettle/core/quantity"
)

// bounds checks a parameter against its unit and its bounds.
func (r *resolver) bounds(name string, v quantity.Value) {
	i := slices.IndexFunc(r.doc.Parameters, func(p Parameter) bool { return p.Name == name })
	p := &r.doc.Parameters[i]
	at := "parameters/" + name
	r.unit(p, v.Dimension)
	for _, end := range []struct {
		place, text, word, side string
		sign                    float64
	}{{"/least", p.Least, "least", "below", 1}, {"/most", p.Most, "greatest", "above", -1}} {
		if strings.TrimSpace(end.text) == "" {
			continue
		}
		law, ok := r.law(at+end.place, end.text, need{label: end.word + " value of " + name, unit: v.Dimension.Symbol(), temperature: v.Affine}, 0)
		if !ok {
			continue
		}
		if bound, _ := law.Constant(); end.sign*(v.SI-bound) < 0 {
			r.find(Wrong, at+"/value", "change the value or its bounds", "the parameter %s is %q, %s its %s value %s", name, p.Value, end.side, end.word, end.text)
		}
	}
}

// unit checks what a parameter is given in.
func (r *resolver) unit(p *Parameter, dimension quantity.Dimension) {
	if p.Unit == "" {
		return
	}
	at := "parameters/" + p.Name
	u, err := quantity.ParseUnit(p.Unit)
	if err != nil {
		r.find(Wrong, at+"/unit", "", "the unit of %s: %v", p.Name, err)
	} else if u.Dimension != dimension {
		r.find(Wrong, at+"/value", "write it in "+p.Unit, "the parameter %s is %s, where %s is wanted", p.Name, dimension.Name(), u.Dimension.Name())
	}
}

// Unanchored lists the solved parts from which nothing seems to lead to a condition that
// anchors the physics, and says whether there is any such condition.
// Bodies whose boxes meet are taken to be in touch, so that whatever is listed
// has certainly no way; the mesh decides about the rest.
func (p *Resolving) Unanchored() (parts []int, any bool) {
	r := p.r
	var solved []int
	for i, b := range r.out.Bodies {
		if r.out.Parts[b.Part].Role == Solved {
			solved = append(solved, i)
		}
	}
	group := make([]int, len(solved))
	for i := range group {
		group[i] = i
	}
	find := func(i int) int {
		for group[i] != i {
			group[i] = group[group[i]]
			i = group[i]
		}
		return i
	}
	index := make(map[int]int, len(solved)) // among the solved ones
	largest := 0.0
	boxes := r.out.boxes()
	for i, s := range solved {
		index[s] = i
		for k := range 3 {
			largest = max(largest, boxes[s].hi[k]-boxes[s].lo[k])
		}
	}
	for _, p := range r.out.meeting(1e-7 * largest) {
		i, ok1 := index[p[0]]
		j, ok2 := index[p[1]]
		if !ok1 || !ok2 {
			continue
		}
		a, b := &boxes[p[0]], &boxes[p[1]]
		slack := 1e-7 * max(a.hi[2]-a.lo[2], b.hi[2]-b.lo[2])
		wide := 1e-7 * max(a.hi[0]-a.lo[0], a.hi[1]-a.lo[1], b.hi[0]-b.lo[0], b.hi[1]-b.lo[1])
		if a.lo[2] <= b.hi[2]+slack && b.lo[2] <= a.hi[2]+slack && a.lo[0] <= b.hi[0]+wide && b.lo[0] <= a.hi[0]+wide && a.lo[1] <= b.hi[1]+wide && b.lo[1] <= a.hi[1]+wide {
			group[find(j)] = find(i)
		}
	}
	anchored := map[int]bool{}
	for _, c := range r.doc.Conditions {
		// One whose values are still wrong leads heat away all the same.
		k, ok := r.cat.Kind(c.Kind)
		if !ok || !k.Anchors || c.Off || Of(k.Key) != p.physics.Key {
			continue
		}
		if k.Acts == 0 {
			return nil, true // it speaks of all surfaces
		}
		any = true
		added, _, _ := c.On.Terms()
		for _, t := range added {
			parts := r.out.PartsNamed(t.Part)
			for i, s := range solved {
				if b := &r.out.Bodies[s]; slices.Contains(parts, b.Part) && t.Has(b.Copy+1) {
					anchored[find(i)] = true
				}
			}
		}
	}
	for i, s := range solved {
		if part := r.out.Bodies[s].Part; !anchored[find(i)] && !slices.Contains(parts, part) {
			parts = append(parts, part)
		}
	}
	return parts, any
}

// slipFactor is how much larger than usual in a model a dimension must be to
// look like one that was typed in the wrong unit, such as mm for m.
const slipFactor = 200

// slips asks about dimensions that suggest a wrong unit.
func (r *resolver) slips() {
	type extent struct {
		part  int
		what  string
		place string
		size  float64
	}
	var list []extent
	var sizes []float64
	for i := range r.out.Parts {
		p := &r.out.Parts[i]
		if p.Outline == nil || p.IsLine() {
			continue
		}
		at := "parts/" + p.ID
		add := func(what, place string, size float64) {
			list = append(list, extent{i, what, at + place, size})
			sizes = append(sizes, size)
		}
		wide, deep := "/outline/kind", "/outline/kind"
		for _, d := range []string{"depth", "diameter", "width"} {
			if text := *p.Part.Outline.Dimension(d); text != "" {
				wide = "/outline/" + d
				if d != "width" {
					deep = wide
				}
			}
		}
		add("wide", wide, p.Extent[0])
		add("deep", deep, p.Extent[1])
		add("high", "/span/to", p.Z1-p.Z0)
	}
	if len(sizes) == 0 {
		return
	}
	slices.Sort(sizes)
	usual := sizes[(len(sizes)-1)/2]
	for _, e := range list {
		switch {
		case e.size > 100:
			r.find(Doubtful, e.place, "check the unit", "the %s is %s %s", r.out.Parts[e.part].Name, quantity.Show(e.size, "m", false, 3), e.what)
		case e.size > 0.5 && e.size > slipFactor*usual:
			r.find(Doubtful, e.place, "check the unit: was mm meant?", "the %s is %s %s, %s times what is usual in this model", r.out.Parts[e.part].Name,
				quantity.Show(e.size, "m", false, 3), e.what, quantity.Figures(e.size/usual, 2))
		}
	}
	if r.out.Size > 0 && r.out.Size > 2*sizes[len(sizes)-1] {
		r.find(Doubtful, "mesh/size", "check the unit", "the cell size %s is larger than every part", quantity.Show(r.out.Size, r.doc.Space.Unit, false, 3))
	}
}

// UsualUnit is the unit in which a reading is shown if nobody chose another.
func (s *ResolvedSentence) UsualUnit() string {
	switch {
	case s.Formula == nil:
		return s.Definition.Unit
	case s.Temperature:
		return "°C"
	}
	return s.Dimension.Symbol()
}
