package couple

import (
	"cmp"
	"math"
	"slices"

	"saltkettle/core/fem"
	"saltkettle/core/law"
)

// slide is a set of facets at which one direction of a vector is held: of those along which it may go and not through them
// the normal.
type slide struct {
	key       string
	field     int
	relations []fem.Relation
	normals   map[int32][3]float64 // by node
	// Of what is held at a value: that, and by relation its node and what it is divided by.
	value law.Law
	nodes []int32
	by    []float64
}

// relationsAt are the relations of a slide at a moment.
func (g *Group) relationsAt(s *slide, time, swing float64) ([]fem.Relation, error) {
	if s.value == nil {
		return s.relations, nil
	}
	set := law.NewSet(s.value)
	points := make([]fem.Point, len(s.nodes))
	for i, v := range s.nodes {
		points[i] = fem.Point{X: g.System.Grid.At(v), Time: time, Swing: swing}
	}
	set.Run(points, -1)
	out := slices.Clone(s.relations)
	for i := range out {
		value := g.ramp() * set.At(0, i)
		if math.IsNaN(value) || math.IsInf(value, 0) {
			return nil, &law.Error{Body: -1, What: g.Fields[s.field].Name, Value: value}
		}
		out[i].Value = value / s.by[i]
	}
	return out, nil
}

// leastNormal is how long the sum of the normals at a node may be, relative to that of their
// lengths, for the node to have a normal: where a patch folds back on itself it has none.
const leastNormal = 1e-3

// findSlides finds the normals at the nodes of all slides and what follows from them: n·u = 0,
// with the normal that the functions of the nodes see, so that nothing passes in all.
func (g *Group) findSlides() error {
	side := g.SideOf()
	for _, f := range g.Own {
		for _, on := range g.Fields[f].Slides {
			facets := on.Facets
			s := slide{key: on.Key, field: f, value: on.Value, normals: map[int32][3]float64{}}
			if on.Direction != nil {
				g.findDirections(&s, &on)
				g.slides = append(g.slides, s)
				continue
			}
			var numbers []int32
			for _, k := range facets {
				numbers = append(numbers, int32(side[k]))
			}
			first := map[int32]int32{} // node of an equation of component 0
			for _, k := range facets {
				for _, v := range g.grid.SideNodes(g.sides[k]) {
					if e := g.System.Equation(f, 0, v); e >= 0 {
						first[e] = v
					}
				}
			}
			lengths := map[int32]float64{}
			err := g.System.EachFace(&fem.State{U: make([]float64, g.System.N)}, numbers, f, func(_ int, points []fem.Point, weights []float64, eqs []int32, functions [][]float64) error {
				for i, e := range eqs {
					v := first[e]
					n := s.normals[v]
					for q, w := range weights {
						// Squares, as functions of order 2 may have no integral at corners.
						w *= functions[q][i] * functions[q][i]
						for d, x := range points[q].Normal {
							n[d] += w * x
						}
						lengths[v] += w
					}
					s.normals[v] = n
				}
				return nil
			})
			if err != nil {
				return err
			}
			for _, k := range facets {
				for _, v := range g.grid.SideNodes(g.sides[k]) {
					g.relate(&s, v, lengths)
				}
			}
			g.slides = append(g.slides, s)
		}
	}
	return nil
}

// findDirections finds the directions of a slide that has some of its own, and what follows from them.
func (g *Group) findDirections(s *slide, on *Slide) {
	lengths := map[int32]float64{}
	nodes := nodesOf(g.grid, g.sides, on.Facets)
	for _, v := range nodes {
		if g.System.Equation(s.field, 0, v) >= 0 {
			s.normals[v], lengths[v] = on.Direction(g.grid.At(v)), 1
		}
	}
	for _, v := range nodes {
		g.relate(s, v, lengths)
	}
}

