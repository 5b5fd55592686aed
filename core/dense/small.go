package dense

import "unsafe"

// Four is a block of 4 by 4, row by row.
type Four = [16]float32

// SubtractProduct takes l·u from out.
func SubtractProduct(out, l, u *Four) { active.fours(&out[0], &l[0], &u[0]) }

// Five is a block of 5 by 5, row by row.
type Five = [25]float32

// SubtractProductFive takes l·u from out.
func SubtractProductFive(out, l, u *Five) { active.fives(&out[0], &l[0], &u[0]) }

// AddFiveRow is AddFourRow for blocks of 5 by 5.
func AddFiveRow(sum *[5]float64, data []float32, cols []int32, x []float64) {
	n := len(cols)
	if n == 0 {
		return
	}
	if len(data) < 25*n {
		panic("dense: a row has fewer blocks than columns")
	}
	active.fiveRow(n, &data[0], &cols[0], &x[0], &sum[0])
}

// Six is a block of 6 by 6, row by row.
type Six = [36]float32

// SubtractProductSix takes l·u from out.
func SubtractProductSix(out, l, u *Six) { active.sixes(&out[0], &l[0], &u[0]) }

// AddSixRow is AddFourRow for blocks of 6 by 6.
func AddSixRow(sum *[6]float64, data []float32, cols []int32, x []float64) {
	n := len(cols)
	if n == 0 {
		return
	}
	if len(data) < 36*n {
		panic("dense: a row has fewer blocks than columns")
	}
	active.sixRow(n, &data[0], &cols[0], &x[0], &sum[0])
}

// AddFourRow adds the product of a row of blocks of 4 by 4 with a vector to sum: data has the blocks one after the
// other, cols which four elements of x each is for.
func AddFourRow(sum *[4]float64, data []float32, cols []int32, x []float64) {
	n := len(cols)
	if n == 0 {
		return
	}
	if len(data) < 16*n {
		panic("dense: a row has fewer blocks than columns")
	}
	active.fourRow(n, &data[0], &cols[0], &x[0], &sum[0])
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

func foursPortable(out, l, u *float32) {
	o, a, b := (*Four)(unsafe.Pointer(out)), (*Four)(unsafe.Pointer(l)), (*Four)(unsafe.Pointer(u))
	for r := 0; r < 16; r += 4 {
		a0, a1, a2, a3 := a[r], a[r+1], a[r+2], a[r+3]
		for c := range 4 {
			o[r+c] -= a0*b[c] + a1*b[4+c] + a2*b[8+c] + a3*b[12+c]
		}
	}
}

func fourRowPortable(n int, data *float32, cols *int32, x, sum *float64) {
	s, d, c := (*[4]float64)(unsafe.Pointer(sum)), unsafe.Slice(data, 16*n), unsafe.Slice(cols, n)
	s0, s1, s2, s3 := s[0], s[1], s[2], s[3]
	for k, col := range c {
		d := (*Four)(d[16*k:])
		v := (*[4]float64)(unsafe.Add(unsafe.Pointer(x), 32*int(col)))
		s0 += float64(d[0])*v[0] + float64(d[1])*v[1] + float64(d[2])*v[2] + float64(d[3])*v[3]
		s1 += float64(d[4])*v[0] + float64(d[5])*v[1] + float64(d[6])*v[2] + float64(d[7])*v[3]
		s2 += float64(d[8])*v[0] + float64(d[9])*v[1] + float64(d[10])*v[2] + float64(d[11])*v[3]
		s3 += float64(d[12])*v[0] + float64(d[13])*v[1] + float64(d[14])*v[2] + float64(d[15])*v[3]
	}
	s[0], s[1], s[2], s[3] = s0, s1, s2, s3
}

func fivesPortable(out, l, u *float32) {
	o, a, b := (*Five)(unsafe.Pointer(out)), (*Five)(unsafe.Pointer(l)), (*Five)(unsafe.Pointer(u))
	for r := 0; r < 25; r += 5 {
		a0, a1, a2, a3, a4 := a[r], a[r+1], a[r+2], a[r+3], a[r+4]
		for c := range 5 {
			o[r+c] -= a0*b[c] + a1*b[5+c] + a2*b[10+c] + a3*b[15+c] + a4*b[20+c]
		}
	}
}

func fiveRowPortable(n int, data *float32, cols *int32, x, sum *float64) {
	s, d, c := (*[5]float64)(unsafe.Pointer(sum)), unsafe.Slice(data, 25*n), unsafe.Slice(cols, n)
	for k, col := range c {
		d := (*Five)(d[25*k:])
		v := (*[5]float64)(unsafe.Add(unsafe.Pointer(x), 40*int(col)))
		for r := range s {
			s[r] += float64(d[5*r])*v[0] + float64(d[5*r+1])*v[1] + float64(d[5*r+2])*v[2] + float64(d[5*r+3])*v[3] + float64(d[5*r+4])*v[4]
		}
	}
}

func sixesPortable(out, l, u *float32) {
	o, a, b := (*Six)(unsafe.Pointer(out)), (*Six)(unsafe.Pointer(l)), (*Six)(unsafe.Pointer(u))
	for r := 0; r < 36; r += 6 {
		a0, a1, a2, a3, a4, a5 := a[r], a[r+1], a[r+2], a[r+3], a[r+4], a[r+5]
		for c := range 6 {
			o[r+c] -= a0*b[c] + a1*b[6+c] + a2*b[12+c] + a3*b[18+c] + a4*b[24+c] + a5*b[30+c]
		}
	}
}

func sixRowPortable(n int, data *float32, cols *int32, x, sum *float64) {
	s, d, c := (*[6]float64)(unsafe.Pointer(sum)), unsafe.Slice(data, 36*n), unsafe.Slice(cols, n)
	for k, col := range c {
		d := (*Six)(d[36*k:])
		v := (*[6]float64)(unsafe.Add(unsafe.Pointer(x), 48*int(col)))
		for r := range s {
			s[r] += float64(d[6*r])*v[0] + float64(d[6*r+1])*v[1] + float64(d[6*r+2])*v[2] + float64(d[6*r+3])*v[3] + float64(d[6*r+4])*v[4] + float64(d[6*r+5])*v[5]
		}
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
