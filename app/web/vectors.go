package web

import (
	"errors"
	"net/http"
	"strconv"

	"saltkettle/core/model"
	"saltkettle/core/plate"
)

// vectorsOf reads which vector a request is about, and how many of something are wanted.
func (a *asked) vectorsOf(r *http.Request, most int) (vector [][]float64, count int, err error) {
	count, err = strconv.Atoi(r.URL.Query().Get("count"))
	if err != nil || count < 1 || count > most {
		return nil, 0, &userError{errors.New("a number from 1 to " + strconv.Itoa(most) + " is wanted")}
	}
	vector, err = a.in.fields(r.URL.Query().Get("vector"), a.moment)
	return vector, count, err
}

// arrows answers with arrows of a vector, see packed: places (float, three per arrow, m), vectors (three,
// SI), values of the field that is shown (one), parts (integer, one), and 0 for an arrow, 1 for a
// direction that is pulled along and 2 for one that is pushed.
func (s *platesPage) arrows(w http.ResponseWriter, r *http.Request) {
	a, ok := s.ask(w, r)
	if !ok {
		return
	}
	vector, count, err := a.vectorsOf(r, model.MostArrows)
	var places [][3]float64
	if err == nil {
		places, err = s.standing(r, &a, count)
	}
	if err != nil {
		s.fail(w, r, err)
		return
	}
	var at, vectors, values []float32
	var parts, kinds []int32
	for _, x := range a.in.Arrows(vector, places, a.values) {
		kind := int32(0)
		if x.Both {
			kind = 1
		}
		if x.Pushes {
			kind = 2
		}
		for d := range 3 {
			at, vectors = append(at, float32(x.At[d])), append(vectors, float32(x.Vector[d]))
		}
		values, parts, kinds = append(values, float32(x.Value)), append(parts, x.Part), append(kinds, kind)
	}
	answerBytes(w, packed(map[string]int{"count": len(values)}, at, vectors, values, parts, kinds))
}

// standing are the places at which arrows stand.
func (s *platesPage) standing(r *http.Request, a *asked, count int) ([][3]float64, error) {
	switch r.URL.Query().Get("on") {
	case model.Inside:
		return a.in.Spread(count, func(int32) bool { return true }), nil
	case model.OnSlices:
		if plane, ok := planeIn(r); ok {
			return plate.Slice(a.in.Cells, plane).SpreadOver(count), nil
		}
	case model.OnSurface:
		f, err := s.surfaceOf(a.run)
		if err != nil {
			return nil, err
		}
		section, err := outside(f)
		if err != nil {
			return nil, err
		}
		return section.SpreadOver(count), nil
	}
	return nil, &userError{errors.New("arrows stand inside, on the surface or on slices")}
}

// streams answers with ways that follow a vector, see packed: places (float, three per point, m), values
// of the field that is shown (one), and times (one, of a velocity in seconds), stream by stream; the
// header has the number of points of each.
func (s *platesPage) streams(w http.ResponseWriter, r *http.Request) {
	a, ok := s.ask(w, r)
	if !ok {
		return
	}
	vector, count, err := a.vectorsOf(r, model.MostStreams)
	var starts [][3]float64
	if err == nil {
		starts, err = beginning(r, &a, count)
	}
	if err != nil {
		s.fail(w, r, err)
		return
	}
	counts := []int{}
	var at, values, times []float32
	for _, stream := range a.in.Streams(vector, starts, a.values) {
		counts = append(counts, len(stream.Points))
		for i, x := range stream.Points {
			at = append(at, float32(x[0]), float32(x[1]), float32(x[2]))
			values, times = append(values, float32(stream.Values[0][i])), append(times, float32(stream.Time[i]))
		}
	}
	answerBytes(w, packed(map[string][]int{"counts": counts}, at, values, times))
}

// beginning are the places at which streams begin.
func beginning(r *http.Request, a *asked, count int) ([][3]float64, error) {
	q := r.URL.Query()
	if q.Get("ends") != "" {
		ends, ok := numbersIn(r, "ends", 6)
		if !ok {
			return nil, &userError{errors.New("a line has six numbers: its ends in metres")}
		}
		line := plate.Line{From: [3]float64(ends[:3]), To: [3]float64(ends[3:])}
		places := make([][3]float64, count)
		for i := range places {
			places[i] = line.At((float64(i) + 0.5) / float64(count))
		}
		return places, nil
	}
	part := -1
	if text := q.Get("part"); text != "" {
		var err error
		if part, err = strconv.Atoi(text); err != nil {
			return nil, &userError{errors.New("parts have numbers")}
		}
	}
	return a.in.Spread(count, func(p int32) bool { return part < 0 || int(p) == part }), nil
}
