package solid

import (
	"math"
	"slices"
	"strings"

	"saltkettle/core/couple"
	"saltkettle/core/model"
	"saltkettle/core/shape"
)

// loosely finds the motions that nothing which is said keeps the device from, taken as one piece, from the shapes alone; sure
// is false where they do not tell. The mesh has the last word of it, piece by piece.
func loosely(r *model.Resolving) (free []couple.Motion, sure bool) {
	h := holding{r: r, form: formOf(r.Resolved), lo: [3]float64{math.Inf(1), math.Inf(1), math.Inf(1)}, hi: [3]float64{math.Inf(-1), math.Inf(-1), math.Inf(-1)}}
	for i := range r.Bodies {
		b := &r.Bodies[i]
		if !r.Lives(key, b.Part) {
			continue
		}
		if b.Solid != nil || b.Outline.Loops == nil {
			return nil, false
		}
		lo, hi := b.Outline.Box()
		for d, ends := range [3][2]float64{{lo.X, hi.X}, {lo.Y, hi.Y}, {b.Z0, b.Z1}} {
			h.lo[d], h.hi[d] = min(h.lo[d], ends[0]), max(h.hi[d], ends[1])
		}
	}
	for _, c := range r.Cuts {
		h.cut(c.Axis, c.At)
	}
	if h.form == Round {
		h.know([3]float64{}, [3]float64{1, 0, 0})
	}
	for i := range r.Conditions {
		c := &r.Conditions[i]
		if model.Of(c.Kind) != key || !c.Definition.Anchors {
			if c.Kind == KeyGlides || c.Kind == KeyParted {
				return nil, false
			}
			continue
		}
		if !h.takes(c) {
			return nil, false
		}
	}
	return couple.Free(h.form.components(), h.form == Round, h.at, h.along), true
}

// holding collects places and the directions in which they are held.
type holding struct {
	r         *model.Resolving
	form      Form
	lo, hi    [3]float64
	at, along [][3]float64
}

func (h *holding) know(at, along [3]float64) {
	h.at, h.along = append(h.at, at), append(h.along, along)
}

// cut holds the ends of a plane of symmetry across it.
func (h *holding) cut(axis int, at float64) {
	var n [3]float64
	n[axis] = 1
	a, b := (axis+1)%3, (axis+2)%3
	for _, ends := range [4][2]float64{{h.lo[a], h.lo[b]}, {h.hi[a], h.lo[b]}, {h.lo[a], h.hi[b]}, {h.hi[a], h.hi[b]}} {
		var x [3]float64
		x[axis], x[a], x[b] = at, ends[0], ends[1]
		h.know(x, n)
	}
}

// takes takes in what a sentence holds; false if the shapes do not tell.
func (h *holding) takes(c *model.ResolvedSentence) bool {
	var axesHeld [3]bool
	switch c.Kind {
	case KeyFixed:
		axesHeld = [3]bool{true, true, true}
	case KeyMoved, KeyBed, KeySprings:
		for i, name := range axes {
			v := c.Laws[name]
			axesHeld[i] = v != nil && (c.Kind == KeyMoved || !isZero(v))
		}
	case KeySlides:
	default:
		return false
	}
	added, taken, box := c.On.Terms()
	if len(taken) > 0 || box != nil {
		return false
	}
	for _, t := range added {
		if t.Facing != "" && t.Facing != model.Outside {
			return false
		}
		for i := range h.r.Bodies {
			b := &h.r.Bodies[i]
			if !slices.Contains(h.r.PartsNamed(t.Part), b.Part) || !t.Has(b.Copy+1) {
				continue
			}
			h.eachPlace(b, t.Side, func(x, normal [3]float64) {
				if c.Kind == KeySlides {
					h.know(x, normal)
					return
				}
				for d, is := range axesHeld {
					var n [3]float64
					if n[d] = 1; is {
						h.know(x, n)
					}
				}
			})
		}
	}
	return true
}

// eachPlace calls f for places on a side of a body, with the normal there.
func (h *holding) eachPlace(b *shape.Body, side string, f func(x, normal [3]float64)) {
	whole := side == model.WholeSurface || side == ""
	heights := []float64{b.Z0, b.Z1}
	if h.form != Space {
		heights = heights[:1]
	}
	for _, l := range b.Outline.Loops {
		for _, e := range l {
			from := e.From
			for _, to := range e.Chords(0) {
				length := math.Hypot(to.X-from.X, to.Y-from.Y)
				normal := [3]float64{(to.Y - from.Y) / length, (from.X - to.X) / length, 0}
				for _, p := range []shape.Point{from, to} {
					if e.Name == side || whole {
						for _, z := range heights {
							f([3]float64{p.X, p.Y, z}, normal)
						}
					}
					if h.form == Space && (side == shape.Bottom || whole) {
						f([3]float64{p.X, p.Y, b.Z0}, [3]float64{0, 0, -1})
					}
					if h.form == Space && (side == shape.Top || whole) {
						f([3]float64{p.X, p.Y, b.Z1}, [3]float64{0, 0, 1})
					}
				}
				from = to
			}
		}
	}
}

// looseWords are those for motions.
func looseWords(list []couple.Motion) string {
	var ways []string
	for _, m := range list {
		ways = append(ways, motionWords(m))
	}
	return strings.Join(ways, ", ")
}

// motions are those of a finding.
func motions(list []couple.Motion) (out []model.Motion) {
	for _, m := range list {
		out = append(out, model.Motion{Move: m.Move, Turn: m.Turn, Through: m.Through})
	}
	return out
}
