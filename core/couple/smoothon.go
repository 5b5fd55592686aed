package couple

import (
	"math"

	"saltkettle/core/fem"
)

// nothing is the part of its greatest value below which a value is round-off.
const nothing = 1e-12

// smoothOn is [Solution.Smooth] of a kernel whose field lives on facets: on each facet what comes nearest to the values at its points, and at each node the
// mean of these by the areas of the facets there.
func (s *Solution) smoothOn(k Deriver, field, quantities int, points *fem.Points) ([][]float64, error) {
	var sides []fem.Side
	for _, f := range s.Fields[field].Facets {
		sides = append(sides, s.sides[f])
	}
	sums, shares := make([]map[int32]float64, quantities), map[int32]float64{}
	values := make([][]float64, quantities)
	for i := range sums {
		sums[i] = map[int32]float64{}
	}
	err := s.System.EachSide(s.State, sides, func(_ int, at []fem.Point, weights []float64) error {
		for i := range values {
			values[i] = append(values[i][:0], make([]float64, len(at))...)
		}
		if err := k.Derive(at, values); err != nil {
			return err
		}
		var nodes []int32
		var rows [][]float64
		for n, v := range at[0].Nodes {
			row, some := make([]float64, len(at)), false
			for q := range at {
				row[q] = at[q].Functions[n]
				some = some || math.Abs(row[q]) > 1e-12
			}
			if some {
				nodes, rows = append(nodes, v), append(rows, row)
			}
		}
		area := 0.
		for _, w := range weights {
			area += w
		}
		for _, v := range nodes {
			shares[v] += area
		}
		for i := range sums {
			for n, x := range combine(rows, values[i]) {
				sums[i][nodes[n]] += area * x
			}
		}
		return nil
	})
	if err != nil {
		return nil, err
	}
	out := make([][]float64, quantities)
	for i := range out {
		most := 0.
		for v, sum := range sums[i] {
			most = max(most, math.Abs(sum/shares[v]))
		}
		out[i] = make([]float64, len(points.Node))
		for n, v := range points.Node {
			out[i][n] = math.NaN()
			if share := shares[v]; share > 0 && s.Touches(field, points.Part[n]) {
				if out[i][n] = sums[i][v] / share; math.Abs(out[i][n]) < nothing*most {
					out[i][n] = 0
				}
			}
		}
	}
	return out, nil
}
