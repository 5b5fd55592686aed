package solid

import (
	"math"

	"saltkettle/core/law"
)

// stiffness has ∂σ/∂e by the components of symmetric tensors in the order xx, yy, zz, xy, yz, zx, with shear strains
// without the factor two: σ[I] = Σ d[I][J]·twice[J]·e[J], Pa.
type stiffness [6][6]float64

// twice is how often a component of a symmetric tensor is in it.
var twice = [6]float64{1, 1, 1, 2, 2, 2}

// place of component i, j among six, and pairs are those of each place.
var (
	place = [3][3]int{{0, 3, 5}, {3, 1, 4}, {5, 4, 2}}
	pairs = [6][2]int{{0, 0}, {1, 1}, {2, 2}, {0, 1}, {1, 2}, {2, 0}}
)

// times is the product with a strain.
func (d *stiffness) times(e *[6]float64) (s [6]float64) {
	for i := range s {
		row := &d[i]
		s[i] = row[0]*e[0] + row[1]*e[1] + row[2]*e[2] + 2*(row[3]*e[3]+row[4]*e[4]+row[5]*e[5])
	}
	return s
}

// isotropic is the stiffness by Lamé's constants, Pa.
func isotropic(lambda, mu float64) (d stiffness) {
	for i := range 3 {
		for j := range 3 {
			d[i][j] = lambda
		}
		d[i][i] += 2 * mu
		d[i+3][i+3] = mu
	}
	return d
}

// lame are Lamé's constants by Young's modulus and Poisson's ratio, with their derivatives by the temperature.
func lame(e, nu, eSlope, nuSlope float64) (lambda, mu, lambdaSlope, muSlope float64) {
	mu = e / (2 * (1 + nu))
	muSlope = eSlope/(2*(1+nu)) - mu*nuSlope/(1+nu)
	d := (1 + nu) * (1 - 2*nu)
	lambda = e * nu / d
	lambdaSlope = eSlope*nu/d + e*nuSlope*(1+2*nu*nu)/(d*d)
	return lambda, mu, lambdaSlope, muSlope
}

// byAxes is the stiffness of a material with three planes of symmetry: from its moduli E along its axes and, of the pairs
// xy, yz and xz, the ratios ν (how much it shrinks along the second axis when it is pulled along the first) and the shear
// moduli G. ok is false where the stiffness is not positive. With the derivatives of all of these by something, slope is
// that of the stiffness.
func byAxes(e, nu, g, eSlope, nuSlope, gSlope [3]float64) (d, slope stiffness, ok bool) {
	first := [3]int{0, 1, 0}
	second := [3]int{1, 2, 2}
	var c, by [3][3]float64 // compliance
	for i := range 3 {
		c[i][i], by[i][i] = 1/e[i], -eSlope[i]/(e[i]*e[i])
		a, b := first[i], second[i]
		c[a][b] = -nu[i] / e[a]
		by[a][b] = -nuSlope[i]/e[a] + nu[i]*eSlope[a]/(e[a]*e[a])
		c[b][a], by[b][a] = c[a][b], by[a][b]
	}
	minor := c[0][0]*c[1][1] - c[0][1]*c[0][1]
	k := inverse(&c)
	det := c[0][0]*(c[1][1]*c[2][2]-c[1][2]*c[2][1]) - c[0][1]*(c[1][0]*c[2][2]-c[1][2]*c[2][0]) + c[0][2]*(c[1][0]*c[2][1]-c[1][1]*c[2][0])
	if !(c[0][0] > 0 && minor > 0 && det > 0 && g[0] > 0 && g[1] > 0 && g[2] > 0) {
		return d, slope, false
	}
	for i := range 3 {
		for j := range 3 {
			d[i][j] = k[i][j]
			for m := range 3 {
				for n := range 3 {
					slope[i][j] -= k[i][m] * by[m][n] * k[n][j]
				}
			}
		}
		d[3+i][3+i], slope[3+i][3+i] = g[i], gSlope[i] // xy, yz, zx
	}
	return d, slope, true
}

// inverse of a matrix, which has one.
func inverse(a *[3][3]float64) (out [3][3]float64) {
	c := cofactor(a)
	det := a[0][0]*c[0][0] + a[0][1]*c[0][1] + a[0][2]*c[0][2]
	for i := range 3 {
		for j := range 3 {
			out[i][j] = c[j][i] / det
		}
	}
	return out
}

