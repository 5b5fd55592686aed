package web

import (
	"bytes"
	"encoding/binary"
	"encoding/json"
	"net/http"

	"saltkettle/core/plate"
)

// slice answers with where a plane cuts a field, see sectionBytes.
func (s *platesPage) slice(w http.ResponseWriter, r *http.Request) {
	plane, ok := planeIn(r)
	if !ok {
		http.Error(w, "A slice has a normal of three numbers and a place in metres.", http.StatusBadRequest)
		return
	}
	s.section(w, r, func(a asked, values ...[]float64) *plate.Section { return plate.Slice(a.in.Cells, plane, values...) })
}

// planeIn reads the plane of a slice.
func planeIn(r *http.Request) (p plate.Plane, ok bool) {
	at, ok := placeIn(r, "at")
	normal, good := numbersIn(r, "normal", 3)
	if !ok || !good {
		return p, false
	}
	return plate.NewPlane([3]float64(normal), at)
}

// level answers with where a field has a value, SI, see sectionBytes.
func (s *platesPage) level(w http.ResponseWriter, r *http.Request) {
	at, ok := placeIn(r, "at")
	if !ok {
		http.Error(w, "A level is at a value of its field.", http.StatusBadRequest)
		return
	}
	s.section(w, r, func(a asked, values ...[]float64) *plate.Section {
		return plate.Level(a.in.Cells, a.values, at, values...)
	})
}

// section answers with what is made of a field of a run.
func (s *platesPage) section(w http.ResponseWriter, r *http.Request, of func(a asked, values ...[]float64) *plate.Section) {
	a, ok := s.ask(w, r)
	if ok {
		answerBytes(w, sectionBytes(of(a, append([][]float64{a.values}, a.bent...)...)))
	}
}

// sectionBytes is a section as a script reads it, see packed: positions (float, three per corner, m),
// values of each field (float, one per corner, not a number where the field is not), and parts (one
// per triangle or line). The first field is what is shown, the others what the drawing is bent by.
func sectionBytes(s *plate.Section) []byte {
	arrays := []any{s.Positions}
	for _, v := range s.Values {
		arrays = append(arrays, v)
	}
	return packed(map[string]int{"corners": s.Corners, "count": s.Count(), "fields": len(s.Values)}, append(arrays, s.Parts)...)
}

// packed is numbers as a script reads them: a 32-bit length, a JSON header of that length (a
// multiple of four bytes), and then the arrays of 32-bit numbers, little-endian.
func packed(header any, arrays ...any) []byte {
	text, err := json.Marshal(header)
	if err != nil {
		panic("web: the header of an answer cannot be written: " + err.Error())
	}
	for len(text)%4 != 0 {
		text = append(text, ' ')
	}
	var b bytes.Buffer
	// Writing into memory does not fail.
	_ = binary.Write(&b, binary.LittleEndian, uint32(len(text)))
	b.Write(text)
	for _, list := range arrays {
		_ = binary.Write(&b, binary.LittleEndian, list)
	}
	return b.Bytes()
}

// answerBytes sends what packed made, which depends on a model that changes.
func answerBytes(w http.ResponseWriter, data []byte) {
	w.Header().Set("Content-Type", "application/octet-stream")
	w.Header().Set("Cache-Control", "no-store")
	_, _ = w.Write(data) // the other side may have gone
}
