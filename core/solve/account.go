package solve

import (
	"math"
	"strings"

	"saltkettle/core/couple"
	"saltkettle/core/fem"
	"saltkettle/core/frame"
	"saltkettle/core/result"
)

// overTime is how the account of a whole run is told from that of its last moment.
const overTime = " over the run"

// account is what was given, taken and stored in a run in time.
type account struct {
	balances []result.Balance // J
	trial    []result.Balance // of the step at hand
	// since is the state up to which what is stored has been counted.
	since  []float64
	stored float64
	// taken is what the step at hand stores, where the heat stored for a kelvin varies: it is
	// counted step by step then.
	taken float64
	// through is the larger of what was brought in and taken out so far, and the step's own.
	through float64
}

// inTime are the units of what is counted over time.
var inTime = map[string]string{"W": "J", "A": "C", "C": "C·s", "N": "N·s", "kg/s": "kg", "mol/s": "mol"}

// missed draws up the account of a step and says how far it is from what it should be,
// relative to what is allowed: of what signals give and, where the heat stored for a kelvin
// varies, of what is stored.
func (r *run) missed(s *couple.Solution, step *fem.Step) (float64, error) {
	worst := r.signals.miss(step)
	a := &r.account
	a.trial = a.trial[:0]
	r.take(s)
	err := s.EachStage(step, func(s *couple.Solution, weight float64) error {
		list, err := r.entries(r.posed.groups[r.posed.marching].parts)
		for i, b := range list {
			if i == len(a.trial) {
				a.trial = append(a.trial, result.Balance{Name: b.Name + overTime, Unit: inTime[b.Unit]})
			}
			for _, e := range b.Entries {
				a.trial[i].Add(e.Key, weight*e.Value)
			}
			a.trial[i].Size += math.Abs(weight) * b.Size
		}
		return err
	})
	n, storer := r.storer()
	if err != nil || storer == nil || storer.StoresEvenly() {
		return worst, err
	}
	taken, err := storer.Taken(s, step.Before, step.After)
	a.taken = taken
	if err != nil {
		return 0, err
	}
	var given, in, out float64
	for _, e := range a.trial[n].Entries {
		given += e.Value
		in, out = in+max(0, e.Value), out+max(0, -e.Value)
	}
	allowed := r.model.Tolerance * max(a.through, in, out, math.Abs(taken))
	if allowed > 0 {
		worst = max(worst, math.Abs(given-taken)/allowed)
	}
	return worst, nil
}

// storer is the part that stores what it is given in time, with the number of its balance among
// those of the group that goes through time; nil if there is none.
func (r *run) storer() (int, frame.Storer) {
	n := 0
	for _, p := range r.posed.groups[r.posed.marching].parts {
		if s := p.stores(); s != nil && r.model.Document.Transient() {
			return n, s
		}
		n += len(p.Balances)
	}
	return 0, nil
}

// book adds the account of the step that was made.
func (r *run) book() {
	a := &r.account
	n, storer := r.storer()
	if storer != nil && !storer.StoresEvenly() {
		a.stored += a.taken
		a.since = append(a.since[:0], r.solution().State.U...)
	}
	for i, b := range a.trial {
		if i == len(a.balances) {
			a.balances = append(a.balances, result.Balance{Name: b.Name, Unit: b.Unit})
		}
		for _, e := range b.Entries {
			a.balances[i].Add(e.Key, e.Value)
		}
		a.balances[i].Size += b.Size
	}
	if len(a.balances) > 0 {
		var in, out float64
		for _, e := range a.balances[n].Entries {
			in, out = in+max(0, e.Value), out+max(0, -e.Value)
		}
		a.through = max(in, out)
	}
	a.trial = a.trial[:0]
}

// store counts what is stored up to a state.
func (r *run) store(s *couple.Solution, to []float64) (taken float64, err error) {
	a := &r.account
	if _, storer := r.storer(); storer != nil && a.since != nil {
		taken, err = storer.Taken(s, a.since, to)
		a.stored += taken
	}
	a.since = append(a.since[:0], to...)
	return taken, err
}

