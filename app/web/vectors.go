package web

import (
	"errors"
	"math"
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
// SI), values of the field that is shown (one), parts (integer, one), 0 for an arrow, 1 for a direction that
// is pulled along and 2 for one that is pushed, and if the drawing is bent by how much, component by
// component.
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
	bent := a.bentAt(at)
	answerBytes(w, packed(map[string]int{"count": len(values), "bent": len(bent)}, append([]any{at, vectors, values, parts, kinds}, bent...)...))
}

// bentAt is by how much the drawing is bent at places, x, y, z of each, component by component, m; nothing
// if it is not.
func (a *asked) bentAt(at []float32) []any {
	if len(a.bent) == 0 {
		return nil
	}
	places := make([][3]float64, len(at)/3)
	for i := range places {
		for d := range 3 {
			places[i][d] = float64(at[3*i+d])
		}
	}
	var list []any
	for _, values := range a.in.At(places, a.bent...) {
		component := make([]float32, len(values))
		for i, v := range values {
			if !math.IsNaN(v) {
				component[i] = float32(v)
			}
		}
		list = append(list, component)
	}
	return list
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
		section, err := outside(f, a.in.model, model.Patch{})
		if err != nil {
			return nil, err
		}
		return section.SpreadOver(count), nil
	}
	return nil, &userError{errors.New("arrows stand inside, on the surface or on slices")}
}

// streamsHead is the header of streams: the number of points of each, and of components of the bending.
type streamsHead struct {
	Counts []int `json:"counts"`
	Bent   int   `json:"bent"`
}

// streams answers with ways that follow a vector, see packed: places (float, three per point, m), values
// of the field that is shown (one), times (one, of a velocity in seconds), stream by stream, and if the
// drawing is bent by how much, component by component; see streamsHead.
func (s *platesPage) streams(w http.ResponseWriter, r *http.Request) {
	a, ok := s.ask(w, r)
	if !ok {
		return
	}
	vector, count, err := a.vectorsOf(r, model.MostStreams)
	var starts [][3]float64
	if err == nil {
		starts, err = s.beginning(r, &a, count)
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
	bent := a.bentAt(at)
	answerBytes(w, packed(streamsHead{counts, len(bent)}, append([]any{at, values, times}, bent...)...))
}

// beginning are the places at which streams begin.
func (s *platesPage) beginning(r *http.Request, a *asked, count int) ([][3]float64, error) {
	q := r.URL.Query()
	if q.Has("way") {
		var ways []plate.Way
		for _, text := range q["way"] {
			way, err := wayIn(text)
			if err != nil {
				return nil, err
			}
			ways = append(ways, way)
		}
		return alongWays(ways, count), nil
	}
	if q.Has("near") {
		at, ok := numbersIn(r, "near", 3)
		if !ok {
			return nil, &userError{errors.New("a place has three numbers, in metres")}
		}
		lo, hi := a.in.Box()
		return plate.Round([3]float64(at), nearby*plate.Line{From: lo, To: hi}.Length(), count), nil
	}
	if q.Has("side") {
		patch, err := model.ParsePatch(q.Get("side"))
		if err != nil {
			return nil, &userError{err}
		}
		f, err := s.surfaceOf(a.run)
		if err != nil {
			return nil, err
		}
		section, err := outside(f, a.in.model, patch)
		if err != nil {
			return nil, err
		}
		if section.Count() == 0 {
			return nil, &userError{errors.New("this result does not know the side; run the model again, or choose another")}
		}
		return section.SpreadOver(count), nil
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

// nearby is how far from a place streams begin that begin there, as a part of the size of the device.
const nearby = 0.02

// alongWays spreads places evenly along ways.
func alongWays(ways []plate.Way, count int) [][3]float64 {
	whole := 0.0
	for _, w := range ways {
		whole += w.Length()
	}
	places := make([][3]float64, count)
	for i := range places {
		far := whole * (float64(i) + 0.5) / float64(count)
		k := 0
		for k < len(ways)-1 && far > ways[k].Length() {
			far -= ways[k].Length()
			k++
		}
		places[i] = ways[k].At(far / ways[k].Length())
	}
	return places
}
