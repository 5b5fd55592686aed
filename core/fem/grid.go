package fem

import (
	"fmt"
	"math"
	"slices"

	"saltkettle/core/mesh"
	"saltkettle/core/parallel"
)

// Grid is a division of space or of a plane into cells of any form.
type Grid struct {
	// Nodes holds x, y, z of each node, m; z is 0 in the plane.
	Nodes  []float64
	Blocks []Block
	// Measure turns an integral over the plane into one over space; nil is 1. It is
	// given a place.
	Measure func(x [3]float64) float64
}

// Block is cells of one element.
type Block struct {
	Element *Element
	Cells   []int32 // the nodes of each cell
	Part    []int32 // of each cell
}

// Around is the measure of an axial space: a full turn at radius x.
func Around(x [3]float64) float64 { return 2 * math.Pi * x[0] }

// Deep is the measure of a plane space of a given depth, m.
func Deep(depth float64) func(x [3]float64) float64 {
	return func([3]float64) float64 { return depth }
}

// Count is the number of cells of a block.
func (b *Block) Count() int { return len(b.Part) }

// Nodes returns the nodes of a cell.
func (b *Block) Nodes(cell int) []int32 {
	k := b.Element.Count()
	return b.Cells[k*cell : k*(cell+1)]
}

// byPart lists the cells part by part, nil if that is their order.
func (b *Block) byPart() []int32 {
	if slices.IsSorted(b.Part) {
		return nil
	}
	list := make([]int32, b.Count())
	for i := range list {
		list[i] = int32(i)
	}
	slices.SortStableFunc(list, func(x, y int32) int { return int(b.Part[x]) - int(b.Part[y]) })
	return list
}

// NodeCount is the number of nodes.
func (g *Grid) NodeCount() int { return len(g.Nodes) / 3 }

// At is the place of a node.
func (g *Grid) At(node int32) [3]float64 { return [3]float64(g.Nodes[3*node : 3*node+3]) }

// FromMesh makes a grid of a mesh; the parts are its bodies. They share memory.
func FromMesh(m *mesh.Mesh) *Grid {
	g := &Grid{Nodes: m.Nodes}
	for k := range m.Blocks {
		b := &m.Blocks[k]
		g.Blocks = append(g.Blocks, Block{Element: NewElement(b.Form, 1), Cells: b.Cells, Part: m.Body[b.First : int(b.First)+b.Count()]})
	}
	return g
}

// Elevated returns the grid with elements of order 2, whose new nodes lie halfway
// between the corners. curve, if it is not nil, moves those of edges: it is given such a
// place and returns where the node is to be. Those within faces and cells follow from the
// edges by blending (W. J. Gordon and C. A. Hall, Int. J. Numer. Meth. Engng. 7 (1973) 461–477).
func (g *Grid) Elevated(curve func(x [3]float64) [3]float64) *Grid {
	out := &Grid{Measure: g.Measure}
	made := newCornerSets(g.NodeCount())
	made.sets = make([]cornerSet, 0, newPerNode*g.NodeCount())
	node := make([]int32, 0, cap(made.sets)) // by set
	// Where each new node comes from: its cell, and which of the new nodes of the element it is there. Those
	// of edges are found first, as the others follow from them.
	type origin struct {
		cell int32
		news int8
	}
	var from []origin
	var firsts []int // of the new nodes of each block
	count := int32(g.NodeCount())
	for _, b := range g.Blocks {
		e := NewElement(b.Element.Form, 2)
		n := Block{Element: e, Part: b.Part, Cells: make([]int32, e.Count()*b.Count())}
		news := newNodesOf(b.Element, e)
		firsts = append(firsts, len(from))
		from = slices.Grow(from, newPerNode*b.Count()/2)
		for cell := range b.Count() {
			corners, all := b.Nodes(cell), n.Nodes(cell)
			copy(all, corners)
			for k := range news {
				w := &news[k]
				if len(w.owners) <= 4 {
					var key [4]int32
					for i, c := range w.owners {
						key[i] = corners[c]
					}
					set, fresh := made.number(key[:len(w.owners)]...)
					if !fresh {
						all[w.number] = node[set]
						continue
					}
					node = append(node, count)
				}
				all[w.number] = count
				count++
				from = append(from, origin{int32(cell), int8(k)})
			}
		}
		out.Blocks = append(out.Blocks, n)
	}
	firsts = append(firsts, len(from))
	out.Nodes = make([]float64, 3*int(count))
	copy(out.Nodes, g.Nodes)
	for _, owners := range [3]int{2, 4, 8} {
		for bi := range out.Blocks {
			b := &out.Blocks[bi]
			news := newNodesOf(g.Blocks[bi].Element, b.Element)
			own := from[firsts[bi]:firsts[bi+1]]
			parallel.For(len(own), 4096, func(_, lo, hi int) {
				for i := lo; i < hi; i++ {
					w := &news[own[i].news]
					if len(w.owners) != owners {
						continue
					}
					all := b.Nodes(int(own[i].cell))
					var x [3]float64
					for _, m := range w.mix {
						p := out.Nodes[3*all[m.node] : 3*all[m.node]+3]
						x[0] += m.weight * p[0]
						x[1] += m.weight * p[1]
						x[2] += m.weight * p[2]
					}
					if curve != nil && owners == 2 {
						x = curve(x)
					}
					copy(out.Nodes[3*(g.NodeCount()+firsts[bi]+i):], x[:])
				}
			})
		}
	}
	return out
}

