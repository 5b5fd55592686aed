package dense

import "golang.org/x/sys/cpu"

// native returns the kernels in assembly that this processor can run.
func native() []kernel {
	var list []kernel
	if cpu.X86.HasAVX2 && cpu.X86.HasFMA {
		list = append(list, kernel{name: "AVX2", rows: 4, cols: 12, product: product256, axpy: axpyAVX, dot: dotAVX, axpyPair: axpyPairAVX, dotPair: dotPairAVX,
			small: true, bilinear: bilinear256})
	}
	if len(list) > 0 && cpu.X86.HasAVX512F {
		list = append(list, kernel{name: "AVX-512", rows: 12, cols: 16, product: product512, axpy: axpyAVX, dot: dotAVX, axpyPair: axpyPairAVX, dotPair: dotPairAVX,
			small: true, bilinear: bilinear256})
	}
	return list
}

// smallProduct takes l·u from out, which are blocks of an order.
func smallProduct(order int, out, l, u *float32) {
	switch order {
	case 4:
		fours256(out, l, u)
	case 5:
		fives256(out, l, u)
	case 6:
		sixes256(out, l, u)
	}
}

// smallRow adds n blocks of an order, each times as many of x at its column, to sum.
func smallRow(order, n int, data *float32, cols *int32, x, sum *float64) {
	switch order {
	case 4:
		fourRow256(n, data, cols, x, sum)
	case 5:
		fiveRow256(n, data, cols, x, sum)
	case 6:
		sixRow256(n, data, cols, x, sum)
	}
}

func axpyAVX(alpha float64, x, y []float64) {
	n := len(y) &^ 3
	if n > 0 {
		axpy256(n, alpha, &x[0], &y[0])
	}
	for i := n; i < len(y); i++ {
		y[i] += alpha * x[i]
	}
}

func dotAVX(x, y []float64) float64 {
	n := len(x) &^ 3
	var s float64
	if n > 0 {
		s = dot256(n, &x[0], &y[0])
	}
	for i := n; i < len(x); i++ {
		s += x[i] * y[i]
	}
	return s
}

func axpyPairAVX(a *[4]float64, r1, r2, y1, y2 []float64) {
	n := len(y1) &^ 3
	if n > 0 {
		axpyPair256(n, &a[0], &r1[0], &r2[0], &y1[0], &y2[0])
	}
	axpyPairPortable(a, r1[n:], r2[n:], y1[n:], y2[n:])
}

func dotPairAVX(r1, r2, x1, x2 []float64) (s [4]float64) {
	n := len(x1) &^ 3
	if n > 0 {
		dotPair256(n, &r1[0], &r2[0], &x1[0], &x2[0], &s[0])
	}
	rest := dotPairPortable(r1[n:], r2[n:], x1[n:], x2[n:])
	for i, v := range rest {
		s[i] += v
	}
	return s
}
