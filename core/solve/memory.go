package solve

import (
	"fmt"
	"math"
	"slices"

	"saltkettle/core/model"
	"saltkettle/core/physics/coupled"
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
// that are factorised, with luUnknowns of them and growing with luPower; and the exchange of
// radiation. Runs lie within a half of it.
const (
	memoryBase      = 50e6
	memoryLinear    = 2100.
	memorySquared   = 3300.
	memoryFlat      = 1100.
	memoryLU        = 7000.
	luUnknowns      = 12000.
	luPower         = 0.6
	memoryRadiation = 45e6
)

// nodesSquared is how many nodes of order 2 there are for one of order 1 in a large mesh of
// wedges, nodesSquaredFlat in one of triangles.
const (
	nodesSquared     = 7.5
	nodesSquaredFlat = 4.
)

// forecast is about how much memory the run will take at its peak, bytes.
func (r *run) forecast() int64 {
	fields := 0.0
	for _, solved := range []bool{r.model.Heat, r.model.Electric} {
		if solved {
			fields++
		}
	}
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
	if fields > 1 && n <= coupled.UsualDirect && !flat {
		each = max(each, memoryLU*math.Pow(n/luUnknowns, luPower))
	}
	most := memoryBase + each*n
	if slices.ContainsFunc(r.model.Conditions, func(c model.ResolvedSentence) bool { return c.Kind == "heat.enclosure" }) {
		most += memoryRadiation
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
