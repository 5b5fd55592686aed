package formula

import (
	"fmt"
	"math"
	"slices"
)

// levels says at which values of its argument a function has a kink or a jump, between
// two values that it takes.
type levels func(lo, hi float64) []float64

func at(list ...float64) levels { return func(_, _ float64) []float64 { return list } }

// wholes are the whole numbers, moved by a part, within a range.
func wholes(part float64) levels {
	return func(lo, hi float64) []float64 {
		if hi-lo > mostLevels {
			return make([]float64, mostLevels+1) // too many to be listed, as the caller finds
		}
		var list []float64
		for n := math.Floor(lo - part); n+part <= hi; n++ {
			list = append(list, n+part)
		}
		return list
	}
}

const mostLevels = 1 << 20

// kinks lists, for an instruction, the columns of which a value counts, as the difference of
// two registers or a ratio, and at which of its values the result may jump or bend.
func (in *instruction) kinks() (g func(reg [][]float64, i int) float64, at levels) {
	difference := func(reg [][]float64, i int) float64 { return reg[in.a][i] - reg[in.b][i] }
	argument := func(reg [][]float64, i int) float64 { return reg[in.a][i] }
	switch in.op {
	case opLess, opLessEqual, opEqual, opNotEqual, opMin, opMax:
		return difference, zero
	case opSelect, opAnd, opOr:
		return argument, zero
	case opMod:
		return func(reg [][]float64, i int) float64 { return reg[in.a][i] / reg[in.b][i] }, wholes(0)
	case opTable:
		return argument, func(lo, hi float64) []float64 {
			from, _ := slices.BinarySearch(in.table.x, lo)
			to, _ := slices.BinarySearch(in.table.x, hi)
			return in.table.x[max(from-1, 0):min(to+1, len(in.table.x))]
		}
	case opUnary:
		if in.unary.kinks != nil {
			return argument, in.unary.kinks
		}
	}
	return nil, nil
}

var zero = at(0)

// Breaks returns the places between two values of an input, ascending, at which the program
// or a part of it that depends on this input alone may jump or have a kink: where a
// comparison changes, a table has a row, a ramp begins or ends, a period starts. Those that
// also depend on other inputs are not found. More than most of them are an error.
func (p *Program) Breaks(input int, from, to float64, most int) ([]float64, error) {
	if !p.Uses(input) || !(to > from) {
		return nil, nil
	}
	b := &breaks{p: p, work: p.NewWork(), input: input, alone: make([]bool, p.registers), knots: []float64{from, to}, least: 1e-12 * (to - from)}
	for i := p.inputs; i < p.registers; i++ {
		b.alone[i] = true // constants, until an instruction says otherwise
	}
	b.alone[input] = true
	for i := range p.code {
		in := &p.code[i]
		b.alone[in.out] = b.alone[in.a] && (in.b < 0 || b.alone[in.b]) && (in.c < 0 || b.alone[in.c])
		args := b.alone[in.a] && (in.b < 0 || b.alone[in.b] || in.op == opSelect || in.op == opAnd || in.op == opOr)
		if g, levels := in.kinks(); g != nil && args {
			if err := b.find(g, levels, most); err != nil {
				return nil, err
			}
		}
	}
	return b.knots[1 : len(b.knots)-1], nil
}

// breaks is a search under way. Between neighbouring knots all that has been looked at is
// smooth.
type breaks struct {
	p     *Program
	work  *Work
	input int
	alone []bool // by register: it depends on the input alone
	knots []float64
	least float64 // between two knots
}

// Points at which a smooth piece is looked at, and how far from its ends these stay.
const (
	looks = 48
	inset = 1e-9
)

func (b *breaks) find(g func(reg [][]float64, i int) float64, at levels, most int) error {
	var found []float64
	x := make([]float64, looks+1)
	for k := 1; k < len(b.knots); k++ {
		lo, hi := b.knots[k-1], b.knots[k]
		width := hi - lo
		for i := range x {
			x[i] = lo + width*(inset+(1-2*inset)*float64(i)/looks)
		}
		y := b.values(g, x)
		low, high := slices.Min(y), slices.Max(y)
		if !(low < high) || math.IsNaN(low) || math.IsInf(high-low, 0) {
			continue // it does not change here
		}
		straight := true
		for i := range y {
			straight = straight && math.Abs(y[i]-(y[0]+(y[looks]-y[0])*float64(i)/looks)) <= 1e-12*max(high-low, 1e-3*max(math.Abs(high), math.Abs(low)))
		}
		slack := 2 * inset * (high - low)
		list := at(low-slack, high+slack)
		if len(found)+len(b.knots)+len(list) > most+2 && len(list) > looks {
			return fmt.Errorf("its value changes abruptly more than %d times", most)
		}
		for _, level := range list {
			if straight {
				found = append(found, x[0]+(level-y[0])/(y[looks]-y[0])*(x[looks]-x[0]))
				continue
			}
			for i := range looks {
				if (y[i] < level) != (y[i+1] < level) {
					found = append(found, b.cross(g, level, x[i], x[i+1], y[i] < level))
				}
			}
		}
	}
	from, to := b.knots[0], b.knots[len(b.knots)-1]
	for _, f := range found {
		if f > from+b.least && f < to-b.least {
			b.knots = append(b.knots, f)
		}
	}
	slices.Sort(b.knots)
	kept := b.knots[:1]
	for _, f := range b.knots[1:] {
		if f-kept[len(kept)-1] > b.least {
			kept = append(kept, f)
		}
	}
	b.knots = kept
	if len(b.knots) > most+2 {
		return fmt.Errorf("its value changes abruptly more than %d times", most)
	}
	return nil
}

// values of what counts at some values of the input; all other inputs are 1.
func (b *breaks) values(g func(reg [][]float64, i int) float64, x []float64) []float64 {
	in := make([][]float64, b.p.inputs)
	for v := range in {
		in[v] = make([]float64, len(x))
		for i := range in[v] {
			in[v][i] = 1
		}
	}
	in[b.input] = x
	out := make([]float64, len(x))
	b.work.Run(in, out)
	for i := range out {
		out[i] = g(b.work.reg, i)
	}
	return out
}

// cross is where a value passes a level between two places.
func (b *breaks) cross(g func(reg [][]float64, i int) float64, level, lo, hi float64, rises bool) float64 {
	for range 60 {
		mid := lo + (hi-lo)/2
		if mid <= lo || mid >= hi {
			break
		}
		if (b.values(g, []float64{mid})[0] < level) == rises {
			lo = mid
		} else {
			hi = mid
		}
	}
	return hi
}
