package fem

import (
	"fmt"
	"math"
)

// Point is a quadrature point with the fields there. Components are counted over
// all fields of the system; those of fields that do not live in the cell are 0.
type Point struct {
	Part   int32
	Number int        // among the points that were prepared together
	X      [3]float64 // place, m
	Time   float64    // s
	Swing  float64    // how far what swings is out of its middle
	Normal [3]float64 // outward, on a side
	// Named are the components of quantities that models name, in their order, −1 for one that is not there.
	Named []int
	// Values, gradients and rates of change of the components.
	U    []float64
	Grad [][3]float64
	Rate []float64
	// Beyond has the rates on the other side at a point of a joint.
	Beyond []float64
	// Inverse is ∂ξ/∂x of the reference cell, 1/m; it is not set where terms on sides depend on values alone.
	Inverse [3][3]float64
	regular *[3][3]float64 // of its element, nil if its edges are 2 long already
	// Nodes are those of the grid that the cell of the point has, and Functions what those of the element are there.
	Nodes     []int32
	Functions []float64
	slopes    [][3]float64 // of these in the reference cell
	// Second are the second derivatives of the components, xx, yy, zz, xy, yz, zx, for kernels
	// that want them, in cells.
	Second [][6]float64
}

// Terms are the integrand of the weak form at a point: for every test function v of
// component a the residual is the integral of
//
//	Source[a]·v + Flux[a]·∇v,
//
// with the derivatives of both by the values, gradients and rates of component b.
// All are zero when a kernel is called.
type Terms struct {
	Source []float64
	Flux   [][3]float64
	// By row a and column b, at a·n + b.
	SourceU    []float64
	SourceRate []float64
	SourceGrad [][3]float64
	FluxU      [][3]float64
	FluxRate   [][3]float64
	FluxGrad   [][3][3]float64 // [i][j]: ∂Flux[a]ᵢ/∂Grad[b]ⱼ

	n int
}

// Index is the place of row a and column b.
func (t *Terms) Index(a, b int) int { return a*t.n + b }

// NewTerms makes terms for n components.
func NewTerms(n int) *Terms { return newTerms(n) }

// Reset sets all to zero.
func (t *Terms) Reset() { t.reset() }

func newTerms(n int) *Terms {
	return &Terms{
		n: n, Source: make([]float64, n), Flux: make([][3]float64, n),
		SourceU: make([]float64, n*n), SourceRate: make([]float64, n*n), SourceGrad: make([][3]float64, n*n),
		FluxU: make([][3]float64, n*n), FluxRate: make([][3]float64, n*n), FluxGrad: make([][3][3]float64, n*n),
	}
}

func (t *Terms) reset() {
	if t.n == 1 {
		t.Source[0], t.Flux[0] = 0, [3]float64{}
		t.SourceU[0], t.SourceRate[0], t.SourceGrad[0] = 0, 0, [3]float64{}
		t.FluxU[0], t.FluxRate[0], t.FluxGrad[0] = [3]float64{}, [3]float64{}, [3][3]float64{}
		return
	}
	clear(t.Source)
	clear(t.Flux)
	clear(t.SourceU)
	clear(t.SourceRate)
	clear(t.SourceGrad)
	clear(t.FluxU)
	clear(t.FluxRate)
	clear(t.FluxGrad)
}

// Kernel is the physics of a system: what it integrates over cells and over sides.
// It must be safe for concurrent use. An error ends the assembly; it says what is
// wrong with the data at the point.
type Kernel interface {
	Cell(p *Point, t *Terms) error
}

// SideKernel is a kernel with terms on sides of cells. On sides only Source and
// its derivatives by values, gradients and rates count.
type SideKernel interface {
	Kernel
	// Side is called for the sides of the system, with the number of each in its
	// list.
	Side(number int, p *Point, t *Terms) error
}

// Descending is a kernel that may say that its residual is the slope of an energy that is convex: steps of Newton's method then lead down
// in it, however the residual rises on the way.
type Descending interface {
	Kernel
	Descends() bool
}

// Descends says that all of a sum do.
func Descends(kernel Kernel) bool {
	for _, k := range Each(kernel) {
		if d, ok := k.(Descending); !ok || !d.Descends() {
			return false
		}
	}
	return true
}

// CornerKernel is a kernel with terms at the corners of sides, where the functions of fields of order 1 are 1 for one of them and nothing for the others: what
// holds at each node for itself. Each corner has its part of the area of the side, whatever the measure there is.
type CornerKernel interface {
	SideKernel
	// HasCorners says that there are any on a side.
	HasCorners(side int) bool
	Corner(side int, p *Point, t *Terms) error
}

