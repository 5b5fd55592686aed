package drawing

import (
	"math"

	"saltkettle/core/model"
	"saltkettle/core/shape"
)

// Symbol is what stands at a point of a line.
type Symbol struct {
	Part string `json:"part"`
	// Kind is what its sentence says, or "meter" for what a reading is taken at.
	Kind string     `json:"kind"`
	At   [3]float64 `json:"at"` // m
	// Along is the way of the line there, of length 1, at an end out of it; Size is about how large it is drawn, m.
	Along [3]float64 `json:"along"`
	Size  float64    `json:"size"`
}

// symbols collects what stands at points of lines, each once.
func (s *Scene) symbols(r *model.Resolved) {
	type place struct {
		kind string
		at   [3]float64
	}
	seen := map[place]bool{}
	size := 3.2 * r.DrawnWidth()
	add := func(kind string, on model.Patch) {
		added, _, _ := on.Terms()
		for _, t := range added {
			for _, part := range r.PartsNamed(t.Part) {
				for _, b := range r.Bodies {
					if b.Part != part || b.Line == nil || !t.Has(b.Copy+1) {
						continue
					}
					for i, q := range b.Line.Points {
						if q.Name == t.Side && !seen[place{kind, q.At}] {
							seen[place{kind, q.At}] = true
							s.Symbols = append(s.Symbols, Symbol{Part: r.Parts[part].ID, Kind: kind, At: middleOf(b.Line, i), Along: outward(b.Line, i), Size: size})
						}
					}
				}
			}
		}
	}
	for i := range r.Conditions {
		if c := &r.Conditions[i]; c.Definition.Symbol != "" {
			add(c.Definition.Symbol, c.On)
		}
	}
	for i := range r.Readings {
		add("meter", r.Readings[i].On)
	}
}

// middleOf is where a line is at one of its points: of a rounded corner the middle of its arc.
func middleOf(l *shape.Line, point int) [3]float64 {
	for _, s := range l.Stations() {
		if s.Point == point {
			return s.At
		}
	}
	return l.Points[point].At
}

// outward is the way of a line at a point, at its ends out of it.
func outward(l *shape.Line, i int) (along [3]float64) {
	a, b := l.Points[max(0, i-1)].At, l.Points[min(i+1, len(l.Points)-1)].At
	if i == 0 {
		a, b = b, a
	}
	long := 0.0
	for d := range along {
		along[d] = b[d] - a[d]
		long = math.Hypot(long, along[d])
	}
	for d := range along {
		along[d] /= max(long, 1e-300)
	}
	return along
}
