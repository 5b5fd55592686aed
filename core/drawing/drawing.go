// Package drawing turns the bodies of a model into pictures: the scene that a
// browser draws in three dimensions, and small line drawings as SVG.
package drawing

import (
	"math"
	"slices"
	"strings"

	"saltkettle/core/model"
	"saltkettle/core/shape"
)

// tones are the colours of the families of materials: lightest for faces that
// look up, darker for the sides.
var tones = map[string][3]string{
	"metal":      {"#eaf0f1", "#d3dadd", "#bfc9cc"},
	"light":      {"#f1f3f4", "#dde2e5", "#c9d0d4"},
	"copper":     {"#e8c1ab", "#d5a489", "#c28c70"},
	"iron":       {"#cfd4d6", "#b5bcbf", "#9ea7ab"},
	"brick":      {"#efe9da", "#ded6c2", "#cbc0a8"},
	"glass":      {"#e3f0ee", "#cbe1de", "#b4d0cc"},
	"insulation": {"#f6ecd0", "#e9dbb2", "#d9c894"},
	"plastic":    {"#e6e2ef", "#d0cadf", "#bab2cd"},
	"wood":       {"#ead9bd", "#d8c09a", "#c4a87d"},
	"liquid":     {"#d5e8ee", "#b8d6e0", "#9cc3d0"},
	"gas":        {"#f2f6f8", "#e4ecf0", "#d5e0e6"},
}

// paperTones are for parts without a material.
var paperTones = [3]string{"#faf8f2", "#efece3", "#e2ded2"}

// Tones returns the colours of a family of materials.
func Tones(family string) [3]string {
	if t, ok := tones[family]; ok {
		return t
	}
	return paperTones
}

// Scene is what a browser needs to draw a model and to know what was clicked.
type Scene struct {
	Unit  string  `json:"unit"`
	Scale float64 `json:"scale"` // drawing units in one metre
	Parts []Part  `json:"parts"`
	Flags []Flag  `json:"flags"`
	// Flat says that outlines are sections: their tops are no surfaces of the device.
	Flat bool `json:"flat,omitempty"`
	// Overlaps are where two parts are at once that should not be.
	Overlaps []Overlap `json:"overlaps,omitempty"`
	// Motions are those that nothing keeps the device from, although something must.
	Motions []model.Motion `json:"motions,omitempty"`
	// Cuts are the planes beyond which the device is left out.
	Cuts []CutPlane `json:"cuts,omitempty"`
	// Ways are directions that sentences give parts.
	Ways []Way `json:"ways,omitempty"`
	// Symbols are what stands at points of lines.
	Symbols []Symbol `json:"symbols,omitempty"`
}

// Overlap is a prism: triangles in plan, m, from Z0 to Z1.
type Overlap struct {
	Place     string          `json:"place"` // of the finding about it
	Triangles [][3][2]float64 `json:"triangles"`
	Z0        float64         `json:"z0"`
	Z1        float64         `json:"z1"`
}

// CutPlane is a plane across an axis, 0 to 2, at a place, m.
type CutPlane struct {
	Axis    int     `json:"axis"`
	At      float64 `json:"at"`
	Greater bool    `json:"greater"`
}

// Part is a part with its copies.
type Part struct {
	ID     string    `json:"id"`
	Number int       `json:"number"`
	Name   string    `json:"name"`
	Shown  bool      `json:"shown"` // not solved
	Clear  bool      `json:"clear"` // one sees through it: a fluid, or what is round the device
	Tones  [3]string `json:"tones"`
	Sides  []Side    `json:"sides"`
	Copies []Body    `json:"copies"`
}

// Side names a side of a part in words.
type Side struct {
	Name  string `json:"name"`
	Words string `json:"words"`
}

// Body is one copy: loops of points in plan, m, with the side of the edge that
// begins at each point, and the span in z.
type Body struct {
	Loops []Loop  `json:"loops"`
	Z0    float64 `json:"z0"`
	Z1    float64 `json:"z1"`
	// Solid is the surface of a body that is no extrusion: it is drawn instead.
	Solid *Solid `json:"solid,omitempty"`
	// Smooth says that it is round all over, as a pipe.
	Smooth bool `json:"smooth,omitempty"`
}

// Solid is triangles with the number of the side of each.
type Solid struct {
	Points    [][3]float64 `json:"points"` // m
	Triangles [][3]int32   `json:"triangles"`
	Side      []int        `json:"side"`
}

// Loop is a closed polygon. Corner tells which points are corners rather than
// points on an arc.
type Loop struct {
	Points [][2]float64 `json:"points"`
	Side   []int        `json:"side"`
	Corner []bool       `json:"corner"`
}

// Flag marks where a sentence acts.
type Flag struct {
	ID      string    `json:"id"`
	Reading bool      `json:"reading"`
	On      []Flagged `json:"on"`
	Words   string    `json:"words"`
}

// Flagged is a side of a part, or all of them, that a sentence is about.
type Flagged struct {
	Part string `json:"part"`
	Side string `json:"side"`
	Copy int    `json:"copy"`
}

