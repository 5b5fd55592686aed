package dense

import (
	"math"
	"slices"
)

// luCols are the columns of an unsymmetric front eliminated at a time.
const luCols = 16

// Square is the matrix of a step of an unsymmetric sparse factorisation: the first
// Candidates rows and columns of Rows, of which as many as possible are
// eliminated, and the square block of the others, which receives their
// contribution.
type Square[T Scalar] struct {
	Rows, Candidates int
	// Left has the columns of the candidates, Rows by Candidates; Upper the rows of
	// the candidates in the other columns, Candidates by Rows − Candidates; Rest the
	// block of the others. After the factorisation Left holds L below its unit
	// diagonal and U from the diagonal on, Upper the rest of U.
	Left, Upper, Rest []T
	// RowOrder and ColumnOrder give the candidates that came to each place.
	RowOrder, ColumnOrder []int32
	Eliminated            int
}

// lu is the state of the factorisation of an unsymmetric front and its buffers.
type lu[T Scalar] struct {
	*Square[T]
	rule       *Pivoting
	threads    int
	lo, s, end int
	panel      []T // columns of the base, one after the other
	swaps      []int32
}

// FactorSquare eliminates the candidates of an unsymmetric front with rows
// exchanged within them. Columns that no pivot could be found for are put off.
func (w *Workspace[T]) FactorSquare(f *Square[T], rule *Pivoting, threads int) {
	l := &w.lu
	l.Square, l.rule, l.threads = f, rule, threads
	l.s = 0
	hi, moved := f.Candidates, false
	for l.s < f.Candidates {
		if l.s == hi {
			if !moved {
				break
			}
			hi, moved = f.Candidates, false
		}
		l.lo, l.end = l.s, min(l.s+panelCols, hi)
		panel := l.end
		for l.s < l.end {
			e := min(l.s+luCols, l.end)
			q := l.base(e)
			l.update(l.Left, l.Candidates, l.s, l.s+q, e, panel, l.Rows)
			l.s += q
			for t := e - 1; t >= l.s; t-- {
				l.end--
				l.swapColumns(t, l.end)
			}
			moved = moved || q > 0
		}
		r := f.Rows - f.Candidates
		l.update(l.Left, l.Candidates, l.lo, l.s, panel, f.Candidates, f.Rows)
		l.update(l.Upper, r, l.lo, l.s, 0, r, f.Candidates)
		if r > 0 && l.s > l.lo {
			Add(l.Rest, r, r, r, l.s-l.lo, -1,
				Operand[T]{l.Left[f.Candidates*f.Candidates+l.lo:], f.Candidates, 1},
				Operand[T]{l.Upper[l.lo*r:], r, 1}, Full, threads)
		}
		for t := panel - 1; t >= l.s; t-- {
			hi--
			l.swapColumns(t, hi)
		}
	}
	f.Eliminated = l.s
}

// base eliminates columns s to e as far as it finds pivots and returns how many.
// The columns that failed have all eliminated ones taken out of them and come last.
func (l *lu[T]) base(e int) int {
	s, ld, n, m := l.s, l.Candidates, e-l.s, l.Rows-l.s
	p := slices.Grow(l.panel[:0], n*m)[:n*m]
	l.panel = p
	for i := range m {
		row := l.Left[(s+i)*ld+s : (s+i)*ld+e]
		for j, v := range row {
			p[j*m+i] = v
		}
	}
	own := l.Candidates - s // rows a pivot may come from
	threshold := l.rule.threshold()
	l.swaps = l.swaps[:0]
	q, last := 0, n
	for q < last {
		col := p[q*m : (q+1)*m]
		best, most := q, -1.0
		for i, v := range col[q:own] {
			if a := Magnitude(v); a > most {
				best, most = q+i, a
			}
		}
		all := most
		for _, v := range col[own:] {
			all = max(all, Magnitude(v))
		}
		if !(most > l.rule.Tiny && most >= threshold*all) || math.IsInf(all, 0) {
			last--
			other := p[last*m : (last+1)*m]
			for i, v := range col {
				col[i], other[i] = other[i], v
			}
			l.swapColumns(s+q, s+last)
			continue
		}
		// The diagonal is kept where it is good enough: it keeps the symmetry of the
		// structure of the rows.
		if Magnitude(col[q]) >= 0.1*all && Magnitude(col[q]) > l.rule.Tiny {
			best = q
		}
		l.swaps = append(l.swaps, int32(best))
		if best != q {
			for j := range n {
				p[j*m+q], p[j*m+best] = p[j*m+best], p[j*m+q]
			}
		}
		inverse := 1 / col[q]
		below := col[q+1:]
		for i := range below {
			below[i] *= inverse
		}
		for j := q + 1; j < n; j++ {
			Axpy(-p[j*m+q], below, p[j*m+q+1:(j+1)*m])
		}
		q++
	}
	for k, other := range l.swaps {
		l.swapRows(s+k, s+int(other))
	}
	for i := range m {
		row := l.Left[(s+i)*ld+s : (s+i)*ld+e]
		for j := range row {
			row[j] = p[j*m+i]
		}
	}
	return q
}

// update takes the eliminated columns from to to out of columns a to b of a block
// that begins in the same row as the front and has the given rows.
func (l *lu[T]) update(block []T, ld, from, to, a, b, rows int) {
	if from == to || a >= b {
		return
	}
	// The rows of U first, a few at a time.
	c := l.Candidates
	for i := from; i < to; i += luCols {
		end := min(i+luCols, to)
		if i > from {
			Add(block[i*ld+a:], ld, end-i, b-a, i-from, -1,
				Operand[T]{l.Left[i*c+from:], c, 1}, Operand[T]{block[from*ld+a:], ld, 1}, Full, l.threads)
		}
		for r := i + 1; r < end; r++ {
			row := block[r*ld+a : r*ld+b]
			for k := i; k < r; k++ {
				Axpy(-l.Left[r*c+k], block[k*ld+a:k*ld+b], row)
			}
		}
	}
	if to == rows {
		return
	}
	Add(block[to*ld+a:], ld, rows-to, b-a, to-from, -1,
		Operand[T]{l.Left[to*c+from:], c, 1}, Operand[T]{block[from*ld+a:], ld, 1}, Full, l.threads)
}

// swapRows exchanges candidate rows i and j.
func (l *lu[T]) swapRows(i, j int) {
	if i == j {
		return
	}
	exchange := func(block []T, ld int) {
		x, y := block[i*ld:(i+1)*ld], block[j*ld:(j+1)*ld]
		for k, v := range x {
			x[k], y[k] = y[k], v
		}
	}
	exchange(l.Left, l.Candidates)
	exchange(l.Upper, l.Rows-l.Candidates)
	l.RowOrder[i], l.RowOrder[j] = l.RowOrder[j], l.RowOrder[i]
}

// swapColumns exchanges candidate columns i and j.
func (l *lu[T]) swapColumns(i, j int) {
	if i == j {
		return
	}
	ld := l.Candidates
	for r := range l.Rows {
		row := l.Left[r*ld : (r+1)*ld]
		row[i], row[j] = row[j], row[i]
	}
	l.ColumnOrder[i], l.ColumnOrder[j] = l.ColumnOrder[j], l.ColumnOrder[i]
}
