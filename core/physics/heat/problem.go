// Package heat solves steady heat conduction in solids,
//
//	−∇·(k ∇T) = q,
//
// with sources q, held temperatures, given fluxes and convection on patches of
// the surface. All other surfaces let no heat through.
//
// Symbols: T temperature (K), k conductivity (W/(m·K)), q power per volume
// (W/m³), h heat-transfer coefficient (W/(m²·K)). Bodies that touch share nodes,
// so that their contact is perfect.
package heat

import (
	"context"
	"errors"
	"fmt"
	"math"

	"saltkettle/core/fem"
	"saltkettle/core/mesh"
	"saltkettle/core/sparse"
)

// Problem is a steady conduction problem on a mesh. Slices by body have an entry
// for each body of the mesh.
type Problem struct {
	Mesh         *mesh.Mesh
	Conductivity []float64 // by body, W/(m·K)
	Sources      []Source
	Convections  []Convection
	Fluxes       []Flux
	Held         []Held
}

// Source is a power released evenly in bodies.
type Source struct {
	Bodies []int32
	// Total power in all these bodies together, W, or per volume, W/m³.
	Total, PerVolume float64
}

// Convection is exchange with a medium at a temperature.
type Convection struct {
	Facets      []int32 // numbers of facets of the mesh
	Coefficient float64 // W/(m²·K)
	Medium      float64 // K
}

// Flux is heat that enters through facets: Total over all of them, W, or
// PerArea, W/m².
type Flux struct {
	Facets         []int32
	Total, PerArea float64
}

// Held is facets held at a temperature. Where two meet, the later one holds.
type Held struct {
	Facets      []int32
	Temperature float64 // K
}

// Settings of the solver. The zero value works.
type Settings struct {
	// Tolerance of the linear solver, relative to the right side; 0 means 1e-12,
	// which closes the heat balance to well below 1e-8.
	Tolerance float64
	// MaxIterations of the linear solver; 0 lets it choose.
	MaxIterations int
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
	Linear      sparse.Result
	// Volume of each body in the mesh, m³.
	Volume []float64
	// Entering is the heat that enters by each source, flux, convection and held
	// temperature, in the order of the problem, W.
	Sources, Fluxes, Convections, Held []float64

	space   *fem.Space
	density []float64 // per body: power per volume, W/m³
	held    []int32   // per node: the number of the held temperature + 1, or 0
	kept    []bool    // per facet: its temperature is held
	flux    []float64 // per facet: given flux entering, W/m²
	conv    []Convection
}

// ErrNoReference is returned when nothing fixes the level of temperature.
var ErrNoReference = errors.New("nothing holds the temperature: the parts have no held temperature and no convection")

// Solve assembles and solves the problem. The solution is usable, with its
// status, even if the linear solver did not converge.
func Solve(ctx context.Context, p *Problem, set *Settings) (*Solution, error) {
	if set == nil {
		set = &Settings{}
	}
	if set.Stage == nil {
		set.Stage = func(string) {}
	}
	m := p.Mesh
	s := &Solution{Problem: p, Temperature: make([]float64, m.NodeCount())}
	if len(p.Held) == 0 && len(p.Convections) == 0 {
		return nil, ErrNoReference
	}
	set.Stage("assemble")
	s.space = fem.NewSpace(m)
	var err error
	if s.Volume, err = fem.Volumes(m, len(p.Conductivity)); err != nil {
		return nil, err
	}
	s.spread()
	a := s.space.NewMatrix()
	b := make([]float64, m.NodeCount())
	err = s.space.Assemble(a, b, func(c int, w *fem.Wedge, k *[36]float64, f *[6]float64) {
		body := m.Body[c]
		w.Diffusion(k, p.Conductivity[body])
		if q := s.density[body]; q != 0 {
			w.Load(f)
			for i := range f {
				f[i] *= q
			}
		}
	})
	if err != nil {
		return nil, err
	}
	if err := s.surfaces(a, b); err != nil {
		return nil, err
	}
	fixed := s.hold()
	system := a
	load := b
	if len(p.Held) > 0 {
		system = a.Clone()
		load = append([]float64(nil), b...)
		system.Fix(fixed, s.Temperature, load)
	}
	if ctx.Err() != nil {
		return nil, ctx.Err()
	}
	set.Stage("solve")
	pre, err := sparse.NewAMG(system, nil)
	if err != nil {
		return nil, fmt.Errorf("the conduction matrix cannot be solved: %w", err)
	}
	s.guess(fixed)
	tol := set.Tolerance
	if tol == 0 {
		tol = 1e-12
	}
	s.Linear = sparse.CG(ctx, system, load, s.Temperature, pre, &sparse.Settings{Tolerance: tol, MaxIterations: set.MaxIterations, Progress: set.Progress})
	s.account(a, b)
	return s, nil
}

