package fem

import (
	"errors"
	"fmt"
	"slices"
	"sync"

	"saltkettle/core/parallel"
	"saltkettle/core/sparse"
)

// Field is an unknown function: a scalar or a vector of some components.
type Field struct {
	Name       string
	Components int
	// Order of its functions: that of the elements, or 1 on elements of order 2; 0
	// means that of the elements.
	Order int
	// Parts it lives in; nil means all.
	Parts map[int32]bool
	// On are the sides on which it lives alone, as what flows along a surface does; nil for a field in parts. Its gradients are those along the
	// surface, and so is what its fluxes do; cells have no terms of it.
	On []Side
	// Given says that another system solves for it: it has no unknowns here, and kernels see
	// what [State.Given] has of it.
	Given bool
}

// Joint couples the two sides of a gap of no width, such as the ones that
// [Grid.Split] makes: the corners of both facets lie at the same places.
type Joint struct{ A, B Side }

// System numbers the unknowns of fields on a grid and holds the pattern of their
// equations. Unknowns of one node follow each other.
type System struct {
	Grid   *Grid
	Fields []Field
	N      int // unknowns
	// Components of all fields together, and the first one of each field.
	Components int
	First      []int
	// Named are the components that points tell of as quantities that models name. It is to be set before anything is assembled.
	Named []int

	given  []int // the fields that are
	extras []int // fields of the unknowns that belong to no node
	sides  []Side
	// on has the sides of fields that live on some, by field: by block, cell and facet.
	on     []map[[3]int]bool
	faces  faces
	joints []Joint
	eq     [][]int32 // by field and node: its first equation, −1 where the field is not
	// Unknowns that follow each other and meet the same ones are a slot: those of a
	// node, or those of one field on nodes where that field alone is tied.
	group []int32           // by node: the node whose slot it shares
	tied  bool              // any node shares its slot
	extra map[int32][]int32 // by node: the slots of fields that are tied there alone
	alone []map[int32]int32 // by field: the slot of a node where it is tied alone
	start []int32           // by slot: its first equation, and the end
	meets sync.Once
	rows  []int32
	cols  []int32
	rules []int // degree of quadrature by block
	// batches are those at rest, by block: work memory that is used again.
	batches []sync.Pool
	byPart  [][]int32 // by block: its cells by part, nil if they are in order
}

// SystemSettings of [NewSystem]. The zero value works.
type SystemSettings struct {
	Sides  []Side  // on which the kernel has terms
	Joints []Joint // across which it has terms
	// Ties are pairs of nodes that share their unknowns, such as those of periodic
	// sides: the first takes those of the second.
	Ties [][2]int32
	// Level lists, by field, sets of nodes on which the field has one value that is
	// not known, such as the potential of a terminal whose current is given. No node
	// is in two sets of a field.
	Level map[int][][]int32
	// Extra are unknowns that belong to no node, such as the motion of a patch, by their field:
	// no kernel has terms for them, but relations and loads do.
	Extra []int
	// Degree of polynomials that quadrature is exact for; 0 means twice the order of
	// the element.
	Degree int
}

// NewSystem numbers the unknowns.
func NewSystem(g *Grid, fields []Field, set *SystemSettings) (*System, error) {
	if set == nil {
		set = &SystemSettings{}
	}
	s := &System{Grid: g, Fields: fields, sides: set.Sides, joints: set.Joints}
	for i, f := range fields {
		s.First = append(s.First, s.Components)
		s.Components += f.Components
		if f.Given {
			s.given = append(s.given, i)
		}
		s.on = append(s.on, nil)
		if f.On != nil {
			s.on[i] = map[[3]int]bool{}
			for _, side := range f.On {
				s.on[i][side.place()] = true
			}
		}
	}
	for _, b := range g.Blocks {
		d := set.Degree
		if d == 0 {
			d = 2 * b.Element.Order
		}
		s.rules = append(s.rules, d)
		s.byPart = append(s.byPart, b.byPart())
	}
	s.batches = make([]sync.Pool, len(g.Blocks))
	if err := s.tie(set.Ties); err != nil {
		return nil, err
	}
	slots, err := s.level(set.Level)
	if err != nil {
		return nil, err
	}
	s.number(slots, set.Extra)
	if s.N == 0 {
		return nil, errors.New("no field lives in any part of the grid")
	}
	return s, nil
}

// tie finds the node whose unknowns each node shares.
func (s *System) tie(pairs [][2]int32) error {
	s.group = make([]int32, s.Grid.NodeCount())
	for i := range s.group {
		s.group[i] = int32(i)
	}
	root := func(v int32) int32 {
		for s.group[v] != v {
			s.group[v] = s.group[s.group[v]]
			v = s.group[v]
		}
		return v
	}
	for _, p := range pairs {
		if min(p[0], p[1]) < 0 || int(max(p[0], p[1])) >= len(s.group) {
			return fmt.Errorf("the tie of nodes %d and %d names a node that does not exist", p[0], p[1])
		}
		s.group[root(p[0])] = root(p[1])
	}
	for i := range s.group {
		s.group[i] = root(int32(i))
	}
	s.tied = len(pairs) > 0
	return nil
}