// newPerNode is about how many new nodes an elevated grid has for each corner.
const newPerNode = 8

// newNode is a node that an element of order 2 has beyond the corners.
type newNode struct {
	number int
	// owners are the corners that it belongs to, whose functions do not vanish there: two on
	// an edge, four on a side; eight inside a cell.
	owners []int
	mix    []share // of nodes before it
}

type share struct {
	node   int
	weight float64
}

// newNodesOf lists the new nodes of an element of order 2, those of edges first and those of
// cells last.
func newNodesOf(low, high *Element) []newNode {
	var list []newNode
	n, dn := make([]float64, low.Count()), make([][3]float64, low.Count())
	for i := high.Corners; i < high.Count(); i++ {
		low.Shape(high.Nodes[i], n, dn)
		w := newNode{number: i}
		for c, v := range n {
			if v > 1e-9 {
				w.owners = append(w.owners, c)
			}
		}
		list = append(list, w)
	}
	slices.SortStableFunc(list, func(a, b newNode) int { return len(a.owners) - len(b.owners) })
	for k := range list {
		w := &list[k]
		// Half of what is one dimension lower, less a quarter of what is two lower, and so on.
		weight := 0.5
		for count := len(w.owners) / 2; count > 1; count /= 2 {
			for _, v := range list[:k] {
				if len(v.owners) == count && !slices.ContainsFunc(v.owners, func(c int) bool { return !slices.Contains(w.owners, c) }) {
					w.mix = append(w.mix, share{v.number, weight})
				}
			}
			weight /= -2
		}
		for _, c := range w.owners {
			w.mix = append(w.mix, share{c, weight})
		}
	}
	return list
}

// Side is a side of a cell: a facet of its own element.
type Side struct {
	Block, Cell, Facet int
	Other              int32 // part beyond it, −1 outside
}

// Sides lists the sides of cells that lie outside or between two parts; of these
// each side of the two cells is listed.
func (g *Grid) Sides() []Side {
	type seen struct {
		side Side
		part int32
	}
	sets := newCornerSets(g.NodeCount())
	var open []seen // by set: the side that waits for one beyond it, of a cell that is −1 if none does
	var list []Side
	for bi, b := range g.Blocks {
		for cell := range b.Count() {
			nodes := b.Nodes(cell)
			for k, facet := range b.Element.Facets {
				var key [4]int32
				for i, c := range facet {
					key[i] = nodes[c]
				}
				here := Side{bi, cell, k, -1}
				set, fresh := sets.number(key[:len(facet)]...)
				if fresh {
					open = append(open, seen{here, b.Part[cell]})
					continue
				}
				before := open[set]
				if before.side.Cell < 0 { // a third one, which no mesh has, waits anew
					open[set] = seen{here, b.Part[cell]}
					continue
				}
				open[set].side.Cell = -1
				if before.part != b.Part[cell] {
					here.Other = before.part
					before.side.Other = b.Part[cell]
					list = append(list, before.side, here)
				}
			}
		}
	}
	for _, s := range open {
		if s.side.Cell >= 0 {
			list = append(list, s.side)
		}
	}
	slices.SortFunc(list, func(a, b Side) int {
		if a.Block != b.Block {
			return a.Block - b.Block
		}
		if a.Cell != b.Cell {
			return a.Cell - b.Cell
		}
		return a.Facet - b.Facet
	})
	return list
}

