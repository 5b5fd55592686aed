package main

import (
	"context"
	"fmt"
	"runtime"
	"text/tabwriter"

	"saltkettle/core/sparse"
)

// blocks measures a matrix of 4 unknowns a node against the same one in blocks: its product, its
// incomplete factorisation, and one application of that.
func blocks(w *tabwriter.Writer) error {
	const side, b = 40, 4
	a := nodal(side, b)
	x, y := make([]float64, a.N()), make([]float64, a.N())
	for i := range x {
		x[i] = float64(i%7) - 3
	}
	fmt.Fprintf(w, "\n%d nodes of 4\tone core, ms\tall cores, ms\tMB\t\n", side*side*side)
	row := func(name string, mb float64, f func() error) error {
		all, err := best(f)
		if err != nil {
			return err
		}
		before := runtime.GOMAXPROCS(1)
		one, err := best(f)
		runtime.GOMAXPROCS(before)
		fmt.Fprintf(w, "%s\t%.1f\t%.1f\t%.0f\t\n", name, 1e3*one, 1e3*all, mb)
		return err
	}
	n := float64(len(a.Data))
	if err := row("product, by unknowns", n*12/1e6, func() error { a.MulVec(y, x); return nil }); err != nil {
		return err
	}
	single, err := sparse.NewBlocked[float32](a, b)
	if err != nil {
		return err
	}
	double, err := sparse.NewBlocked[float64](a, b)
	if err != nil {
		return err
	}
	if err := row("product, blocks", n*8.25/1e6, func() error { double.MulVec(y, x); return nil }); err != nil {
		return err
	}
	if err := row("product, blocks of float32", n*4.25/1e6, func() error { single.MulVec(y, x); return nil }); err != nil {
		return err
	}
	for _, colours := range []bool{false, true} {
		words := map[bool]string{true: "colours", false: "waves"}[colours]
		var f *sparse.BlockILU[float32]
		if err := row("block ILU, "+words, n*4.25/1e6, func() (err error) {
			f, err = sparse.NewBlockILU(single, &sparse.BlockILUSettings{Colours: colours})
			return err
		}); err != nil {
			return err
		}
		if err := row(fmt.Sprintf("solve with it, %d levels", f.Levels()), n*4.25/1e6, func() error { f.Apply(y, x); return nil }); err != nil {
			return err
		}
	}
	at := make([][3]float64, side*side*side)
	for i := range at {
		at[i] = [3]float64{float64(i % side), float64(i / side % side), float64(i / side / side)}
	}
	var grid *sparse.BlockMultigrid[float32]
	if err := row("multigrid in blocks", n*4.25*1.15/1e6, func() (err error) {
		grid, err = sparse.NewBlockMultigrid(context.Background(), single, &sparse.BlockMultigridSettings{At: at})
		return err
	}); err != nil {
		return err
	}
	if err := row("the same for another matrix", n*4.25*1.15/1e6, func() error { return grid.Renew(single) }); err != nil {
		return err
	}
	if err := row("a cycle of it", n*4.25*1.15/1e6, func() error { grid.Apply(y, x); return nil }); err != nil {
		return err
	}
	ilu, err := sparse.NewILU(a)
	if err != nil {
		return err
	}
	if err := row("ILU by unknowns", n*12/1e6, func() error { _, err := sparse.NewILU(a); return err }); err != nil {
		return err
	}
	return row("solve with it", n*12/1e6, func() error { ilu.Apply(y, x); return nil })
}

// nodal is a matrix on a cube of nodes with b unknowns each, that meet those of the 26 nodes
// around.
func nodal(side, b int) *sparse.CSR {
	m := &sparse.CSR{Rows: []int32{0}}
	for node := range side * side * side {
		x, y, z := node%side, node/side%side, node/side/side
		for r := range b {
			for k := range 27 {
				i, j, l := x+k%3-1, y+k/3%3-1, z+k/9-1
				if i < 0 || j < 0 || l < 0 || i >= side || j >= side || l >= side {
					continue
				}
				for c := range b {
					v := 0.01 * float64((r+2*c+k)%5-2)
					switch {
					case k == 13 && r == c:
						v = 30
					case r == c:
						v = -1
					}
					m.Cols, m.Data = append(m.Cols, int32(((l*side+j)*side+i)*b+c)), append(m.Data, v)
				}
			}
			m.Rows = append(m.Rows, int32(len(m.Cols)))
		}
	}
	return m
}
