package web

import (
	"bytes"
	"encoding/binary"
	"image/png"
	"math"
	"net/http"
	"slices"

	"saltkettle/core/plate"
	"saltkettle/core/result"
)

// Sizes of small pictures of fields, pixels.
const (
	pictureWidth  = 600
	pictureHeight = 340
)

// picture paints a field of a surface at its last or shown moment as PNG.
func picture(f *result.SurfaceFile, field string) ([]byte, error) {
	set := f.Sets() - 1
	if f.Axis != "" {
		set = f.Shown
	}
	data, err := f.Values(field, set)
	if err != nil {
		return nil, err
	}
	s := &plate.Skin{Values: make([]float32, f.Counts.Vertices)}
	if err := binary.Read(bytes.NewReader(data), binary.LittleEndian, s.Values); err != nil {
		return nil, err
	}
	if s.Positions, err = f.Vertices(); err != nil {
		return nil, err
	}
	all, err := f.Triangles()
	if err != nil {
		return nil, err
	}
	for _, g := range f.Groups {
		if !g.Inner {
			s.Triangles = append(s.Triangles, all[3*g.First:3*(g.First+g.Count)]...)
		}
	}
	if s.Outlines, err = f.Outlines(); err != nil {
		return nil, err
	}
	lo, hi := math.Inf(1), math.Inf(-1)
	s.Flat = true
	for i, v := range s.Values {
		if x := float64(v); x == x {
			lo, hi = min(lo, x), max(hi, x)
		}
		s.Flat = s.Flat && s.Positions[3*i+2] == s.Positions[2]
	}
	var b bytes.Buffer
	err = png.Encode(&b, s.Picture(pictureWidth, pictureHeight, lo, hi))
	return b.Bytes(), err
}

// glimpse answers with the field of a run that is under way, as far as it has come.
func (s *runsAPI) glimpse(w http.ResponseWriter, r *http.Request) {
	run, err := s.store.Run(r.Context(), runID(r))
	var f *result.SurfaceFile
	if err == nil {
		f, err = result.OpenGlimpse(s.store.RunTemp(run.ID))
	}
	if err != nil || len(f.Fields) == 0 {
		http.NotFound(w, r) // it has ended, or has shown nothing yet
		return
	}
	data, err := picture(f, f.Fields[0].Name)
	if err != nil {
		s.fail(w, r, err)
		return
	}
	w.Header().Set("Content-Type", "image/png")
	w.Header().Set("Cache-Control", "no-store")
	_, _ = w.Write(data) // the other side may have gone
}

// picture answers with a field of a run, painted small: that which is asked for, if the surface has it, or
// else the first one.
func (s *platesPage) picture(w http.ResponseWriter, r *http.Request) {
	run, err := s.resultOf(r)
	field := r.URL.Query().Get("field")
	var data []byte
	if err == nil {
		data, err = s.pictures.get(run.Token+" "+field, func() ([]byte, error) {
			f, err := s.surfaceOf(run)
			if err != nil {
				return nil, err
			}
			if !slices.ContainsFunc(f.Fields, func(has result.FieldName) bool { return has.Name == field }) && len(f.Fields) > 0 {
				field = f.Fields[0].Name
			}
			return picture(f, field)
		})
	}
	if err != nil {
		s.fail(w, r, err)
		return
	}
	keepByToken(w, r, run)
	w.Header().Set("Content-Type", "image/png")
	_, _ = w.Write(data) // the other side may have gone
}
