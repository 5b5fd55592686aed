package drawing

import (
	"math"

	"saltkettle/core/model"
	"saltkettle/core/sentence"
	"saltkettle/core/shape"
)

// Way is a direction that a sentence gives a part, drawn in the middle of each copy of it.
type Way struct {
	Part string     `json:"part"`
	At   [3]float64 `json:"at"` // m
	// Along is where it goes, of length 1, or if it turns what it turns round; Size is about how large it is drawn, m.
	Along [3]float64 `json:"along"`
	Turns bool       `json:"turns,omitempty"`
	Size  float64    `json:"size"`
}

// ways collects the directions of conditions whose values are numbers.
func (s *Scene) ways(r *model.Resolved) {
	for i := range r.Conditions {
		c := &r.Conditions[i]
		for _, part := range c.Parts {
			var along [3]float64
			turns := false
			switch kind := c.Definition; {
			case kind.Way != [3]string{}:
				for k, slot := range kind.Way {
					if l := c.Laws[slot]; l != nil {
						along[k], _ = l.Constant()
					}
				}
				cos, sin := math.Cos(r.Parts[part].Turn), math.Sin(r.Parts[part].Turn)
				along[0], along[1] = along[0]*cos-along[1]*sin, along[0]*sin+along[1]*cos
			case len(kind.Round) > 0:
				along[2] = 1
				for _, name := range kind.Round {
					l := c.Laws[name]
					if l == nil {
						along[2] = 0 // it is still to be said
						break
					}
					slot, _ := kind.Slot(name)
					switch v, constant := l.Constant(); {
					case constant:
						along[2] *= v
					case slot.May&sentence.Place != 0:
						along[2] = 0 // it may be another one elsewhere
					}
				}
				if r.Document.Space.Kind == model.Axial {
					along[2] = -along[2] // round y, on the right of it
				}
				turns = !r.Document.Space.Flat()
			}
			long := math.Sqrt(along[0]*along[0] + along[1]*along[1] + along[2]*along[2])
			if long == 0 {
				continue
			}
			for k := range along {
				along[k] /= long
			}
			for _, b := range r.Bodies {
				if b.Part == part {
					at, wide := middle(b)
					if turns {
						at[2] = b.Z1
					}
					s.Ways = append(s.Ways, Way{Part: r.Parts[part].ID, At: at, Along: along, Turns: turns, Size: wide})
				}
			}
		}
	}
}

// middle of a body, m, and the lesser one of its extents in plan.
func middle(b shape.Body) (at [3]float64, wide float64) {
	lo, hi := b.Outline.Box()
	return [3]float64{(lo.X + hi.X) / 2, (lo.Y + hi.Y) / 2, (b.Z0 + b.Z1) / 2}, min(hi.X-lo.X, hi.Y-lo.Y)
}
