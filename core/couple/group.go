// Package couple solves the fields of several physics on one mesh: in groups, one after the
// other, and within a group together. It reads them too.
package couple

import (
	"math"
	"slices"

	"saltkettle/core/fem"
	"saltkettle/core/law"
	"saltkettle/core/mesh"
)

// Ground is a mesh with all fields of a run and with the places of their conditions: what
// its groups stand on.
type Ground struct {
	Mesh   *mesh.Mesh
	Fields []Field
	// Facets are those of the mesh on which there are conditions, by side of the
	// systems; Joints those across which fields may jump, by joint.
	Facets, Joints []int32
	// Volume of each body of the mesh, m³, and area of each facet with conditions, m².
	// They are there when there is a group.
	Volume, Area []float64

	grid   *fem.Grid
	sides  []fem.Side // by facet of the mesh
	bodies int
	cells  [][]fem.CellAt // by body, found when they are asked for
}

// Group is fields that are solved together. To it the other fields of the ground are given.
type Group struct {
	*Ground
	System *fem.System
	// Own are the fields that it solves for.
	Own []int

	// Part is how much of what displacements are held at acts, less than all on the way to it; 0 means all.
	Part float64
	// Push is what acts on unknowns from outside, with the sign of a source; nil is nothing. Pushed has its sums.
	Push   map[int32]float64
	Pushed []Pushed

	held    []Held
	slides  []slide
	joined  []fem.Relation // of patches that move as one, and of what glides
	glides  []glide
	asOne   []asOne
	holds   [][]int32 // by held value: its equations, found when they are asked for
	located []located
	// starting says that time is about to begin.
	starting bool
	fed      []Fed
}

// Field is an unknown function: a scalar, or a vector of some components.
type Field struct {
	Name       string
	Components int // 0 means 1
	// Bodies it lives in; nil means all.
	Bodies map[int32]bool
	// Facets are those that it lives on alone, of these bodies; nil for a field in bodies. They must be among those with conditions.
	Facets []int32
	// Start is the value that a solution begins with, and StartAt that by the place, if it is not nil.
	Start   float64
	StartAt func(x [3]float64) float64
	// Changes says that it changes in time at a rate, Inertial that it does at a rate of second
	// order; others follow at once.
	Changes, Inertial bool
	// BeginsSteady says that a run in time begins with its steady state, unless it goes on from another one.
	BeginsSteady bool
	// Rigid says that its equations hardly notice rigid motions, which a displacement has.
	Rigid bool
	// Uneven says that its equations are of very different size from place to place, as of iron beside air.
	Uneven bool
	// Held are values on facets. Where two meet, the later one holds.
	Held []Held
	// Order of its functions: that of the elements, or 1 on elements of order 2; 0 means that of
	// the elements.
	Order int
	// Fed is what flows in at edges of its facets.
	Fed []Fed
	// Slides are sets of facets through which a vector does not pass, and along which it may, or where it is held in
	// another direction.
	Slides []Slide
	// Glides are joints across which a vector may jump along them, but not through them.
	Glides [][]int32
	// Patches are sets of facets that a displacement moves as one.
	Patches []Patch
	// Level are sets of facets on each of which the field has one value that is not
	// known.
	Level [][]int32
	// Even says that it has one value, which is not known, in all that it lives in.
	Even bool
	// Multiplier says that it stands in none of its own equations: it is what makes others hold, such as a
	// pressure that keeps a fluid from being made or lost.
	Multiplier bool
	// Pins are sets of bodies in each of which nothing fixes the level of the field: the first of its
	// unknowns there is held at nothing.
	Pins [][]int32
	// Repeats are where the field has the same values as elsewhere.
	Repeats []Repeat
	// Jumps are the joints across which the field may jump; across the others it is
	// continuous.
	Jumps []int32
}

// moves says that it changes in time at a rate of any order.
func (f *Field) moves() bool { return f.Changes || f.Inertial }

// Held is a component of a field held on facets.
type Held struct {
	Facets    []int32
	Component int
	Value     law.Law // of the place and the time
	// Rim says that it is held at the edges alone at which these facets end, but for those where Open ones begin.
	Rim  bool
	Open []int32
	// AtStart says that it is held as time begins alone, while fields are found that begin steady.
	AtStart bool
	// Offset is added to it.
	Offset float64
	// Shape multiplies it at each place; nil is 1 everywhere.
	Shape func(x [3]float64) float64
	// Least is the bound that the value may not fall below; What is its name.
	Least float64
	What  string
	// Key is that of the sentence behind it.
	Key string

	field int
	nodes []int32
}

