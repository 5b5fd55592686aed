package couple

import (
	"errors"
	"maps"
	"math"
	"slices"

	"saltkettle/core/fem"
	"saltkettle/core/formula"
	"saltkettle/core/law"
)

// Deriver is a kernel with quantities that follow from its fields.
type Deriver interface {
	// Derive sets out[i] to derived quantity i at the points, which lie in one body.
	Derive(points []fem.Point, out [][]float64) error
}

// Source of derived quantities: a kernel and the number that its first one has among
// the inputs of quantities, after the variables of laws.
type Source struct {
	Kernel Deriver
	First  int
	Count  int
	// Nodal marks those that depend on the fields alone, not on their gradients, and
	// so have values at nodes.
	Nodal []bool
}

// Quantity is a formula of the variables of laws and of derived quantities, with how
// to evaluate these.
type Quantity struct {
	Program     *formula.Program
	Temperature int // component, −1 if there is none
	Sources     []Source
}

// ErrAbsent says that a quantity belongs to a physics that the model does not have.
var ErrAbsent = errors.New("it uses a quantity of a physics that the model does not have")

// Measure is what a reading finds of a quantity over a region.
type Measure struct {
	Least, Greatest   float64
	LeastAt, MostAt   [3]float64
	Integral, Content float64 // Content is the volume, area or length

	samples *samples // kept if it is not nil
}

// Mean is the mean value over the region.
func (m *Measure) Mean() float64 { return m.Integral / m.Content }

func newMeasure() *Measure { return &Measure{Least: math.Inf(1), Greatest: math.Inf(-1)} }

func (m *Measure) add(value, content float64, at [3]float64) {
	m.Integral += value * content
	m.Content += content
	m.sample(value, content, at)
}

// extreme adds a value that stands for nothing but itself.
func (m *Measure) extreme(value float64, at [3]float64) { m.sample(value, 0, at) }

func (m *Measure) sample(value, content float64, at [3]float64) {
	if k := m.samples; k != nil {
		k.values, k.content, k.at = append(k.values, value), append(k.content, content), append(k.at, at)
	}
	if value < m.Least {
		m.Least, m.LeastAt = value, at
	}
	if value > m.Greatest {
		m.Greatest, m.MostAt = value, at
	}
}

// merge adds what another measure has found.
func (m *Measure) merge(o *Measure) {
	m.Integral, m.Content = m.Integral+o.Integral, m.Content+o.Content
	if k := m.samples; k != nil {
		k.values, k.content, k.at = append(k.values, o.samples.values...), append(k.content, o.samples.content...), append(k.at, o.samples.at...)
	}
	if o.Least < m.Least {
		m.Least, m.LeastAt = o.Least, o.LeastAt
	}
	if o.Greatest > m.Greatest {
		m.Greatest, m.MostAt = o.Greatest, o.MostAt
	}
}

// evaluator computes a quantity at points.
type evaluator struct {
	q      *Quantity
	work   *formula.Work
	in     [][]float64
	out    []float64
	inputs int
	nodal  bool // it has values at nodes
}

func newEvaluator(q *Quantity, named []int) (*evaluator, error) {
	n := len(law.Variables)
	for _, s := range q.Sources {
		n = max(n, s.First+s.Count)
	}
	e := &evaluator{q: q, work: q.Program.NewWork(), in: make([][]float64, n), inputs: n, nodal: true}
	for v := len(law.Variables); v < 1000; v++ {
		if !q.Program.Uses(v) {
			continue
		}
		known := false
		for _, s := range q.Sources {
			if v >= s.First && v < s.First+s.Count {
				known = true
				e.nodal = e.nodal && s.Nodal != nil && s.Nodal[v-s.First]
			}
		}
		if !known {
			return nil, ErrAbsent
		}
	}
	if q.Program.Uses(law.Temperature) && q.Temperature < 0 {
		return nil, ErrAbsent
	}
	if q.Program.Uses(law.VolumeFlow) || q.Program.Uses(law.Frequency) {
		return nil, ErrAbsent // it is of a surface, or of a run
	}
	for k, c := range named {
		if q.Program.Uses(law.Concentration+k) && c < 0 {
			return nil, ErrAbsent
		}
	}
	return e, nil
}

