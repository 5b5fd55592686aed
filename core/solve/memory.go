package solve

import (
	"fmt"

	"saltkettle/core/quantity"
)

// MemoryError says that a run would take more memory than it may have.
type MemoryError struct {
	Cells         int
	Need, Allowed int64 // bytes
}

func (e *MemoryError) Error() string {
	return fmt.Sprintf("with %s cells it would take about %s of memory, and may take %s: make cells larger, or run it all the same",
		quantity.Count(e.Cells), memoryWords(e.Need), memoryWords(e.Allowed))
}

// memoryWords writes an amount of memory.
func memoryWords(bytes int64) string {
	if bytes < 1e9 {
		return quantity.Figures(float64(bytes)/1e6, 2) + " MB"
	}
	return quantity.Figures(float64(bytes)/1e9, 2) + " GB"
}

// What runs have been measured to take: the program itself, and for each unknown of a field with
// functions of order 1 and 2, bytes. Solved by iterations runs lie within a third of it; an LU
// factorisation, which small coupled fields get and others fall back to, takes several times as
// much.
const (
	memoryBase    = 50e6
	memoryLinear  = 2100.
	memorySquared = 3300.
)

// nodesSquared is how many nodes of order 2 there are for one of order 1 in a large mesh of
// wedges.
const nodesSquared = 7.5

// forecast is about how much memory the run will take at its peak, bytes.
func (r *run) forecast() int64 {
	fields := 0.0
	for _, solved := range []bool{r.model.Heat, r.model.Electric} {
		if solved {
			fields++
		}
	}
	n := float64(r.mesh.NodeCount())
	if r.model.Order == 2 {
		return int64(memoryBase + memorySquared*nodesSquared*n*fields)
	}
	return int64(memoryBase + memoryLinear*n*fields)
}

// fits is a *MemoryError if the run would take more memory than it may.
func (r *run) fits() error {
	if need := r.forecast(); r.opt.Memory > 0 && need > r.opt.Memory {
		return &MemoryError{Cells: r.mesh.CellCount(), Need: need, Allowed: r.opt.Memory}
	}
	return nil
}
