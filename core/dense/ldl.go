package dense

import (
	"errors"
	"math"
	"slices"
)

// Widths of the panels of a factorisation: panelCols columns are eliminated before
// the rest of the front is updated, groupCols before the rest of the panel and
// baseCols before the rest of the group.
const (
	panelCols = 256
	groupCols = 64
	baseCols  = 32
)

// ErrNotDefinite says that a pivot of a matrix that should be positive definite
// is not positive.
var ErrNotDefinite = errors.New("dense: a pivot is not positive")

// Pivoting says what a pivot must be.
type Pivoting struct {
	// Definite takes the pivots in order and demands that they be positive.
	Definite bool
	// Threshold bounds the elements of L by its inverse; 0 means 0.01.
	Threshold float64
	// Tiny is the magnitude up to which a pivot counts as zero.
	Tiny float64
}

func (p *Pivoting) threshold() float64 {
	if p.Threshold == 0 {
		return 0.01
	}
	return p.Threshold
}

// Front is the matrix of a step of a symmetric sparse factorisation: the first
// Candidates columns of Rows rows, of which as many as possible are eliminated,
// and the square block of the other rows, which receives their contribution.
type Front[T Scalar] struct {
	Rows, Candidates int
	// Left has Rows by Candidates elements by rows, the part above the diagonal
	// unused. After the factorisation the first Eliminated columns hold L below its
	// unit diagonal, the others what is left of the candidates put off.
	Left []T
	// Rest has the lower part of the other rows and columns.
	Rest []T
	// Order gives the candidate that came to each place.
	Order []int32
	// Diagonal and Beside hold D: a place with Beside ≠ 0 and the next one have
	// the pivot block [Diagonal[i] Beside[i]; Beside[i] Diagonal[i+1]].
	Diagonal, Beside []T
	// Eliminated columns come first; those after them are put off.
	Eliminated int
}

// ldl is the state of the factorisation of a front and its buffers.
type ldl[T Scalar] struct {
	*Front[T]
	rule       *Pivoting
	threads    int
	lo, s, end int // first column of the panel, first not eliminated, end of the panel
	g          []T // L·D of the panel, by rows of the front from row lo
	product    []T
	block      []T
	inverse    []T
	order      []int32
	places     [baseCols]int32
}

// Workspace holds the buffers of factorisations of one goroutine.
type Workspace[T Scalar] struct {
	ldl ldl[T]
	lu  lu[T]
}

// Factor eliminates the candidates of a front. The candidates that no pivot could
// be found for are put off. It returns [ErrNotDefinite] if the rule asks for a
// definite matrix and it is not; Eliminated is then the place of the fault.
func (w *Workspace[T]) Factor(f *Front[T], rule *Pivoting, threads int) error {
	l := &w.ldl
	l.Front, l.rule, l.threads = f, rule, threads
	l.s = 0
	hi, moved := f.Candidates, false
	for l.s < f.Candidates {
		if l.s == hi {
			// All are tried; those put off have another chance if the matrix changed.
			if !moved && !l.rescue() {
				break
			}
			hi, moved = f.Candidates, false
			continue
		}
		l.begin(min(l.s+panelCols, hi))
		panel := l.end
		for l.s < l.end {
			if err := l.group(panel); err != nil {
				f.Eliminated = l.s
				return err
			}
		}
		moved = moved || l.s > l.lo
		l.update(l.lo, l.s, panel, f.Candidates)
		l.contribute()
		for t := panel - 1; t >= l.s; t-- {
			hi--
			l.swap(t, hi)
		}
	}
	f.Eliminated = l.s
	return nil
}

// group eliminates the next columns of the panel that ends before a column. Those
// that failed go to the end of what is left of the panel to try.
func (l *ldl[T]) group(panel int) error {
	from, end := l.s, min(l.s+groupCols, l.end)
	stop := end
	for l.s < stop {
		e := min(l.s+baseCols, stop)
		q, err := l.base(e)
		if err != nil {
			return err
		}
		l.update(l.s, l.s+q, l.s+q, end)
		l.s += q
		for t := e - 1; t >= l.s; t-- {
			stop--
			l.swap(t, stop)
		}
	}
	l.update(from, l.s, end, panel)
	for t := end - 1; t >= l.s; t-- {
		l.end--
		l.swap(t, l.end)
	}
	return nil
}

