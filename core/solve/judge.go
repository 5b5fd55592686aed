package solve

import (
	"errors"
	"fmt"
	"math"

	"saltkettle/core/material"
	"saltkettle/core/mesh"
	"saltkettle/core/model"
	"saltkettle/core/physics/heat"
	"saltkettle/core/quantity"
	"saltkettle/core/result"
	"saltkettle/core/sparse"
)

// judge decides whether the run is settled.
func (r *run) judge() {
	s := r.solution
	r.result.Solver = result.Solver{
		Method:     method(s),
		Iterations: s.Linear.Iterations, Residual: s.Linear.Residual, Ended: s.Linear.Status.String(), History: s.Linear.History,
	}
	b := s.Balance()
	account := result.Balance{Name: "heat", In: b.In, Out: b.Out, Unit: "W", Closure: b.Closure}
	for _, group := range []struct {
		keys   []string
		values []float64
	}{{r.sourceKeys, s.Sources}, {r.fluxKeys, s.Fluxes}, {r.convectionKeys, s.Convections}, {r.heldKeys, s.Held}} {
		for i, key := range group.keys {
			account.Entries = append(account.Entries, result.Entry{Key: key, Value: group.values[i]})
		}
	}
	r.result.Balances = append(r.result.Balances, account)
	switch {
	case s.Linear.Status == sparse.Stopped:
		r.result.Status, r.result.Reason = result.Stopped, fmt.Sprintf("stopped after %d iterations", s.Linear.Iterations)
	case s.Settled:
		if b.Closure > 1e-6 {
			r.result.Status, r.result.Reason = result.NotSettled, fmt.Sprintf("the heat balance is open by %.2g", b.Closure)
		}
	case len(s.Residuals) > 0:
		r.result.Status, r.result.Reason = result.NotSettled, fmt.Sprintf("the equations, which depend on the temperature, were not solved: after %d steps their residual is %.2g (%s)", s.Steps, s.Residuals[len(s.Residuals)-1], s.Linear.Status)
	default:
		r.result.Status, r.result.Reason = result.NotSettled, fmt.Sprintf("the equations were not solved: %s", s.Linear.Status)
	}
}

// method names how the equations were solved.
func method(s *heat.Solution) string {
	words := "conjugate gradients"
	if !s.Symmetric {
		words = "generalised minimal residuals"
	}
	words += " with smoothed-aggregation multigrid"
	if s.Steps > 0 {
		words = fmt.Sprintf("Newton's method, %d steps, by %s", s.Steps, words)
	}
	return words
}

// lawFault says in which part a law has no usable value.
func (r *run) lawFault(err error) error {
	var law *heat.LawError
	if !errors.As(err, &law) {
		return err
	}
	if law.Body < 0 {
		return wrong("conditions", "give a formula that holds at all temperatures that occur", "%v on a surface", law)
	}
	p := &r.model.Parts[r.owner[law.Body][0]]
	return wrong("parts/"+p.ID+"/material", "give a formula or a table that holds at all temperatures that occur", "in the %s %v", p.Name, law)
}

// ranges warns of materials that became hotter or colder than their conductivity
// is known for.
func (r *run) ranges() {
	lo, hi := make([]float64, len(r.model.Parts)), make([]float64, len(r.model.Parts))
	for i := range lo {
		lo[i], hi[i] = math.Inf(1), math.Inf(-1)
	}
	for c, b := range r.mesh.Body {
		part := r.owner[b][0]
		for _, n := range r.mesh.Cells[mesh.WedgeNodes*c : mesh.WedgeNodes*(c+1)] {
			t := r.solution.Temperature[n]
			lo[part], hi[part] = min(lo[part], t), max(hi[part], t)
		}
	}
	d, _ := material.Define(material.Conductivity)
	for i := range r.model.Parts {
		p := &r.model.Parts[i]
		k := p.Conductivity[0]
		if p.Role != model.Solved || !(hi[i] > k.To || lo[i] < k.From) {
			continue
		}
		known := d.ArgumentWords(k.From) + " to " + d.ArgumentWords(k.To)
		switch {
		case math.IsInf(k.From, -1):
			known = "up to " + d.ArgumentWords(k.To)
		case math.IsInf(k.To, 1):
			known = "from " + d.ArgumentWords(k.From) + " on"
		}
		r.warn("the conductivity of %s is known %s; the %s reaches %s … %s", p.Material.Name, known, p.Name,
			quantity.Show(lo[i], "°C", false, 4), quantity.Show(hi[i], "°C", false, 4))
	}
}