// SideNodes returns the nodes on a side.
func (g *Grid) SideNodes(s Side) []int32 {
	b := &g.Blocks[s.Block]
	nodes := b.Nodes(s.Cell)
	var out []int32
	for _, i := range b.Element.onFacet(s.Facet) {
		out = append(out, nodes[i])
	}
	return out
}

// Between is the node halfway along the edge of a side between two corners of it, if the cell has one there.
func (g *Grid) Between(s Side, a, b int32) (node int32, ok bool) {
	block := &g.Blocks[s.Block]
	e, nodes := block.Element, block.Nodes(s.Cell)
	i, j := slices.Index(nodes[:e.Corners], a), slices.Index(nodes[:e.Corners], b)
	if i < 0 || j < 0 || i == j {
		return 0, false
	}
	for _, k := range e.onFacet(s.Facet)[len(e.Facets[s.Facet]):] {
		half := true
		for d := range 3 {
			half = half && math.Abs(e.Nodes[k][d]-(e.Nodes[i][d]+e.Nodes[j][d])/2) < 1e-9
		}
		if half {
			return nodes[k], true
		}
	}
	return 0, false
}

// onFacet lists the nodes of an element on one of its facets, corners first.
func (e *Element) onFacet(facet int) []int { return e.facets[facet] }

func init() {
	for _, pair := range elements {
		for _, e := range pair {
			for i := range e.Count() {
				e.all = append(e.all, i)
			}
			for facet := range e.Facets {
				e.facets = append(e.facets, e.findOnFacet(facet))
			}
		}
	}
}

// findOnFacet finds them.
func (e *Element) findOnFacet(facet int) []int {
	corners := e.Facets[facet]
	out := slices.Clone(corners)
	first := NewElement(e.Form, 1)
	n, dn := make([]float64, first.Count()), make([][3]float64, first.Count())
	for i := e.Corners; i < e.Count(); i++ {
		first.Shape(e.Nodes[i], n, dn)
		var sum float64
		for _, c := range corners {
			sum += n[c]
		}
		if sum > 1-1e-9 {
			out = append(out, i)
		}
	}
	return out
}

// Split gives the cells of some parts nodes of their own where they touch other
// parts, so that the fields may jump there. It returns the grid and for each new
// node the old one.
func (g *Grid) Split(parts map[int32]bool) (*Grid, map[int32]int32) {
	touches := make([]bool, g.NodeCount())
	for _, b := range g.Blocks {
		for cell, part := range b.Part {
			if !parts[part] {
				for _, v := range b.Nodes(cell) {
					touches[v] = true
				}
			}
		}
	}
	out := &Grid{Nodes: slices.Clone(g.Nodes), Measure: g.Measure}
	twin, origin := map[int32]int32{}, map[int32]int32{}
	for _, b := range g.Blocks {
		n := Block{Element: b.Element, Part: b.Part, Cells: slices.Clone(b.Cells)}
		for cell, part := range b.Part {
			if !parts[part] {
				continue
			}
			for i, v := range b.Nodes(cell) {
				if !touches[v] {
					continue
				}
				own, ok := twin[v]
				if !ok {
					own = int32(len(out.Nodes) / 3)
					out.Nodes = append(out.Nodes, g.Nodes[3*v:3*v+3]...)
					twin[v], origin[own] = own, v
				}
				n.Nodes(cell)[i] = own
			}
		}
		out.Blocks = append(out.Blocks, n)
	}
	return out, origin
}

// Check reports the first cell whose volume is not positive at a quadrature point
// of degree 2.
func (g *Grid) Check() error {
	for bi := range g.Blocks {
		b := &g.Blocks[bi]
		c := newCell(b.Element, b.Element, NewRule(b.Element.Form, 2))
		for cell := range b.Count() {
			c.load(g, b.Nodes(cell))
			for q := range c.rule.Points {
				if err := c.set(q); err != nil {
					return fmt.Errorf("cell %d of %ss: %w", cell, b.Element.Form, err)
				}
			}
		}
	}
	return nil
}
