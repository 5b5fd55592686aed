package fem

import "fmt"

// Checkpoint is all that a march needs to go on from where it was. Its slices belong to it.
type Checkpoint struct {
	// Time that has been reached, and that at which the march began, s.
	Time, From float64
	// Next is the length of the next step, s, After that of the first one after a break; 0
	// means that none is known.
	Next, After float64
	// Fresh says that the state has just jumped.
	Fresh              bool
	Accepted, Rejected int
	U                  []float64
	// Speed of fields with rates of second order, nil if there are none.
	Speed []float64
	// Last stage of the step before.
	Last Stage
	// Least and greatest value of each field so far, and the sizes of residuals.
	Least, Greatest, Scale []float64
}

// checkpoint is that of the state at hand, before a step of a length.
func (m *march) checkpoint(next float64) *Checkpoint {
	c := &Checkpoint{Time: m.Time, From: m.set.End - m.span, Next: next, After: m.after, Fresh: m.fresh, Accepted: m.Accepted, Rejected: m.Rejected,
		U: append([]float64(nil), m.at.U...), Speed: append([]float64(nil), m.speed...), Last: m.last, Scale: append([]float64(nil), m.set.Newton.Scale...)}
	for _, s := range m.ranges {
		c.Least, c.Greatest = append(c.Least, s.least), append(c.Greatest, s.greatest)
	}
	return c
}

// resume takes up a checkpoint of a march through the same equations.
func (m *march) resume(c *Checkpoint) error {
	if len(c.U) != m.System.N || len(c.Last.Rate) != m.System.N || len(c.Least) != len(m.System.Fields) || len(c.Greatest) != len(m.System.Fields) || len(c.Scale) != len(m.System.Fields) || len(c.Speed) != len(m.speed) {
		return fmt.Errorf("the checkpoint is of other equations: it has %d unknowns, not %d", len(c.U), m.System.N)
	}
	copy(m.at.U, c.U)
	copy(m.speed, c.Speed)
	copy(m.at.Rate, c.Last.Rate)
	m.Time, m.at.Time, m.span = c.Time, c.Time, m.set.End-c.From
	m.Accepted, m.Rejected = c.Accepted, c.Rejected
	m.after, m.fresh, m.last = c.After, c.Fresh, c.Last
	for i := range m.ranges {
		m.ranges[i] = span{c.Least[i], c.Greatest[i]}
	}
	copy(m.set.Newton.Scale, c.Scale)
	m.set.FirstStep = c.Next
	return nil
}
