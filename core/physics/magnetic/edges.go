package magnetic

import (
	"fmt"
	"math"

	"saltkettle/core/frame"
	"saltkettle/core/mesh"
	"saltkettle/core/model"
)

// winding finds the ring that a body in space is, for turns that run round its hole.
func (d *draft) winding(b int32, c *model.ResolvedSentence) (*Winding, error) {
	refuse := func(why string) (*Winding, error) {
		return nil, frame.Wrong("conditions/"+c.ID+"/on", "let the part be a ring of even height along z, such as a disc with a hole in it, or with another part within", "turns cannot run in the %s: %s", d.BodyName(b), why)
	}
	lines, low, high, even := d.footprint(b)
	for _, cut := range d.Model.Cuts {
		lines = mirrored(lines, cut)
	}
	loops, open := closed(lines)
	switch {
	case !even:
		return refuse("its section is not the same at all heights")
	case open || len(loops) == 1:
		return refuse("it does not close round a hole")
	case len(loops) != 2:
		return refuse(fmt.Sprintf("%d lines bound it in the plan, not two", len(loops)))
	}
	outer, inner := loops[0], loops[1]
	if math.Abs(enclosed(outer)) < math.Abs(enclosed(inner)) {
		outer, inner = inner, outer
	}
	if !within(outer, inner[0]) {
		return refuse("it is in two pieces")
	}
	w := newWinding(b, low, high, outer, inner)
	w.Turns, w.Current = c.Laws["turns"], c.Laws["current"]
	return w, nil
}

// line is one in the plan, m.
type line [2][2]float64

// footprint has the lines that bound a body in the plan, without those on cuts, and its heights; even says that it is the same at all of
// them.
func (d *draft) footprint(b int32) (list []line, low, high float64, even bool) {
	low, high = math.Inf(1), math.Inf(-1)
	type wall struct {
		line
		height float64
	}
	found, order := map[[4]int64]*wall{}, [][4]int64{}
	for i := range d.Mesh.Facets {
		f := &d.Mesh.Facets[i]
		if (f.Body == b) == (f.Other >= 0 && f.OtherBody == b) {
			continue
		}
		corners := f.Corners()
		var ends [][2]float64
		bottom, top := math.Inf(1), math.Inf(-1)
		for _, v := range corners {
			x := d.Mesh.At(v)
			bottom, top = min(bottom, x[2]), max(top, x[2])
			if p := [2]float64{x[0], x[1]}; len(ends) == 0 || len(ends) == 1 && place(p) != place(ends[0]) {
				ends = append(ends, p)
			}
		}
		low, high = min(low, bottom), max(high, top)
		if top-bottom < 1e-12 || len(ends) < 2 || f.Other < 0 && d.onCut(ends) {
			continue
		}
		l := line{ends[0], ends[1]}
		p, q := place(l[0]), place(l[1])
		if p[0] > q[0] || p[0] == q[0] && p[1] > q[1] {
			p, q = q, p
		}
		key := [4]int64{p[0], p[1], q[0], q[1]}
		if found[key] == nil {
			found[key] = &wall{line: l}
			order = append(order, key)
		}
		found[key].height += top - bottom
	}
	even = true
	for _, key := range order {
		w := found[key]
		list, even = append(list, w.line), even && math.Abs(w.height-(high-low)) < 1e-6*(high-low)
	}
	return list, low, high, even
}

// place is a point as a key.
func place(p [2]float64) [2]int64 {
	return [2]int64{int64(math.Round(p[0] * 1e9)), int64(math.Round(p[1] * 1e9))}
}

// onCut says that a line lies on a plane at which the device is cut.
func (d *draft) onCut(ends [][2]float64) bool {
	for _, c := range d.Model.Cuts {
		if c.Axis < 2 && math.Abs(ends[0][c.Axis]-c.At) < 1e-9 && math.Abs(ends[1][c.Axis]-c.At) < 1e-9 {
			return true
		}
	}
	return false
}

// mirrored adds what a cut has left out.
func mirrored(list []line, cut mesh.Cut) []line {
	if cut.Axis > 1 {
		return list
	}
	for _, l := range list[:len(list):len(list)] {
		for i := range l {
			l[i][cut.Axis] = 2*cut.At - l[i][cut.Axis]
		}
		list = append(list, l)
	}
	return list
}

// closed joins lines to closed ones; open says that some are not.
func closed(list []line) (loops [][][2]float64, open bool) {
	at := map[[2]int64][]int{}
	for i, l := range list {
		for _, p := range l {
			at[place(p)] = append(at[place(p)], i)
		}
	}
	used := make([]bool, len(list))
	for i, l := range list {
		if used[i] {
			continue
		}
		used[i] = true
		loop, here := [][2]float64{l[0]}, l[1]
		for place(here) != place(l[0]) {
			next := -1
			for _, k := range at[place(here)] {
				if !used[k] {
					next = k
				}
			}
			if next < 0 {
				return nil, true
			}
			used[next] = true
			loop = append(loop, here)
			if l := list[next]; place(l[0]) == place(here) {
				here = l[1]
			} else {
				here = l[0]
			}
		}
		loops = append(loops, loop)
	}
	return loops, false
}
