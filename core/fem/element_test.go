package fem

import (
	"math"
	"testing"

	"github.com/stretchr/testify/assert"

	"saltkettle/core/mesh"
)

var allForms = []mesh.Form{mesh.Bar, mesh.Triangle, mesh.Quadrilateral, mesh.Tetrahedron, mesh.Wedge, mesh.Hexahedron}

func eachElement(t *testing.T, f func(t *testing.T, e *Element)) {
	for _, form := range allForms {
		for order := 1; order <= 2; order++ {
			e := NewElement(form, order)
			t.Run(e.String(), func(t *testing.T) { f(t, e) })
		}
	}
}

func TestShapeFunctions(t *testing.T) {
	counts := map[mesh.Form][2]int{mesh.Bar: {2, 3}, mesh.Triangle: {3, 6}, mesh.Quadrilateral: {4, 9}, mesh.Tetrahedron: {4, 10}, mesh.Wedge: {6, 18}, mesh.Hexahedron: {8, 27}}
	eachElement(t, func(t *testing.T, e *Element) {
		k := e.Count()
		assert.Equal(t, counts[e.Form][e.Order-1], k)
		n, dn := make([]float64, k), make([][3]float64, k)
		for i, p := range e.Nodes {
			e.Shape(p, n, dn)
			for j, v := range n {
				want := 0.0
				if i == j {
					want = 1
				}
				assert.InDelta(t, want, v, 1e-14, "one at its own node, zero at the others")
			}
		}
		p := [3]float64{0.21, 0.17, 0.33}
		for d := e.Dimension; d < 3; d++ {
			p[d] = 0
		}
		e.Shape(p, n, dn)
		var sum float64
		var slope [3]float64
		for i := range n {
			sum += n[i]
			for d := range slope {
				slope[d] += dn[i][d]
			}
		}
		assert.InDelta(t, 1, sum, 1e-14)
		const h = 1e-6
		up, down, unused := make([]float64, k), make([]float64, k), make([][3]float64, k)
		for d := range e.Dimension {
			assert.InDelta(t, 0, slope[d], 1e-13)
			a, b := p, p
			a[d] += h
			b[d] -= h
			e.Shape(a, up, unused)
			e.Shape(b, down, unused)
			for i := range n {
				assert.InDelta(t, (up[i]-down[i])/(2*h), dn[i][d], 1e-8)
			}
		}
		corners := NewElement(e.Form, 1)
		for i := range e.Corners {
			assert.Equal(t, corners.Nodes[i], e.Nodes[i], "corners come first")
		}
	})
}

// moment is the integral of xᵃ·yᵇ·zᶜ over a reference cell.
func moment(form mesh.Form, a, b, c int) float64 {
	f := func(n int) float64 { return math.Gamma(float64(n + 1)) }
	g := func(n int) float64 {
		if n%2 == 1 {
			return 0
		}
		return 2 / float64(n+1)
	}
	switch form {
	case mesh.Bar:
		return g(a)
	case mesh.Quadrilateral:
		return g(a) * g(b)
	case mesh.Hexahedron:
		return g(a) * g(b) * g(c)
	case mesh.Triangle:
		return f(a) * f(b) / f(a+b+2)
	case mesh.Tetrahedron:
		return f(a) * f(b) * f(c) / f(a+b+c+3)
	default:
		return f(a) * f(b) / f(a+b+2) * g(c)
	}
}

func TestQuadratureIsExact(t *testing.T) {
	for _, form := range allForms {
		dimension := NewElement(form, 1).Dimension
		for degree := 1; degree <= 7; degree++ {
			r := NewRule(form, degree)
			for a := 0; a <= degree; a++ {
				for b := 0; b <= degree-a && (b == 0 || dimension > 1); b++ {
					for c := 0; c <= degree-a-b && (c == 0 || dimension > 2); c++ {
						var sum float64
						for i, p := range r.Points {
							sum += r.Weights[i] * math.Pow(p[0], float64(a)) * math.Pow(p[1], float64(b)) * math.Pow(p[2], float64(c))
						}
						assert.InDelta(t, moment(form, a, b, c), sum, 2e-14, "%s, degree %d, x^%d y^%d z^%d", form, degree, a, b, c)
					}
				}
			}
		}
	}
}

// TestSimplicesFillTheCell: without gaps or overlaps, turned the right way.
func TestSimplicesFillTheCell(t *testing.T) {
	for _, form := range allForms[1:] {
		for order := 1; order <= 2; order++ {
			e := NewElement(form, order)
			var sum float64
			for _, s := range e.Simplices() {
				var size float64
				a, b, c := e.Nodes[s[0]], e.Nodes[s[1]], e.Nodes[s[2]]
				u, v := [3]float64{b[0] - a[0], b[1] - a[1], b[2] - a[2]}, [3]float64{c[0] - a[0], c[1] - a[1], c[2] - a[2]}
				n := [3]float64{u[1]*v[2] - u[2]*v[1], u[2]*v[0] - u[0]*v[2], u[0]*v[1] - u[1]*v[0]}
				if size = n[2] / 2; e.Dimension == 3 {
					d := e.Nodes[s[3]]
					size = (n[0]*(d[0]-a[0]) + n[1]*(d[1]-a[1]) + n[2]*(d[2]-a[2])) / 6
				}
				assert.Positive(t, size, "%s", e)
				sum += size
			}
			assert.InDelta(t, moment(form, 0, 0, 0), sum, 1e-12, "%s", e)
		}
	}
}
