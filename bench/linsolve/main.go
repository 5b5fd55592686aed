// Command linsolve solves a linear system from files and prints what it cost, so
// that the solvers can be compared with others on the same matrices.
//
// A matrix file is native little-endian without padding: int64 n, int64 nnz,
// int64 rowptr[n+1], int32 colidx[nnz], float64 val[nnz], columns ascending. A
// right side is int64 n, float64 b[n].
package main

import (
	"bufio"
	"context"
	"encoding/binary"
	"errors"
	"flag"
	"fmt"
	"io"
	"math"
	"os"
	"runtime"
	"runtime/pprof"
	"strings"
	"time"

	"saltkettle/core/sparse"
)

func main() {
	matrix := flag.String("matrix", "", "matrix `file`")
	rhs := flag.String("rhs", "", "right side `file`")
	method := flag.String("method", "amg", "amg: conjugate gradients with multigrid")
	threads := flag.Int("threads", runtime.NumCPU(), "cores to use")
	tolerance := flag.Float64("tolerance", 1e-8, "residual relative to the right side")
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
	if err := run(*matrix, *rhs, *method, *tolerance); err != nil {
		fmt.Fprintln(os.Stderr, "linsolve:", err)
		os.Exit(1)
	}
}

func run(matrix, rhs, method string, tolerance float64) error {
	if method != "amg" {
		return fmt.Errorf("there is no method %q", method)
	}
	a, err := readMatrix(matrix)
	if err != nil {
		return err
	}
	b, err := readVector(rhs)
	if err != nil {
		return err
	}
	if len(b) != a.N() {
		return errors.New("the right side does not fit the matrix")
	}
	began := time.Now()
	amg, err := sparse.NewAMG(a, nil)
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

func readMatrix(path string) (*sparse.CSR, error) {
	f, err := os.Open(path)
	if err != nil {
		return nil, err
	}
	defer f.Close()
	in := bufio.NewReaderSize(f, 1<<20)
	var head [2]int64
	if err := binary.Read(in, binary.LittleEndian, &head); err != nil {
		return nil, err
	}
	if head[0] < 1 || head[1] < 1 || head[1] > math.MaxInt32 {
		return nil, fmt.Errorf("%s is no matrix that can be read", path)
	}
	rows := make([]int64, head[0]+1)
	a := &sparse.CSR{Rows: make([]int32, head[0]+1), Cols: make([]int32, head[1]), Data: make([]float64, head[1])}
	for _, part := range []any{rows, a.Cols, a.Data} {
		if err := readChunks(in, part); err != nil {
			return nil, fmt.Errorf("%s: %w", path, err)
		}
	}
	for i, r := range rows {
		a.Rows[i] = int32(r)
	}
	return a, a.Check()
}

func readVector(path string) ([]float64, error) {
	f, err := os.Open(path)
	if err != nil {
		return nil, err
	}
	defer f.Close()
	in := bufio.NewReaderSize(f, 1<<20)
	var n int64
	if err := binary.Read(in, binary.LittleEndian, &n); err != nil {
		return nil, err
	}
	if n < 1 || n > math.MaxInt32 {
		return nil, fmt.Errorf("%s is no vector that can be read", path)
	}
	b := make([]float64, n)
	return b, readChunks(in, b)
}

// readChunks fills a slice piece by piece: binary.Read would hold all of the
// file in memory a second time.
func readChunks(in io.Reader, list any) error {
	const chunk = 1 << 16
	switch l := list.(type) {
	case []int64:
		return chunks(in, l, chunk)
	case []int32:
		return chunks(in, l, chunk)
	case []float64:
		return chunks(in, l, chunk)
	}
	panic("linsolve: unknown kind of list")
}

func chunks[T int32 | int64 | float64](in io.Reader, list []T, size int) error {
	for len(list) > 0 {
		n := min(size, len(list))
		if err := binary.Read(in, binary.LittleEndian, list[:n]); err != nil {
			return err
		}
		list = list[n:]
	}
	return nil
}
