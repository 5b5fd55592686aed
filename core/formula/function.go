package formula

import (
	"fmt"
	"maps"
	"math"
	"slices"
	"strings"

	"saltkettle/core/quantity"
)

// function is a named operation.
type function struct {
	least, most int // arguments; most 0 means any number
	// use and does are the entry of the function in the reference.
	use, does string
	build     func(b *builder, args []operand) (operand, string)
}

func (f function) arity() string {
	switch {
	case f.most == 0:
		return fmt.Sprintf("%d arguments or more", f.least)
	case f.most == 1:
		return "one argument"
	case f.least < f.most:
		return fmt.Sprintf("%d or %d arguments", f.least, f.most)
	}
	return fmt.Sprintf("%d arguments", f.least)
}

var (
	functions     map[string]function
	functionNames string
)

// The functions refer to each other through the builder, so that the table is
// filled when the program starts.
func init() {
	functions = map[string]function{
		"sqrt": {1, 1, "sqrt(a)", "the square root; halves the dimension", func(b *builder, a []operand) (operand, string) { return b.power(a[0], known(pure, 0.5)) }},
		"cbrt": {1, 1, "cbrt(a)", "the cube root", func(b *builder, a []operand) (operand, string) { return b.power(a[0], known(pure, 1./3)) }},
		"abs": {1, 1, "abs(a)", "the size without the sign", keep(&unary{math.Abs, func(x, _ float64) float64 {
			return math.Copysign(1, x)
		}, at(0)})},
		"sign": {1, 1, "sign(a)", "−1, 0 or 1", func(b *builder, a []operand) (operand, string) {
			zero := known(kindOf{dim: a[0].dim}, 0)
			return b.emit(pure, instruction{op: opSub}, b.emit(pure, instruction{op: opLess}, zero, a[0]), b.emit(pure, instruction{op: opLess}, a[0], zero)), ""
		}},
		"floor": {1, 1, "floor(n)", "the next whole number below", plain1(&unary{math.Floor, flat, wholes(0)})},
		"ceil":  {1, 1, "ceil(n)", "the next whole number above", plain1(&unary{math.Ceil, flat, wholes(0)})},
		"round": {1, 1, "round(n)", "the nearest whole number", plain1(&unary{math.Round, flat, wholes(0.5)})},
		"exp":   {1, 1, "exp(n)", "e to the power n", number1(math.Exp, func(_, y float64) float64 { return y })},
		"log":   {1, 1, "log(n)", "the natural logarithm", number1(math.Log, func(x, _ float64) float64 { return 1 / x })},
		"log10": {1, 1, "log10(n)", "the decimal logarithm", number1(math.Log10, func(x, _ float64) float64 { return 1 / (x * math.Ln10) })},
		"log2":  {1, 1, "log2(n)", "the logarithm of base 2", number1(math.Log2, func(x, _ float64) float64 { return 1 / (x * math.Ln2) })},
		"sinh":  {1, 1, "sinh(n)", "the hyperbolic sine", number1(math.Sinh, func(x, _ float64) float64 { return math.Cosh(x) })},
		"cosh":  {1, 1, "cosh(n)", "the hyperbolic cosine", number1(math.Cosh, func(x, _ float64) float64 { return math.Sinh(x) })},
		"tanh":  {1, 1, "tanh(n)", "the hyperbolic tangent", number1(math.Tanh, func(_, y float64) float64 { return 1 - y*y })},
		"erf":   {1, 1, "erf(n)", "the error function", number1(math.Erf, func(x, _ float64) float64 { return 2 / math.Sqrt(math.Pi) * math.Exp(-x*x) })},
		"sin":   {1, 1, "sin(angle)", "the sine; a plain number counts in radians", ofAngle(math.Sin, func(x, _ float64) float64 { return math.Cos(x) })},
		"cos":   {1, 1, "cos(angle)", "the cosine", ofAngle(math.Cos, func(x, _ float64) float64 { return -math.Sin(x) })},
		"tan":   {1, 1, "tan(angle)", "the tangent", ofAngle(math.Tan, func(_, y float64) float64 { return 1 + y*y })},
		"asin":  {1, 1, "asin(n)", "the angle with this sine", toAngle(math.Asin, func(x, _ float64) float64 { return 1 / math.Sqrt(1-x*x) })},
		"acos":  {1, 1, "acos(n)", "the angle with this cosine", toAngle(math.Acos, func(x, _ float64) float64 { return -1 / math.Sqrt(1-x*x) })},
		"atan":  {1, 1, "atan(n)", "the angle with this tangent", toAngle(math.Atan, func(x, _ float64) float64 { return 1 / (1 + x*x) })},
		"atan2": {2, 2, "atan2(a, b)", "the angle of the point with the abscissa b and the ordinate a", alike(opAtan2, func(kindOf) kindOf { return angle })},
		"hypot": {2, 2, "hypot(a, b)", "the root of a² + b²", alike(opHypot, func(k kindOf) kindOf { return kindOf{dim: k.dim} })},
		"mod":   {2, 2, "mod(a, b)", "what is left of a after whole multiples of b", alike(opMod, func(k kindOf) kindOf { return kindOf{dim: k.dim} })},
		"min":   {1, 0, "min(a, b, …)", "the least of the values", pick(opMin)},
		"max":   {1, 0, "max(a, b, …)", "the greatest of the values", pick(opMax)},
		"if": {3, 3, "if(comparison, a, b)", "a where the comparison holds, else b", func(b *builder, a []operand) (operand, string) {
			if a[0].dim != quantity.None {
				return a[0], "the first argument must be a comparison"
			}
			if a[1].dim != a[2].dim {
				return a[1], b.mismatch(a[1], a[2], "chosen against")
			}
			k := kindOf{a[1].dim, max(a[1].sort, a[2].sort)}
			return b.emit(k, instruction{op: opSelect}, a...), ""
		}},
		"ramp": {3, 3, "ramp(a, from, to)", "0 up to from, 1 beyond to, straight between them", func(b *builder, a []operand) (operand, string) {
			return b.step(a, &unary{func(x float64) float64 { return min(max(x, 0), 1) }, func(x, _ float64) float64 { return truth(x > 0 && x < 1) }, at(0, 1)})
		}},
		"smooth": {3, 3, "smooth(a, from, to)", "0 up to from, 1 beyond to, with continuous slope and curvature between them", func(b *builder, a []operand) (operand, string) {
			return b.step(a, smoothStep)
		}},
		"pulse": {3, 4, "pulse(a, from, to, edge)", "1 between from and to, else 0; with an edge it rises and falls smoothly over that width", func(b *builder, a []operand) (operand, string) {
			if why := b.same(a...); why != "" {
				return a[0], why
			}
			if len(a) == 3 {
				after := b.emit(pure, instruction{op: opLessEqual}, a[1], a[0])
				return b.emit(pure, instruction{op: opAnd}, after, b.emit(pure, instruction{op: opLess}, a[0], a[2])), ""
			}
			half := b.emit(kindOf{dim: a[3].dim}, instruction{op: opMul}, a[3], known(pure, 0.5))
			edge := func(at operand) (operand, string) {
				return b.step([]operand{a[0], b.emit(at.kindOf, instruction{op: opSub}, at, half), b.emit(at.kindOf, instruction{op: opAdd}, at, half)}, smoothStep)
			}
			up, why := edge(a[1])
			if why != "" {
				return up, why
			}
			down, why := edge(a[2])
			return b.emit(pure, instruction{op: opSub}, up, down), why
		}},
		"square": {2, 3, "square(a, period, share)", "1 in the first share (a half) of every period, else 0", func(b *builder, a []operand) (operand, string) {
			part, why := b.phase(a[0], a[1])
			share := known(pure, 0.5)
			if len(a) == 3 {
				share = a[2]
			}
			if why == "" && share.dim != quantity.None {
				why = "the share must be a plain number between 0 and 1, not " + share.dim.Name()
			}
			return b.emit(pure, instruction{op: opLess}, part, share), why
		}},
		"triangle": {2, 2, "triangle(a, period)", "0 at the beginning of every period, 1 in its middle, straight between them", func(b *builder, a []operand) (operand, string) {
			part, why := b.phase(a[0], a[1])
			fold := &unary{func(x float64) float64 { return 1 - math.Abs(2*x-1) }, func(x, _ float64) float64 { return math.Copysign(2, 0.5-x) }, at(0.5)}
			return b.emit(pure, instruction{op: opUnary, unary: fold}, part), why
		}},
	}
	functionNames = strings.Join(slices.Sorted(maps.Keys(functions)), ", ")
}

