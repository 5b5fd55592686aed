package web

import (
	"fmt"
	"net/http"
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
