package acoustic

import (
	"errors"
	"fmt"
	"math"
	"math/cmplx"
	"slices"
	"strings"

	"saltkettle/core/couple"
	"saltkettle/core/fem"
	"saltkettle/core/frame"
)

// errStill says that a reading is of what swings at a frequency.
var errStill = errors.New("it is known of sound at a frequency: let the run find a response")

// read evaluates a reading.
func read(r *frame.Reading) error {
	if part, not := r.Model.Absent(key, r.Sentence); not {
		return fmt.Errorf("there is no sound in the %s", r.Model.Parts[part].Name)
	}
	k := r.Kernel.(*Kernel)
	switch r.Sentence.Kind {
	case KeyMean, KeyLevel:
		square, err := meanSquare(k, r)
		if err != nil {
			return err
		}
		if r.Value = math.Sqrt(square); r.Sentence.Kind == KeyLevel {
			return level(r)
		}
		return nil
	}
	if r.Solution.Swing == nil {
		return errors.Join(couple.ErrAbsent, errStill)
	}
	if r.Sentence.Kind == KeyFar {
		var err error
		r.Value, err = farAway(k, r)
		return err
	}
	p, err := k.patchOf(r)
	if err != nil {
		return err
	}
	flow := p.flow(r)
	if r.Sentence.Kind == KeyPower {
		r.Value = flow.power
		return nil
	}
	own := complex(p.own, 0)
	switch r.Sentence.Kind {
	case KeyComing:
		if p.duct == nil { // of the plane one alone, as nothing says what others there are
			comes := cmplx.Abs(flow.pressure-own*flow.speed) / 2
			r.Value = comes * comes * p.area / (2 * p.own)
			return nil
		}
		for n := range p.duct.waves {
			in, _ := p.duct.passes(n, flow.omega, flow.at, flow.through)
			r.Value += in
		}
	case KeySent:
		if p.duct == nil {
			return errCurved
		}
		n := 0
		if l := r.Sentence.Laws[order]; l != nil {
			v, _ := l.Constant()
			n = int(v)
		}
		if n < len(p.duct.waves) {
			_, r.Value = p.duct.passes(n, flow.omega, flow.at, flow.through)
		}
	case KeyMet:
		r.Value = cmplx.Abs(flow.pressure / flow.speed)
	case KeyTaken:
		back := (flow.pressure - own*flow.speed) / (flow.pressure + own*flow.speed)
		r.Value = 1 - real(back)*real(back) - imag(back)*imag(back)
	default:
		return fmt.Errorf("readings of the kind %q cannot be taken", r.Sentence.Kind)
	}
	return nil
}

// level makes a sound pressure a level, dB.
func level(r *frame.Reading) error {
	reference, _ := r.Sentence.Laws[reference].Constant()
	f := 0.
	if s := r.Solution.Swing; s != nil {
		f = s.Frequency
	}
	weight, err := weightOf(strings.TrimSpace(r.Sentence.Values[weighting]), f)
	if err != nil {
		return err
	}
	if r.Value == 0 {
		return errors.New("there is no sound, of which the level has no end downwards")
	}
	r.Value = 20*math.Log10(r.Value/reference) + weight
	return nil
}

// weightOf is the weighting of a level at a frequency, dB (IEC 61672-1:2013, annex E).
func weightOf(name string, f float64) (float64, error) {
	const f1, f2, f3, f4 = 20.598997, 107.65265, 737.86223, 12194.217
	square := f * f
	c := f4 * f4 * square / ((square + f1*f1) * (square + f4*f4))
	switch strings.ToUpper(name) {
	case "", "NONE":
		return 0, nil
	case "C":
		if f == 0 {
			break
		}
		return 20*math.Log10(c) + 0.0619, nil
	case "A":
		if f == 0 {
			break
		}
		return 20*math.Log10(c*square/math.Sqrt((square+f2*f2)*(square+f3*f3))) + 1.9997, nil
	default:
		return 0, fmt.Errorf("a level is weighted by A, C or none, not by %q", name)
	}
	return 0, errStill
}

// meanSquare is that of the pressure over a region, and over a swing of what swings, Pa².
func meanSquare(k *Kernel, r *frame.Reading) (float64, error) {
	s, share := r.Solution, 1.
	states := []*fem.State{s.State}
	if s.Swing != nil {
		states, share = []*fem.State{s.Swing.Real, s.Swing.Imaginary}, 0.5
	}
	sum, size := 0., 0.
	add := func(points []fem.Point, weights []float64) {
		for q, w := range weights {
			sum += w * share * points[q].U[k.p] * points[q].U[k.p]
			size += w
		}
	}
	for _, state := range states {
		size = 0
		var err error
		if len(r.Region.Facets) == 0 {
			bodies := map[int32]bool{}
			for b := range r.Region.Bodies {
				bodies[b] = k.problem.Bodies[b] != nil
			}
			err = s.System.EachCell(state, bodies, func(points []fem.Point, weights []float64) error {
				add(points, weights)
				return nil
			})
		} else {
			sides, _ := k.sides(r)
			err = s.System.EachSide(state, sides, func(_ int, points []fem.Point, weights []float64) error {
				add(points, weights)
				return nil
			})
		}
		if err != nil {
			return 0, err
		}
	}
	if size == 0 {
		return 0, errors.New("no sound meets it")
	}
	return sum / size, nil
}