// level gives the sets of nodes on which a field is level slots of their own and
// returns the field of each.
func (s *System) level(sets map[int][][]int32) (fields []int, err error) {
	s.alone, s.extra = make([]map[int32]int32, len(s.Fields)), map[int32][]int32{}
	next := int32(s.Grid.NodeCount())
	for f := range s.Fields {
		s.alone[f] = map[int32]int32{}
		for _, nodes := range sets[f] {
			for _, v := range nodes {
				g := s.group[v]
				if at, twice := s.alone[f][g]; twice {
					if at != next {
						return nil, fmt.Errorf("node %d is in two sets on which %s is level", v, s.Fields[f].Name)
					}
					continue
				}
				s.alone[f][g] = next
				s.extra[g] = append(s.extra[g], next)
			}
			fields = append(fields, f)
			next++
		}
	}
	return fields, nil
}

// low says whether a field has functions of order 1 on an element of order 2.
func (s *System) low(f int, e *Element) bool { return s.Fields[f].Order == 1 && e.Order == 2 }

// count is the number of nodes of an element that carry a field.
func (s *System) count(f int, e *Element) int {
	if s.low(f, e) {
		return e.Corners
	}
	return e.Count()
}

// lives says that a field has unknowns in a part.
func (s *System) lives(f int, part int32) bool { return !s.Fields[f].Given && s.within(f, part) }

// within says that a field is in a part, solved for or given.
func (s *System) within(f int, part int32) bool {
	return s.on[f] == nil && (s.Fields[f].Parts == nil || s.Fields[f].Parts[part])
}

// place is where a side is, whatever is beyond it.
func (s Side) place() [3]int { return [3]int{s.Block, s.Cell, s.Facet} }

// carried are the nodes of a cell of a part that carry a field, solved for or given: all, or those of a side on which it lives; none where it is not.
// The side is nil within a cell.
func (s *System) carried(f int, e *Element, part int32, side *Side) []int {
	switch {
	case s.on[f] == nil && s.within(f, part):
		return e.all[:s.count(f, e)]
	case s.on[f] == nil || side == nil || !s.on[f][side.place()]:
		return nil
	}
	list := e.onFacet(side.Facet)
	if s.low(f, e) {
		list = list[:len(e.Facets[side.Facet])]
	}
	return list
}

// number counts the equations, slot by slot; after those of the nodes come the
// slots of single fields.
func (s *System) number(single, extra []int) {
	n := s.Grid.NodeCount()
	present := make([][]bool, len(s.Fields))
	s.eq = make([][]int32, len(s.Fields))
	for f := range s.Fields {
		present[f], s.eq[f] = make([]bool, n), make([]int32, n)
		for i := range s.Fields[f].On {
			side := &s.Fields[f].On[i]
			b := &s.Grid.Blocks[side.Block]
			for _, k := range s.carried(f, b.Element, b.Part[side.Cell], side) {
				present[f][s.group[b.Nodes(side.Cell)[k]]] = !s.Fields[f].Given
			}
		}
		for bi := range s.Grid.Blocks {
			b := &s.Grid.Blocks[bi]
			k := s.count(f, b.Element)
			for cell, part := range b.Part {
				if s.lives(f, part) {
					for _, v := range b.Nodes(cell)[:k] {
						present[f][s.group[v]] = true
					}
				}
			}
		}
	}
	s.start = make([]int32, n+len(single)+len(extra)+1)
	next := int32(0)
	for v := range n {
		s.start[v] = next
		for f := range s.Fields {
			s.eq[f][v] = -1
			if _, alone := s.alone[f][int32(v)]; present[f][v] && !alone {
				s.eq[f][v] = next
				next += int32(s.Fields[f].Components)
			}
		}
	}
	for k, f := range single {
		s.start[n+k] = next
		next += int32(s.Fields[f].Components)
	}
	s.extras = extra
	for k := range extra {
		s.start[n+len(single)+k] = next
		next++
	}
	s.start[n+len(single)+len(extra)] = next
	s.N = int(next)
	for f := range s.Fields {
		for v, slot := range s.alone[f] {
			if present[f][v] {
				s.eq[f][v] = s.start[slot]
			}
		}
		for v, g := range s.group {
			s.eq[f][v] = s.eq[f][g]
		}
	}
}

// Equation is the number of a component of a field at a node, −1 if the field is
// not there.
func (s *System) Equation(field, component int, node int32) int32 {
	e := s.eq[field][node]
	if e < 0 {
		return -1
	}
	return e + int32(component)
}

// Shared is the node whose unknowns a node shares, mostly its own.
func (s *System) Shared(node int32) int32 { return s.group[node] }

// FieldAt is the field that a component belongs to.
func (s *System) FieldAt(component int) int {
	f := 0
	for f+1 < len(s.First) && s.First[f+1] <= component {
		f++
	}
	return f
}

// Extra is the number of an extra unknown.
func (s *System) Extra(i int) int32 { return int32(s.N - len(s.extras) + i) }

