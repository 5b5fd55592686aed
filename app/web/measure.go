package web

import (
	"errors"
	"fmt"
	"math"
	"net/http"
	"strconv"
	"strings"

	"saltkettle/core/drawing"
	"saltkettle/core/model"
	"saltkettle/core/physics"
	"saltkettle/core/quantity"
)

// measuredView is what was measured, ready for print.
type measuredView struct {
	What []string
	Rows [][2]string
	Lift string // place of the number that the distance is
	Is   string // parameter that it is
}

// measure measures one or two sides of parts.
func (s *sheetPage) measure(w http.ResponseWriter, r *http.Request) {
	doc, err := s.store.Document(r.Context(), modelID(r), 0)
	if err != nil {
		s.fail(w, r, err)
		return
	}
	a, err := picked(r, "a")
	var b *model.Picked
	if err == nil && r.FormValue("b") != "" {
		b, err = picked(r, "b")
	}
	var m *model.Measured
	if err == nil {
		m, err = model.Measure(doc, physics.Catalog(), *a, b)
	}
	if err != nil {
		s.fail(w, r, &userError{err})
		return
	}
	unit, scale := drawing.Scale(doc.Space.Unit)
	length := func(x float64) string { return trimFigures(quantity.Figures(x*scale, 6)) + "\u00a0" + unit }
	v := measuredView{What: []string{doc.PatchWords(a.On)}}
	if b == nil {
		v.Rows = append(v.Rows, [2]string{"area", quantity.Figures(m.Area*scale*scale, 5) + "\u00a0" + unit + "²"})
		if m.Radius > 0 {
			v.Rows = append(v.Rows, [2]string{"radius", length(m.Radius)})
		}
		v.Rows = append(v.Rows, [2]string{"volume of the part", quantity.Figures(m.Volume*scale*scale*scale, 5) + "\u00a0" + unit + "³"})
	} else {
		v.What = append(v.What, doc.PatchWords(b.On))
		name := "distance of the places"
		if m.Parallel {
			name = "distance"
		}
		v.Rows = append(v.Rows, [2]string{name, length(m.Distance)})
		if m.Flat {
			v.Rows = append(v.Rows, [2]string{"angle", trimFigures(quantity.Figures(m.Angle*180/math.Pi, 4)) + "°"})
		}
		v.Lift, v.Is = m.Control, m.Parameter
	}
	s.render(w, r, http.StatusOK, "measured", v)
}

// picked reads a side and a place from a query.
func picked(r *http.Request, name string) (*model.Picked, error) {
	on, err := model.ParsePatch(r.FormValue(name))
	if err != nil {
		return nil, err
	}
	p := &model.Picked{On: on}
	list := strings.Split(r.FormValue("at-"+name), ",")
	if len(list) != 3 {
		return nil, errors.New("a place has three coordinates")
	}
	for i, text := range list {
		if p.At[i], err = strconv.ParseFloat(text, 64); err != nil {
			return nil, fmt.Errorf("%q is no number", text)
		}
	}
	return p, nil
}
