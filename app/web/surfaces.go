package web

import (
	"encoding/binary"
	"errors"
	"fmt"
	"math"
	"net/http"
	"slices"
	"strconv"

	"saltkettle/app/store"
	"saltkettle/core/model"
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
			err = f.Has(set)
		}
	}
	if err == nil && q.Get("minus") != "" {
		s.surfaceDifference(w, r, run, f, set)
		return
	}
	if _, own := model.OwnFormula(q.Get("field")); own && err == nil {
		s.surfaceFormula(w, r, run, f, set)
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

// difference is a field of a run less that of another at the vertices of its surface.
func (s *platesPage) difference(run store.Run, f *result.SurfaceFile, set int, other *interior, field string) ([]float32, error) {
	own, err := s.interior(run)
	if err != nil {
		return nil, err
	}
	moment := momentOf(f, set)
	mine, err := own.onSurface(f, field, moment, own)
	if err != nil {
		return nil, err
	}
	// Modes and frequencies are paired by their places, moments by the nearest time.
	if moment != result.AtEnd && f.Axis == "" {
		near, ok := other.MomentNear(f.Moments[set])
		if moment = slices.Index(other.Moments, near); !ok {
			moment = result.AtEnd
		}
	}
	theirs, err := other.onSurface(f, field, moment, own)
	if err != nil {
		return nil, err
	}
	out := make([]float32, len(mine))
	for i := range out {
		out[i] = float32(mine[i] - theirs[i])
	}
	return out, nil
}

// surfaceFormula answers with a formula at the vertices of the surface of a run.
func (s *platesPage) surfaceFormula(w http.ResponseWriter, r *http.Request, run store.Run, f *result.SurfaceFile, set int) {
	leave, err := s.gate.enter(r.Context())
	if err == nil {
		defer leave()
	}
	var own *interior
	if err == nil {
		own, err = s.interior(run)
	}
	var values []float64
	if err == nil {
		values, err = own.onSurface(f, r.URL.Query().Get("field"), momentOf(f, set), own)
	}
	if err != nil {
		s.fail(w, r, err)
		return
	}
	w.Header().Set("Content-Type", "application/octet-stream")
	w.Header().Set("Cache-Control", "no-store")
	out := make([]float32, len(values))
	for i := range out {
		out[i] = float32(values[i])
	}
	_ = binary.Write(w, binary.LittleEndian, out) // the other side may have gone
}

// momentOf is the place of a set of values of a surface among the moments: the last one of a run in time
// is what the fields are at its end, where what follows from others is kept, too.
func momentOf(f *result.SurfaceFile, set int) int {
	if f.Axis == "" && set == f.Sets()-1 {
		return result.AtEnd
	}
	return set
}

// onSurface takes a field at the vertices of a surface, which is that of the run whose parts are given;
// not numbers where it is not.
func (i *interior) onSurface(f *result.SurfaceFile, field string, moment int, of *interior) ([]float64, error) {
	values, err := i.field(field, moment)
	if err != nil {
		return nil, err
	}
	places, err := f.Vertices()
	if err != nil {
		return nil, err
	}
	triangles, err := f.Triangles()
	if err != nil {
		return nil, err
	}
	cells := *i.Cells
	cells.Values = []result.Field{{FieldName: result.FieldName{Name: field}, Values: values}}
	there := result.NewEarlier(i.Result, &cells)
	out := make([]float64, f.Counts.Vertices)
	for v := range out {
		out[v] = math.NaN()
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
		taken := make([]float64, len(at))
		for k := range taken {
			taken[k] = math.NaN()
		}
		if _, err := there.At(field, of.Document.Parts[g.Part].ID, at, taken); err != nil {
			return nil, err
		}
		for k, v := range vertices {
			out[v] = taken[k]
		}
	}
	return out, nil
}

// extremesOf finds the extremes of a formula of a run, where they are, and its ends.
func (s *platesPage) extremesOf(run store.Run, f *result.FieldName) (lo, hi float64, err error) {
	in, err := s.interior(run)
	if err != nil {
		return 0, 0, err
	}
	values, err := in.field(f.Name, result.AtEnd)
	if err != nil {
		return 0, 0, err
	}
	least, greatest, ok := in.Cells.Extremes(values)
	if !ok {
		return 0, 0, errors.New("the formula has no value anywhere")
	}
	parts := in.PartsOfPoints()
	at := func(s result.Summit) *result.Extreme {
		return &result.Extreme{Value: s.Value, Part: in.Document.Parts[parts[s.Point]].Name, At: s.At}
	}
	f.Least, f.Greatest = at(least), at(greatest)
	return least.Value, greatest.Value, nil
}

// outside is the surface of a run as a section, without what lies between parts; on is a patch of it, the
// empty one for all.
func outside(f *result.SurfaceFile, run *model.Resolved, on model.Patch) (*plate.Section, error) {
	places, err := f.Vertices()
	if err != nil {
		return nil, err
	}
	triangles, err := f.Triangles()
	if err != nil {
		return nil, err
	}
	out := &plate.Section{Corners: 3}
	add := func(part, first, count int) {
		for _, v := range triangles[3*first : 3*(first+count)] {
			out.Positions = append(out.Positions, places[3*v:3*v+3]...)
		}
		for range count {
			out.Parts = append(out.Parts, int32(part))
		}
	}
	parts := run.PartsOf(on)
	for _, g := range f.Groups {
		switch {
		case on == model.Patch{}:
			if !g.Inner {
				add(g.Part, g.First, g.Count)
			}
		case slices.Contains(parts, g.Part) && on.Has(g.Copy+1):
			for _, side := range g.Sides {
				if side.Name == on.Side {
					add(g.Part, side.First, side.Count)
				}
			}
		}
	}
	return out, nil
}
