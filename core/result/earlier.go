package result

import (
	"slices"

	"saltkettle/core/fem"
)

// Earlier is the fields of a run that another one goes on from.
type Earlier struct {
	dir    string // of the result, "" if all fields are at hand
	names  []FieldName
	fields *Fields
	parts  []string // ids, by the number of the part
}

// LoadEarlier prepares the fields in the folder of a result, which are read when they are asked
// for.
func LoadEarlier(dir string) (*Earlier, error) {
	r, err := Load(dir)
	if err != nil {
		return nil, err
	}
	f, err := r.loadFields(dir, "", func(FieldName) bool { return false })
	if err != nil {
		return nil, err
	}
	e := NewEarlier(r, f)
	e.dir, e.names = dir, r.Fields
	return e, nil
}

// NewEarlier makes the fields of a result ready to go on from.
func NewEarlier(r *Result, f *Fields) *Earlier {
	e := &Earlier{fields: f}
	for _, v := range f.Values {
		e.names = append(e.names, v.FieldName)
	}
	for _, p := range r.Document.Parts {
		e.parts = append(e.parts, p.ID)
	}
	return e
}

// Has says that there is a field of a name.
func (e *Earlier) Has(field string) bool {
	return slices.ContainsFunc(e.names, func(f FieldName) bool { return f.Name == field })
}

// field returns the values of a field.
func (e *Earlier) field(name string) ([]float64, error) {
	i := slices.IndexFunc(e.fields.Values, func(f Field) bool { return f.Name == name })
	if i < 0 {
		f, err := LoadFields(e.dir, name)
		if err != nil {
			return nil, err
		}
		i = len(e.fields.Values)
		e.fields.Values = append(e.fields.Values, f.Values...)
	}
	return e.fields.Values[i].Values, nil
}

// nearCell is how far beside a cell, as a part of it, a place still belongs to it:
// curved sides of two meshes are not the same.
const nearCell = 0.25

// At sets out to the values of a field at places in a part, which it is taken to be in
// if it has them; other places are looked for in all parts. Values of places that are
// nowhere stay; it returns how many these are.
func (e *Earlier) At(field, part string, x [][3]float64, out []float64) (missing int, err error) {
	values, err := e.field(field)
	if err != nil {
		return 0, err
	}
	left := make([]int, len(x)) // what has not been found
	for i := range left {
		left[i] = i
	}
	own := slices.Index(e.parts, part)
	look := func(slack float64, in func(part int32) bool) {
		g := e.fields.Grid(in)
		at := make([]float64, 0, 3*len(left))
		for _, i := range left {
			at = append(at, x[i][:]...)
		}
		var rest []int
		for k, place := range g.Locate(at, slack) {
			i := left[k]
			v, ok := 0.0, place.Cell >= 0
			if ok {
				v = g.Blocks[place.Block].At(place, values)
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
	look(fem.OnSide, mine)
	if len(left) > 0 {
		look(nearCell, mine)
	}
	if len(left) > 0 {
		look(fem.OnSide, func(int32) bool { return true })
	}
	return len(left), nil
}

// Grid is that of the cells of some parts, nil for all. Its nodes are the points.
func (f *Fields) Grid(in func(part int32) bool) *fem.Grid {
	g := &fem.Grid{Nodes: f.Nodes}
	first := 0
	for _, b := range f.Blocks {
		own := fem.Block{Element: b.Element}
		n := b.Element.Count()
		parts := f.Part[first : first+b.Count()]
		if in == nil {
			own.Cells, own.Part = b.Cells, parts
			parts = nil
		}
		for c, p := range parts {
			if in(p) {
				own.Cells, own.Part = append(own.Cells, b.Cells[n*c:n*(c+1)]...), append(own.Part, p)
			}
		}
		first += b.Count()
		g.Blocks = append(g.Blocks, own)
	}
	return g
}
