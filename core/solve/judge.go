package solve

import (
	"errors"
	"fmt"
	"math"
	"strings"

	"saltkettle/core/physics/coupled"
	"saltkettle/core/physics/law"
	"saltkettle/core/quantity"
	"saltkettle/core/result"
	"saltkettle/core/sparse"
)

// judge decides whether the run is settled.
func (r *run) judge() error {
	s := r.solution
	r.result.Solver = result.Solver{
		Method: method(s), Iterations: s.Linear.Iterations, Residual: s.Linear.Residual, Ended: s.Linear.Status.String(), History: s.Linear.History,
	}
	if !s.Straight {
		r.result.Solver.Steps = s.Residuals
	}
	if err := r.balances(); err != nil {
		return err
	}
	switch {
	case s.Linear.Status == sparse.Stopped && s.State.Rate != nil:
		r.result.Status, r.result.Reason = result.Stopped, fmt.Sprintf("after %s of %s", quantity.Show(s.State.Time, "s", false, 4), quantity.Show(r.model.End, "s", false, 4))
	case s.Linear.Status == sparse.Stopped:
		r.result.Status, r.result.Reason = result.Stopped, fmt.Sprintf("stopped after %d iterations", s.Linear.Iterations)
	case s.Settled:
		r.closed()
		r.melted()
	case s.State.Rate != nil:
		r.result.Status, r.result.Reason = result.NotSettled, fmt.Sprintf("time could not be followed beyond %s: the steps became too short", quantity.Show(s.State.Time, "s", false, 4))
	case !s.Straight:
		r.result.Status, r.result.Reason = result.NotSettled, fmt.Sprintf("the equations, which depend on the solution, were not solved: after %d steps their residual is %.2g (%s)", s.Steps, s.Residuals[len(s.Residuals)-1], s.Linear.Status)
		if r.runsAway() {
			r.result.Reason += runsAwayWords
		}
	default:
		r.result.Status, r.result.Reason = result.NotSettled, fmt.Sprintf("the equations were not solved: %s", s.Linear.Status)
	}
	return nil
}

// runsAway says that a current heats its conductors, which may run away.
func (r *run) runsAway() bool { return r.model.Electric && r.model.Heats }

const runsAwayWords = "; current may heat its conductors faster than the heat can leave"

// hottest is the temperature above which no device is what it was, K.
const hottest = 6000

// melted asks whether the temperatures can be.
func (r *run) melted() {
	if r.posed.temperature < 0 || r.result.Status != result.Settled {
		return
	}
	if _, most := r.solution.Extremes(r.posed.temperature); most.Value > hottest {
		r.result.Status, r.result.Reason = result.NotSettled, fmt.Sprintf("the %s reaches %s, where no material is what it was", r.bodyName(most.Body), quantity.Show(most.Value, "°C", false, 3))
		if r.runsAway() {
			r.result.Reason += runsAwayWords
		}
	}
}

// closed asks whether the balances are closed, in time those of the whole run.
func (r *run) closed() {
	allowed := openBalance
	if r.model.Document.Transient() && r.posed.heat != nil && !r.posed.heat.StoresEvenly() {
		// Within a step the heat stored for a kelvin is sampled.
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

// How many times the tolerance of a step a balance may be open where the heat stored for a
// kelvin varies, and what a signal gives may be missed, over the whole run.
const (
	openTimes   = 30
	missedTimes = 10
)

// openBalance is how far a balance may be open for a run to count as settled.
const openBalance = 1e-6

// balances draws up the accounts of heat and of current: of the whole run first, if it
// runs in time, then of its last moment.
func (r *run) balances() error {
	inTime := r.model.Document.Transient()
	if inTime {
		if err := r.accounts(); err != nil {
			return err
		}
	}
	list, err := r.entries()
	if err != nil {
		return err
	}
	for i, b := range list {
		if i == 0 && inTime && r.posed.heat != nil {
			stored, err := r.posed.heat.Stored(r.solution)
			if err != nil {
				return err
			}
			b.Entries = append(b.Entries, result.Entry{Key: result.Stores, Value: -stored})
		}
		r.close(b)
	}
	if inTime {
		return r.rest()
	}
	return nil
}

// entries lists what each sentence brings in, without what is stored, by balance: that of
// heat is the first.
func (r *run) entries() ([]result.Balance, error) {
	p, s := r.posed, r.solution
	var list []result.Balance
	if p.heat != nil {
		b := result.Balance{Name: "heat", Unit: "W"}
		if err := r.entering(&b, p.heat, p.heatKeys, p.temperature); err != nil {
			return nil, err
		}
		if p.electric != nil && p.heats != "" {
			bodies, contacts, err := p.electric.Power(s, nil)
			if err != nil {
				return nil, err
			}
			b.Entries = append(b.Entries, result.Entry{Key: p.heats, Value: bodies + contacts})
		}
		list = append(list, b)
	}
	if p.electric != nil {
		b := result.Balance{Name: "current", Unit: "A"}
		if r.model.Static {
			b = result.Balance{Name: "charge", Unit: "C"}
		}
		if err := r.entering(&b, p.electric, p.currentKeys, p.potential); err != nil {
			return nil, err
		}
		list = append(list, b)
	}
	return list, nil
}

// entering adds what the conditions of a kernel and the held values of its field bring
// in.
func (r *run) entering(b *result.Balance, k coupled.Accountant, keys []string, field int) error {
	in, err := r.solution.Entering(k)
	if err != nil {
		return err
	}
	for i, key := range keys {
		if n := len(b.Entries); n > 0 && b.Entries[n-1].Key == key {
			b.Entries[n-1].Value += in[i] // emissivities of one sentence
			continue
		}
		b.Entries = append(b.Entries, result.Entry{Key: key, Value: in[i]})
	}
	for i, key := range r.posed.heldKeys {
		if r.posed.heldFields[i] == field {
			b.Entries = append(b.Entries, result.Entry{Key: key, Value: r.solution.Held[i]})
			b.Size += r.solution.HeldSize[i]
		}
	}
	return nil
}

// close sums up a balance and keeps it.
func (r *run) close(b result.Balance) {
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
	if through := max(b.In+max(0, -stored), b.Out+max(0, stored), b.Size/2); through > 0 {
		b.Closure = math.Abs(rest) / through
	}
	r.result.Balances = append(r.result.Balances, b)
}

// method names how the equations were solved.
func method(s *coupled.Solution) string {
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
