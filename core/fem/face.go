package fem

import (
	"sync"

	"saltkettle/core/parallel"
)

// FaceKernel is a kernel whose terms on sides depend on the fields there by their values
// and rates alone. Such sides need only the unknowns that lie on them, and their geometry
// is kept from one state to the next.
type FaceKernel interface {
	SideKernel
	// ByValues says that it is so; then Point.Grad is not set on sides.
	ByValues() bool
}

// byValues says that no term on sides needs gradients.
func byValues(k Kernel) bool {
	f, ok := k.(FaceKernel)
	return ok && f.ByValues()
}

// face is a facet of an element: the nodes that lie on it, the corners first, and their
// functions at the points of its rule. All other functions vanish there.
type face struct {
	nodes   []int
	corners int
	n, low  [][]float64 // by point; low are those of order 1
}

// facePoint is the geometry at a point of a side.
type facePoint struct {
	x, normal [3]float64
	weight    float64
}

// faces are the sides of a system.
type faces struct {
	once   sync.Once
	err    error
	of     []*face
	begin  []int32
	points []facePoint
	level  [][3]float64 // gradients of nothing
}

// sideFaces returns the faces of the sides of the system.
func (s *System) sideFaces() (*faces, error) {
	f := &s.faces
	f.once.Do(func() { f.err = f.make(s) })
	return f, f.err
}

func (f *faces) make(s *System) error {
	known := map[[2]int]*face{}
	f.of, f.begin = make([]*face, len(s.sides)), make([]int32, len(s.sides)+1)
	for i, side := range s.sides {
		key := [2]int{side.Block, side.Facet}
		if known[key] == nil {
			known[key] = newFace(s.side(sideCache{}, side), s.Grid.Blocks[side.Block].Element, side.Facet)
		}
		f.of[i] = known[key]
		f.begin[i+1] = f.begin[i] + int32(len(f.of[i].n))
		f.level = append(f.level, make([][3]float64, max(0, len(f.of[i].nodes)-len(f.level)))...)
	}
	f.points = make([]facePoint, f.begin[len(s.sides)])
	errs := make([]error, parallel.Workers())
	parallel.For(len(s.sides), 256, func(worker, lo, hi int) {
		cache := sideCache{}
		for i := lo; i < hi; i++ {
			side := s.sides[i]
			on := s.side(cache, side)
			on.load(s.Grid, s.Grid.Blocks[side.Block].Nodes(side.Cell))
			for q := range on.rule.Points {
				if err := on.move(q); err != nil {
					errs[worker] = err
					return
				}
				f.points[int(f.begin[i])+q] = facePoint{on.x, on.normal, on.weight}
			}
		}
	})
	return first(errs)
}

func newFace(on *side, e *Element, facet int) *face {
	f := &face{nodes: e.onFacet(facet)}
	for _, i := range f.nodes {
		if i < e.Corners {
			f.corners++
		}
	}
	for q := range on.rule.Points {
		n, low := make([]float64, len(f.nodes)), make([]float64, f.corners)
		for k, i := range f.nodes {
			n[k] = on.n[q][i]
			if k < f.corners {
				low[k] = on.low[q][i]
			}
		}
		f.n, f.low = append(f.n, n), append(f.low, low)
	}
	return f
}

// visitor goes over faces in a state.
type visitor struct {
	*assembler
	faces  *faces
	points []Point
	// Of the side at hand.
	face   *face
	block  *Block
	on     []int32 // nodes
	placed []facePoint
}

func (a *assembler) visitor() (*visitor, error) {
	f, err := a.sideFaces()
	return &visitor{assembler: a, faces: f}, err
}