// relate adds the relation of a node, once.
func (g *Group) relate(s *slide, v int32, lengths map[int32]float64) {
	length, ok := lengths[v]
	if !ok {
		return
	}
	delete(lengths, v)
	n := s.normals[v]
	size := math.Sqrt(n[0]*n[0] + n[1]*n[1] + n[2]*n[2])
	if size < leastNormal*length {
		delete(s.normals, v)
		return
	}
	of := 0
	for d := range n {
		if n[d] /= size; math.Abs(n[d]) < alike {
			n[d] = 0 // round-off
		}
		if d < g.Fields[s.field].Components && math.Abs(n[d]) > math.Abs(n[of]) {
			of = d
		}
	}
	s.normals[v] = n
	r := fem.Relation{Of: g.System.Equation(s.field, of, v)}
	for d := range g.Fields[s.field].Components {
		if d != of && n[d] != 0 {
			r.By, r.Factors = append(r.By, g.System.Equation(s.field, d, v)), append(r.Factors, -n[d]/n[of])
		}
	}
	s.relations, s.nodes, s.by = append(s.relations, r), append(s.nodes, v), append(s.by, n[of])
}

// holding are the directions in which a node is held: by slides, by their numbers, and by held
// components.
type holding struct {
	slides     []int
	components []int
}

// alike is the part of its length by which two directions must differ to count as two.
const alike = 1e-10

// slid divides what is taken up at the nodes of slides between these, along their normals, and
// the components that are held there, and returns it by slide and component. Where a component
// is held it leaves in reaction what that has of it.
func (g *Group) slid(reaction []float64) [][3]float64 {
	out := make([][3]float64, len(g.slides))
	fixed := g.fixed()
	type place struct {
		field int
		node  int32
	}
	at := map[place]*holding{}
	var order []place
	for i := range g.slides {
		for v := range g.slides[i].normals {
			p := place{g.slides[i].field, v}
			if at[p] == nil {
				at[p] = &holding{}
				for d := range g.Fields[p.field].Components {
					if fixed[g.System.Equation(p.field, d, v)] {
						at[p].components = append(at[p].components, d)
					}
				}
				order = append(order, p)
			}
			at[p].slides = append(at[p].slides, i)
		}
	}
	// Sums do not depend on the order of a map.
	slices.SortFunc(order, func(a, b place) int { return cmp.Or(a.field-b.field, int(a.node-b.node)) })
	for _, p := range order {
		h := at[p]
		var directions [][3]float64
		for _, i := range h.slides {
			directions = append(directions, g.slides[i].normals[p.node])
		}
		for _, d := range h.components {
			var axis [3]float64
			axis[d] = 1
			directions = append(directions, axis)
		}
		var force [3]float64
		for d := range g.Fields[p.field].Components {
			force[d] = reaction[g.System.Equation(p.field, d, p.node)]
		}
		for k, part := range along(directions, force) {
			if k < len(h.slides) {
				for d := range part {
					out[h.slides[k]][d] += part[d]
				}
				continue
			}
			d := h.components[k-len(h.slides)]
			reaction[g.System.Equation(p.field, d, p.node)] = part[d]
		}
	}
	return out
}

// along divides a vector into parts along directions of length one, of which those that follow
// from the ones before them get nothing.
func along(directions [][3]float64, v [3]float64) [][3]float64 {
	n := len(directions)
	dot := func(a, b [3]float64) float64 { return a[0]*b[0] + a[1]*b[1] + a[2]*b[2] }
	// The normal equations of the least misfit, by Cholesky's method.
	l, y := make([]float64, n*n), make([]float64, n)
	for i := range n {
		for j := range i + 1 {
			sum := dot(directions[i], directions[j])
			for k := range j {
				sum -= l[i*n+k] * l[j*n+k]
			}
			switch {
			case i == j && sum > alike:
				l[i*n+i] = math.Sqrt(sum)
			case i != j && l[j*n+j] > 0:
				l[i*n+j] = sum / l[j*n+j]
			}
		}
		if l[i*n+i] > 0 {
			sum := dot(directions[i], v)
			for k := range i {
				sum -= l[i*n+k] * y[k]
			}
			y[i] = sum / l[i*n+i]
		}
	}
	parts := make([][3]float64, n)
	for i := n - 1; i >= 0; i-- {
		if l[i*n+i] == 0 {
			y[i] = 0
			continue
		}
		for k := i + 1; k < n; k++ {
			y[i] -= l[k*n+i] * y[k]
		}
		y[i] /= l[i*n+i]
		for d, x := range directions[i] {
			parts[i][d] = y[i] * x
		}
	}
	return parts
}
