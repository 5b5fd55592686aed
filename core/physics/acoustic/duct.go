package acoustic

import (
	"context"
	"errors"
	"math"
	"math/cmplx"
	"slices"

	"saltkettle/core/couple"
	"saltkettle/core/fem"
	"saltkettle/core/frame"
	"saltkettle/core/law"
	"saltkettle/core/sparse"
)

// Beyond the end of a duct with hard walls that goes on, the pressure is a sum of waves, each with a shape φ over the section and its own speed along
// the duct: −∇ₜ²φ = γ²·φ, and exp(∓iκz) with κ² = k² − γ². A wave that goes out has ∂p/∂n = −iκp of its part, and dies away beyond
// the end below ω = γc (P. M. Morse, K. U. Ingard, Theoretical Acoustics, 1968, section 9.2). The shapes are those of the mesh of the end.

// section is the end of a duct.
type section struct {
	equations      []int32
	waves          []wave
	area           float64
	density, speed float64 // the means, kg/m³ and m/s
	fluid          Fluid   // nil for one that is the same at all frequencies
}

// wave is one shape over a section, of which ∫φ² is 1, and the largest value positive.
type wave struct {
	shape []float64 // by equation
	dual  []float64 // ∫N·φ
	gamma float64   // 1/m
	peak  float64
}

const (
	// roughlyFlat is how far, of 1, normals may differ over the end of a duct.
	roughlyFlat = 1e-3
	// evenEnough is by how much, of itself, the speed of sound may differ there.
	evenEnough = 1e-2
	// farBelow is up to how many times the highest frequency shapes count that do not travel.
	farBelow = 1.5
	// fewWaves and mostWaves are how many shapes are found, at first and at most.
	fewWaves, mostWaves = 6, 96
	// alike is by how much, of itself, γ of two shapes must differ for each to be a way of its own.
	alike = 1e-4
)

// errCurved says that a surface is no end of a duct.
var errCurved = errors.New("the end of a duct that goes on must be a plane: this surface is bent, or has several directions")

// section finds the shapes of waves over sides, all that travel up to an angular frequency and some that do not.
func (k *Kernel) section(s *fem.System, at *fem.State, field int, sides []fem.Side, most float64) (*section, error) {
	out, place := &section{}, map[int32]int{}
	own := k.Fork().(*Kernel)
	stiffness, mass := map[[2]int]float64{}, map[[2]int]float64{}
	normal, slowest, fastest := [3]float64{}, math.Inf(1), 0.
	err := s.EachSide(at, sides, func(_ int, points []fem.Point, weights []float64) error {
		if err := own.Prepare(-1, points); err != nil {
			return err
		}
		if body := k.problem.Bodies[points[0].Part]; body != nil && out.fluid == nil {
			out.fluid = body.Fluid
		}
		number := make([]int, len(points[0].Nodes)) // −1 for nodes that are not on the side
		for i, v := range points[0].Nodes {
			e := s.Equation(field, 0, v)
			if number[i] = -1; e < 0 || !slices.ContainsFunc(points, func(p fem.Point) bool { return math.Abs(p.Functions[i]) > vanishes }) {
				continue
			}
			if _, known := place[e]; !known {
				place[e], out.equations = len(out.equations), append(out.equations, e)
			}
			number[i] = place[e]
		}
		slopes := make([][3]float64, len(number))
		for q, w := range weights {
			p := &points[q]
			if out.area == 0 {
				normal = p.Normal
			}
			if 1-inner(normal, p.Normal) > roughlyFlat {
				return errCurved
			}
			speed := own.now.At(soundSpeed, q)
			slowest, fastest = min(slowest, speed), max(fastest, speed)
			out.area += w
			out.density += w * own.now.At(density, q)
			out.speed += w * speed
			for i := range slopes {
				slopes[i] = p.Slope(i)
				across := inner(slopes[i], p.Normal)
				for d, n := range p.Normal {
					slopes[i][d] -= across * n
				}
			}
			for i, a := range number {
				for j, b := range number {
					if a >= 0 && b >= 0 {
						stiffness[[2]int{a, b}] += w * inner(slopes[i], slopes[j])
						mass[[2]int{a, b}] += w * p.Functions[i] * p.Functions[j]
					}
				}
			}
		}
		return nil
	})
	if err != nil {
		return nil, err
	}
	out.density, out.speed = out.density/out.area, out.speed/out.area
	if fastest-slowest > evenEnough*out.speed {
		return nil, errors.New("a duct goes on where the speed of sound is not the same over its section: let one fluid of one temperature be there")
	}
	return out, out.find(rowsOf(stiffness, len(out.equations)), rowsOf(mass, len(out.equations)), most)
}

// vanishes is how small a function is that is nothing but round-off.
const vanishes = 1e-12

// rowsOf is a matrix by its entries.
func rowsOf(entries map[[2]int]float64, n int) *sparse.CSR {
	var keys [][2]int
	for key := range entries {
		keys = append(keys, key)
	}
	slices.SortFunc(keys, func(a, b [2]int) int { return slices.Compare(a[:], b[:]) })
	m := &sparse.CSR{Rows: make([]int32, n+1)}
	for _, key := range keys {
		m.Rows[key[0]+1]++
		m.Cols, m.Data = append(m.Cols, int32(key[1])), append(m.Data, entries[key])
	}
	for i := range n {
		m.Rows[i+1] += m.Rows[i]
	}
	return m
}