// begin starts a panel that ends before a column.
func (l *ldl[T]) begin(end int) {
	l.lo, l.end = l.s, end
	l.g = slices.Grow(l.g[:0], (l.Rows-l.lo)*panelCols)[:(l.Rows-l.lo)*panelCols]
}

// rescue looks for a pivot where whole sweeps found none, since the partner of a
// column may never have been in the same block: it tries each column with its
// largest neighbour.
func (l *ldl[T]) rescue() bool {
	if l.rule.Definite || l.Candidates-l.s < 2 {
		return false
	}
	ld := l.Candidates
	for _, who := range slices.Clone(l.Order[l.s:l.Candidates]) {
		l.swap(l.s, slices.Index(l.Order, who))
		partner, most := l.s+1, -1.0
		for k := l.s + 1; k < l.Candidates; k++ {
			if v := Magnitude(l.Left[k*ld+l.s]); v > most {
				partner, most = k, v
			}
		}
		l.swap(l.s+1, partner)
		l.begin(l.s + 2)
		// Only a definite matrix makes it fail.
		q, _ := l.base(l.end)
		if q > 0 {
			l.update(l.s, l.s+q, l.s+q, l.Candidates)
			l.s += q
			l.contribute()
			return true
		}
	}
	return false
}

// base tries to eliminate columns s to e and returns how many it could. Their
// part of L is in place then, and L·D in g; the columns after them are not
// changed.
func (l *ldl[T]) base(e int) (int, error) {
	s, n, ld := l.s, e-l.s, l.Candidates
	b := slices.Grow(l.block[:0], n*n)[:n*n]
	l.block = b
	for i := range n {
		for j := range i + 1 {
			v := l.Left[(s+i)*ld+s+j]
			b[i*n+j], b[j*n+i] = v, v
		}
	}
	order := slices.Grow(l.order[:0], n)[:n]
	l.order = order
	for i := range order {
		order[i] = int32(i)
	}
	d, beside := l.Diagonal[s:e], l.Beside[s:e]
	q := n
	if l.rule.Definite {
		if !definiteBlock(b, n, d, l.rule.Tiny) {
			return 0, ErrNotDefinite
		}
		clear(beside)
	} else {
		q = symmetricBlock(b, n, d, beside, order, l.rule.Tiny)
		l.permute(order)
	}
	if q == 0 {
		return 0, nil
	}
	// W = L₁₁⁻ᵀ, of the columns eliminated.
	w := slices.Grow(l.inverse[:0], q*q)[:q*q]
	l.inverse = w
	invertUnitLower(b, n, q, w)
	m := l.Rows - e
	p := slices.Grow(l.product[:0], m*q)[:m*q]
	l.product = p
	clear(p)
	if m > 0 {
		Add(p, q, m, q, q, 1, Operand[T]{l.Left[e*ld+s:], ld, 1}, Operand[T]{w, 1, q}, Full, l.threads)
	}
	columns := q
	if !l.rule.Definite {
		q = l.stable(p, q, m, d, beside)
	}
	l.store(p, columns, q, n, m, b, d, beside)
	return q, nil
}

// stable returns how many of q columns keep L within its bound; p has L·D of m
// rows.
func (l *ldl[T]) stable(p []T, q, m int, d, beside []T) int {
	limit, columns := 1/l.rule.threshold(), q
	for i := range m {
		row := p[i*columns:]
		for j := 0; j < q; {
			if beside[j] == 0 {
				if !(Magnitude(row[j]) <= limit*Magnitude(d[j])) {
					q = j
				}
				j++
				continue
			}
			x, y := SolvePair(d[j], beside[j], d[j+1], row[j], row[j+1])
			if !(max(Magnitude(x), Magnitude(y)) <= limit) {
				q = j
			}
			j += 2
		}
	}
	return q
}

// SolvePair solves [a b; b c]·(x, y) = (f, g), b not zero.
func SolvePair[T Scalar](a, b, c, f, g T) (x, y T) {
	// Scaled by b, which is the largest of a block taken.
	p, r := a/b, c/b
	det := p*r - 1
	f, g = f/b, g/b
	return (r*f - g) / det, (p*g - f) / det
}

