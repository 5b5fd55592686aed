package mesh

import (
	"errors"
	"fmt"
	"math"
	"slices"

	"saltkettle/core/parallel"
	"saltkettle/core/quantity"
	"saltkettle/core/shape"
)

// NewBrick meshes bodies of which some are closed surfaces, on a grid of bricks whose
// lines run through the faces of boxes: each brick belongs to the last body that holds its
// middle. Round and slanted sides become steps.
func NewBrick(bodies []StackBody, set *StackSettings) (*Mesh, error) {
	if set == nil {
		set = &StackSettings{}
	}
	limit := set.limit()
	growth := set.Growth
	if growth == 0 {
		growth = usualGrowth
	}
	var lines [3][]float64
	for axis := range lines {
		var wanted func(x float64) float64
		if set.Field != nil {
			wanted = func(x float64) float64 { return set.Field.Along(axis, x) }
		}
		lines[axis] = gridLines(bodies, set.Cuts, axis, growth, wanted)
		if n := len(lines[axis]); n > 4000 {
			return nil, fmt.Errorf("the cell sizes ask for %s bricks along %c; make the cells larger", quantity.Count(n), 'x'+rune(axis))
		}
	}
	n := [3]int{len(lines[0]) - 1, len(lines[1]) - 1, len(lines[2]) - 1}
	if n[0] < 1 || n[1] < 1 || n[2] < 1 {
		return nil, errors.New("the bodies have no extent")
	}
	if cells := 2 * n[0] * n[1] * n[2]; cells > 8*limit {
		return nil, fmt.Errorf("the cell sizes ask for about %s cells; make the cells larger", quantity.Count(cells))
	}
	sides := newNames()
	s := &stacker{bodies: bodies, cuts: set.Cuts, plan: brickPlan(lines[0], lines[1]), levels: lines[2], brick: true,
		top: sides.of(shape.Top), bottom: sides.of(shape.Bottom), cut: sides.of(CutSide)}
	s.nearest = make([]planBody, len(bodies))
	for i, b := range bodies {
		if b.Solid != nil {
			continue
		}
		for _, loop := range b.Outline.Loops {
			for _, e := range loop {
				from := e.From
				for _, to := range e.Chords(0) {
					s.nearest[i].segments = append(s.nearest[i].segments, Segment{A: Point(from), B: Point(to), Tag: Tag{int32(i), sides.of(e.Name)}})
					from = to
				}
			}
		}
		if len(s.nearest[i].segments) > 0 {
			s.nearest[i].lo, s.nearest[i].hi = bounds(s.nearest[i].segments)
		}
	}
	for _, name := range [4]string{"left", "right", "front", "back"} {
		s.around = append(s.around, sides.of(name))
	}
	s.names = sides.list
	s.labelBricks()
	for b := range s.bodies {
		if f := s.bodies[b].Fill; f != nil && f.Reached {
			if err := s.flood(int32(b), f); err != nil {
				return nil, err
			}
		}
	}
	m := s.build()
	m.Sides, m.Grid = sides.list, &lines
	switch {
	case m.CellCount() > limit:
		return nil, fmt.Errorf("the cell sizes ask for %s cells, more than the %s allowed; make the cells larger", quantity.Count(m.CellCount()), quantity.Count(limit))
	case m.CellCount() == 0:
		return nil, errors.New("no brick has its middle in a part: make the cells smaller than the parts")
	}
	return m, nil
}

// gridLines are the lines of a grid across an axis: the faces of all boxes, and as many
// between them as the sizes ask for, and wanted at a place, which may be nil. Layers along walls are thin
// there, and grow as all cells do.
func gridLines(bodies []StackBody, cuts []Cut, axis int, growth float64, wanted func(x float64) float64) []float64 {
	spans := make([]StackBody, len(bodies))
	for i, b := range bodies {
		lo, hi := b.Outline.Box()
		spans[i] = b
		switch axis {
		case 0:
			spans[i].Z0, spans[i].Z1 = lo.X, hi.X
		case 1:
			spans[i].Z0, spans[i].Z1 = lo.Y, hi.Y
		}
		if axis < 2 {
			spans[i].Near = nil
			for _, side := range [2][2]string{{"left", "right"}, {"front", "back"}}[axis] {
				name := map[string]string{"left": "bottom", "front": "bottom", "right": "top", "back": "top"}[side]
				if h := b.near(side); h > 0 {
					spans[i].Near = append(spans[i].Near, Near{name, h})
				}
				for _, w := range b.Walls {
					if w.Side == side || w.Side == "" {
						spans[i].Near = append(spans[i].Near, Near{name, w.First})
					}
				}
			}
		}
	}
	var own []Cut
	for _, c := range cuts {
		if c.Axis == axis {
			own = append(own, Cut{Axis: 2, At: c.At})
		}
	}
	return levels(spans, own, growth, wanted)
}

