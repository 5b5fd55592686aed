package formula

import (
	"fmt"
	"math"
	"slices"
)

// Beyond says what a table does outside its rows.
type Beyond string

// What a table may do outside its rows.
const (
	Hold   Beyond = "hold"   // keeps the value of the last row
	Extend Beyond = "extend" // goes on along the slope at the end
	Refuse Beyond = "refuse" // is undefined, which ends the run with an error
)

// Beyonds lists what may be written after the rows.
var Beyonds = []Beyond{Hold, Extend, Refuse}

// maxRows bounds a table.
const maxRows = 1000

// Table is a function of one number given by rows.
type Table struct {
	x, y   []float64
	slope  []float64 // at the rows, for smooth tables
	beyond Beyond
}

// NewTable makes a table from rows with ascending x: straight between the rows,
// or smooth and monotone where the rows are (F. N. Fritsch, J. Butland, A method
// for constructing local monotone piecewise cubic interpolants, SIAM J. Sci.
// Stat. Comput. 5, 1984).
func NewTable(x, y []float64, smooth bool, beyond Beyond) (*Table, error) {
	if len(x) < 2 || len(x) != len(y) {
		return nil, fmt.Errorf("a table needs two rows or more")
	}
	for i := 1; i < len(x); i++ {
		if !(x[i] > x[i-1]) {
			return nil, fmt.Errorf("the rows must ascend; row %d does not", i+1)
		}
	}
	t := &Table{x: x, y: y, beyond: beyond}
	if smooth && len(x) > 2 {
		t.slope = monotoneSlopes(x, y)
	}
	return t, nil
}

func monotoneSlopes(x, y []float64) []float64 {
	n := len(x)
	h := func(i int) float64 { return x[i+1] - x[i] }
	d := func(i int) float64 { return (y[i+1] - y[i]) / h(i) }
	s := make([]float64, n)
	for i := 1; i < n-1; i++ {
		a, b := d(i-1), d(i)
		if a*b > 0 {
			// The harmonic mean, weighted by the lengths of both sides.
			w1, w2 := 2*h(i)+h(i-1), h(i)+2*h(i-1)
			s[i] = (w1 + w2) / (w1/a + w2/b)
		}
	}
	end := func(h0, h1, d0, d1 float64) float64 {
		v := ((2*h0+h1)*d0 - h0*d1) / (h0 + h1)
		switch {
		case v*d0 <= 0:
			return 0
		case d0*d1 <= 0 && math.Abs(v) > 3*math.Abs(d0):
			return 3 * d0
		}
		return v
	}
	if s[0] = end(h(0), h(1), d(0), d(1)); x[0] == 0 && y[0] == 0 {
		// It is taken to go on with the other sign on the other side, as flux density over field strength does: the same rule as
		// between rows then gives the slope of its first piece, where the one for ends may give none.
		s[0] = d(0)
	}
	s[n-1] = end(h(n-2), h(n-3), d(n-2), d(n-3))
	return s
}

// At evaluates the table; outside a table that refuses the result is NaN.
func (t *Table) At(x float64) float64 {
	near := 0
	y, _ := t.at(x, &near)
	return y
}

// Slope is the derivative.
func (t *Table) Slope(x float64) float64 {
	near := 0
	_, s := t.at(x, &near)
	return s
}

// at also takes and leaves the number of a row near x, from 0: places that follow each other
// mostly lie between the same rows.
func (t *Table) at(x float64, near *int) (y, slope float64) {
	n := len(t.x)
	if x != x {
		return x, x
	}
	if x < t.x[0] || x > t.x[n-1] {
		end := 0
		if x > t.x[0] {
			end = n - 1
		}
		switch t.beyond {
		case Extend:
			_, s := t.at(t.x[end], near)
			return t.y[end] + s*(x-t.x[end]), s
		case Refuse:
			return math.NaN(), math.NaN()
		}
		return t.y[end], 0
	}
	i := *near
	if !(x > t.x[i] && x <= t.x[i+1]) {
		k, _ := slices.BinarySearch(t.x, x)
		i = min(max(k, 1), n-1) - 1
		*near = i
	}
	h := t.x[i+1] - t.x[i]
	d := (t.y[i+1] - t.y[i]) / h
	u := x - t.x[i]
	if t.slope == nil {
		return t.y[i] + d*u, d
	}
	s0, s1 := t.slope[i], t.slope[i+1]
	c2 := (3*d - 2*s0 - s1) / h
	c3 := (s0 + s1 - 2*d) / (h * h)
	return t.y[i] + u*(s0+u*(c2+u*c3)), s0 + u*(2*c2+3*u*c3)
}
