package solve

import (
	"errors"
	"fmt"
	"math"
	"slices"
	"strings"

	"saltkettle/core/couple"
	"saltkettle/core/frame"
	"saltkettle/core/law"
	"saltkettle/core/quantity"
	"saltkettle/core/result"
	"saltkettle/core/sparse"
)

// judge decides whether the run is settled.
func (r *run) judge() error {
	var s *couple.Solution // the first that is not solved, or the last
	for n := range r.posed.groups {
		next, err := r.solutionAt(n)
		if err != nil {
			return err
		}
		if s == nil || s.Settled {
			s = next
		}
		r.tell(next)
	}
	if !r.model.Document.Modal() { // loads do nothing to modes
		if err := r.balances(); err != nil {
			return err
		}
	}
	marched := r.model.Document.Transient()
	switch {
	case s.Linear.Status == sparse.Stopped && marched:
		r.result.Status, r.result.Reason = result.Stopped, fmt.Sprintf("after %s of %s", quantity.Show(s.State.Time, "s", false, 4), quantity.Show(r.model.End, "s", false, 4))
	case s.Linear.Status == sparse.Stopped:
		r.result.Status, r.result.Reason = result.Stopped, fmt.Sprintf("stopped after %d iterations", s.Linear.Iterations)
	case s.Settled:
		r.closed()
		if r.model.Document.Modal() {
			return nil // shapes have any size
		}
		return r.doubts()
	case s.State.Rate != nil:
		r.result.Status, r.result.Reason = result.NotSettled, fmt.Sprintf("time could not be followed beyond %s: the steps became too short", quantity.Show(s.State.Time, "s", false, 4))
	case !s.Straight:
		r.result.Status, r.result.Reason = result.NotSettled, fmt.Sprintf("the equations, which depend on the solution, were not solved: after %d steps their residual is %.2g (%s)", s.Steps, s.Residuals[len(s.Residuals)-1], s.Linear.Status)
		r.mayBeUnstable()
		r.mayBeRestless(s)
	default:
		r.result.Status, r.result.Reason = result.NotSettled, fmt.Sprintf("the equations were not solved: %s", s.Linear.Status)
	}
	return nil
}

// tell adds how a group was solved.
func (r *run) tell(s *couple.Solution) {
	out := &r.result.Solver
	if s.Method == "" {
		return // it was not come to
	}
	words := method(s)
	if len(r.posed.groups) > 1 {
		var names []string
		for _, f := range s.Own {
			names = append(names, r.posed.words(f))
		}
		words = strings.Join(names, " and ") + ": " + words
	}
	if out.Method != "" {
		words = out.Method + "; then " + words
	}
	out.Method, out.Ended = words, s.Linear.Status.String()
	out.Iterations += s.Linear.Iterations
	out.Residual = max(out.Residual, s.Linear.Residual)
	out.History = append(out.History, s.Linear.History...)
	if !s.Straight {
		out.Steps = append(out.Steps, s.Residuals...)
	}
}

// mayBeRestless adds why a group may have no steady state, of one that was not found.
func (r *run) mayBeRestless(s *couple.Solution) {
	for _, p := range r.posed.parts {
		if p.Restless != "" && slices.Contains(s.Own, p.field) && !r.model.Document.Transient() {
			r.result.Reason += "; "
			if s.Period > 0 {
				r.result.Reason += fmt.Sprintf("it swings with a period of about %s; ", quantity.Show(s.Period, "s", false, 2))
			}
			r.result.Reason += p.Restless
		}
	}
}

// mayBeUnstable adds why there may be no solution, if something is known of that kind.
func (r *run) mayBeUnstable() {
	for _, g := range r.posed.groups {
		if words := g.unstable(); words != "" {
			r.result.Reason += "; " + words
		}
	}
}

