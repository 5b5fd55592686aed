package model

import (
	"fmt"
	"math"
	"slices"
	"strings"

	"gonum.org/v1/gonum/stat/distuv"

	"saltkettle/core/formula"
	"saltkettle/core/quantity"
)

// Axis is the values of a parameter that varies.
type Axis struct {
	Parameter string
	Unit      quantity.Unit // in which the values are shown
	// Values in SI: those that it takes of all combinations, else trial by trial.
	Values []float64
	// From and To are the ends between which it is varied and readings are predicted; of a normal distribution three deviations from its mean.
	From, To float64
	// allowed are the only values that it may take, ascending; nil for any.
	allowed []float64
	whole   bool
	// normal is its distribution, nil if all values between the ends are alike.
	normal *distuv.Normal
}

// far is how many standard deviations from the mean of a normal distribution its ends are.
const far = 3

// Text is a value, SI, as it stands in a document.
func (a *Axis) Text(v float64) string {
	return strings.TrimSpace(fmt.Sprintf("%.12g %s", a.Unit.From(v, false), a.Unit.Text))
}

// Scaled is where a value is between the ends: 0 at the first, 1 at the other.
func (a *Axis) Scaled(v float64) float64 { return (v - a.From) / (a.To - a.From) }

// Unscaled is the value, SI, at a place between the ends, or the one nearest to it that may be taken.
func (a *Axis) Unscaled(u float64) float64 { return a.Snap((1-u)*a.From + u*a.To) }

// Snap is the value nearest to one that may be taken.
func (a *Axis) Snap(v float64) float64 {
	if a.allowed == nil {
		return v
	}
	return slices.MinFunc(a.allowed, func(x, y float64) int {
		if math.Abs(x-v) <= math.Abs(y-v) {
			return -1
		}
		return 1
	})
}

// Free says that it may take any value between its ends.
func (a *Axis) Free() bool { return a.allowed == nil }

// Whole says that it takes whole numbers.
func (a *Axis) Whole() bool { return a.whole }

// Spreads says that the parameter has a distribution of its own.
func (a *Axis) Spreads() bool { return a.normal != nil }

// Quantile is the value below which its distribution is with a probability: evenly between the ends where it has none of its own.
func (a *Axis) Quantile(p float64) float64 {
	switch {
	case a.normal != nil:
		return min(max(a.normal.Quantile(p), min(a.From, a.To)), max(a.From, a.To))
	case a.allowed != nil:
		return a.allowed[min(int(p*float64(len(a.allowed))), len(a.allowed)-1)]
	}
	return (1-p)*a.From + p*a.To
}

// axis evaluates the values of a parameter that varies.
func (r *resolver) axis(place string, v *Vary, p *Parameter, now quantity.Value, t *TrialSet) (Axis, bool) {
	a := Axis{Parameter: v.Parameter, Unit: r.axisUnit(v, p, now)}
	n := need{unit: now.Dimension.Symbol(), temperature: now.Affine}
	ok := false
	switch v.As {
	case "", Whole:
		ok = r.evenly(place, v, n, t.Counted(), &a)
	case ListedValues:
		ok = r.axisListed(place, v, n, &a)
	case Normal:
		ok = r.normal(place, v, n, now, t.Counted(), &a)
	default:
		r.find(Wrong, place+"/as", "", "%s varies in a way %q that is not known", v.Parameter, v.As)
	}
	if ok && t.Pattern == ByLines && v.As != ListedValues {
		r.find(Wrong, place+"/as", "give it a list, or choose another pattern", "%s has no list of values, one for each line", v.Parameter)
		ok = false
	}
	return a, ok && r.withinBounds(place, p, &a)
}

// evenly makes an axis of evenly spaced values or whole numbers between two ends.
func (r *resolver) evenly(place string, v *Vary, n need, counted bool, a *Axis) bool {
	n.whole = v.As == Whole
	n.label = "least value of " + v.Parameter
	from, ok1 := r.value(place+"/from", v.From, n)
	n.label = "greatest value of " + v.Parameter
	to, ok2 := r.value(place+"/to", v.To, n)
	if !ok1 || !ok2 {
		return false
	}
	if from == to {
		r.find(Wrong, place+"/to", "give two different ends", "%s does not vary: both ends are the same", v.Parameter)
		return false
	}
	a.From, a.To = from, to
	if v.As == Whole {
		lo, hi := min(from, to), max(from, to)
		if hi-lo >= MaxTrials {
			r.find(Wrong, place+"/to", "", "%s is to have more than %d values", v.Parameter, MaxTrials)
			return false
		}
		for x := lo; x <= hi; x++ {
			a.allowed = append(a.allowed, x)
		}
		a.whole = true
		a.Values = slices.Clone(a.allowed)
		if from > to {
			slices.Reverse(a.Values)
		}
		return true
	}
	count, ok := r.valueCount(place, v, counted)
	for i := range count {
		f := float64(i) / float64(count-1)
		a.Values = append(a.Values, (1-f)*from+f*to)
	}
	return ok
}

