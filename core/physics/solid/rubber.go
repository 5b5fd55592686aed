package solid

import "math"

// rubber has the constants of a material that stretches far: the stored energy per volume is
//
//	c10·(J^(−2/3)·I₁ − 3) + c01·(J^(−4/3)·I₂ − 3) + U(J),
//
// with the invariants I of C = FᵀF and J = det F (M. Mooney, J. Appl. Phys. 11 (1940) 582; R. S. Rivlin, Phil. Trans.
// A 241 (1948) 379); c01 = 0 is the law called neo-Hookean. What keeps the volume is either U′ = K·(J − J₀) or, where
// that is found with a pressure of its own, U′ = π (T. Sussman, K.-J. Bathe, Comput. Struct. 26 (1987) 357). J₀ is the
// volume that heat alone makes of one.
type rubber struct {
	c10, c01 float64 // Pa
	bulk     float64 // K, Pa; it may be infinite if π is given
	mixed    bool
	pi       float64 // π, Pa
	volume   float64 // J₀
}

// far returns the second stress of Piola and Kirchhoff at C, the derivatives of J and of that stress by Green's strain
// (C − 1)/2, J, and what is stored, J/m³.
func (m *rubber) far(c *[6]float64) (s, byStrain [6]float64, d stiffness, j, energy float64) {
	full := [3][3]float64{{c[0], c[3], c[5]}, {c[3], c[1], c[4]}, {c[5], c[4], c[2]}}
	co := cofactor(&full)
	det := full[0][0]*co[0][0] + full[0][1]*co[0][1] + full[0][2]*co[0][2]
	j = math.Sqrt(det)
	var ci [6]float64 // C⁻¹
	var square float64
	for i, p := range pairs {
		ci[i] = co[p[0]][p[1]] / det
		square += twice[i] * c[i] * c[i]
	}
	one := [6]float64{1, 1, 1}
	i1 := c[0] + c[1] + c[2]
	i2 := (i1*i1 - square) / 2
	f1 := math.Pow(j, -2./3)
	f2 := f1 * f1
	first, second := m.pi, 0. // U′ and U″
	if !m.mixed {
		first, second = m.bulk*(j-m.volume), m.bulk
	}
	energy = m.c10*(f1*i1-3) + m.c01*(f2*i2-3)
	switch {
	case !m.mixed:
		energy += m.bulk * (j - m.volume) * (j - m.volume) / 2
	case !math.IsInf(m.bulk, 0):
		energy += m.pi * m.pi / (2 * m.bulk)
	}
	var g [6]float64 // ∂I₂/∂C
	for i := range g {
		g[i] = i1*one[i] - c[i]
		byStrain[i] = j * ci[i]
		s[i] = 2*m.c10*f1*(one[i]-i1/3*ci[i]) + 2*m.c01*f2*(g[i]-2./3*i2*ci[i]) + first*j*ci[i]
	}
	a, b, v := 4*m.c10*f1, 4*m.c01*f2, first*j
	cc := a*i1/9 + b*4./9*i2 + (second*j+first)*j
	by := a*i1/3 + b*2./3*i2 - 2*v // of C⁻¹⊙C⁻¹
	for i, p := range pairs {
		for k := i; k < 6; k++ {
			q := pairs[k]
			both := (ci[place[p[0]][q[0]]]*ci[place[p[1]][q[1]]] + ci[place[p[0]][q[1]]]*ci[place[p[1]][q[0]]]) / 2
			x := -a/3*(one[i]*ci[k]+ci[i]*one[k]) + cc*ci[i]*ci[k] + by*both
			x += b * (one[i]*one[k] - 2./3*(ci[i]*g[k]+g[i]*ci[k]))
			if i == k {
				x -= b / twice[i]
			}
			d[i][k], d[k][i] = x, x
		}
	}
	return s, byStrain, d, j, energy
}

// near is the stiffness for small strains, without what keeps the volume if that is found with a pressure.
func (m *rubber) near() stiffness {
	mu := 2 * (m.c10 + m.c01)
	if m.mixed {
		return isotropic(-2./3*mu, mu)
	}
	return isotropic(m.bulk-2./3*mu, mu)
}
