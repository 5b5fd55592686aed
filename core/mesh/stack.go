package mesh

import (
	"cmp"
	"errors"
	"fmt"
	"math"
	"slices"

	"saltkettle/core/quantity"
	"saltkettle/core/shape"
)

// StackBody is a body with the wishes for its cells.
type StackBody struct {
	shape.Body
	// Size is the wanted length of cell edges, m.
	Size float64
	// Across is the least number of cells across the body in any direction.
	Across int
	// Near are wishes at some of its sides.
	Near []Near
	// Walls are layers along some of its sides.
	Walls []SideWall
	// Gaps is the least number of cells in it across gaps in plan, 0 for none besides that of the settings.
	Gaps int
	// Fill makes it take only what all other bodies leave; it may be nil.
	Fill *Fill
}

// Near is a wanted length of cell edges at a side of a body, m.
type Near struct {
	Side string
	Size float64
}

// SideWall asks for thin layers along a side of a body: within it, or outside of it.
type SideWall struct {
	Side   string // "" for all
	Within bool
	Wall
}

// Fill says what of the room that other bodies leave a body takes.
type Fill struct {
	// Reached limits it to what can be reached from a place, m, without passing another
	// body or a cap.
	Reached bool
	From    [3]float64
	Caps    []Cap
}

// Cap is an upright wall of no thickness that closes an opening; its name is that of a
// side of the body that it ends.
type Cap struct {
	Name string
	A, B Point
}

// Cut is a plane across an axis beyond which nothing is meshed.
type Cut struct {
	Axis    int // 0, 1 or 2 for x, y or z
	At      float64
	Greater bool // the side that is kept
}

// CutSide is the name of the side that a cut makes.
const CutSide = "cut"

// StackSettings are the wishes for a stack mesh.
type StackSettings struct {
	// MaxCells bounds the mesh; 0 means 4,000,000.
	MaxCells int
	// Flat makes cells of the plane, for all that lies between the bottom and the top of the
	// first body.
	Flat bool
	// Growth is by how much a cell may be longer than its neighbour, as a part of its
	// length; 0 leaves it to the bodies, or is 0.4 where there are wishes near sides.
	Growth float64
	// Gaps is the least number of cells across gaps in plan; 0 means none.
	Gaps int
	// Field has the wanted lengths of cells at all places, made of a mesh of the same kind; it may
	// be nil.
	Field *Field
	Cuts  []Cut
	// Watch is that of [PlanSettings].
	Watch func(triangles int) (stop bool)
}

// limit is how many cells there may be.
func (s *StackSettings) limit() int {
	if s.MaxCells > 0 {
		return s.MaxCells
	}
	return 4_000_000
}

// usualGrowth is the growth from places with a length of their own.
const usualGrowth = 0.4

// names numbers the names of sides; number 0 is "".
type names struct {
	list   []string
	number map[string]int32
}

func newNames() *names { return &names{list: []string{""}, number: map[string]int32{"": 0}} }

func (n *names) of(s string) int32 {
	i, ok := n.number[s]
	if !ok {
		i = int32(len(n.list))
		n.number[s] = i
		n.list = append(n.list, s)
	}
	return i
}

