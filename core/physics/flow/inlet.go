package flow

import (
	"errors"
	"math"
	"slices"

	"saltkettle/core/mesh"
)

// normalOf is the outward normal of a facet, of length 1, and its length or area, m or m².
func (d *draft) normalOf(k int32) (n [3]float64, area float64) {
	corners := d.Mesh.Facets[k].Corners()
	at := func(i int) (x [3]float64) {
		copy(x[:], d.Mesh.Nodes[3*corners[i]:3*corners[i]+3])
		return x
	}
	if d.problem.Dimension == 2 {
		a, b := at(0), at(1)
		n = [3]float64{b[1] - a[1], a[0] - b[0], 0}
	} else {
		a := at(0)
		for i := 2; i < len(corners); i++ {
			b, c := at(i-1), at(i)
			for e := range 3 {
				f, g := (e+1)%3, (e+2)%3
				n[e] += ((b[f]-a[f])*(c[g]-a[g]) - (b[g]-a[g])*(c[f]-a[f])) / 2
			}
		}
	}
	area = size(n)
	for i := range n {
		n[i] /= area
	}
	return n, area
}

// facing are facets that face in one direction.
type facing struct {
	normal [3]float64
	facets []int32
}

// byNormal divides facets by the direction that they face, in the order of the first of each: where two meet the
// later one holds, and that must not change from run to run.
func (d *draft) byNormal(facets []int32) (list []facing) {
	number := map[[3]float64]int{}
	for _, k := range facets {
		n, _ := d.normalOf(k)
		for i := range n {
			n[i] = math.Round(n[i]*1e7) / 1e7
		}
		at, seen := number[n]
		if !seen {
			at = len(list)
			number[n], list = at, append(list, facing{normal: n})
		}
		list[at].facets = append(list[at].facets, k)
	}
	return list
}

// aslant says that some facets face along no axis.
func (d *draft) aslant(facets []int32) bool {
	return slices.ContainsFunc(d.byNormal(facets), func(f facing) bool {
		return !slices.ContainsFunc(f.normal[:], func(v float64) bool { return math.Abs(v) == 1 })
	})
}

// measure is by what lengths in a section are multiplied at a place: the depth, or the way round the axis.
func (d *draft) measure(r float64) float64 {
	switch {
	case d.problem.Dimension == 3:
		return 1
	case d.problem.Round:
		return 2 * math.Pi * r
	}
	return d.Model.Depth
}

// area of facets, m².
func (d *draft) area(facets []int32) (sum float64) {
	for _, k := range facets {
		_, length := d.normalOf(k)
		r := 0.0
		corners := d.Mesh.Facets[k].Corners()
		for _, v := range corners {
			r += d.Mesh.Nodes[3*v] / float64(len(corners))
		}
		sum += length * d.measure(r)
	}
	return sum
}

// ends are the places at which a straight side of a section ends, and whether there is no wall there.
type ends struct {
	at   [2][3]float64
	free [2]bool
}

// endsOf finds those of some facets.
func (d *draft) endsOf(facets []int32) (e ends, err error) {
	if len(d.byNormal(facets)) != 1 {
		return e, errors.New("what comes from a long channel comes through one straight side")
	}
	count, in := map[int32]int{}, map[int32]bool{}
	for _, k := range facets {
		in[k] = true
		for _, v := range d.Mesh.Facets[k].Corners() {
			count[v]++
		}
	}
	var nodes []int32
	for _, k := range facets {
		for _, v := range d.Mesh.Facets[k].Corners() {
			if count[v] == 1 {
				nodes = append(nodes, v)
			}
		}
	}
	if len(nodes) != 2 {
		return e, errors.New("what comes from a long channel comes through one side without gaps")
	}
	for i, v := range nodes {
		copy(e.at[i][:], d.Mesh.Nodes[3*v:3*v+3])
		e.free[i] = d.slipsAt(v, in)
	}
	return e, nil
}