// store writes q columns of L and of L·D: p has L·D of the m rows below the
// block b of order n, in rows of the given columns.
func (l *ldl[T]) store(p []T, columns, q, n, m int, b, d, beside []T) {
	s, ld := l.s, l.Candidates
	at := s - l.lo
	divide := func(g, out []T) {
		for j := 0; j < q; {
			if beside[j] == 0 {
				out[j] = g[j] / d[j]
				j++
				continue
			}
			out[j], out[j+1] = SolvePair(d[j], beside[j], d[j+1], g[j], g[j+1])
			j += 2
		}
	}
	for i := range m {
		g := p[i*columns : i*columns+q]
		row := s + n + i
		copy(l.g[(row-l.lo)*panelCols+at:], g)
		divide(g, l.Left[row*ld+s:row*ld+s+q])
	}
	for i := range n {
		row := l.Left[(s+i)*ld+s : (s+i)*ld+s+q]
		copy(row[:min(i, q)], b[i*n:i*n+min(i, q)])
		if i < q {
			continue
		}
		// L·D of the rows of the block that stay.
		g := l.g[(s+i-l.lo)*panelCols+at:]
		for j := 0; j < q; {
			if beside[j] == 0 {
				g[j] = row[j] * d[j]
				j++
				continue
			}
			g[j] = row[j]*d[j] + row[j+1]*beside[j]
			g[j+1] = row[j]*beside[j] + row[j+1]*d[j+1]
			j += 2
		}
	}
}

// update takes the columns from to to, all eliminated, out of columns a to b of
// the candidates in the rows from a on.
func (l *ldl[T]) update(from, to, a, b int) {
	if from == to || a >= b {
		return
	}
	ld := l.Candidates
	Add(l.Left[a*ld+a:], ld, l.Rows-a, b-a, to-from, -1,
		Operand[T]{l.Left[a*ld+from:], ld, 1},
		Operand[T]{l.g[(a-l.lo)*panelCols+from-l.lo:], 1, panelCols}, Lower, l.threads)
}

// contribute takes the columns eliminated in the panel out of the rest.
func (l *ldl[T]) contribute() {
	r := l.Rows - l.Candidates
	if r == 0 || l.s == l.lo {
		return
	}
	Add(l.Rest, r, r, r, l.s-l.lo, -1,
		Operand[T]{l.Left[l.Candidates*l.Candidates+l.lo:], l.Candidates, 1},
		Operand[T]{l.g[(l.Candidates-l.lo)*panelCols:], 1, panelCols}, Lower, l.threads)
}

// permute puts the columns and rows from s on into a new order.
func (l *ldl[T]) permute(order []int32) {
	s, ld, n := l.s, l.Candidates, len(order)
	moved := false
	for i, o := range order {
		moved = moved || int(o) != i
	}
	if !moved {
		return
	}
	buffer := slices.Grow(l.product[:0], n*max(s, n))[:n*max(s, n)]
	l.product = buffer
	// Rows of L.
	for i, o := range order {
		copy(buffer[i*s:(i+1)*s], l.Left[(s+int(o))*ld:(s+int(o))*ld+s])
	}
	for i := range n {
		copy(l.Left[(s+i)*ld:(s+i)*ld+s], buffer[i*s:(i+1)*s])
	}
	// The block.
	at := func(i, j int) T {
		if i < j {
			i, j = j, i
		}
		return l.Left[(s+i)*ld+s+j]
	}
	for i := range n {
		for j := range i + 1 {
			buffer[i*n+j] = at(int(order[i]), int(order[j]))
		}
	}
	for i := range n {
		copy(l.Left[(s+i)*ld+s:(s+i)*ld+s+i+1], buffer[i*n:i*n+i+1])
	}
	// Columns of the rows below.
	for i := s + n; i < l.Rows; i++ {
		row := l.Left[i*ld+s : i*ld+s+n]
		for j, o := range order {
			buffer[j] = row[o]
		}
		copy(row, buffer[:n])
	}
	places := l.places[:n]
	for i, o := range order {
		places[i] = l.Order[s+int(o)]
	}
	copy(l.Order[s:s+n], places)
}

// swap exchanges candidates i and j, neither eliminated.
func (l *ldl[T]) swap(i, j int) {
	if i == j {
		return
	}
	if i > j {
		i, j = j, i
	}
	ld := l.Candidates
	a := l.Left
	for k := range i {
		a[i*ld+k], a[j*ld+k] = a[j*ld+k], a[i*ld+k]
	}
	a[i*ld+i], a[j*ld+j] = a[j*ld+j], a[i*ld+i]
	for k := i + 1; k < j; k++ {
		a[k*ld+i], a[j*ld+k] = a[j*ld+k], a[k*ld+i]
	}
	for k := j + 1; k < l.Rows; k++ {
		a[k*ld+i], a[k*ld+j] = a[k*ld+j], a[k*ld+i]
	}
	l.Order[i], l.Order[j] = l.Order[j], l.Order[i]
}

