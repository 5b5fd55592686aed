package fem

import (
	"errors"
	"math"

	"saltkettle/core/mesh"
)

// wedgePoint is a quadrature point of the reference wedge, the triangle
// (0,0), (1,0), (0,1) times [−1, 1], with shape functions and their derivatives.
type wedgePoint struct {
	weight float64
	plan   [3]float64 // shape functions of the triangle
	height [2]float64 // of the lower and the upper end
	n      [6]float64
	dn     [6][3]float64
}

// wedgeRule is the three-point rule of the triangle, exact for degree 2, times
// the two-point Gauss rule.
var wedgeRule = func() (rule [6]wedgePoint) {
	g := 1 / math.Sqrt(3)
	i := 0
	for _, z := range [2]float64{-g, g} {
		for _, p := range [3][2]float64{{1. / 6, 1. / 6}, {2. / 3, 1. / 6}, {1. / 6, 2. / 3}} {
			q := wedgePoint{weight: 1. / 6}
			l := [3]float64{1 - p[0] - p[1], p[0], p[1]}
			q.plan, q.height = l, [2]float64{(1 - z) / 2, (1 + z) / 2}
			d := [3][2]float64{{-1, -1}, {1, 0}, {0, 1}}
			for k := range 3 {
				for half, s := range [2]float64{-1, 1} {
					f := (1 + s*z) / 2
					q.n[k+3*half] = l[k] * f
					q.dn[k+3*half] = [3]float64{d[k][0] * f, d[k][1] * f, l[k] * s / 2}
				}
			}
			rule[i] = q
			i++
		}
	}
	return rule
}()

// Wedge holds a wedge with its shape functions at the quadrature points. It is
// work memory: one for each core, filled anew for each cell.
type Wedge struct {
	X [6][3]float64 // nodes, m
	// At each quadrature point: the volume that it stands for, m³, the shape
	// functions and their gradients, 1/m.
	Volume   [6]float64
	Gradient [6][6][3]float64
}

// ErrInverted is returned for a cell whose volume is not positive somewhere.
var ErrInverted = errors.New("a cell of the mesh is inverted")

// Set loads a cell of a mesh.
func (w *Wedge) Set(m *mesh.Mesh, cell int) error {
	for i, n := range m.Cells[mesh.WedgeNodes*cell : mesh.WedgeNodes*cell+6] {
		copy(w.X[i][:], m.Nodes[3*n:3*n+3])
	}
	if w.upright() {
		return w.setUpright()
	}
	return w.setAny()
}

// upright says that the cell stands on its foot, with level ends, as all cells of
// a stack do.
func (w *Wedge) upright() bool {
	x := &w.X
	for i := range 3 {
		if x[i][0] != x[i+3][0] || x[i][1] != x[i+3][1] || x[i][2] != x[0][2] || x[i+3][2] != x[3][2] {
			return false
		}
	}
	return true
}

// setUpright fills in a cell that stands upright: plan and height are apart.
func (w *Wedge) setUpright() error {
	x := &w.X
	ax, ay := x[1][0]-x[0][0], x[1][1]-x[0][1]
	bx, by := x[2][0]-x[0][0], x[2][1]-x[0][1]
	area, height := ax*by-ay*bx, x[3][2]-x[0][2]
	if !(area > 0) || !(height > 0) {
		return ErrInverted
	}
	g := [3][2]float64{{(ay - by) / area, (bx - ax) / area}, {by / area, -bx / area}, {-ay / area, ax / area}}
	det := area * height / 2
	for q := range wedgeRule {
		p := &wedgeRule[q]
		w.Volume[q] = det * p.weight
		low, high := p.height[0], p.height[1]
		for k := range 3 {
			up := p.plan[k] / height
			w.Gradient[q][k] = [3]float64{g[k][0] * low, g[k][1] * low, -up}
			w.Gradient[q][k+3] = [3]float64{g[k][0] * high, g[k][1] * high, up}
		}
	}
	return nil
}

// setAny fills in a cell of any shape.
func (w *Wedge) setAny() error {
	for q := range wedgeRule {
		p := &wedgeRule[q]
		var j [3][3]float64
		for i := range 6 {
			for r := range 3 {
				d := p.dn[i][r]
				j[r][0] += d * w.X[i][0]
				j[r][1] += d * w.X[i][1]
				j[r][2] += d * w.X[i][2]
			}
		}
		c00 := j[1][1]*j[2][2] - j[1][2]*j[2][1]
		c01 := j[1][2]*j[2][0] - j[1][0]*j[2][2]
		c02 := j[1][0]*j[2][1] - j[1][1]*j[2][0]
		det := j[0][0]*c00 + j[0][1]*c01 + j[0][2]*c02
		if !(det > 0) {
			return ErrInverted
		}
		w.Volume[q] = det * p.weight
		inv := [3][3]float64{
			{c00 / det, (j[0][2]*j[2][1] - j[0][1]*j[2][2]) / det, (j[0][1]*j[1][2] - j[0][2]*j[1][1]) / det},
			{c01 / det, (j[0][0]*j[2][2] - j[0][2]*j[2][0]) / det, (j[0][2]*j[1][0] - j[0][0]*j[1][2]) / det},
			{c02 / det, (j[0][1]*j[2][0] - j[0][0]*j[2][1]) / det, (j[0][0]*j[1][1] - j[0][1]*j[1][0]) / det},
		}
		for i := range 6 {
			d := &p.dn[i]
			for r := range 3 {
				w.Gradient[q][i][r] = inv[r][0]*d[0] + inv[r][1]*d[1] + inv[r][2]*d[2]
			}
		}
	}
	return nil
}

// WedgeShape returns the shape functions at quadrature point q.
func WedgeShape(q int) *[6]float64 { return &wedgeRule[q].n }

// Points is the number of quadrature points of a wedge.
const Points = len(wedgeRule)

// Load adds to f, for each node, the integral of its shape function over the
// cell, m³.
func (w *Wedge) Load(f *[6]float64) {
	for q := range Points {
		for i, n := range wedgeRule[q].n {
			f[i] += n * w.Volume[q]
		}
	}
}

// Diffusion adds to k the integrals of coefficient·∇Nᵢ·∇Nⱼ, row by row.
func (w *Wedge) Diffusion(k *[36]float64, coefficient float64) {
	for q := range Points {
		c := coefficient * w.Volume[q]
		g := &w.Gradient[q]
		for i := range 6 {
			x, y, z := c*g[i][0], c*g[i][1], c*g[i][2]
			for j := i; j < 6; j++ {
				k[6*i+j] += x*g[j][0] + y*g[j][1] + z*g[j][2]
			}
		}
	}
	for i := range 6 {
		for j := range i {
			k[6*i+j] = k[6*j+i]
		}
	}
}

// Tensor is a symmetric coefficient that is turned about z at most.
type Tensor struct{ XX, XY, YY, ZZ float64 }

// Turned returns the tensor with the values k along axes that are turned by the
// angle whose cosine and sine are given.
func Turned(k [3]float64, cos, sin float64) Tensor {
	return Tensor{k[0]*cos*cos + k[1]*sin*sin, (k[0] - k[1]) * cos * sin, k[0]*sin*sin + k[1]*cos*cos, k[2]}
}

// Times returns the product with a vector.
func (t *Tensor) Times(v [3]float64) [3]float64 {
	return [3]float64{t.XX*v[0] + t.XY*v[1], t.XY*v[0] + t.YY*v[1], t.ZZ * v[2]}
}
