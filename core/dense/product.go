package dense

import (
	"slices"
	"sync"

	"saltkettle/core/parallel"
)

// Block sizes of a product, in float64: depth of the panels, rows of a block of
// A (which stays in the second-level cache) and columns of a block of B.
const (
	depth     = 256
	blockRows = 192
	blockCols = 1536
)

// direct is the number of multiplications up to which a product is done by plain
// loops: packing would cost more.
const direct = 2000

// Operand is a factor of a product: element (i, j) is Data[i·Row + j·Col].
type Operand[T Scalar] struct {
	Data     []T
	Row, Col int
}

// Shape of a product.
type Shape int

// Shapes of a product.
const (
	Full  Shape = iota
	Lower       // only elements (i, j) with j ≤ i of the result are wanted; others may or may not change
)

// pack holds the packed panels of one goroutine.
type pack struct{ a, b, tile []float64 }

var packs = sync.Pool{New: func() any { return new(pack) }}

// Add adds sign·A·B to the m by n matrix C whose rows are ldc apart, with A m by
// k, B k by n, sign 1 or −1, on at most the given number of goroutines.
func Add[T Scalar](c []T, ldc, m, n, k int, sign float64, a, b Operand[T], shape Shape, threads int) {
	if m <= 0 || n <= 0 || k <= 0 {
		return
	}
	if shape == Lower {
		n = min(n, m)
	}
	if m*n*k <= direct {
		addDirect(c, ldc, m, n, k, sign, a, b, shape)
		return
	}
	threads = min(threads, parallel.Workers(), 1+m*n*k/(1<<20))
	if threads <= 1 {
		p := packs.Get().(*pack)
		p.add(words(c), ldc*width[T](), m, n*width[T](), k*width[T](), 0, width[T](), shape, packer(a, b, sign))
		packs.Put(p)
		return
	}
	// Rows are dealt out so that each goroutine has about the same work and begins
	// at a tile.
	var wg sync.WaitGroup
	total := work(m, n, shape)
	for t, from := 0, 0; t < threads; t++ {
		to := from
		for to < m && (work(to, n, shape) < total*float64(t+1)/float64(threads) || t == threads-1) {
			to += active.rows
		}
		to = min(to, m)
		if to > from {
			lo := from
			wg.Go(func() {
				p := packs.Get().(*pack)
				part := Operand[T]{Data: a.Data[lo*a.Row:], Row: a.Row, Col: a.Col}
				cols := n
				if shape == Lower {
					cols = min(n, to)
				}
				p.add(words(c[lo*ldc:]), ldc*width[T](), to-lo, cols*width[T](), k*width[T](), lo, width[T](), shape, packer(part, b, sign))
				packs.Put(p)
			})
		}
		from = to
	}
	wg.Wait()
}

// work is in proportion to the elements in the first rows of a product.
func work(rows, n int, shape Shape) float64 {
	r := float64(rows)
	if shape == Full {
		return r * float64(n)
	}
	if rows <= n {
		return r * r / 2
	}
	return float64(n)*float64(n)/2 + (r-float64(n))*float64(n)
}

// addDirect is the product by plain loops.
func addDirect[T Scalar](c []T, ldc, m, n, k int, sign float64, a, b Operand[T], shape Shape) {
	minus := sign < 0
	for i := range m {
		end := n
		if shape == Lower {
			end = min(n, i+1)
		}
		row := c[i*ldc : i*ldc+end]
		for p := range k {
			v := a.Data[i*a.Row+p*a.Col]
			if v == 0 {
				continue
			}
			if minus {
				v = -v
			}
			if b.Col == 1 {
				for j, w := range b.Data[p*b.Row : p*b.Row+end] {
					row[j] += v * w
				}
			} else {
				for j := range row {
					row[j] += v * b.Data[p*b.Row+j*b.Col]
				}
			}
		}
	}
}

// packing fills a panel from block (i0, p0) of A or (p0, j0) of B.
type packing struct {
	// a packs rows i0..i1 and depths p0..p1 into panels of the given rows, b depths
	// p0..p1 and columns j0..j1 into panels of the given columns, all counted in
	// float64 and filled up with zeros.
	a func(dst []float64, rows, i0, i1, p0, p1 int)
	b func(dst []float64, cols, p0, p1, j0, j1 int)
}

