package mesh

import "slices"

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
	m.EachCell(func(cell int32, _ Form, corners []int32) {
		for _, v := range corners {
			if list, ok := at[v]; ok {
				at[v] = append(list, cell)
			}
		}
	})
	before := *m
	before.Blocks = slices.Clone(m.Blocks)
	for k := range before.Blocks {
		before.Blocks[k].Cells = slices.Clone(m.Blocks[k].Cells)
	}
	nodes := make([]int32, 0, len(at))
	for v := range at {
		nodes = append(nodes, v)
	}
	slices.Sort(nodes)
	for _, v := range nodes {
		for g, cells := range before.joined(v, at[v], cut) {
			if g == 0 {
				continue // the first keep the node
			}
			twin := int32(m.NodeCount())
			m.Nodes = append(m.Nodes, m.Nodes[3*v:3*v+3]...)
			for _, c := range cells {
				own := m.Cell(c)
				for i, w := range before.Cell(c) {
					if w == v {
						own[i] = twin
					}
				}
			}
		}
	}
	m.renumber(&before)
}

// joined groups the cells at a node by the facets at it that are not cut.
func (m *Mesh) joined(node int32, cells []int32, cut map[facetKey]bool) [][]int32 {
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
		own := m.Cell(c)
		for _, f := range m.Form(c).Facets() {
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
func (m *Mesh) renumber(before *Mesh) {
	m.Beyond = map[int32][4]int32{}
	for k := range m.Facets {
		f := &m.Facets[k]
		seen := func(cell int32) [4]int32 {
			out := [4]int32{none, none, none, none}
			old, own := before.Cell(cell), m.Cell(cell)
			for i, v := range f.Corners() {
				out[i] = own[slices.Index(old, v)]
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

// SideOf returns which facet of its form a side of a cell a facet is, by the corners that the cell has
// there.
func (m *Mesh) SideOf(cell int32, corners []int32) int {
	own := m.Cell(cell)
	want := keyOf(corners)
	for i, f := range m.Form(cell).Facets() {
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
