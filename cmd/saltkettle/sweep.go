package main

import (
	"bytes"
	"context"
	"errors"
	"fmt"
	"io"
	"math"
	"os"
	"path/filepath"
	"runtime"
	"slices"
	"strings"
	"sync"
	"time"

	"github.com/spf13/cobra"

	"saltkettle/core/fmu"
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
	w := &sweeper{}
	cmd := &cobra.Command{
		Use:   "sweep FILE",
		Short: "make the trials of a set and print them as CSV",
		Long: `Make the trials of a trial set of a model file and print a line of CSV for each,
with its parameters and readings in the units in which they are shown. The best
trial, or the front of several goals, is named on standard error.

With --search further trials are chosen as the set says, until its goals are met
or it has made as many as it may. With --tell what the surfaces tell is written to
standard error: how well each reading is predicted, what makes it vary, how it
spreads, the chance of breaking a limit and the best by the surfaces. With
--surface FILE the surfaces are written, by the ending of the file: .fmu (unit for
co-simulation, FMI 3.0), .csv (over a grid), .go or .c.

Exit codes are those of solve; 3 means that some trial did not settle.`,
		Args: cobra.ExactArgs(1),
		RunE: func(cmd *cobra.Command, args []string) error {
			doc, err := readSet(args[0], sets)
			if err != nil {
				return err
			}
			if ext := filepath.Ext(w.surface); w.surface != "" && !slices.Contains([]string{".fmu", ".csv", ".go", ".c"}, ext) {
				return fmt.Errorf("a surface is written as .fmu, .csv, .go or .c, not as %q", w.surface)
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
			w.out, w.say = table.NewWriter(cmd.OutOrStdout()), cmd.ErrOrStderr()
			w.set = &trial.Set{ResolvedTrials: &resolved.Trials[i], Model: resolved}
			return w.sweep(cmd.Context())
		},
	}
	cmd.Flags().StringVar(&name, "trials", "", "the trial set, by its `ID` or name; the first one if none is named")
	cmd.Flags().BoolVar(&w.search, "search", false, "choose further trials as the set says")
	cmd.Flags().BoolVar(&w.tell, "tell", false, "write what the surfaces tell to standard error")
	cmd.Flags().StringVar(&w.surface, "surface", "", "write the surfaces to a `FILE`: .fmu, .csv, .go or .c")
	addSetFlag(cmd, &sets)
	return cmd
}

// readingHead is the head of the column of a reading.
func readingHead(r *model.Resolved, q *model.ResolvedSentence) string {
	return strings.TrimSuffix(fmt.Sprintf("%s (%s)", readingWords(r, q), readingUnit(q)), " ()")
}

func readingWords(r *model.Resolved, q *model.ResolvedSentence) string {
	if q.Name != "" {
		return q.Name
	}
	return r.Document.Words(physics.Catalog(), q.Sentence)
}

func readingUnit(q *model.ResolvedSentence) string {
	if q.Unit != "" {
		return q.Unit
	}
	return q.UsualUnit()
}

// sweeper makes the trials of a set.
type sweeper struct {
	search, tell bool
	surface      string

	out *table.Writer
	say io.Writer
	set *trial.Set

	all   bool           // each has settled
	near  *solve.Outcome // the last that settled, with which what is found in steps begins
	lines map[int][]string
	next  int  // line to be written
	small bool // trials are made side by side
}

// smallTrial is up to how many unknowns trials are made side by side.
const smallTrial = 60000

// sweep makes the trials of the pattern, then those that are chosen.
func (w *sweeper) sweep(ctx context.Context) error {
	w.all, w.lines = true, map[int][]string{}
	head := []string{"trial"}
	for _, a := range w.set.Axes {
		head = append(head, fmt.Sprintf("%s (%s)", a.Parameter, a.Unit.Text))
	}
	for k := range w.set.Model.Readings {
		head = append(head, readingHead(w.set.Model, &w.set.Model.Readings[k]))
	}
	_ = w.out.Write(append(head, "state"))
	if err := w.make(ctx, w.set.Planned()); err != nil {
		return err
	}
	var earlier []trial.Proposal
	for w.search {
		step, err := trial.Next(trial.Predict(w.set), earlier)
		if err != nil {
			return err
		}
		if step.Words != "" {
			fmt.Fprintln(w.say, "search: "+step.Words)
		}
		if step.Done {
			break
		}
		earlier = append(earlier, step.Proposals...)
		var added [][]float64
		for _, p := range earlier {
			added = append(added, p.Values)
		}
		w.set.ResolvedTrials = w.set.With(added)
		if err := w.make(ctx, w.set.Count()); err != nil {
			return err
		}
	}
	w.best()
	p := trial.Predict(w.set)
	if w.tell {
		w.told(p)
	}
	if w.surface != "" {
		if err := w.handOver(ctx, p); err != nil {
			return err
		}
	}
	if !w.all {
		return errNotSettled
	}
	return nil
}

// make makes the trials up to a number: one at first, then as many side by side as there are cores if they are small and no one begins where another ended.
func (w *sweeper) make(ctx context.Context, upTo int) error {
	from := len(w.set.List)
	w.set.List = append(w.set.List, make([]trial.Outcome, upTo-from)...)
	var mu sync.Mutex
	var failed error
	work := func() {
		for ctx.Err() == nil {
			mu.Lock()
			i := from
			from++
			stop := failed != nil || i >= upTo
			mu.Unlock()
			if stop {
				return
			}
			if err := w.one(ctx, i, &mu); err != nil {
				mu.Lock()
				failed = err
				mu.Unlock()
				return
			}
			if i == 0 {
				return // how large they are shows the first
			}
		}
	}
	if from == 0 {
		work()
	}
	workers := 1
	if w.small && !w.set.Model.Stepwise {
		workers = runtime.NumCPU()
	}
	var wg sync.WaitGroup
	for range workers {
		wg.Go(work)
	}
	wg.Wait()
	if failed == nil {
		failed = ctx.Err()
	}
	return failed
}

// one makes one trial.
func (w *sweeper) one(ctx context.Context, i int, mu *sync.Mutex) error {
	doc, err := w.set.Document(w.set.Model.Document, w.set.Values(i))
	if err != nil {
		return err
	}
	opt := solve.Options{Now: time.Now, Lean: !w.set.Model.Stepwise}
	mu.Lock()
	near := w.near
	mu.Unlock()
	if near != nil && w.set.Model.Stepwise {
		opt.Near = func() (*result.Earlier, error) { return result.NewEarlier(near.Result, near.Fields), nil }
	}
	o, err := solve.Run(ctx, doc, opt)
	if ctx.Err() != nil {
		return ctx.Err()
	}
	mu.Lock()
	defer mu.Unlock()
	out := trial.Outcome{Done: err == nil, Readings: map[string]float64{}}
	status := ""
	if err != nil {
		status = "failed: " + err.Error()
	} else {
		status = string(o.Status)
		out.Counts = o.Status == result.Settled
		w.small = o.Mesh.Unknowns <= smallTrial
	}
	if out.Counts {
		w.near = o
	}
	out.Failed = !out.Counts
	w.all = w.all && out.Counts
	line := []string{fmt.Sprint(i + 1)}
	for k, v := range w.set.Values(i) {
		line = append(line, fmt.Sprintf("%.10g", w.set.Axes[k].Unit.From(v, false)))
	}
	for k := range w.set.Model.Readings {
		text := "" // of a trial that failed, or a reading without a value
		if err == nil {
			for _, q := range o.Readings {
				if q.Key == w.set.Model.Readings[k].ID && q.Missing == "" {
					out.Readings[q.Key] = q.Value
					text = fmt.Sprintf("%.10g", q.Shown.Value)
				}
			}
		}
		line = append(line, text)
	}
	w.set.List[i] = out
	w.lines[i] = append(line, status)
	for ; w.lines[w.next] != nil; w.next++ { // in their order, though the next may be ready before
		_ = w.out.Write(w.lines[w.next])
		delete(w.lines, w.next)
	}
	return w.out.Flush()
}

// reading is one of the model by its id.
func (w *sweeper) reading(id string) *model.ResolvedSentence {
	list := w.set.Model.Readings
	return &list[slices.IndexFunc(list, func(q model.ResolvedSentence) bool { return q.ID == id })]
}

// show is a value of a reading, or a difference of such, in words.
func (w *sweeper) show(q *model.ResolvedSentence, v float64, difference bool) string {
	return quantity.Show(v, readingUnit(q), difference || q.Definition.Difference, 5)
}

// values are those of parameters in words.
func (w *sweeper) values(list []float64) string {
	var words []string
	for i, v := range list {
		words = append(words, w.set.Axes[i].Parameter+" "+quantity.Show(v, w.set.Axes[i].Unit.Text, false, 5))
	}
	return strings.Join(words, ", ")
}

// best says which trial is the best, or which are on the front.
func (w *sweeper) best() {
	best, ok := w.set.Best()
	if !ok {
		return
	}
	if len(w.set.Aims) > 1 {
		var numbers []string
		for _, i := range w.set.Front() {
			numbers = append(numbers, fmt.Sprint(i+1))
		}
		fmt.Fprintf(w.say, "front: trials %s\n", strings.Join(numbers, ", "))
	}
	q := w.reading(w.set.Aims[0].Reading)
	fmt.Fprintf(w.say, "best: trial %d, %s, %s %s\n", best.Trial+1, w.values(w.set.Values(best.Trial)), readingWords(w.set.Model, q), w.show(q, best.Value, false))
}

// told writes what the surfaces tell.
func (w *sweeper) told(p *trial.Prediction) {
	for k := range w.set.Model.Readings {
		q := &w.set.Model.Readings[k]
		name := readingWords(w.set.Model, q)
		f, trials, err := p.Surface(q.ID)
		if err == nil && !w.set.Varies(q.ID) {
			err = errors.New("the same in all trials")
		}
		if err != nil {
			fmt.Fprintf(w.say, "%s: %v\n", name, err)
			continue
		}
		size, share := f.Error()
		fmt.Fprintf(w.say, "%s: %s is off by %s, %.2g %% of how it varies\n", name, trial.LeftOut(f, len(trials)), w.show(q, size, true), 100*share)
		if parts, err := p.Sensitivities(q.ID); err == nil {
			for _, s := range parts {
				fmt.Fprintf(w.say, "  %s makes up %.1f ± %.1f %% of its variance alone, %.1f ± %.1f %% with others\n", s.Parameter, 100*s.First, 100*known(s.FirstError), 100*s.Total, 100*known(s.TotalError))
			}
		}
		if s, err := p.Spread(q.ID); err == nil {
			fmt.Fprintf(w.say, "  spreads about %s by %s, 90 %% between %s and %s\n", w.show(q, s.Mean, false), w.show(q, s.Deviation, true), w.show(q, s.Low, false), w.show(q, s.High, false))
		}
	}
	if chances, err := p.Chances(); err == nil {
		for _, c := range chances {
			q := w.reading(c.Bound.Reading)
			fmt.Fprintf(w.say, "%s breaks its limit %s with a chance of %s\n", readingWords(w.set.Model, q), w.show(q, c.Bound.Value, false), trial.Percent(c.Share))
		}
	}
	if o, err := p.Optimum(); err == nil {
		words := w.values(o.Values)
		for k := range w.set.Model.Readings {
			q := &w.set.Model.Readings[k]
			if e, ok := o.Estimates[q.ID]; ok {
				words += fmt.Sprintf(", %s %s ± %s", readingWords(w.set.Model, q), w.show(q, e.Value, false), w.show(q, trial.Within*e.Deviation, true))
			}
		}
		fmt.Fprintln(w.say, "best by the surfaces: "+words)
	}
}

// known is a number, 0 for one that is not known.
func known(x float64) float64 {
	if math.IsNaN(x) {
		return 0
	}
	return x
}

// handOver writes the surfaces to a file.
func (w *sweeper) handOver(ctx context.Context, p *trial.Prediction) error {
	f, err := w.function(p)
	if err != nil {
		return err
	}
	var b bytes.Buffer
	switch filepath.Ext(w.surface) {
	case ".go":
		b.WriteString(f.Go())
	case ".c":
		b.WriteString(f.C())
	case ".csv":
		err = f.WriteTable(&b)
	default:
		if err = f.Write(ctx, &b, time.Now()); errors.Is(err, fmu.ErrNoCompiler) {
			fmt.Fprintln(w.say, err)
			err = nil
		}
	}
	if err != nil {
		return err
	}
	return os.WriteFile(w.surface, b.Bytes(), 0o644)
}

func (w *sweeper) function(p *trial.Prediction) (*fmu.Function, error) {
	return fmu.Of(p, w.set.Model.Document.Name, fmt.Sprintf("predicted from trials of %q", w.set.Name), func(id string) (name, unit string, difference, ok bool) {
		i := slices.IndexFunc(w.set.Model.Readings, func(q model.ResolvedSentence) bool { return q.ID == id })
		q := &w.set.Model.Readings[i]
		return readingWords(w.set.Model, q), readingUnit(q), q.Definition.Difference, true
	})
}
