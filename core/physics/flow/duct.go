package flow

import (
	"errors"
	"math"
)

// patch is flat facets through which a fluid comes in, in space, as triangles in their plane.
type patch struct {
	number    map[int32]int // by node of the mesh
	at        [][3]float64
	triangles [][3]int
	slopes    [][3][2]float64 // of the functions of each triangle, 1/m
	areas     []float64
	area      float64
	share     []float64 // of the area, by node: the integral of its function
	still     []bool    // at walls
}

// newPatch cuts facets that face in one direction into triangles.
func (d *draft) newPatch(facets []int32) (*patch, error) {
	sides := d.byNormal(facets)
	if len(sides) != 1 {
		return nil, errors.New("what comes from a long channel comes through one flat side")
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
	for _, k := range facets {
		corners := d.Mesh.Facets[k].Corners()
		for _, c := range corners {
			if _, known := p.number[c]; !known {
				p.number[c] = len(p.at)
				p.at = append(p.at, [3]float64(d.Mesh.Nodes[3*c:3*c+3]))
				p.still, p.share = append(p.still, d.atWall(c)), append(p.share, 0)
			}
		}
		_, area := d.normalOf(k)
		for _, c := range corners {
			p.share[p.number[c]] += area / float64(len(corners))
		}
		for i := 2; i < len(corners); i++ {
			p.add([3]int{p.number[corners[0]], p.number[corners[i-1]], p.number[corners[i]]}, u, v)
		}
	}
	return p, nil
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
	known := map[[3]int64]float64{}
	grain := math.Sqrt(p.area) * 1e-7
	key := func(x [3]float64) (k [3]int64) {
		for i := range k {
			k[i] = int64(math.Round(x[i] / grain))
		}
		return k
	}
	for i, x := range p.at {
		known[key(x)] = w[i] / mean
	}
	return func(x [3]float64) float64 { return known[key(x)] }, nil
}
