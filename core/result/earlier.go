package result

import (
	"slices"

	"saltkettle/core/mesh"
)

// Earlier is the fields of a run that another one goes on from.
type Earlier struct {
	fields *Fields
	parts  []string // ids, by the number of the part
}

// LoadEarlier reads the fields in the folder of a result.
func LoadEarlier(dir string) (*Earlier, error) {
	r, err := Load(dir)
	if err != nil {
		return nil, err
	}
	f, err := LoadFields(dir)
	if err != nil {
		return nil, err
	}
	return NewEarlier(r, f), nil
}

// NewEarlier makes the fields of a result ready to go on from.
func NewEarlier(r *Result, f *Fields) *Earlier {
	e := &Earlier{fields: f}
	for _, p := range r.Document.Parts {
		e.parts = append(e.parts, p.ID)
	}
	return e
}

// Has says that there is a field of a name.
func (e *Earlier) Has(field string) bool { return e.field(field) != nil }

func (e *Earlier) field(name string) *Field {
	i := slices.IndexFunc(e.fields.Values, func(f Field) bool { return f.Name == name })
	if i < 0 {
		return nil
	}
	return &e.fields.Values[i]
}

// nearCell is how far beside a cell, as a part of it, a place still belongs to it:
// curved sides of two meshes are not the same.
const nearCell = 0.25

// At sets out to the values of a field at places in a part, which it is taken to be in
// if it has them; other places are looked for in all parts. Values of places that are
// nowhere stay; it returns how many these are.
func (e *Earlier) At(field, part string, x [][3]float64, out []float64) (missing int) {
	points := make([]float64, 0, 3*len(x))
	for _, p := range x {
		points = append(points, p[:]...)
	}
	left := make([]int, len(x)) // what has not been found
	for i := range left {
		left[i] = i
	}
	own := slices.Index(e.parts, part)
	values := e.field(field).Values
	look := func(slack float64, in func(part int32) bool) {
		m := &mesh.Mesh{Nodes: e.fields.Nodes}
		for c, p := range e.fields.Part {
			if in(p) {
				m.Cells = append(m.Cells, e.fields.Cells[mesh.WedgeNodes*c:mesh.WedgeNodes*(c+1)]...)
				m.Body = append(m.Body, p)
			}
		}
		var at []float64
		for _, i := range left {
			at = append(at, points[3*i:3*i+3]...)
		}
		cells, places := m.LocateNear(at, slack)
		var rest []int
		for k, i := range left {
			v, ok := 0.0, cells[k] >= 0
			if ok {
				v = wedge(values, m.Cells[mesh.WedgeNodes*cells[k]:], places[k])
				ok = v == v // the field is not everywhere
			}
			if ok {
				out[i] = v
			} else {
				rest = append(rest, i)
			}
		}
		left = rest
	}
	mine := func(p int32) bool { return int(p) == own }
	look(1e-9, mine)
	if len(left) > 0 {
		look(nearCell, mine)
	}
	if len(left) > 0 {
		look(1e-9, func(int32) bool { return true })
	}
	return len(left)
}

// wedge is a value in a wedge of order 1, from those at its corners.
func wedge(values []float64, corners []int32, at [3]float64) float64 {
	l := [3]float64{1 - at[0] - at[1], at[0], at[1]}
	var v float64
	for i, w := range l {
		v += w * ((1-at[2])/2*values[corners[i]] + (1+at[2])/2*values[corners[i+3]])
	}
	return v
}