// doubts asks each physics whether what was found can be.
func (r *run) doubts() error {
	for _, p := range r.posed.parts {
		if p.Doubt == nil || r.result.Status != result.Settled {
			continue
		}
		s, err := r.solutionOf(p)
		if err != nil {
			return err
		}
		if words := p.Doubt(s, p.field); words != "" {
			r.result.Status, r.result.Reason = result.NotSettled, words
			r.mayBeUnstable()
		}
	}
	return nil
}

// closed asks whether the balances are closed, in time those of the whole run.
func (r *run) closed() {
	allowed := openBalance
	if _, storer := r.storer(); storer != nil && !storer.StoresEvenly() {
		// Within a step what is stored by how much the field changes is sampled.
		allowed = max(allowed, openTimes*r.model.Tolerance)
	}
	for _, b := range r.result.Balances {
		if r.model.Document.Transient() && !strings.HasSuffix(b.Name, overTime) {
			continue
		}
		if b.Closure > allowed {
			r.result.Status, r.result.Reason = result.NotSettled, fmt.Sprintf("the balance of %s is open by %.2g", b.Name, b.Closure)
		}
	}
	for _, g := range r.signals.list {
		if missed := math.Abs(g.missed); missed > missedTimes*r.model.Tolerance*g.size {
			r.result.Status, r.result.Reason = result.NotSettled, fmt.Sprintf("the %s in %s was followed to %.2g of its size only: its changes are too many or too fast for the steps", g.label, g.key, missed/g.size)
		}
	}
}

// How many times the tolerance of a step a balance may be open where what is stored by how much
// the field changes varies, and what a signal gives may be missed, over the whole run.
const (
	openTimes   = 30
	missedTimes = 10
)

// nothing is the part of what goes through the bodies below which a balance is of nothing.
const nothing = 1e-10

// openBalance is how far a balance may be open for a run to count as settled.
const openBalance = 1e-6

// balances draws up the accounts: of the whole run first, if it runs in time, then of its last
// moment.
func (r *run) balances() error {
	inTime := r.model.Document.Transient()
	if inTime {
		if err := r.accounts(); err != nil {
			return err
		}
	}
	list, err := r.entries(r.posed.parts)
	if err != nil {
		return err
	}
	for _, p := range r.posed.parts {
		own := list[:len(p.Balances)]
		list = list[len(own):]
		for i := range own {
			b := &own[i]
			if s := p.stores(); s != nil && inTime {
				stored, err := s.Stored(r.solution())
				if err != nil {
					return err
				}
				b.Entries = append(b.Entries, result.Entry{Key: result.Stores, Value: -stored})
			}
			if k, ok := p.kernel.(frame.Scaler); ok && summed(*b).Closure > wellClosed {
				// Perhaps nothing but round-off goes through.
				scale, err := k.Scale(r.states.of[p.group])
				if err != nil {
					return err
				}
				b.Size = max(b.Size, 2*scale)
			}
		}
		r.result.Balances = append(r.result.Balances, summedTogether(own, p.Balances)...)
	}
	if inTime {
		return r.rest()
	}
	return nil
}

// wellClosed is how far a balance may be open without a question about its size.
const wellClosed = 1e-9

// entries lists what each sentence brings in, with what bodies gain evenly and without what else is
// stored, in the balances of some parts.
func (r *run) entries(parts []*portion) ([]result.Balance, error) {
	var list []result.Balance
	for _, p := range parts {
		s, err := r.solutionOf(p)
		if err != nil {
			return nil, err
		}
		in, err := s.Entering(p.kernel)
		if err != nil {
			return nil, err
		}
		var gains []float64
		if k, ok := p.kernel.(frame.Gaining); ok && (p.about().Inertial || p.about().Changes) {
			if gains, err = k.Gains(s); err != nil {
				return nil, err
			}
		}
		var carried []float64
		if k, ok := p.kernel.(frame.Carrier); ok {
			if carried, err = k.Carried(s); err != nil {
				return nil, err
			}
		}
		for _, kept := range p.Balances {
			b := result.Balance{Name: kept.Name, Unit: kept.Unit}
			r.entering(&b, p, kept, s, in)
			for _, other := range r.posed.groups[p.group].parts {
				if k, ok := other.kernel.(frame.Driver); ok && other != p {
					driven, err := k.Drives(s, s.System.First[p.field+kept.Field]+kept.Component)
					if err != nil {
						return nil, err
					}
					b.Entries = append(b.Entries, driven...)
				}
			}
			if carried != nil {
				b.Size += carried[kept.Field+kept.Component]
			}
			if gains != nil {
				b.Entries = append(b.Entries, result.Entry{Key: result.Stores, Value: -gains[kept.Field+kept.Component]})
			}
			list = append(list, b)
		}
	}
	return list, nil
}

