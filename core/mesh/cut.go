package mesh

import "slices"

// facetsOfWedge lists the corners of the sides of a wedge, turning left seen from
// outside.
var facetsOfWedge = [5][]int{{0, 2, 1}, {3, 4, 5}, {0, 1, 4, 3}, {1, 2, 5, 4}, {2, 0, 3, 5}}

// facetKey names a facet by its nodes, ascending; a triangle has −1 first.
type facetKey [4]int32

func keyOf(nodes []int32) facetKey {
	k := facetKey{-1, -1, -1, -1}
	copy(k[4-len(nodes):], nodes)
	slices.Sort(k[:])
	return k
}

// Cut gives the cells on the two sides of some facets between bodies nodes of their
// own, so that fields may jump there. Cells that are still joined round the end of
// a cut go on sharing nodes.
func (m *Mesh) Cut(facets []int32) {
	if len(facets) == 0 {
		return
	}
	cut := map[facetKey]bool{}
	at := map[int32][]int32{} // cells at the nodes on the cut
	for _, k := range facets {
		corners := m.Facets[k].Corners()
		cut[keyOf(corners)] = true
		for _, v := range corners {
			at[v] = nil
		}
	}
	for i, v := range m.Cells {
		if list, ok := at[v]; ok {
			at[v] = append(list, int32(i/WedgeNodes))
		}
	}
	before := slices.Clone(m.Cells)
	nodes := make([]int32, 0, len(at))
	for v := range at {
		nodes = append(nodes, v)
	}
	slices.Sort(nodes)
	for _, v := range nodes {
		for g, cells := range joined(before, v, at[v], cut) {
			if g == 0 {
				continue // the first keep the node
			}
			own := int32(m.NodeCount())
			m.Nodes = append(m.Nodes, m.Nodes[3*v:3*v+3]...)
			for _, c := range cells {
				for i := WedgeNodes * c; i < WedgeNodes*(c+1); i++ {
					if before[i] == v {
						m.Cells[i] = own
					}
				}
			}
		}
	}
	m.renumber(before)
}

// joined groups the cells at a node by the facets at it that are not cut.
func joined(all []int32, node int32, cells []int32, cut map[facetKey]bool) [][]int32 {
	group := make([]int, len(cells))
	for i := range group {
		group[i] = i
	}
	find := func(i int) int {
		for group[i] != i {
			i = group[i]
		}
		return i
	}
	first := map[facetKey]int{}
	for i, c := range cells {
		own := all[WedgeNodes*c : WedgeNodes*(c+1)]
		for _, f := range facetsOfWedge {
			var list [4]int32
			here := false
			for k, corner := range f {
				list[k] = own[corner]
				here = here || own[corner] == node
			}
			key := keyOf(list[:len(f)])
			if !here || cut[key] {
				continue
			}
			if j, seen := first[key]; seen {
				group[find(i)] = find(j)
			} else {
				first[key] = i
			}
		}
	}
	var out [][]int32
	number := map[int]int{}
	for i, c := range cells {
		g, ok := number[find(i)]
		if !ok {
			g = len(out)
			number[find(i)] = g
			out = append(out, nil)
		}
		out[g] = append(out[g], c)
	}
	return out
}

// renumber brings the facets up to cells whose nodes have changed.
func (m *Mesh) renumber(before []int32) {
	m.Beyond = map[int32][4]int32{}
	for k := range m.Facets {
		f := &m.Facets[k]
		seen := func(cell int32) [4]int32 {
			out := [4]int32{-1, -1, -1, -1}
			for i, v := range f.Corners() {
				for j := WedgeNodes * cell; j < WedgeNodes*(cell+1); j++ {
					if before[j] == v {
						out[i] = m.Cells[j]
					}
				}
			}
			return out
		}
		mine := seen(f.Cell)
		if f.Other >= 0 {
			if other := seen(f.Other); other != mine {
				m.Beyond[int32(k)] = other
			}
		}
		f.Nodes = mine
	}
	for k := range m.Faces {
		f := &m.Faces[k]
		for i, v := range f.Corners() {
			for j := WedgeNodes * f.Cell; j < WedgeNodes*(f.Cell+1); j++ {
				if before[j] == v {
					f.Nodes[i] = m.Cells[j]
				}
			}
		}
	}
}

// CornersFrom returns the nodes of a facet that the cells of the body beyond it
// have, or those of its own.
func (m *Mesh) CornersFrom(facet int32, beyond bool) []int32 {
	if beyond {
		if other, ok := m.Beyond[facet]; ok {
			return other[:len(m.Facets[facet].Corners())]
		}
	}
	return m.Facets[facet].Corners()
}

// SideOf returns which side of a cell a facet is, by the corners that the cell has
// there.
func (m *Mesh) SideOf(cell int32, corners []int32) int {
	own := m.Cells[WedgeNodes*cell : WedgeNodes*(cell+1)]
	want := keyOf(corners)
	for i, f := range facetsOfWedge {
		if len(f) != len(corners) {
			continue
		}
		var list [4]int32
		for k, c := range f {
			list[k] = own[c]
		}
		if keyOf(list[:len(f)]) == want {
			return i
		}
	}
	panic("mesh: a facet that its cell does not have")
}