// spread turns the sources into a power per volume in every body.
func (s *Solution) spread() {
	s.density = make([]float64, len(s.Volume))
	s.Sources = make([]float64, len(s.Problem.Sources))
	for i, src := range s.Problem.Sources {
		var total float64
		for _, b := range src.Bodies {
			total += s.Volume[b]
		}
		q := src.PerVolume
		if src.Total != 0 && total > 0 {
			q += src.Total / total
		}
		for _, b := range src.Bodies {
			s.density[b] += q
		}
		s.Sources[i] = q * total
	}
}

// surfaces adds convection and given fluxes.
func (s *Solution) surfaces(a *sparse.CSR, b []float64) error {
	p := s.Problem
	s.flux = make([]float64, len(p.Mesh.Facets))
	s.conv = make([]Convection, len(p.Mesh.Facets))
	var w fem.FacetWeights
	for _, f := range p.Fluxes {
		q := f.PerArea
		if f.Total != 0 {
			var area float64
			for _, k := range f.Facets {
				w.Set(p.Mesh, &p.Mesh.Facets[k])
				area += w.Area
			}
			if area == 0 {
				return errors.New("a heat flux acts on a patch without area")
			}
			q += f.Total / area
		}
		for _, k := range f.Facets {
			s.flux[k] += q
			w.Set(p.Mesh, &p.Mesh.Facets[k])
			fem.AddFacet(a, b, &p.Mesh.Facets[k], &w, 0, q)
		}
	}
	for _, c := range p.Convections {
		for _, k := range c.Facets {
			w.Set(p.Mesh, &p.Mesh.Facets[k])
			fem.AddFacet(a, b, &p.Mesh.Facets[k], &w, c.Coefficient, c.Coefficient*c.Medium)
			// Several media on one facet act like one with the mean temperature.
			old := s.conv[k]
			sum := old.Coefficient + c.Coefficient
			if sum > 0 {
				s.conv[k] = Convection{Coefficient: sum, Medium: (old.Coefficient*old.Medium + c.Coefficient*c.Medium) / sum}
			}
		}
	}
	return nil
}

// hold marks the nodes whose temperature is held and sets it.
func (s *Solution) hold() []bool {
	fixed := make([]bool, len(s.Temperature))
	s.held = make([]int32, len(s.Temperature))
	s.kept = make([]bool, len(s.Problem.Mesh.Facets))
	for i, h := range s.Problem.Held {
		for _, k := range h.Facets {
			s.kept[k] = true
			for _, v := range s.Problem.Mesh.Facets[k].Corners() {
				fixed[v] = true
				s.held[v] = int32(i + 1)
				s.Temperature[v] = h.Temperature
			}
		}
	}
	return fixed
}

// guess starts the free nodes at the mean of the given temperatures.
func (s *Solution) guess(fixed []bool) {
	var sum, n float64
	for _, h := range s.Problem.Held {
		sum += h.Temperature
		n++
	}
	for _, c := range s.Problem.Convections {
		sum += c.Medium
		n++
	}
	for i := range s.Temperature {
		if !fixed[i] {
			s.Temperature[i] = sum / n
		}
	}
}

// account sums what enters by each condition. Held temperatures give what the
// other terms leave over at their nodes, a and b being without them.
func (s *Solution) account(a *sparse.CSR, b []float64) {
	p := s.Problem
	s.Fluxes = make([]float64, len(p.Fluxes))
	s.Convections = make([]float64, len(p.Convections))
	s.Held = make([]float64, len(p.Held))
	var w fem.FacetWeights
	for i, f := range p.Fluxes {
		s.Fluxes[i] = f.Total
		for _, k := range f.Facets {
			w.Set(p.Mesh, &p.Mesh.Facets[k])
			s.Fluxes[i] += f.PerArea * w.Area
		}
	}
	for i, c := range p.Convections {
		for _, k := range c.Facets {
			f := &p.Mesh.Facets[k]
			w.Set(p.Mesh, f)
			for j, v := range f.Corners() {
				s.Convections[i] += c.Coefficient * (c.Medium - s.Temperature[v]) * w.N[j]
			}
		}
	}
	if len(p.Held) == 0 {
		return
	}
	r := make([]float64, len(b))
	a.MulVec(r, s.Temperature)
	for v, h := range s.held {
		if h > 0 {
			s.Held[h-1] += r[v] - b[v]
		}
	}
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
