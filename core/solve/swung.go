package solve

import (
	"fmt"
	"math"
	"slices"
	"strings"

	"saltkettle/core/couple"
	"saltkettle/core/quantity"
	"saltkettle/core/result"
)

// Readings of a flow that does not settle may stay within narrow bounds for all that, or swing for ever. What they did in
// the last steps tells which.

// lastSteps are how many of them count, and fewestSteps how many there have to be.
const (
	lastSteps   = 20
	fewestSteps = 4
	// atRest is by how much of the most that it ever was a reading that is at rest changes.
	atRest = 1e-5
)

// watch takes the readings of a steady flow that is still looked for, and says whether there are some and all stayed as they were
// in the last steps.
func (r *run) watch(s *couple.Solution, steps int) (rest bool, err error) {
	before := r.states
	r.states.of = append(slices.Clone(before.of[:before.fresh]), s)
	r.states.fresh = len(r.posed.groups)
	defer func() { r.states = before }()
	err = r.aside(func() { r.passed.add(float64(len(r.passed.times)), r.result.Readings) })
	return err == nil && r.passed.rest(steps), err
}

// rest says that there are readings, all with values, that stayed as they were in the last steps.
func (f *followed) rest(steps int) bool {
	for _, list := range f.values {
		if len(list) <= steps {
			return false
		}
		most := 0.0
		for _, v := range list {
			most = max(most, math.Abs(v))
		}
		last := list[len(list)-1-steps:]
		if !(slices.Max(last)-slices.Min(last) <= atRest*most) {
			return false
		}
	}
	return len(f.values) > 0
}

// swung says within which bounds a reading was in the last steps to a steady flow that was not found, "" if there were few.
func (r *run) swung(q *result.Reading) string {
	list := r.passed.values[q.Key]
	if list = list[max(0, len(list)-lastSteps):]; len(list) < fewestSteps || slices.ContainsFunc(list, func(v float64) bool { return v != v }) {
		return ""
	}
	sum := 0.0
	for _, v := range list {
		sum += v
	}
	u := quantity.MustUnit(q.Shown.Unit)
	show := func(v float64) string { return quantity.Figures(u.From(v, q.Difference), 4) }
	between := strings.TrimSpace(fmt.Sprintf("%s and %s %s", show(slices.Min(list)), show(slices.Max(list)), q.Shown.Unit))
	return fmt.Sprintf("; in the last %d steps it was between %s, on the mean %s", len(list), between, show(sum/float64(len(list))))
}
