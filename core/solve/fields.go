package solve

import (
	"math"
	"slices"
	"strings"

	"saltkettle/core/couple"
	"saltkettle/core/formula"
	"saltkettle/core/physics"
	"saltkettle/core/result"
)

// values are the fields that are solved for, at the points, then those that follow
// from them.
func (r *run) values() ([]result.Field, error) {
	r.numbered()
	var list []result.Field
	for _, p := range r.posed.parts {
		s, err := r.solutionOf(p)
		if err != nil {
			return nil, err
		}
		list = append(list, r.solved(p, s)...)
	}
	for _, p := range r.posed.parts {
		s, err := r.solutionOf(p)
		if err != nil {
			return nil, err
		}
		if s.Swing != nil {
			continue // what follows from amplitudes is none
		}
		values, err := s.Smooth(p.kernel, p.field, len(p.Derived), r.points)
		if err != nil {
			return nil, err
		}
		sizes(p.Derived, values)
		if p.Invariants != nil {
			p.Invariants(values)
		}
		for i, v := range p.Derived {
			if p.Shown(v.Name) {
				list = append(list, result.Field{FieldName: result.FieldName{Name: v.Name, Unit: v.Dimension.Symbol(), Derived: true, Of: wholeOf(p.Derived, v.Name)}, Values: values[i]})
			}
		}
	}
	return list, nil
}

// solved are the values of the fields that a part solves for: of a vector its components and
// its size.
func (r *run) solved(p *portion, s *couple.Solution) []result.Field {
	var list []result.Field
	for k := range p.Fields {
		f := &p.Fields[k]
		n := s.Fields[p.field+k].Components
		size := make([]float64, len(r.points.Node))
		for c := range n {
			name, of := f.Name, ""
			if n > 1 {
				name, of = name+"_"+string(axisNames[c]), name
			}
			values := s.ValuesAt(p.field+k, c, r.points, func(e int32) float64 {
				if s.Swing != nil {
					return amplitude(s, e)
				}
				return s.State.U[e]
			})
			for i, v := range values {
				size[i] = math.Hypot(size[i], v)
			}
			list = append(list, result.Field{FieldName: result.FieldName{Name: name, Label: f.Label, Unit: f.Unit, Of: of}, Values: values})
			list = append(list, r.swinging(p.field+k, c, s, result.FieldName{Name: name, Unit: f.Unit, Of: of})...)
		}
		if n > 1 {
			list = append(list, result.Field{FieldName: result.FieldName{Name: f.Name, Unit: f.Unit}, Values: size})
		}
	}
	return list
}

// swinging are the parts of a component of a field of a solution that swings, none of one that does not.
func (r *run) swinging(field, component int, s *couple.Solution, name result.FieldName) (list []result.Field) {
	if s.Swing == nil {
		return nil
	}
	for _, p := range []struct {
		part string
		of   []float64
	}{{result.RealPart, s.Swing.Real.U}, {result.ImaginaryPart, s.Swing.Imaginary.U}} {
		n := name
		n.Name, n.Part = result.PartOf(name.Name, p.part), p.part
		if name.Of != "" {
			n.Of = result.PartOf(name.Of, p.part)
		}
		list = append(list, result.Field{FieldName: n, Values: s.ValuesAt(field, component, r.points, func(e int32) float64 { return p.of[e] - s.State.U[e] })})
	}
	return list
}

const axisNames = "xyz"

// wholeOf is the vector or the tensor of whose components one is called so, "" for none.
func wholeOf(derived []formula.Variable, name string) string {
	if base, component, ok := cutLast(name, "_"); ok && slices.Contains(result.TensorComponents, component) {
		return base
	}
	for i := range axisNames {
		base, ok := strings.CutSuffix(name, "_"+axisNames[i:i+1])
		if ok && slices.ContainsFunc(derived, func(v formula.Variable) bool { return v.Name == base }) {
			return base
		}
	}
	return ""
}

// cutLast cuts a text at the last of its separators.
func cutLast(text, separator string) (before, after string, ok bool) {
	i := strings.LastIndex(text, separator)
	if i < 0 {
		return text, "", false
	}
	return text[:i], text[i+len(separator):], true
}

// sizes replaces the smoothed sizes of vectors by those of the smoothed vectors: where a
// vector vanishes its size has a kink that no smoothing keeps.
func sizes(derived []formula.Variable, values [][]float64) {
	for i, v := range derived {
		x := slices.IndexFunc(derived, func(c formula.Variable) bool { return c.Name == v.Name+"_x" })
		if x < 0 {
			continue
		}
		for k := range values[i] {
			values[i][k] = math.Sqrt(values[x][k]*values[x][k] + values[x+1][k]*values[x+1][k] + values[x+2][k]*values[x+2][k])
		}
	}
}

// drawn are the fields that plates can show, their parts if they swing, and the components of vectors that
// were solved for, which the surface may be bent by.
func drawn(list []result.Field) []result.Field {
	var out []result.Field
	for _, f := range list {
		if plateField(f.Name) || f.Part != "" || f.Of != "" && !f.Derived {
			out = append(out, f)
		}
	}
	return out
}

// fields collects what is kept of the fields.
func (r *run) fields(out *Outcome) error {
	values, err := r.values()
	if err != nil {
		return err
	}
	f := result.NewFields(r.posed.ground.Grid(), r.points, func(body int32) int { return r.owner[body][0] })
	f.Values = values
	r.result.Mesh.Blocks = f.Cells()
	for i := range values {
		r.extremesOf(f, &f.Values[i])
		r.result.Fields = append(r.result.Fields, f.Values[i].FieldName)
	}
	r.result.Moments = r.series.Moments
	out.Fields = f
	surface, err := r.drawing()
	if err != nil {
		return err
	}
	out.Surface = surface
	if len(surface.Moments) == 0 {
		return surface.Show(drawn(values))
	}
	return nil
}

// extremesOf finds the extremes of a field.
func (r *run) extremesOf(f *result.Fields, field *result.Field) {
	least, greatest, ok := f.ExtremesOf(field)
	if !ok {
		return
	}
	at := func(s result.Summit) *result.Extreme {
		return r.extreme(couple.Extreme{Value: s.Value, At: s.At, Body: r.points.Part[s.Point]})
	}
	field.Least, field.Greatest = at(least), at(greatest)
}

// numbered numbers the points, if that has not been done.
func (r *run) numbered() {
	if r.points == nil {
		r.points = r.posed.ground.Grid().Points(len(r.owner))
	}
}

// plateField says that plates can show a field.
func plateField(name string) bool {
	_, ok := physics.Catalog().Field(name)
	return ok
}
