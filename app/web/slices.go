package web

import (
	"bytes"
	"encoding/binary"
	"encoding/json"
	"errors"
	"fmt"
	"math"
	"net/http"
	"slices"
	"strconv"
	"strings"
	"sync"

	"saltkettle/app/store"
	"saltkettle/core/model"
	"saltkettle/core/plate"
	"saltkettle/core/result"
)

// sliceView is a slice of a plate as fields.
type sliceView struct {
	Place            string
	Number           int
	Across, At, Keep field
}

// sliceConfig is a slice as the script needs it, m.
type sliceConfig struct {
	ID   string  `json:"id"`
	Axis int     `json:"axis"`
	At   float64 `json:"at"`
	Keep int     `json:"keep"`
}

// slices lists those of a plate.
func (k *briefMaker) slices(p *model.Plate) []sliceView {
	axes := k.doc.Space.Axes()
	var list []sliceView
	for i, s := range p.Slices {
		place := "plates/" + p.ID + "/slices/" + s.ID + "/"
		list = append(list, sliceView{Place: strings.TrimSuffix(place, "/"), Number: i + 1, Across: k.choice(place+"across", s.Across, "axis of the slice", axes, axes), At: k.field(place+"at", s.At, "place of the slice", "0 mm"),
			Keep: k.choice(place+"keep", s.Keep, "what is seen", []string{model.Less, model.Greater, ""}, []string{"what is less", "what is greater", "both sides"})})
	}
	return list
}

// insideKept is how many fields are kept as they were read.
const insideKept = 4

// inside keeps the fields that were asked for last: whoever drags a slice asks often, and a line
// is drawn over several runs.
type inside struct {
	sync.Mutex
	list []insideField // the last one first
}

// insideField is a field at a moment of a run.
type insideField struct {
	of     string
	fields *result.Fields
}

// load returns a field of a run, at the end or at a moment by its place in the list.
func (c *inside) load(dir string, run *store.Run, field string, moment int) (*result.Fields, error) {
	of := fmt.Sprintf("%d %s %s %d", run.ID, run.Token, field, moment)
	c.Lock()
	defer c.Unlock()
	if i := slices.IndexFunc(c.list, func(x insideField) bool { return x.of == of }); i >= 0 {
		x := c.list[i]
		c.list = slices.Insert(slices.Delete(c.list, i, i+1), 0, x)
		return x.fields, nil
	}
	f, err := readInside(dir, field, moment)
	if err != nil {
		return nil, err
	}
	c.list = slices.Insert(c.list[:min(len(c.list), insideKept-1)], 0, insideField{of, f})
	return f, nil
}

func readInside(dir, field string, moment int) (*result.Fields, error) {
	if moment < 0 {
		return result.LoadFields(dir, field)
	}
	r, err := result.Load(dir)
	if err != nil {
		return nil, err
	}
	if moment >= len(r.Moments) {
		return nil, fmt.Errorf("moment %d of this run: %w", moment+1, store.ErrNotFound)
	}
	if f, ok := r.FieldNamed(field); ok && f.Derived {
		return nil, &kept{fmt.Sprintf("%s within the parts is kept at the end of the run alone", capital(strings.ReplaceAll(field, "_", " ")))}
	}
	return result.LoadMoment(dir, r.Moments[moment], field)
}

// kept says that a result has not what is asked for.
type kept struct{ words string }

func (e *kept) Error() string { return e.words }

// levelView is a level of the field of a plate.
type levelView struct {
	Place  string
	Number int
	At     field
}

// levels lists those of a plate.
func (k *briefMaker) levels(p *model.Plate) []levelView {
	var list []levelView
	for i, l := range p.Levels {
		place := "plates/" + p.ID + "/levels/" + l.ID
		list = append(list, levelView{place, i + 1, k.field(place+"/at", l.At, "value of the level", "value")})
	}
	return list
}

// slice answers with where a plane cuts a field, see sectionBytes.
func (s *platesPage) slice(w http.ResponseWriter, r *http.Request) {
	axis, err := strconv.Atoi(r.URL.Query().Get("axis"))
	at, ok := placeIn(r, "at")
	if err != nil || !ok || axis < 0 || axis > 2 {
		http.Error(w, "A slice is across axis 0, 1 or 2 at a place in metres.", http.StatusBadRequest)
		return
	}
	s.section(w, r, func(f *result.Fields, values []float64) *plate.Section {
		return plate.Slice(f, plate.Across(axis, at), values)
	})
}

// level answers with where a field has a value, SI, see sectionBytes.
func (s *platesPage) level(w http.ResponseWriter, r *http.Request) {
	at, ok := placeIn(r, "at")
	if !ok {
		http.Error(w, "A level is at a value of its field.", http.StatusBadRequest)
		return
	}
	s.section(w, r, func(f *result.Fields, values []float64) *plate.Section {
		return plate.Level(f, values, at, values)
	})
}

// placeIn reads a number of a query.
func placeIn(r *http.Request, name string) (float64, bool) {
	v, err := strconv.ParseFloat(r.URL.Query().Get(name), 64)
	return v, err == nil && !math.IsNaN(v) && !math.IsInf(v, 0)
}

// fieldOf reads the field that a request names of its run, at the end or at a moment by its place.
func (s *platesPage) fieldOf(r *http.Request, moment int) (*result.Fields, error) {
	run, err := s.resultOf(r)
	if err != nil {
		return nil, err
	}
	field := r.URL.Query().Get("field")
	f, err := s.inside.load(s.store.RunDir(run.ID), &run, field, moment)
	if err == nil && len(f.Values) == 0 {
		err = fmt.Errorf("the field %q of run %d: %w", field, run.ID, store.ErrNotFound)
	}
	return f, err
}

// section answers with what is made of a field of a run.
func (s *platesPage) section(w http.ResponseWriter, r *http.Request, of func(f *result.Fields, values []float64) *plate.Section) {
	moment := -1
	if text := r.URL.Query().Get("moment"); text != "" {
		var err error
		if moment, err = strconv.Atoi(text); err != nil || moment < 0 {
			http.Error(w, "Moments are numbered from 0.", http.StatusBadRequest)
			return
		}
	}
	f, err := s.fieldOf(r, moment)
	var k *kept
	if errors.As(err, &k) {
		http.Error(w, k.Error()+".", http.StatusConflict)
		return
	}
	if err != nil {
		s.fail(w, r, err)
		return
	}
	w.Header().Set("Content-Type", "application/octet-stream")
	w.Header().Set("Cache-Control", "no-store")
	_, _ = w.Write(sectionBytes(of(f, f.Values[0].Values))) // the other side may have gone
}

// sectionBytes is a section as a script reads it: a 32-bit length, a JSON header of that length (a
// multiple of four bytes), and then, as 32-bit little-endian numbers: positions (float, three per corner, m),
// values (float, one per corner, not a number where the field is not), and parts (one per triangle or line).
func sectionBytes(s *plate.Section) []byte {
	header, err := json.Marshal(map[string]int{"corners": s.Corners, "count": s.Count()})
	if err != nil {
		panic("web: the header of a slice cannot be written: " + err.Error())
	}
	for len(header)%4 != 0 {
		header = append(header, ' ')
	}
	var b bytes.Buffer
	// Writing into memory does not fail.
	_ = binary.Write(&b, binary.LittleEndian, uint32(len(header)))
	b.Write(header)
	_ = binary.Write(&b, binary.LittleEndian, s.Positions)
	_ = binary.Write(&b, binary.LittleEndian, s.Values[0])
	_ = binary.Write(&b, binary.LittleEndian, s.Parts)
	return b.Bytes()
}
