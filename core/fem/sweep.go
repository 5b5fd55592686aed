package fem

import (
	"context"
	"math"
	"math/cmplx"
	"slices"

	"saltkettle/core/parallel"
)

// What swings at many frequencies is found from few: the amplitudes at some of them, with their derivatives by the frequency there, span
// what they are at all others, as long as what is left of the equations says so (A. Buffa, Y. Maday, A. T. Patera, C. Prud'homme, G. Turinici,
// ESAIM: M2AN 46 (2012) 595, has the choice of the next where most is left; J. S. Hesthaven, G. Rozza, B. Stamm, Certified Reduced Basis
// Methods, 2016).

const (
	// fewFrequencies is up to how many are each solved for.
	fewFrequencies = 8
	// derivatives by the frequency that are taken where the whole system is solved.
	derivatives = 3
	// sureOf is at how many frequencies in turn, each of them where most of the equations is not kept, the amplitudes must be right.
	sureOf = 2
	// dependent is how short what a vector adds to a basis may be, of its own length, to be left out.
	dependent = 1e-10
)

// Sweep calls each with the amplitudes at every angular frequency, rad/s, in their order, and says how many of these were solved for with
// the whole system and by how much, of the largest amplitude of a field there, those in between were wrong where that was looked at last: no more
// than a tolerance, where the equations are furthest from being kept.
func (r *Response) Sweep(ctx context.Context, omegas []float64, tolerance float64, each func(i int, amplitude []complex128) error) (solved int, wrong float64, err error) {
	tell := func(i int, x []complex128) error {
		if r.relation != nil {
			inParts(x, r.relation.step)
		}
		return each(i, x)
	}
	if len(omegas) <= fewFrequencies {
		for i, omega := range omegas {
			if err := ctx.Err(); err != nil {
				return i, 0, err
			}
			x, err := r.at(ctx, omega)
			if err != nil {
				return i, 0, err
			}
			if err := tell(i, x); err != nil {
				return i, 0, err
			}
		}
		return len(omegas), 0, nil
	}
	s := newSweep(r, omegas)
	next, good := len(omegas)/2, 0
	for good < sureOf {
		if err := ctx.Err(); err != nil {
			return solved, wrong, err
		}
		wrong, err = s.solve(ctx, next)
		if err != nil {
			return solved, wrong, err
		}
		solved++
		if good++; wrong > tolerance || solved == 1 {
			good = 0
		}
		s.look()
		if next = s.furthest(); next < 0 {
			break
		}
	}
	for i := range omegas {
		if err := ctx.Err(); err != nil {
			return solved, wrong, err
		}
		x := slices.Clone(s.known[i])
		if x == nil {
			x = s.reduced(i)
		}
		for e := range x {
			x[e] *= complex(s.sizes[e], 0)
		}
		if slices.ContainsFunc(x, cmplx.IsNaN) || slices.ContainsFunc(x, cmplx.IsInf) {
			// The basis meets a resonance: the whole system says whether there is one.
			if x, err = r.at(ctx, omegas[i]); err != nil {
				return solved, wrong, err
			}
			solved++
		}
		if err := tell(i, x); err != nil {
			return solved, wrong, err
		}
	}
	return solved, wrong, nil
}

// sweep is a response in a basis of few vectors, all in unknowns and equations of one size.
type sweep struct {
	*Response
	list   []term
	omegas []float64
	still  []complex128   // held amplitudes
	basis  [][]complex128 // orthonormal
	// columns are what the right side consists of and then, by vector of the basis and term, what the matrices make of these, all on the rows that
	// are not held; gram has the products of them, and small those with the basis: by vector and column.
	columns [][]complex128
	loads   []func(omega float64) complex128
	gram    [][]complex128
	small   [][]complex128
	left    []float64 // by frequency: what of the equations is not kept, of the load
	known   map[int][]complex128
}

