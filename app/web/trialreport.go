package web

import (
	"context"
	"fmt"
	"slices"
	"strings"

	"saltkettle/app/store"
	"saltkettle/core/model"
)

// reportTrials is a trial set in the report, with what came of its last series.
type reportTrials struct {
	Name   string
	Varies []string
	Wanted []string
	State  string
	// Heads and Rows are the best trial or those of the front, at most reportRows.
	Heads []string
	Rows  [][]string
	More  int // of the front that are left out
	// Surfaces say how well readings are predicted, and Idle what does not matter.
	Surfaces, Idle []string
	Optimum        string
}

// reportRows is how many trials of a front a report shows.
const reportRows = 12

// reported is the trial sets of a model as a report shows them.
func (s *trialsPage) reported(ctx context.Context, modelID uint, doc *model.Document, k *briefMaker) (list []reportTrials, err error) {
	for i := range doc.Trials {
		t := &doc.Trials[i]
		v := reportTrials{Name: t.Name}
		set := k.trialSet(i)
		for j := range set.Vary {
			v.Varies = append(v.Varies, set.Vary[j].words())
		}
		if set.Good {
			v.Varies = append(v.Varies, set.Pattern.Plain()+": "+set.Words)
		}
		for _, g := range set.Goals {
			words := g.Want.Plain() + " " + g.Reading.Plain()
			if g.Near {
				words += " to " + g.Target.Value
			}
			v.Wanted = append(v.Wanted, words)
		}
		for _, l := range set.Limits {
			v.Wanted = append(v.Wanted, fmt.Sprintf("while %s stays %s %s", l.Reading.Plain(), l.Side.Plain(), l.Value.Value))
		}
		if t.While != "" {
			v.Wanted = append(v.Wanted, "and "+t.While+" holds")
		}
		series, err := s.store.LastSeries(ctx, modelID, t.ID)
		if store.IsNotFound(err) {
			v.State = "No trials have been made"
			list = append(list, v)
			continue
		}
		if err != nil {
			return nil, err
		}
		o, err := s.outcomes(ctx, series)
		if err != nil {
			return nil, err
		}
		v.State = fmt.Sprintf("%d of %d trials made, of revision %d", len(o.made), o.set.Count(), series.Revision)
		v.front(o)
		if !series.Active() && len(o.made) > 2 {
			in, err := s.insightInto(o)
			if err != nil {
				return nil, err
			}
			v.told(in)
		}
		list = append(list, v)
	}
	return list, nil
}

// words say how a parameter varies.
func (v *varyView) words() string {
	switch v.Kind {
	case model.ListedValues:
		return v.Parameter + " in " + v.Listed.Value
	case model.Normal:
		return fmt.Sprintf("%s of mean %s and deviation %s", v.Parameter, v.Mean.Plain(), v.Deviation.Value)
	}
	text := fmt.Sprintf("%s from %s to %s", v.Parameter, v.From.Value, v.To.Value)
	if v.Counted {
		text += " in " + v.Count.Value
	}
	return text
}

// front fills the best trial or those of the front.
func (v *reportTrials) front(o *outcomes) {
	rows := o.Front()
	if len(o.Aims) < 2 {
		rows = rows[:min(1, len(rows))]
	}
	parameters := o.parameters()
	columns := append(slices.Clone(parameters), o.readings()...)
	v.Heads = []string{"trial"}
	for _, c := range columns {
		v.Heads = append(v.Heads, strings.TrimSuffix(c.name+", "+c.unit, ", "))
	}
	if len(rows) > reportRows {
		v.More = len(rows) - reportRows
		rows = rows[:reportRows]
	}
	for _, place := range rows {
		row := []string{fmt.Sprint(place + 1)}
		for i, c := range columns {
			text := "–"
			if x, ok := c.of(place); ok {
				text = numberCell(x, i < len(parameters)).Text
			}
			row = append(row, text)
		}
		v.Rows = append(v.Rows, row)
	}
}

// told fills what the surfaces tell.
func (v *reportTrials) told(in *insight) {
	view := in.view()
	v.Idle = view.Idle
	for _, q := range view.Readings {
		if q.Error != "" {
			v.Surfaces = append(v.Surfaces, q.Name+": "+q.Error)
		}
	}
	if o := view.Optimum; o != nil && o.Keeps && slices.ContainsFunc(view.Readings, func(q predictedView) bool { return q.Error != "" }) {
		v.Optimum = o.Words
	}
}
