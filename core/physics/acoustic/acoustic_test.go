package acoustic

import (
	"math"
	"math/cmplx"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"saltkettle/core/fem"
	"saltkettle/core/formula"
	"saltkettle/core/frame"
	"saltkettle/core/law"
)

// bare is a kernel without a mesh: a body and a wall on the one side that there is.
func bare(b *Body, w Wall) *Kernel {
	k := &Kernel{problem: &Problem{Bodies: map[int32]*Body{0: b}, Walls: []Wall{w}}, t: -1, u: -1, walls: [][]int32{{0}}, volume: []float64{2e-3}}
	return k.as(whole, 0)
}

// TestTangents are the derivatives of all roles, in cells and on sides.
func TestTangents(t *testing.T) {
	gas := func() *Body {
		return &Body{Density: formula.Fixed(1.2), Speed: formula.Fixed(340), Arises: formula.Fixed(0.1)}
	}
	framed, losing := gas(), gas()
	framed.Shell = &frame.Shell{Inner: [3][2]float64{{0, 0.015}, {0, 0.02}}, Outer: [3][2]float64{{0, 0.03}, {0, 0.04}}, Axes: 2, Round: true}
	losing.Fluid = porous(2e4)
	point := fem.Point{X: [3]float64{0.02, 0.03, 0}, Normal: [3]float64{0.6, 0.8, 0}, U: []float64{0.4}, Grad: [][3]float64{{8, -5, 3}}, Rate: []float64{300}}
	walls := []Wall{{act: meets, Value: formula.Fixed(500)}, {act: meets, Round: true, Flat: true}, {act: fallsBack, Value: formula.Fixed(9.81)}, {act: comes, Value: formula.Fixed(2)}, {act: moves, Value: formula.Fixed(3)}}
	for _, b := range []*Body{gas(), framed, losing} {
		for _, w := range walls {
			for role := whole; role <= rise; role++ {
				k := bare(b, w).as(role, 0)
				k.timely = true
				for side := -1; side < 1; side++ {
					at := point
					at.U, at.Rate, at.Grad = []float64{0.4}, []float64{300}, [][3]float64{{8, -5, 3}}
					worst, what, err := fem.CheckTangent(k, &at, side)
					require.NoError(t, err)
					assert.Less(t, worst, 1e-5, "%v: %s", role, what)
				}
			}
		}
	}
}

// TestNarrowDucts: at low frequencies a gap and a round duct resist as Poiseuille's flow does and keep their temperature, at high ones they are as
// wide ones.
func TestNarrowDucts(t *testing.T) {
	const rho, c, mu, ratio, prandtl, width = 1.2, 340.0, 1.8e-5, 1.4, 0.7, 1e-3
	k := rho * c * c
	for _, round := range []bool{false, true} {
		fluid := narrow(width, round, mu, ratio, prandtl)
		omega := 1.0
		density, stiffness := fluid(rho, k, omega)
		resists := 12 * mu / (width * width)
		inertia := 1.2
		if round {
			resists, inertia = 32*mu/(width*width), 4./3
		}
		assert.InEpsilon(t, resists, real(1i*complex(omega, 0)*density), 1e-3)
		assert.InEpsilon(t, inertia*rho, real(density), 1e-3)
		assert.InEpsilon(t, k/ratio, real(stiffness), 1e-3)
		density, stiffness = fluid(rho, k, 2*math.Pi*1e7)
		assert.InEpsilon(t, rho, real(density), 5e-3)
		assert.InEpsilon(t, k, real(stiffness), 5e-3)
	}
	// Tables of Bessel functions: J₁(1)/J₀(1), and where both are of an imaginary argument.
	assert.InDelta(t, 0.4400505857/0.7651976866, real(besselRatio(1)), 1e-9)
	assert.InDelta(t, 0.5651591040/1.2660658778, imag(besselRatio(1i)), 1e-9)
	assert.InDelta(t, 1, imag(besselRatio(200i)), 5e-3)
}

// TestWeightings are those of the standard at a few frequencies.
func TestWeightings(t *testing.T) {
	for _, c := range []struct{ f, a, c float64 }{{31.62, -39.4, -3.0}, {125.9, -16.1, -0.2}, {1000, 0, 0}, {3981, 1.0, -0.8}, {15849, -6.6, -8.5}} {
		for name, want := range map[string]float64{"A": c.a, "c": c.c, "none": 0} {
			got, err := weightOf(name, c.f)
			require.NoError(t, err)
			assert.InDelta(t, want, got, 0.12, "%s at %g Hz", name, c.f)
		}
	}
	_, err := weightOf("B", 100)
	assert.ErrorContains(t, err, "by A, C or none")
	_, err = weightOf("A", 0)
	assert.ErrorIs(t, err, errStill)
}

// TestLinings: a thick lining is its own resistance, a thin one is stiff.
func TestLinings(t *testing.T) {
	z, _ := miki(1e4, 2*math.Pi*2000)
	assert.Less(t, cmplx.Abs(lining(1.2, 340, 1e4, 2)(2*math.Pi*2000)/(1.2*340*z)-1), 1e-3)
	assert.Less(t, imag(lining(1.2, 340, 1e4, 0.01)(2*math.Pi*150)), -2000.0)
	impedance := byFrequency(formula.Fixed(3), nil)
	assert.Equal(t, complex(3, 0), impedance(5))
	_, known := law.Still(formula.Fixed(2), true)
	assert.True(t, known)
}