// packer makes the packing of real or complex factors. A complex product is a
// real one of twice the depth and twice the columns: the rows of A have real and
// imaginary parts in turn, and an element x + iy of B becomes
//
//	 x  y
//	−y  x
func packer[T Scalar](a, b Operand[T], sign float64) packing {
	if width[T]() == 1 {
		x, y := Operand[float64]{words(a.Data), a.Row, a.Col}, Operand[float64]{words(b.Data), b.Row, b.Col}
		return packing{
			a: func(dst []float64, rows, i0, i1, p0, p1 int) { packA(dst, rows, i0, i1, p0, p1, x, sign) },
			b: func(dst []float64, cols, p0, p1, j0, j1 int) { packB(dst, cols, p0, p1, j0, j1, y) },
		}
	}
	x, y := Operand[float64]{words(a.Data), 2 * a.Row, 2 * a.Col}, Operand[float64]{words(b.Data), 2 * b.Row, 2 * b.Col}
	return packing{
		a: func(dst []float64, rows, i0, i1, p0, p1 int) {
			at := 0
			for i := i0; i < i1; i += rows {
				h := min(rows, i1-i)
				for p := p0; p < p1; p++ {
					from := i*x.Row + (p>>1)*x.Col + p&1
					out := dst[at : at+rows]
					for r := range h {
						out[r] = sign * x.Data[from+r*x.Row]
					}
					clear(out[h:])
					at += rows
				}
			}
		},
		b: func(dst []float64, cols, p0, p1, j0, j1 int) {
			at := 0
			for j := j0; j < j1; j += cols {
				w := min(cols, j1-j)
				for p := p0; p < p1; p++ {
					out := dst[at : at+cols]
					for c := 0; c < w; c += 2 {
						v := y.Data[(p>>1)*y.Row+((j+c)>>1)*y.Col:]
						if p&1 == 0 {
							out[c], out[c+1] = v[0], v[1]
						} else {
							out[c], out[c+1] = -v[1], v[0]
						}
					}
					clear(out[w:])
					at += cols
				}
			}
		},
	}
}

func packA(dst []float64, rows, i0, i1, p0, p1 int, x Operand[float64], sign float64) {
	k := p1 - p0
	for i := i0; i < i1; i += rows {
		h := min(rows, i1-i)
		panel := dst[:rows*k]
		dst = dst[rows*k:]
		if h < rows {
			clear(panel)
		}
		if x.Col == 1 {
			for r := range h {
				row := x.Data[(i+r)*x.Row+p0:]
				at := r
				for _, v := range row[:k] {
					panel[at] = sign * v
					at += rows
				}
			}
			continue
		}
		for p := range k {
			out := panel[p*rows : p*rows+h]
			from := i*x.Row + (p0+p)*x.Col
			for r := range out {
				out[r] = sign * x.Data[from]
				from += x.Row
			}
		}
	}
}

func packB(dst []float64, cols, p0, p1, j0, j1 int, y Operand[float64]) {
	k := p1 - p0
	for j := j0; j < j1; j += cols {
		w := min(cols, j1-j)
		panel := dst[:cols*k]
		dst = dst[cols*k:]
		if w < cols {
			clear(panel)
		}
		if y.Col == 1 {
			for p := range k {
				copy(panel[p*cols:p*cols+w], y.Data[(p0+p)*y.Row+j:])
			}
			continue
		}
		if y.Row == 1 {
			for c := range w {
				col := y.Data[(j+c)*y.Col+p0:]
				at := c
				for _, v := range col[:k] {
					panel[at] = v
					at += cols
				}
			}
			continue
		}
		for p := range k {
			for c := range w {
				panel[p*cols+c] = y.Data[(p0+p)*y.Row+(j+c)*y.Col]
			}
		}
	}
}

// add is the product on one goroutine, all sizes counted in float64, of which an
// element has per. The first row of c is row offset of the whole product.
func (w *pack) add(c []float64, ldc, m, n, k, offset, per int, shape Shape, packing packing) {
	kr := active
	mr, nr := kr.rows, kr.cols
	up := func(x, by int) int { return (x + by - 1) / by * by }
	sizeA, sizeB := up(min(m, blockRows), mr)*min(k, depth), up(min(n, blockCols), nr)*min(k, depth)
	w.tile = slices.Grow(w.tile[:0], mr*nr)[:mr*nr]
	w.a = slices.Grow(w.a[:0], sizeA)[:sizeA]
	w.b = slices.Grow(w.b[:0], sizeB)[:sizeB]
	for j0 := 0; j0 < n; j0 += blockCols {
		j1 := min(j0+blockCols, n)
		for p0 := 0; p0 < k; p0 += depth {
			p1 := min(p0+depth, k)
			kk := p1 - p0
			packing.b(w.b, nr, p0, p1, j0, j1)
			for i0 := 0; i0 < m; i0 += blockRows {
				i1 := min(i0+blockRows, m)
				if shape == Lower && j0 >= per*(offset+i1) {
					continue
				}
				packing.a(w.a, mr, i0, i1, p0, p1)
				for j := j0; j < j1; j += nr {
					pb := &w.b[(j-j0)*kk]
					wide := j+nr <= j1
					for i := i0; i < i1; i += mr {
						if shape == Lower && j >= per*(offset+min(i+mr, i1)) {
							continue
						}
						pa := &w.a[(i-i0)*kk]
						if wide && i+mr <= i1 {
							kr.product(kk, pa, pb, &c[i*ldc+j], ldc)
							continue
						}
						clear(w.tile)
						kr.product(kk, pa, pb, &w.tile[0], nr)
						for r := range min(mr, i1-i) {
							out := c[(i+r)*ldc+j : (i+r)*ldc+min(j+nr, j1)]
							for q := range out {
								out[q] += w.tile[r*nr+q]
							}
						}
					}
				}
			}
		}
	}
}