// cofactor has the minors of a matrix with their signs: det(a)·a⁻ᵀ.
func cofactor(a *[3][3]float64) (c [3][3]float64) {
	for i := range 3 {
		i1, i2 := (i+1)%3, (i+2)%3
		for j := range 3 {
			j1, j2 := (j+1)%3, (j+2)%3
			c[i][j] = a[i1][j1]*a[i2][j2] - a[i1][j2]*a[i2][j1]
		}
	}
	return c
}

// turning takes the components of symmetric tensors from axes turned about z to those of the space.
type turning [6][6]float64

func newTurning(cos, sin float64) (t turning) {
	r := [3][3]float64{{cos, -sin, 0}, {sin, cos, 0}, {0, 0, 1}}
	for i, p := range pairs {
		for j, q := range pairs {
			t[i][j] = r[p[0]][q[0]] * r[p[1]][q[1]]
			if q[0] != q[1] {
				t[i][j] += r[p[0]][q[1]] * r[p[1]][q[0]]
			}
		}
	}
	return t
}

// stiffness turns one.
func (t *turning) stiffness(d *stiffness) (out stiffness) {
	var half stiffness
	for i := range 6 {
		for j := range 6 {
			for k := range 6 {
				half[i][j] += t[i][k] * d[k][j]
			}
		}
	}
	for i := range 6 {
		for j := range 6 {
			for k := range 6 {
				out[i][j] += half[i][k] * t[j][k]
			}
		}
	}
	return out
}

// tensor turns one.
func (t *turning) tensor(s *[6]float64) (out [6]float64) {
	for i := range 6 {
		for j := range 6 {
			out[i] += t[i][j] * s[j]
		}
	}
	return out
}

// elastic is the stiffness of the body at hand at a point that was prepared, with its derivative by the temperature.
func (k *Kernel) elastic(q int) (d, slope stiffness, err error) {
	b, part := k.here, 1.0
	if b.share != nil {
		part = k.now.At(share, q)
	}
	if b.Modulus[1] == nil && b.Modulus[2] == nil {
		lambda, mu, lambdaSlope, muSlope := lame(part*k.now.At(modulus, q), k.now.At(ratio, q), part*k.now.Slope(modulus, q), k.now.Slope(ratio, q))
		d = isotropic(lambda, mu)
		if k.heats {
			slope = isotropic(lambdaSlope, muSlope)
		}
		return d, slope, nil
	}
	at := func(first int) (v, by [3]float64) {
		for i := range 3 {
			v[i], by[i] = k.now.At(first+i, q), k.now.Slope(first+i, q)
		}
		return v, by
	}
	e, eSlope := at(modulus)
	nu, nuSlope := at(ratio)
	g, gSlope := at(shear)
	k.ratios(&e, &nu, &eSlope, &nuSlope)
	for i := range 3 {
		e[i], g[i], eSlope[i], gSlope[i] = part*e[i], part*g[i], part*eSlope[i], part*gSlope[i]
	}
	d, slope, ok := byAxes(e, nu, g, eSlope, nuSlope, gSlope)
	if !ok {
		return d, slope, &law.Error{Body: k.body, What: "stiffness by axes, with these ratios of Poisson,", Value: -1}
	}
	if b.Turn != 0 {
		d = k.turn.stiffness(&d)
		slope = k.turn.stiffness(&slope)
	}
	return d, slope, nil
}

// ratios fills in those of Poisson that are not given: such that the material is as far from what could not be as one that
// is the same along all directions with the ratio that is given (M. T. Huber, 1923, of plates).
func (k *Kernel) ratios(e, nu, eSlope, nuSlope *[3]float64) {
	n := nu[0] * math.Sqrt(e[1]/e[0])
	by := 0.0 // of its logarithm
	if nu[0] != 0 {
		by = nuSlope[0]/nu[0] + (eSlope[1]/e[1]-eSlope[0]/e[0])/2
	}
	for i := 1; i < 3; i++ {
		if k.here.Ratio[i] == nil {
			a, b := i%2, 2 // yz and xz
			nu[i] = n * math.Sqrt(e[a]/e[b])
			nuSlope[i] = nu[i] * (by + (eSlope[a]/e[a]-eSlope[b]/e[b])/2)
		}
	}
}