// brickPlan is a grid of rectangles of two triangles each; each rectangle is a region.
func brickPlan(x, y []float64) *Plan {
	nx, ny := len(x)-1, len(y)-1
	p := &Plan{}
	at := func(i, j int) int32 { return int32(j*len(x) + i) }
	for _, v := range y {
		for _, u := range x {
			p.Points = append(p.Points, Point{u, v})
		}
	}
	// Triangle 2k lies below the diagonal of rectangle k, 2k+1 above it.
	of := func(i, j, half int) int32 {
		if i < 0 || j < 0 || i >= nx || j >= ny {
			return none
		}
		return int32(2*(j*nx+i) + half)
	}
	for j := range ny {
		for i := range nx {
			a, b, c, d := at(i, j), at(i+1, j), at(i+1, j+1), at(i, j+1)
			p.Triangles = append(p.Triangles, [3]int32{a, b, c}, [3]int32{a, c, d})
			// Opposite a: the edge bc; opposite b: ca; opposite c: ab.
			p.Neighbours = append(p.Neighbours, [3]int32{of(i+1, j, 1), of(i, j, 1), of(i, j-1, 1)}, [3]int32{of(i, j+1, 0), of(i-1, j, 0), of(i, j, 0)})
			p.Segments = append(p.Segments, [3]int32{none, none, none}, [3]int32{none, none, none})
			region := int32(j*nx + i)
			p.Region = append(p.Region, region, region)
			p.Pairs = append(p.Pairs, 2*region+1, 2*region)
			p.Members = append(p.Members, nil)
			p.Inside = append(p.Inside, Point{(x[i] + x[i+1]) / 2, (y[j] + y[j+1]) / 2})
		}
	}
	return p
}

// labelBricks finds the body at the middle of each brick.
func (s *stacker) labelBricks() {
	layers := len(s.levels) - 1
	s.label = make([][]int32, len(s.plan.Inside))
	parallel.For(len(s.label), 64, func(_, from, to int) {
		for r := from; r < to; r++ {
			p := s.plan.Inside[r]
			column := make([]int32, layers)
			for k := range column {
				column[k] = none
			}
			s.label[r] = column
			if s.isCut(p) {
				continue
			}
			for _, fills := range [2]bool{true, false} {
				for b := range s.bodies {
					if body := &s.bodies[b]; (body.Fill != nil) == fills {
						s.labelColumn(column, int32(b), p)
					}
				}
			}
		}
	})
}

// labelColumn gives a body the bricks above a place in plan whose middles it holds.
func (s *stacker) labelColumn(column []int32, b int32, p Point) {
	body := &s.bodies[b]
	spans := []float64{body.Z0, body.Z1}
	if body.Solid != nil {
		spans = body.Solid.Crossings(p.X, p.Y)
	} else if !s.nearest[b].contains(p) {
		return
	}
	for k := range column {
		mid := (s.levels[k] + s.levels[k+1]) / 2
		below, _ := slices.BinarySearch(spans, mid)
		if below%2 == 1 && !s.isCutAt(mid) {
			column[k] = b
		}
	}
}

// brickSide names the side of a body at an upright facet between two points of the plan,
// outward to the right of the way: of a closed surface by where it faces, of an outline by
// the edge that is nearest, if the triangle beyond lies outside of it.
func (s *stacker) brickSide(body int32, a, b Point, beyond int32) int32 {
	if body == none {
		return 0
	}
	for _, c := range s.cuts {
		if mid := [2]float64{(a.X + b.X) / 2, (a.Y + b.Y) / 2}; c.Axis < 2 && math.Abs(mid[c.Axis]-c.At) <= 1e-9*math.Abs(c.At)+1e-12 && [2]float64{a.X, a.Y}[c.Axis] == [2]float64{b.X, b.Y}[c.Axis] {
			return s.cut
		}
	}
	if s.bodies[body].Solid != nil {
		switch n := (Point{b.Y - a.Y, a.X - b.X}); {
		case math.Abs(n.X) > math.Abs(n.Y) && n.X < 0:
			return s.around[0]
		case math.Abs(n.X) > math.Abs(n.Y):
			return s.around[1]
		case n.Y < 0:
			return s.around[2]
		}
		return s.around[3]
	}
	if beyond != none && s.nearest[body].contains(s.plan.Inside[s.plan.Region[beyond]]) {
		return 0 // another body has been cut out there
	}
	mid := Point{(a.X + b.X) / 2, (a.Y + b.Y) / 2}
	best, side := math.Inf(1), int32(0)
	for _, g := range s.nearest[body].segments {
		dx, dy := g.B.X-g.A.X, g.B.Y-g.A.Y
		t := min(max(((mid.X-g.A.X)*dx+(mid.Y-g.A.Y)*dy)/(dx*dx+dy*dy), 0), 1)
		if d := sq(mid, Point{g.A.X + t*dx, g.A.Y + t*dy}); d < best {
			best, side = d, g.Tag.Side
		}
	}
	return side
}

// Missed compares the volume of a body in a mesh with that of the body itself: the part
// that is missing, or too much if it is negative. A wall thinner than the bricks is
// missed in places, and what it holds leaks.
func (m *Mesh) Missed(body int32, volume float64) float64 {
	var sum float64
	for c, b := range m.Body {
		if b == body {
			sum += m.Size(int32(c))
		}
	}
	return 1 - sum/volume
}
