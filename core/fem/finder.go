package fem

import (
	"math"

	"saltkettle/core/parallel"
	"saltkettle/core/spatial"
)

// Finder finds cells by places, one after another. [Grid.Locate] is for many places at once.
type Finder struct {
	g     *Grid
	tree  *spatial.Tree
	first []int // number of the first cell of each block
	slack float64
}

// NewFinder prepares a grid for it. Places beside a cell by up to slack times its size are in it.
func (g *Grid) NewFinder(slack float64) *Finder {
	f := &Finder{g: g, slack: slack}
	count := 0
	for i := range g.Blocks {
		f.first = append(f.first, count)
		count += g.Blocks[i].Count()
	}
	boxes := make([]spatial.Box, count)
	for i := range g.Blocks {
		b := &g.Blocks[i]
		own := boxes[f.first[i]:]
		parallel.For(b.Count(), 4096, func(_, lo, hi int) {
			in := newInverter(b.Element)
			for cell := lo; cell < hi; cell++ {
				own[cell].Lo, own[cell].Hi = in.load(g, b.Nodes(cell), slack)
			}
		})
	}
	f.tree = spatial.NewTree(boxes)
	return f
}

// Order is the numbers of the cells, block by block, in an order in which those that follow each other
// are near each other.
func (f *Finder) Order() []int32 { return f.tree.Things() }

// Search is a reader of a [Finder], for one goroutine. It looks where it found the last place first.
type Search struct {
	f    *Finder
	in   []*inverter // by block; that of the last place has its cell
	last Place
}

// NewSearch makes a reader.
func (f *Finder) NewSearch() *Search {
	s := &Search{f: f, last: Place{Block: -1, Cell: -1}}
	for i := range f.g.Blocks {
		s.in = append(s.in, newInverter(f.g.Blocks[i].Element))
	}
	return s
}

// Find returns the cell that a place is in; ok is false if there is none.
func (s *Search) Find(x [3]float64) (p Place, ok bool) {
	if s.last.Cell >= 0 {
		if at, ok := s.in[s.last.Block].find(x, s.f.slack); ok {
			s.last.At = at
			return s.last, true
		}
	}
	s.last.Cell = -1
	s.f.tree.Each(x, func(thing int32) bool {
		block := len(s.f.first) - 1
		for s.f.first[block] > int(thing) {
			block--
		}
		b, cell := &s.f.g.Blocks[block], int(thing)-s.f.first[block]
		in := s.in[block]
		in.load(s.f.g, b.Nodes(cell), s.f.slack)
		at, holds := in.find(x, s.f.slack)
		if holds {
			s.last = Place{block, cell, at}
		}
		return !holds
	})
	return s.last, s.last.Cell >= 0
}

// Values takes fields at the place that was found last.
func (s *Search) Values(fields [][]float64, out []float64) {
	b := &s.f.g.Blocks[s.last.Block]
	in := s.in[s.last.Block]
	b.Element.Shape(s.last.At, in.n, in.dn)
	clear(out)
	for i, node := range b.Nodes(s.last.Cell) {
		for k, values := range fields {
			out[k] += in.n[i] * values[node]
		}
	}
}

// Size is the diagonal of the box of the cell that was found last, m.
func (s *Search) Size() float64 {
	in := s.in[s.last.Block]
	lo, hi := in.at[0], in.at[0]
	for _, x := range in.at[1:] {
		for d := range 3 {
			lo[d], hi[d] = min(lo[d], x[d]), max(hi[d], x[d])
		}
	}
	return math.Sqrt((hi[0]-lo[0])*(hi[0]-lo[0]) + (hi[1]-lo[1])*(hi[1]-lo[1]) + (hi[2]-lo[2])*(hi[2]-lo[2]))
}
