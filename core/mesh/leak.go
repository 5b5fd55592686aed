package mesh

import (
	"math"
	"slices"

	"saltkettle/core/parallel"
	"saltkettle/core/shape"
)

// Leak is a place where a wall passes between the middles of bricks, none of which holds
// it.
type Leak struct {
	At        [3]float64 // m
	Thickness float64    // of the wall there along a line of the grid, m
	Across    int        // axis of the line
}

// surely is how many of the eight lines beside one have to miss a wall at the same place,
// so that it is more than the rounding of an edge.
const surely = 6

// mostTests bounds how many pairs of a line and a triangle a leak is looked for among.
const mostTests = 1_000_000_000

// Leak finds the place in a mesh of bricks where the wall of a closed surface is missed
// in the widest surroundings. In very fine grids it is not looked for.
func (m *Mesh) Leak(s *shape.Surface) (Leak, bool) {
	lines := [3][]float64{nil, nil, m.Levels}
	for _, p := range m.Plan.Points {
		lines[0], lines[1] = append(lines[0], p.X), append(lines[1], p.Y)
	}
	var middles [3][]float64
	for axis, list := range lines {
		list = slices.Clone(list)
		slices.Sort(list)
		list = slices.Compact(list)
		for i := 1; i < len(list); i++ {
			middles[axis] = append(middles[axis], (list[i-1]+list[i])/2)
		}
	}
	nx, ny, nz := len(middles[0]), len(middles[1]), len(middles[2])
	if (nx*ny+ny*nz+nz*nx)*len(s.Triangles) > mostTests {
		return Leak{}, false
	}
	var best Leak
	found, most := false, surely-1
	for axis := range 3 {
		u, v := (axis+1)%3, (axis+2)%3
		turned := s.Moved(func(p [3]float64) [3]float64 { return [3]float64{p[u], p[v], p[axis]} })
		type gap struct{ at, thickness, cell float64 }
		missed := make([][]gap, len(middles[u])*len(middles[v]))
		parallel.For(len(missed), 64, func(_, from, to int) {
			for line := from; line < to; line++ {
				ends := turned.Crossings(middles[u][line/len(middles[v])], middles[v][line%len(middles[v])])
				for k := 0; k+1 < len(ends); k += 2 {
					after, _ := slices.BinarySearch(middles[axis], ends[k])
					if after == 0 || after == len(middles[axis]) || middles[axis][after] < ends[k+1] {
						continue // a brick holds it, or it is at the rim of the grid
					}
					missed[line] = append(missed[line], gap{(ends[k] + ends[k+1]) / 2, ends[k+1] - ends[k], middles[axis][after] - middles[axis][after-1]})
				}
			}
		})
		for i := 1; i+1 < len(middles[u]); i++ {
			for j := 1; j+1 < len(middles[v]); j++ {
				for _, g := range missed[i*len(middles[v])+j] {
					beside := -1 // itself
					for di := -1; di <= 1; di++ {
						for dj := -1; dj <= 1; dj++ {
							if slices.ContainsFunc(missed[(i+di)*len(middles[v])+j+dj], func(o gap) bool { return math.Abs(o.at-g.at) < 1.5*g.cell }) {
								beside++
							}
						}
					}
					if beside > most {
						found, most = true, beside
						best = Leak{Thickness: g.thickness, Across: axis}
						best.At[axis], best.At[u], best.At[v] = g.at, middles[u][i], middles[v][j]
					}
				}
			}
		}
	}
	return best, found
}
