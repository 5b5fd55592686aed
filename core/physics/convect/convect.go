// Package convect has correlations for the heat-transfer coefficient between a surface
// and a fluid. Each states its source and the range in which it holds.
//
// Symbols: L length (m), u speed (m/s), Ts and T∞ temperatures of the surface and of the
// fluid (K), k conductivity (W/(m·K)), ν kinematic viscosity (m²/s), α thermal
// diffusivity (m²/s), β volumetric expansion (1/K), Pr = ν/α, Re = uL/ν,
// Ra = gβ|Ts − T∞|L³/(να), Nu = hL/k.
package convect

import (
	"fmt"
	"math"
)

// Gravity, m/s².
const Gravity = 9.80665

// Fluid has the properties of a fluid, as functions of the temperature, K.
type Fluid struct {
	Conductivity func(t float64) float64 // W/(m·K)
	Density      func(t float64) float64 // kg/m³
	Capacity     func(t float64) float64 // J/(kg·K)
	Viscosity    func(t float64) float64 // Pa·s
	// Expansion is by volume, 1/K; correlations of forced convection do without it.
	Expansion func(t float64) float64
}

// properties at a temperature, t.
type properties struct{ t, k, nu, alpha, beta, pr float64 }

func (f *Fluid) at(t float64) (p properties) {
	rho := f.Density(t)
	p.t = t
	p.k = f.Conductivity(t)
	p.nu = f.Viscosity(t) / rho
	p.alpha = p.k / (rho * f.Capacity(t))
	if f.Expansion != nil {
		p.beta = f.Expansion(t)
	}
	p.pr = p.nu / p.alpha
	return p
}

// Case is what a correlation is applied to.
type Case struct {
	Fluid         *Fluid
	Surface, Bulk float64 // temperatures of the surface and of the fluid, K
	Length        float64 // the one that the correlation asks for, m
	Second        float64 // a second length, if it asks for one, m
	Speed         float64 // m/s
	// Up is the upward part of the outward normal, from −1 to 1.
	Up float64
}

// Value is a coefficient and how it came about.
type Value struct {
	Coefficient float64 // W/(m²·K)
	// Group is the dimensionless number that decides about the range: Ra or Re.
	Group string
	Size  float64
	// Film is the temperature for which the properties of the fluid were taken, K.
	Film float64
	// Outside says in words by what the range was left, "" if it was not.
	Outside string
}

// Correlation computes the coefficient of a case.
type Correlation func(c *Case) Value

func (c *Case) film() properties { return c.Fluid.at((c.Surface + c.Bulk) / 2) }

// rayleigh is the number of Rayleigh of a length.
func (c *Case) rayleigh(p *properties, length float64) float64 {
	return Gravity * math.Abs(p.beta) * math.Abs(c.Surface-c.Bulk) * length * length * length / (p.nu * p.alpha)
}

// value makes the result and checks the range.
func value(nu float64, p *properties, length float64, group string, size, least, most float64) Value {
	v := Value{Coefficient: nu * p.k / length, Group: group, Size: size, Film: p.t}
	switch {
	case size > most:
		v.Outside = fmt.Sprintf("%s = %.2g is above %.2g", group, size, most)
	case size < least:
		v.Outside = fmt.Sprintf("%s = %.2g is below %.2g", group, size, least)
	}
	return v
}

// VerticalPlate is natural convection on a vertical plate of a height (S. W. Churchill,
// H. H. S. Chu, Int. J. Heat Mass Transfer 18 (1975) 1323), for Ra up to 1e12.
func VerticalPlate(c *Case) Value {
	p := c.film()
	ra := c.rayleigh(&p, c.Length)
	nu := 0.825 + 0.387*math.Pow(ra, 1./6)/math.Pow(1+math.Pow(0.492/p.pr, 9./16), 8./27)
	return value(nu*nu, &p, c.Length, "Ra", ra, 0, 1e12)
}

// LevelPlate is natural convection on a level plate, whose length is its area over its
// perimeter (J. R. Lloyd, W. R. Moran, J. Heat Transfer 96 (1974) 443, for heat that
// rises freely: 0.54·Ra^¼ from 1e4, 0.15·Ra^⅓ from 1e7 to 1e11; T. Fujii, H. Imura, Int. J. Heat Mass
// Transfer 15 (1972) 755, for heat that is held under the plate: 0.27·Ra^¼, 1e5 to 1e10).
func LevelPlate(c *Case) Value {
	p := c.film()
	ra := c.rayleigh(&p, c.Length)
	rises := (c.Surface-c.Bulk)*c.Up*p.beta >= 0
	if !rises {
		return value(math.Max(0.27*math.Pow(ra, 0.25), 0.5), &p, c.Length, "Ra", ra, 1e5, 1e10)
	}
	// The two meet near 1e7; below the range the mean of a plate tends to conduction.
	nu := math.Max(math.Max(0.54*math.Pow(ra, 0.25), 0.15*math.Cbrt(ra)), 1)
	return value(nu, &p, c.Length, "Ra", ra, 1e4, 1e11)
}

