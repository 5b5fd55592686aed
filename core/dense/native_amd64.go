package dense

import "golang.org/x/sys/cpu"

// native returns the kernels in assembly that this processor can run.
func native() []kernel {
	var list []kernel
	if cpu.X86.HasAVX2 && cpu.X86.HasFMA {
		list = append(list, kernel{name: "AVX2", rows: 4, cols: 12, product: product256, axpy: axpyAVX, dot: dotAVX})
	}
	if len(list) > 0 && cpu.X86.HasAVX512F {
		list = append(list, kernel{name: "AVX-512", rows: 12, cols: 16, product: product512, axpy: axpyAVX, dot: dotAVX})
	}
	return list
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
