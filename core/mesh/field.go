package mesh

import "math"

// Field is a wish for the lengths of cells that depends on the place: in plan, and of
// layers by their height.
type Field struct {
	triangles []wishedTriangle
	low       Point
	by        float64 // boxes per metre
	wide, far int     // boxes along x and y
	first     []int32 // by box, the place of its first triangle in list
	list      []int32
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
	f.sort()
	return f
}

// sort puts the triangles into boxes.
func (f *Field) sort() {
	high := Point{math.Inf(-1), math.Inf(-1)}
	f.low = Point{math.Inf(1), math.Inf(1)}
	for _, t := range f.triangles {
		for _, p := range t.corners {
			f.low = Point{min(f.low.X, p.X), min(f.low.Y, p.Y)}
			high = Point{max(high.X, p.X), max(high.Y, p.Y)}
		}
	}
	w, h := high.X-f.low.X, high.Y-f.low.Y
	f.by = math.Sqrt(float64(len(f.triangles)) / (w * h))
	f.wide, f.far = int(w*f.by)+1, int(h*f.by)+1
	f.first = make([]int32, f.wide*f.far+1)
	each := func(t *wishedTriangle, g func(box int)) {
		a, b, c := t.corners[0], t.corners[1], t.corners[2]
		x0, y0 := f.box(Point{min(a.X, b.X, c.X), min(a.Y, b.Y, c.Y)})
		x1, y1 := f.box(Point{max(a.X, b.X, c.X), max(a.Y, b.Y, c.Y)})
		for x := x0; x <= x1; x++ {
			for y := y0; y <= y1; y++ {
				g(x*f.far + y)
			}
		}
	}
	for i := range f.triangles {
		each(&f.triangles[i], func(box int) { f.first[box+1]++ })
	}
	for i := 1; i < len(f.first); i++ {
		f.first[i] += f.first[i-1]
	}
	f.list = make([]int32, f.first[len(f.first)-1])
	next := append([]int32(nil), f.first...)
	for i := range f.triangles {
		each(&f.triangles[i], func(box int) {
			f.list[next[box]] = int32(i)
			next[box]++
		})
	}
}

func (f *Field) box(p Point) (x, y int) {
	return min(max(int((p.X-f.low.X)*f.by), 0), f.wide-1), min(max(int((p.Y-f.low.Y)*f.by), 0), f.far-1)
}

// Plan is the length at a place in plan; outside of all cells there is no wish.
func (f *Field) Plan(p Point) float64 {
	x, y := f.box(p)
	out := math.Inf(1)
	for _, i := range f.list[f.first[x*f.far+y]:f.first[x*f.far+y+1]] {
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
