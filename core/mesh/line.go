package mesh

import (
	"cmp"
	"errors"
	"fmt"
	"math"
	"slices"

	"saltkettle/core/shape"
	"saltkettle/core/spatial"
)

// LineBody is a body that is a line, with the wishes for its cells.
type LineBody struct {
	Line *shape.Line
	// Size is the greatest length of a cell, m; 0 makes one from point to point.
	Size float64
	// Opens says by point of the line that something is there between the line before it and the line behind it, or between its end and
	// what it joins, Wide that something is there for all lines that end at that place.
	Opens, Wide []bool
}

// Piece is what a cell of a line stands for.
type Piece struct {
	// Length along the line, m, which is more than that of the cell on an arc. It is 0 for what is at a point.
	Length float64
	// Point is the number of the point of its line at which it is, −1 for a piece of the line.
	Point int32
}

// Lines are the cells of a mesh that are bars on lines.
type Lines struct {
	// First is the number of the first of them, which follow each other along their lines, line by line.
	First  int32
	Pieces []Piece
	// Line of each body, nil for one that is none.
	Line []*shape.Line
}

// Piece is that of a cell, nil for a cell that is none.
func (m *Mesh) Piece(cell int32) *Piece {
	if m.Lines == nil || cell < m.Lines.First || int(cell-m.Lines.First) >= len(m.Lines.Pieces) {
		return nil
	}
	return &m.Lines.Pieces[cell-m.Lines.First]
}

// short is how long a cell at a point is drawn, as a part of the piece of line beside it.
const short = 1e-3

// meets is how near to each other places are the same, as a part of the extent of all lines.
const meets = 1e-7

// AddLines adds lines to a mesh as bars, of bodies that follow those that it has. Lines are joined where they have points at one place,
// and where an end lies on another line.
func (m *Mesh) AddLines(bodies []LineBody, limit int) error {
	w := &weaver{m: m, bodies: bodies, first: int32(m.bodies()), node: map[[3]int64]int32{}}
	lo, hi := [3]float64{math.Inf(1), math.Inf(1), math.Inf(1)}, [3]float64{math.Inf(-1), math.Inf(-1), math.Inf(-1)}
	for i := range bodies {
		l, h := bodies[i].Line.Box()
		for d := range l {
			lo[d], hi[d] = min(lo[d], l[d]), max(hi[d], h[d])
		}
	}
	w.same = meets * max(hi[0]-lo[0], hi[1]-lo[1], hi[2]-lo[2])
	for i := range bodies {
		w.lay(i)
	}
	if err := w.join(); err != nil {
		return err
	}
	if m.Plan == nil {
		m.Plan = &Plan{}
	}
	block := Block{Form: Bar, First: int32(m.CellCount())}
	m.Lines = &Lines{First: block.First, Line: make([]*shape.Line, int(w.first)+len(bodies))}
	w.block = &block
	names := newNames()
	for _, s := range m.Sides {
		names.of(s)
	}
	for i := range bodies {
		m.Lines.Line[int(w.first)+i] = bodies[i].Line
		w.weave(i, names)
		if limit > 0 && m.CellCount() > limit {
			return fmt.Errorf("the lines have more than %d cells", limit)
		}
	}
	m.Blocks, m.Sides = append(m.Blocks, block), names.list
	return nil
}

// bodies is how many bodies a mesh has.
func (m *Mesh) bodies() (n int) {
	for _, b := range m.Body {
		n = max(n, int(b)+1)
	}
	return n
}

// weaver makes bars of lines.
type weaver struct {
	m      *Mesh
	bodies []LineBody
	first  int32 // body
	same   float64
	node   map[[3]int64]int32 // by place, in steps of twice same
	ways   [][]station        // by line
	wide   map[int32]bool     // nodes at which something is for all lines that end there
	block  *Block
}

// station is a place on a line, with its node if it is one at which lines may be joined.
type station struct {
	shape.Station
	node int32
}

// at returns the node of a place, which it makes if there is none.
func (w *weaver) at(x [3]float64) int32 {
	var key [3]int64
	for d := range x {
		key[d] = int64(math.Floor(x[d] / (2 * w.same)))
	}
	for dx := int64(-1); dx <= 1; dx++ {
		for dy := int64(-1); dy <= 1; dy++ {
			for dz := int64(-1); dz <= 1; dz++ {
				if v, ok := w.node[[3]int64{key[0] + dx, key[1] + dy, key[2] + dz}]; ok && shape.Apart(w.m.At(v), x) <= w.same {
					return v
				}
			}
		}
	}
	v := w.add(x)
	w.node[key] = v
	return v
}

// add makes a node.
func (w *weaver) add(x [3]float64) int32 {
	w.m.Nodes = append(w.m.Nodes, x[:]...)
	return int32(w.m.NodeCount() - 1)
}

// lay finds the stations of a line, and the nodes of its points.
func (w *weaver) lay(i int) {
	var list []station
	for _, s := range w.bodies[i].Line.Stations() {
		at := station{Station: s, node: none}
		if s.Point >= 0 {
			at.node = w.at(s.At)
		}
		list = append(list, at)
	}
	w.ways = append(w.ways, list)
}