// Slide is a set of facets along which a vector may go, and not through them, with the key of
// the sentence behind it.
type Slide struct {
	Facets []int32
	Key    string
	// Direction, if it is not nil, is that in which the vector is held instead of the normal, by the place, of any length;
	// where it has none the vector is not held. Value is at what; nil is nothing.
	Direction func(x [3]float64) [3]float64
	Value     law.Law
}

// Patch is a set of facets that a displacement moves as one; Round says that it is one of an axial space, which can move
// along its axis alone.
type Patch struct {
	Facets []int32
	Round  bool
}

// Settings of [NewGround]. The zero value works.
type Settings struct {
	// Order of the elements: 1 or 2; 0 means 1.
	Order int
	// Facets with conditions, and those across which fields may jump.
	Facets, Joints []int32
	// Measure turns integrals over a flat mesh into those over the device; nil is 1.
	Measure func(x [3]float64) float64
}

// NewGround prepares a mesh, with its number of bodies, for groups. The mesh is cut along the
// joints.
func NewGround(m *mesh.Mesh, bodies int, fields []Field, set *Settings) *Ground {
	g := &Ground{Mesh: m, Fields: slices.Clone(fields), Facets: set.Facets, Joints: set.Joints, bodies: bodies}
	m.Cut(set.Joints)
	g.grid = fem.FromMesh(m)
	if set.Order == 2 {
		g.grid = g.grid.Elevated(m.Curve())
	}
	g.grid.Measure = set.Measure
	for k := range m.Facets {
		f := &m.Facets[k]
		g.sides = append(g.sides, g.sideOf(f.Cell, f.Corners(), f.OtherBody))
	}
	for i := range g.Fields {
		g.Fields[i].Components = max(1, g.Fields[i].Components)
	}
	return g
}

// Group prepares some of the fields to be solved together.
func (g *Ground) Group(own ...int) (*Group, error) {
	out := &Group{Ground: g, Own: own}
	s := &fem.SystemSettings{Level: map[int][][]int32{}}
	for _, k := range g.Facets {
		s.Sides = append(s.Sides, g.sides[k])
	}
	for _, k := range g.Joints {
		s.Joints = append(s.Joints, fem.Joint{A: g.sides[k], B: g.beyond(k)})
	}
	var list []fem.Field
	for i := range g.Fields {
		f := &g.Fields[i]
		given := !slices.Contains(own, i)
		own := fem.Field{Name: f.Name, Components: f.Components, Order: f.Order, Parts: f.Bodies, Given: given}
		if f.Facets != nil {
			own.On = []fem.Side{}
			for _, k := range f.Facets {
				own.On = append(own.On, g.sides[k])
			}
		}
		list = append(list, own)
		if given {
			continue
		}
		s.Level[i] = g.levels(f)
		for _, h := range f.Held {
			h.field, h.nodes = i, nodesOf(g.grid, g.sides, h.Facets)
			if h.Rim {
				h.nodes = g.rim(h.Facets, h.Open)
			}
			out.held = append(out.held, h)
		}
	}
	for _, i := range own {
		for _, fed := range g.Fields[i].Fed {
			fed.field = i
			g.fedOf(&g.Fields[i], &fed)
			out.fed = append(out.fed, fed)
		}
	}
	var err error
	if s.Ties, err = g.ties(own); err != nil {
		return nil, err
	}
	if out.System, err = fem.NewSystem(g.grid, list, s); err != nil {
		return nil, err
	}
	for k := range law.Named {
		component := -1
		if i := slices.IndexFunc(g.Fields, func(f Field) bool { return f.Name == law.NameOf(k) }); i >= 0 {
			component = out.System.First[i]
		}
		out.System.Named = append(out.System.Named, component)
	}
	if g.Volume == nil {
		if err := out.measure(g.bodies); err != nil {
			return nil, err
		}
	}
	if err := out.findSlides(); err != nil {
		return nil, err
	}
	return out, out.join()
}

// ramp is the part of what displacements are held at that acts.
func (g *Group) ramp() float64 {
	if g.Part == 0 {
		return 1
	}
	return g.Part
}

// New prepares a group of all fields.
func New(m *mesh.Mesh, bodies int, fields []Field, set *Settings) (*Group, error) {
	all := make([]int, len(fields))
	for i := range all {
		all[i] = i
	}
	return NewGround(m, bodies, fields, set).Group(all...)
}