// newSweep prepares one.
func newSweep(r *Response, omegas []float64) *sweep {
	s := &sweep{Response: r, list: r.terms(), omegas: omegas, still: r.held(), left: make([]float64, len(omegas)), known: map[int][]complex128{}}
	for i := range s.still {
		s.still[i] /= complex(r.sizes[i], 0)
	}
	add := func(v []complex128, factor func(omega float64) complex128) {
		for i := range v {
			if v[i] *= complex(r.sizes[i], 0); s.holds(i) {
				v[i] = 0
			}
		}
		s.loads = append(s.loads, factor)
		s.column(v)
	}
	add(slices.Clone(r.Load), func(float64) complex128 { return 1 })
	for _, share := range r.Shares {
		if share.Load == nil {
			continue
		}
		v := make([]complex128, len(share.Load))
		for i, x := range share.Load {
			v[i] = complex(x, 0)
		}
		add(v, share.Factor)
	}
	if slices.ContainsFunc(s.still, func(v complex128) bool { return v != 0 }) {
		for k := range s.list {
			factor := s.list[k].factor
			s.loads = append(s.loads, func(omega float64) complex128 { return -factor(omega) })
			s.column(s.product(&s.list[k], s.still))
		}
	}
	return s
}

// column takes in one, with its products with the others.
func (s *sweep) column(v []complex128) {
	s.columns = append(s.columns, v)
	row := make([]complex128, len(s.columns))
	for i, other := range s.columns {
		row[i] = overlap(v, other)
	}
	for i := range s.gram {
		s.gram[i] = append(s.gram[i], cmplx.Conj(row[i]))
	}
	s.gram = append(s.gram, row)
	for i, q := range s.basis[:len(s.small)] {
		s.small[i] = append(s.small[i], overlap(q, v))
	}
}

// product is a term's matrix times a vector, on the rows that are not held.
func (s *sweep) product(t *term, x []complex128) []complex128 {
	y, m := make([]complex128, len(x)), t.matrix
	if m == nil {
		var sum complex128
		for i, a := range t.along {
			sum += complex(a*s.sizes[i], 0) * x[i]
		}
		for i, a := range t.along {
			if a != 0 && !s.holds(i) {
				y[i] = sum * complex(a*s.sizes[i], 0)
			}
		}
		return y
	}
	parallel.For(len(x), 2048, func(_, lo, hi int) {
		for i := lo; i < hi; i++ {
			if s.holds(i) {
				continue
			}
			cols, data := m.Row(i)
			var sum complex128
			for k, c := range cols {
				sum += complex(data[k]*s.sizes[c], 0) * x[c]
			}
			y[i] = sum * complex(s.sizes[i], 0)
		}
	})
	return y
}

// load is the right side with what held values give, on the rows that are not held.
func (s *sweep) load(omega float64) []complex128 {
	b := make([]complex128, len(s.still))
	for k, factor := range s.loads {
		by := factor(omega)
		for i, v := range s.columns[k] {
			b[i] += by * v
		}
	}
	at, load := s.arrives(omega)
	for i, e := range at {
		b[e] += load[i]
	}
	return b
}

// arrives is the load that depends on the frequency in any way, in the sizes of the sweep.
func (s *sweep) arrives(omega float64) (at []int32, load []complex128) {
	if s.Arrives == nil {
		return nil, nil
	}
	at, load = s.Arrives(omega)
	load = slices.Clone(load)
	for i, e := range at {
		if load[i] *= complex(s.sizes[e], 0); s.holds(int(e)) {
			load[i] = 0
		}
	}
	return at, load
}

// overlapAt is the product of a vector, conjugated, with one that has values at few places.
func overlapAt(a []complex128, at []int32, b []complex128) (sum complex128) {
	for i, e := range at {
		sum += cmplx.Conj(a[e]) * b[i]
	}
	return sum
}