// valueCount is how many values a parameter takes, if the pattern asks for it.
func (r *resolver) valueCount(place string, v *Vary, counted bool) (int, bool) {
	if !counted {
		return 2, true
	}
	count, ok := r.value(place+"/count", v.Count, need{label: "number of values of " + v.Parameter, positive: true, whole: true})
	if !ok {
		return 0, false
	}
	if count < 2 || count > MaxTrials {
		r.find(Wrong, place+"/count", "", "%s is to have %g values; it may have 2 to %d", v.Parameter, count, MaxTrials)
		return 0, false
	}
	return int(count), true
}

// axisListed makes an axis of values one by one.
func (r *resolver) axisListed(place string, v *Vary, n need, a *Axis) bool {
	n.label = "value of " + v.Parameter
	for _, text := range listedTexts(v.Listed) {
		x, ok := r.value(place+"/listed", text, n)
		if !ok {
			return false
		}
		a.Values = append(a.Values, x)
	}
	if len(a.Values) > MaxTrials {
		r.find(Wrong, place+"/listed", "", "%s is to have %d values; it may have 2 to %d", v.Parameter, len(a.Values), MaxTrials)
		return false
	}
	a.allowed = slices.Compact(slices.Sorted(slices.Values(a.Values)))
	if len(a.allowed) < 2 {
		r.find(Wrong, place+"/listed", "write for example 2 mm; 3 mm; 5 mm", "%s does not vary: its list has not two different values", v.Parameter)
		return false
	}
	a.From, a.To = a.allowed[0], a.allowed[len(a.allowed)-1]
	return true
}

// normal makes an axis of a normal distribution; values are counted in the middles of parts of it that are as likely as each other.
func (r *resolver) normal(place string, v *Vary, n need, now quantity.Value, counted bool, a *Axis) bool {
	n.label = "mean of " + v.Parameter
	mean, ok1 := now.SI, true
	if strings.TrimSpace(v.Mean) != "" {
		mean, ok1 = r.value(place+"/mean", v.Mean, n)
	}
	deviation, ok2 := r.value(place+"/deviation", v.Deviation, need{unit: n.unit, label: "standard deviation of " + v.Parameter, positive: true})
	if !ok1 || !ok2 {
		return false
	}
	a.normal = &distuv.Normal{Mu: mean, Sigma: deviation}
	a.From, a.To = mean-far*deviation, mean+far*deviation
	count, ok := r.valueCount(place, v, counted)
	for i := range count {
		a.Values = append(a.Values, a.Quantile((float64(i)+0.5)/float64(count)))
	}
	return ok
}

// withinBounds says whether an axis stays within the bounds of its parameter.
func (r *resolver) withinBounds(place string, p *Parameter, a *Axis) bool {
	for _, end := range []struct {
		text, key string
		sign      float64
	}{{p.Least, "least", 1}, {p.Most, "greatest", -1}} {
		if strings.TrimSpace(end.text) == "" {
			continue
		}
		f, err := formula.Parse(end.text)
		if err != nil {
			continue // another finding says so
		}
		if bound, err := f.Eval(r.out.Parameters); err == nil && min(end.sign*a.From, end.sign*a.To)-end.sign*bound.SI < -1e-12*math.Abs(bound.SI) {
			r.find(Wrong, place, "stay within the bounds of the parameter, or change them", "%s is to go beyond its %s value, %s", p.Name, end.key, end.text)
			return false
		}
	}
	return true
}

// axisUnit is the unit in which values of a parameter are written.
func (r *resolver) axisUnit(v *Vary, p *Parameter, now quantity.Value) quantity.Unit {
	written := map[string]string{Normal: v.Mean, "": v.From, Whole: v.From}[v.As]
	if list := listedTexts(v.Listed); v.As == ListedValues && len(list) > 0 {
		written = list[0]
	}
	for _, text := range []string{r.writtenIn(written), p.Unit, now.Unit} {
		if u, err := quantity.ParseUnit(text); err == nil && u.Dimension == now.Dimension && text != "" {
			return u
		}
	}
	return quantity.MustUnit(now.Dimension.Symbol())
}

func (r *resolver) writtenIn(text string) string {
	f, err := formula.Parse(text)
	if err != nil {
		return ""
	}
	v, err := f.Eval(r.out.Parameters)
	if err != nil {
		return ""
	}
	return v.Unit
}
