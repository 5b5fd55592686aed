package formula

import "math"

// opcode is an operation on columns of numbers.
type opcode uint8

const (
	opAdd opcode = iota
	opSub
	opMul
	opDiv
	opPow
	opNeg
	opMin
	opMax
	opLess
	opLessEqual
	opEqual
	opNotEqual
	opAnd
	opOr
	opSelect // c where a is zero, else b
	opMod    // a less the whole multiples of b
	opAtan2
	opHypot
	opUnary
	opTable
	opCall
)

// unary is a function of one plain number with its derivative, which may use
// the value of the function.
type unary struct {
	f func(x float64) float64
	d func(x, fx float64) float64
	// kinks are the arguments at which it jumps or bends; nil where it is smooth.
	kinks levels
}

// instruction computes register out from the registers a, b and c.
type instruction struct {
	op           opcode
	out, a, b, c int32
	unary        *unary
	table        *Table
	call         func(a, b, c float64) float64
}

// callStep is the step, relative to its size, by which an argument is changed for the slope of
// a function that states none.
const callStep = 1e-4

// called is the function of an instruction at a place, with one of its arguments changed.
func (in *instruction) called(a, b, c []float64, i, changed int, by float64) float64 {
	var v [3]float64
	for k, list := range [3][]float64{a, b, c} {
		if list != nil {
			v[k] = list[i]
		}
	}
	v[changed] += by
	return in.call(v[0], v[1], v[2])
}

func truth(b bool) float64 {
	if b {
		return 1
	}
	return 0
}

// values computes the column out.
func (in *instruction) values(out, a, b, c []float64) {
	a = a[:len(out)]
	if b != nil {
		b = b[:len(out)]
	}
	switch in.op {
	case opAdd:
		for i := range out {
			out[i] = a[i] + b[i]
		}
	case opSub:
		for i := range out {
			out[i] = a[i] - b[i]
		}
	case opMul:
		for i := range out {
			out[i] = a[i] * b[i]
		}
	case opDiv:
		for i := range out {
			out[i] = a[i] / b[i]
		}
	case opPow:
		for i := range out {
			out[i] = math.Pow(a[i], b[i])
		}
	case opNeg:
		for i := range out {
			out[i] = -a[i]
		}
	case opMin:
		for i := range out {
			out[i] = min(a[i], b[i])
		}
	case opMax:
		for i := range out {
			out[i] = max(a[i], b[i])
		}
	case opLess:
		for i := range out {
			out[i] = truth(a[i] < b[i])
		}
	case opLessEqual:
		for i := range out {
			out[i] = truth(a[i] <= b[i])
		}
	case opEqual:
		for i := range out {
			out[i] = truth(a[i] == b[i])
		}
	case opNotEqual:
		for i := range out {
			out[i] = truth(a[i] != b[i])
		}
	case opAnd:
		for i := range out {
			out[i] = truth(a[i] != 0 && b[i] != 0)
		}
	case opOr:
		for i := range out {
			out[i] = truth(a[i] != 0 || b[i] != 0)
		}
	case opSelect:
		for i := range out {
			if a[i] != 0 {
				out[i] = b[i]
			} else {
				out[i] = c[i]
			}
		}
	case opMod:
		for i := range out {
			out[i] = a[i] - b[i]*math.Floor(a[i]/b[i])
		}
	case opAtan2:
		for i := range out {
			out[i] = math.Atan2(a[i], b[i])
		}
	case opHypot:
		for i := range out {
			out[i] = math.Hypot(a[i], b[i])
		}
	case opUnary:
		for i := range out {
			out[i] = in.unary.f(a[i])
		}
	case opTable:
		near := 0
		for i := range out {
			out[i], _ = in.table.at(a[i], &near)
		}
	case opCall:
		for i := range out {
			out[i] = in.called(a, b, c, i, 0, 0)
		}
	}
}

// slopes computes the derivative of the column out, whose values y have been
// computed, from those of a, b and c. A nil derivative is zero.
func (in *instruction) slopes(dy, y, a, b, c, da, db, dc []float64) {
	clear(dy)
	switch in.op {
	case opAdd, opSub:
		sign := 1.0
		if in.op == opSub {
			sign = -1
		}
		copy(dy, da)
		for i := range db {
			dy[i] += sign * db[i]
		}
	case opMul:
		for i := range da {
			dy[i] = da[i] * b[i]
		}
		for i := range db {
			dy[i] += a[i] * db[i]
		}
	case opDiv:
		for i := range da {
			dy[i] = da[i] / b[i]
		}
		for i := range db {
			dy[i] -= y[i] / b[i] * db[i]
		}
	case opPow:
		for i := range da {
			if da[i] != 0 {
				dy[i] = b[i] * math.Pow(a[i], b[i]-1) * da[i]
			}
		}
		for i := range db {
			if db[i] != 0 && a[i] > 0 {
				dy[i] += y[i] * math.Log(a[i]) * db[i]
			}
		}
	case opNeg:
		for i := range da {
			dy[i] = -da[i]
		}
	case opMin, opMax:
		for i := range dy {
			from := db
			if y[i] == a[i] {
				from = da
			}
			if from != nil {
				dy[i] = from[i]
			}
		}
	case opSelect:
		for i := range dy {
			from := dc
			if a[i] != 0 {
				from = db
			}
			if from != nil {
				dy[i] = from[i]
			}
		}
	case opMod:
		copy(dy, da)
		for i := range db {
			dy[i] -= math.Floor(a[i]/b[i]) * db[i]
		}
	case opAtan2:
		for i := range da {
			dy[i] = da[i] * b[i] / (a[i]*a[i] + b[i]*b[i])
		}
		for i := range db {
			dy[i] -= db[i] * a[i] / (a[i]*a[i] + b[i]*b[i])
		}
	case opHypot:
		for i := range dy {
			if y[i] == 0 {
				continue
			}
			if da != nil {
				dy[i] = da[i] * a[i] / y[i]
			}
			if db != nil {
				dy[i] += db[i] * b[i] / y[i]
			}
		}
	case opUnary:
		for i := range da {
			if da[i] != 0 {
				dy[i] = da[i] * in.unary.d(a[i], y[i])
			}
		}
	case opTable:
		near := 0
		for i := range da {
			if da[i] != 0 {
				_, slope := in.table.at(a[i], &near)
				dy[i] = da[i] * slope
			}
		}
	case opCall:
		for k, d := range [3][]float64{da, db, dc} {
			for i := range d {
				if d[i] != 0 {
					h := callStep * math.Max(math.Abs([3][]float64{a, b, c}[k][i]), callStep)
					dy[i] += d[i] * (in.called(a, b, c, i, k, h) - in.called(a, b, c, i, k, -h)) / (2 * h)
				}
			}
		}
	}
}
