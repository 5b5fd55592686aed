// Package heat solves steady heat conduction in solids,
//
//	−∇·(k ∇T) = q,
//
// with sources q, held temperatures, given fluxes and convection on patches of
// the surface. All other surfaces let no heat through. Conductivity, sources,
// fluxes and coefficients may depend on the temperature and the place.
//
// Symbols: T temperature (K), k conductivity (W/(m·K)), q power per volume
// (W/m³), h heat-transfer coefficient (W/(m²·K)). Bodies that touch share nodes,
// so that their contact is perfect.
package heat

import (
	"errors"
	"math"

	"saltkettle/core/fem"
	"saltkettle/core/formula"
	"saltkettle/core/mesh"
	"saltkettle/core/quantity"
	"saltkettle/core/sparse"
)

// Variables are what the laws of a problem may depend on, in the order of the
// inputs of their programs: the temperature and the coordinates.
var Variables = append([]formula.Variable{{Name: "temperature", Dimension: quantity.MustUnit("K").Dimension, Temperature: true}}, formula.Coordinates...)

// Law is a number that may depend on [Variables]; nil is zero.
type Law = *formula.Program

// Problem is a steady conduction problem on a mesh. Slices by body have an entry
// for each body of the mesh.
type Problem struct {
	Mesh         *mesh.Mesh
	Conductivity []Conductivity // by body
	Sources      []Source
	Convections  []Convection
	Fluxes       []Flux
	Held         []Held
}

// Conductivity of a body, W/(m·K), along the axes x, y and z of the body; nil
// along y or z means as along x.
type Conductivity struct {
	Along [3]Law
	Turn  float64 // of the axes of the body about z, rad
}

// Isotropic returns the same conductivity along all axes.
func Isotropic(k Law) Conductivity { return Conductivity{Along: [3]Law{k}} }

// Source is a power released evenly in bodies.
type Source struct {
	Bodies []int32
	Total  float64 // in all these bodies together, W
	Volume Law     // per volume, W/m³
}

// Convection is exchange with a medium at a temperature.
type Convection struct {
	Facets      []int32 // numbers of facets of the mesh
	Coefficient Law     // W/(m²·K)
	Medium      Law     // K
}

// Flux is heat that enters through facets.
type Flux struct {
	Facets []int32
	Total  float64 // over all of them, W
	Area   Law     // per area, W/m²
}

// Held is facets held at a temperature, which may depend on the place. Where two
// meet, the later one holds.
type Held struct {
	Facets      []int32
	Temperature Law // K
}

// Settings of the solver. The zero value works.
type Settings struct {
	// Tolerance of the linear solver, relative to the right side; 0 means 1e-12,
	// which closes the heat balance to well below 1e-8.
	Tolerance float64
	// MaxIterations of all linear solves together, and MaxSteps of Newton's method;
	// 0 lets it choose.
	MaxIterations, MaxSteps int
	// Stage is called when a stage begins, Progress after each iteration. Both
	// may be nil.
	Stage    func(name string)
	Progress func(iteration int, residual float64)
}

// Solution is a temperature field with the means to ask for heat flows.
type Solution struct {
	Problem *Problem
	// Temperature at each node, K.
	Temperature []float64
	// Linear tells of all linear solves together; its status is that of the last.
	Linear sparse.Result
	// Steps of Newton's method, 0 for a linear problem, with the relative residual
	// before each and at the end.
	Steps     int
	Residuals []float64
	// Settled says that the equations hold to the tolerance.
	Settled bool
	// Symmetric says that conjugate gradients solved the linear equations.
	Symmetric bool
	// Volume of each body in the mesh, m³.
	Volume []float64
	// Entering is the heat that enters by each source, flux, convection and held
	// temperature, in the order of the problem, W.
	Sources, Fluxes, Convections, Held []float64

	space   *fem.Space
	laws    *laws
	surface *surface
	held    []int32 // per node: the number of the held temperature + 1, or 0
	kept    []bool  // per facet: its temperature is held
}

// ErrNoReference is returned when nothing fixes the level of temperature.
var ErrNoReference = errors.New("nothing holds the temperature: the parts have no held temperature and no convection")

// hold marks the nodes whose temperature is held and sets it.
func (s *Solution) hold() ([]bool, error) {
	m := s.Problem.Mesh
	fixed := make([]bool, len(s.Temperature))
	s.held = make([]int32, len(s.Temperature))
	s.kept = make([]bool, len(m.Facets))
	for i, h := range s.Problem.Held {
		value, constant := h.Temperature.Constant()
		var at *sampler
		if !constant {
			at = newSampler([]Law{h.Temperature}, false)
		}
		for _, k := range h.Facets {
			s.kept[k] = true
			for _, v := range m.Facets[k].Corners() {
				fixed[v] = true
				s.held[v] = int32(i + 1)
				s.Temperature[v] = value
				if !constant {
					at.reset()
					at.add(0, [3]float64(m.Nodes[3*v:3*v+3]))
					s.Temperature[v] = at.run()[0].value[0]
					if err := (bound{"temperature held", 0}).check(s.Temperature[v]); err != nil {
						return nil, err
					}
				}
			}
		}
	}
	return fixed, nil
}

// guess starts the free nodes at the mean of the given temperatures.
func (s *Solution) guess(fixed []bool) {
	var sum, n float64
	add := func(t Law) {
		if v, ok := t.Constant(); ok {
			sum += v
			n++
		}
	}
	for _, h := range s.Problem.Held {
		add(h.Temperature)
	}
	for _, c := range s.Problem.Convections {
		add(c.Medium)
	}
	if n == 0 {
		sum, n = 293.15, 1
	}
	for i := range s.Temperature {
		if !fixed[i] {
			s.Temperature[i] = sum / n
		}
	}
}

// account sums what enters by each condition. Held temperatures give what the
// other terms leave over at their nodes, a and b being without them.
func (s *Solution) account(a *sparse.CSR, b []float64) error {
	p := s.Problem
	s.Fluxes, s.Convections = s.surface.entering(s.Temperature)
	var err error
	if s.Sources, err = s.laws.totals(s.Temperature); err != nil {
		return err
	}
	s.Held = make([]float64, len(p.Held))
	if len(p.Held) == 0 {
		return nil
	}
	r := make([]float64, len(b))
	a.MulVec(r, s.Temperature)
	for v, h := range s.held {
		if h > 0 {
			s.Held[h-1] += r[v] - b[v]
		}
	}
	return nil
}

// Balance is what enters and what leaves a closed account.
type Balance struct {
	In, Out float64 // W, both positive
	// Closure is |In − Out| relative to the larger of them.
	Closure float64
}

// Balance sums all that enters and leaves.
func (s *Solution) Balance() Balance {
	var b Balance
	for _, list := range [][]float64{s.Sources, s.Fluxes, s.Convections, s.Held} {
		for _, q := range list {
			if q >= 0 {
				b.In += q
			} else {
				b.Out -= q
			}
		}
	}
	if through := max(b.In, b.Out); through > 0 {
		b.Closure = math.Abs(b.In-b.Out) / through
	}
	return b
}