// visit takes a side of the system, with the unknowns on it, and returns its points.
func (v *visitor) visit(number int) []Point {
	a, side := v.assembler, v.sides[number]
	v.block, v.face = &a.Grid.Blocks[side.Block], v.faces.of[number]
	v.placed = v.faces.points[v.faces.begin[number]:v.faces.begin[number+1]]
	nodes, part := v.block.Nodes(side.Cell), v.block.Part[side.Cell]
	a.eq = a.eq[:0]
	for f, field := range a.Fields {
		list := v.carried(f, side)
		if field.Given {
			list = nil
		}
		for c := range field.Components {
			a.span[a.First[f]+c] = [2]int{len(a.eq), len(a.eq) + len(list)}
			for _, i := range list {
				a.eq = append(a.eq, a.System.eq[f][nodes[i]]+int32(c))
			}
		}
	}
	a.lent = a.lent[:0]
	for _, f := range a.given {
		v.on = v.on[:0]
		for _, i := range v.carried(f, side) {
			v.on = append(v.on, nodes[i])
		}
		a.lend(f, v.on)
	}
	a.begin()
	for len(v.points) < len(v.placed) {
		n := a.Components
		v.points = append(v.points, Point{Number: len(v.points), Named: a.Named, U: make([]float64, n), Grad: make([][3]float64, n), Rate: make([]float64, n)})
	}
	for q := range v.placed {
		p := &v.points[q]
		p.Part, p.Time, p.Swing, p.X, p.Normal = part, a.at.Time, a.at.Swing, v.placed[q].x, v.placed[q].normal
		v.functionsAt(q)
		for comp, n := range a.shapes {
			lo, hi := a.span[comp][0], a.span[comp][1]
			p.U[comp], p.Rate[comp] = weighted(n, a.local(comp)), 0
			if len(a.rate) > 0 {
				p.Rate[comp] = weighted(n, a.rate[lo:hi])
			}
		}
	}
	return v.points[:len(v.placed)]
}

// carried are the nodes of the side at hand that carry a field, none where it is not.
func (v *visitor) carried(f int, side Side) []int {
	part := v.block.Part[side.Cell]
	switch {
	case len(v.assembler.carried(f, v.block.Element, part, &side)) == 0:
		return nil
	case v.low(f, v.block.Element):
		return v.face.nodes[:v.face.corners]
	}
	return v.face.nodes
}

// weighted is the sum of values, each times the function that belongs to it.
func weighted(n, values []float64) (sum float64) {
	n = n[:len(values)]
	for i, u := range values {
		sum += n[i] * u
	}
	return sum
}

// functionsAt points to the functions of all components at a point of the side at hand.
func (v *visitor) functionsAt(q int) {
	a := v.assembler
	for f, field := range a.Fields {
		n := v.face.n[q]
		if a.low(f, v.block.Element) {
			n = v.face.low[q]
		}
		for comp := a.First[f]; comp < a.First[f]+field.Components; comp++ {
			a.shapes[comp], a.slopes[comp] = n, v.faces.level
		}
	}
}

// runFaces integrates the terms on sides that depend on values alone.
func (a *assembler) runFaces(k SideKernel) error {
	v, err := a.visitor()
	if err != nil {
		return err
	}
	prepare, _ := a.kernel.(Preparer)
	for number, side := range a.sides {
		if !a.takes(a.linearSide(number)) || !a.touches(a.Grid.Blocks[side.Block].Nodes(side.Cell)) {
			continue
		}
		points := v.visit(number)
		if prepare != nil {
			if err := prepare.Prepare(number, points); err != nil {
				return err
			}
		}
		for q := range points {
			v.functionsAt(q)
			a.terms.reset()
			if err := k.Side(number, &points[q], a.terms); err != nil {
				return err
			}
			a.add(v.placed[q].weight, false)
		}
		a.scatter()
	}
	return nil
}

// EachFace calls f for sides of the system, given by their numbers, with their points, in
// which gradients are not set, the areas that these stand for, and the equations of a
// field on the side with its functions at each of the points.
func (s *System) EachFace(at *State, numbers []int32, field int, f func(i int, points []Point, weights []float64, eqs []int32, functions [][]float64) error) error {
	a := newAssembler(s, nil, at, nil, nil, 0, int32(s.N))
	v, err := a.visitor()
	if err != nil {
		return err
	}
	var weights []float64
	for i, number := range numbers {
		points := v.visit(int(number))
		weights = weights[:0]
		for _, p := range v.placed {
			weights = append(weights, p.weight)
		}
		functions := v.face.n
		if s.low(field, v.block.Element) {
			functions = v.face.low
		}
		span := a.span[s.First[field]]
		if err := f(i, points, weights, a.eq[span[0]:span[1]], functions); err != nil {
			return err
		}
	}
	return nil
}

// FaceArea is the area of a side of the system, m².
func (s *System) FaceArea(number int) (float64, error) {
	f, err := s.sideFaces()
	if err != nil {
		return 0, err
	}
	var sum float64
	for _, p := range f.points[f.begin[number]:f.begin[number+1]] {
		sum += p.weight
	}
	return sum, nil
}
