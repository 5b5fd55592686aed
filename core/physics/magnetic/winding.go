package magnetic

import (
	"math"

	"saltkettle/core/fem"
	"saltkettle/core/law"
)

// Winding is a coil in space: a ring of even height along z, in which turns run round its hole, to the right of z. Currents have a field
// with curl; what is left of it without
//
//	T = z·N·I/h·f,  f = 1 in the hole, dₒ/(dᵢ + dₒ) in the ring by the distances from its two edges, 0 outside,
//
// has a potential, and T has no other curl than the current, which goes along the lines of f (O. Bíró, K. Preis et al., IEEE Trans. Magn.
// 29 (1993) 1329). As layers of cells end where the ring does, what T is in iron is what the slope of a potential can be, so that
// nothing is lost where the two nearly cancel.
type Winding struct {
	// Body is that of the ring, between the heights Low and High, m.
	Body           int32
	Low, High      float64
	Turns, Current Law
	// Outer and Inner are the edges of the ring in the plan, m, closed, with what cuts have left out.
	Outer, Inner [][2]float64
	lo, hi       [2]float64 // of the outer edge
}

// newWinding makes one of its edges.
func newWinding(body int32, low, high float64, outer, inner [][2]float64) *Winding {
	w := &Winding{Body: body, Low: low, High: high, Outer: outer, Inner: inner, lo: [2]float64{math.Inf(1), math.Inf(1)}, hi: [2]float64{math.Inf(-1), math.Inf(-1)}}
	for _, p := range outer {
		for i, x := range p {
			w.lo[i], w.hi[i] = min(w.lo[i], x), max(w.hi[i], x)
		}
	}
	return w
}

// share is f at a point.
func (w *Winding) share(p *fem.Point) float64 {
	x := [2]float64{p.X[0], p.X[1]}
	switch {
	case p.X[2] < w.Low || p.X[2] > w.High:
		return 0
	case p.Part == w.Body:
		in, out := distance(w.Inner, x), distance(w.Outer, x)
		return out / (in + out)
	case x[0] < w.lo[0] || x[0] > w.hi[0] || x[1] < w.lo[1] || x[1] > w.hi[1] || !within(w.Outer, x):
		return 0
	}
	return 1
}

// distance of a point from a closed line, m.
func distance(line [][2]float64, x [2]float64) float64 {
	least := math.Inf(1)
	for i, a := range line {
		b := line[(i+1)%len(line)]
		dx, dy := b[0]-a[0], b[1]-a[1]
		s := ((x[0]-a[0])*dx + (x[1]-a[1])*dy) / (dx*dx + dy*dy)
		s = min(1, max(0, s))
		ex, ey := a[0]+s*dx-x[0], a[1]+s*dy-x[1]
		least = min(least, ex*ex+ey*ey)
	}
	return math.Sqrt(least)
}

// within says that a point lies within a closed line.
func within(line [][2]float64, x [2]float64) (is bool) {
	for i, a := range line {
		b := line[(i+1)%len(line)]
		if (a[1] > x[1]) != (b[1] > x[1]) && x[0] < a[0]+(x[1]-a[1])/(b[1]-a[1])*(b[0]-a[0]) {
			is = !is
		}
	}
	return is
}

// enclosed is the area within a closed line, m², less than nothing if it turns right.
func enclosed(line [][2]float64) (area float64) {
	for i, a := range line {
		b := line[(i+1)%len(line)]
		area += (a[0]*b[1] - b[0]*a[1]) / 2
	}
	return area
}

// Places of the laws of a winding in its set.
const (
	turnsOf = iota
	amperesOf
)

// wound has the windings of a problem with work memory.
type wound struct {
	windings []*Winding
	laws     []*law.Set
}

func newWound(windings []*Winding) *wound {
	w := &wound{windings: windings}
	for _, of := range windings {
		w.laws = append(w.laws, law.NewSet(of.Turns, of.Current))
	}
	return w
}

// prepare evaluates the currents at some points.
func (w *wound) prepare(points []fem.Point) error {
	for i, set := range w.laws {
		set.Run(points, -1)
		for _, l := range []int{turnsOf, amperesOf} {
			if err := set.Check(l, w.windings[i].Body, "current", law.NoBound, false); err != nil {
				return err
			}
		}
	}
	return nil
}

// ampere is T at prepared point q for one in the turns of some bodies, along z, 1/m.
func (w *wound) ampere(p *fem.Point, q int, bodies map[int32]bool) (t float64) {
	for i, of := range w.windings {
		if bodies[of.Body] {
			t += of.share(p) * w.laws[i].At(turnsOf, q) / (of.High - of.Low)
		}
	}
	return t
}

// strength is T at prepared point q, along z, A/m.
func (w *wound) strength(p *fem.Point, q int) (t float64) {
	for i, of := range w.windings {
		if f := of.share(p); f > 0 {
			t += f * w.laws[i].At(turnsOf, q) * w.laws[i].At(amperesOf, q) / (of.High - of.Low)
		}
	}
	return t
}
