package web

import (
	"encoding/json"
	"net/http"
	"strings"

	"saltkettle/core/model"
	"saltkettle/core/plate"
	"saltkettle/core/result"
)

// lineView is a line of a plate as fields.
type lineView struct {
	Place    string
	Number   int
	From, To []field
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
		v := lineView{Place: place, Number: i + 1}
		texts := map[string]string{"from_x": l.FromX, "from_y": l.FromY, "from_z": l.FromZ, "to_x": l.ToX, "to_y": l.ToY, "to_z": l.ToZ}
		for _, a := range axes {
			v.From = append(v.From, k.field(place+"/from_"+a, texts["from_"+a], "start of the line, "+a, "0"))
			v.To = append(v.To, k.field(place+"/to_"+a, texts["to_"+a], "end of the line, "+a, "0"))
		}
		list = append(list, v)
	}
	return list
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
	w.Header().Set("Content-Type", "application/json")
	w.Header().Set("Cache-Control", "no-store")
	_ = json.NewEncoder(w).Encode(result.Values(a.in.At(places, a.values)[0])) // the other side may have gone
}

// line answers with a field along a line: how far, m, and the values, SI, null where there is nothing.
func (s *platesPage) line(w http.ResponseWriter, r *http.Request) {
	ends, ok := numbersIn(r, "ends", 6)
	if !ok {
		http.Error(w, "A line has six numbers: its ends in metres.", http.StatusBadRequest)
		return
	}
	a, ok := s.ask(w, r)
	if !ok {
		return
	}
	far, values := a.in.Along(plate.Line{From: [3]float64(ends[:3]), To: [3]float64(ends[3:])}, alongLine, a.values)
	w.Header().Set("Content-Type", "application/json")
	w.Header().Set("Cache-Control", "no-store")
	_ = json.NewEncoder(w).Encode(struct { // the other side may have gone
		Far    []float64     `json:"far"`
		Values result.Values `json:"values"`
	}{far, values[0]})
}
