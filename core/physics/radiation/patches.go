package radiation

import (
	"container/heap"
	"slices"
)

// Facet is a piece of surface that radiates, a triangle or a quadrilateral.
type Facet struct {
	// Corners turn left seen from outside the opaque body.
	Corners [][3]float64
	// Class parts facets that must not be in one patch, such as those of different
	// surfaces.
	Class int32
}

// cluster is a set of facets that will be one patch.
type cluster struct {
	facets []int32
	spread float64
}

// clusters is a heap with the widest one first.
type clusters []cluster

func (c clusters) Len() int           { return len(c) }
func (c clusters) Less(i, j int) bool { return c[i].spread > c[j].spread }
func (c clusters) Swap(i, j int)      { c[i], c[j] = c[j], c[i] }
func (c *clusters) Push(x any)        { *c = append(*c, x.(cluster)) }
func (c *clusters) Pop() any {
	old := *c
	last := old[len(old)-1]
	*c = old[:len(old)-1]
	return last
}

// agglomerate joins facets of one class that lie close together and face alike to at
// most limit patches, or to as many as there are classes. It returns the patch of each
// facet.
func agglomerate(facets []Facet, centres, normals []vector, limit int) (patch []int32, count int) {
	byClass := map[int32][]int32{}
	var order []int32
	for i := range facets {
		c := facets[i].Class
		if byClass[c] == nil {
			order = append(order, c)
		}
		byClass[c] = append(byClass[c], int32(i))
	}
	// place of a facet in six dimensions: where it is and, scaled by how wide its
	// cluster is, where it faces.
	measure := func(list []int32) (spread float64, axis int, turned bool) {
		lo, hi := centres[list[0]], centres[list[0]]
		n0, n1 := normals[list[0]], normals[list[0]]
		for _, f := range list {
			lo, hi = lo.least(centres[f]), hi.greatest(centres[f])
			n0, n1 = n0.least(normals[f]), n1.greatest(normals[f])
		}
		d, n := hi.minus(lo), n1.minus(n0)
		wide := d.length()
		for r := range d {
			if d[r] > d[axis] {
				axis = r
			}
		}
		longest := d[axis]
		for r := range n {
			if v := n[r] * wide; v > 2*longest {
				axis, turned, longest = r, true, v
			}
		}
		return wide * (1 + n.length()), axis, turned
	}
	var h clusters
	for _, c := range order {
		spread, _, _ := measure(byClass[c])
		h = append(h, cluster{byClass[c], spread})
	}
	heap.Init(&h)
	for len(h) < limit {
		if len(h[0].facets) == 1 || h[0].spread == 0 {
			break // single facets have no spread: all are
		}
		c := heap.Pop(&h).(cluster)
		_, axis, turned := measure(c.facets)
		key := centres
		if turned {
			key = normals
		}
		slices.SortStableFunc(c.facets, func(a, b int32) int {
			switch x, y := key[a][axis], key[b][axis]; {
			case x < y:
				return -1
			case x > y:
				return 1
			}
			return 0
		})
		half := len(c.facets) / 2
		for _, part := range [][]int32{c.facets[:half], c.facets[half:]} {
			spread, _, _ := measure(part)
			heap.Push(&h, cluster{part, spread})
		}
	}
	// Patches in the order of their first facets, whatever the heap made of them.
	for _, c := range h {
		slices.Sort(c.facets)
	}
	slices.SortFunc(h, func(a, b cluster) int { return int(a.facets[0] - b.facets[0]) })
	patch = make([]int32, len(facets))
	for p, c := range h {
		for _, f := range c.facets {
			patch[f] = int32(p)
		}
	}
	return patch, len(h)
}
