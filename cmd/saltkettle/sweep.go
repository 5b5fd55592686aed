package main

import (
	"context"
	"fmt"
	"io"
	"os"
	"slices"
	"strings"
	"time"

	"github.com/spf13/cobra"

	"saltkettle/core/model"
	"saltkettle/core/physics"
	"saltkettle/core/quantity"
	"saltkettle/core/result"
	"saltkettle/core/solve"
	"saltkettle/core/table"
	"saltkettle/core/trial"
)

func sweepCommand() *cobra.Command {
	var name string
	var sets []string
	cmd := &cobra.Command{
		Use:   "sweep FILE",
		Short: "make the trials of a set and print them as CSV",
		Long: `Make the trials of a trial set of a model file, one after the other, and print
a line of CSV for each, with its parameters and readings in the units in which they
are shown. The best trial is named on standard error.

Exit codes are those of solve; 3 means that some trial did not settle.`,
		Args: cobra.ExactArgs(1),
		RunE: func(cmd *cobra.Command, args []string) error {
			doc, err := readModel(args[0])
			if err != nil {
				return err
			}
			if err := setParameters(doc, sets); err != nil {
				return err
			}
			resolved, findings := model.Resolve(doc, physics.Catalog())
			if blocking := model.Blocking(findings); len(blocking) > 0 {
				return &solve.ModelError{Findings: blocking}
			}
			i := slices.IndexFunc(resolved.Trials, func(t model.ResolvedTrials) bool { return name == "" || t.ID == name || t.Name == name })
			if i < 0 {
				return documentError("trials", fmt.Errorf("there is no trial set %q", name))
			}
			if set := &resolved.Trials[i]; !set.Good {
				faults := slices.DeleteFunc(findings, func(f model.Finding) bool { return !strings.HasPrefix(f.Place, "trials/"+set.ID) })
				return &solve.ModelError{Findings: faults}
			}
			return sweep(cmd.Context(), cmd.OutOrStdout(), resolved, &resolved.Trials[i])
		},
	}
	cmd.Flags().StringVar(&name, "trials", "", "the trial set, by its `ID` or name; the first one if none is named")
	addSetFlag(cmd, &sets)
	return cmd
}

// readingHead is the head of the column of a reading.
func readingHead(r *model.Resolved, q *model.ResolvedSentence) string {
	name, unit := q.Name, q.Unit
	if name == "" {
		name = r.Document.Words(physics.Catalog(), q.Sentence)
	}
	if unit == "" {
		unit = q.UsualUnit()
	}
	return strings.TrimSuffix(fmt.Sprintf("%s (%s)", name, unit), " ()")
}

// sweep makes all trials of a set.
func sweep(ctx context.Context, w io.Writer, r *model.Resolved, set *model.ResolvedTrials) error {
	out := table.NewWriter(w)
	list := make([]trial.Outcome, set.Count())
	all := true
	var near *solve.Outcome // the last that settled, with which what is found in steps begins
	for i := range list {
		doc, err := set.Document(r.Document, i)
		if err != nil {
			return err
		}
		opt := solve.Options{Now: time.Now}
		if near != nil && r.Stepwise {
			opt.Near = func() (*result.Earlier, error) { return result.NewEarlier(near.Result, near.Fields), nil }
		}
		o, err := solve.Run(ctx, doc, opt)
		if ctx.Err() != nil {
			return ctx.Err()
		}
		status, readings := "", []result.Reading(nil)
		if err != nil {
			status = "failed: " + err.Error()
		} else {
			status, readings = string(o.Status), o.Readings
		}
		if status == string(result.Settled) {
			near = o
		}
		all = all && status == string(result.Settled)
		list[i] = trial.Outcome{Done: err == nil, Counts: status == string(result.Settled), Readings: map[string]float64{}}
		if i == 0 {
			head := []string{"trial"}
			for _, a := range set.Axes {
				head = append(head, fmt.Sprintf("%s (%s)", a.Parameter, a.Unit.Text))
			}
			for k := range r.Readings {
				head = append(head, readingHead(r, &r.Readings[k]))
			}
			_ = out.Write(append(head, "state"))
		}
		line := []string{fmt.Sprint(i + 1)}
		for k, at := range set.At(i) {
			line = append(line, fmt.Sprintf("%.10g", set.Axes[k].Unit.From(set.Axes[k].Values[at], false)))
		}
		for k := range r.Readings {
			text := "" // of a trial that failed, or a reading without a value
			for _, q := range readings {
				if q.Key == r.Readings[k].ID && q.Missing == "" {
					list[i].Readings[q.Key] = q.Value
					text = fmt.Sprintf("%.10g", q.Shown.Value)
				}
			}
			line = append(line, text)
		}
		_ = out.Write(append(line, status))
		if err := out.Flush(); err != nil {
			return err
		}
	}
	if best, ok := trial.FindBest(r, set, list); ok {
		q := r.Readings[slices.IndexFunc(r.Readings, func(q model.ResolvedSentence) bool { return q.ID == set.Goal.Reading })]
		fmt.Fprintf(os.Stderr, "best: trial %d, %s %s\n", best.Trial+1, q.Name, quantity.Show(best.Value, q.UsualUnit(), q.Definition.Difference, 5))
	}
	if !all {
		return errNotSettled
	}
	return nil
}
