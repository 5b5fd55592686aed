package dense

import "unsafe"

// MostBlock and LeastBlock are the orders of small blocks for which there are kernels, and those between.
const (
	LeastBlock = 4
	MostBlock  = 6
)

// Four is a block of 4 by 4, row by row.
type Four = [16]float32

// SubtractProduct takes l·u from out, which are blocks of an order.
func SubtractProduct(order int, out, l, u []float32) {
	if size := order * order; min(len(out), len(l), len(u)) < size {
		panic("dense: a block has fewer numbers than its order says")
	}
	if active.small {
		smallProduct(order, &out[0], &l[0], &u[0])
		return
	}
	productPortable(order, out, l, u)
}

// AddRow adds the product of a row of blocks of an order with a vector to sum: data has the blocks one after the other, cols which
// elements of x, as many as the order, each is for.
func AddRow(order int, sum *[MostBlock]float64, data []float32, cols []int32, x []float64) {
	n := len(cols)
	if n == 0 {
		return
	}
	if len(data) < order*order*n {
		panic("dense: a row has fewer blocks than columns")
	}
	if active.small {
		smallRow(order, n, &data[0], &cols[0], &x[0], &sum[0])
		return
	}
	rowPortable(order, sum, data, cols, x)
}

// Bilinear sets out, row by row, to the sum of gᵀ·c·h over as many points as c has: g and h are 4 by 8 at each, c is
// 4 by 4.
func Bilinear(out *[64]float32, g, c, h []float32) {
	n := len(c) / 16
	if len(g) < 32*n || len(h) < 32*n {
		panic("dense: there are fewer functions than coefficients")
	}
	if n == 0 {
		*out = [64]float32{}
		return
	}
	active.bilinear(n, &g[0], &c[0], &h[0], &out[0])
}

func productPortable(order int, out, l, u []float32) {
	for r := 0; r < order*order; r += order {
		row := out[r : r+order]
		for t, by := range l[r : r+order] {
			for c, v := range u[t*order : (t+1)*order] {
				row[c] -= by * v
			}
		}
	}
}

func rowPortable(order int, sum *[MostBlock]float64, data []float32, cols []int32, x []float64) {
	for _, col := range cols {
		v := x[order*int(col):][:order]
		for r := range order {
			for c, a := range data[order*r:][:order] {
				sum[r] += float64(a) * v[c]
			}
		}
		data = data[order*order:]
	}
}

func bilinearPortable(n int, g, c, h, out *float32) {
	o := (*[64]float32)(unsafe.Pointer(out))
	*o = [64]float32{}
	gs, cs, hs := unsafe.Slice(g, 32*n), unsafe.Slice(c, 16*n), unsafe.Slice(h, 32*n)
	for q := range n {
		g, c, h := (*[32]float32)(gs[32*q:]), (*Four)(cs[16*q:]), (*[32]float32)(hs[32*q:])
		for d := range 4 {
			c0, c1, c2, c3 := c[4*d], c[4*d+1], c[4*d+2], c[4*d+3]
			var row [8]float32
			for b := range row {
				row[b] = c0*h[b] + c1*h[8+b] + c2*h[16+b] + c3*h[24+b]
			}
			for a := range 8 {
				by := g[8*d+a]
				for b, v := range row {
					o[8*a+b] += by * v
				}
			}
		}
	}
}
