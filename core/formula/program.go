package formula

import (
	"fmt"
	"math"

	"saltkettle/core/quantity"
)

// Variable is something that a formula may use and that differs from point to
// point or from moment to moment.
type Variable struct {
	Name      string
	Dimension quantity.Dimension
	// Temperature marks a temperature above absolute zero.
	Temperature bool
}

// Program is a formula that has been checked for dimensions and made ready for
// evaluation over many points at once.
type Program struct {
	Dimension quantity.Dimension
	// Affine says that the result is a temperature on a scale, in K.
	Affine bool
	// Reductions of the formula; the value of each is an input of Run after the
	// variables.
	Reductions []Reduction

	text      string
	value     float64 // of a program without code
	result    int32
	code      []instruction
	constants []constant
	inputs    int
	registers int
	uses      []bool // per input
}

type constant struct {
	register int32
	value    float64
}

// Reduction is a number taken from a field: the greatest, least or mean value of
// a quantity, or its total, over a region or along a line, or its value at a
// point.
type Reduction struct {
	Kind     string // "greatest", "least", "mean", "total", "at", or one of those over time alone
	Quantity *Program
	Region   Region
	// Points are the ends of a line, or a point, m; empty for a region.
	Points [][3]float64
	// InTime says that it runs over time: the inputs of Quantity are then what is followed,
	// and Moments, SI, are the ends of a span, a moment, a value that is crossed or a period.
	InTime  bool
	Moments []float64
}

// String returns the formula as it was written.
func (p *Program) String() string { return p.text }

// Constant returns the value if it is the same everywhere.
func (p *Program) Constant() (float64, bool) { return p.value, p.inputs == 0 || !p.varies() }

func (p *Program) varies() bool { return len(p.code) > 0 || int(p.result) < p.inputs }

// Uses says whether the value depends on the input with the given number.
func (p *Program) Uses(input int) bool { return input < len(p.uses) && p.uses[input] }

// block is how many points are evaluated together: few enough for the columns
// of a formula to stay in the nearest cache.
const block = 128

// Work is the memory for evaluating one program. It serves one goroutine.
type Work struct {
	p     *Program
	reg   [][]float64
	seeds []int
	// slope of each register with respect to each seed; nil where it is zero.
	slope [][][]float64
}

// NewWork returns memory for p, with derivatives by the inputs with the numbers
// seeds.
func (p *Program) NewWork(seeds ...int) *Work {
	w := &Work{p: p, reg: make([][]float64, p.registers), seeds: seeds}
	store := make([]float64, block*p.registers)
	for r := range w.reg {
		w.reg[r] = store[block*r : block*(r+1) : block*(r+1)]
	}
	for _, c := range p.constants {
		for i := range w.reg[c.register] {
			w.reg[c.register][i] = c.value
		}
	}
	if !p.varies() {
		return w
	}
	one := make([]float64, block)
	for i := range one {
		one[i] = 1
	}
	for _, seed := range seeds {
		s := make([][]float64, p.registers)
		s[seed] = one
		for i := range p.code {
			in := &p.code[i]
			if in.differentiable() && (s[in.a] != nil || in.b >= 0 && s[in.b] != nil || in.c >= 0 && s[in.c] != nil) {
				s[in.out] = make([]float64, block)
			}
		}
		w.slope = append(w.slope, s)
	}
	return w
}

func (in *instruction) differentiable() bool { return in.op < opLess || in.op > opOr }

// column returns a register, nil for none.
func column(list [][]float64, r int32) []float64 {
	if r < 0 {
		return nil
	}
	return list[r]
}

// Run evaluates the program at len(out) points. in has a column for each
// variable and each reduction; columns that the program does not use may be nil.
// slopes has a column for each seed of the work.
func (w *Work) Run(in [][]float64, out []float64, slopes ...[]float64) {
	p := w.p
	if !p.varies() {
		for i := range out {
			out[i] = p.value
		}
		for _, s := range slopes {
			clear(s[:len(out)])
		}
		return
	}
	for lo := 0; lo < len(out); lo += block {
		n := min(block, len(out)-lo)
		for v := range p.inputs {
			if p.uses[v] {
				w.reg[v] = in[v][lo : lo+n]
			}
		}
		for i := range p.code {
			c := &p.code[i]
			c.values(w.reg[c.out][:n], w.reg[c.a], column(w.reg, c.b), column(w.reg, c.c))
		}
		copy(out[lo:], w.reg[p.result][:n])
		for k := range w.seeds {
			s := w.slope[k]
			for i := range p.code {
				c := &p.code[i]
				if s[c.out] == nil {
					continue
				}
				cut := func(r int32) []float64 {
					if r < 0 || s[r] == nil {
						return nil
					}
					return s[r][:n]
				}
				c.slopes(s[c.out][:n], w.reg[c.out], w.reg[c.a], column(w.reg, c.b), column(w.reg, c.c), cut(c.a), cut(c.b), cut(c.c))
			}
			if d := s[p.result]; d != nil {
				copy(slopes[k][lo:lo+n], d)
			} else {
				clear(slopes[k][lo : lo+n])
			}
		}
	}
}

// At evaluates the program at one point.
func (p *Program) At(in ...float64) float64 {
	columns := make([][]float64, len(in))
	for i := range in {
		columns[i] = in[i : i+1]
	}
	var out [1]float64
	p.NewWork().Run(columns, out[:])
	return out[0]
}

// finite says whether a number can be a result.
func finite(x float64) bool { return !math.IsNaN(x) && !math.IsInf(x, 0) }

// Fixed returns the program of a number that is the same everywhere.
func Fixed(si float64) *Program { return &Program{value: si, text: fmt.Sprint(si)} }
