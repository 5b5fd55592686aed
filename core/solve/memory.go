package solve

import (
	"fmt"
	"math"
	"slices"

	"saltkettle/core/couple"
	"saltkettle/core/frame"
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
// by complex numbers. A flow is always factorised in a section, with all that is coupled with it: memorySaddle for each of
// saddleUnknowns, growing with saddlePower; in space it takes memoryPaced a node if it is solved for in blocks, and what
// coupled fields do otherwise. Runs lie within a half of it, those of flows within 40 %.
const (
	memoryBase    = 50e6
	memoryLinear  = 2100.
	memorySquared = 3300.
	memoryFlat    = 1100.
	memoryLU      = 7000.
	luUnknowns    = 12000.
	luPower       = 0.6

	memorySaddle   = 6000.
	saddleUnknowns = 25000.
	saddlePower    = 0.05
	memoryPaced    = 7000.
	pacedUnknowns  = 4 // of a node of it

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
	var scalars, vectors, flow float64
	for i := range cat.Physics {
		p := &cat.Physics[i]
		if !r.model.Solves(p.Key) {
			continue
		}
		n, share := float64(p.PerNode(r.model)), r.share(p.Key)
		within := nodes * share
		switch {
		case physics.All[i].Saddle:
			corners, per := float64(r.mesh.NodeCount())*share, 1.
			if squared && flat {
				per = nodesSquaredFlat
			} else if squared {
				per = nodesSquared
			}
			flow += ((n-1)*per + 1) * corners // the last of them has functions of order 1
		case n > 1:
			vectors += n * within
		default:
			scalars += within
		}
	}
	factorised := func(n, each, with, power float64) float64 { return each * n * math.Pow(n/with, power) }
	most := memoryBase + each*scalars + memoryVector*each*vectors
	if scalars > nodes && scalars <= couple.UsualDirect && !flat {
		most = max(most, memoryBase+factorised(scalars, memoryLU, luUnknowns, luPower)+memoryVector*each*vectors)
	}
	switch {
	case flow == 0:
	case r.paced():
		most += memoryPaced * flow / pacedUnknowns
	case flat:
		most = max(most, memoryBase+factorised(flow+2*scalars, memorySaddle, saddleUnknowns, saddlePower))
	default:
		most = max(most, memoryBase+factorised(flow+scalars+vectors, memoryLU, luUnknowns, luPower))
	}
	switch d := r.model.Document; {
	case d.Modal(), r.factorised():
		most += factorised(max(vectors, nodes), memoryModes, modesUnknowns, luPower)
	case d.Swings():
		most += factorised(max(vectors, nodes), memoryResponse, responseUnknowns, luPower)
	}
	for i := range cat.Physics {
		if p := &cat.Physics[i]; p.Beside != nil && r.model.Solves(p.Key) {
			most += p.Beside(r.model)
		}
	}
	return int64(most)
}

// factorised says that the equations of a physics are so.
func (r *run) factorised() bool {
	return slices.ContainsFunc(physics.All, func(p *frame.Physics) bool {
		return p.Factorised != nil && r.model.Solves(p.Key) && p.Factorised(r.model)
	})
}

// share is on what part of the cells a physics is solved for.
func (r *run) share(key string) float64 {
	lives := map[int32]bool{}
	for _, i := range r.model.LivesIn(key) {
		lives[int32(i)] = true
	}
	n := 0
	for _, body := range r.mesh.Body {
		if lives[body] {
			n++
		}
	}
	return float64(n) / max(1, float64(len(r.mesh.Body)))
}

// paced says that a flow is solved for in blocks.
func (r *run) paced() bool {
	d := r.model.Document
	return !d.Space.Flat() && r.model.Order == 1 && !d.Transient()
}

// fits is a *MemoryError if the run would take more memory than it may.
func (r *run) fits() error {
	if need := r.forecast(); r.opt.Memory > 0 && need > r.opt.Memory {
		return &MemoryError{Cells: r.mesh.CellCount(), Need: need, Allowed: r.opt.Memory}
	}
	return nil
}
