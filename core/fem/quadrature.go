package fem

import (
	"math"

	"saltkettle/core/mesh"
)

// Rule is a quadrature rule on a reference cell.
type Rule struct {
	Points  [][3]float64
	Weights []float64
}

// NewRule returns a rule that is exact for polynomials of a degree up to 7 on a
// form of cell.
func NewRule(form mesh.Form, degree int) *Rule {
	switch form {
	case mesh.Bar:
		return lineRule(degree).cubed(1)
	case mesh.Quadrilateral:
		return lineRule(degree).cubed(2)
	case mesh.Hexahedron:
		return lineRule(degree).cubed(3)
	case mesh.Triangle:
		return triangleRule(degree)
	case mesh.Tetrahedron:
		return tetrahedronRule(degree)
	case mesh.Wedge:
		return triangleRule(degree).times(lineRule(degree), 2)
	}
	panic("fem: unknown form of cell")
}

// lineRule is the Gauss rule of [−1, 1] for a degree.
func lineRule(degree int) *Rule {
	n := degree/2 + 1
	r := &Rule{}
	for i := range n {
		// Newton's method for the roots of the Legendre polynomial.
		x := math.Cos(math.Pi * (float64(i) + 0.75) / (float64(n) + 0.5))
		var slope float64
		for range 20 {
			a, b := 1.0, x
			for k := 2; k <= n; k++ {
				a, b = b, (float64(2*k-1)*x*b-float64(k-1)*a)/float64(k)
			}
			slope = float64(n) * (x*b - a) / (x*x - 1)
			x -= b / slope
		}
		r.Points = append(r.Points, [3]float64{x})
		r.Weights = append(r.Weights, 2/((1-x*x)*slope*slope))
	}
	return r
}

// cubed is the product of a rule of the line with itself.
func (r *Rule) cubed(dimension int) *Rule {
	out := r
	for axis := 1; axis < dimension; axis++ {
		out = out.times(r, axis)
	}
	return out
}

// times is the product with a rule of the line along an axis.
func (r *Rule) times(line *Rule, axis int) *Rule {
	out := &Rule{}
	for j, q := range line.Points {
		for i, p := range r.Points {
			p[axis] = q[0]
			out.Points = append(out.Points, p)
			out.Weights = append(out.Weights, r.Weights[i]*line.Weights[j])
		}
	}
	return out
}

// triangleRule is a symmetric rule of the reference triangle (D. Dunavant, Int. J.
// Numer. Methods Eng. 21 (1985) 1129), beyond degree 4 a product rule.
func triangleRule(degree int) *Rule {
	r := &Rule{}
	ring := func(a, weight float64) {
		b := 1 - 2*a
		for _, p := range [][3]float64{{a, a}, {b, a}, {a, b}} {
			r.Points = append(r.Points, p)
			r.Weights = append(r.Weights, weight/2)
		}
	}
	switch {
	case degree <= 1:
		return &Rule{Points: [][3]float64{{1. / 3, 1. / 3}}, Weights: []float64{0.5}}
	case degree <= 2:
		ring(1./6, 1./3)
	case degree <= 4:
		ring(0.445948490915965, 0.223381589678011)
		ring(0.091576213509771, 0.109951743655322)
	default:
		return collapsed(degree, 2)
	}
	return r
}

// tetrahedronRule is a rule of the reference tetrahedron (P. Keast, Comput. Methods
// Appl. Mech. Eng. 55 (1986) 339), beyond degree 2 a product rule.
func tetrahedronRule(degree int) *Rule {
	switch {
	case degree <= 1:
		return &Rule{Points: [][3]float64{{0.25, 0.25, 0.25}}, Weights: []float64{1. / 6}}
	case degree <= 2:
		a, b := (5-math.Sqrt(5))/20, (5+3*math.Sqrt(5))/20
		return &Rule{Points: [][3]float64{{a, a, a}, {b, a, a}, {a, b, a}, {a, a, b}}, Weights: []float64{1. / 24, 1. / 24, 1. / 24, 1. / 24}}
	}
	return collapsed(degree, 3)
}

// collapsed makes a rule of a simplex from one of the cube, whose sides fall
// together (A. Stroud, Approximate Calculation of Multiple Integrals, 1971).
func collapsed(degree, dimension int) *Rule {
	cube := lineRule(degree + dimension - 1).cubed(dimension)
	r := &Rule{}
	for i, p := range cube.Points {
		w := cube.Weights[i]
		var u [3]float64
		for d := range dimension {
			u[d] = (1 + p[d]) / 2
			w /= 2
		}
		q := [3]float64{u[0], u[1] * (1 - u[0])}
		w *= 1 - u[0]
		if dimension == 3 {
			q[2] = u[2] * (1 - u[0]) * (1 - u[1])
			w *= (1 - u[0]) * (1 - u[1])
		}
		r.Points = append(r.Points, q)
		r.Weights = append(r.Weights, w)
	}
	return r
}