// find finds the shapes.
func (s *section) find(stiffness, mass *sparse.CSR, most float64) error {
	n, least := len(s.equations), 0.
	for i := range n {
		least = max(least, stiffness.At(i, i)/mass.At(i, i))
	}
	for count := min(fewWaves, n); ; count = min(2*count, n) {
		r, err := sparse.Eigen(context.Background(), stiffness, mass, &sparse.EigenSettings[float64]{Count: count, Shift: -1e-6 * least, Symmetric: true, Verify: count < n})
		if err != nil {
			return err
		}
		s.waves = nil
		for i, v := range r.Values {
			w := wave{gamma: math.Sqrt(max(0, real(v))), shape: make([]float64, n), dual: make([]float64, n)}
			for e, x := range r.Vectors[i] {
				w.shape[e] = real(x)
				if math.Abs(real(x)) > math.Abs(w.peak)*(1+1e-6) {
					w.peak = real(x)
				}
			}
			if w.peak < 0 {
				for e := range w.shape {
					w.shape[e] = -w.shape[e]
				}
				w.peak = -w.peak
			}
			if w.gamma*w.gamma < 1e-9*least {
				w.gamma = 0 // but for round-off
			}
			mass.MulVec(w.dual, w.shape)
			s.waves = append(s.waves, w)
		}
		if count == n || count >= mostWaves || s.waves[count-1].gamma > farBelow*most/s.speed {
			return nil
		}
	}
}

// along is what wave n has as κ, 1/m, and the density, kg/m³, at an angular frequency.
func (s *section) along(n int, omega float64) (kappa, density complex128) {
	density, stiffness := complex(s.density, 0), complex(s.density*s.speed*s.speed, 0)
	if s.fluid != nil {
		density, stiffness = s.fluid(s.density, s.density*s.speed*s.speed, omega)
	}
	kappa = cmplx.Sqrt(complex(omega*omega, 0)*density/stiffness - complex(s.waves[n].gamma*s.waves[n].gamma, 0))
	if imag(kappa) > 0 {
		kappa = -kappa // what dies away, and does not grow
	}
	return kappa, density
}

// single says why wave n is not one way, if it is not.
func (s *section) single(n int, most float64) error {
	switch {
	case n >= len(s.waves) || s.waves[n].gamma*s.speed > most:
		return errors.New("no such wave travels in the duct at the frequencies asked for: ask for higher ones, or let another wave come")
	case n > 0 && s.waves[n].gamma-s.waves[n-1].gamma < alike*s.waves[n].gamma, n+1 < len(s.waves) && s.waves[n+1].gamma-s.waves[n].gamma < alike*s.waves[n+1].gamma:
		return errors.New("two waves of the duct travel with one speed, so that its number does not say which of them comes: cut the device along a plane of symmetry, or let the plane wave come")
	}
	return nil
}

// Continues are the waves that leave through the ends of ducts, beside what [dying] makes of all of them, and those that come but for plane ones.
func (k *Kernel) Continues(g *couple.Group, at *fem.State, most float64) (list []fem.Share, err error) {
	field := slices.IndexFunc(g.Fields, func(f couple.Field) bool { return f.Name == fieldName })
	for i := range k.problem.Walls {
		w := &k.problem.Walls[i]
		if w.act != comes {
			continue
		}
		var sides []fem.Side
		for _, f := range w.Facets {
			sides = append(sides, g.Side(f, k.problem.Bodies[g.Mesh.Facets[f].Body] == nil))
		}
		s, err := k.section(g.System, at, field, sides, most)
		if err != nil {
			return nil, frame.Wrong("conditions/"+w.Key, "mend the end, or say something else of it", "%v", err)
		}
		if w.Order > 0 {
			if err := s.single(w.Order, most); err != nil {
				return nil, frame.Wrong("conditions/"+w.Key+"/values/"+order, "give another one", "%v", err)
			}
		}
		for n := range s.waves {
			share := fem.Share{Factor: func(omega float64) complex128 {
				kappa, rho := s.along(n, omega)
				return 1i * (kappa/rho - complex(omega/(s.density*s.speed), 0))
			}}
			if s.waves[n].gamma > 0 || s.fluid != nil {
				share.Along = make([]float64, g.System.N)
				for j, e := range s.equations {
					share.Along[e] = s.waves[n].dual[j]
				}
				list = append(list, share)
			}
			if n > 0 && n == w.Order {
				load := make([]float64, g.System.N)
				for j, e := range s.equations {
					load[e] = s.waves[n].dual[j] * amplitude(w.Value) / s.waves[n].peak
				}
				list = append(list, fem.Share{Load: load, Factor: func(omega float64) complex128 {
					kappa, rho := s.along(n, omega)
					return 2i * kappa / rho
				}})
			}
		}
	}
	return list, nil
}

// amplitude is what swings in a law.
func amplitude(l Law) float64 {
	set := law.NewSet(l)
	set.Run([]fem.Point{{Swing: 1}, {}}, -1)
	return set.At(0, 0) - set.At(0, 1)
}

// passes are the powers, W, that wave n brings in and takes out through a section, from the pressures at its equations and what flows out by them.
func (s *section) passes(n int, omega float64, pressure, through map[int32]complex128) (in, out float64) {
	kappa, rho := s.along(n, omega)
	if real(kappa) <= 0 {
		return 0, 0
	}
	var p, v complex128
	for i, e := range s.equations {
		p += complex(s.waves[n].dual[i], 0) * pressure[e]
		v += complex(s.waves[n].shape[i], 0) * through[e]
	}
	impedance := complex(omega, 0) * rho / kappa
	power := func(p complex128) float64 { return (real(p)*real(p) + imag(p)*imag(p)) / 2 * real(1/impedance) }
	return power((p - impedance*v) / 2), power((p + impedance*v) / 2)
}
