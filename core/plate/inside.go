package plate

import (
	"math"
	"sync"

	"saltkettle/core/fem"
	"saltkettle/core/parallel"
	"saltkettle/core/result"
	"saltkettle/core/spatial"
)

// Inside is the cells of a result, in which places are found.
type Inside struct {
	*result.Fields
	grid   func() *fem.Grid
	finder func() *fem.Finder
	cells  func() *spread
}

// NewInside takes the cells of fields. What finding needs is made when it is wanted.
func NewInside(f *result.Fields) *Inside {
	in := &Inside{Fields: f}
	in.grid = sync.OnceValue(func() *fem.Grid { return f.Grid(nil) })
	in.finder = sync.OnceValue(func() *fem.Finder { return in.grid().NewFinder(onSide) })
	in.cells = sync.OnceValue(in.volumes)
	return in
}

// onSide is how far beside a cell, as a part of it, places still are in it: those of drawings have
// single precision.
const onSide = 1e-5

// At takes values at places, not numbers where there is nothing.
func (in *Inside) At(points [][3]float64, values ...[]float64) [][]float64 {
	out := make([][]float64, len(values))
	for k := range out {
		out[k] = make([]float64, len(points))
	}
	f := in.finder()
	parallel.For(len(points), 256, func(_, lo, hi int) {
		s := f.NewSearch()
		at := make([]float64, len(values))
		for i := lo; i < hi; i++ {
			_, ok := s.Find(points[i])
			if ok {
				s.Values(values, at)
			}
			for k := range out {
				if out[k][i] = math.NaN(); ok {
					out[k][i] = at[k]
				}
			}
		}
	})
	return out
}

// Box is the least and the greatest coordinates of all points, m.
func (in *Inside) Box() (lo, hi [3]float64) {
	copy(lo[:], in.Nodes)
	hi = lo
	for i, x := range in.Nodes {
		lo[i%3], hi[i%3] = min(lo[i%3], x), max(hi[i%3], x)
	}
	return lo, hi
}

// PartsOfPoints is the number of the part of each point.
func (in *Inside) PartsOfPoints() []int32 {
	out, first := make([]int32, len(in.Nodes)/3), 0
	for k := range in.Blocks {
		b := &in.Blocks[k]
		n := b.Element.Count()
		for i, p := range b.Cells {
			out[p] = in.Part[first+i/n]
		}
		first += b.Count()
	}
	return out
}

// Components are the fields of a vector or a symmetric tensor among some, in their order; nil if
// there are none.
func Components(fields []result.FieldName, name string) []string {
	var list []string
	for _, f := range fields {
		if f.Of == name {
			list = append(list, f.Name)
		}
	}
	return list
}

// spread is things with a size each, along a curve that fills the space.
type spread struct {
	order []int32
	until []float64 // sizes of all up to each
}

// newSpread takes things in an order in which near ones follow each other.
func newSpread(order []int32, sizes []float64) *spread {
	s := &spread{order: order, until: make([]float64, len(sizes))}
	sum := 0.0
	for i, thing := range s.order {
		sum += sizes[thing]
		s.until[i] = sum
	}
	return s
}

// each calls f with count things, as many in each room as their sizes there say.
func (s *spread) each(count int, f func(thing int32)) {
	if len(s.order) == 0 {
		return
	}
	i, all := 0, s.until[len(s.until)-1]
	for k := range count {
		for at := all * (float64(k) + 0.5) / float64(count); i < len(s.until)-1 && s.until[i] < at; {
			i++
		}
		f(s.order[i])
	}
}

// volumes are the cells with their volumes, in a section their areas.
func (in *Inside) volumes() *spread {
	sizes := make([]float64, len(in.Part))
	first := 0
	for k := range in.Blocks {
		b := &in.Blocks[k]
		simplices, n, own := b.Element.Simplices(), b.Element.Count(), first
		first += b.Count()
		parallel.For(b.Count(), 4096, func(_, lo, hi int) {
			for cell := lo; cell < hi; cell++ {
				points := b.Cells[n*cell : n*(cell+1)]
				for _, s := range simplices {
					sizes[own+cell] += in.simplex(points, s)
				}
			}
		})
	}
	return newSpread(in.finder().Order(), sizes)
}

// simplex is the volume of a tetrahedron, the area of a triangle or the length of a line between some of the points.
func (in *Inside) simplex(points []int32, corners []int) float64 {
	var edge [3][3]float64
	for i, c := range corners[1:] {
		for d := range 3 {
			edge[i][d] = in.Nodes[3*points[c]+int32(d)] - in.Nodes[3*points[corners[0]]+int32(d)]
		}
	}
	if len(corners) == 2 {
		return math.Sqrt(dot(edge[0], edge[0]))
	}
	n := cross(edge[0], edge[1])
	if len(corners) == 3 {
		return math.Sqrt(dot(n, n)) / 2
	}
	return math.Abs(dot(n, edge[2])) / 6
}

// Spread returns the middles of count cells, or of all if there are fewer, evenly spread over the
// parts that are wanted.
func (in *Inside) Spread(count int, wanted func(part int32) bool) [][3]float64 {
	all := in.cells()
	own := &spread{}
	sum := 0.0
	for i, cell := range all.order {
		if size := all.until[i]; wanted(in.Part[cell]) {
			if i > 0 {
				size -= all.until[i-1]
			}
			sum += size
			own.order, own.until = append(own.order, cell), append(own.until, sum)
		}
	}
	var out [][3]float64
	last := int32(-1)
	own.each(min(count, len(own.order)), func(cell int32) {
		if cell != last {
			out = append(out, in.middle(int(cell)))
		}
		last = cell
	})
	return out
}

// middle is the mean of the points of a cell.
func (in *Inside) middle(cell int) (x [3]float64) {
	for k := range in.Blocks {
		b := &in.Blocks[k]
		if cell >= b.Count() {
			cell -= b.Count()
			continue
		}
		n := b.Element.Count()
		for _, p := range b.Cells[n*cell : n*(cell+1)] {
			for d := range 3 {
				x[d] += in.Nodes[3*p+int32(d)] / float64(n)
			}
		}
		return x
	}
	return x
}

// SpreadOver returns the middles of triangles or lines of a section, evenly spread over it.
func (s *Section) SpreadOver(count int) [][3]float64 {
	n := s.Count()
	centres, sizes := make([]float64, 3*n), make([]float64, n)
	for i := range n {
		var x [3][3]float64
		for c := range s.Corners {
			for d := range 3 {
				x[c][d] = float64(s.Positions[3*(s.Corners*i+c)+d])
				centres[3*i+d] += x[c][d] / float64(s.Corners)
			}
		}
		u, v := minus(x[1], x[0]), minus(x[2], x[0])
		if sizes[i] = math.Sqrt(dot(u, u)); s.Corners == 3 {
			n := cross(u, v)
			sizes[i] = math.Sqrt(dot(n, n)) / 2
		}
	}
	var out [][3]float64
	newSpread(spatial.Order(centres), sizes).each(min(count, n), func(i int32) { out = append(out, [3]float64(centres[3*i:3*i+3])) })
	return out
}

func dot(a, b [3]float64) float64 { return a[0]*b[0] + a[1]*b[1] + a[2]*b[2] }

func cross(a, b [3]float64) [3]float64 {
	return [3]float64{a[1]*b[2] - a[2]*b[1], a[2]*b[0] - a[0]*b[2], a[0]*b[1] - a[1]*b[0]}
}

func minus(a, b [3]float64) [3]float64 { return [3]float64{a[0] - b[0], a[1] - b[1], a[2] - b[2]} }
