package main

import (
	"bufio"
	"encoding/binary"
	"fmt"
	"io"
	"math"
	"os"

	"saltkettle/core/dense"
	"saltkettle/core/sparse"
)

// isComplex says whether a matrix file holds complex values, by its size.
func isComplex(path string) (bool, error) {
	f, err := os.Open(path)
	if err != nil {
		return false, err
	}
	defer f.Close()
	var head [2]int64
	if err := binary.Read(f, binary.LittleEndian, &head); err != nil {
		return false, err
	}
	info, err := f.Stat()
	if err != nil {
		return false, err
	}
	return info.Size() == 16+8*(head[0]+1)+20*head[1], nil
}

func readMatrix[T dense.Scalar](path string) (*sparse.Matrix[T], error) {
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
	a := &sparse.Matrix[T]{Rows: make([]int32, head[0]+1), Cols: make([]int32, head[1]), Data: make([]T, head[1])}
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

func readVector[T dense.Scalar](path string) ([]T, error) {
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
	b := make([]T, n)
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
	case []complex128:
		return chunks(in, l, chunk)
	}
	panic("linsolve: unknown kind of list")
}

func chunks[T int32 | int64 | float64 | complex128](in io.Reader, list []T, size int) error {
	for len(list) > 0 {
		n := min(size, len(list))
		if err := binary.Read(in, binary.LittleEndian, list[:n]); err != nil {
			return err
		}
		list = list[n:]
	}
	return nil
}
