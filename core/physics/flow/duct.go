package flow

import (
	"errors"
	"math"
)

// patch is flat facets through which a fluid comes in, with cells of order 1: in space as triangles in their plane.
type patch struct {
	number    map[int32]int // by node of the mesh
	at        [][3]float64
	triangles [][3]int
	slopes    [][3][2]float64 // of the functions of each triangle, 1/m
	areas     []float64
	area      float64
	share     []float64 // of the area, by node: the integral of its function
	still     []bool    // at walls
	grain     float64   // m: places nearer than that are the same
	edges     [][2]int  // at walls, in a section both ends are the same
}

// newPatch cuts facets that face in one direction into triangles.
func (d *draft) newPatch(facets []int32) (*patch, error) {
	sides := d.byNormal(facets)
	if len(sides) != 1 {
		return nil, errors.New("what comes from a long channel comes through one flat side")
	}
	if d.problem.Dimension == 2 {
		return d.linePatch(facets), nil
	}
	// Two directions in the plane.
	n := sides[0].normal
	u := [3]float64{1, 0, 0}
	if math.Abs(n[0]) > 0.9 {
		u = [3]float64{0, 1, 0}
	}
	along := dot(u, n)
	for i := range u {
		u[i] -= along * n[i]
	}
	length := size(u)
	for i := range u {
		u[i] /= length
	}
	v := [3]float64{n[1]*u[2] - n[2]*u[1], n[2]*u[0] - n[0]*u[2], n[0]*u[1] - n[1]*u[0]}
	p := &patch{number: map[int32]int{}}
	count := map[[2]int]int{}
	for _, k := range facets {
		corners := d.Mesh.Facets[k].Corners()
		d.number(p, corners)
		for i, c := range corners {
			a, b := p.number[c], p.number[corners[(i+1)%len(corners)]]
			count[[2]int{min(a, b), max(a, b)}]++
		}
		_, area := d.normalOf(k)
		for _, c := range corners {
			p.share[p.number[c]] += area / float64(len(corners))
		}
		for i := 2; i < len(corners); i++ {
			p.add([3]int{p.number[corners[0]], p.number[corners[i-1]], p.number[corners[i]]}, u, v)
		}
	}
	for e, times := range count {
		if times == 1 && p.still[e[0]] && p.still[e[1]] {
			p.edges = append(p.edges, e)
		}
	}
	p.grain = math.Sqrt(p.area) * 1e-7
	return p, nil
}

// number takes in nodes of the mesh.
func (d *draft) number(p *patch, corners []int32) {
	for _, c := range corners {
		if _, known := p.number[c]; !known {
			p.number[c] = len(p.at)
			p.at = append(p.at, d.Mesh.At(c))
			p.still, p.share = append(p.still, d.atWall(c)), append(p.share, 0)
		}
	}
}

// linePatch is one of a section.
func (d *draft) linePatch(facets []int32) *patch {
	p := &patch{number: map[int32]int{}}
	whole := 0.0
	for _, k := range facets {
		corners := d.Mesh.Facets[k].Corners()
		d.number(p, corners)
		_, length := d.normalOf(k)
		whole += length
		a, b := p.number[corners[0]], p.number[corners[1]]
		here, there := d.measure(p.at[a][0]), d.measure(p.at[b][0])
		p.share[a] += length * (2*here + there) / 6
		p.share[b] += length * (here + 2*there) / 6
	}
	for i, share := range p.share {
		if p.area += share; p.still[i] {
			p.edges = append(p.edges, [2]int{i, i})
		}
	}
	p.grain = 1e-7 * whole
	return p
}

// add adds a triangle.
func (p *patch) add(t [3]int, u, v [3]float64) {
	var x, y [3]float64
	for i, a := range t {
		x[i], y[i] = dot(p.at[a], u), dot(p.at[a], v)
	}
	twice := (x[1]-x[0])*(y[2]-y[0]) - (x[2]-x[0])*(y[1]-y[0])
	var s [3][2]float64
	for i := range 3 {
		j, k := (i+1)%3, (i+2)%3
		s[i] = [2]float64{(y[j] - y[k]) / twice, (x[k] - x[j]) / twice}
	}
	p.triangles, p.slopes, p.areas = append(p.triangles, t), append(p.slopes, s), append(p.areas, math.Abs(twice)/2)
	p.area += math.Abs(twice) / 2
}

