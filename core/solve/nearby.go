package solve

import (
	"slices"

	"saltkettle/core/frame"
	"saltkettle/core/result"
)

// nearby is the result that steady flows of this run begin with: of a model like this one, or of the run that the model says that it
// goes on from; nil for none.
func (r *run) nearby() (*result.Earlier, error) {
	switch {
	case r.opt.Near != nil:
		return r.opt.Near()
	case r.model.From > 0:
		return r.earlier()
	}
	return nil, nil
}

// earlier is the result of the run that the model goes on from.
func (r *run) earlier() (*result.Earlier, error) {
	n := r.model.From
	if r.opt.Earlier == nil {
		return nil, wrong("run/from", "give the folder of its result", "the result of run #%d, from which this one is to go on, is not at hand", n)
	}
	e, err := r.opt.Earlier(n)
	if err != nil {
		return nil, wrong("run/from", "choose another run", "this run cannot go on from run #%d: %v", n, err)
	}
	return e, nil
}

// beginsLevel are the unknowns with which a steady run begins of which the level is known of what properties of materials depend on: that saves a
// step where it is far from where runs begin as a rule. Nil if it is not known, or nothing depends on it.
func (r *run) beginsLevel(g *group, n int, given [][]float64) []float64 {
	v := r.posed.variable
	if r.opt.Level == nil || v == nil || v.group != n || r.model.Document.Dynamic() || len(g.late()) > 0 {
		return nil
	}
	u := g.Begun(g.kernel, given).State.U
	for i, f := range g.System.FieldOf() {
		if f == v.field {
			u[i] = *r.opt.Level
		}
	}
	return u
}

// beginsNear are the unknowns with which a steady flow begins that goes on from another one, nil if it begins from rest. What that had
// not, and the places where it was not, begin as ever.
func (r *run) beginsNear(g *group) ([]float64, error) {
	e, err := r.nearby()
	if e == nil || err != nil {
		return nil, err
	}
	for _, p := range g.parts {
		for k := range p.Fields {
			if f := &p.Fields[k]; !e.Has(component(f, 0)) {
				if r.opt.Near == nil {
					r.warn("run #%d, from which this one goes on, has no %s: this one begins from rest", r.model.From, f.Name)
				}
				return nil, nil
			}
		}
	}
	u := g.Begun(g.kernel, nil).State.U
	for _, p := range g.parts {
		for k := range p.Fields {
			f := &p.Fields[k]
			for c := range max(1, f.Components) {
				err := g.Fill(u, p.field+k, c, func(_, c int, body int32, x [][3]float64, out []float64) error {
					for i := range out {
						if out[i] = f.Start; f.StartAt != nil {
							out[i] = f.StartAt(x[i])
						}
					}
					_, err := e.At(component(f, c), r.site().Part(body).ID, x, out)
					return err
				})
				switch {
				case err != nil && r.opt.Near != nil:
					return nil, nil // it is there to help, and no help if it cannot be read
				case err != nil:
					return nil, wrong("run/from", "choose another run", "this run cannot go on from run #%d: %v", r.model.From, err)
				}
			}
		}
	}
	return u, nil
}

// reached are the fields that the run has solved for so far, for another to begin with.
func (r *run) reached() (*result.Earlier, error) {
	r.numbered()
	f := result.NewFields(r.posed.ground.Grid(), r.points, func(body int32) int { return r.owner[body][0] })
	for _, p := range r.posed.parts {
		s, err := r.solutionOf(p)
		if err != nil {
			return nil, err
		}
		f.Values = append(f.Values, r.solved(p, s)...)
	}
	return result.NewEarlier(r.result, f), nil
}

// component is the name of a component of a field in results.
func component(f *frame.Field, c int) string {
	if f.Components > 1 {
		return f.Name + "_" + axisNames[c:c+1]
	}
	return f.Name
}

// stepwise says that the run is of a steady state that is found step by step, as of a flow or of iron that saturates: it matters where it
// begins.
func (r *run) stepwise() bool {
	return !r.model.Document.Dynamic() && slices.ContainsFunc(r.posed.groups, func(g *group) bool { return g.parts[0].Stepwise })
}