// definiteBlock factors a full symmetric block of order n into L, below the
// diagonal, and d. It returns false if a pivot is not above tiny.
func definiteBlock[T Scalar](b []T, n int, d []T, tiny float64) bool {
	for k := range n {
		p := b[k*n+k]
		v, ok := real1(&p)
		if ok && !(v > tiny) || !ok && !(Magnitude(p) > tiny) || math.IsInf(Magnitude(p), 0) {
			return false
		}
		d[k] = p
		inverse := 1 / p
		from := b[k*n : (k+1)*n]
		for j := k + 1; j < n; j++ {
			from[j] = b[j*n+k]
		}
		for i := k + 1; i < n; i++ {
			x := from[i]
			if x == 0 {
				continue
			}
			f := x * inverse
			row := b[i*n+k+1 : i*n+i+1]
			for j, v := range from[k+1 : i+1] {
				row[j] -= f * v
			}
			b[i*n+k] = f
		}
	}
	return true
}

// symmetricBlock factors a full symmetric block of order n with the pivoting of
// J. Bunch and B. Parlett (SIAM J. Numer. Anal. 8 (1971) 639): the largest element
// of the block is always near the pivot. It returns how many columns it could
// eliminate before all that is left is tiny; order gets the places.
func symmetricBlock[T Scalar](b []T, n int, d, beside []T, order []int32, tiny float64) int {
	alpha := (1 + math.Sqrt(17)) / 8
	exchange := func(i, j int) {
		if i == j {
			return
		}
		for k := range n {
			b[i*n+k], b[j*n+k] = b[j*n+k], b[i*n+k]
		}
		order[i], order[j] = order[j], order[i]
	}
	// Columns of L stay where they are: only the part not yet done is exchanged.
	columns := func(k, i, j int) {
		if i == j {
			return
		}
		for r := k; r < n; r++ {
			b[r*n+i], b[r*n+j] = b[r*n+j], b[r*n+i]
		}
	}
	k := 0
	for k < n {
		one, two := -1.0, -1.0
		var at, row, col int
		for i := k; i < n; i++ {
			for j := k; j < i; j++ {
				if v := Magnitude(b[i*n+j]); v > two {
					two, row, col = v, i, j
				}
			}
			if v := Magnitude(b[i*n+i]); v > one {
				one, at = v, i
			}
		}
		if !(max(one, two) > tiny) {
			break
		}
		if one >= alpha*two {
			exchange(k, at)
			columns(k, k, at)
			p := b[k*n+k]
			d[k], beside[k] = p, 0
			for i := k + 1; i < n; i++ {
				f := b[i*n+k] / p
				for j := k + 1; j < n; j++ {
					b[i*n+j] -= f * b[k*n+j]
				}
				b[i*n+k] = f
			}
			k++
			continue
		}
		exchange(k, col)
		columns(k, k, col)
		exchange(k+1, row)
		columns(k, k+1, row)
		p, o, r := b[k*n+k], b[(k+1)*n+k], b[(k+1)*n+k+1]
		d[k], d[k+1], beside[k], beside[k+1] = p, r, o, 0
		for i := k + 2; i < n; i++ {
			x, y := SolvePair(p, o, r, b[i*n+k], b[i*n+k+1])
			for j := k + 2; j < n; j++ {
				b[i*n+j] -= x*b[k*n+j] + y*b[(k+1)*n+j]
			}
			b[i*n+k], b[i*n+k+1] = x, y
		}
		// Within the pivot block L is the identity.
		b[(k+1)*n+k] = 0
		k += 2
	}
	return k
}

// invertUnitLower sets w, of order q, to the inverse of the unit lower triangle of
// the first q rows and columns of b, whose rows are n apart.
func invertUnitLower[T Scalar](b []T, n, q int, w []T) {
	clear(w[:q*q])
	for i := range q {
		row := w[i*q : i*q+i]
		for k := range i {
			f := b[i*n+k]
			if f == 0 {
				continue
			}
			for j, v := range w[k*q : k*q+k+1] {
				row[j] -= f * v
			}
		}
		w[i*q+i] = 1
	}
}
