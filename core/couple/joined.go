package couple

import (
	"errors"
	"math"
	"slices"

	"saltkettle/core/fem"
)

// glide is a pair of nodes on the two sides of a joint that keep together along a normal.
type glide struct {
	field  int
	a, b   int32
	normal [3]float64
}

// join finds the relations of patches that move as one, and of what glides along joints.
func (g *Group) join() error {
	for _, f := range g.Own {
		for _, joints := range g.Fields[f].Glides {
			if err := g.glideAlong(f, joints); err != nil {
				return err
			}
		}
		for i := range g.Fields[f].Patches {
			if err := g.moveAsOne(f, &g.Fields[f].Patches[i]); err != nil {
				return err
			}
		}
	}
	return nil
}

// glideAlong keeps the two sides of joints together along the normals at their nodes.
func (g *Group) glideAlong(f int, joints []int32) error {
	normals, partner := map[int32][3]float64{}, map[int32]int32{}
	var order []int32
	sides := make([]fem.Side, len(joints))
	for i, k := range joints {
		sides[i] = g.sides[k]
	}
	err := g.System.EachSide(&fem.State{U: make([]float64, g.System.N)}, sides, func(i int, points []fem.Point, weights []float64) error {
		for _, v := range g.grid.SideNodes(sides[i]) {
			n := normals[v]
			for q, w := range weights {
				for d, x := range points[q].Normal {
					n[d] += w * x
				}
			}
			normals[v] = n
		}
		return nil
	})
	if err != nil {
		return err
	}
	for _, k := range joints {
		there := g.grid.SideNodes(g.beyond(k))
		for _, a := range g.grid.SideNodes(g.sides[k]) {
			for _, b := range there {
				if _, known := partner[a]; !known && a != b && g.grid.At(a) == g.grid.At(b) {
					partner[a] = b
					order = append(order, a)
				}
			}
		}
	}
	components := g.Fields[f].Components
	for _, a := range order {
		b, n := partner[a], normals[a]
		size := math.Sqrt(n[0]*n[0] + n[1]*n[1] + n[2]*n[2])
		if size == 0 || g.System.Equation(f, 0, a) == g.System.Equation(f, 0, b) {
			continue // where the joint ends
		}
		of := 0
		for d := range components {
			if n[d] /= size; math.Abs(n[d]) > math.Abs(n[of]) {
				of = d
			}
		}
		r := fem.Relation{Of: g.System.Equation(f, of, a)}
		for d := range components {
			if d != of && n[d] != 0 {
				r.By, r.Factors = append(r.By, g.System.Equation(f, d, a)), append(r.Factors, -n[d]/n[of])
			}
			if n[d] != 0 {
				r.By, r.Factors = append(r.By, g.System.Equation(f, d, b)), append(r.Factors, n[d]/n[of])
			}
		}
		g.joined = append(g.joined, r)
		g.glides = append(g.glides, glide{f, a, b, n})
	}
	return nil
}

