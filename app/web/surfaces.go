package web

import (
	"encoding/binary"
	"fmt"
	"math"
	"net/http"
	"slices"
	"strconv"

	"saltkettle/app/store"
	"saltkettle/core/plate"
	"saltkettle/core/result"
)

// surfaceOf opens the surface of a run, which is compared with its sum when it has
// changed since it was.
func (s *platesPage) surfaceOf(run store.Run) (*result.SurfaceFile, error) {
	of := fmt.Sprintf("%d %s", run.ID, run.Token)
	open := func() (*result.SurfaceFile, error) { return result.OpenSurface(s.store.RunDir(run.ID)) }
	f, err := s.surfaces.get(of, open)
	if err == nil && !f.Unchanged() {
		s.surfaces.forget(of)
		f, err = s.surfaces.get(of, open)
	}
	return f, err
}

// keepByToken says how long an answer may be kept. Numbers of runs mean another result in another data
// folder at the same address: only what is asked for by its token may be.
func keepByToken(w http.ResponseWriter, r *http.Request, run store.Run) {
	w.Header().Set("Content-Type", "application/octet-stream")
	w.Header().Set("Cache-Control", "no-store")
	if token := r.URL.Query().Get("of"); token != "" && token == run.Token {
		w.Header().Set("Cache-Control", "private, max-age=86400, immutable")
	}
}

// surface answers with the surface of a run for drawing, without values, see [result.Surface].
func (s *platesPage) surface(w http.ResponseWriter, r *http.Request) {
	run, err := s.resultOf(r)
	var f *result.SurfaceFile
	if err == nil {
		f, err = s.surfaceOf(run)
	}
	if err != nil {
		s.fail(w, r, err)
		return
	}
	keepByToken(w, r, run)
	if err := f.WriteShape(w); err != nil {
		s.log.Error("a surface cannot be sent", "run", run.ID, "error", err)
	}
}

// surfaceValues answers with the values of fields at the vertices of the surface of a run, one field
// after another: of a vector its components. What is not a number is where the field is not.
func (s *platesPage) surfaceValues(w http.ResponseWriter, r *http.Request) {
	q := r.URL.Query()
	run, err := s.resultOf(r)
	var f *result.SurfaceFile
	if err == nil {
		f, err = s.surfaceOf(run)
	}
	var set int
	if err == nil {
		set = f.Sets() - 1
		if text := q.Get("moment"); text != "" {
			if set, err = strconv.Atoi(text); err != nil {
				http.Error(w, "Moments are numbered from 0.", http.StatusBadRequest)
				return
			}
		}
	}
	if err == nil && q.Get("minus") != "" {
		s.surfaceDifference(w, r, run, f, set)
		return
	}
	names := []string{q.Get("field")}
	if err == nil && q.Get("vector") != "" {
		names = plate.Components(f.Fields, q.Get("vector"))
	}
	var data []byte
	for i := 0; i < len(names) && err == nil; i++ {
		var values []byte
		values, err = f.Values(names[i], set)
		data = append(data, values...)
	}
	if err != nil {
		s.fail(w, r, err)
		return
	}
	keepByToken(w, r, run)
	_, _ = w.Write(data) // the other side may have gone
}

// surfaceDifference answers with the field of a run less that of another at the same places of the same
// parts, at the vertices of the first; of runs in time at the moment of the other that is nearest. What
// the other one has not is not a number.
func (s *platesPage) surfaceDifference(w http.ResponseWriter, r *http.Request, run store.Run, f *result.SurfaceFile, set int) {
	q := r.URL.Query()
	leave, err := s.gate.enter(r.Context())
	if err == nil {
		defer leave()
	}
	var other store.Run
	if err == nil {
		other, err = s.store.Run(r.Context(), number(q.Get("minus")))
	}
	if err == nil && (!other.HasResult || other.ModelID != run.ModelID) {
		err = fmt.Errorf("a result of run %d of this model: %w", other.ID, store.ErrNotFound)
	}
	var in *interior
	if err == nil {
		in, err = s.interior(other)
	}
	var values []float32
	if err == nil {
		values, err = s.difference(run, f, set, in, q.Get("field"))
	}
	if err != nil {
		s.fail(w, r, err)
		return
	}
	w.Header().Set("Content-Type", "application/octet-stream")
	w.Header().Set("Cache-Control", "no-store")
	_ = binary.Write(w, binary.LittleEndian, values) // the other side may have gone
}

func (s *platesPage) difference(run store.Run, f *result.SurfaceFile, set int, other *interior, field string) ([]float32, error) {
	places, err := f.Vertices()
	if err != nil {
		return nil, err
	}
	triangles, err := f.Triangles()
	if err != nil {
		return nil, err
	}
	own, err := s.interior(run)
	if err != nil {
		return nil, err
	}
	moments := [2]int{result.AtEnd, result.AtEnd}
	if set < len(f.Moments)-1 {
		moments[0] = set
		if near, ok := other.MomentNear(f.Moments[set]); ok {
			moments[1] = slices.Index(other.Moments, near)
		}
	}
	var of [2]*result.Earlier
	for i, in := range []*interior{own, other} {
		values, err := in.field(field, moments[i])
		if err != nil {
			return nil, err
		}
		cells := *in.Cells
		cells.Values = []result.Field{{FieldName: result.FieldName{Name: field}, Values: values}}
		of[i] = result.NewEarlier(in.Result, &cells)
	}
	out := make([]float32, f.Counts.Vertices)
	for i := range out {
		out[i] = float32(math.NaN())
	}
	done := make([]bool, len(out))
	for _, g := range f.Groups {
		var at [][3]float64
		var vertices []uint32
		for _, v := range triangles[3*g.First : 3*(g.First+g.Count)] {
			if !done[v] {
				done[v] = true
				vertices = append(vertices, v)
				at = append(at, [3]float64{float64(places[3*v]), float64(places[3*v+1]), float64(places[3*v+2])})
			}
		}
		var values [2][]float64
		for i := range of {
			values[i] = make([]float64, len(at))
			for k := range at {
				values[i][k] = math.NaN()
			}
			if _, err := of[i].At(field, own.Document.Parts[g.Part].ID, at, values[i]); err != nil {
				return nil, err
			}
		}
		for i, v := range vertices {
			out[v] = float32(values[0][i] - values[1][i])
		}
	}
	return out, nil
}

// outside is the surface of a run as a section, without what lies between parts.
func outside(f *result.SurfaceFile) (*plate.Section, error) {
	places, err := f.Vertices()
	if err != nil {
		return nil, err
	}
	triangles, err := f.Triangles()
	if err != nil {
		return nil, err
	}
	out := &plate.Section{Corners: 3}
	for _, g := range f.Groups {
		if g.Inner {
			continue
		}
		for _, v := range triangles[3*g.First : 3*(g.First+g.Count)] {
			out.Positions = append(out.Positions, places[3*v:3*v+3]...)
		}
		for range g.Count {
			out.Parts = append(out.Parts, int32(g.Part))
		}
	}
	return out, nil
}
