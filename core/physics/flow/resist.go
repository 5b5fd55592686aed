package flow

import (
	"math"

	"saltkettle/core/fem"
)

// Thinning is how a fluid becomes thinner, or thicker, as it is sheared: µ = µ∞ + (µ₀ − µ∞)(1 + (λγ̇)²)^((n−1)/2)
// (P. J. Carreau, Trans. Soc. Rheol. 16 (1972) 99). µ₀ is the viscosity of the body.
type Thinning struct {
	Fast     Law // µ∞, Pa·s
	Time     Law // λ, s
	Exponent Law // n
}

// Matrix is what a fluid flows through in a body: it holds it up by (µ/K + ρ·C·|u|)·u, N/m³ (P. Forchheimer, Z. VDI
// 45 (1901) 1782), with u the volume that flows through an area of the body.
type Matrix struct {
	Permeability Law // K, m²
	Inertia      Law // C, 1/m, nil for none
}

// rubs is how a fluid resists being sheared at a point.
type rubs struct {
	mu float64 // Pa·s
	// byHeat is its derivative by the temperature, and byShear that by the shear rate over the shear rate: with the
	// symmetric slope of the velocity it is that by the slope.
	byHeat, byShear float64
	// Of a turbulent flow: the derivatives by what is carried, and where the point lies among walls.
	byEddies [mostCarried]float64
	layer    layer
}

// shearSquare is the square of the shear rate at a point.
func (k *Kernel) shearSquare(p *fem.Point) (square float64) {
	for i := range k.n {
		for j := range k.n {
			d := (p.Grad[k.u+i][j] + p.Grad[k.u+j][i]) / 2
			square += 2 * d * d
		}
	}
	if k.problem.Round && p.X[0] > 0 {
		square += 2 * p.U[k.u] * p.U[k.u] / (p.X[0] * p.X[0])
	}
	return square
}

// rubs finds it.
func (k *Kernel) rubs(p *fem.Point, q int) (r rubs) {
	ease := k.problem.ease()
	r.mu = k.now.At(viscosity, q) * ease
	if k.t >= 0 {
		r.byHeat = k.now.Slope(viscosity, q) * ease
	}
	if k.e >= 0 {
		k.swirl(p, &r)
		return r
	}
	if k.here.Thins == nil {
		return r
	}
	fast, time, n := k.now.At(thinFast, q)*ease, k.now.At(thinTime, q), k.now.At(thinExponent, q)
	square := k.shearSquare(p)
	base := 1 + time*time*square
	thinner := math.Pow(base, (n-1)/2)
	r.byShear = (r.mu - fast) * (n - 1) * time * time * thinner / base
	r.mu, r.byHeat = fast+(r.mu-fast)*thinner, r.byHeat*thinner
	return r
}

// sheared adds the derivative of the friction by the viscosity that the shear rate makes.
func (k *Kernel) sheared(p *fem.Point, t *fem.Terms, byShear float64) {
	u := k.u
	strain := func(i, j int) float64 { return p.Grad[u+i][j] + p.Grad[u+j][i] }
	around := 0.0 // of the shear rate by the velocity off the axis
	if k.problem.Round && p.X[0] > 0 {
		around = 2 * p.U[u] / (p.X[0] * p.X[0])
	}
	for i := range k.n {
		for j := range k.n {
			s := byShear * strain(i, j)
			for l := range k.n {
				for m := range k.n {
					t.FluxGrad[t.Index(u+i, u+l)][j][m] += s * strain(l, m)
				}
			}
			t.FluxU[t.Index(u+i, u)][j] += s * around
		}
	}
	if around == 0 {
		return
	}
	// What goes round the axis, 2µu/r², too.
	s := byShear * around
	for l := range k.n {
		for m := range k.n {
			t.SourceGrad[t.Index(u, u+l)][m] += s * strain(l, m)
		}
	}
	t.SourceU[t.Index(u, u)] += s * around
}

// drag is by how much a matrix holds the fluid up at a point for a velocity, kg/(m³·s), its derivative by the speed
// over the speed, and that by the temperature; all are nothing where there is none.
func (k *Kernel) drag(p *fem.Point, q int) (drag, bySpeed, byHeat float64) {
	if k.here.Matrix == nil {
		return 0, 0, 0
	}
	permeability := k.now.At(matrixPermeability, q)
	drag = k.now.At(viscosity, q) * k.problem.ease() / permeability
	if k.t >= 0 {
		byHeat = k.now.Slope(viscosity, q) * k.problem.ease() / permeability
	}
	if c := k.here.Reference * k.now.At(matrixInertia, q); c > 0 {
		if speed := k.speed(p); speed > 0 {
			drag, bySpeed = drag+c*speed, c/speed
		}
	}
	return drag, bySpeed, byHeat
}

// held adds what a matrix holds up at a point.
func (k *Kernel) held(p *fem.Point, t *fem.Terms) {
	drag, bySpeed, byHeat := k.drag(p, p.Number)
	if drag == 0 {
		return
	}
	u := k.u
	for i := range k.n {
		t.Source[u+i] += drag * p.U[u+i]
		t.SourceU[t.Index(u+i, u+i)] += drag
		for j := range k.n {
			t.SourceU[t.Index(u+i, u+j)] += bySpeed * p.U[u+i] * p.U[u+j]
		}
		if k.varies {
			t.SourceU[t.Index(u+i, k.t)] += byHeat * p.U[u+i]
		}
	}
}

// laws are those of a body in the order of their places.
func (b *Body) laws() []Law {
	list := make([]Law, bodyLaws)
	list[density], list[viscosity], list[capacity] = b.Density, b.Viscosity, b.Capacity
	if b.Thins != nil {
		list[thinFast], list[thinTime], list[thinExponent] = b.Thins.Fast, b.Thins.Time, b.Thins.Exponent
	}
	if b.Matrix != nil {
		list[matrixPermeability], list[matrixInertia] = b.Matrix.Permeability, b.Matrix.Inertia
	}
	list[conductivity] = b.Conductivity
	return list
}

// checkLaws demands that those of a body can be.
func (k *Kernel) checkLaws(body int32) error {
	type bound struct {
		law   int
		what  string
		least float64
		at    bool
	}
	list := []bound{{density, "density", 0, false}, {viscosity, "viscosity", 0, false}}
	if k.here.Thins != nil {
		list = append(list, bound{thinFast, "viscosity of what is sheared fast", 0, true}, bound{thinTime, "time", 0, true}, bound{thinExponent, "exponent", 0, false})
	}
	if k.here.Matrix != nil {
		list = append(list, bound{matrixPermeability, "permeability", 0, false}, bound{matrixInertia, "inertia of the matrix", 0, true})
	}
	for _, b := range list {
		if err := k.now.Check(b.law, body, b.what, b.least, b.at); err != nil {
			return err
		}
	}
	return nil
}