// jump counts what held values bring in when they jump.
func (r *run) jump(before []float64, s *couple.Solution) error {
	a := &r.account
	if a.since == nil {
		a.since = append(a.since, s.State.U...) // it begins
		return nil
	}
	if _, err := r.store(s, before); err != nil {
		return err
	}
	state := append([]float64(nil), before...)
	n, storer := r.storer()
	for i, key := range r.posed.groups[r.posed.marching].HeldKeys() {
		changed := false
		for _, e := range s.HeldBy(i) {
			changed = changed || state[e] != s.State.U[e]
			state[e] = s.State.U[e]
		}
		if !changed {
			continue
		}
		taken, err := r.store(s, state)
		if err != nil {
			return err
		}
		if storer != nil && n < len(a.balances) {
			a.balances[n].Add(key, taken)
		}
	}
	return r.jumpGains(before, s)
}

// jumpGains counts what held values bring in when they jump into bodies that gain it evenly.
func (r *run) jumpGains(before []float64, s *couple.Solution) error {
	now := s.State
	defer func() { s.State = now }()
	first := 0
	for _, p := range r.posed.groups[r.posed.marching].parts {
		kernel, ok := p.kernel.(frame.Gaining)
		if !ok || !p.about().Changes || len(r.account.balances) == 0 {
			first += len(p.Balances)
			continue
		}
		jumped := &fem.State{U: now.U, Rate: make([]float64, len(now.U)), Time: now.Time, Given: now.Given}
		for i, key := range r.posed.groups[r.posed.marching].HeldKeys() {
			clear(jumped.Rate)
			for _, e := range s.HeldBy(i) {
				jumped.Rate[e] = now.U[e] - before[e]
			}
			s.State = jumped
			gains, err := kernel.Gains(s)
			if err != nil {
				return err
			}
			for k, kept := range p.Balances {
				if gain := gains[kept.Field+kept.Component]; gain != 0 {
					b := &r.account.balances[first+k]
					b.Add(key, gain)
					b.Add(result.Stores, -gain)
				}
			}
		}
		first += len(p.Balances)
	}
	return nil
}

// accounts closes the accounts of the whole run.
func (r *run) accounts() error {
	a := &r.account
	if _, err := r.store(r.solution(), r.solution().State.U); err != nil {
		return err
	}
	if n, storer := r.storer(); storer != nil && n < len(a.balances) {
		a.balances[n].Entries = append(a.balances[n].Entries, result.Entry{Key: result.Stores, Value: -a.stored})
	}
	first := 0
	for _, p := range r.posed.groups[r.posed.marching].parts {
		end := min(first+len(p.Balances), len(a.balances))
		r.result.Balances = append(r.result.Balances, summedTogether(a.balances[first:end], p.Balances)...)
		first = end
	}
	return nil
}

// roundOffOf is what rounding can make of what bodies hold.
func (r *run) roundOffOf(storer frame.Storer) (float64, error) {
	u := r.solution().State.U
	content, err := storer.Taken(r.solution(), make([]float64, len(u)), u)
	return roundOff * math.Abs(content), err
}

// rest says of balances in which no more goes through than round-off that they are closed.
func (r *run) rest() error {
	n, storer := r.storer()
	if storer == nil {
		return nil
	}
	floor, err := r.roundOffOf(storer)
	name := strings.TrimSuffix(r.result.Balances[n].Name, overTime)
	for i := range r.result.Balances {
		b := &r.result.Balances[i]
		if size := max(b.In, b.Out); b.Name == name+overTime && size < floor || b.Name == name && size < floor/r.model.End {
			b.Closure = 0
		}
	}
	return err
}

// roundOff is the part of what bodies hold that rounding can make or lose.
const roundOff = 1e-12
