package couple

import "fmt"

// loose checks that every connected piece of a field has something that fixes its
// level: a held value or an anchor facet. It returns the bodies of the pieces that
// have not.
func (g *Group) loose(field int, anchors []int32, pairs [][2]int32) []int32 {
	s, m := g.System, g.Mesh
	all := g.piecesOf(field)
	for _, k := range g.Joints {
		a, b := s.Equation(field, 0, m.Facets[k].Nodes[0]), s.Equation(field, 0, m.CornersFrom(k, true)[0])
		if a >= 0 && b >= 0 {
			all.join(a, b)
		}
	}
	for _, p := range pairs {
		all.join(s.Equation(field, 0, m.Facets[p[0]].Nodes[0]), s.Equation(field, 0, m.Facets[p[1]].Nodes[0]))
	}
	anchored := map[int32]bool{}
	anchor := func(v int32) {
		if e := s.Equation(field, 0, v); e >= 0 {
			anchored[all.find(e)] = true
		}
	}
	for _, h := range g.held {
		if h.field == field {
			for _, v := range h.nodes {
				anchor(v)
			}
		}
	}
	for _, k := range anchors {
		anchor(m.Facets[k].Nodes[0])
	}
	found := map[int32]bool{}
	var list []int32
	for c, b := range m.Body {
		if g.Lives(field, b) && !found[b] && !anchored[all.find(s.Equation(field, 0, m.Cell(int32(c))[0]))] {
			found[b] = true
			list = append(list, b)
		}
	}
	return list
}

// LooseError names bodies in which nothing fixes the level of a field; of a displacement it has the motions that the first
// of them can make.
type LooseError struct {
	Field   int
	Bodies  []int32
	Motions []Motion
}

func (e *LooseError) Error() string {
	return fmt.Sprintf("nothing fixes the level of field %d in the bodies %v", e.Field, e.Bodies)
}

// Fixed demands that something fixes the level of a field everywhere: a held value
// or one of the anchor facets. Pairs of facets across which the field acts, such as
// those that radiate to each other, hang together.
func (g *Group) Fixed(field int, anchors []int32, pairs [][2]int32) error {
	if list := g.loose(field, anchors, pairs); len(list) > 0 {
		return &LooseError{Field: field, Bodies: list}
	}
	return nil
}