// forked is the evaluator for a core, with work memory of its own.
func (e *evaluator) forked(core int) *evaluator {
	if core == 0 {
		return e
	}
	q := *e.q
	q.Sources = slices.Clone(q.Sources)
	for i := range q.Sources {
		q.Sources[i].Kernel = Forked(q.Sources[i].Kernel, core)
	}
	return &evaluator{q: &q, work: q.Program.NewWork(), in: make([][]float64, e.inputs), inputs: e.inputs, nodal: e.nodal}
}

// at evaluates at points of one body.
func (e *evaluator) at(points []fem.Point) ([]float64, error) {
	n := len(points)
	for v := range e.in {
		if cap(e.in[v]) < n {
			e.in[v] = make([]float64, n)
		}
		e.in[v] = e.in[v][:n]
	}
	for i := range points {
		p := &points[i]
		e.in[law.Temperature][i] = law.UsualTemperature
		if e.q.Temperature >= 0 {
			e.in[law.Temperature][i] = p.U[e.q.Temperature]
		}
		for d, x := range p.X {
			e.in[1+d][i] = x
		}
		e.in[4][i], e.in[5][i] = math.Hypot(p.X[0], p.X[1]), math.Atan2(p.X[1], p.X[0])
		e.in[law.Moment][i], e.in[law.Moment+1][i] = p.Time, p.Swing
		for k, c := range p.Named {
			if c >= 0 {
				e.in[law.Concentration+k][i] = p.U[c]
			}
		}
	}
	for _, s := range e.q.Sources {
		used := false
		for v := s.First; v < s.First+s.Count; v++ {
			used = used || e.q.Program.Uses(v)
		}
		if used {
			if err := s.Kernel.Derive(points, e.in[s.First:s.First+s.Count]); err != nil {
				return nil, err
			}
		}
	}
	if cap(e.out) < n {
		e.out = make([]float64, n)
	}
	e.out = e.out[:n]
	e.work.Run(e.in, e.out)
	return e.out, nil
}

// atNodes adds the values at nodes of a cell to the extremes.
func (s *Solution) atNodes(e *evaluator, m *Measure, body int32, nodes []int32) error {
	if !e.nodal {
		return nil
	}
	points := make([]fem.Point, 0, len(nodes))
	n := s.System.Components
	for _, v := range nodes {
		p := fem.Point{Part: body, Number: len(points), Named: s.System.Named, X: s.System.Grid.At(v), Time: s.State.Time, U: make([]float64, n), Grad: make([][3]float64, n), Rate: make([]float64, n)}
		for f := range s.Fields {
			for c := range s.Fields[f].Components {
				p.U[s.System.First[f]+c], _ = s.ValueAt(f, c, v)
			}
		}
		points = append(points, p)
	}
	values, err := e.at(points)
	for i, v := range values {
		m.extreme(v, points[i].X)
	}
	return err
}

// Swing is the complex amplitudes of a solution about its state, as the states that it is out
// of its middle with their real and their imaginary part.
type Swing struct {
	Real, Imaginary *fem.State
	Frequency       float64 // Hz
}

// InBodies measures a quantity in bodies.
func (s *Solution) InBodies(q *Quantity, bodies map[int32]bool) (*Measure, error) {
	if err := s.there(q, nil); err != nil {
		return nil, err
	}
	return s.measured(q, func(e *evaluator, m *Measure) error { return s.inBodies(e, m, bodies) })
}

func (s *Solution) inBodies(e *evaluator, out *Measure, bodies map[int32]bool) error {
	var shares []*Measure
	err := s.System.AllCells(s.State, bodies, func(core int) func([]fem.Point, []float64) error {
		own, share := e.forked(core), newMeasure()
		if out.samples != nil {
			share.samples = &samples{}
		}
		shares = append(shares, share)
		return func(points []fem.Point, weights []float64) error {
			values, err := own.at(points)
			for i, v := range values {
				share.add(v, weights[i], points[i].X)
			}
			return err
		}
	})
	for _, share := range shares {
		out.merge(share)
	}
	if err != nil || !e.nodal {
		return err
	}
	seen := make([]bool, s.System.Grid.NodeCount())
	var nodes []int32
	for _, body := range slices.Sorted(maps.Keys(bodies)) {
		nodes = nodes[:0]
		clear(seen)
		s.eachCellOf(body, func(list []int32) {
			for _, v := range list {
				if !seen[v] {
					seen[v] = true
					nodes = append(nodes, v)
				}
			}
		})
		if err := s.atNodes(e, out, body, nodes); err != nil {
			return err
		}
	}
	return nil
}

