package mesh

import (
	"cmp"
	"errors"
	"fmt"
	"math"
	"slices"

	"saltkettle/core/shape"
)

// StackBody is a body with the wishes for its cells.
type StackBody struct {
	shape.Body
	// Size is the wanted length of cell edges, m.
	Size float64
	// Across is the least number of cells across the body in any direction.
	Across int
}

// StackSettings are the wishes for a stack mesh.
type StackSettings struct {
	// MaxCells bounds the mesh; 0 means 4,000,000.
	MaxCells int
	// Flat makes one layer of cells between the bottom and the top of all bodies, whose
	// facets there become [Mesh.Faces].
	Flat bool
}

// NewStack meshes a stack of bodies. Where bodies overlap, the later one
// displaces the earlier one.
func NewStack(bodies []StackBody, set *StackSettings) (*Mesh, error) {
	if len(bodies) == 0 {
		return nil, errors.New("there is no solved part to mesh")
	}
	limit := 4_000_000
	if set != nil && set.MaxCells > 0 {
		limit = set.MaxCells
	}
	sides := []string{""}
	number := map[string]int32{"": 0}
	name := func(s string) int32 {
		if _, ok := number[s]; !ok {
			number[s] = int32(len(sides))
			sides = append(sides, s)
		}
		return number[s]
	}
	var segments []Segment
	sizes := make([]float64, len(bodies))
	for i, b := range bodies {
		if !(b.Z1 > b.Z0) {
			return nil, fmt.Errorf("body %d has no height", i+1)
		}
		sizes[i] = min(b.Size, b.Outline.Width/float64(max(b.Across, 1)))
		for _, loop := range b.Outline.Loops {
			for _, e := range loop {
				tag := Tag{int32(i), name(e.Name)}
				from := e.From
				for _, to := range e.Chords(sizes[i]) {
					segments = append(segments, Segment{Point(from), Point(to), tag})
					from = to
				}
			}
		}
	}
	plan, err := NewPlan(segments, &PlanSettings{Sizes: sizes, MaxTriangles: limit})
	if err != nil {
		return nil, err
	}
	s := &stacker{bodies: bodies, plan: plan, top: name(shape.Top), bottom: name(shape.Bottom)}
	s.levels = levels(bodies)
	if set != nil && set.Flat {
		s.levels = []float64{bodies[0].Z0, bodies[0].Z1}
	}
	if n := len(plan.Triangles) * (len(s.levels) - 1); n > 4*limit {
		return nil, fmt.Errorf("the cell sizes ask for about %d cells; make the cells larger", n)
	}
	s.labelLayers()
	m := s.build()
	m.Sides = sides
	if set != nil && set.Flat {
		m.setFacesApart(s.top, s.bottom)
	}
	if m.CellCount() > limit {
		return nil, fmt.Errorf("the cell sizes ask for %d cells, more than the %d allowed; make the cells larger", m.CellCount(), limit)
	}
	return m, nil
}

// levels returns the heights of all nodes: the ends of all spans and as many
// between them as the sizes and the numbers across ask for.
func levels(bodies []StackBody) []float64 {
	var ends []float64
	extent := 0.0
	for _, b := range bodies {
		ends = append(ends, b.Z0, b.Z1)
		extent = max(extent, math.Abs(b.Z0), math.Abs(b.Z1))
	}
	slices.Sort(ends)
	tolerance := mergeTolerance * (ends[len(ends)-1] - ends[0])
	out := ends[:1:1]
	last := ends[0]
	for _, z := range ends[1:] {
		dz := z - last
		if dz <= tolerance {
			continue
		}
		n := 1
		for _, b := range bodies {
			if b.Z0 > last+tolerance || b.Z1 < z-tolerance {
				continue
			}
			n = max(n, int(math.Ceil(dz/b.Size*(1-1e-9))), int(math.Ceil(float64(b.Across)*dz/(b.Z1-b.Z0)*(1-1e-9))))
		}
		for i := 1; i < n; i++ {
			out = append(out, last+dz*float64(i)/float64(n))
		}
		out = append(out, z)
		last = z
	}
	return out
}

// stacker builds a mesh from a plan and levels.
type stacker struct {
	bodies      []StackBody
	plan        *Plan
	levels      []float64
	label       [][]int32 // per region and layer: the body, −1 if empty
	top, bottom int32
}

// labelLayers finds the last body that covers each region in each layer.
func (s *stacker) labelLayers() {
	s.label = make([][]int32, len(s.plan.Members))
	for r, members := range s.plan.Members {
		s.label[r] = make([]int32, len(s.levels)-1)
		for k := range s.label[r] {
			s.label[r][k] = none
			mid := (s.levels[k] + s.levels[k+1]) / 2
			for _, b := range members {
				if s.bodies[b].Z0 < mid && mid < s.bodies[b].Z1 {
					s.label[r][k] = b
				}
			}
		}
	}
}