// sides are those of the facets of a reading that sound meets, seen from the bodies that the patch names where there is sound in them, with all
// bodies that they are of.
func (k *Kernel) sides(r *frame.Reading) (list []fem.Side, of map[int32]bool) {
	of = map[int32]bool{}
	for _, f := range r.Region.Facets {
		facet := &r.Mesh.Facets[f]
		here, there := k.problem.Bodies[facet.Body] != nil, facet.Other >= 0 && k.problem.Bodies[facet.OtherBody] != nil
		beyond := there && (!here || !r.Region.Bodies[facet.Body])
		if !here && !there {
			continue
		}
		list = append(list, r.Solution.Side(f, beyond))
		if beyond {
			of[facet.OtherBody] = true
		} else {
			of[facet.Body] = true
		}
	}
	return list, of
}

// patch is what is known of a surface at all frequencies: which rows of the matrices of the fluid behind it say what flows through it.
type patch struct {
	equations []int32
	share     []float64 // of the area, m², by equation: the integral of its function
	area      float64
	own       float64 // density times speed of sound, Pa·s/m, the mean
	rows      []rows
	duct      *section // its waves, nil if it is bent
}

// rows are those of a matrix at the equations of a patch, with what they count with.
type rows struct {
	cols   [][]int32
	data   [][]float64
	load   []float64
	factor func(omega float64) complex128
}

// flow is what passes through a patch: the power out, W, the mean pressure, Pa, and the mean speed out, m/s.
type flow struct {
	power           float64
	pressure, speed complex128
	omega           float64
	at, through     map[int32]complex128 // by equation of a section: the pressure, and what flows out with its function, m³/s
}

// patchOf is the patch of a reading.
func (k *Kernel) patchOf(r *frame.Reading) (*patch, error) {
	if p := k.patches[r.Sentence.ID]; p != nil {
		return p, nil
	}
	s := r.Solution
	sides, bodies := k.sides(r)
	if len(sides) == 0 {
		return nil, errors.New("no sound meets it")
	}
	p, place := &patch{}, map[int32]int{}
	at := k.Fork().(*Kernel)
	err := s.System.EachSide(s.State, sides, func(_ int, points []fem.Point, weights []float64) error {
		if err := at.Prepare(-1, points); err != nil {
			return err
		}
		for q, w := range weights {
			p.area += w
			p.own += w * at.now.At(density, q) * at.now.At(soundSpeed, q)
			for n, v := range points[q].Nodes {
				value := points[q].Functions[n]
				e := s.System.Equation(r.Field, 0, v)
				if e < 0 || math.Abs(value) < vanishes {
					continue
				}
				i, known := place[e]
				if !known {
					i = len(p.equations)
					place[e], p.equations, p.share = i, append(p.equations, e), append(p.share, 0)
				}
				p.share[i] += w * value
			}
		}
		return nil
	})
	if err != nil {
		return nil, err
	}
	p.own /= p.area
	if kind := r.Sentence.Kind; kind == KeyComing || kind == KeySent {
		p.duct, err = k.section(s.System, s.State, r.Field, sides, 2*math.Pi*slices.Max(r.Model.Frequencies))
		if err != nil && !errors.Is(err, errCurved) {
			return nil, err
		}
	}
	for _, piece := range k.pieces() {
		m, load, err := piece.assemble(s.System, s.State, bodies)
		if err != nil {
			return nil, err
		}
		out := rows{factor: piece.factor, load: make([]float64, len(p.equations))}
		for i, e := range p.equations {
			cols, data := m.Row(int(e))
			out.cols, out.data = append(out.cols, slices.Clone(cols)), append(out.data, slices.Clone(data))
			if !piece.byRates {
				out.load[i] = load[e]
			}
		}
		p.rows = append(p.rows, out)
	}
	if k.patches == nil {
		k.patches = map[string]*patch{}
	}
	k.patches[r.Sentence.ID] = p
	return p, nil
}

// flow is what passes through the patch in the swing of a reading.
func (p *patch) flow(r *frame.Reading) (out flow) {
	s := r.Solution
	omega := 2 * math.Pi * s.Swing.Frequency
	out.omega = omega
	if p.duct != nil {
		out.at, out.through = map[int32]complex128{}, map[int32]complex128{}
	}
	value := func(e int32) complex128 {
		return complex(s.Swing.Real.U[e]-s.State.U[e], s.Swing.Imaginary.U[e]-s.State.U[e])
	}
	factors := make([]complex128, len(p.rows))
	for k := range p.rows {
		factors[k] = p.rows[k].factor(omega)
	}
	var through complex128
	for i, e := range p.equations {
		var gradient complex128 // ∫ N·∂p/∂n/ρ, by what the cells behind leave
		for k := range p.rows {
			row := &p.rows[k]
			sum := complex(row.load[i], 0)
			for j, c := range row.cols[i] {
				sum += complex(row.data[i][j], 0) * value(c)
			}
			gradient += factors[k] * sum
		}
		here := value(e)
		speed := gradient * complex(0, 1/omega) // times the function, over the patch
		through += speed
		if p.duct != nil {
			out.at[e], out.through[e] = here, speed
		}
		out.power += real(here*cmplx.Conj(speed)) / 2
		out.pressure += here * complex(p.share[i]/p.area, 0)
	}
	out.speed = through / complex(p.area, 0)
	return out
}