// levels are the sets of nodes on which a field has one value: those of its level
// facets, and the nodes on the two sides of joints across which it does not jump.
func (g *Ground) levels(f *Field) [][]int32 {
	grid := g.grid
	parent := map[int32]int32{}
	find := func(v int32) int32 {
		for {
			p, ok := parent[v]
			if !ok || p == v {
				return v
			}
			v = p
		}
	}
	join := func(a, b int32) {
		if a, b = find(a), find(b); a != b {
			parent[a], parent[b] = b, b
		}
	}
	for _, facets := range f.Level {
		nodes := nodesOf(grid, g.sides, facets)
		for _, v := range nodes {
			join(v, nodes[0])
		}
	}
	if f.Even && f.Facets != nil {
		nodes := nodesOf(grid, g.sides, f.Facets)
		for _, v := range nodes {
			join(v, nodes[0])
		}
	} else if first := int32(-1); f.Even {
		for body := range int32(g.bodies) {
			if f.Bodies == nil || f.Bodies[body] {
				g.eachCellOf(body, func(nodes []int32) {
					if first < 0 {
						first = nodes[0]
					}
					for _, v := range nodes {
						join(v, first)
					}
				})
			}
		}
	}
	jumps := map[int32]bool{}
	for _, list := range append([][]int32{f.Jumps}, f.Glides...) {
		for _, k := range list {
			jumps[k] = true
		}
	}
	for _, k := range g.Joints {
		if jumps[k] || f.Facets != nil || f.Bodies != nil && (!f.Bodies[g.Mesh.Facets[k].Body] || !f.Bodies[g.Mesh.Facets[k].OtherBody]) {
			continue
		}
		here, there := grid.SideNodes(g.sides[k]), grid.SideNodes(g.beyond(k))
		for _, a := range here {
			for _, b := range there {
				if a != b && grid.At(a) == grid.At(b) {
					join(a, b)
				}
			}
		}
	}
	sets := map[int32][]int32{}
	nodes := make([]int32, 0, len(parent))
	for v := range parent {
		nodes = append(nodes, v)
	}
	slices.Sort(nodes)
	var roots []int32
	for _, v := range nodes {
		root := find(v)
		if sets[root] == nil {
			roots = append(roots, root)
		}
		sets[root] = append(sets[root], v)
	}
	var list [][]int32
	for _, r := range roots {
		if len(sets[r]) > 1 {
			list = append(list, sets[r])
		}
	}
	return list
}

// Grid is that of the elements.
func (g *Ground) Grid() *fem.Grid { return g.grid }

// Side is a facet of the mesh as a side of its cell, or of the one beyond it.
func (g *Ground) Side(k int32, beyond bool) fem.Side {
	if beyond {
		return g.beyond(k)
	}
	return g.sides[k]
}

// eachCellOf calls f for the cells of a body with their nodes.
func (g *Ground) eachCellOf(body int32, f func(nodes []int32)) {
	if g.cells == nil {
		g.cells = g.grid.ByPart(g.bodies)
	}
	for _, c := range g.cells[body] {
		f(g.grid.Blocks[c.Block].Nodes(int(c.Cell)))
	}
}

// beyond is the side of the cell beyond a facet.
func (g *Ground) beyond(k int32) fem.Side {
	f := &g.Mesh.Facets[k]
	return g.sideOf(f.Other, g.Mesh.CornersFrom(k, true), f.Body)
}

// sideOf is the side of a cell with some corners, to a body beyond it.
func (g *Ground) sideOf(cell int32, corners []int32, other int32) fem.Side {
	block, number := g.Mesh.Find(cell)
	return fem.Side{Block: block, Cell: number, Facet: g.Mesh.SideOf(cell, corners), Other: other}
}

// seen is a facet from the side of some bodies.
func (g *Ground) seen(k int32, bodies map[int32]bool) fem.Side {
	if f := &g.Mesh.Facets[k]; f.Other >= 0 && !bodies[f.Body] {
		return g.beyond(k)
	}
	return g.sides[k]
}

func nodesOf(grid *fem.Grid, sides []fem.Side, facets []int32) []int32 {
	var list []int32
	seen := map[int32]bool{}
	for _, k := range facets {
		for _, v := range grid.SideNodes(sides[k]) {
			if !seen[v] {
				seen[v] = true
				list = append(list, v)
			}
		}
	}
	return list
}