// solve solves the whole system at one frequency and takes the amplitudes there, with their derivatives, into the basis. It says by how
// much what the basis gave before was wrong.
func (s *sweep) solve(ctx context.Context, at int) (wrong float64, err error) {
	omega := s.omegas[at]
	before := s.reduced(at)
	x, err := s.at(ctx, omega)
	if err != nil {
		return 0, err
	}
	for i := range x {
		x[i] /= complex(s.sizes[i], 0)
	}
	s.known[at] = x
	most, off := make([]float64, len(s.system.Fields)), make([]float64, len(s.system.Fields))
	fields := s.system.FieldOf()
	for i, v := range x {
		f := fields[i]
		most[f], off[f] = max(most[f], cmplx.Abs(v)), max(off[f], cmplx.Abs(v-before[i]))
	}
	for f := range most {
		if most[f] > 0 {
			wrong = max(wrong, off[f]/most[f])
		}
	}
	moving := slices.Clone(x)
	for i, v := range s.still {
		if s.holds(i) {
			moving[i] -= v
		}
	}
	orders := [][]complex128{moving}
	h := 1e-3 * omega
	// Central differences of the terms: they make the basis better or worse, not the amplitudes wrong.
	var slopes [derivatives + 1][]complex128
	for n := 1; n <= derivatives; n++ {
		for k := range s.list {
			slopes[n] = append(slopes[n], difference(s.list[k].factor, omega, h, n))
		}
	}
	loads := func(n int) []complex128 { return differences(s.load, omega, h, n) }
	for n := 1; n <= derivatives; n++ {
		b := loads(n)
		binomial := 1.0
		for m := 1; m <= n; m++ {
			binomial *= float64(n-m+1) / float64(m)
			for k := range s.list {
				by := slopes[m][k] * complex(binomial, 0)
				if by == 0 {
					continue
				}
				for i, v := range s.product(&s.list[k], orders[n-m]) {
					b[i] -= by * v
				}
			}
		}
		y := make([]complex128, len(b))
		s.solver.Solve(y, b, 0)
		for i := range y {
			if s.holds(i) {
				y[i] = 0
			}
		}
		orders = append(orders, y)
	}
	for _, v := range orders {
		s.take(v)
	}
	s.solver = nil
	return wrong, nil
}

// stencils are those of central differences of order 2 of the first derivatives.
var stencils = [derivatives + 1][]struct{ at, by float64 }{1: {{1, 0.5}, {-1, -0.5}}, 2: {{1, 1}, {0, -2}, {-1, 1}}, 3: {{2, 0.5}, {1, -1}, {-1, 1}, {-2, -0.5}}}

// difference is a derivative of a function by differences.
func difference(f func(float64) complex128, at, h float64, order int) (sum complex128) {
	for _, s := range stencils[order] {
		sum += complex(s.by, 0) * f(at+s.at*h)
	}
	return sum / complex(math.Pow(h, float64(order)), 0)
}

// differences is one of a vector.
func differences(f func(float64) []complex128, at, h float64, order int) (sum []complex128) {
	for _, s := range stencils[order] {
		v := f(at + s.at*h)
		if sum == nil {
			sum = make([]complex128, len(v))
		}
		by := complex(s.by/math.Pow(h, float64(order)), 0)
		for i := range v {
			sum[i] += by * v[i]
		}
	}
	return sum
}

// overlap is the product of two vectors, the first of them conjugated, summed in fixed chunks.
func overlap(a, b []complex128) complex128 {
	chunks := make([]complex128, (len(a)+chunk-1)/chunk)
	parallel.For(len(chunks), 1, func(_, lo, hi int) {
		for c := lo; c < hi; c++ {
			var sum complex128
			for i := c * chunk; i < min(len(a), (c+1)*chunk); i++ {
				sum += cmplx.Conj(a[i]) * b[i]
			}
			chunks[c] = sum
		}
	})
	var sum complex128
	for _, v := range chunks {
		sum += v
	}
	return sum
}

const chunk = 4096

// take makes a vector part of the basis.
func (s *sweep) take(v []complex128) {
	v = slices.Clone(v)
	whole := math.Sqrt(real(overlap(v, v)))
	for range 2 {
		for _, q := range s.basis {
			by := overlap(q, v)
			for i := range v {
				v[i] -= by * q[i]
			}
		}
	}
	long := math.Sqrt(real(overlap(v, v)))
	if !(long > dependent*whole) {
		return
	}
	for i := range v {
		v[i] /= complex(long, 0)
	}
	s.basis = append(s.basis, v)
	row := make([]complex128, 0, len(s.columns)+len(s.list))
	for _, c := range s.columns {
		row = append(row, overlap(v, c))
	}
	s.small = append(s.small, row)
	for k := range s.list {
		s.column(s.product(&s.list[k], v))
	}
}

