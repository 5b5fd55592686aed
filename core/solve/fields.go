package solve

import (
	"math"
	"slices"
	"strings"

	"saltkettle/core/couple"
	"saltkettle/core/fem"
	"saltkettle/core/formula"
	"saltkettle/core/physics"
	"saltkettle/core/result"
)

// frames is how many moments of a run in time are kept as fields; of one that may end
// early there are up to twice as many, at steps.
const frames = 25

// values are the fields that are solved for, at the points, then those that follow
// from them.
func (r *run) values() ([]result.Field, error) {
	if r.points == nil {
		r.points = result.NewPoints(r.mesh, len(r.owner))
	}
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
		values, err := s.Smooth(p.kernel, p.field, len(p.Derived), r.points.Cells, len(r.points.Node))
		if err != nil {
			return nil, err
		}
		sizes(p.Derived, values)
		for i, v := range p.Derived {
			if p.Shown(v.Name) {
				list = append(list, result.Field{FieldName: result.FieldName{Name: v.Name, Unit: v.Dimension.Symbol(), Derived: true, Of: vectorOf(p.Derived, v.Name)}, Values: values[i]})
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
			values := make([]float64, len(r.points.Node))
			for i, v := range r.points.Node {
				values[i] = math.NaN()
				if e := s.System.Equation(p.field+k, c, v); e >= 0 && s.Lives(p.field+k, r.points.Body[i]) {
					values[i] = s.State.U[e]
					if s.Swing != nil {
						values[i] = amplitude(s, e)
					}
				}
				size[i] = math.Hypot(size[i], values[i])
			}
			list = append(list, result.Field{FieldName: result.FieldName{Name: name, Unit: f.Unit, Of: of}, Values: values})
		}
		if n > 1 {
			list = append(list, result.Field{FieldName: result.FieldName{Name: f.Name, Unit: f.Unit}, Values: size})
		}
	}
	return list
}

const axisNames = "xyz"

// vectorOf is the vector of whose components one is called so, "" for none.
func vectorOf(derived []formula.Variable, name string) string {
	for i := range axisNames {
		base, ok := strings.CutSuffix(name, "_"+axisNames[i:i+1])
		if ok && slices.ContainsFunc(derived, func(v formula.Variable) bool { return v.Name == base }) {
			return base
		}
	}
	return ""
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

// drawn are the fields that plates can show.
func drawn(list []result.Field) []result.Field {
	var out []result.Field
	for _, f := range list {
		if plateField(f.Name) {
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
	f := &result.Fields{Nodes: r.points.Places(r.mesh), Cells: r.points.Cells, Part: make([]int32, r.mesh.CellCount()), Values: values}
	for c, b := range r.mesh.Body {
		f.Part[c] = int32(r.owner[b][0])
	}
	for i := range values {
		name := &f.Values[i].FieldName
		r.extremesOf(&f.Values[i])
		for _, p := range r.posed.parts {
			for k := range p.Fields {
				if p.Fields[k].Name == name.Name && p.Fields[k].Components <= 1 && !r.model.Document.Swings() { // also at nodes that are no corners
					lo, hi := r.states.of[p.group].Extremes(p.field + k)
					name.Least, name.Greatest = r.extreme(lo), r.extreme(hi)
				}
			}
		}
		r.result.Fields = append(r.result.Fields, *name)
	}
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

// drawing is the surface for drawing. That of a run in time with a folder keeps what its
// moments show there.
func (r *run) drawing() (*result.Surface, error) {
	if r.surface != nil {
		return r.surface, nil
	}
	if r.points == nil {
		r.points = result.NewPoints(r.mesh, len(r.owner))
	}
	r.surface = result.NewSurface(r.mesh, r.points, r.owner)
	if r.opt.Dir == "" || !r.model.Document.Dynamic() {
		return r.surface, nil
	}
	return r.surface, r.surface.KeepIn(r.opt.Dir)
}

// extremesOf finds the extremes of a field among its values at the points.
func (r *run) extremesOf(f *result.Field) {
	least, greatest := couple.Extreme{Value: math.Inf(1)}, couple.Extreme{Value: math.Inf(-1)}
	for i, v := range f.Values {
		at := func() couple.Extreme {
			node := r.points.Node[i]
			return couple.Extreme{Value: v, At: [3]float64(r.mesh.Nodes[3*node : 3*node+3]), Body: r.points.Body[i]}
		}
		if v < least.Value {
			least = at()
		}
		if v > greatest.Value {
			greatest = at()
		}
	}
	if !math.IsInf(least.Value, 0) {
		f.Least, f.Greatest = r.extreme(least), r.extreme(greatest)
	}
}

// frame keeps the fields at the moments that the last step has passed. They are evenly
// spread over the time; in a run that may end early they are at steps.
func (r *run) frame(step *fem.Step) error {
	if r.model.Until != nil {
		return r.frameAtStep(step)
	}
	if step == nil {
		return r.keep(r.solution().State, 0)
	}
	for r.moments() < frames {
		at := r.model.End * float64(r.moments()) / (frames - 1)
		if at > step.To*(1+1e-9) {
			break
		}
		if err := r.keep(r.solution().Within(step, at), at); err != nil {
			return err
		}
	}
	return nil
}

// moments is how many there are so far.
func (r *run) moments() int {
	if r.surface == nil {
		return 0
	}
	return len(r.surface.Moments)
}

// frameAtStep keeps every step, and when these become too many every second one.
func (r *run) frameAtStep(step *fem.Step) error {
	r.stride = max(r.stride, 1)
	r.steps++
	if (r.steps-1)%r.stride != 0 {
		return nil
	}
	if r.moments() == 2*frames {
		r.surface.Thin()
		r.stride *= 2
		if (r.steps-1)%r.stride != 0 {
			return nil
		}
	}
	time := 0.0
	if step != nil {
		time = step.To
	}
	return r.keep(r.solution().State, time)
}

// keep keeps the fields of a state as those of a time.
func (r *run) keep(at *fem.State, time float64) error {
	return r.at(at, func() error {
		list, err := r.values()
		if err != nil {
			return err
		}
		surface, err := r.drawing()
		if err != nil {
			return err
		}
		return surface.ShowAt(time, drawn(list))
	})
}

// plateField says that plates can show a field.
func plateField(name string) bool {
	_, ok := physics.Catalog().Field(name)
	return ok
}