// join divides lines at places where another one ends on them, and finds where something is for all lines that end there.
func (w *weaver) join() error {
	var boxes []spatial.Box
	var of [][2]int // line and station before each piece
	for i, list := range w.ways {
		for k := 1; k < len(list); k++ {
			var b spatial.Box
			for d := range 3 {
				b.Lo[d] = min(list[k-1].At[d], list[k].At[d]) - w.same
				b.Hi[d] = max(list[k-1].At[d], list[k].At[d]) + w.same
			}
			boxes, of = append(boxes, b), append(of, [2]int{i, k - 1})
		}
	}
	if len(boxes) == 0 {
		return errors.New("there is no line to mesh")
	}
	tree := spatial.NewTree(boxes)
	type division struct {
		line, before int
		part         float64
		node         int32
	}
	var divided []division
	for i, list := range w.ways {
		for _, end := range []int{0, len(list) - 1} {
			v, x := list[end].node, list[end].At
			tree.Each(x, func(piece int32) bool {
				line, before := of[piece][0], of[piece][1]
				a, b := &w.ways[line][before], &w.ways[line][before+1]
				if line == i && (before == end || before+1 == end) || a.node == v || b.node == v {
					return true
				}
				var square, by float64
				for d := range x {
					square += (b.At[d] - a.At[d]) * (b.At[d] - a.At[d])
					by += (b.At[d] - a.At[d]) * (x[d] - a.At[d])
				}
				by /= square
				var foot [3]float64
				for d := range x {
					foot[d] = a.At[d] + by*(b.At[d]-a.At[d])
				}
				if by > 0 && by < 1 && shape.Apart(foot, x) <= w.same {
					divided = append(divided, division{line, before, by, v})
				}
				return true
			})
		}
	}
	// From behind, so that the stations before keep their numbers.
	slices.SortFunc(divided, func(a, b division) int {
		return cmp.Or(cmp.Compare(a.line, b.line), cmp.Compare(b.before, a.before), cmp.Compare(b.part, a.part), cmp.Compare(a.node, b.node))
	})
	for k, d := range divided {
		if k > 0 && divided[k-1].line == d.line && divided[k-1].node == d.node {
			continue
		}
		list := w.ways[d.line]
		a := &list[d.before]
		// What is behind it on this piece may have been divided already.
		part := shape.Apart(a.At, w.m.At(d.node)) / shape.Apart(a.At, list[d.before+1].At)
		here := station{Station: shape.Station{At: w.m.At(d.node), Point: -1, Length: a.Length * (1 - part)}, node: d.node}
		a.Length *= part
		w.ways[d.line] = slices.Insert(list, d.before+1, here)
	}
	w.wide = map[int32]bool{}
	for i, list := range w.ways {
		for _, s := range list {
			if s.Point >= 0 && s.Point < len(w.bodies[i].Wide) && w.bodies[i].Wide[s.Point] {
				w.wide[s.node] = true
			}
		}
	}
	return nil
}

// weave makes the bars of a line.
func (w *weaver) weave(i int, names *names) {
	line, list, body := &w.bodies[i], w.ways[i], w.first+int32(i)
	bar := func(a, b int32, what Piece) int32 {
		cell := int32(len(w.m.Body))
		w.block.Cells = append(w.block.Cells, a, b)
		w.m.Body = append(w.m.Body, body)
		w.m.Lines.Pieces = append(w.m.Lines.Pieces, what)
		return cell
	}
	end := func(cell, node int32, point int) {
		w.m.Facets = append(w.m.Facets, Facet{Nodes: [4]int32{node, none, none, none}, Cell: cell, Body: body, Side: names.of(line.Line.Points[point].Name), Other: none, OtherBody: none})
	}
	opens := func(s *station) bool {
		last := s.Point == 0 || s.Point == len(line.Line.Points)-1
		return s.Point >= 0 && (s.Point < len(line.Opens) && line.Opens[s.Point] || last && w.wide[s.node])
	}
	nodeOf := func(s *station) int32 {
		if s.node == none {
			s.node = w.add(s.At)
		}
		return s.node
	}
	beside := func(s, other *station) int32 {
		x := s.At
		for d := range x {
			x[d] += short * (other.At[d] - s.At[d])
		}
		return w.add(x)
	}
	before := nodeOf(&list[0])
	for k := range list {
		s := &list[k]
		last := k == len(list)-1
		if opens(s) {
			what := Piece{Point: int32(s.Point)}
			if last { // from the line, which has ended beside it, to what it joins
				end(bar(before, nodeOf(s), what), s.node, s.Point)
				return
			}
			here := before
			before = beside(s, &list[k+1])
			end(bar(here, before, what), here, s.Point)
		}
		if last {
			cell := int32(len(w.m.Body) - 1)
			end(cell, before, s.Point)
			return
		}
		next := &list[k+1]
		target := int32(none)
		if k+1 == len(list)-1 && opens(next) {
			target = beside(next, s)
		} else {
			target = nodeOf(next)
		}
		n := 1
		if line.Size > 0 {
			n = max(1, int(math.Ceil(s.Length/line.Size*(1-1e-9))))
		}
		a, b := w.m.At(before), w.m.At(target)
		for j := range n {
			to := target
			if j < n-1 {
				var x [3]float64
				for d := range x {
					x[d] = a[d] + (b[d]-a[d])*float64(j+1)/float64(n)
				}
				to = w.add(x)
			}
			cell := bar(before, to, Piece{Length: s.Length / float64(n), Point: -1})
			if j == 0 && s.Point >= 0 && !opens(s) {
				end(cell, before, s.Point)
			}
			before = to
		}
	}
}
