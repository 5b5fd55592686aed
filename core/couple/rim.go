package couple

// rim are the nodes at the edges at which facets end, without those of edges where other ones begin that are open.
func (g *Ground) rim(facets, open []int32) []int32 {
	type edge struct {
		count int
		facet int32
	}
	edges := map[[2]int32]*edge{}
	each := func(k int32, f func(ends [2]int32)) {
		for _, ends := range g.Mesh.Facets[k].Edges() {
			f([2]int32{min(ends[0], ends[1]), max(ends[0], ends[1])})
		}
	}
	var order [][2]int32
	for _, k := range facets {
		each(k, func(ends [2]int32) {
			if edges[ends] == nil {
				edges[ends] = &edge{facet: k}
				order = append(order, ends)
			}
			edges[ends].count++
		})
	}
	mine := map[int32]bool{}
	for _, k := range facets {
		mine[k] = true
	}
	for _, k := range open {
		if !mine[k] {
			each(k, func(ends [2]int32) {
				if e := edges[ends]; e != nil {
					e.count++
				}
			})
		}
	}
	var list []int32
	seen := map[int32]bool{}
	add := func(v int32) {
		if !seen[v] {
			seen[v] = true
			list = append(list, v)
		}
	}
	for _, ends := range order {
		e := edges[ends]
		if e.count > 1 {
			continue
		}
		add(ends[0])
		add(ends[1])
		if v, is := g.grid.Between(g.sides[e.facet], ends[0], ends[1]); is {
			add(v)
		}
	}
	return list
}