func dot(a, b [3]float64) float64 { return a[0]*b[0] + a[1]*b[1] + a[2]*b[2] }

// atWall says that a fluid sticks to a surface that a node of the mesh is on.
func (d *draft) atWall(node int32) bool {
	if d.walled == nil {
		d.walled = map[int32]bool{}
		for k := range d.Mesh.Facets {
			f := &d.Mesh.Facets[k]
			here, beyond := d.fluid[f.Body], f.Other >= 0 && d.fluid[f.OtherBody]
			if here != beyond && !d.passes[int32(k)] && !d.free[int32(k)] && !d.cut(int32(k)) {
				for _, v := range f.Corners() {
					d.walled[v] = true
				}
			}
		}
	}
	return d.walled[node]
}

// even is by node one value where there is no wall.
func (p *patch) even() []float64 {
	w := make([]float64, len(p.at))
	for i := range w {
		if !p.still[i] {
			w[i] = 1
		}
	}
	return w
}

// developed is by node how fast fluid flows through a long channel that the patch is a section of: the slope of
// which has a divergence that is the same everywhere.
func (p *patch) developed() ([]float64, error) {
	n := len(p.at)
	w, r, z, s, q, diagonal := make([]float64, n), make([]float64, n), make([]float64, n), make([]float64, n), make([]float64, n), make([]float64, n)
	free := 0
	for i := range n {
		if !p.still[i] {
			free++
		}
	}
	if free == 0 {
		return nil, errors.New("there is no node between the walls of it: make cells finer there")
	}
	if free == n { // no walls
		return p.even(), nil
	}
	times := func(out, x []float64) {
		clear(out)
		for t, tri := range p.triangles {
			var g [2]float64
			for i, a := range tri {
				g[0], g[1] = g[0]+x[a]*p.slopes[t][i][0], g[1]+x[a]*p.slopes[t][i][1]
			}
			for i, a := range tri {
				out[a] += p.areas[t] * (g[0]*p.slopes[t][i][0] + g[1]*p.slopes[t][i][1])
			}
		}
		for i := range out {
			if p.still[i] {
				out[i] = 0
			}
		}
	}
	for t, tri := range p.triangles {
		for i, a := range tri {
			g := p.slopes[t][i]
			diagonal[a] += p.areas[t] * (g[0]*g[0] + g[1]*g[1])
			if !p.still[a] {
				r[a] += p.areas[t] / 3
			}
		}
	}
	// Conjugate gradients.
	inner := func(a, b []float64) (sum float64) {
		for i, v := range a {
			sum += v * b[i]
		}
		return sum
	}
	begin, before := math.Sqrt(inner(r, r)), 0.0
	for range 10 * n {
		for i := range z {
			z[i] = r[i] / diagonal[i]
		}
		now := inner(r, z)
		for i := range s {
			if s[i] = z[i]; before > 0 {
				s[i] += now / before * q[i]
			}
		}
		copy(q, s)
		times(z, s)
		step := now / inner(s, z)
		for i := range w {
			w[i] += step * s[i]
			r[i] -= step * z[i]
		}
		if before = now; math.Sqrt(inner(r, r)) < 1e-12*begin {
			break
		}
	}
	return w, nil
}

// shape is values at nodes as a function of the place, with a mean of 1.
func (p *patch) shape(w []float64) (func(x [3]float64) float64, error) {
	mean := 0.0
	for i, share := range p.share {
		mean += share * w[i] / p.area
	}
	if mean == 0 {
		return nil, errors.New("there is no node between the walls of it: make cells finer there")
	}
	of := make([]float64, len(w))
	for i, v := range w {
		of[i] = v / mean
	}
	return p.by(of), nil
}

// by is values at nodes as a function of the place.
func (p *patch) by(values []float64) func(x [3]float64) float64 {
	known := map[[3]int64]float64{}
	key := func(x [3]float64) (k [3]int64) {
		for i := range k {
			k[i] = int64(math.Round(x[i] / p.grain))
		}
		return k
	}
	for i, x := range p.at {
		known[key(x)] = values[i]
	}
	return func(x [3]float64) float64 { return known[key(x)] }
}
