package frame

import (
	"fmt"
	"math"
)

// Shell is a frame round a box, in which places stand for others that lie beyond that box, along each axis by itself.
type Shell struct {
	// Inner and Outer are its faces along each axis, m; where both are the same it does not stretch.
	Inner, Outer [3][2]float64
	// Centre is the middle of the device, by symmetry where it is cut.
	Centre [3]float64
	// Axes in which it may stretch, and Round whether x is the distance from an axis.
	Axes  int
	Round bool
}

// nearEnd is the least part of the thickness of a shell that is left to its outer face.
const nearEnd = 1e-6

// Along is how far a place is on the way from the inner face to the outer one along an axis, as a part of it, the thickness of the
// shell there, m, and the distance of the inner face from the middle, m; in is false where nothing is stretched.
func (s *Shell) Along(axis int, x float64) (part, thick, far float64, in bool) {
	for end, sign := range [2]float64{-1, 1} {
		thick, deep := sign*(s.Outer[axis][end]-s.Inner[axis][end]), sign*(x-s.Inner[axis][end])
		if thick > 0 && deep > 0 {
			return min(1-nearEnd, deep/thick), thick, math.Abs(s.Inner[axis][end] - s.Centre[axis]), true
		}
	}
	return 0, 0, 0, false
}

// Ends says that all corners of a facet lie on an outer face.
func (s *Shell) Ends(corners [][3]float64) bool {
	for i := range s.Axes {
		for end, at := range s.Outer[i] {
			near := 1e-9 * (s.Outer[i][1] - s.Outer[i][0])
			if math.Abs(at-s.Inner[i][end]) <= near {
				continue
			}
			on := true
			for _, x := range corners {
				on = on && math.Abs(x[i]-at) <= near
			}
			if on {
				return true
			}
		}
	}
	return false
}

// BoundsOf is the box around the cells of some bodies.
func (p *Posing) BoundsOf(keep func(body int32) bool) (box [3][2]float64) {
	for i := range box {
		box[i] = [2]float64{math.Inf(1), math.Inf(-1)}
	}
	for cell, body := range p.Mesh.Body {
		if !keep(body) {
			continue
		}
		for _, v := range p.Mesh.Cell(int32(cell)) {
			for i, x := range p.Mesh.At(v) {
				box[i] = [2]float64{min(box[i][0], x), max(box[i][1], x)}
			}
		}
	}
	return box
}

// ShellOf makes a shell of bodies round others of a device; words names them. What is wrong with it is said with how to mend it, "" if
// nothing is.
func (p *Posing) ShellOf(mine, lives map[int32]bool, axes int, round bool, words string) (s *Shell, fix, fault string) {
	s = &Shell{Axes: axes, Round: round}
	s.Inner = p.BoundsOf(func(body int32) bool { return lives[body] && !mine[body] })
	s.Outer = p.BoundsOf(func(body int32) bool { return lives[body] })
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
				return nil, "let the device reach to the axis, or let the shell go round it elsewhere alone", fmt.Sprintf("%s lies between the device and the axis: space ends there", words)
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
		return nil, "choose the part that lies round all others", fmt.Sprintf("%s lies not round the others: nothing of it is beyond them", words)
	}
	for cell, body := range p.Mesh.Body {
		if !mine[body] {
			continue
		}
		inside, x := true, p.Mesh.Centre(int32(cell))
		for i := range s.Axes {
			inside = inside && x[i] > s.Inner[i][0]+reach[i] && x[i] < s.Inner[i][1]-reach[i]
		}
		if inside {
			return nil, "put a box of air round the device, and let this be a box round that", fmt.Sprintf("%s is not beyond a box: some of it lies beside other parts", words)
		}
	}
	return s, "", ""
}