// FieldOf returns the field of each equation.
func (s *System) FieldOf() []int {
	out := make([]int, s.N)
	for i, f := range s.extras {
		out[s.Extra(i)] = f
	}
	for f, eq := range s.eq {
		for _, e := range eq {
			for c := range s.Fields[f].Components {
				if e >= 0 {
					out[int(e)+c] = f
				}
			}
		}
	}
	return out
}

// pattern finds which unknowns meet in a cell or across a joint, once they are asked for: equations in [Blocks] do
// without.
func (s *System) pattern() { s.meets.Do(s.meet) }

func (s *System) meet() {
	n := len(s.start) - 1
	// The lists of slots that meet, and for each slot the lists that it is in.
	var lists [][]int32
	plain := len(s.extra) == 0 && !s.tied
	add := func(nodes []int32) {
		if !plain {
			nodes = s.slots(nodes)
		}
		lists = append(lists, nodes)
	}
	for bi := range s.Grid.Blocks {
		b := &s.Grid.Blocks[bi]
		for cell := range b.Count() {
			add(b.Nodes(cell))
		}
	}
	for _, j := range s.joints {
		add(slices.Concat(s.cellOf(j.A), s.cellOf(j.B)))
	}
	begin := make([]int32, n+1)
	for _, l := range lists {
		for _, v := range l {
			begin[v+1]++
		}
	}
	for i := range n {
		begin[i+1] += begin[i]
	}
	of := make([]int32, begin[n])
	at := slices.Clone(begin[:n])
	for k, l := range lists {
		for _, v := range l {
			of[at[v]] = int32(k)
			at[v]++
		}
	}
	s.rows = make([]int32, s.N+1)
	pieces := make([][]int32, parallel.Workers())
	first := make([]int, parallel.Workers())
	parallel.For(n, 2048, func(w, lo, hi int) {
		first[w] = lo
		var out, near []int32
		seen := make([]int32, n)
		for i := range seen {
			seen[i] = -1
		}
		for g := lo; g < hi; g++ {
			near = near[:0]
			for _, k := range of[begin[g]:begin[g+1]] {
				for _, u := range lists[k] {
					if seen[u] != int32(g) {
						seen[u] = int32(g)
						near = append(near, u)
					}
				}
			}
			if len(near) == 0 {
				near = append(near, int32(g)) // it belongs to no node
			}
			slices.Sort(near)
			for e := s.start[g]; e < s.start[g+1]; e++ {
				before := len(out)
				for _, u := range near {
					for c := s.start[u]; c < s.start[u+1]; c++ {
						out = append(out, c)
					}
				}
				s.rows[e+1] = int32(len(out) - before)
			}
		}
		pieces[w] = out
	})
	for i := range s.N {
		s.rows[i+1] += s.rows[i]
	}
	s.cols = make([]int32, s.rows[s.N])
	for w, p := range pieces {
		copy(s.cols[s.rows[s.start[first[w]]]:], p)
	}
}

// slots lists the slots of nodes, each once.
func (s *System) slots(nodes []int32) []int32 {
	var out []int32
	add := func(slot int32) {
		if !slices.Contains(out, slot) {
			out = append(out, slot)
		}
	}
	for _, v := range nodes {
		g := s.group[v]
		add(g)
		for _, slot := range s.extra[g] {
			add(slot)
		}
	}
	return out
}

func (s *System) cellOf(side Side) []int32 { return s.Grid.Blocks[side.Block].Nodes(side.Cell) }

// NewMatrix returns a matrix of zeros with the pattern of the system. All of them
// share it.
func (s *System) NewMatrix() *sparse.CSR {
	s.pattern()
	return &sparse.CSR{Rows: s.rows, Cols: s.cols, Data: make([]float64, len(s.cols))}
}

// Interpolate sets a component of a field to a function of the place at its nodes.
func (s *System) Interpolate(u []float64, field, component int, f func(x [3]float64) float64) {
	for v := range s.Grid.NodeCount() {
		if e := s.Equation(field, component, int32(v)); e >= 0 && s.group[v] == int32(v) {
			u[e] = f(s.Grid.At(int32(v)))
		}
	}
}

// Constraints are unknowns with given values, and relations between others.
type Constraints struct {
	Fixed     []bool
	Value     []float64
	Relations []Relation
	// Load is what acts on an unknown from outside, such as a force on a patch that moves as
	// one, with the sign of a source.
	Load map[int32]float64
}

// NewConstraints returns none.
func (s *System) NewConstraints() *Constraints {
	return &Constraints{Fixed: make([]bool, s.N), Value: make([]float64, s.N)}
}

// Hold gives a component of a field at some nodes the values of a function of the
// place. Where it is held already, the later value counts.
func (s *System) Hold(c *Constraints, field, component int, nodes []int32, f func(x [3]float64) float64) {
	for _, v := range nodes {
		if e := s.Equation(field, component, v); e >= 0 {
			c.Fixed[e] = true
			c.Value[e] = f(s.Grid.At(v))
		}
	}
}