// flagged lists what of the parts a patch is about.
func flagged(r *model.Resolved, p model.Patch) (list []Flagged) {
	added, taken, _ := p.Terms()
	for _, t := range added {
		for _, i := range r.PartsNamed(t.Part) {
			id := r.Document.Parts[i].ID
			without := func(but model.Patch) bool {
				return slices.Contains(r.PartsNamed(but.Part), i) && but.Facing == "" && (but.Side == "" || but.Side == t.Side)
			}
			if !slices.ContainsFunc(taken, without) {
				list = append(list, Flagged{id, t.Side, t.Copy})
			}
		}
	}
	return list
}

// scales are the drawing units in one metre.
var scales = map[string]float64{"mm": 1e3, "cm": 1e2, "m": 1, "µm": 1e6, "in": 1 / 0.0254}

// Scale returns a unit of length and how many of it are in one metre; an unknown
// unit becomes the metre.
func Scale(unit string) (string, float64) {
	if k := scales[unit]; k > 0 {
		return unit, k
	}
	return "m", 1
}

// NewScene collects the parts that can be drawn and the flags of the sentences.
func NewScene(r *model.Resolved, cat *model.Catalog) *Scene {
	doc := r.Document
	s := &Scene{Parts: []Part{}, Flags: []Flag{}, Flat: doc.Space.Flat()}
	s.Unit, s.Scale = Scale(doc.Space.Unit)
	s.Motions = r.Loose
	for i := range r.Parts {
		p := &r.Parts[i]
		if p.Outline == nil {
			continue
		}
		part := Part{ID: p.ID, Number: i + 1, Name: p.Name, Shown: p.Role != model.Solved, Tones: Tones(p.Material.Family), Clear: isClear(p)}
		names := append([]string{""}, r.LineSides(i)...)
		if len(names) == 1 {
			names = append(p.Outline.Sides(), shape.Top, shape.Bottom) // also of a flat space: there they are what is seen
		}
		index := map[string]int{}
		for k, name := range names {
			index[name] = k
			part.Sides = append(part.Sides, Side{name, doc.PatchWords(model.Patch{Part: p.ID, Side: name})})
		}
		for _, b := range r.Bodies {
			if b.Part == i {
				part.Copies = append(part.Copies, newBody(b, index))
			}
		}
		s.Parts = append(s.Parts, part)
	}
	for _, o := range r.Overlaps {
		prism := Overlap{Place: o.Place, Z0: o.Z0, Z1: o.Z1}
		for _, t := range o.Triangles {
			prism.Triangles = append(prism.Triangles, [3][2]float64{{t[0].X, t[0].Y}, {t[1].X, t[1].Y}, {t[2].X, t[2].Y}})
		}
		s.Overlaps = append(s.Overlaps, prism)
	}
	for _, c := range r.Cuts {
		s.Cuts = append(s.Cuts, CutPlane{c.Axis, c.At, c.Greater})
	}
	flags := func(list []model.Sentence, reading bool) {
		for i := range list {
			q := &list[i]
			if on := flagged(r, q.On); !q.Off && len(on) > 0 {
				s.Flags = append(s.Flags, Flag{ID: q.ID, Reading: reading, On: on, Words: doc.Words(cat, q)})
			}
		}
	}
	flags(doc.Conditions, false)
	flags(doc.Readings, true)
	s.ways(r)
	s.symbols(r)
	return s
}

// isClear says that a part hides what is in it, and is drawn so that it does not.
func isClear(p *model.ResolvedPart) bool {
	return p.Material.Family == "gas" || p.Fill != nil || strings.HasSuffix(p.Part.Outline.Kind, "-around")
}

// newSolid tells the sides of a surface apart by where its triangles face.
func newSolid(s *shape.Surface, index map[string]int) *Solid {
	out := &Solid{Points: s.Points, Triangles: s.Triangles}
	for _, t := range s.Triangles {
		n := normal(s.Points[t[0]], s.Points[t[1]], s.Points[t[2]])
		name := ""
		x, y, z := math.Abs(n[0]), math.Abs(n[1]), math.Abs(n[2])
		switch {
		case z >= x && z >= y:
			name = map[bool]string{true: shape.Top, false: shape.Bottom}[n[2] > 0]
		case x >= y:
			name = map[bool]string{true: "right", false: "left"}[n[0] > 0]
		default:
			name = map[bool]string{true: "back", false: "front"}[n[1] > 0]
		}
		out.Side = append(out.Side, index[name])
	}
	return out
}

func newBody(b shape.Body, index map[string]int) Body {
	out := Body{Z0: b.Z0, Z1: b.Z1}
	switch {
	case b.Line != nil:
		out.Smooth = true
		out.Solid = &Solid{Points: b.Solid.Points, Triangles: b.Solid.Triangles}
		for _, n := range b.Nearest {
			side := index[""]
			if n >= 0 {
				side = index[b.Line.Points[n].Name]
			}
			out.Solid.Side = append(out.Solid.Side, side)
		}
	case b.Solid != nil:
		out.Solid = newSolid(b.Solid, index)
	}
	for _, loop := range b.Outline.Loops {
		var l Loop
		for _, e := range loop {
			from := e.From
			for k, to := range e.Chords(0) {
				l.Points = append(l.Points, [2]float64{from.X, from.Y})
				l.Side = append(l.Side, index[e.Name])
				l.Corner = append(l.Corner, k == 0 && !e.Arc)
				from = to
			}
		}
		out.Loops = append(out.Loops, l)
	}
	return out
}