// slipsAt says that fluid slips along another facet at a node: a plane of symmetry, the axis, or a sentence.
func (d *draft) slipsAt(node int32, but map[int32]bool) bool {
	if d.problem.Round && math.Abs(d.Mesh.Nodes[3*node]) <= closeToPlane {
		return true
	}
	for k := range d.Mesh.Facets {
		f := &d.Mesh.Facets[k]
		if but[int32(k)] || !d.fluid[f.Body] {
			continue
		}
		for _, v := range f.Corners() {
			if v == node && (d.free[int32(k)] || f.Other < 0 && d.cut(int32(k))) {
				return true
			}
		}
	}
	return false
}

// cut says that a facet lies in a plane of symmetry.
func (d *draft) cut(k int32) bool {
	return slices.ContainsFunc(d.Model.Cuts, func(c mesh.Cut) bool { return d.inPlane(k, c.Axis, c.At) })
}

// profile is what the speed is of fluid that comes from a long channel as wide as a straight side of a section,
// relative to its mean: a parabola between walls, the half of one where fluid slips at an end, and in a pipe or
// between two what is exact there (R. B. Bird, W. E. Stewart and E. N. Lightfoot, Transport Phenomena, 2002, 2.4).
func (d *draft) profile(facets []int32) (func(x [3]float64) float64, error) {
	e, err := d.endsOf(facets)
	if err != nil {
		return nil, err
	}
	along := [3]float64{}
	for i := range along {
		along[i] = e.at[1][i] - e.at[0][i]
	}
	length := size(along)
	part := func(x [3]float64) (s float64) {
		for i := range along {
			s += (x[i] - e.at[0][i]) * along[i] / (length * length)
		}
		return s
	}
	if across := math.Abs(along[1]) <= 1e-9*length; d.problem.Round && across {
		return aboutAxis(e), nil
	}
	switch {
	case e.free[0] && e.free[1]:
		return func([3]float64) float64 { return 1 }, nil
	case e.free[0]:
		return func(x [3]float64) float64 { s := part(x); return 1.5 * (1 - s*s) }, nil
	case e.free[1]:
		return func(x [3]float64) float64 { s := 1 - part(x); return 1.5 * (1 - s*s) }, nil
	}
	return func(x [3]float64) float64 { s := part(x); return 6 * s * (1 - s) }, nil
}

// aboutAxis is the profile of a pipe, or of the room between two.
func aboutAxis(e ends) func(x [3]float64) float64 {
	inner, outer := min(e.at[0][0], e.at[1][0]), max(e.at[0][0], e.at[1][0])
	if inner <= closeToPlane {
		return func(x [3]float64) float64 { r := x[0] / outer; return 2 * (1 - r*r) }
	}
	k := inner / outer
	c := (1 - k*k) / math.Log(1/k)
	mean := (1 + k*k - c) / 2
	return func(x [3]float64) float64 { r := x[0] / outer; return (1 - r*r + c*math.Log(r)) / mean }
}

// evenly is by how much an even speed is higher than it should be where it does not meet a wall, so that as much
// comes in as is said: at the walls, where it ends, it is nothing. Of cells of order 2 in space it is what it is.
func (d *draft) evenly(facets []int32) func(x [3]float64) float64 {
	if d.problem.Stable {
		p, err := d.newPatch(facets)
		if err != nil {
			return nil
		}
		shape, err := p.shape(p.even())
		if err != nil {
			return nil
		}
		return shape
	}
	if d.problem.Dimension != 2 {
		return nil
	}
	e, err := d.endsOf(facets)
	if err != nil {
		return nil
	}
	whole, lost := 0.0, 0.0
	for _, k := range facets {
		_, length := d.normalOf(k)
		corners := d.Mesh.Facets[k].Corners()
		r0, r1 := d.Mesh.Nodes[3*corners[0]], d.Mesh.Nodes[3*corners[1]]
		whole += length * d.measure((r0+r1)/2)
		for i, v := range corners {
			for end, x := range e.at {
				if d.Mesh.Nodes[3*v] == x[0] && d.Mesh.Nodes[3*v+1] == x[1] && !e.free[end] {
					// A parabola that is 1 at an end and 0 in the middle and at the other end of an edge has a
					// sixth of it, all of it at that end.
					lost += length / 6 * d.measure([2]float64{r0, r1}[i])
				}
			}
		}
	}
	factor := whole / (whole - lost)
	return func([3]float64) float64 { return factor }
}
