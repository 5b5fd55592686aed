package plate

import (
	"math"
	"slices"

	"saltkettle/core/fem"
	"saltkettle/core/parallel"
)

// Stream is a way that follows a vector field.
type Stream struct {
	// Points are the places along the way in the direction of the field, m.
	Points [][3]float64
	// Values are those of each field that was asked for, at the points.
	Values [][]float64
	// Time is the way over the size of the vector, counted from the start: of a velocity in m/s it is
	// seconds.
	Time []float64
}

// A stream is followed by the pair of orders 3 and 2 of P. Bogacki and L. F. Shampine (Appl. Math.
// Lett. 2 (1989) 321) over the way, with steps that miss up to a part of the cell and go through up
// to a half of it, so that no cell is missed.
const (
	streamTolerance = 1e-4
	streamStep      = 0.5
	streamShortest  = 0.03 // step, as a part of the cell, that is made although it misses more
	streamLeast     = 1e-3 // and that at which a way ends, where it leaves the cells
	streamMost      = 4000 // steps in each direction
	// A way ends where every second step and more is one of the shortest: where two parts meet whose
	// fields point against each other it would go to and fro.
	streamStuck = 40
)

// Streams follows a vector field, given by its components at the points of the cells, from places in
// both directions, until it leaves the cells or vanishes, or comes back to where it began. A place
// where there is no field has no stream.
func (in *Inside) Streams(vector [][]float64, starts [][3]float64, values ...[]float64) []Stream {
	greatest := 0.0
	for i := range vector[0] {
		var v [3]float64
		for d := range vector {
			v[d] = vector[d][i]
		}
		if s := dot(v, v); s > greatest { // not where it is no number
			greatest = s
		}
	}
	f, all := in.finder(), make([]Stream, len(starts))
	parallel.For(len(starts), 1, func(_, lo, hi int) {
		w := &follower{search: f.NewSearch(), fields: slices.Concat(vector, values), dimensions: len(vector), least: 1e-6 * math.Sqrt(greatest)}
		w.at = make([]float64, len(w.fields))
		for i := lo; i < hi; i++ {
			all[i] = w.both(starts[i], len(values))
		}
	})
	return slices.DeleteFunc(all, func(s Stream) bool { return len(s.Points) < 2 })
}

// follower is the work of one core.
type follower struct {
	search     *fem.Search
	fields     [][]float64 // components of the vector, then the others
	dimensions int
	at         []float64 // values of all fields at the place of the last look
	least      float64   // size of the vector at which it vanishes
}

// look takes the fields at a place; size is that of the vector, and ok says that there is one.
func (w *follower) look(x [3]float64) (v [3]float64, size float64, ok bool) {
	if _, ok := w.search.Find(x); !ok {
		return v, 0, false
	}
	w.search.Values(w.fields, w.at)
	copy(v[:], w.at[:w.dimensions])
	size = math.Sqrt(dot(v, v))
	if !(size > w.least) {
		return v, size, false
	}
	for d := range v {
		v[d] /= size
	}
	return v, size, true
}

// both follows the field from a place against its direction and along it.
func (w *follower) both(from [3]float64, values int) Stream {
	back, closed := w.follow(from, -1, values)
	if len(back.Points) == 0 {
		return Stream{}
	}
	slices.Reverse(back.Points)
	slices.Reverse(back.Time)
	for _, v := range back.Values {
		slices.Reverse(v)
	}
	if closed {
		return back
	}
	on, _ := w.follow(from, 1, values)
	back.Points, back.Time = append(back.Points, on.Points[1:]...), append(back.Time, on.Time[1:]...)
	for k := range back.Values {
		back.Values[k] = append(back.Values[k], on.Values[k][1:]...)
	}
	return back
}

// follow follows it in one direction; closed says that it came back.
func (w *follower) follow(x [3]float64, sign float64, values int) (s Stream, closed bool) {
	k1, size, ok := w.look(x)
	if !ok {
		return s, false
	}
	s.Values = make([][]float64, values)
	begin, first, t := x, k1, 0.0
	keep := func() {
		s.Points, s.Time = append(s.Points, x), append(s.Time, t)
		for k := range s.Values {
			s.Values[k] = append(s.Values[k], w.at[w.dimensions+k])
		}
	}
	keep()
	cell := w.search.Size()
	h, way := streamStep*cell, 0.0
	steps, stuck := 0, 0
	for steps < streamMost {
		to := func(a [3]float64, part float64) [3]float64 {
			for d := range a {
				a[d] = x[d] + sign*h*part*a[d]
			}
			return a
		}
		k2, _, ok2 := w.look(to(k1, 0.5))
		k3, _, ok3 := w.look(to(k2, 0.75))
		var sum [3]float64
		for d := range sum {
			sum[d] = (2*k1[d] + 3*k2[d] + 4*k3[d]) / 9
		}
		next := to(sum, 1)
		k4, after, ok4 := w.look(next)
		if !ok2 || !ok3 || !ok4 {
			if h *= 0.5; h < streamLeast*cell {
				return s, false
			}
			continue
		}
		miss := 0.0
		for d := range sum {
			e := h * (-5./72*k1[d] + 1./12*k2[d] + 1./9*k3[d] - 1./8*k4[d])
			miss += e * e
		}
		miss = math.Sqrt(miss) / (streamTolerance * cell)
		if miss > 1 && h > streamShortest*cell {
			h = max(h*max(0.2, 0.9*math.Pow(miss, -1./3)), streamShortest*cell)
			continue
		}
		t += sign * h * 2 / (size + after)
		way += h
		x, k1, size = next, k4, after
		cell = w.search.Size()
		keep()
		steps++
		if stuck += 2; miss <= 1 {
			stuck = max(0, stuck-3)
		}
		if stuck >= streamStuck {
			return s, false
		}
		if gap := minus(x, begin); way > 4*h && dot(gap, gap) < h*h && dot(k1, first) > 0.5 && way > 3*cell {
			return s, true
		}
		h = min(max(h*min(5, 0.9*math.Pow(max(miss, 1e-6), -1./3)), streamShortest*cell), streamStep*cell)
	}
	return s, false
}