// Secant is a kernel whose matrix can have ratios in place of slopes, as flux density over field strength in iron: whole steps with it lead
// from a state that follows from another device, where slopes are those of its errors, near to a solution.
type Secant interface {
	Kernel
	// Secant lets the kernel and its forks do so, or no more.
	Secant(on bool)
}

// secant lets all of a sum that can do so, and says whether any can.
func secant(kernel Kernel, on bool) (any bool) {
	for _, k := range Each(kernel) {
		if s, ok := k.(Secant); ok {
			s.Secant(on)
			any = true
		}
	}
	return any
}

// Surveyor is a kernel with terms that depend on the state at other places, such as
// what arrives there by radiation.
type Surveyor interface {
	Kernel
	// Survey is called with each state before terms are asked for there.
	Survey(s *System, at *State) error
}

// Onlooker is a kernel that looks at states in which its own fields are given, too, so that others can take from it what depends on the state at
// other places.
type Onlooker interface {
	Kernel
	Onlook(s *System, at *State) error
}

// survey lets a kernel look at a state.
func (s *System) survey(kernel Kernel, at *State) error {
	if k, ok := kernel.(Surveyor); ok {
		return k.Survey(s, at)
	}
	return nil
}

// CheckTangent compares the derivatives that a kernel gives at a point with
// differences of its terms and returns the largest difference, relative to the
// size of the derivatives of each kind. side is the number of a side, −1 for the
// inside of a cell.
func CheckTangent(k Kernel, p *Point, side int) (worst float64, what string, err error) {
	n := len(p.U)
	if f, ok := k.(Forker); ok {
		k = f.Fork()
	}
	call := func(t *Terms) error {
		if p0, ok := k.(Preparer); ok {
			if err := p0.Prepare(side, []Point{*p}); err != nil {
				return err
			}
		}
		if side >= 0 {
			return k.(SideKernel).Side(side, p, t)
		}
		return k.Cell(p, t)
	}
	exact := newTerms(n)
	if err := call(exact); err != nil {
		return 0, "", err
	}
	up, down := newTerms(n), newTerms(n)
	note := func(size, difference float64, name string, a, b int) {
		if d := math.Abs(difference) / max(size, 1e-300); difference != 0 && d > worst {
			worst, what = d, fmt.Sprintf("derivative of %s of component %d by component %d", name, a, b)
		}
	}
	vary := func(x *float64, source func(a int) float64, b, axis int, kind string) error {
		x0 := *x
		h := 1e-6 * max(math.Abs(x0), 1)
		defer func() { *x = x0 }()
		for _, end := range []struct {
			at float64
			t  *Terms
		}{{x0 + h, up}, {x0 - h, down}} {
			end.t.reset()
			*x = end.at
			if err := call(end.t); err != nil {
				return err
			}
		}
		for a := range n {
			approximate := (up.Source[a] - down.Source[a]) / (2 * h)
			note(math.Abs(approximate)+math.Abs(source(a))+1e-6*math.Abs(exact.Source[a]), source(a)-approximate, "source by "+kind, a, b)
			for i := range 3 {
				approximate := (up.Flux[a][i] - down.Flux[a][i]) / (2 * h)
				given := fluxSlope(exact, a*n+b, i, axis, kind)
				size := math.Abs(approximate) + math.Abs(given)
				for j := range 3 {
					size += 1e-6 * math.Abs(exact.Flux[a][j])
				}
				note(size, given-approximate, "flux by "+kind, a, b)
			}
		}
		return nil
	}
	for b := range n {
		if err := vary(&p.U[b], func(a int) float64 { return exact.SourceU[a*n+b] }, b, 0, "value"); err != nil {
			return 0, "", err
		}
		if err := vary(&p.Rate[b], func(a int) float64 { return exact.SourceRate[a*n+b] }, b, 0, "rate"); err != nil {
			return 0, "", err
		}
		for d := range 3 {
			if err := vary(&p.Grad[b][d], func(a int) float64 { return exact.SourceGrad[a*n+b][d] }, b, d, "gradient"); err != nil {
				return 0, "", err
			}
		}
	}
	return worst, what, nil
}

// fluxSlope is the derivative of component i of a flux that the terms give.
func fluxSlope(t *Terms, at, i, axis int, kind string) float64 {
	switch kind {
	case "value":
		return t.FluxU[at][i]
	case "rate":
		return t.FluxRate[at][i]
	}
	return t.FluxGrad[at][i][axis]
}