// measure finds volumes and areas.
func (g *Group) measure(bodies int) error {
	g.Volume, g.Area = make([]float64, bodies), make([]float64, len(g.Mesh.Facets))
	at := &fem.State{U: make([]float64, g.System.N)}
	var shares [][]float64
	err := g.System.AllCells(at, nil, func(int) func([]fem.Point, []float64) error {
		share := make([]float64, bodies)
		shares = append(shares, share)
		return func(points []fem.Point, weights []float64) error {
			for i, w := range weights {
				share[points[i].Part] += w
			}
			return nil
		}
	})
	if err != nil {
		return err
	}
	for _, share := range shares {
		for b, v := range share {
			g.Volume[b] += v
		}
	}
	for n, k := range g.Facets {
		if g.Area[k], err = g.System.FaceArea(n); err != nil {
			return err
		}
	}
	return nil
}

// SideOf returns the side of the system that a facet with conditions is.
func (g *Ground) SideOf() map[int32]int {
	side := map[int32]int{}
	for n, f := range g.Facets {
		side[f] = n
	}
	return side
}

// JointsOf returns, for each joint, which of some lists of facets it is in, −1 for
// none; the last one counts.
func (g *Ground) JointsOf(lists [][]int32) []int {
	of := map[int32]int{}
	for i, list := range lists {
		for _, f := range list {
			of[f] = i
		}
	}
	out := make([]int, len(g.Joints))
	for n, f := range g.Joints {
		out[n] = -1
		if i, ok := of[f]; ok {
			out[n] = i
		}
	}
	return out
}

// AreaOf is the area of facets together, m².
func (g *Ground) AreaOf(facets []int32) float64 {
	var sum float64
	for _, k := range facets {
		sum += g.Area[k]
	}
	return sum
}

// VolumeOf is the volume of bodies together, m³.
func (g *Ground) VolumeOf(bodies []int32) float64 {
	var sum float64
	for _, b := range bodies {
		sum += g.Volume[b]
	}
	return sum
}

// hold sets the constraints at a time.
func (g *Group) hold(time float64, c *fem.Constraints) error { return g.holdAt(time, 0, c) }

// holdAt sets them where what swings is out of its middle.
func (g *Group) holdAt(time, swing float64, c *fem.Constraints) error {
	for i := range g.held {
		h := &g.held[i]
		if h.AtStart && !g.starting {
			continue
		}
		set := law.NewSet(h.Value)
		points := make([]fem.Point, len(h.nodes))
		for j, v := range h.nodes {
			points[j] = fem.Point{X: g.System.Grid.At(v), Time: time, Swing: swing}
		}
		set.Run(points, -1)
		for j, v := range h.nodes {
			value := set.At(0, j) + h.Offset
			if g.Fields[h.field].Rigid {
				value *= g.ramp()
			}
			if h.Shape != nil {
				value *= h.Shape(points[j].X)
			}
			if !(value >= h.Least) || math.IsInf(value, 0) {
				return &law.Error{Body: -1, What: h.What, Value: value}
			}
			if e := g.System.Equation(h.field, h.Component, v); e >= 0 {
				c.Fixed[e], c.Value[e] = true, value
			}
		}
	}
	for _, f := range g.Own {
		for _, bodies := range g.Fields[f].Pins {
			if e := g.firstOf(f, bodies); e >= 0 {
				c.Fixed[e], c.Value[e] = true, 0
			}
		}
	}
	load, err := g.load(time, swing)
	if err != nil {
		return err
	}
	c.Relations, c.Load = c.Relations[:0], load
	for i := range g.slides {
		list, err := g.relationsAt(&g.slides[i], time, swing)
		if err != nil {
			return err
		}
		c.Relations = append(c.Relations, list...)
	}
	c.Relations = append(c.Relations, g.joined...)
	return nil
}

// firstOf is the first equation of a field in some bodies, −1 if there is none.
func (g *Group) firstOf(field int, bodies []int32) int32 {
	first := int32(-1)
	for _, body := range bodies {
		g.eachCellOf(body, func(nodes []int32) {
			for _, v := range nodes {
				if e := g.System.Equation(field, 0, v); e >= 0 && (first < 0 || e < first) {
					first = e
				}
			}
		})
	}
	return first
}

// Lives says whether a field is solved for in a body. One that lives on facets is not.
func (g *Ground) Lives(field int, body int32) bool {
	return g.Fields[field].Facets == nil && g.Touches(field, body)
}

// Touches says whether a field is solved for in a body, or on facets of it.
func (g *Ground) Touches(field int, body int32) bool {
	parts := g.Fields[field].Bodies
	return parts == nil || parts[body]
}
