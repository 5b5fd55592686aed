package result

import (
	"errors"
	"math"
	"slices"

	"saltkettle/core/sparse"
)

// likenessPoints is at how many points of a result at most the shapes of its modes are compared with others.
const likenessPoints = 4000

// Likeness says how alike the shapes of the modes of two results are, by mode of the first and of the second: 1 if they are
// the same but for a factor, 0 if they have nothing in common. It is |φ·ψ|²/((φ·φ)·(ψ·ψ)), the assurance criterion of modes (R. J.
// Allemang, D. L. Brown, Proc. 1st Int. Modal Analysis Conf., 1982, 110). Where the device of the second has another size,
// its shape is taken to be stretched along the axes to that of the first.
func Likeness(first, second *Reader) ([][]float64, error) {
	names := first.components()
	if len(names) == 0 || !slices.Equal(names, second.components()) {
		return nil, errors.New("the two results have no modes of the same kind")
	}
	nodes, other := first.Cells.Nodes, second.Cells.Nodes
	step := max(1, len(nodes)/3/likenessPoints)
	a0, a1 := bounds(nodes)
	b0, b1 := bounds(other)
	var points []int // of the first
	var at []float64
	for i := 0; i < len(nodes)/3; i += step {
		points = append(points, i)
		for d := range 3 {
			x := nodes[3*i+d]
			if size := a1[d] - a0[d]; size > 0 {
				x = b0[d] + (x-a0[d])/size*(b1[d]-b0[d])
			}
			at = append(at, x)
		}
	}
	grid := second.Cells.Grid(nil)
	places := grid.Locate(at, nearCell)
	n, known := len(names), make([]bool, len(points)) // in both
	for k := range known {
		known[k] = true
	}
	shapes := func(r *Reader, value func(k int, values []float64) (float64, bool)) (list [][]float64, err error) {
		for m := range r.Moments {
			shape := make([]float64, n*len(points))
			for c, name := range names {
				values, err := r.Values(name, m)
				if err != nil {
					return nil, err
				}
				for k := range points {
					v, ok := value(k, values)
					if ok = ok && v == v; ok {
						shape[n*k+c] = v
					}
					known[k] = known[k] && ok
				}
			}
			list = append(list, shape)
		}
		return list, nil
	}
	mine, err := shapes(first, func(k int, values []float64) (float64, bool) { return values[points[k]], places[k].Cell >= 0 })
	if err != nil {
		return nil, err
	}
	theirs, err := shapes(second, func(k int, values []float64) (float64, bool) {
		if places[k].Cell < 0 {
			return 0, false
		}
		return grid.Blocks[places[k].Block].At(places[k], values), true
	})
	if err != nil {
		return nil, err
	}
	// On what several parts share a place may lie in one of them that has no shape.
	for _, shape := range slices.Concat(mine, theirs) {
		for k, ok := range known {
			if !ok {
				clear(shape[n*k : n*k+n])
			}
		}
	}
	out := make([][]float64, len(mine))
	for i, a := range mine {
		for _, b := range theirs {
			like := 0.0
			if size := sparse.Dot(a, a) * sparse.Dot(b, b); size > 0 {
				both := sparse.Dot(a, b)
				like = both * both / size
			}
			out[i] = append(out[i], like)
		}
	}
	return out, nil
}

// components are the names of the fields that modes are kept of.
func (r *Reader) components() (names []string) {
	for _, f := range r.Fields {
		if len(r.Modes) > 0 && f.Of != "" && !f.Derived && f.Part == "" {
			names = append(names, f.Name)
		}
	}
	return names
}

// bounds are the ends of the box round nodes.
func bounds(nodes []float64) (lo, hi [3]float64) {
	lo, hi = [3]float64{math.Inf(1), math.Inf(1), math.Inf(1)}, [3]float64{math.Inf(-1), math.Inf(-1), math.Inf(-1)}
	for i, x := range nodes {
		lo[i%3], hi[i%3] = min(lo[i%3], x), max(hi[i%3], x)
	}
	return lo, hi
}
