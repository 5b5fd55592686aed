package mesh

import "math"

// Field is a wish for the lengths of cells that depends on the place: in plan, and of
// layers by their height.
type Field struct {
	triangles []wishedTriangle
	boxes     *boxes // of the triangles
	layers    []wishedLayer
	scale     float64
}

type wishedTriangle struct {
	corners [3]Point
	length  float64
}

type wishedLayer struct{ z0, z1, length float64 }

// Columns sorts the cells of a stack into those above one triangle of the plan, and those
// of one layer.
type Columns struct {
	Triangle, Layer []int32   // by cell
	Plan            []float64 // by triangle: the edges of the even one that has its area, m
	Up              []float64 // by layer: its height, m

	triangles []wishedTriangle
	layers    []wishedLayer
}

// Columns returns the columns and layers of the cells.
func (m *Mesh) Columns() *Columns {
	out := &Columns{}
	number, layer := map[[6]float64]int32{}, map[float64]int32{}
	for c := range m.CellCount() {
		n := m.Cells[WedgeNodes*c : WedgeNodes*(c+1)]
		var key [6]float64
		var t wishedTriangle
		for i := range t.corners {
			t.corners[i] = Point{m.Nodes[3*n[i]], m.Nodes[3*n[i]+1]}
			key[2*i], key[2*i+1] = t.corners[i].X, t.corners[i].Y
		}
		k, ok := number[key]
		if !ok {
			k = int32(len(out.triangles))
			number[key] = k
			out.triangles = append(out.triangles, t)
			a, b, c := t.corners[0], t.corners[1], t.corners[2]
			area := math.Abs((b.X-a.X)*(c.Y-a.Y)-(c.X-a.X)*(b.Y-a.Y)) / 2
			out.Plan = append(out.Plan, math.Sqrt(4*area/math.Sqrt(3)))
		}
		l := wishedLayer{z0: m.Nodes[3*n[0]+2], z1: m.Nodes[3*n[3]+2]}
		h, ok := layer[l.z0]
		if !ok {
			h = int32(len(out.layers))
			layer[l.z0] = h
			out.layers = append(out.layers, l)
			out.Up = append(out.Up, l.z1-l.z0)
		}
		out.Triangle, out.Layer = append(out.Triangle, k), append(out.Layer, h)
	}
	return out
}

// Field makes a field of the lengths that cells should have in the triangles of the plan
// and in the layers.
func (c *Columns) Field(plan, up []float64) *Field {
	f := &Field{triangles: c.triangles, layers: c.layers, scale: 1}
	for i := range f.triangles {
		f.triangles[i].length = plan[i]
	}
	for i := range f.layers {
		f.layers[i].length = up[i]
	}
	low, high := Point{math.Inf(1), math.Inf(1)}, Point{math.Inf(-1), math.Inf(-1)}
	for i := range f.triangles {
		lo, hi := f.triangles[i].box()
		low, high = Point{min(low.X, lo.X), min(low.Y, lo.Y)}, Point{max(high.X, hi.X), max(high.Y, hi.Y)}
	}
	f.boxes = newBoxes(low, high, len(f.triangles))
	for i := range f.triangles {
		lo, hi := f.triangles[i].box()
		f.boxes.add(lo, hi, int32(i))
	}
	return f
}

func (t *wishedTriangle) box() (lo, hi Point) {
	a, b, c := t.corners[0], t.corners[1], t.corners[2]
	return Point{min(a.X, b.X, c.X), min(a.Y, b.Y, c.Y)}, Point{max(a.X, b.X, c.X), max(a.Y, b.Y, c.Y)}
}

// Plan is the length at a place in plan; outside of all cells there is no wish.
func (f *Field) Plan(p Point) float64 {
	out := math.Inf(1)
	for _, i := range f.boxes.at(p) {
		t := &f.triangles[i]
		if a, b, c := t.corners[0], t.corners[1], t.corners[2]; t.length < out && insideTriangle(p, a, b, c) {
			out = t.length
		}
	}
	return f.scale * out
}

// Layer is the height of layers at a height.
func (f *Field) Layer(z float64) float64 {
	out := math.Inf(1)
	for _, l := range f.layers {
		if z >= l.z0 && z <= l.z1 {
			out = min(out, l.length)
		}
	}
	return f.scale * out
}

// Scaled is the field with all lengths multiplied.
func (f *Field) Scaled(by float64) *Field {
	out := *f
	out.scale *= by
	return &out
}