// entering adds what the conditions of a part and the held values of a component of a field of it
// bring in.
func (r *run) entering(b *result.Balance, p *portion, kept frame.Balance, s *couple.Solution, in []float64) {
	for i, key := range p.Keys {
		if key == "" {
			continue
		}
		value := in[(kept.Field+kept.Component)*len(p.Keys)+i]
		if n := len(b.Entries); n > 0 && b.Entries[n-1].Key == key {
			b.Entries[n-1].Value += value // several accounts of one sentence
			continue
		}
		b.Entries = append(b.Entries, result.Entry{Key: key, Value: value})
	}
	s.Entered(p.field+kept.Field, kept.Component, func(key string, value, size float64) {
		b.Entries = append(b.Entries, result.Entry{Key: key, Value: value})
		b.Size += size
	})
}

// summed sums up a balance.
func summed(b result.Balance) result.Balance {
	rest := 0.0 // what is neither stored nor taken out
	for _, e := range b.Entries {
		rest += e.Value
		switch {
		case e.Key == result.Stores:
		case e.Value >= 0:
			b.In += e.Value
		default:
			b.Out -= e.Value
		}
	}
	stored, _ := b.Stored()
	if max(b.In, b.Out, math.Abs(stored)) < nothing*b.Size {
		b.In, b.Out, stored, rest = 0, 0, 0, 0 // what rounding leaves of what cancels
	}
	if through := max(b.In+max(0, -stored), b.Out+max(0, stored), b.Size/2); through > 0 {
		b.Closure = math.Abs(rest) / through
	}
	return b
}

// summedTogether sums up the balances of a part: those of the components of a vector are held against the
// largest of them.
func summedTogether(list []result.Balance, kept []frame.Balance) []result.Balance {
	together := func(i, j int) bool { return kept[i].Field == kept[j].Field && kept[i].Unit == kept[j].Unit }
	var out []result.Balance
	for i, b := range list {
		largest, several := 0.0, false
		for j, other := range list {
			if !together(i, j) {
				continue
			}
			s := summed(other)
			stored, _ := s.Stored()
			largest, several = max(largest, s.In, s.Out, math.Abs(stored), s.Size/2), several || i != j
		}
		if several {
			b.Size = max(b.Size, 2*largest)
		}
		out = append(out, summed(b))
	}
	return out
}

// method names how the equations were solved.
func method(s *couple.Solution) string {
	if s.State.Rate != nil {
		words := fmt.Sprintf("%d steps in time by an implicit Runge–Kutta method of order 3", s.Steps)
		if s.Rejected > 0 {
			words += fmt.Sprintf(" (%d tried again shorter)", s.Rejected)
		}
		return words + ", " + s.Method
	}
	if s.Straight {
		return s.Method
	}
	return fmt.Sprintf("Newton's method, %d steps, by %s", s.Steps, s.Method)
}

// lawFault says in which part a law has no usable value.
func (r *run) lawFault(err error) error {
	var bad *law.Error
	if !errors.As(err, &bad) {
		return err
	}
	if bad.Body < 0 {
		return wrong("conditions", "give a formula that holds at all temperatures that occur", "%v on a surface", bad)
	}
	p := &r.model.Parts[r.owner[bad.Body][0]]
	return wrong("parts/"+p.ID+"/material", "give a formula or a table that holds at all temperatures that occur", "in the %s %v", p.Name, bad)
}
