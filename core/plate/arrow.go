package plate

import (
	"math"
)

// Arrow is a vector at a place.
type Arrow struct {
	At, Vector [3]float64
	Value      float64 // of another field
	Part       int32
	// Both says that it has no sense: it points both ways, outward where it pulls and inward where it
	// pushes.
	Both, Pushes bool
}

// Arrows are a vector field at places, given by its components at the points of the cells, with the
// value of another field. Six components are those of a symmetric tensor, xx, yy, zz, xy, yz and zx,
// whose three principal directions are drawn, each as long as its value.
func (in *Inside) Arrows(components [][]float64, places [][3]float64, value []float64) []Arrow {
	var list []Arrow
	search := in.finder().NewSearch()
	fields := append(components[:len(components):len(components)], value)
	at := make([]float64, len(fields))
	for _, x := range places {
		p, ok := search.Find(x)
		if !ok {
			continue
		}
		search.Values(fields, at)
		a := Arrow{At: x, Value: at[len(at)-1], Part: in.grid().Blocks[p.Block].Part[p.Cell]}
		if len(components) < 6 {
			copy(a.Vector[:], at[:len(components)])
			if v := dot(a.Vector, a.Vector); v > 0 { // neither nothing nor no number
				list = append(list, a)
			}
			continue
		}
		values, directions := Principal([6]float64(at[:6]))
		for k, v := range values {
			a.Both, a.Pushes = true, v < 0
			for d := range 3 {
				a.Vector[d] = math.Abs(v) * directions[k][d]
			}
			if dot(a.Vector, a.Vector) > 0 {
				list = append(list, a)
			}
		}
	}
	return list
}

// Principal are the principal values of a symmetric tensor xx, yy, zz, xy, yz, zx, the greatest first,
// with their directions, by rotations (Jacobi 1846).
func Principal(t [6]float64) (values [3]float64, directions [3][3]float64) {
	m := [3][3]float64{{t[0], t[3], t[5]}, {t[3], t[1], t[4]}, {t[5], t[4], t[2]}}
	v := [3][3]float64{{1, 0, 0}, {0, 1, 0}, {0, 0, 1}} // rows are directions
	for range 30 {
		off := math.Abs(m[0][1]) + math.Abs(m[1][2]) + math.Abs(m[0][2])
		if !(off > 1e-15*(math.Abs(m[0][0])+math.Abs(m[1][1])+math.Abs(m[2][2]))) {
			break
		}
		for _, p := range [3][2]int{{0, 1}, {0, 2}, {1, 2}} {
			a, b := p[0], p[1]
			if m[a][b] == 0 {
				continue
			}
			theta := (m[b][b] - m[a][a]) / (2 * m[a][b])
			tan := math.Copysign(1, theta) / (math.Abs(theta) + math.Hypot(theta, 1))
			cos := 1 / math.Hypot(tan, 1)
			sin := tan * cos
			for d := range 3 {
				m[d][a], m[d][b] = cos*m[d][a]-sin*m[d][b], sin*m[d][a]+cos*m[d][b]
			}
			for d := range 3 {
				m[a][d], m[b][d] = cos*m[a][d]-sin*m[b][d], sin*m[a][d]+cos*m[b][d]
				v[a][d], v[b][d] = cos*v[a][d]-sin*v[b][d], sin*v[a][d]+cos*v[b][d]
			}
		}
	}
	values = [3]float64{m[0][0], m[1][1], m[2][2]}
	for _, p := range [3][2]int{{0, 1}, {1, 2}, {0, 1}} {
		if values[p[0]] < values[p[1]] {
			values[p[0]], values[p[1]] = values[p[1]], values[p[0]]
			v[p[0]], v[p[1]] = v[p[1]], v[p[0]]
		}
	}
	return values, v
}
