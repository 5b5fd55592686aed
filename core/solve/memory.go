package solve

import (
	"fmt"
	"math"

	"saltkettle/core/couple"
	"saltkettle/core/physics"
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

// What runs have been measured to take, bytes: the program itself; for each unknown of a field with
// functions of order 1 and 2, where iterations solve, and in a flat space; for each unknown of coupled fields in space
// that are factorised, with luUnknowns of them and growing with luPower. Runs lie within a half of it.
const (
	memoryBase    = 50e6
	memoryLinear  = 2100.
	memorySquared = 3300.
	memoryFlat    = 1100.
	memoryLU      = 7000.
	luUnknowns    = 12000.
	luPower       = 0.6
)

// nodesSquared is how many nodes of order 2 there are for one of order 1 in a large mesh of
// wedges, nodesSquaredFlat in one of triangles.
const (
	nodesSquared     = 7.5
	nodesSquaredFlat = 4.
)

// forecast is about how much memory the run will take at its peak, bytes.
func (r *run) forecast() int64 {
	cat := physics.Catalog()
	fields := float64(r.model.Unknowns(cat))
	n, each := fields*float64(r.mesh.NodeCount()), memoryLinear
	squared, flat := r.model.Order == 2, r.model.Document.Space.Flat()
	switch {
	case flat && squared:
		n, each = n/2*nodesSquaredFlat, memoryFlat
	case flat:
		n, each = n/2, memoryFlat
	case squared:
		n, each = n*nodesSquared, memorySquared
	}
	if fields > 1 && n <= couple.UsualDirect && !flat {
		each = max(each, memoryLU*math.Pow(n/luUnknowns, luPower))
	}
	most := memoryBase + each*n
	for i := range cat.Physics {
		if p := &cat.Physics[i]; p.Beside != nil && r.model.Solves(p.Key) {
			most += p.Beside(r.model)
		}
	}
	return int64(most)
}

// fits is a *MemoryError if the run would take more memory than it may.
func (r *run) fits() error {
	if need := r.forecast(); r.opt.Memory > 0 && need > r.opt.Memory {
		return &MemoryError{Cells: r.mesh.CellCount(), Need: need, Allowed: r.opt.Memory}
	}
	return nil
}
