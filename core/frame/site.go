package frame

import (
	"fmt"

	"saltkettle/core/mesh"
	"saltkettle/core/model"
)

// Site is a model on its mesh.
type Site struct {
	Model *model.Resolved
	Mesh  *mesh.Mesh
	// Owner has for each body of the mesh its part and which copy of it it is.
	Owner [][2]int
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
	part := s.Model.Document.Part(p.Part)
	var list []int32
	for b, o := range s.Owner {
		if o[0] == part && (p.Copy == 0 || p.Copy == o[1]+1) {
			list = append(list, int32(b))
		}
	}
	return list
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

// Facets resolves a patch on the mesh. With exposed set only facets with nothing
// beyond them are taken.
func (s *Site) Facets(p model.Patch, exposed bool) []int32 {
	mine := s.BodySet(p)
	facing := -1
	if p.Facing != "" && p.Facing != model.Outside {
		facing = s.Model.Document.Part(p.Facing)
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
		case facing >= 0 && (other < 0 || s.Owner[other][0] != facing):
			return false
		}
		return true
	}
	var list []int32
	for k := range s.Mesh.Facets {
		f := &s.Mesh.Facets[k]
		if matches(f.Body, f.Side, f.OtherBody) || f.OtherBody >= 0 && matches(f.OtherBody, f.OtherSide, f.Body) {
			list = append(list, int32(k))
		}
	}
	return list
}

// Region is what a reading speaks of.
type Region struct {
	Bodies map[int32]bool
	Facets []int32 // nil for whole bodies
}

// Region resolves the patch of a reading.
func (s *Site) Region(p model.Patch) (Region, error) {
	g := Region{Bodies: s.BodySet(p)}
	if p.Side == "" && p.Facing == "" {
		return g, nil
	}
	if g.Facets = s.Facets(p, false); len(g.Facets) == 0 {
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
