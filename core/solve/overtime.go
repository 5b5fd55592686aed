package solve

import (
	"errors"
	"fmt"
	"math"
	"slices"

	"saltkettle/core/formula"
	"saltkettle/core/model"
	"saltkettle/core/quantity"
	"saltkettle/core/result"
)

// followed are readings over time, SI; those that had no value at a moment are not numbers
// there.
type followed struct {
	times  []float64
	values map[string][]float64
	last   []result.Reading
}

// add adds the readings of a moment.
func (f *followed) add(time float64, list []result.Reading) {
	if f.values == nil {
		f.values = map[string][]float64{}
	}
	f.times = append(f.times, time)
	for _, q := range list {
		f.values[q.Key] = append(f.values[q.Key], q.Value)
	}
}

// follows says that a reading is over time.
func (r *run) follows() bool {
	return slices.ContainsFunc(r.model.Readings, func(q model.ResolvedSentence) bool { return q.InTime })
}

// overTime takes a number from what a quantity was over the run. Between the moments it is
// taken to be straight.
func (r *run) overTime(d *formula.Reduction, keys []string) (float64, error) {
	t := r.followed.times
	y, err := r.curve(d, keys)
	if err != nil {
		return 0, err
	}
	at := func(time float64) float64 { return between(t, y, time) }
	from, to := t[0], t[len(t)-1]
	if len(d.Moments) == 2 {
		from, to = d.Moments[0], d.Moments[1]
	}
	for _, m := range d.Moments {
		if d.Kind != "crossing" && m > t[len(t)-1]*(1+1e-9) {
			return 0, fmt.Errorf("the run ended at %s, before %s", r.onAxis(t[len(t)-1]), r.onAxis(m))
		}
	}
	switch d.Kind {
	case "at":
		return at(d.Moments[0]), nil
	case "crossing":
		return crossed(t, y, d.Moments[0])
	case "amplitude", "phase":
		return harmonic(t, y, d.Moments[0], d.Kind)
	}
	x, v := span(t, y, from, to)
	sum := 0.0
	for i := 1; i < len(x); i++ {
		sum += (x[i] - x[i-1]) * (v[i] + v[i-1]) / 2
	}
	switch d.Kind {
	case "greatest":
		return peak(x, v), nil
	case "least":
		for i := range v {
			v[i] = -v[i]
		}
		return -peak(x, v), nil
	case "mean":
		return sum / (to - from), nil
	}
	return sum, nil
}

// curve is the quantity of a reduction over time at the moments.
func (r *run) curve(d *formula.Reduction, keys []string) ([]float64, error) {
	f := &r.followed
	if len(f.times) < 2 {
		return nil, errors.New("nothing was followed over time")
	}
	columns := make([][]float64, 0, len(keys)+1)
	for _, key := range keys {
		columns = append(columns, f.values[key])
	}
	columns = append(columns, f.times)
	for i, key := range keys {
		if d.Quantity.Uses(i) && len(columns[i]) != len(f.times) {
			return nil, fmt.Errorf("it uses %s, which has no value", key)
		}
	}
	y := make([]float64, len(f.times))
	d.Quantity.NewWork().Run(columns, y)
	for i, v := range y {
		if math.IsNaN(v) || math.IsInf(v, 0) {
			return nil, fmt.Errorf("%s has no finite value at %s", d.Quantity, r.onAxis(f.times[i]))
		}
	}
	return y, nil
}

// onAxis is a time, or a frequency of a response, in words.
func (r *run) onAxis(v float64) string {
	if r.model.Document.Swings() {
		return quantity.Show(v, "Hz", false, 4)
	}
	return quantity.Show(v, "s", false, 4)
}

// between is a curve at a time.
func between(t, y []float64, time float64) float64 {
	i, _ := slices.BinarySearch(t, time)
	i = min(max(i, 1), len(t)-1)
	f := (time - t[i-1]) / (t[i] - t[i-1])
	return y[i-1] + min(max(f, 0), 1)*(y[i]-y[i-1])
}

// span is the piece of a curve between two times.
func span(t, y []float64, from, to float64) (x, v []float64) {
	x, v = append(x, from), append(v, between(t, y, from))
	for i, time := range t {
		if time > from && time < to {
			x, v = append(x, time), append(v, y[i])
		}
	}
	return append(x, to), append(v, between(t, y, to))
}

// peak is the greatest value of a curve, on the parabola through its greatest point and
// those beside it where these are about as far away.
func peak(x, v []float64) float64 {
	k := slices.Index(v, slices.Max(v))
	if k == 0 || k == len(x)-1 {
		return v[k]
	}
	a, b := x[k]-x[k-1], x[k+1]-x[k]
	if max(a, b) > 4*min(a, b) {
		return v[k]
	}
	before, after := (v[k]-v[k-1])/a, (v[k+1]-v[k])/b
	bend := (after - before) / (a + b)
	slope := (before*b + after*a) / (a + b)
	if bend >= 0 {
		return v[k]
	}
	return v[k] - slope*slope/(4*bend)
}

// crossed is the first time at which a curve reaches a value.
func crossed(t, y []float64, value float64) (float64, error) {
	for i, v := range y {
		if v == value {
			return t[i], nil
		}
		if i > 0 && (y[i-1] < value) != (v < value) {
			return t[i-1] + (value-y[i-1])/(v-y[i-1])*(t[i]-t[i-1]), nil
		}
	}
	return 0, errors.New("that value is not reached")
}

// harmonic is the amplitude of the first harmonic of a curve in its last period, or by how
// much it is ahead of sin(2π·t/period), rad.
func harmonic(t, y []float64, period float64, kind string) (float64, error) {
	end := t[len(t)-1]
	if period > end-t[0] {
		return 0, errors.New("the run is shorter than the period")
	}
	x, v := span(t, y, end-period, end)
	omega := 2 * math.Pi / period
	var s, c float64
	for i := 1; i < len(x); i++ {
		// Each straight piece times sine and cosine, exactly.
		h := x[i] - x[i-1]
		if h == 0 {
			continue
		}
		slope := (v[i] - v[i-1]) / h
		s0, c0 := math.Sincos(omega * x[i-1])
		s1, c1 := math.Sincos(omega * x[i])
		s += (v[i-1]*c0-v[i]*c1)/omega + slope*(s1-s0)/(omega*omega)
		c += (v[i]*s1-v[i-1]*s0)/omega + slope*(c1-c0)/(omega*omega)
	}
	s, c = 2*s/period, 2*c/period
	if kind == "phase" {
		return math.Atan2(c, s), nil
	}
	return math.Hypot(s, c), nil
}
