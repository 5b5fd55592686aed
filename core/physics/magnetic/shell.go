package magnetic

import (
	"math"

	"saltkettle/core/frame"
	"saltkettle/core/model"
)

// Shell is a frame round a box that stands for all space beyond that box: a place in it at the part ξ of the way from the inner face to the
// outer one stands for one at inner + c·ξ/(1 − ξ), along each axis by itself, where c is how far the inner face is from the middle of
// the device, so that what falls off with powers of that distance is a polynomial of ξ. The terms are those of the place that is meant, so
// that energies and fluxes are (F. Henrotte, B. Meys, H. Hedia, P. Dular, W. Legros, IEEE Trans. Magn. 35 (1999) 1494).
type Shell struct {
	// Inner and Outer are its faces along each axis, m; where both are the same it does not stretch.
	Inner, Outer [3][2]float64
	// Centre is the middle from which distances count, m.
	Centre vector
	// Axes in which it may stretch, and Round whether x is the distance from an axis.
	Axes  int
	Round bool
}

// nearEnd is the least part of the thickness of a shell that is left to its outer face, where all is infinitely far away.
const nearEnd = 1e-6

// lengths are how many metres a metre along each axis at a place stands for, and their product.
func (s *Shell) lengths(x [3]float64) (by vector, all float64) {
	by = vector{1, 1, 1}
	for i := range s.Axes {
		for end, sign := range [2]float64{-1, 1} {
			thick, in := sign*(s.Outer[i][end]-s.Inner[i][end]), sign*(x[i]-s.Inner[i][end])
			if thick <= 0 || in <= 0 {
				continue
			}
			left := max(nearEnd, 1-in/thick)
			far := math.Abs(s.Inner[i][end] - s.Centre[i])
			by[i] = far / (thick * left * left)
			if i == 0 && s.Round {
				by[2] = (s.Inner[i][end] + far*(1/left-1)) / x[0]
			}
		}
	}
	return by, by[0] * by[1] * by[2]
}

// squeeze is H over B along each axis at a place, as a part of what it is where nothing is stretched.
func (m *matter) squeeze(x [3]float64) vector {
	if m.body == nil || m.body.Shell == nil {
		return vector{1, 1, 1}
	}
	by, all := m.body.Shell.lengths(x)
	return vector{by[0] * by[0] / all, by[1] * by[1] / all, by[2] * by[2] / all}
}

// meant are flux density and field strength at the place that a place stands for.
func (m *matter) meant(x [3]float64, b, h vector) (vector, vector) {
	if m.body == nil || m.body.Shell == nil {
		return b, h
	}
	by, all := m.body.Shell.lengths(x)
	for i := range b {
		b[i] *= by[i] / all
		h[i] /= by[i]
	}
	return b, h
}

// boundsOf is the box around the cells for which keep.
func (d *draft) boundsOf(keep func(body int32) bool) (box [3][2]float64) {
	for i := range box {
		box[i] = [2]float64{math.Inf(1), math.Inf(-1)}
	}
	for cell, body := range d.Mesh.Body {
		if !keep(body) {
			continue
		}
		for _, v := range d.Mesh.Cell(int32(cell)) {
			for i, x := range d.Mesh.At(v) {
				box[i] = [2]float64{min(box[i][0], x), max(box[i][1], x)}
			}
		}
	}
	return box
}

// shell lets bodies stand for all that lies beyond the others.
func (d *draft) shell(c *model.ResolvedSentence) error {
	mine := d.BodySet(c.On)
	lives := d.posed.Fields[0].Bodies
	s := &Shell{Axes: 2, Round: d.problem.Round}
	if d.problem.Solid {
		s.Axes = 3
	}
	s.Inner = d.boundsOf(func(body int32) bool { return lives[body] && !mine[body] })
	s.Outer = d.boundsOf(func(body int32) bool { return lives[body] })
	wrong := func(fix, format string, args ...any) error {
		return frame.Wrong("conditions/"+c.ID, fix, format, args...)
	}
	words := d.Words(c.On)
	stretches := false
	var reach [3]float64 // how exactly places are known
	for i := range s.Axes {
		lo, hi := s.Inner[i][0], s.Inner[i][1]
		reach[i] = 1e-9 * (s.Outer[i][1] - s.Outer[i][0])
		below, above := s.Outer[i][0] < lo-reach[i], s.Outer[i][1] > hi+reach[i]
		stretches = stretches || below || above
		switch {
		case s.Round && i == 0:
			if below {
				return wrong("let the device reach to the axis, or let the shell go round it elsewhere alone", "%s lies between the device and the axis: space ends there", words)
			}
		case below && above:
			s.Centre[i] = (lo + hi) / 2
		case below:
			s.Centre[i] = hi
		default:
			s.Centre[i] = lo
		}
	}
	if !stretches || math.IsInf(s.Inner[0][0], 1) {
		return wrong("choose the part that lies round all others", "%s lies not round the others: nothing of it is beyond them", words)
	}
	for cell, body := range d.Mesh.Body {
		if !mine[body] {
			continue
		}
		inside, x := true, d.Mesh.Centre(int32(cell))
		for i := range s.Axes {
			inside = inside && x[i] > s.Inner[i][0]+reach[i] && x[i] < s.Inner[i][1]-reach[i]
		}
		if inside {
			return wrong("put a box of air round the device, and let this be a box round that", "%s is not beyond a box: some of it lies beside other parts", words)
		}
	}
	for body := range mine {
		of := d.problem.Bodies[body]
		if of == nil {
			continue
		}
		if of.Iron != nil || of.Remanence != nil || of.Turns != nil || of.Resistivity != nil || of.Circuit != nil {
			return wrong("let it be of air", "space beyond is empty, and %s is not", words)
		}
		of.Shell = s
	}
	return nil
}

// faraway says that a facet lies where a shell ends.
func (d *draft) faraway(k int32) bool {
	f := &d.Mesh.Facets[k]
	b := d.problem.Bodies[f.Body]
	if b == nil || b.Shell == nil {
		return false
	}
	s := b.Shell
	for i := range s.Axes {
		for end, at := range s.Outer[i] {
			near := 1e-9 * (s.Outer[i][1] - s.Outer[i][0])
			if math.Abs(at-s.Inner[i][end]) <= near {
				continue
			}
			on := true
			for _, v := range f.Corners() {
				on = on && math.Abs(d.Mesh.At(v)[i]-at) <= near
			}
			if on {
				return true
			}
		}
	}
	return false
}
