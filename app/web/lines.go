package web

import (
	"encoding/json"
	"math"
	"net/http"
	"strconv"
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

// line answers with a field along a line: how far, m, and the values, SI, null where there is nothing.
func (s *platesPage) line(w http.ResponseWriter, r *http.Request) {
	q := r.URL.Query()
	var ends [6]float64
	texts := strings.Split(q.Get("ends"), ",")
	for i := range ends {
		v, err := math.NaN(), error(nil)
		if len(texts) == len(ends) {
			v, err = strconv.ParseFloat(texts[i], 64)
		}
		if err != nil || math.IsNaN(v) || math.IsInf(v, 0) {
			http.Error(w, "A line has six numbers: its ends in metres.", http.StatusBadRequest)
			return
		}
		ends[i] = v
	}
	f, err := s.fieldOf(r, -1)
	if err != nil {
		s.fail(w, r, err)
		return
	}
	far, values := plate.Along(f, plate.Line{From: [3]float64(ends[:3]), To: [3]float64(ends[3:])}, alongLine, f.Values[0].Values)
	w.Header().Set("Content-Type", "application/json")
	w.Header().Set("Cache-Control", "no-store")
	_ = json.NewEncoder(w).Encode(struct { // the other side may have gone
		Far    []float64     `json:"far"`
		Values result.Values `json:"values"`
	}{far, values[0]})
}
