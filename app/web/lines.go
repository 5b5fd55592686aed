package web

import (
	"encoding/json"
	"errors"
	"net/http"
	"slices"
	"strings"

	"saltkettle/core/model"
	"saltkettle/core/plate"
	"saltkettle/core/result"
)

// lineView is a line of a plate as fields.
type lineView struct {
	Place                       string
	Number                      int
	Kind                        field
	From, To, By                []field
	Radius, Around              field
	Side, Height                field
	Count, Also                 field
	Circle, OnSide, Solid, More bool
	Along                       bool
}

// overlayView is a run that can be laid over others.
type overlayView struct {
	ID     uint
	Number int
	Chosen bool
}

// lines lists those of a plate.
func (k *briefMaker) lines(p *model.Plate) []lineView {
	var list []lineView
	axes := k.doc.Space.Axes()
	for i, l := range p.Lines {
		place := "plates/" + p.ID + "/lines/" + l.ID
		v := lineView{Place: place, Number: i + 1, Circle: l.Kind == model.Circle, OnSide: l.Kind == model.OnSide, Along: l.Kind == model.Along, Solid: !k.doc.Space.Flat(), More: l.Count != ""}
		v.Kind = k.choice(place+"/kind", l.Kind, "kind of line", []string{"", model.Circle, model.OnSide, model.Along}, []string{"a straight line", "a circle", "the edge of a side", "the way"})
		vector := func(name, words string, texts [3]string) (fields []field) {
			for _, a := range axes {
				fields = append(fields, k.field(place+"/"+name+"_"+a, texts[strings.Index("xyz", a)], words+", "+a, "0"))
			}
			return fields
		}
		v.From = vector("from", map[bool]string{true: "middle of the circle", false: "start of the line"}[v.Circle], [3]string{l.FromX, l.FromY, l.FromZ})
		v.To = vector("to", "end of the line", [3]string{l.ToX, l.ToY, l.ToZ})
		v.By = vector("by", "step from line to line", [3]string{l.ByX, l.ByY, l.ByZ})
		v.Radius = k.field(place+"/radius", l.Radius, "radius of the circle", "radius")
		v.Around = k.field(place+"/around", l.Around, "axis that the circle runs round, or a direction such as 1, 1, 0", "z")
		v.Height = k.field(place+"/height", l.Height, "height of the line, as a part of that of the part", "0")
		v.Count = k.field(place+"/count", l.Count, "number of lines", "1")
		v.Also = k.field(place+"/also", l.Also, "quantities that are drawn too, with ; between them", "nothing else")
		v.Also.List = "quantities"
		names, words := k.partSides(func(i int) []string { return k.resolved.Parts[i].Outline.Sides() })
		if v.Along {
			names, words = k.lineParts()
		}
		if !slices.Contains(names, l.Side) {
			names, words = append(names, l.Side), append(words, "choose a side")
		}
		v.Side = k.choice(place+"/side", l.Side, "side that the line runs along", names, words)
		list = append(list, v)
	}
	return list
}

// mostSides is how many sides of parts are offered in a list; of a device with more the first ones are.
const mostSides = 300

// partSides are sides of parts that are solved, as patches and in words; of names the sides of a part by
// its number.
func (k *briefMaker) partSides(of func(part int) []string) (names, words []string) {
	for i := range k.doc.Parts {
		own := &k.resolved.Parts[i]
		if own.Part == nil || own.Role != model.Solved || own.Outline == nil {
			continue
		}
		for _, side := range of(i) {
			if len(names) == mostSides {
				return names, words
			}
			patch := model.Patch{Part: own.ID, Side: side}
			names, words = append(names, patch.String()), append(words, k.doc.PatchWords(patch))
		}
	}
	return names, words
}

// lineParts are the parts that are lines, as patches and in words.
func (k *briefMaker) lineParts() (names, words []string) {
	for i := range k.doc.Parts {
		if p := &k.doc.Parts[i]; p.IsLine() {
			patch := model.Patch{Part: p.ID}
			names, words = append(names, patch.String()), append(words, k.doc.PatchWords(patch))
		}
	}
	return names, words
}

// firstLine is the first part that is a line, as a patch, "" if there is none.
func (k *briefMaker) firstLine() string {
	if names, _ := k.lineParts(); len(names) > 0 {
		return names[0]
	}
	return ""
}

// alongLine is at how many places a line is drawn.
const alongLine = 401

// mostPlaces is how many places a request can ask for.
const mostPlaces = 1000

// at answers with a field at places, SI, null where there is nothing.
func (s *platesPage) at(w http.ResponseWriter, r *http.Request) {
	count := strings.Count(r.URL.Query().Get("places"), ",") + 1
	numbers, ok := numbersIn(r, "places", count)
	if !ok || count%3 != 0 || count > 3*mostPlaces {
		http.Error(w, "Places have three coordinates each, in metres.", http.StatusBadRequest)
		return
	}
	a, ok := s.ask(w, r)
	if !ok {
		return
	}
	var places [][3]float64
	for i := 0; i < count; i += 3 {
		places = append(places, [3]float64(numbers[i:i+3]))
	}
	answerJSON(w, placesAnswer{result.Values(a.in.At(places, a.values)[0]), allValues(a.in.At(places, a.bent...))})
}

// placesAnswer is the values of a field at places, SI, and by how much the drawing is bent there, component
// by component, m.
type placesAnswer struct {
	Values result.Values   `json:"values"`
	Bent   []result.Values `json:"bent,omitempty"`
}

func allValues(lists [][]float64) (out []result.Values) {
	for _, l := range lists {
		out = append(out, l)
	}
	return out
}

// answerJSON sends what depends on a model that changes.
func answerJSON(w http.ResponseWriter, answer any) {
	w.Header().Set("Content-Type", "application/json")
	w.Header().Set("Cache-Control", "no-store")
	_ = json.NewEncoder(w).Encode(answer) // the other side may have gone
}

// wayIn reads a way as plates have it.
func wayIn(text string) (plate.Way, error) {
	var w model.PlateWay
	if err := json.Unmarshal([]byte(text), &w); err == nil {
		switch {
		case w.Ends != nil:
			if l := (plate.Line{From: [3]float64(w.Ends[:3]), To: [3]float64(w.Ends[3:])}); l.Length() > 0 {
				return l, nil
			}
		case w.Circle != nil && w.Circle[6] > 0:
			return plate.Circle{Middle: [3]float64(w.Circle[:3]), Round: [3]float64(w.Circle[3:6]), Radius: w.Circle[6]}, nil
		case len(w.Path) >= 6 && len(w.Path)%3 == 0 && len(w.Path) <= 3*mostPlaces:
			var corners [][3]float64
			for i := 0; i < len(w.Path); i += 3 {
				corners = append(corners, [3]float64(w.Path[i:i+3]))
			}
			if p := plate.NewPath(corners); p.Length() > 0 {
				return p, nil
			}
		}
	}
	return nil, &userError{errors.New("a way has two ends, a circle, or the corners of a path, in metres")}
}

// line answers with a field along a way: how far, m, and the values, SI, null where there is nothing.
func (s *platesPage) line(w http.ResponseWriter, r *http.Request) {
	way, err := wayIn(r.URL.Query().Get("way"))
	if err != nil {
		s.fail(w, r, err)
		return
	}
	a, ok := s.ask(w, r)
	if !ok {
		return
	}
	far, values := a.in.Along(way, alongLine, a.values)
	answerJSON(w, struct {
		Far    []float64     `json:"far"`
		Values result.Values `json:"values"`
	}{far, values[0]})
}
