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
	// located are the places that were asked for last in a part: they are asked for once for each component.
	located map[string]*located
}

// located are places in the cells of an earlier result.
type located struct {
	x     [][3]float64
	looks [3]look
}

// look is one of the ways in which places are looked for, with what it found of those that were asked for.
type look struct {
	grid  *fem.Grid
	place []fem.Place
	known []bool
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
	mine := func(p int32) bool { return int(p) == own }
	for k, way := range []struct {
		slack float64
		in    func(part int32) bool
	}{{fem.OnSide, mine}, {nearCell, mine}, {fem.OnSide, func(int32) bool { return true }}} {
		if k > 0 && len(left) == 0 {
			break
		}
		l := e.look(part, k, x, left, way.slack, way.in)
		var rest []int
		for _, i := range left {
			v, ok := 0.0, l.place[i].Cell >= 0
			if ok {
				v = l.grid.Blocks[l.place[i].Block].At(l.place[i], values)
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
	return len(left), nil
}

// look finds those of places in a part that are left, in one of the ways.
func (e *Earlier) look(part string, way int, x [][3]float64, left []int, slack float64, in func(part int32) bool) *look {
	of := e.located[part]
	if of == nil || !slices.Equal(of.x, x) {
		of = &located{x: slices.Clone(x)}
		if e.located == nil {
			e.located = map[string]*located{}
		}
		e.located[part] = of
	}
	l := &of.looks[way]
	if l.grid == nil {
		*l = look{e.fields.Grid(in), make([]fem.Place, len(x)), make([]bool, len(x))}
	}
	var todo []int
	var at []float64
	for _, i := range left {
		if !l.known[i] {
			todo, at = append(todo, i), append(at, x[i][:]...)
		}
	}
	for k, place := range l.grid.Locate(at, slack) {
		l.place[todo[k]], l.known[todo[k]] = place, true
	}
	return l
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