// OnFacets measures a quantity on facets, seen from the given bodies.
func (s *Solution) OnFacets(q *Quantity, facets []int32, bodies map[int32]bool) (*Measure, error) {
	if err := s.there(q, facets); err != nil {
		return nil, err
	}
	return s.measured(q, func(e *evaluator, m *Measure) error { return s.onFacets(e, m, facets, bodies) })
}

// errNotThere says that a quantity is not where it is asked for.
var errNotThere = errors.New("what it is about is on a surface, and not on all of this one: say on which")

// there refuses a quantity that is on facets alone, where it is asked for in bodies or on others.
func (s *Solution) there(q *Quantity, facets []int32) error {
	for _, source := range q.Sources {
		k, ok := source.Kernel.(interface{ On() map[int32]bool })
		if !ok {
			continue
		}
		for v := source.First; v < source.First+source.Count; v++ {
			on := k.On()
			if q.Program.Uses(v) && (facets == nil || slices.ContainsFunc(facets, func(f int32) bool { return !on[f] })) {
				return errNotThere
			}
		}
	}
	for k := range law.Named {
		i := slices.IndexFunc(s.Fields, func(f Field) bool { return f.Name == law.NameOf(k) })
		if i < 0 || s.Fields[i].Facets == nil || !q.Program.Uses(law.Concentration+k) {
			continue
		}
		own := map[int32]bool{}
		for _, f := range s.Fields[i].Facets {
			own[f] = true
		}
		if facets == nil || slices.ContainsFunc(facets, func(f int32) bool { return !own[f] }) {
			return errNotThere
		}
	}
	return nil
}

func (s *Solution) onFacets(e *evaluator, out *Measure, facets []int32, bodies map[int32]bool) error {
	var sides []fem.Side
	for _, k := range facets {
		sides = append(sides, s.seen(k, bodies))
	}
	err := s.System.EachSide(s.State, sides, func(n int, points []fem.Point, weights []float64) error {
		values, err := e.at(points)
		for i, v := range values {
			out.add(v, weights[i], points[i].X)
		}
		return err
	})
	if err != nil {
		return err
	}
	for _, side := range sides {
		if err := s.atNodes(e, out, s.System.Grid.Blocks[side.Block].Part[side.Cell], s.System.Grid.SideNodes(side)); err != nil {
			return err
		}
	}
	return nil
}

// measured measures a quantity, or its amplitude where the solution swings: at each place how
// far it goes with the real and the imaginary part together.
func (s *Solution) measured(q *Quantity, visit func(e *evaluator, m *Measure) error) (*Measure, error) {
	e, err := newEvaluator(q, s.System.Named)
	if err != nil {
		return nil, err
	}
	out := newMeasure()
	if s.Swing == nil {
		return out, visit(e, out)
	}
	var sampled [3]samples
	middle := s.State
	defer func() { s.State = middle }()
	for i, state := range []*fem.State{middle, s.Swing.Real, s.Swing.Imaginary} {
		s.State = state
		m := newMeasure()
		m.samples = &sampled[i]
		if err := visit(e, m); err != nil {
			return nil, err
		}
	}
	var re, im float64
	for i, base := range sampled[0].values {
		a, b := sampled[1].values[i]-base, sampled[2].values[i]-base
		content := sampled[0].content[i]
		re, im = re+a*content, im+b*content
		out.Content += content
		out.extreme(math.Hypot(a, b), sampled[0].at[i])
	}
	out.Integral = math.Hypot(re, im)
	return out, nil
}

// samples are all values that went into a measure.
type samples struct {
	values, content []float64
	at              [][3]float64
}

// linePoints is at how many points a line is read.
const linePoints = 501

// OnLine measures a quantity along a straight line, as far as it runs through the
// mesh; Content is that length.
func (s *Solution) OnLine(q *Quantity, from, to [3]float64) (*Measure, error) {
	points := make([]float64, 0, 3*linePoints)
	for i := range linePoints {
		u := float64(i) / (linePoints - 1)
		for r := range 3 {
			points = append(points, from[r]+u*(to[r]-from[r]))
		}
	}
	step := math.Sqrt((to[0]-from[0])*(to[0]-from[0])+(to[1]-from[1])*(to[1]-from[1])+(to[2]-from[2])*(to[2]-from[2])) / (linePoints - 1)
	values, inside, err := s.AtPoints(q, points)
	if err != nil {
		return nil, err
	}
	out := newMeasure()
	for i, v := range values {
		if !inside[i] {
			continue
		}
		out.extreme(v, [3]float64(points[3*i:3*i+3]))
		if i > 0 && inside[i-1] {
			out.Integral += step * (v + values[i-1]) / 2
			out.Content += step
		}
	}
	return out, nil
}