// LyingCylinder is natural convection round a level cylinder of a diameter (S. W.
// Churchill, H. H. S. Chu, Int. J. Heat Mass Transfer 18 (1975) 1049), for Ra up to 1e12.
func LyingCylinder(c *Case) Value {
	p := c.film()
	ra := c.rayleigh(&p, c.Length)
	nu := 0.60 + 0.387*math.Pow(ra, 1./6)/math.Pow(1+math.Pow(0.559/p.pr, 9./16), 8./27)
	return value(nu*nu, &p, c.Length, "Ra", ra, 0, 1e12)
}

// transition is the Re at which the flow along a plate becomes turbulent.
const transition = 5e5

// AlongPlate is the mean of a flow along a flat plate of a length (F. Incropera and
// others, Fundamentals of Heat and Mass Transfer, 6th ed., 2007, eqs. 7.30 and 7.38):
// laminar up to Re = 5e5, mixed up to 1e8.
func AlongPlate(c *Case) Value {
	p := c.film()
	re := math.Abs(c.Speed) * c.Length / p.nu
	nu := 0.664 * math.Sqrt(re) * math.Cbrt(p.pr)
	if re > transition {
		nu = (0.037*math.Pow(re, 0.8) - 871) * math.Cbrt(p.pr)
	}
	return value(nu, &p, c.Length, "Re", re, 0, 1e8)
}

// AlongPlateLocal is a flow along a flat plate at a distance from its leading edge (the
// same, eqs. 7.23 and 7.36).
func AlongPlateLocal(c *Case) Value {
	p := c.film()
	// At the very edge the coefficient is endless: the first tenth of a millimetre has
	// that of its end.
	x := math.Max(c.Length, 1e-4)
	re := math.Abs(c.Speed) * x / p.nu
	nu := 0.332 * math.Sqrt(re) * math.Cbrt(p.pr)
	if re > transition {
		nu = 0.0296 * math.Pow(re, 0.8) * math.Cbrt(p.pr)
	}
	return value(nu, &p, x, "Re", re, 0, 1e8)
}

// AcrossCylinder is the mean of a flow across a cylinder of a diameter (S. W. Churchill,
// M. Bernstein, J. Heat Transfer 99 (1977) 300), for Re·Pr above 0.2, up to Re = 1e7.
func AcrossCylinder(c *Case) Value {
	p := c.film()
	re := math.Abs(c.Speed) * c.Length / p.nu
	nu := 0.3 + 0.62*math.Sqrt(re)*math.Cbrt(p.pr)/math.Pow(1+math.Pow(0.4/p.pr, 2./3), 0.25)*math.Pow(1+math.Pow(re/282000, 5./8), 4./5)
	return value(nu, &p, c.Length, "Re", re, 0.2/p.pr, 1e7)
}

// InDuct is the mean of a flow through a duct of a hydraulic diameter and a length, with
// the properties at the mean temperature of the fluid: laminar with a growing layer up
// to Re = 2300 (H. Hausen, Z. VDI Beih. Verfahrenstech. 4 (1943) 91), turbulent from 4000
// (V. Gnielinski, Int. Chem. Eng. 16 (1976) 359, with 1 + (D/L)^⅔ for the entrance),
// between them on the straight line (V. Gnielinski, Int. J. Heat Mass Transfer 63 (2013)
// 134), up to 5e6.
func InDuct(c *Case) Value {
	p := c.Fluid.at(c.Bulk)
	d, l := c.Length, c.Second
	re := math.Abs(c.Speed) * d / p.nu
	laminar := func(re float64) float64 {
		gz := d / l * re * p.pr
		return 3.66 + 0.0668*gz/(1+0.04*math.Pow(gz, 2./3))
	}
	turbulent := func(re float64) float64 {
		f := math.Pow(0.79*math.Log(re)-1.64, -2) / 8
		return f * (re - 1000) * p.pr / (1 + 12.7*math.Sqrt(f)*(math.Pow(p.pr, 2./3)-1)) * (1 + math.Pow(d/l, 2./3))
	}
	var nu float64
	switch {
	case re <= 2300:
		nu = laminar(re)
	case re >= 4000:
		nu = turbulent(re)
	default:
		part := (re - 2300) / (4000 - 2300)
		nu = (1-part)*laminar(2300) + part*turbulent(4000)
	}
	return value(nu, &p, d, "Re", re, 0, 5e6)
}
