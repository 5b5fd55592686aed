package solve

import (
	"errors"
	"fmt"
	"math"
	"slices"
	"strings"

	"saltkettle/core/model"
	"saltkettle/core/physics/body"
	"saltkettle/core/quantity"
	"saltkettle/core/result"
)

// ComparedRuns are the numbers of the runs with which readings of a model are compared.
func ComparedRuns(m *model.Resolved) (list []int) {
	for i := range m.Readings {
		if n := comparedRun(&m.Readings[i]); n > 0 && !slices.Contains(list, n) {
			list = append(list, n)
		}
	}
	return list
}

// comparedRun is the run that a reading is compared with, 0 for none.
func comparedRun(q *model.ResolvedSentence) int {
	if l := q.Laws[body.Than]; q.Kind == body.KeyLess && l != nil {
		n, _ := l.Constant()
		return int(n)
	}
	return 0
}

// less is by how many decibels a reading is below what it is in another run, of a response at the same frequency.
func (r *run) less(q *model.ResolvedSentence) (float64, error) {
	name, number := strings.TrimSpace(q.Values[body.Other]), comparedRun(q)
	mine, known := r.valueOf(name)
	if !known {
		return 0, fmt.Errorf("there is no reading %s before it that has a value", name)
	}
	other, err := r.compared(number)
	if err != nil {
		return 0, err
	}
	i := slices.IndexFunc(other.Readings, func(o result.Reading) bool { return o.Key == name })
	k := slices.IndexFunc(r.result.Readings, func(o result.Reading) bool { return o.Key == name })
	if i < 0 || other.Readings[i].Missing != "" {
		return 0, fmt.Errorf("in run %d %s has no value", number, name)
	}
	unit := r.result.Readings[k].Unit
	if other.Readings[i].Unit != unit {
		return 0, fmt.Errorf("in run %d %s is another reading: %s", number, name, other.Readings[i].Name)
	}
	theirs := other.Readings[i].Value
	if s := r.solution(); s.Swing != nil {
		shown, err := atFrequency(other, name, s.Swing.Frequency)
		if err != nil {
			return 0, fmt.Errorf("run %d %w", number, err)
		}
		theirs = quantity.MustUnit(other.Readings[i].Shown.Unit).SI(shown)
	}
	if !(mine/theirs > 0) {
		return 0, errors.New("only what is more than nothing in both runs has a level")
	}
	by := 20.
	if unit == "W" {
		by = 10
	}
	return by * math.Log10(theirs/mine), nil
}

// compared is the result of another run.
func (r *run) compared(number int) (*result.Result, error) {
	if other := r.others[number]; other != nil {
		return other, nil
	}
	if r.opt.Compared == nil {
		return nil, fmt.Errorf("the result of run %d is not at hand", number)
	}
	other, err := r.opt.Compared(number)
	if err != nil {
		return nil, fmt.Errorf("run %d cannot be compared with: %w", number, err)
	}
	if r.others == nil {
		r.others = map[int]*result.Result{}
	}
	r.others[number] = other
	return other, nil
}

// atFrequency is a reading of a response at a frequency, in the unit in which it is shown, between those that were asked for over their logarithm.
func atFrequency(o *result.Result, name string, f float64) (float64, error) {
	if o.History == nil || o.History.Axis != result.ByFrequency {
		return 0, errors.New("is no response over frequencies")
	}
	x, y := o.History.Times, o.History.Readings[name]
	const slack = 1e-9
	if len(x) == 0 || len(y) != len(x) || f < x[0]*(1-slack) || f > x[len(x)-1]*(1+slack) {
		return 0, fmt.Errorf("has nothing at %s", quantity.Show(f, "Hz", false, 4))
	}
	k, _ := slices.BinarySearch(x, f*(1-slack))
	if k == 0 || math.Abs(x[min(k, len(x)-1)]-f) <= slack*f {
		return y[k], nil
	}
	part := math.Log(f/x[k-1]) / math.Log(x[k]/x[k-1])
	return y[k-1] + part*(y[k]-y[k-1]), nil
}
