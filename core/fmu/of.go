package fmu

import (
	"bytes"
	"fmt"
	"strings"

	"saltkettle/core/quantity"
	"saltkettle/core/table"
	"saltkettle/core/trial"
)

// Of is what a prediction tells of all readings that it has a surface of; named tells how a reading is called and its unit, and whether it is to be
// among the outputs.
func Of(p *trial.Prediction, name, about string, named func(id string) (name, unit string, difference, ok bool)) (*Function, error) {
	f := &Function{Name: name, About: about}
	for i := range p.Axes {
		a := &p.Axes[i]
		now := p.Model.Parameters[a.Parameter].SI
		if lo, hi := min(a.From, a.To), max(a.From, a.To); now < lo || now > hi {
			now = (lo + hi) / 2
		}
		f.Inputs = append(f.Inputs, Input{Name: a.Parameter, Unit: a.Unit, From: a.Unit.From(a.From, false), To: a.Unit.From(a.To, false), Start: a.Unit.From(now, false)})
	}
	taken := map[string]bool{}
	for i := range p.Model.Readings {
		id := p.Model.Readings[i].ID
		words, unit, difference, ok := named(id)
		if !ok {
			continue
		}
		fitted, trials, err := p.Surface(id)
		if err != nil {
			continue
		}
		if words = strings.TrimSpace(words); words == "" || taken[words] {
			words = strings.TrimSpace(words + " " + id)
		}
		taken[words] = true
		_, share := fitted.Error()
		f.Outputs = append(f.Outputs, Output{Name: words, Unit: quantity.MustUnit(unit), Difference: difference, Surface: fitted.Source(),
			About: fmt.Sprintf("%s is off by %.2g %% of how it varies", trial.LeftOut(fitted, len(trials)), 100*share)})
	}
	if len(f.Outputs) == 0 {
		return nil, fmt.Errorf("no reading can be predicted yet: make more trials")
	}
	return f, nil
}

// WriteTable writes the function over a grid of its inputs as CSV.
func (f *Function) WriteTable(b *bytes.Buffer) error {
	out := table.NewWriter(b)
	head, lines := f.Table()
	_ = out.Write(head)
	for _, l := range lines {
		row := make([]string, len(l))
		for i, x := range l {
			row[i] = fmt.Sprintf("%.10g", x)
		}
		_ = out.Write(row)
	}
	return out.Flush()
}
