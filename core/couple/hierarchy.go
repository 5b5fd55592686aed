package couple

import (
	"saltkettle/core/fem"
	"saltkettle/core/sparse"
)

// hierarchy is what multigrid is to know of the equations of a group of one field, of whose unknowns some are held.
func (g *Group) hierarchy(fixed []bool) *sparse.AMGSettings {
	set := &sparse.AMGSettings{Lower: g.lower(fixed)}
	f := g.Own[0]
	if !g.Fields[f].Rigid {
		return set
	}
	n := g.Fields[f].Components
	points := make([]float64, g.System.N)
	for v := range int32(g.System.Grid.NodeCount()) {
		x := g.System.Grid.At(v)
		for c := range n {
			if e := g.System.Equation(f, c, v); e >= 0 {
				points[e] = x[c]
			}
		}
	}
	set.Near, set.PerNode = sparse.RigidMotions(points, n), n
	return set
}

// lower leads from functions of order 1 to those of order 2: at corners they are the same, and elsewhere they follow from
// the corners of a cell. Nothing follows from what is held. It is nil if all functions are of order 1.
func (g *Group) lower(fixed []bool) *sparse.Transfer {
	f, grid, n := g.Own[0], g.System.Grid, g.System.N
	components := g.Fields[f].Components
	const none = -1
	corner := make([]bool, n)
	type between struct {
		nodes   []int32
		weights []float64
	}
	parents := make([]between, n)
	some := false
	for bi := range grid.Blocks {
		b := &grid.Blocks[bi]
		e := b.Element
		if e.Order == 1 {
			continue
		}
		low := fem.NewElement(e.Form, 1)
		weights := make([][]float64, e.Count())
		for i := e.Corners; i < e.Count(); i++ {
			weights[i] = make([]float64, e.Corners)
			low.Shape(e.Nodes[i], weights[i], make([][3]float64, e.Corners))
		}
		for cell, body := range b.Part {
			if !g.Lives(f, body) {
				continue
			}
			nodes := b.Nodes(cell)
			for i, v := range nodes {
				first := g.System.Equation(f, 0, v)
				switch {
				case first < 0:
				case i < e.Corners:
					corner[first] = true
				case parents[first].nodes == nil:
					parents[first] = between{nodes[:e.Corners], weights[i]}
					some = true
				}
			}
		}
	}
	if !some {
		return nil
	}
	t := &sparse.Transfer{Rows: make([]int32, n+1)}
	number := make([]int32, n)
	for e := range number {
		number[e] = none
	}
	for e, is := range corner {
		for c := range components {
			if is {
				number[e+c] = int32(t.Width)
				t.Kept = append(t.Kept, int32(e+c))
				t.Width++
			}
		}
	}
	for e := 0; e < n; e += components {
		for c := range components {
			switch of := parents[e]; {
			case number[e] >= 0:
				t.Cols, t.Data = append(t.Cols, number[e+c]), append(t.Data, 1)
			case fixed[e+c] || of.nodes == nil:
			default:
				for k, v := range of.nodes {
					from := g.System.Equation(f, c, v)
					if w := of.weights[k]; w != 0 && !fixed[from] {
						t.Cols, t.Data = append(t.Cols, number[from]), append(t.Data, w)
					}
				}
			}
			t.Rows[e+c+1] = int32(len(t.Cols))
		}
	}
	return t
}