// weights are those of the basis at a frequency, and those of the columns of which the sum is what is left of the equations there.
func (s *sweep) weights(omega float64) (basis, columns []complex128) {
	n, first := len(s.basis), len(s.loads)
	columns = make([]complex128, len(s.columns))
	for k, factor := range s.loads {
		columns[k] = factor(omega)
	}
	a, b := make([][]complex128, n), make([]complex128, n)
	at, load := s.arrives(omega)
	for r := range n {
		a[r] = make([]complex128, n)
		b[r] = overlapAt(s.basis[r], at, load)
		for k := range first {
			b[r] += columns[k] * s.small[r][k]
		}
	}
	factors := make([]complex128, len(s.list))
	for k := range s.list {
		factors[k] = s.list[k].factor(omega)
		for r := range n {
			for c := range n {
				a[r][c] += factors[k] * s.small[r][first+c*len(s.list)+k]
			}
		}
	}
	basis = eliminate(a, b)
	for c, w := range basis {
		for k, by := range factors {
			columns[first+c*len(s.list)+k] = -by * w
		}
	}
	return basis, columns
}

// eliminate solves a small system by Gaussian elimination with pivots in columns; both are overwritten.
func eliminate(a [][]complex128, b []complex128) []complex128 {
	n := len(b)
	for k := range n {
		p := k
		for r := k + 1; r < n; r++ {
			if cmplx.Abs(a[r][k]) > cmplx.Abs(a[p][k]) {
				p = r
			}
		}
		a[k], a[p], b[k], b[p] = a[p], a[k], b[p], b[k]
		for r := k + 1; r < n; r++ {
			by := a[r][k] / a[k][k]
			if by == 0 {
				continue
			}
			for c := k; c < n; c++ {
				a[r][c] -= by * a[k][c]
			}
			b[r] -= by * b[k]
		}
	}
	for k := n - 1; k >= 0; k-- {
		for c := k + 1; c < n; c++ {
			b[k] -= a[k][c] * b[c]
		}
		b[k] /= a[k][k]
	}
	return b
}

// reduced are the amplitudes that the basis gives at a frequency.
func (s *sweep) reduced(i int) []complex128 {
	x := slices.Clone(s.still)
	if len(s.basis) == 0 {
		return x
	}
	weights, _ := s.weights(s.omegas[i])
	parallel.For(len(x), chunk, func(_, lo, hi int) {
		for k, by := range weights {
			for j, v := range s.basis[k][lo:hi] {
				x[lo+j] += by * v
			}
		}
	})
	return x
}

// look finds what of the equations is not kept at each frequency.
func (s *sweep) look() {
	parallel.For(len(s.omegas), 1, func(_, lo, hi int) {
		for i := lo; i < hi; i++ {
			s.left[i] = 0
			if s.known[i] != nil {
				continue
			}
			_, w := s.weights(s.omegas[i])
			var rest, whole complex128
			for r, row := range s.gram {
				for c, v := range row {
					v *= cmplx.Conj(w[r]) * w[c]
					rest += v
					if r < len(s.loads) && c < len(s.loads) {
						whole += v
					}
				}
			}
			at, load := s.arrives(s.omegas[i])
			for r, column := range s.columns {
				v := 2 * real(cmplx.Conj(w[r])*overlapAt(column, at, load))
				if rest += complex(v, 0); r < len(s.loads) {
					whole += complex(v, 0)
				}
			}
			for _, v := range load {
				square := real(v)*real(v) + imag(v)*imag(v)
				rest, whole = rest+complex(square, 0), whole+complex(square, 0)
			}
			s.left[i] = math.Sqrt(max(0, real(rest)) / max(real(whole), 1e-300))
		}
	})
}

// furthest is the frequency at which most of the equations is not kept, −1 if all are known.
func (s *sweep) furthest() int {
	best := -1
	for i, v := range s.left {
		if s.known[i] == nil && (best < 0 || v > s.left[best]) {
			best = i
		}
	}
	return best
}
