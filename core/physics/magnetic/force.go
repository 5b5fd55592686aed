package magnetic

import (
	"errors"
	"slices"

	"saltkettle/core/fem"
	"saltkettle/core/frame"
)

// push is the force on some bodies, N, and its torque about a place, N·m, by virtual work: the bodies move by a
// little and the cells of air that touch them are strained (J. L. Coulomb, IEEE Trans. Magn. 19 (1983) 2514), which is the stress of
// Maxwell times the slope of a function that is 1 on the bodies and nothing on the other nodes of these cells. Air must be all around.
// With a layer between, these cells are those behind the first ones, as far from the edges of the bodies, where fields are least exact: a
// second opinion. Of what alternates it is the mean.
func push(k kernel, r *frame.Reading, about vector, between int) (sum pull, err error) {
	s, bodies := r.Solution, r.Region.Bodies
	if s.Swing != nil {
		return sum, errors.New("how what swings pushes is not known: let currents alternate in a steady run, of which the mean is")
	}
	sum.about = about
	at := k.Fork().(kernel)
	halves := at.parts()
	on := map[int32]bool{}
	if err := s.System.EachCell(s.State, bodies, func(points []fem.Point, _ []float64) error {
		for i := range points {
			for _, v := range points[i].Nodes {
				on[v] = true
			}
		}
		return nil
	}); err != nil {
		return sum, err
	}
	around, touched := map[int32]bool{}, false
	for b := range s.Fields[r.Field].Bodies {
		around[b] = !bodies[b]
	}
	meets := func(points []fem.Point) bool {
		return slices.ContainsFunc(points, func(p fem.Point) bool {
			return slices.ContainsFunc(p.Nodes, func(v int32) bool { return on[v] })
		})
	}
	for range between {
		var more []int32
		if err := s.System.EachCell(s.State, around, func(points []fem.Point, _ []float64) error {
			if meets(points) {
				for i := range points {
					more = append(more, points[i].Nodes...)
				}
			}
			return nil
		}); err != nil {
			return sum, err
		}
		for _, v := range more {
			on[v] = true
		}
	}
	err = s.System.EachCell(s.State, around, func(points []fem.Point, weights []float64) error {
		if !meets(points) {
			return nil
		}
		if err := at.Prepare(-1, points); err != nil {
			return err
		}
		for q, w := range weights {
			p := &points[q]
			var slope vector
			for n, v := range p.Nodes {
				if on[v] {
					for i, g := range p.Slope(n) {
						slope[i] += g
					}
				}
			}
			if slope == (vector{}) {
				continue
			}
			if !at.stuff().airy() {
				return errNoAir
			}
			touched = true
			sum.add(halves, p, q, w, slope)
		}
		return nil
	})
	if err == nil && !touched {
		err = errNoAir
	}
	return sum, err
}

// pull is a force, N, and its torque about a place, N·m.
type pull struct{ force, torque, about vector }

// add takes in the stress of Maxwell at prepared point q against the direction of a slope, the mean of it over a swing.
func (s *pull) add(halves []part, p *fem.Point, q int, w float64, slope vector) {
	var f, arm vector
	for _, half := range halves {
		b, h, energy := half.kernel.state(p, q)
		along := dot(b, slope)
		for i := range f {
			f[i] -= half.share * w * (h[i]*along - energy*slope[i])
		}
	}
	for i := range f {
		s.force[i] += f[i]
		arm[i] = p.X[i] - s.about[i]
	}
	for i, v := range cross(arm, f) {
		s.torque[i] += v
	}
}

var errNoAir = errors.New("there is something else than air at some of its surface: the force on it alone is not known; leave a gap, or ask for the force on all that touches")

// again are force and torque by another way, and by which: a cell farther out, or where air is not as thick as that by the stress on the
// surface of the bodies.
func again(k kernel, r *frame.Reading, about vector) (sum pull, by string, err error) {
	if sum, err = push(k, r, about, 1); err == nil {
		return sum, "the stress of the field a cell farther out", nil
	}
	sum, err = bySurface(k, r, about)
	return sum, "the stress of the field on its surface", err
}

// bySurface are force and torque by the stress of Maxwell on what bounds the bodies, as it is on the other side. It needs finer cells at
// edges than virtual work does.
func bySurface(k kernel, r *frame.Reading, about vector) (sum pull, err error) {
	bodies, lives := r.Region.Bodies, r.Solution.Fields[r.Field].Bodies
	var sides []fem.Side
	for f := range r.Mesh.Facets {
		facet := &r.Mesh.Facets[f]
		if facet.Other < 0 || bodies[facet.Body] == bodies[facet.OtherBody] || !lives[facet.Body] || !lives[facet.OtherBody] {
			continue
		}
		sides = append(sides, r.Solution.Side(int32(f), bodies[facet.Body]))
	}
	sum.about = about
	at := k.Fork().(kernel)
	halves := at.parts()
	err = r.Solution.System.EachSide(r.Solution.State, sides, func(_ int, points []fem.Point, weights []float64) error {
		if err := at.Prepare(-1, points); err != nil {
			return err
		}
		for q, w := range weights {
			sum.add(halves, &points[q], q, w, points[q].Normal) // into the bodies
		}
		return nil
	})
	return sum, err
}
