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
// that are factorised, with luUnknowns of them and growing with luPower. An unknown of a vector
// takes memoryVector times as much as one of a scalar; modes and responses are factorised, responses
// by complex numbers. Fields that are always factorised, such as those of a flow, take memorySaddle for each
// unknown of a section, and in space what coupled fields do. Runs lie within a half of it.
const (
	memoryBase    = 50e6
	memoryLinear  = 2100.
	memorySquared = 3300.
	memoryFlat    = 1100.
	memoryLU      = 7000.
	luUnknowns    = 12000.
	luPower       = 0.6

	memorySaddle = 9000.
	memoryPaced  = 8000. // for a node of a flow that is solved for in blocks

	memoryVector     = 1.9
	memoryModes      = 10000. // with modesUnknowns
	modesUnknowns    = 78000.
	memoryResponse   = 15600. // with responseUnknowns
	responseUnknowns = 31000.
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
	nodes, each := float64(r.mesh.NodeCount()), memoryLinear
	squared, flat := r.model.Order == 2, r.model.Document.Space.Flat()
	switch {
	case flat && squared:
		nodes, each = nodes/2*nodesSquaredFlat, memoryFlat
	case flat:
		nodes, each = nodes/2, memoryFlat
	case squared:
		nodes, each = nodes*nodesSquared, memorySquared
	}
	var scalars, vectors float64
	for i := range cat.Physics {
		p := &cat.Physics[i]
		if n := p.PerNode(r.model); r.model.Solves(p.Key) && n > 1 {
			vectors += float64(n) * nodes
		} else if r.model.Solves(p.Key) {
			scalars += nodes
		}
	}
	factorised := func(n, each, with float64) float64 { return each * n * math.Pow(n/with, luPower) }
	most := memoryBase + each*scalars + memoryVector*each*vectors
	if scalars > nodes && scalars <= couple.UsualDirect && !flat {
		most = max(most, memoryBase+factorised(scalars, memoryLU, luUnknowns)+memoryVector*each*vectors)
	}
	if paced, is := r.paced(); is {
		most += memoryPaced * nodes * paced
	} else if r.saddle() {
		unknowns := scalars + vectors
		if flat {
			most = max(most, memoryBase+memorySaddle*sectionNodes*unknowns)
		} else {
			most = max(most, memoryBase+factorised(unknowns, memoryLU, luUnknowns))
		}
	}
	switch d := r.model.Document; {
	case d.Modal():
		most += factorised(max(vectors, nodes), memoryModes, modesUnknowns)
	case d.Swings():
		most += factorised(max(vectors, nodes), memoryResponse, responseUnknowns)
	}
	for i := range cat.Physics {
		if p := &cat.Physics[i]; p.Beside != nil && r.model.Solves(p.Key) {
			most += p.Beside(r.model)
		}
	}
	return int64(most)
}

// sectionNodes is how many nodes a section has for one of those that the forecast counts.
const sectionNodes = 2

// paced says that a flow is solved for in blocks, and on what part of the nodes.
func (r *run) paced() (part float64, is bool) {
	d := r.model.Document
	if !r.saddle() || d.Space.Flat() || r.model.Order != 1 || d.Transient() {
		return 0, false
	}
	for i := range physics.All {
		if p := physics.All[i]; p.Saddle && r.model.Solves(p.Key) {
			return min(1, float64(len(r.model.LivesIn(p.Key)))/max(1, float64(len(r.model.Parts)))), true
		}
	}
	return 1, true
}

// saddle says that a field of the model is always factorised.
func (r *run) saddle() bool {
	for i := range physics.All {
		if p := physics.All[i]; p.Saddle && r.model.Solves(p.Key) {
			return true
		}
	}
	return false
}

// fits is a *MemoryError if the run would take more memory than it may.
func (r *run) fits() error {
	if need := r.forecast(); r.opt.Memory > 0 && need > r.opt.Memory {
		return &MemoryError{Cells: r.mesh.CellCount(), Need: need, Allowed: r.opt.Memory}
	}
	return nil
}
