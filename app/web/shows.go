package web

import (
	"fmt"
	"slices"

	"saltkettle/core/model"
	"saltkettle/core/physics"
	"saltkettle/core/plate"
	"saltkettle/core/result"
)

// showView is what shows vectors on a plate, or a probe, as fields: arrows, streams or probes.
type showView struct {
	Place  string
	Number int
	Count  field
	Field  field
	Where  field // where arrows stand and streams begin
	Length field // of arrows
	At     []field
}

// vectorsOf are the vectors, and if they are wanted the tensors, of which a result has components.
func vectorsOf(res *result.Result, tensors bool) (names, words []string) {
	for _, v := range physics.Catalog().Vectors() {
		if (tensors || !v.Tensor) && hasVector(res, v.Name) {
			names, words = append(names, v.Name), append(words, v.Words)
		}
	}
	return names, words
}

// hasVector says that a result has the components of a vector.
func hasVector(res *result.Result, name string) bool {
	return len(plate.Components(res.Fields, name)) > 0
}

// vector is the field of a vector, with what a document has although the result has it not.
func (k *briefMaker) vector(place, value string, res *result.Result, tensors bool) field {
	names, words := vectorsOf(res, tensors)
	if !slices.Contains(names, value) {
		names, words = append(names, value), append(words, value)
	}
	return k.choice(place+"field", value, "vector that is shown", names, words)
}

// arrows lists those of a plate.
func (k *briefMaker) arrows(p *model.Plate, res *result.Result) []showView {
	var list []showView
	for i, a := range p.Arrows {
		at := "plates/" + p.ID + "/arrows/" + a.ID
		place := at + "/"
		where, words := []string{model.Inside, model.OnSurface, model.OnSlices}, []string{"within the parts", "on the surface", "on the slices"}
		if k.doc.Space.Flat() {
			where, words = where[:1], words[:1]
		}
		list = append(list, showView{Place: at, Number: i + 1, Count: k.field(place+"count", a.Count, "number of arrows", "300"), Field: k.vector(place, a.Field, res, true),
			Where:  k.choice(place+"on", a.On, "where arrows stand", where, words),
			Length: k.choice(place+"length", a.Length, "length of arrows", []string{"", model.Equal}, []string{"as their size", "the same"})})
	}
	return list
}

// streams lists those of a plate.
func (k *briefMaker) streams(p *model.Plate, res *result.Result) []showView {
	var list []showView
	for i, s := range p.Streams {
		at := "plates/" + p.ID + "/streams/" + s.ID
		place := at + "/"
		from, words := []string{model.Everywhere}, []string{"everywhere"}
		for j := range k.doc.Parts {
			if q := &k.doc.Parts[j]; k.resolved.Parts[j].Part != nil && k.resolved.Parts[j].Role == model.Solved {
				from, words = append(from, "parts/"+q.ID), append(words, "in the "+q.Name)
			}
		}
		for j, l := range p.Lines {
			from, words = append(from, "lines/"+l.ID), append(words, "on the line "+lineLetters(j))
		}
		for j, b := range p.Probes {
			from, words = append(from, "probes/"+b.ID), append(words, fmt.Sprintf("at the probe %d", j+1))
		}
		sides, called := k.partSides(k.resolved.Sides)
		for j, side := range sides {
			from, words = append(from, "sides/"+side), append(words, "at the "+called[j])
		}
		if !slices.Contains(from, s.From) {
			from, words = append(from, s.From), append(words, s.From)
		}
		list = append(list, showView{Place: at, Number: i + 1, Count: k.field(place+"count", s.Count, "number of streams", "60"), Field: k.vector(place, s.Field, res, false),
			Where: k.choice(place+"from", s.From, "where streams begin", from, words)})
	}
	return list
}

// lineLetters are what the ends of a line of a plate are called on the drawing.
func lineLetters(i int) string {
	if i >= 13 {
		return "further on"
	}
	return string(rune('A'+2*i)) + " to " + string(rune('B'+2*i))
}

// probes lists those of a plate.
func (k *briefMaker) probes(p *model.Plate) []showView {
	var list []showView
	for i, b := range p.Probes {
		v := showView{Place: "plates/" + p.ID + "/probes/" + b.ID, Number: i + 1}
		texts := map[string]string{"x": b.X, "y": b.Y, "z": b.Z}
		for _, a := range k.doc.Space.Axes() {
			v.At = append(v.At, k.field(v.Place+"/"+a, texts[a], a+" of the probe", "0"))
		}
		list = append(list, v)
	}
	return list
}

// showConfig is arrows or streams as the script needs them.
type showConfig struct {
	Vector string `json:"vector"`
	Count  int    `json:"count"`
	On     string `json:"on,omitempty"`
	Equal  bool   `json:"equal,omitempty"`
	// Part is that in which streams begin, −1 for all, Ways those on which they begin, Side the patch,
	// and Near the place, m.
	Part int              `json:"part"`
	Ways []model.PlateWay `json:"ways,omitempty"`
	Side string           `json:"side,omitempty"`
	Near *[3]float64      `json:"near,omitempty"`
}

// lookConfig is how a plate shows its field.
type lookConfig struct {
	Map         string  `json:"map"`
	Logarithmic bool    `json:"logarithmic"`
	Bands       int     `json:"bands"`
	Bent        float64 `json:"bent"`
	Automatic   bool    `json:"automatic"`
}

// shows fills in what a plate shows of vectors that a result has.
func (c *plateConfig) shows(r *model.Resolved, p *model.Plate, res *result.Result) {
	c.Arrows, c.Streams = []showConfig{}, []showConfig{}
	for _, a := range r.PlateArrows(p, physics.Catalog()) {
		if hasVector(res, a.Field) {
			c.Arrows = append(c.Arrows, showConfig{Vector: a.Field, Count: a.Count, On: a.On, Equal: a.Equal, Part: -1})
		}
	}
	for _, s := range r.PlateStreams(p, physics.Catalog()) {
		if hasVector(res, s.Field) {
			show := showConfig{Vector: s.Field, Count: s.Count, Part: s.Part, Ways: s.Ways, Near: s.Near}
			if s.Side != nil {
				show.Side = s.Side.String()
			}
			c.Streams = append(c.Streams, show)
		}
	}
	c.Probes, c.Look = r.PlateProbes(p), lookConfig(r.PlateLook(p))
	c.Bends, c.BendsToo = bends(res)
}

// bends is the vector of a result by which its device can be drawn bent, "" for none; of what swings it is
// the real part, and there is an imaginary one.
func bends(res *result.Result) (vector, imaginary string) {
	for _, f := range physics.Catalog().Fields {
		if !f.Bends || !hasVector(res, f.Name) {
			continue
		}
		if real := result.PartOf(f.Name, result.RealPart); hasVector(res, real) {
			return real, result.PartOf(f.Name, result.ImaginaryPart)
		}
		return f.Name, ""
	}
	return "", ""
}
