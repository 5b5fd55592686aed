package couple

import (
	"context"
	"slices"

	"saltkettle/core/fem"
)

// manyUnknowns is from how many on a field of order 2 whose energy is convex is first looked for with order 1: most steps of Newton's method
// then cost a tenth, and a few are left.
const manyUnknowns = 20000

// lowerTolerance is how small the residual of what is looked for first is to be.
const lowerTolerance = 1e-4

// lowerFirst is what a solution of order 2 of so many unknowns at least may begin with: that of order 1 on the same cells; nil where it
// would be of no help.
func (g *Group) lowerFirst(ctx context.Context, kernel fem.Kernel, set *SolveSettings, many int) ([]float64, error) {
	f := g.Own[0]
	field := &g.Fields[f]
	higher := slices.ContainsFunc(g.grid.Blocks, func(b fem.Block) bool { return b.Element.Order > 1 })
	if set.From != nil || set.Straight || len(g.Own) > 1 || field.Components > 1 || field.Order == 1 || !higher || g.System.N < many || !fem.Descends(kernel) {
		return nil, nil
	}
	ground := *g.Ground
	ground.Fields = slices.Clone(g.Fields)
	ground.Fields[f].Order = 1
	low, err := ground.Group(f)
	if err != nil {
		return nil, err
	}
	begin := *set
	begin.Tolerance = lowerTolerance
	s, err := low.Solve(ctx, kernel, &begin)
	if err != nil || !s.Settled {
		return nil, err
	}
	values, points := s.Nodal(f), make([][]int32, len(g.grid.Blocks))
	for i := range g.grid.Blocks {
		points[i] = g.grid.Blocks[i].Cells
	}
	g.grid.Straighten(field.Bodies, points, [][]float64{values})
	u := make([]float64, g.System.N)
	for v, x := range values {
		if e := g.System.Equation(f, 0, int32(v)); e >= 0 {
			u[e] = x
		}
	}
	return u, nil
}
