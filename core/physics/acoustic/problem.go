// Package acoustic is sound: small swings of the pressure in fluids at rest,
//
//	p̈/(ρc²) − ∇·(∇p/ρ) = q̇,
//
// in a plane, round an axis and in space, with the pressure p, Pa, the density ρ, the speed of sound c and the volume q that arises per volume
// and time, 1/s. Walls of which nothing is said are hard. Where sound meets a part that bends both act on each other: the pressure pushes the
// part, whose acceleration sends sound out.
//
// What swings with exp(iωt) may meet impedances and fluids that depend on the frequency: each is a matrix times a factor by ω ([couple.Spectrum]),
// so that a sweep over frequencies is found from few of them.
package acoustic

import (
	"math"
	"math/cmplx"

	"saltkettle/core/couple"
	"saltkettle/core/frame"
	"saltkettle/core/law"
)

// Law is a number that may depend on the temperature, the place and the time.
type Law = law.Law

// Problem is the sound of a group. Facets are numbers of facets of its mesh.
type Problem struct {
	// Bodies that sound fills, by their number in the mesh.
	Bodies map[int32]*Body
	// Walls meet sound, by what they do with it.
	Walls []Wall
	// Arrives is a plane wave from far away, nil for none.
	Arrives *Arrival
	// Joints are those at which sound meets what bends.
	Joints []int32
}

// Arrival is a plane wave of a pressure, Pa, along a direction of length 1, that comes in through the facets between a frame and what it is round.
type Arrival struct {
	Pressure Law
	Along    [3]float64
	Facets   []int32
}

// Body has the properties of a body.
type Body struct {
	// Density, kg/m³, and speed of sound, m/s.
	Density, Speed Law
	// Fluid stands for one whose density and stiffness depend on the frequency; nil is the one of these numbers.
	Fluid Fluid
	// Arises is the volume that arises in this body and those Among which it is one, m³/s, nil for none.
	Arises Law
	Among  []int32
	// Shell makes it one that takes up all sound that leaves, nil for none.
	Shell *frame.Shell
}

// Fluid gives the density, kg/m³, and the stiffness ρc², Pa, of a fluid of a density and a stiffness at rest, at an angular frequency.
type Fluid func(density, stiffness, omega float64) (complex128, complex128)

// What a wall does with sound.
type act int

const (
	// meets it with an impedance, Pa·s/m.
	meets act = iota
	// moves into the sound with a speed, m/s.
	moves
	// fallsBack as a surface of a liquid does under its weight, m/s².
	fallsBack
	// comes lets a wave of an amplitude, Pa, come along a duct, and what comes against it leave.
	comes
)

// Wall is facets that meet sound.
type Wall struct {
	Key    string
	Facets []int32
	act    act
	// Value is the resistance, the speed, the weight or the amplitude.
	Value Law
	// Impedance by the angular frequency, Pa·s/m; nil is one that is Value alone.
	Impedance func(omega float64) complex128
	// Order is which of the waves of its duct comes: 0 is the plane one.
	Order int
	// Round says that waves leave as from the middle of the device, Flat that this is a plane, in which they fall off as the root of the
	// distance.
	Round, Flat bool
}

// power is that of the distance with which waves fall off that leave.
func (w *Wall) power() float64 {
	if w.Flat {
		return 0.5
	}
	return 1
}

// miki is a porous absorber of a flow resistivity, Pa·s/m², by its characteristic impedance and wave number over those of the gas (Y. Miki, J.
// Acoust. Soc. Jpn. (E) 11 (1990) 19, after M. E. Delany and E. N. Bazley), for 0.01 < f/σ < 1 in SI units.
func miki(resistivity, omega float64) (impedance, number complex128) {
	x := omega / (2 * math.Pi) / resistivity
	z, k := math.Pow(x, -0.632), math.Pow(x, -0.618)
	return complex(1+0.070*z, -0.107*z), complex(1+0.109*k, -0.160*k)
}

// The range of f/σ in which [miki] was measured.
const mikiLeast, mikiMost = 0.01, 1.0

// porous is a fluid in a porous absorber.
func porous(resistivity float64) Fluid {
	return func(density, stiffness, omega float64) (complex128, complex128) {
		z, k := miki(resistivity, omega)
		return complex(density, 0) * z * k, complex(stiffness, 0) * z / k
	}
}

// lining is the impedance of a porous layer on a hard wall.
func lining(density, speed, resistivity, depth float64) func(omega float64) complex128 {
	return func(omega float64) complex128 {
		z, k := miki(resistivity, omega)
		return complex(density*speed, 0) * z / (1i * cmplx.Tan(complex(omega/speed*depth, 0)*k))
	}
}

// losing is a fluid that loses a part of what it stores in each swing, over 2π.
func losing(part float64) Fluid {
	return func(density, stiffness, _ float64) (complex128, complex128) {
		return complex(density, 0), complex(stiffness, stiffness*part)
	}
}

// narrow is a gas between two walls a width apart, m, or in a round duct of that width, with the friction and the heat that these take (C. Zwikker and
// C. W. Kosten, Sound Absorbing Materials, 1949; M. R. Stinson, J. Acoust. Soc. Am. 89 (1991) 550): its viscosity, Pa·s, the ratio of its heat
// capacities, and its Prandtl number.
func narrow(width float64, round bool, viscosity, ratio, prandtl float64) Fluid {
	return func(density, stiffness, omega float64) (complex128, complex128) {
		s := complex(width/2, 0) * cmplx.Sqrt(complex(0, omega*density/viscosity))
		free := func(s complex128) complex128 { // how much of the section moves as if there were no walls
			if round {
				return 1 - 2*besselRatio(s*cmplx.Sqrt(-1))/(s*cmplx.Sqrt(-1))
			}
			if real(s) > 300 { // where it is 1 and its terms have no bound
				return 1 - 1/s
			}
			return 1 - cmplx.Tanh(s)/s
		}
		heat := free(s * complex(math.Sqrt(prandtl), 0))
		return complex(density, 0) / free(s), complex(stiffness, 0) / (complex(ratio, 0) - complex(ratio-1, 0)*heat)
	}
}

// besselRatio is J₁(z)/J₀(z), by the continued fraction of the ratio of Bessel functions that follow each other.
func besselRatio(z complex128) complex128 {
	n := 40 + int(cmplx.Abs(z))*2
	var sum complex128
	for k := n; k >= 1; k-- {
		sum = 1 / (complex(float64(2*k), 0)/z - sum)
	}
	return sum
}

// spectrum is a kernel with a factor.
func spectrum(k *Kernel, factor func(omega float64) complex128) couple.Spectrum {
	return couple.Spectrum{Kernel: k, Factor: factor}
}
