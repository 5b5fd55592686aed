package fem

import (
	"math"

	"saltkettle/core/mesh"
)

// FacetWeights are the integrals over a facet of order 1: of each shape function
// and of each product of two, m².
type FacetWeights struct {
	Count int // 3 or 4 nodes
	Area  float64
	N     [4]float64
	NN    [4][4]float64
}

var (
	// triangleFacet is exact for degree 2: the middles of the edges.
	triangleFacet = [][2]float64{{0.5, 0}, {0.5, 0.5}, {0, 0.5}}
	gauss2        = [2]float64{-1 / math.Sqrt(3), 1 / math.Sqrt(3)}
)

// Set computes the weights of a facet.
func (w *FacetWeights) Set(m *mesh.Mesh, f *mesh.Facet) {
	corners := f.Corners()
	*w = FacetWeights{Count: len(corners)}
	x := func(i int) []float64 { return m.Nodes[3*corners[i] : 3*corners[i]+3] }
	if w.Count == 3 {
		a, b, c := x(0), x(1), x(2)
		area := cross(b[0]-a[0], b[1]-a[1], b[2]-a[2], c[0]-a[0], c[1]-a[1], c[2]-a[2]) / 2
		for _, p := range triangleFacet {
			w.add([4]float64{1 - p[0] - p[1], p[0], p[1]}, area/3)
		}
		return
	}
	for _, s := range gauss2 {
		for _, t := range gauss2 {
			n := [4]float64{(1 - s) * (1 - t) / 4, (1 + s) * (1 - t) / 4, (1 + s) * (1 + t) / 4, (1 - s) * (1 + t) / 4}
			ds := [4]float64{-(1 - t) / 4, (1 - t) / 4, (1 + t) / 4, -(1 + t) / 4}
			dt := [4]float64{-(1 - s) / 4, -(1 + s) / 4, (1 + s) / 4, (1 - s) / 4}
			var u, v [3]float64
			for i := range 4 {
				for r, c := range x(i) {
					u[r] += ds[i] * c
					v[r] += dt[i] * c
				}
			}
			w.add(n, cross(u[0], u[1], u[2], v[0], v[1], v[2]))
		}
	}
}

func (w *FacetWeights) add(n [4]float64, area float64) {
	w.Area += area
	for i := range w.Count {
		w.N[i] += n[i] * area
		for j := range w.Count {
			w.NN[i][j] += n[i] * n[j] * area
		}
	}
}

// cross is the length of the vector product.
func cross(a, b, c, d, e, f float64) float64 {
	x, y, z := b*f-c*e, c*d-a*f, a*e-b*d
	return math.Sqrt(x*x + y*y + z*z)
}