// moveAsOne lets the nodes of facets move as a rigid body: all follow from as many unknowns as that has motions, of which
// those are taken that say most of it.
func (g *Group) moveAsOne(f int, patch *Patch) error {
	var nodes []int32
	for _, v := range nodesOf(g.grid, g.sides, patch.Facets) {
		if g.System.Equation(f, 0, v) >= 0 {
			nodes = append(nodes, v)
		}
	}
	g.asOne = append(g.asOne, asOne{f, nodes})
	n := g.Fields[f].Components
	var middle [3]float64
	for _, v := range nodes {
		x := g.grid.At(v)
		for d := range x {
			middle[d] += x[d] / float64(len(nodes))
		}
	}
	size := 0.0
	at := func(v int32) (x [3]float64) {
		x = g.grid.At(v)
		for d := range x {
			x[d] -= middle[d]
			if size > 0 {
				x[d] /= size
			}
		}
		return x
	}
	for _, v := range nodes {
		x := at(v)
		size = max(size, math.Sqrt(x[0]*x[0]+x[1]*x[1]+x[2]*x[2]))
	}
	if len(nodes) == 0 || size == 0 {
		return errors.New("couple: a patch that moves as one has no extent")
	}
	type unknown struct {
		equation int32
		row      []float64
	}
	var list []unknown
	for _, v := range nodes {
		for c := range n {
			list = append(list, unknown{g.System.Equation(f, c, v), motions(at(v), c, n, patch.Round)})
		}
	}
	// The unknowns that say most, by orthogonalisation with pivoting.
	most := len(list[0].row)
	rest := make([][]float64, len(list))
	for i := range list {
		rest[i] = slices.Clone(list[i].row)
	}
	var chosen []int
	for range most {
		best, largest := -1, 0.0
		for i, r := range rest {
			sum := 0.0
			for _, x := range r {
				sum += x * x
			}
			if sum > largest*(1+1e-9) {
				best, largest = i, sum
			}
		}
		if best < 0 || largest < 1e-12 {
			break // on a line nothing says how it turns about that
		}
		q := slices.Clone(rest[best])
		for i := range q {
			q[i] /= math.Sqrt(largest)
		}
		for _, r := range rest {
			dot := 0.0
			for i := range r {
				dot += r[i] * q[i]
			}
			for i := range r {
				r[i] -= dot * q[i]
			}
		}
		chosen = append(chosen, best)
	}
	var rows [][]float64
	for _, i := range chosen {
		rows = append(rows, list[i].row)
	}
	for i := range list {
		if slices.Contains(chosen, i) {
			continue
		}
		r := fem.Relation{Of: list[i].equation}
		for m, x := range combine(rows, list[i].row) {
			if math.Abs(x) > 1e-12 {
				r.By, r.Factors = append(r.By, list[chosen[m]].equation), append(r.Factors, x)
			}
		}
		g.joined = append(g.joined, r)
	}
	return nil
}

// combine finds the factors by which rows, which are independent, make up another one, by the normal equations.
func combine(rows [][]float64, row []float64) []float64 {
	n := len(rows)
	a := make([][]float64, n)
	for i := range a {
		a[i] = make([]float64, n+1)
		for k, x := range rows[i] {
			for j := range n {
				a[i][j] += x * rows[j][k]
			}
			a[i][n] += x * row[k]
		}
	}
	for i := range n {
		best := i
		for k := i + 1; k < n; k++ {
			if math.Abs(a[k][i]) > math.Abs(a[best][i]) {
				best = k
			}
		}
		a[i], a[best] = a[best], a[i]
		for k := range n {
			if k == i {
				continue
			}
			f := a[k][i] / a[i][i]
			for j := i; j <= n; j++ {
				a[k][j] -= f * a[i][j]
			}
		}
	}
	out := make([]float64, n)
	for i := range out {
		out[i] = a[i][n] / a[i][i]
	}
	return out
}

// asOne is a patch that moves as one.
type asOne struct {
	field int
	nodes []int32
}

// unjoined takes out of what held unknowns take up what nodes that are joined to them do to them: of pairs that glide along
// each other that along the normal; of a patch that moves as one all goes, by component, to its nodes that are held.
func (g *Group) unjoined(reaction []float64) {
	if len(g.glides)+len(g.asOne) == 0 {
		return
	}
	fixed := g.fixed()
	for _, p := range g.glides {
		n := g.Fields[p.field].Components
		a, b := p.a, p.b
		for c := range n {
			if fixed[g.System.Equation(p.field, c, b)] {
				a, b = b, a // it is the other one that says what passes
				break
			}
		}
		passes := 0.0
		for c := range n {
			passes -= p.normal[c] * reaction[g.System.Equation(p.field, c, b)]
		}
		for c := range n {
			reaction[g.System.Equation(p.field, c, a)] -= passes * p.normal[c]
			reaction[g.System.Equation(p.field, c, b)] += passes * p.normal[c]
		}
	}
	for _, p := range g.asOne {
		for c := range g.Fields[p.field].Components {
			sum, held := 0.0, 0
			for _, v := range p.nodes {
				if e := g.System.Equation(p.field, c, v); fixed[e] {
					held++
				} else {
					sum += reaction[e]
					reaction[e] = 0
				}
			}
			for _, v := range p.nodes {
				if e := g.System.Equation(p.field, c, v); fixed[e] {
					reaction[e] += sum / float64(held)
				}
			}
		}
	}
}