// smoothStep is the quintic from 0 to 1 whose slope and curvature vanish at both
// ends.
var smoothStep = &unary{
	func(x float64) float64 { x = min(max(x, 0), 1); return x * x * x * (10 + x*(6*x-15)) },
	func(x, _ float64) float64 { x = min(max(x, 0), 1); return 30 * x * x * (1 - x) * (1 - x) },
	at(0, 1),
}

func flat(_, _ float64) float64 { return 0 }

// same says why values cannot stand together, "" if they can.
func (b *builder) same(args ...operand) string {
	for _, a := range args[1:] {
		if a.dim != args[0].dim {
			return b.mismatch(args[0], a, "set against")
		}
	}
	return ""
}

// step is a function of (a − from)/(to − from).
func (b *builder) step(a []operand, f *unary) (operand, string) {
	if why := b.same(a...); why != "" {
		return a[0], why
	}
	if a[1].constant && a[2].constant && !(a[1].value < a[2].value) {
		return a[0], fmt.Sprintf("%s must be less than %s", b.text(a[1]), b.text(a[2]))
	}
	along := b.emit(kindOf{dim: a[0].dim}, instruction{op: opSub}, a[0], a[1])
	whole := b.emit(kindOf{dim: a[0].dim}, instruction{op: opSub}, a[2], a[1])
	return b.emit(pure, instruction{op: opUnary, unary: f}, b.emit(pure, instruction{op: opDiv}, along, whole)), ""
}

