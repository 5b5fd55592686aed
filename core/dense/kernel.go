package dense

import "unsafe"

// Scalar is what the elements of a matrix can be.
type Scalar interface{ float64 | complex128 }

// kernel is a way to compute with blocks of float64 in registers.
type kernel struct {
	name string
	// rows and columns of a tile of C.
	rows, cols int
	// product adds to the tile at c, whose rows are ldc apart, the product of a
	// panel of A (k columns of rows elements) and one of B (k rows of cols).
	product func(k int, a, b, c *float64, ldc int)
	// axpy adds alpha·x to y, dot is the inner product; lengths agree.
	axpy func(alpha float64, x, y []float64)
	// axpyPair adds a[0]·r1 + a[1]·r2 to y1 and a[2]·r1 + a[3]·r2 to y2; dotPair is the
	// inner products r1·x1, r2·x1, r1·x2 and r2·x2.
	axpyPair func(a *[4]float64, r1, r2, y1, y2 []float64)
	dotPair  func(r1, r2, x1, x2 []float64) [4]float64
	dot      func(x, y []float64) float64
	// small says that smallProduct and smallRow are to be called, which are no functions in here: what they are given would be
	// copied to the heap for each call. bilinear sets out, 8 by 8, to the sum of n products gᵀ·c·h of 4 by 8, 4 by 4 and 4 by 8.
	small    bool
	bilinear func(n int, g, c, h, out *float32)
}

// portable is the kernel for every processor.
var portable = kernel{name: "portable", rows: 4, cols: 4, product: product4, axpy: axpyPortable, dot: dotPortable, axpyPair: axpyPairPortable, dotPair: dotPairPortable,
	bilinear: bilinearPortable}

// kernels are those that this processor can run, the fastest last.
var kernels = append([]kernel{portable}, native()...)

// active is the kernel in use.
var active = kernels[len(kernels)-1]

// Kernel names the kernel in use.
func Kernel() string { return active.name }

// product4 is the portable product kernel, for tiles of 4 by 4.
func product4(k int, a, b, c *float64, ldc int) {
	pa, pb := unsafe.Slice(a, 4*k), unsafe.Slice(b, 4*k)
	var t [4][4]float64
	for len(pa) >= 4 && len(pb) >= 4 {
		b0, b1, b2, b3 := pb[0], pb[1], pb[2], pb[3]
		for i, v := range pa[:4] {
			r := &t[i]
			r[0] += v * b0
			r[1] += v * b1
			r[2] += v * b2
			r[3] += v * b3
		}
		pa, pb = pa[4:], pb[4:]
	}
	out := unsafe.Slice(c, 3*ldc+4)
	for i := range t {
		for j, v := range t[i] {
			out[i*ldc+j] += v
		}
	}
}

func axpyPortable(alpha float64, x, y []float64) {
	x = x[:len(y)]
	for i := range y {
		y[i] += alpha * x[i]
	}
}

func dotPortable(x, y []float64) float64 {
	var s0, s1, s2, s3 float64
	y = y[:len(x)]
	for len(x) >= 4 {
		s0 += x[0] * y[0]
		s1 += x[1] * y[1]
		s2 += x[2] * y[2]
		s3 += x[3] * y[3]
		x, y = x[4:], y[4:]
	}
	for i, v := range x {
		s0 += v * y[i]
	}
	return s0 + s1 + (s2 + s3)
}

func axpyPairPortable(a *[4]float64, r1, r2, y1, y2 []float64) {
	r1, r2, y2 = r1[:len(y1)], r2[:len(y1)], y2[:len(y1)]
	for i, x := range r1 {
		y1[i] += a[0]*x + a[1]*r2[i]
		y2[i] += a[2]*x + a[3]*r2[i]
	}
}

func dotPairPortable(r1, r2, x1, x2 []float64) (s [4]float64) {
	r1, r2, x2 = r1[:len(x1)], r2[:len(x1)], x2[:len(x1)]
	for i, x := range x1 {
		s[0] += r1[i] * x
		s[1] += r2[i] * x
		s[2] += r1[i] * x2[i]
		s[3] += r2[i] * x2[i]
	}
	return s
}

// AxpyPair adds a[0]·r1 + a[1]·r2 to y1 and a[2]·r1 + a[3]·r2 to y2, all of one length.
func AxpyPair(a *[4]float64, r1, r2, y1, y2 []float64) { active.axpyPair(a, r1, r2, y1, y2) }

// DotPair is the inner products r1·x1, r2·x1, r1·x2 and r2·x2.
func DotPair(r1, r2, x1, x2 []float64) [4]float64 { return active.dotPair(r1, r2, x1, x2) }

// Axpy adds alpha times x to y.
func Axpy[T Scalar](alpha T, x, y []T) {
	if len(x) != len(y) {
		panic("dense: lengths of vectors differ")
	}
	if alpha == 0 {
		return
	}
	if a, ok := real1(&alpha); ok {
		active.axpy(a, words(x), words(y))
		return
	}
	if a, ok := any(alpha).(complex128); ok && imag(a) == 0 {
		active.axpy(real(a), words(x), words(y)) // as twice as many real numbers
		return
	}
	for i, v := range x {
		y[i] += alpha * v
	}
}

// Dot is the sum of products of the elements, without conjugation.
func Dot[T Scalar](x, y []T) T {
	if len(x) != len(y) {
		panic("dense: lengths of vectors differ")
	}
	var s T
	if p, ok := real1(&s); ok {
		p = active.dot(words(x), words(y))
		return *(*T)(unsafe.Pointer(&p))
	}
	var t T
	for len(x) >= 2 {
		s += x[0] * y[0]
		t += x[1] * y[1]
		x, y = x[2:], y[2:]
	}
	for i, v := range x {
		s += v * y[i]
	}
	return s + t
}

// real1 returns the value of a real scalar, false for a complex one.
func real1[T Scalar](x *T) (float64, bool) {
	if unsafe.Sizeof(*x) == 8 {
		return *(*float64)(unsafe.Pointer(x)), true
	}
	return 0, false
}

// width is how many float64 make up a scalar.
func width[T Scalar]() int {
	var x T
	return int(unsafe.Sizeof(x) / 8)
}

// words sees a slice as float64: for complex numbers real and imaginary parts in
// turn.
func words[T Scalar](x []T) []float64 {
	if len(x) == 0 {
		return nil
	}
	return unsafe.Slice((*float64)(unsafe.Pointer(&x[0])), len(x)*width[T]())
}

// Magnitude is the absolute value of a real and the sum of the absolute values of
// the parts of a complex number: between |x| and √2·|x|, and quick.
func Magnitude[T Scalar](x T) float64 {
	p := (*[2]float64)(unsafe.Pointer(&x))
	if unsafe.Sizeof(x) == 8 {
		return max(p[0], -p[0])
	}
	return max(p[0], -p[0]) + max(p[1], -p[1])
}
