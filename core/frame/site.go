package frame

import (
	"fmt"
	"slices"

	"saltkettle/core/mesh"
	"saltkettle/core/model"
)

// Site is a model on its mesh.
type Site struct {
	Model *model.Resolved
	Mesh  *mesh.Mesh
	// Owner has for each body of the mesh its part and which copy of it it is.
	Owner [][2]int
	// bodies are those of each part, and facets those of each body, on either side; found when they are asked for.
	bodies [][]int32
	facets [][]int32
}

// bodiesOf lists the bodies of a part.
func (s *Site) bodiesOf(part int) []int32 {
	if s.bodies == nil {
		s.bodies = make([][]int32, len(s.Model.Parts))
		for b, o := range s.Owner {
			s.bodies[o[0]] = append(s.bodies[o[0]], int32(b))
		}
	}
	return s.bodies[part]
}

// facetsOf lists the facets of a body, on either side of them.
func (s *Site) facetsOf(body int32) []int32 {
	if s.facets == nil {
		s.facets = make([][]int32, len(s.Owner))
		for k := range s.Mesh.Facets {
			f := &s.Mesh.Facets[k]
			s.facets[f.Body] = append(s.facets[f.Body], int32(k))
			if f.OtherBody >= 0 && f.OtherBody != f.Body {
				s.facets[f.OtherBody] = append(s.facets[f.OtherBody], int32(k))
			}
		}
	}
	return s.facets[body]
}

// Part is the part that a body of the mesh belongs to.
func (s *Site) Part(body int32) *model.ResolvedPart { return &s.Model.Parts[s.Owner[body][0]] }

// BodyName is the name of the part of a body, with its number in an array.
func (s *Site) BodyName(body int32) string {
	p := s.Part(body)
	if p.Copies > 1 {
		return fmt.Sprintf("%s %d", p.Name, s.Owner[body][1]+1)
	}
	return p.Name
}

// BodiesOf lists the bodies of the mesh that a patch names.
func (s *Site) BodiesOf(p model.Patch) []int32 {
	added, taken, _ := p.Terms()
	in := map[int32]bool{}
	var list []int32
	for _, t := range added {
		s.eachNamed(t, func(b int32) {
			if !in[b] {
				in[b], list = true, append(list, b)
			}
		})
	}
	for _, t := range taken {
		if t.Side == "" && t.Facing == "" {
			s.eachNamed(t, func(b int32) { delete(in, b) })
		}
	}
	list = slices.DeleteFunc(list, func(b int32) bool { return !in[b] })
	slices.Sort(list)
	return list
}

// eachNamed calls f for the bodies that a patch without what is added and taken away is about.
func (s *Site) eachNamed(t model.Patch, f func(body int32)) {
	for _, part := range s.Model.PartsNamed(t.Part) {
		for _, b := range s.bodiesOf(part) {
			if t.Has(s.Owner[b][1] + 1) {
				f(b)
			}
		}
	}
}

// BodySet is the same as a set.
func (s *Site) BodySet(p model.Patch) map[int32]bool {
	set := map[int32]bool{}
	for _, b := range s.BodiesOf(p) {
		set[b] = true
	}
	return set
}

// Lives lists the bodies in which a physics is solved for.
func (s *Site) Lives(key string) map[int32]bool {
	set := map[int32]bool{}
	for b, o := range s.Owner {
		if s.Model.Lives(key, o[0]) {
			set[int32(b)] = true
		}
	}
	return set
}

// Facets resolves a patch on the mesh, without its box. With exposed set only facets with
// nothing beyond them are taken.
func (s *Site) Facets(p model.Patch, exposed bool) []int32 {
	added, taken, _ := p.Terms()
	left := s.BodySet(p)
	in := map[int32]bool{}
	var list []int32
	for _, t := range added {
		s.eachFacet(t, exposed, left, func(k int32) {
			if !in[k] {
				in[k], list = true, append(list, k)
			}
		})
	}
	for _, t := range taken {
		if t.Side != "" || t.Facing != "" {
			s.eachFacet(t, false, left, func(k int32) { delete(in, k) })
		}
	}
	list = slices.DeleteFunc(list, func(k int32) bool { return !in[k] })
	slices.Sort(list)
	return list
}

// Within keeps those facets whose middle lies in a box, m; nil holds all.
func (s *Site) Within(box *[3][2]float64, facets []int32) []int32 {
	if box == nil {
		return facets
	}
	return slices.DeleteFunc(slices.Clone(facets), func(k int32) bool {
		corners := s.Mesh.Facets[k].Corners()
		for axis, ends := range box {
			var x float64
			for _, v := range corners {
				x += s.Mesh.Nodes[3*v+int32(axis)] / float64(len(corners))
			}
			if x < ends[0] || x > ends[1] {
				return true
			}
		}
		return false
	})
}

// eachFacet calls f for the facets of some bodies that a patch without what is added and taken
// away is about.
func (s *Site) eachFacet(p model.Patch, exposed bool, of map[int32]bool, f func(k int32)) {
	mine := map[int32]bool{}
	s.eachNamed(p, func(b int32) {
		if of[b] {
			mine[b] = true
		}
	})
	var facing map[int]bool // parts; nil for any
	if p.Facing != "" && p.Facing != model.Outside {
		facing = map[int]bool{}
		for _, i := range s.Model.PartsNamed(p.Facing) {
			facing[i] = true
		}
	}
	matches := func(body, side, other int32) bool {
		switch {
		case !mine[body]:
			return false
		case p.Side != "" && p.Side != model.WholeSurface && s.Mesh.Sides[side] != p.Side:
			return false
		case p.Side != mesh.CutSide && other < 0 && s.Mesh.Sides[side] == mesh.CutSide:
			return false // a plane of symmetry is no surface of the device
		case (exposed || p.Facing == model.Outside) && other >= 0:
			return false
		case facing != nil && (other < 0 || !facing[s.Owner[other][0]]):
			return false
		}
		return true
	}
	for b := range mine {
		for _, k := range s.facetsOf(b) {
			if g := &s.Mesh.Facets[k]; matches(g.Body, g.Side, g.OtherBody) || g.OtherBody >= 0 && matches(g.OtherBody, g.OtherSide, g.Body) {
				f(k)
			}
		}
	}
}

// Region is what a reading speaks of.
type Region struct {
	Bodies map[int32]bool
	Facets []int32 // nil for whole bodies
}

// Region resolves the patch of a reading, with its box.
func (s *Site) Region(p model.Patch, box *[3][2]float64) (Region, error) {
	g := Region{Bodies: s.BodySet(p)}
	if p.Side == "" && p.Facing == "" {
		return g, nil
	}
	if g.Facets = s.Within(box, s.Facets(p, false)); len(g.Facets) == 0 {
		return g, fmt.Errorf("there is no %s", s.Words(p))
	}
	return g, nil
}

// Words are those for a patch.
func (s *Site) Words(p model.Patch) string {
	words := s.Model.Document.PatchWords(p)
	if n := len(words); n > 0 && words[n-1] == ',' {
		words = words[:n-1]
	}
	return words
}
