package sparse

import (
	"math"
	"slices"
)

// nearSpace is what a matrix hardly changes, on one level of the hierarchy: the
// unknowns are united to nodes, and the vectors are those that the coarser levels
// must be able to represent.
type nearSpace struct {
	node    []int32 // of each unknown, ascending
	nodes   int
	vectors [][]float64
}

// newNearSpace takes the vectors of the settings; per unknowns in turn belong to a
// node.
func newNearSpace(n, per int, vectors [][]float64) *nearSpace {
	s := &nearSpace{node: make([]int32, n), vectors: vectors}
	for i := range s.node {
		s.node[i] = int32(i / max(per, 1))
	}
	s.nodes = (n + max(per, 1) - 1) / max(per, 1)
	for _, v := range vectors {
		if len(v) != n {
			panic("sparse: length of vector does not match the matrix")
		}
	}
	return s
}

// kept is the space of some of the unknowns, whole nodes of them.
func (s *nearSpace) kept(unknowns []int32) *nearSpace {
	out := &nearSpace{node: make([]int32, len(unknowns)), vectors: make([][]float64, len(s.vectors))}
	last := int32(-1)
	for i, u := range unknowns {
		if s.node[u] != last {
			last = s.node[u]
			out.nodes++
		}
		out.node[i] = int32(out.nodes - 1)
	}
	for k, v := range s.vectors {
		for _, u := range unknowns {
			out.vectors[k] = append(out.vectors[k], v[u])
		}
	}
	return out
}

// nodal is the matrix of the sizes (Frobenius norms) of the blocks between nodes,
// negative beside the diagonal, so that the strength of a connection is that of
// the block.
func (s *nearSpace) nodal(a *rect) (*rect, []float64) {
	first := make([]int32, s.nodes+1)
	for _, v := range s.node {
		first[v+1]++
	}
	for i := range s.nodes {
		first[i+1] += first[i]
	}
	m := build(s.nodes, s.nodes, func(i int, acc *accumulator) {
		for r := first[i]; r < first[i+1]; r++ {
			for k := a.rows[r]; k < a.rows[r+1]; k++ {
				acc.add(s.node[a.cols[k]], a.data[k]*a.data[k])
			}
		}
	})
	inverse := make([]float64, s.nodes)
	for i := range s.nodes {
		for k := m.rows[i]; k < m.rows[i+1]; k++ {
			m.data[k] = math.Sqrt(m.data[k])
			if int(m.cols[k]) == i {
				inverse[i] = 1 / m.data[k]
			} else {
				m.data[k] = -m.data[k]
			}
		}
	}
	return m, inverse
}

// tentative makes the prolongation that represents the vectors exactly: within
// each aggregate their parts are made orthonormal. It returns the space of the
// coarse level as well. Directions that an aggregate is too small for are left out.
func (s *nearSpace) tentative(group []int32, count int) (*rect, *nearSpace) {
	members := make([][]int32, count)
	for i, v := range s.node {
		if g := group[v]; g >= 0 {
			members[g] = append(members[g], int32(i))
		}
	}
	const independent = 1e-8
	k := len(s.vectors)
	coarse := &nearSpace{nodes: count, vectors: make([][]float64, k)}
	type column struct {
		rows   []int32
		values []float64
	}
	var columns []column
	for g, list := range members {
		begin := len(columns)
		for _, v := range s.vectors {
			q := make([]float64, len(list))
			for i, u := range list {
				q[i] = v[u]
			}
			before := Norm(q)
			r := make([]float64, len(columns)-begin)
			for range 2 {
				for c, other := range columns[begin:] {
					d := Dot(other.values, q)
					r[c] += d
					axpy(q, -d, other.values)
				}
			}
			if length := Norm(q); before > 0 && length > independent*before {
				scaleBy(q, 1/length)
				columns = append(columns, column{list, q})
			}
		}
		for c := range columns[begin:] {
			coarse.node = append(coarse.node, int32(g))
			for v, vector := range s.vectors {
				var d float64
				for i, u := range list {
					d += columns[begin+c].values[i] * vector[u]
				}
				coarse.vectors[v] = append(coarse.vectors[v], d)
			}
		}
	}
	t := &rect{rows: make([]int32, len(columns)+1), width: len(s.node)}
	for c, col := range columns {
		t.cols = append(t.cols, col.rows...)
		t.data = append(t.data, col.values...)
		t.rows[c+1] = int32(len(t.cols))
	}
	return t.transpose(), coarse
}

// prolongNear is prolongation for a given space: the tentative one, smoothed by a
// damped Jacobi step.
func (l *amgLevel) prolongNear(a *rect, s *nearSpace, theta float64) (p *rect, coarse *nearSpace, count int) {
	nodal, inverse := s.nodal(a)
	group, count := aggregates(nodal, inverse, theta)
	if count == 0 || float64(count) > stallFactor*float64(s.nodes) {
		return nil, nil, 0
	}
	t, coarse := s.tentative(group, count)
	omega := prolongScale / (l.bound / boundMargin)
	at := a.times(t)
	return build(l.n, t.width, func(i int, acc *accumulator) {
		for k := t.rows[i]; k < t.rows[i+1]; k++ {
			acc.add(t.cols[k], t.data[k])
		}
		scale := omega * l.inverse[i]
		for k := at.rows[i]; k < at.rows[i+1]; k++ {
			acc.add(at.cols[k], -scale*at.data[k])
		}
	}), coarse, count
}

// RigidMotions returns the motions that do not strain a body in space (three
// displacements and three turns), or in the plane (two and one), at nodes whose
// coordinates follow each other, as vectors of unknowns that follow each other
// node by node.
func RigidMotions(coordinates []float64, dimension int) [][]float64 {
	n := len(coordinates) / dimension
	centre := make([]float64, dimension)
	for i, x := range coordinates {
		centre[i%dimension] += x / float64(n)
	}
	var list [][]float64
	for d := range dimension {
		v := make([]float64, n*dimension)
		for i := range n {
			v[i*dimension+d] = 1
		}
		list = append(list, v)
	}
	for d := range dimension {
		for e := d + 1; e < dimension; e++ {
			v := make([]float64, n*dimension)
			for i := range n {
				v[i*dimension+d] = centre[e] - coordinates[i*dimension+e]
				v[i*dimension+e] = coordinates[i*dimension+d] - centre[d]
			}
			list = append(list, v)
		}
	}
	return slices.Clip(list)
}