// phase is which part of its period a has gone through, from 0 to 1.
func (b *builder) phase(a, period operand) (operand, string) {
	if why := b.same(a, period); why != "" {
		return a, why
	}
	if period.constant && !(period.value > 0) {
		return a, "the period must be greater than zero"
	}
	return b.emit(pure, instruction{op: opMod}, b.emit(pure, instruction{op: opDiv}, a, period), known(pure, 1)), ""
}

type builtin = func(b *builder, args []operand) (operand, string)

// number1 is a function of a plain number.
func number1(f func(float64) float64, d func(x, fx float64) float64) builtin {
	return plain1(&unary{f: f, d: d})
}

func plain1(u *unary) builtin {
	return func(b *builder, a []operand) (operand, string) {
		if a[0].dim != quantity.None {
			return a[0], "the argument must be a plain number, not " + a[0].dim.Name()
		}
		return b.emit(pure, instruction{op: opUnary, unary: u}, a[0]), ""
	}
}

// keep is a function that keeps the dimension.
func keep(u *unary) builtin {
	return func(b *builder, a []operand) (operand, string) {
		if a[0].sort == scale {
			return a[0], "a temperature on a scale has no size of its own"
		}
		return b.emit(kindOf{dim: a[0].dim}, instruction{op: opUnary, unary: u}, a[0]), ""
	}
}

func ofAngle(f func(float64) float64, d func(x, fx float64) float64) builtin {
	u := &unary{f: f, d: d}
	return func(b *builder, a []operand) (operand, string) {
		if a[0].dim != quantity.None && a[0].dim != angle.dim {
			return a[0], "the argument must be an angle, not " + a[0].dim.Name()
		}
		return b.emit(pure, instruction{op: opUnary, unary: u}, a[0]), ""
	}
}

func toAngle(f func(float64) float64, d func(x, fx float64) float64) builtin {
	p := number1(f, d)
	return func(b *builder, a []operand) (operand, string) {
		o, why := p(b, a)
		o.kindOf = angle
		return o, why
	}
}

// alike is a function of two values of one dimension.
func alike(op opcode, kind func(kindOf) kindOf) builtin {
	return func(b *builder, a []operand) (operand, string) {
		if why := b.same(a...); why != "" {
			return a[0], why
		}
		return b.emit(kind(a[0].kindOf), instruction{op: op}, a...), ""
	}
}

func pick(op opcode) builtin {
	return func(b *builder, a []operand) (operand, string) {
		if why := b.same(a...); why != "" {
			return a[0], why
		}
		best := a[0]
		for _, x := range a[1:] {
			best = b.emit(kindOf{best.dim, max(best.sort, x.sort)}, instruction{op: op}, best, x)
		}
		return best, ""
	}
}
