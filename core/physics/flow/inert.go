package flow

import "saltkettle/core/fem"

// inert is the inertia of what flows and the heat that it holds, for an approach through an artificial time: what does not
// flow follows at once.
type inert struct{ *Kernel }

// Inertia has the terms by rates.
func (k *Kernel) Inertia() fem.Kernel { return inert{k} }

// Fork makes one with its own work memory.
func (k inert) Fork() fem.Kernel { return inert{k.Kernel.Fork().(*Kernel)} }

// Survey looks at nothing.
func (inert) Survey(*fem.System, *fem.State) error { return nil }

// Cell adds the terms.
func (k inert) Cell(p *fem.Point, t *fem.Terms) error {
	if k.now == nil {
		return nil
	}
	for i := range k.n {
		t.SourceRate[t.Index(k.u+i, k.u+i)] = k.here.Reference
	}
	if k.t >= 0 && k.here.Capacity != nil {
		t.SourceRate[t.Index(k.t, k.t)] = k.here.Reference * k.now.At(capacity, p.Number)
	}
	return nil
}

// Side adds nothing.
func (inert) Side(int, *fem.Point, *fem.Terms) error { return nil }