// NewStack meshes a stack of bodies. Where bodies overlap, the later one displaces the
// earlier one, but a fill displaces none.
func NewStack(bodies []StackBody, set *StackSettings) (*Mesh, error) {
	if len(bodies) == 0 {
		return nil, errors.New("there is no solved part to mesh")
	}
	if set == nil {
		set = &StackSettings{}
	}
	limit := set.limit()
	growth := set.Growth
	fills, gaps := make([]bool, len(bodies)), make([]int, len(bodies))
	for i, b := range bodies {
		fills[i], gaps[i] = b.Fill != nil, max(set.Gaps, b.Gaps)
		if !(b.Z1 > b.Z0) {
			return nil, fmt.Errorf("body %d has no height", i+1)
		}
		if growth == 0 && (len(b.Near) > 0 || b.Gaps > 0 || set.Gaps > 0 || set.Field != nil) {
			growth = usualGrowth
		}
	}
	if slices.ContainsFunc(bodies, func(b StackBody) bool { return b.Solid != nil }) {
		if set.Flat {
			return nil, errors.New("a body that is no extrusion needs a solid space")
		}
		return NewBrick(bodies, set)
	}
	sides := newNames()
	segments, sizes := planSegments(bodies, set.Cuts, sides)
	own := &PlanSettings{Sizes: sizes, MaxTriangles: limit, Growth: growth, Across: gaps, Fills: fills, Watch: set.Watch}
	var layerAt func(z float64) float64
	if set.Field != nil {
		own.SizeAt, layerAt = set.Field.Plan, set.Field.Layer
	}
	plan, err := NewPlan(segments, own)
	if err != nil {
		return nil, err
	}
	s := &stacker{bodies: bodies, cuts: set.Cuts, plan: plan, top: sides.of(shape.Top), bottom: sides.of(shape.Bottom), cut: sides.of(CutSide)}
	s.names = sides.list
	s.levels = levels(bodies, set.Cuts, growth, layerAt)
	if s.flat = set.Flat; s.flat {
		s.levels = []float64{bodies[0].Z0, bodies[0].Z1}
	}
	if n := len(plan.Triangles) * (len(s.levels) - 1); n > 4*limit {
		return nil, fmt.Errorf("the cell sizes ask for about %s cells; make the cells larger", quantity.Count(n))
	}
	if err := s.labelLayers(); err != nil {
		return nil, err
	}
	if set.Watch != nil && set.Watch(len(plan.Triangles)) {
		return nil, ErrStopped
	}
	m := s.build()
	m.Sides = sides.list
	if m.CellCount() > limit {
		return nil, fmt.Errorf("the cell sizes ask for %s cells, more than the %s allowed; make the cells larger", quantity.Count(m.CellCount()), quantity.Count(limit))
	}
	if m.CellCount() == 0 {
		return nil, errors.New("nothing is left to mesh: the cuts or other parts take it all")
	}
	return m, nil
}

// planSegments are the outlines of the bodies, their caps and the cuts, as segments,
// with the cell size of each body in plan.
func planSegments(bodies []StackBody, cuts []Cut, sides *names) (segments []Segment, sizes []float64) {
	sizes = make([]float64, len(bodies))
	lo, hi := Point{math.Inf(1), math.Inf(1)}, Point{math.Inf(-1), math.Inf(-1)}
	for i, b := range bodies {
		sizes[i] = min(b.Size, b.Outline.Width/float64(max(b.Across, 1)))
		for _, loop := range b.Outline.Loops {
			for _, e := range loop {
				seg := Segment{Tag: Tag{int32(i), sides.of(e.Name)}, Size: b.near(e.Name)}
				if e.Arc {
					seg.Arc = Circle{Point(e.Centre), math.Hypot(e.From.X-e.Centre.X, e.From.Y-e.Centre.Y)}
				}
				for k := range b.Walls {
					if w := &b.Walls[k]; w.Side == e.Name || w.Side == "" {
						seg.Wall, seg.Left, seg.Within = &w.Wall, w.Within, w.Within
					}
				}
				step := sizes[i]
				if seg.Size > 0 {
					step = min(step, seg.Size)
				}
				from := e.From
				for _, to := range e.Chords(step) {
					seg.A, seg.B = Point(from), Point(to)
					segments = append(segments, seg)
					lo, hi = Point{min(lo.X, from.X), min(lo.Y, from.Y)}, Point{max(hi.X, from.X), max(hi.Y, from.Y)}
					from = to
				}
			}
		}
		if b.Fill != nil {
			for _, c := range b.Fill.Caps {
				segments = append(segments, Segment{A: c.A, B: c.B, Tag: Tag{int32(i), sides.of(c.Name)}, Loose: true, Size: b.near(c.Name)})
			}
		}
	}
	for _, c := range cuts {
		a, b := Point{c.At, lo.Y}, Point{c.At, hi.Y}
		switch {
		case c.Axis == 1:
			a, b = Point{lo.X, c.At}, Point{hi.X, c.At}
		case c.Axis == 2:
			continue
		}
		segments = append(segments, Segment{A: a, B: b, Tag: Tag{Everybody, sides.of(CutSide)}, Loose: true})
	}
	return segments, sizes
}

