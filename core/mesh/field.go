package mesh

import (
	"math"
	"slices"

	"saltkettle/core/spatial"
)

// Field is a wish for the lengths of cells that depends on the place: in plan, and of
// layers by their height; of bricks along each axis.
type Field struct {
	slabs  [3][]wishedLayer // of bricks
	bases  []wishedBase
	boxes  *spatial.Boxes // of the bases
	layers []wishedLayer
	scale  float64
}

// wishedBase is a triangle or a quadrilateral of the plan.
type wishedBase struct {
	corners []Point
	length  float64
}

type wishedLayer struct{ z0, z1, length float64 }

// Columns sorts the cells of a stack into those above one triangle or quadrilateral of the
// plan, and those of one layer. The cells of a flat mesh are columns of one cell.
type Columns struct {
	Base, Layer []int32   // by cell
	Plan        []float64 // by base: the edges of the even triangle that has its area, m
	Up          []float64 // by layer: its height, m

	bases  []wishedBase
	layers []wishedLayer
}

// Columns returns the columns and layers of the cells.
func (m *Mesh) Columns() *Columns {
	out := &Columns{Base: make([]int32, m.CellCount()), Layer: make([]int32, m.CellCount())}
	number, layer := map[[8]float64]int32{}, map[float64]int32{}
	m.EachCell(func(cell int32, form Form, corners []int32) {
		l := wishedLayer{z0: m.Levels[0], z1: m.Levels[len(m.Levels)-1]}
		if form.Dimension() == 3 {
			half := len(corners) / 2
			l = wishedLayer{z0: m.Nodes[3*corners[0]+2], z1: m.Nodes[3*corners[half]+2]}
			corners = corners[:half]
		}
		var key [8]float64
		var b wishedBase
		for i, v := range corners {
			b.corners = append(b.corners, Point{m.Nodes[3*v], m.Nodes[3*v+1]})
			key[2*i], key[2*i+1] = b.corners[i].X, b.corners[i].Y
		}
		k, ok := number[key]
		if !ok {
			k = int32(len(out.bases))
			number[key] = k
			out.bases = append(out.bases, b)
			out.Plan = append(out.Plan, math.Sqrt(4*m.area(corners)/math.Sqrt(3)))
		}
		h, ok := layer[l.z0]
		if !ok {
			h = int32(len(out.layers))
			layer[l.z0] = h
			out.layers = append(out.layers, l)
			out.Up = append(out.Up, l.z1-l.z0)
		}
		out.Base[cell], out.Layer[cell] = k, h
	})
	return out
}

// Field makes a field of the lengths that cells should have in the bases of columns
// and in the layers.
func (c *Columns) Field(plan, up []float64) *Field {
	f := &Field{bases: c.bases, layers: c.layers, scale: 1}
	for i := range f.bases {
		f.bases[i].length = plan[i]
	}
	for i := range f.layers {
		f.layers[i].length = up[i]
	}
	low, high := Point{math.Inf(1), math.Inf(1)}, Point{math.Inf(-1), math.Inf(-1)}
	for i := range f.bases {
		lo, hi := f.bases[i].box()
		low, high = Point{min(low.X, lo.X), min(low.Y, lo.Y)}, Point{max(high.X, hi.X), max(high.Y, hi.Y)}
	}
	f.boxes = spatial.NewBoxes(low.xy(), high.xy(), len(f.bases))
	for i := range f.bases {
		lo, hi := f.bases[i].box()
		f.boxes.Add(lo.xy(), hi.xy(), int32(i))
	}
	return f
}

func (b *wishedBase) box() (lo, hi Point) {
	lo, hi = b.corners[0], b.corners[0]
	for _, p := range b.corners[1:] {
		lo, hi = Point{min(lo.X, p.X), min(lo.Y, p.Y)}, Point{max(hi.X, p.X), max(hi.Y, p.Y)}
	}
	return lo, hi
}

// holds says whether a place lies in the base.
func (b *wishedBase) holds(p Point) bool {
	c := b.corners
	return insideTriangle(p, c[0], c[1], c[2]) || len(c) == 4 && insideTriangle(p, c[0], c[2], c[3])
}

// Plan is the length at a place in plan; outside of all cells there is no wish.
func (f *Field) Plan(p Point) float64 {
	out := math.Inf(1)
	for _, i := range f.boxes.At(p.xy()) {
		if b := &f.bases[i]; b.length < out && b.holds(p) {
			out = b.length
		}
	}
	return f.scale * out
}

// Layer is the height of layers at a height.
func (f *Field) Layer(z float64) float64 { return f.scale * within(f.layers, z) }

// Slabs sorts the cells of a mesh of bricks by the slabs between the lines of its grid along each
// axis.
type Slabs struct {
	Of    [3][]int32   // by cell
	Thick [3][]float64 // by slab, m

	ends [3][]float64
}

// Slabs returns those of a mesh of bricks.
func (m *Mesh) Slabs() *Slabs {
	s := &Slabs{ends: *m.Grid}
	for axis, ends := range m.Grid {
		for i := 1; i < len(ends); i++ {
			s.Thick[axis] = append(s.Thick[axis], ends[i]-ends[i-1])
		}
		s.Of[axis] = make([]int32, m.CellCount())
		for c := range s.Of[axis] {
			above, _ := slices.BinarySearch(ends, m.Centre(int32(c))[axis])
			s.Of[axis][c] = int32(above) - 1
		}
	}
	return s
}

// Field makes a field of the thickness that slabs should have.
func (s *Slabs) Field(thick [3][]float64) *Field {
	f := &Field{scale: 1}
	for axis, list := range thick {
		for i, h := range list {
			f.slabs[axis] = append(f.slabs[axis], wishedLayer{s.ends[axis][i], s.ends[axis][i+1], h})
		}
	}
	return f
}

// Along is the length of bricks along an axis, at a place along it.
func (f *Field) Along(axis int, x float64) float64 { return f.scale * within(f.slabs[axis], x) }

// within is the least length in layers that hold a place.
func within(list []wishedLayer, x float64) float64 {
	out := math.Inf(1)
	for _, l := range list {
		if x >= l.z0 && x <= l.z1 {
			out = min(out, l.length)
		}
	}
	return out
}

// Scaled is the field with all lengths multiplied.
func (f *Field) Scaled(by float64) *Field {
	out := *f
	out.scale *= by
	return &out
}
