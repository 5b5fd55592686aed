// Command linsolve solves a linear system from files and prints what it cost, so
// that the solvers can be compared with others on the same matrices.
//
// A matrix file is native little-endian without padding: int64 n, int64 nnz,
// int64 rowptr[n+1], int32 colidx[nnz], float64 val[nnz], columns ascending, with
// real and imaginary parts in turn if it is complex. A right side is int64 n,
// float64 b[n].
package main

import (
	"context"
	"errors"
	"flag"
	"fmt"
	"os"
	"runtime"
	"runtime/pprof"
	"strings"
	"time"
	"unsafe"

	"saltkettle/core/dense"
	"saltkettle/core/sparse"
)

func main() {
	matrix := flag.String("matrix", "", "matrix `file`")
	rhs := flag.String("rhs", "", "right side `file`")
	mass := flag.String("mass", "", "mass matrix `file` of an eigenvalue problem")
	count := flag.Int("count", 12, "eigenvalues wanted")
	method := flag.String("method", "amg", "amg: conjugate gradients with multigrid; ldlt: symmetric direct (definite for real matrices); ldlt-indefinite; lu; eigen: lowest eigenvalues of a symmetric pencil")
	ordering := flag.String("ordering", "automatic", "of a direct method: automatic, degree or dissection")
	threads := flag.Int("threads", runtime.NumCPU(), "cores to use")
	tolerance := flag.Float64("tolerance", 1e-8, "residual relative to the right side")
	repeat := flag.Int("repeat", 1, "factorisations of which the fastest counts")
	profile := flag.String("profile", "", "write a CPU profile to `file`")
	flag.Parse()
	runtime.GOMAXPROCS(*threads)
	if *profile != "" {
		f, err := os.Create(*profile)
		if err == nil {
			err = pprof.StartCPUProfile(f)
		}
		if err != nil {
			fmt.Fprintln(os.Stderr, "linsolve:", err)
			os.Exit(1)
		}
		defer pprof.StopCPUProfile()
	}
	var err error
	if *method == "eigen" {
		err = eigen(*matrix, *mass, *count)
	} else {
		err = run(*matrix, *rhs, *method, *ordering, *tolerance, *repeat)
	}
	if err != nil {
		fmt.Fprintln(os.Stderr, "linsolve:", err)
		os.Exit(1)
	}
}

func run(matrix, rhs, method, ordering string, tolerance float64, repeat int) error {
	complexes, err := isComplex(matrix)
	if err != nil {
		return err
	}
	kinds := map[string]sparse.Kind{"ldlt": sparse.Definite, "ldlt-indefinite": sparse.Symmetric, "lu": sparse.Unsymmetric}
	kind, isDirect := kinds[method]
	orderings := map[string]sparse.Ordering{"automatic": sparse.Automatic, "degree": sparse.MinimumDegree, "dissection": sparse.Dissection}
	order, ok := orderings[ordering]
	switch {
	case !ok:
		return fmt.Errorf("there is no ordering %q", ordering)
	case method == "amg" && !complexes:
		return multigrid(matrix, rhs, tolerance)
	case isDirect && complexes:
		return direct[complex128](matrix, rhs, max(kind, sparse.Symmetric), order, repeat)
	case isDirect:
		return direct[float64](matrix, rhs, kind, order, repeat)
	}
	return fmt.Errorf("there is no method %q for this matrix", method)
}

func read[T dense.Scalar](matrix, rhs string) (*sparse.Matrix[T], []T, error) {
	a, err := readMatrix[T](matrix)
	if err != nil {
		return nil, nil, err
	}
	b, err := readVector[T](rhs)
	if err == nil && len(b) != a.N() {
		err = errors.New("the right side does not fit the matrix")
	}
	return a, b, err
}

func multigrid(matrix, rhs string, tolerance float64) error {
	a, b, err := read[float64](matrix, rhs)
	if err != nil {
		return err
	}
	began := time.Now()
	amg, err := sparse.NewAMG(context.Background(), a, nil)
	if err != nil {
		return err
	}
	setup := time.Since(began).Seconds()
	x := make([]float64, a.N())
	began = time.Now()
	r := sparse.CG(context.Background(), a, b, x, amg, &sparse.Settings{Tolerance: tolerance})
	fmt.Printf("setup %.2f s, solve %.2f s, total %.2f s, %d iterations, residual %.1e, %s, peak memory %s, levels %v\n",
		setup, time.Since(began).Seconds(), setup+time.Since(began).Seconds(), r.Iterations, r.Residual, r.Status, peak(), amg.Levels())
	return nil
}

func direct[T dense.Scalar](matrix, rhs string, kind sparse.Kind, order sparse.Ordering, repeat int) error {
	a, b, err := read[T](matrix, rhs)
	if err != nil {
		return err
	}
	began := time.Now()
	an := sparse.Analyse(a, kind, &sparse.OrderSettings{Ordering: order})
	setup := time.Since(began).Seconds()
	var factors *sparse.Factors[T]
	var factor, solve float64
	for i := range repeat {
		factors = nil
		runtime.GC()
		began = time.Now()
		if factors, err = sparse.Factor(context.Background(), an, a, nil); err != nil {
			return err
		}
		if s := time.Since(began).Seconds(); i == 0 || s < factor {
			factor = s
		}
	}
	x := make([]T, a.N())
	for i := range max(repeat, 2) {
		began = time.Now()
		factors.Solve(x, b)
		if s := time.Since(began).Seconds(); i == 0 || s < solve {
			solve = s
		}
	}
	residual := sparse.Residual(a, x, b)
	refined := factors.Refined(a, x, b, 3)
	var element T
	fmt.Printf("predicted %.0f MB, condition about %.1e\n", float64(an.Memory(int(unsafe.Sizeof(element))))/1e6, factors.Condition(a))
	fmt.Printf("analyse %.2f s, factor %.2f s, solve %.3f s, total %.2f s, fill %.1f M, %.1f G multiplications (%.1f GFLOP/s), put off %d, residual %.1e, refined %.1e, peak memory %s, kernel %s\n",
		setup, factor, solve, setup+factor+solve, float64(an.Fill)/1e6, an.Work/1e9, 2*an.Work/1e9/factor, factors.PutOff, residual, refined, peak(), dense.Kernel())
	return nil
}

func eigen(matrix, mass string, count int) error {
	k, err := readMatrix[float64](matrix)
	if err != nil {
		return err
	}
	m, err := readMatrix[float64](mass)
	if err != nil {
		return err
	}
	began := time.Now()
	r, err := sparse.Eigen(context.Background(), k, m, &sparse.EigenSettings[float64]{Count: count, Symmetric: true})
	if err != nil {
		return err
	}
	seconds := time.Since(began).Seconds()
	worst := 0.0
	for _, v := range r.Residuals {
		worst = max(worst, v)
	}
	fmt.Printf("total %.2f s, %d solves, %d restarts, lowest %.8g, highest %.8g, worst residual %.1e, peak memory %s\n",
		seconds, r.Solves, r.Restarts, real(r.Values[0]), real(r.Values[count-1]), worst, peak())
	return nil
}

// peak is the largest size of the process so far, as the system counts it.
func peak() string {
	data, err := os.ReadFile("/proc/self/status")
	if err != nil {
		return "unknown"
	}
	for line := range strings.Lines(string(data)) {
		if rest, ok := strings.CutPrefix(line, "VmHWM:"); ok {
			return strings.Join(strings.Fields(rest), " ")
		}
	}
	return "unknown"
}