// build makes nodes, cells and facets. Nodes of one plan point follow each
// other, and plan points follow a space-filling curve, so that the matrices on
// the mesh are narrow.
func (s *stacker) build() *Mesh {
	p := s.plan
	layers := len(s.levels) - 1
	node := make([]int32, len(p.Points)*len(s.levels))
	cell := make([]int32, len(p.Triangles)*layers)
	cells := int32(0)
	for t, tri := range p.Triangles {
		label := s.label[p.Region[t]]
		for k := range layers {
			cell[t*layers+k] = none
			if label[k] == none {
				continue
			}
			cell[t*layers+k] = cells
			cells++
			for _, v := range tri {
				at := int(v)*len(s.levels) + k
				node[at], node[at+1] = 1, 1
			}
		}
	}
	m := &Mesh{Plan: p, Levels: s.levels, Cells: make([]int32, 0, WedgeNodes*int(cells)), Body: make([]int32, 0, cells)}
	for v, xy := range p.Points {
		for l, z := range s.levels {
			at := v*len(s.levels) + l
			if node[at] == 0 {
				node[at] = none
				continue
			}
			node[at] = int32(len(m.Nodes) / 3)
			m.Nodes = append(m.Nodes, xy.X, xy.Y, z)
		}
	}
	for t, tri := range p.Triangles {
		label := s.label[p.Region[t]]
		for k := range layers {
			if label[k] == none {
				continue
			}
			m.Body = append(m.Body, label[k])
			for _, l := range [2]int{k, k + 1} {
				for _, v := range tri {
					m.Cells = append(m.Cells, node[int(v)*len(s.levels)+l])
				}
			}
			s.facets(m, t, k, node, cell)
		}
	}
	slices.SortStableFunc(m.Facets, func(a, b Facet) int { return cmp.Compare(a.Body, b.Body) })
	return m
}

// facets adds the facets of one cell at which its body ends. A facet between two
// bodies belongs to the lower-numbered one.
func (s *stacker) facets(m *Mesh, t, k int, node, cell []int32) {
	p := s.plan
	layers := len(s.levels) - 1
	body := s.label[p.Region[t]][k]
	me := cell[t*layers+k]
	at := func(i, l int) int32 { return node[int(p.Triangles[t][i])*len(s.levels)+l] }
	add := func(nodes [4]int32, other, otherBody, side, otherSide int32) {
		if otherBody == body || otherBody != none && otherBody < body {
			return
		}
		m.Facets = append(m.Facets, Facet{Nodes: nodes, Cell: me, Body: body, Side: side, Other: other, OtherBody: otherBody, OtherSide: otherSide})
	}
	// Above and below.
	for _, up := range [2]bool{false, true} {
		n, l := k-1, k
		nodes := [4]int32{at(0, k), at(2, k), at(1, k), none}
		if up {
			n, l = k+1, k+1
			nodes = [4]int32{at(0, l), at(1, l), at(2, l), none}
		}
		other, otherBody := none, none
		if n >= 0 && n < layers {
			other, otherBody = cell[t*layers+n], s.label[p.Region[t]][n]
		}
		add(nodes, other, otherBody, s.levelSide(body, l), s.levelSide(otherBody, l))
	}
	// Around.
	for i := range 3 {
		g := p.Neighbours[t][i]
		other, otherBody := none, none
		if g >= 0 {
			other, otherBody = cell[int(g)*layers+k], s.label[p.Region[g]][k]
		}
		if otherBody == body {
			continue
		}
		a, b := next(i), prev(i)
		nodes := [4]int32{at(a, k), at(b, k), at(b, k+1), at(a, k+1)}
		piece := p.Segments[t][i]
		add(nodes, other, otherBody, s.pieceSide(piece, body), s.pieceSide(piece, otherBody))
	}
}

// levelSide names the side of a body at a level: its top, its bottom or neither.
func (s *stacker) levelSide(body int32, l int) int32 {
	if body == none {
		return 0
	}
	tolerance := mergeTolerance * (s.levels[len(s.levels)-1] - s.levels[0])
	switch z := s.levels[l]; {
	case math.Abs(z-s.bodies[body].Z1) <= tolerance:
		return s.top
	case math.Abs(z-s.bodies[body].Z0) <= tolerance:
		return s.bottom
	}
	return 0
}

// pieceSide names the side of a body on a piece of outline.
func (s *stacker) pieceSide(piece, body int32) int32 {
	if piece == none || body == none {
		return 0
	}
	for _, t := range s.plan.Tags[piece] {
		if t.Body == body {
			return t.Side
		}
	}
	return 0
}
