package eddy

import "math"

// dual is a number with its derivatives by what a model depends on at a point, see [State].
type dual struct {
	v float64
	d [Inputs]float64
}

// of is a number that depends on one of them alone, as it is.
func of(v float64, by int) (x dual) {
	x.v, x.d[by] = v, 1
	return x
}

// fixed is one that depends on nothing.
func fixed(v float64) dual { return dual{v: v} }

// with is a function of x, by its value and its slope.
func (x dual) with(v, slope float64) dual {
	x.v = v
	for i := range x.d {
		x.d[i] *= slope
	}
	return x
}

func (x dual) plus(y dual) dual {
	x.v += y.v
	for i := range x.d {
		x.d[i] += y.d[i]
	}
	return x
}

func (x dual) less(y dual) dual { return x.plus(y.scaled(-1)) }

func (x dual) scaled(by float64) dual { return x.with(x.v*by, by) }

func (x dual) times(y dual) dual {
	for i := range x.d {
		x.d[i] = x.d[i]*y.v + x.v*y.d[i]
	}
	x.v *= y.v
	return x
}

func (x dual) over(y dual) dual {
	inverse := 1 / y.v
	x.v *= inverse
	for i := range x.d {
		x.d[i] = (x.d[i] - x.v*y.d[i]) * inverse
	}
	return x
}

func (x dual) root() dual {
	r := math.Sqrt(x.v)
	return x.with(r, 0.5/r)
}

func (x dual) square() dual { return x.with(x.v*x.v, 2*x.v) }

func (x dual) tanh() dual {
	t := math.Tanh(x.v)
	return x.with(t, 1-t*t)
}

// rounds is how wide the edge is over which the larger of two numbers becomes the other, over these: on a sharp one iterations may
// go to and fro for ever.
const rounds = 0.01

// larger is the larger of two that are positive, and at an edge a little more than both.
func larger(x, y dual) dual {
	return x.plus(y).plus(x.edge(y)).scaled(0.5)
}

// smaller is the smaller of two that are positive, and at an edge a little less than both.
func smaller(x, y dual) dual {
	if x.v == 0 && y.v == 0 {
		return x
	}
	// Not half of their sum less their difference, which would be nothing where one is far larger.
	return x.times(y).over(x.plus(y).plus(x.edge(y))).scaled(2 * (1 - rounds*rounds))
}

// edge is the difference of two that are positive, without a sign, where they are far apart.
func (x dual) edge(y dual) dual {
	if x.v == 0 && y.v == 0 {
		return dual{}
	}
	return x.less(y).square().plus(x.times(y).scaled(4 * rounds * rounds)).root()
}

// mixed is a where how is 1, and b where it is nothing.
func mixed(how dual, a, b float64) dual { return how.with(b+how.v*(a-b), a-b) }