// AtPoints evaluates a quantity at points of three coordinates each, or its amplitude where
// the solution swings, and says which of them lie in the mesh.
func (s *Solution) AtPoints(q *Quantity, points []float64) (values []float64, inside []bool, err error) {
	if err := s.there(q, nil); err != nil {
		return nil, nil, err
	}
	if s.Swing == nil {
		return s.atPoints(q, points)
	}
	middle := s.State
	defer func() { s.State = middle }()
	var parts [3][]float64
	for i, state := range []*fem.State{middle, s.Swing.Real, s.Swing.Imaginary} {
		s.State = state
		if parts[i], inside, err = s.atPoints(q, points); err != nil {
			return nil, nil, err
		}
	}
	for i, base := range parts[0] {
		values = append(values, math.Hypot(parts[1][i]-base, parts[2][i]-base))
	}
	return values, inside, nil
}

func (s *Solution) atPoints(q *Quantity, points []float64) (values []float64, inside []bool, err error) {
	e, err := newEvaluator(q, s.System.Named)
	if err != nil {
		return nil, nil, err
	}
	places := s.placesOf(points)
	values, inside = make([]float64, len(places)), make([]bool, len(places))
	for i, at := range places {
		if at.Cell < 0 {
			continue
		}
		inside[i] = true
		p, err := s.System.AtPlace(s.State, at)
		if err != nil {
			return nil, nil, err
		}
		v, err := e.at([]fem.Point{p})
		if err != nil {
			return nil, nil, err
		}
		values[i] = v[0]
	}
	return values, inside, nil
}

// placesOf finds the cells that have points. Those of the last points are kept: the readings of a run in time ask for
// the same at every moment.
func (g *Group) placesOf(points []float64) []fem.Place {
	for _, known := range g.located {
		if slices.Equal(known.points, points) {
			return known.places
		}
	}
	places := g.System.Grid.Locate(points, fem.OnSide)
	if len(g.located) >= keptPlaces {
		g.located = g.located[1:]
	}
	g.located = append(g.located, located{slices.Clone(points), places})
	return places
}

// located are points and the cells that have them; keptPlaces is how many sets of them are kept.
type located struct {
	points []float64
	places []fem.Place
}

const keptPlaces = 16

// Extreme is a greatest or least value and its place.
type Extreme struct {
	Value float64
	At    [3]float64
	Body  int32 // of the first cell that has the node
}

// Extremes finds the least and the greatest value of a field at all nodes.
func (s *Solution) Extremes(field int) (least, greatest Extreme) {
	least.Value, greatest.Value = math.Inf(1), math.Inf(-1)
	for body := range int32(s.bodies) {
		if !s.Touches(field, body) {
			continue
		}
		s.eachCellOf(body, func(nodes []int32) {
			for _, v := range nodes {
				e := s.System.Equation(field, 0, v)
				if e < 0 {
					continue // it lives on a surface
				}
				t := s.State.U[e]
				if t < least.Value {
					least = Extreme{t, s.System.Grid.At(v), body}
				}
				if t > greatest.Value {
					greatest = Extreme{t, s.System.Grid.At(v), body}
				}
			}
		})
	}
	return least, greatest
}

// dips is the most by which a function of order 2 can fall below its values at nodes, as a part of how far these are apart.
const dips = 0.5

// Least is the least value of a scalar anywhere, also between nodes; its place is then a corner of the cell in which it is.
func (s *Solution) Least(field int) Extreme {
	least, _ := s.Extremes(field)
	grid := s.System.Grid
	for b := range grid.Blocks {
		block := &grid.Blocks[b]
		values := make([]float64, block.Element.Count())
		if block.Element.Order == 1 || s.Fields[field].Order == 1 {
			continue
		}
		for cell, body := range block.Part {
			if !s.Lives(field, body) {
				continue
			}
			nodes := block.Nodes(cell)
			lo, hi := math.Inf(1), math.Inf(-1)
			for i, v := range nodes {
				t := s.State.U[s.System.Equation(field, 0, v)]
				values[i], lo, hi = -t, min(lo, t), max(hi, t)
			}
			if lo-dips*(hi-lo) >= least.Value {
				continue
			}
			if _, v := block.Element.Peak(values); -v < least.Value {
				least = Extreme{-v, grid.At(nodes[0]), body}
			}
		}
	}
	return least
}