// near is the length of cell edges wanted at a side, 0 for none of its own.
func (b *StackBody) near(side string) float64 {
	h := 0.0
	for _, n := range b.Near {
		if (n.Side == side || n.Side == "") && (h == 0 || n.Size < h) {
			h = n.Size
		}
	}
	return h
}

// stacker builds a mesh from a plan and levels.
type stacker struct {
	bodies           []StackBody
	cuts             []Cut
	plan             *Plan
	levels           []float64
	label            [][]int32 // per region and layer: the body, −1 if empty
	top, bottom, cut int32
	names            []string // of the sides
	flat             bool
	// Of a mesh of bricks: the outlines by which sides are named, and the numbers of left,
	// right, front and back.
	brick   bool
	nearest []planBody
	around  []int32
}

// build makes nodes, cells and facets. Nodes of one plan point follow each
// other, and plan points follow a space-filling curve, so that the matrices on
// the mesh are narrow.
func (s *stacker) build() *Mesh {
	p := s.plan
	layers := len(s.levels) - 1
	forms := [2]Form{Wedge, Hexahedron}
	ends := [2]int{0, 1} // the levels of a cell with nodes
	if s.flat {
		forms, ends[1] = [2]Form{Triangle, Quadrilateral}, 0
	}
	node := make([]int32, len(p.Points)*len(s.levels))
	// cell is, by triangle and layer, its cell or none; both halves of a quadrilateral have
	// the same.
	cell := slices.Repeat([]int32{none}, len(p.Triangles)*layers)
	m := &Mesh{Plan: p, Levels: s.levels}
	count := int32(0)
	var bases [2][]int32 // triangles that are cells, and the first halves of those that are not
	for t := range p.Triangles {
		switch other := p.pair(t); {
		case other == none:
			bases[0] = append(bases[0], int32(t))
		case other > int32(t):
			bases[1] = append(bases[1], int32(t))
		}
	}
	for k, list := range bases {
		first := count
		for _, t := range list {
			for l := range layers {
				body := s.label[p.Region[t]][l]
				if body == none {
					continue
				}
				cell[int(t)*layers+l] = count
				if k == 1 {
					cell[int(p.Pairs[t])*layers+l] = count
				}
				count++
				m.Body = append(m.Body, body)
				if p.Layered != nil {
					m.Layered = append(m.Layered, p.Layered[t])
				}
				for _, v := range p.polygon(int(t)) {
					node[int(v)*len(s.levels)+l+ends[0]], node[int(v)*len(s.levels)+l+ends[1]] = 1, 1
				}
			}
		}
		if count > first {
			m.Blocks = append(m.Blocks, Block{Form: forms[k], First: first, Cells: make([]int32, 0, forms[k].Corners()*int(count-first))})
		}
	}
	for v, xy := range p.Points {
		for l, z := range s.levels {
			at := v*len(s.levels) + l
			if node[at] == 0 {
				node[at] = none
				continue
			}
			if s.flat {
				z = 0
			}
			node[at] = int32(len(m.Nodes) / 3)
			m.Nodes = append(m.Nodes, xy.X, xy.Y, z)
		}
	}
	for _, list := range bases {
		for _, t := range list {
			corners := p.polygon(int(t))
			for l := range layers {
				me := cell[int(t)*layers+l]
				if me == none {
					continue
				}
				k, _ := m.Find(me)
				b := &m.Blocks[k]
				for level := l + ends[0]; level <= l+ends[1]; level++ {
					for _, v := range corners {
						b.Cells = append(b.Cells, node[int(v)*len(s.levels)+level])
					}
				}
				s.facets(m, int(t), l, node, cell)
			}
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
	at := func(v int32, l int) int32 { return node[int(v)*len(s.levels)+l] }
	add := func(nodes [4]int32, other, otherBody, side, otherSide int32) {
		if otherBody == body || otherBody != none && otherBody < body {
			return
		}
		m.Facets = append(m.Facets, Facet{Nodes: nodes, Cell: me, Body: body, Side: side, Other: other, OtherBody: otherBody, OtherSide: otherSide})
	}
	if !s.flat {
		base := p.polygon(t)
		for _, up := range [2]bool{false, true} {
			n, l := k-1, k
			if up {
				n, l = k+1, k+1
			}
			nodes := [4]int32{none, none, none, none}
			for i, v := range base {
				if nodes[i] = at(v, l); !up && i > 0 { // seen from below they turn the other way
					nodes[i] = at(base[len(base)-i], l)
				}
			}
			other, otherBody := none, none
			if n >= 0 && n < layers {
				other, otherBody = cell[t*layers+n], s.label[p.Region[t]][n]
			}
			mine, theirs := s.levelSide(body, l), s.levelSide(otherBody, l)
			if s.brick { // the steps of a closed surface are its top and its bottom
				mine, theirs = s.stepSide(body, mine, up), s.stepSide(otherBody, theirs, !up)
			}
			add(nodes, other, otherBody, mine, theirs)
		}
	}
	s.upright(p, t, k, cell, body, at, add)
	if other := p.pair(t); other != none {
		s.upright(p, int(other), k, cell, body, at, add)
	}
}

// upright adds the facets that stand on the edges of a triangle of the plan; in a flat mesh
// they are these edges.
func (s *stacker) upright(p *Plan, t, k int, cell []int32, body int32, at func(v int32, l int) int32, add func(nodes [4]int32, other, otherBody, side, otherSide int32)) {
	layers := len(s.levels) - 1
	for i, g := range p.Neighbours[t] {
		other, otherBody := none, none
		if g >= 0 {
			other, otherBody = cell[int(g)*layers+k], s.label[p.Region[g]][k]
		}
		if otherBody == body { // also the other half of a quadrilateral
			continue
		}
		a, b := p.Triangles[t][next(i)], p.Triangles[t][prev(i)]
		nodes := [4]int32{at(a, k), at(b, k), none, none}
		if !s.flat {
			nodes[2], nodes[3] = at(b, k+1), at(a, k+1)
		}
		piece := p.Segments[t][i]
		mine, theirs := s.pieceSide(piece, body), s.pieceSide(piece, otherBody)
		if s.brick {
			from, to := p.Points[a], p.Points[b]
			mine, theirs = s.brickSide(body, from, to, g), s.brickSide(otherBody, to, from, int32(t))
		}
		add(nodes, other, otherBody, mine, theirs)
	}
}

// levelSide names the side of a body at a level: its top, its bottom or neither.
func (s *stacker) levelSide(body int32, l int) int32 {
	if body == none {
		return 0
	}
	tolerance := mergeTolerance * (s.levels[len(s.levels)-1] - s.levels[0])
	for _, c := range s.cuts {
		if c.Axis == 2 && math.Abs(s.levels[l]-c.At) <= tolerance {
			return s.cut
		}
	}
	switch z := s.levels[l]; {
	case math.Abs(z-s.bodies[body].Z1) <= tolerance:
		return s.top
	case math.Abs(z-s.bodies[body].Z0) <= tolerance:
		return s.bottom
	}
	return 0
}

// stepSide names a level side of a closed surface that has no other name.
func (s *stacker) stepSide(body, side int32, up bool) int32 {
	switch {
	case body == none || side != 0 || s.bodies[body].Solid == nil:
		return side
	case up:
		return s.top
	}
	return s.bottom
}

// pieceSide names the side of a body on a piece of outline.
func (s *stacker) pieceSide(piece, body int32) int32 {
	if piece == none || body == none {
		return 0
	}
	side := int32(0)
	for _, t := range s.plan.Tags[piece] {
		switch t.Body {
		case Everybody:
			return t.Side // what the cut leaves ends there
		case body:
			side = t.Side
		}
	}
	return side
}
