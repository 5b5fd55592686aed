// Package eddy has models of how the eddies of a turbulent flow spread momentum, heat and what is dissolved: what they
// need at a point, in numbers, and what follows from them along a wall.
package eddy

import "math"

// Kappa is the constant of von Kármán.
const Kappa = 0.41

// Constants of the model of P. R. Spalart and S. R. Allmaras, AIAA 92-0439 (1992), in the form of S. R. Allmaras, F. T.
// Johnson and P. R. Spalart, ICCFD7-1902 (2012), without what lets a flow stay laminar; what is carried is nowhere negative.
const (
	cb1   = 0.1355
	cb2   = 0.622
	sigma = 2. / 3
	cw2   = 0.3
	cw3   = 2.
	cv1   = 7.1
	cv2   = 0.7
	cv3   = 0.9
	cw1   = cb1/(Kappa*Kappa) + (1+cb2)/sigma
	// mostR bounds the ratio from which the destruction follows.
	mostR = 10.
)

// Roughness of walls (B. Aupoix and P. R. Spalart, Int. J. Heat Fluid Flow 24 (2003) 454): the wall seems to lie farther
// behind by a part of the height of the sand, which also moves more than the viscosity that is carried says.
const (
	roughBehind = 0.03
	roughMoves  = 0.5
)

// Behind is by how much a wall of a roughness of sand, m, seems to lie behind where it is, m.
func Behind(rough float64) float64 { return roughBehind * rough }

// Viscosity is the kinematic viscosity of eddies, m²/s, by that which is carried, v, and that of the fluid, nu, with
// its derivative by v; rough is the height of the sand at the wall over the distance from there.
func Viscosity(v, nu, rough float64) (value, slope float64) {
	if v <= 0 {
		return 0, 0
	}
	chi := v/nu + roughMoves*rough
	cube := chi * chi * chi
	f := cube / (cube + cv1*cv1*cv1)
	by := 3 * f * (1 - f) / chi // of f by χ
	return v * f, f + v/nu*by
}

// Viscous is the law of the wall of the model: what it carries is κ times the speed of friction times the distance.
var Viscous = newLaw(func(y, rough float64) float64 {
	d := y + Behind(rough)
	if d == 0 {
		return 0
	}
	value, _ := Viscosity(Kappa*d, 1, rough/d)
	return value
})

// Spread is the kinematic viscosity with which the carried one spreads, m²/s, with its derivative by it.
func Spread(v, nu float64) (value, slope float64) {
	return (nu + v) / sigma, 1 / sigma
}

// Sharpens is by how much the square of the slope of the carried viscosity makes it grow.
const Sharpens = cb2 / sigma

// Growth is how fast the carried viscosity v, m²/s, grows at a point, m²/s², with its derivatives by v and by the vorticity,
// 1/s; shear is its size with what says that it turns, 1/s, and d the distance from the wall, m.
func Growth(v, nu, shear, d, rough float64) (value, byV, byShear float64) {
	s, sByV, sByShear := stretched(v, nu, shear, d, rough)
	return grows(v, d, s, sByV, sByShear)
}

// AtWall is [Growth] in a layer along a wall where the shear follows from the speed of friction, m/s, there, with its
// derivatives by v and by that speed.
func AtWall(v, friction, d float64) (value, byV, byFriction float64) {
	return grows(v, d, friction/(Kappa*d), 0, 1/(Kappa*d))
}

// stretched is the shear as the model takes it, with its derivatives by v and the shear.
func stretched(v, nu, shear, d, rough float64) (s, byV, byShear float64) {
	chi, moved := v/nu, v/nu+roughMoves*rough
	cube := moved * moved * moved
	f1 := cube / (cube + cv1*cv1*cv1)
	f1ByChi := 0.0
	if moved > 0 {
		f1ByChi = 3 * f1 * (1 - f1) / moved
	}
	f2 := 1 - chi/(1+chi*f1)
	f2ByChi := -(1 - chi*chi*f1ByChi) / ((1 + chi*f1) * (1 + chi*f1))
	over := 1 / (Kappa * Kappa * d * d)
	add := v * f2 * over
	addByV := (f2 + chi*f2ByChi) * over
	if add >= -cv2*shear {
		return shear + add, addByV, 1
	}
	top, bottom := cv2*cv2*shear+cv3*add, (cv3-2*cv2)*shear-add
	s = shear + shear*top/bottom
	byAdd := shear * (cv3*bottom + top) / (bottom * bottom)
	byShear = 1 + top/bottom + shear*(cv2*cv2*bottom-top*(cv3-2*cv2))/(bottom*bottom)
	return s, byAdd * addByV, byShear
}

// grows is what arises less what vanishes by a shear.
func grows(v, d, s, sByV, sByShear float64) (value, byV, byShear float64) {
	over := 1 / (Kappa * Kappa * d * d)
	r, rByV, rByS := mostR, 0., 0.
	if bottom := s; v*over < mostR*bottom {
		r = v * over / bottom
		rByV, rByS = over/bottom, -r/bottom
	}
	r5 := r * r * r * r * r
	g := r + cw2*(r5*r-r)
	gByR := 1 + cw2*(6*r5-1)
	const six = cw3 * cw3 * cw3 * cw3 * cw3 * cw3
	g6 := g * g * g * g * g * g
	f := g * math.Pow((1+six)/(g6+six), 1./6)
	fByR := 0.0
	if g != 0 {
		fByR = f / g * six / (g6 + six) * gByR
	} else {
		fByR = math.Pow((1+six)/six, 1./6) * gByR
	}
	square := v * v / (d * d)
	value = cb1*s*v - cw1*f*square
	byS := cb1*v - cw1*fByR*rByS*square
	byV = cb1*s - cw1*(fByR*rByV*square+2*f*v/(d*d)) + byS*sByV
	return value, byV, byS * sByShear
}

// Ratio is the carried viscosity over that of a fluid, by that of eddies over it.
func Ratio(eddies float64) float64 {
	if eddies <= 0 {
		return 0
	}
	chi := max(eddies, math.Pow(eddies*cv1*cv1*cv1, 0.25)) // of what is large, and of what is small
	for range 100 {
		value, slope := Viscosity(chi, 1, 0)
		next := max(chi/2, chi-(value-eddies)/slope)
		if math.Abs(next-chi) < 1e-12*chi {
			return next
		}
		chi = next
	}
	return chi
}
