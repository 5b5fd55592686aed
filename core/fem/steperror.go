package fem

import "math"

// setOff is how far a field at rest got in a step that was tried.
type setOff struct{ step, size float64 }

// setsOff says that a field with rates of second order that has not moved before does so in a
// way in which it gets less far in a shorter step by more than the step is shorter, as where a
// force grows from nothing: there the error of any step, however short, is a part of its own
// motion, and says nothing. Where steps are too long to see it swing, it gets as far in a shorter
// one.
func (m *march) setsOff(f int, step, size float64) bool {
	if m.second == nil || !m.set.Second[f] || m.ranges[f].least < m.ranges[f].greatest {
		return false
	}
	if m.off == nil {
		m.off = make([]setOff, len(m.ranges))
	}
	before := m.off[f]
	m.off[f] = setOff{step, size}
	return step < before.step/1.2 && size < before.size*math.Pow(step/before.step, 1.5)
}

// span is what a field has been through: its least and its greatest value.
type span struct{ least, greatest float64 }

// size of a field that errors are compared with: how far its values are apart, so
// that a temperature counts from where it varies and not from absolute zero.
func (s span) size() float64 {
	return max(s.greatest-s.least, littleOf*max(math.Abs(s.greatest), math.Abs(s.least)))
}

// littleOf is the part of its largest value that a field that is even has as its size.
const littleOf = 1e-3

// spans are those of the fields so far, with the state at hand.
func (m *march) spans() []span {
	out := append([]span(nil), m.ranges...)
	for i, v := range m.at.U {
		f := m.field[i]
		out[f] = span{min(out[f].least, v), max(out[f].greatest, v)}
	}
	return out
}

// error estimates the error of the step just made, relative to what is allowed: a mean of
// the root mean square over the unknowns and of the greatest, so that neither one node nor
// a small place is overlooked; that of the worst field.
func (m *march) error(method *tableau) float64 {
	spans := m.spans()
	sum, most, count := make([]float64, len(spans)), make([]float64, len(spans)), make([]float64, len(spans))
	for i := range m.at.U {
		if !m.changes(i) {
			continue
		}
		f := m.field[i]
		count[f]++
		if m.c.Fixed[i] {
			continue
		}
		var e float64
		for j, d := range method.miss {
			rate := m.step.Stages[j].Rate
			if m.second != nil && m.second[i] {
				rate = m.step.Stages[j].Speed
			}
			e += d * rate[i]
		}
		sum[f] += e * e
		most[f] = max(most[f], math.Abs(e))
	}
	h, worst := m.step.To-m.step.From, 0.0
	for f, q := range sum {
		if q > 0 && !m.setsOff(f, h, spans[f].size()) {
			worst = max(worst, h*math.Sqrt(math.Sqrt(q/count[f])*most[f])/spans[f].size())
		}
	}
	return worst / m.set.Tolerance
}
