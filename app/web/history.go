package web

import (
	"context"
	"fmt"
	"html/template"
	"math"
	"slices"
	"strings"

	"saltkettle/app/store"
	"saltkettle/core/model"
	"saltkettle/core/physics"
	"saltkettle/core/quantity"
)

// historyLength is how many runs the pages look back on.
const historyLength = 30

// history is the runs of a model with their readings, the newest first.
type history struct {
	runs     []store.Run
	readings map[uint][]store.Reading // by run
	changes  map[uint]string          // by run: what changed since the one before, in words
	stale    bool                     // something was changed since the newest one with readings; the brief finds it out
}

func (s *desk) history(ctx context.Context, m store.Model) (history, error) {
	h := history{readings: map[uint][]store.Reading{}, changes: map[uint]string{}}
	var err error
	if h.runs, err = s.store.Runs(ctx, m.ID, historyLength); err != nil {
		return h, err
	}
	for _, r := range h.runs {
		if r.Active() {
			continue
		}
		if h.readings[r.ID], err = s.store.Readings(ctx, r.ID); err != nil {
			return h, err
		}
	}
	return h, nil
}

// stale says that a run of a revision is from before something was changed on which its result
// depends; now is the model as it is.
func (s *desk) stale(ctx context.Context, m store.Model, revision int, now *model.Document) (bool, error) {
	if revision == m.Head {
		return false, nil
	}
	then, err := s.store.Document(ctx, m.ID, revision)
	if err != nil {
		return false, err
	}
	return !model.SameResult(then, now, physics.Catalog()), nil
}

// compare finds what changed from run to run.
func (s *desk) compare(ctx context.Context, h *history) error {
	docs := map[int]*model.Document{}
	get := func(r store.Run) (*model.Document, error) {
		if d, ok := docs[r.Revision]; ok {
			return d, nil
		}
		d, err := s.store.Document(ctx, r.ModelID, r.Revision)
		docs[r.Revision] = d
		return d, err
	}
	done := h.withReadings()
	for i, r := range done {
		if i+1 == len(done) {
			h.changes[r.ID] = "first run"
			if r.Number > 1 {
				h.changes[r.ID] = ""
			}
			break
		}
		newer, err := get(r)
		if err != nil {
			return err
		}
		older, err := get(done[i+1])
		if err != nil {
			return err
		}
		h.changes[r.ID] = model.DiffWords(model.Diff(older, newer, physics.Catalog()))
		if h.changes[r.ID] == "" {
			h.changes[r.ID] = "nothing changed"
		}
	}
	return nil
}

// withReadings lists the runs that have a result, or had one whose fields were deleted, the newest
// first.
func (h *history) withReadings() []store.Run {
	var list []store.Run
	for _, r := range h.runs {
		if r.HasResult || len(h.readings[r.ID]) > 0 {
			list = append(list, r)
		}
	}
	return list
}

// reading returns the reading with a key of a run, if it has a value.
func (h *history) reading(run uint, key string) (store.Reading, bool) {
	q, ok := h.entry(run, key)
	return q, ok && q.Missing == ""
}

// entry returns the reading with a key of a run, with or without a value.
func (h *history) entry(run uint, key string) (store.Reading, bool) {
	for _, q := range h.readings[run] {
		if q.Key == key {
			return q, true
		}
	}
	return store.Reading{}, false
}

// spark draws the values of a reading over the runs, the oldest left.
func (h *history) spark(key string) template.HTML {
	var values []float64
	for i := len(h.runs) - 1; i >= 0; i-- {
		if q, ok := h.reading(h.runs[i].ID, key); ok {
			values = append(values, q.Value)
		}
	}
	if len(values) < 2 {
		return ""
	}
	const w, ht = 72.0, 16.0
	lo, hi := math.Inf(1), math.Inf(-1)
	for _, v := range values {
		lo, hi = min(lo, v), max(hi, v)
	}
	if hi-lo < 1e-9*math.Abs(hi) {
		lo, hi = lo-1, hi+1
	}
	var b strings.Builder
	fmt.Fprintf(&b, `<svg class="spark" viewBox="0 0 %.0f %.0f" role="img" aria-label="over %d runs"><polyline points="`, w+4, ht+4, len(values))
	var x, y float64
	for i, v := range values {
		x = 2 + w*float64(i)/float64(len(values)-1)
		y = 2 + ht*(hi-v)/(hi-lo)
		fmt.Fprintf(&b, "%.1f,%.1f ", x, y)
	}
	fmt.Fprintf(&b, `"/><circle cx="%.1f" cy="%.1f" r="1.8"/></svg>`, x, y)
	return template.HTML(b.String()) // numbers only
}

// addReadings fills the section of readings with the newest values.
func (k *briefMaker) addReadings(b *briefView, h history) {
	var last *store.Run
	if done := h.withReadings(); len(done) > 0 {
		last = &done[0]
	}
	for i := range k.doc.Readings {
		q := &k.doc.Readings[i]
		v := k.sentence("readings", q)
		v.Name = k.field("readings/"+q.ID+"/name", q.Name, "name of "+q.ID, "name it")
		usual := ""
		if kind, ok := physics.Catalog().Kind(q.Kind); ok {
			usual = kind.Unit
		}
		v.Unit = k.field("readings/"+q.ID+"/unit", q.Unit, "unit of "+q.ID, usual)
		if last != nil {
			if value, ok := h.entry(last.ID, q.ID); ok {
				value.Unit = k.shownUnit(q, value.Unit)
				rv := newReadingView(value)
				v.Value = &rv
				v.Stale = h.stale
				v.Spark = h.spark(q.ID)
			}
		}
		b.Readings = append(b.Readings, v)
	}
}

// shownUnit is the unit that a reading asks for now, if it fits, or else the one
// in which it was taken.
func (k *briefMaker) shownUnit(q *model.Sentence, taken string) string {
	u, err := quantity.ParseUnit(q.Unit)
	if old, oldErr := quantity.ParseUnit(taken); q.Unit == "" || err != nil || oldErr != nil || u.Dimension != old.Dimension {
		return taken
	}
	return q.Unit
}

// titleView is the title block.
type titleView struct {
	Mesh        string
	Run         string
	RunWords    string
	Stale       bool
	Balance     string
	BalanceGood bool
	Findings    []findingView
	Ready       bool
	Summary     string
}

// findingView is a line of what is outstanding.
type findingView struct {
	model.Finding
	Doubt bool
	Help  string // what the help says more about
}

// helpOn is what the help has about a place of the model: of a sentence its kind, else the section.
func (k *briefMaker) helpOn(place string) string {
	section, rest, _ := strings.Cut(place, "/")
	id, _, _ := strings.Cut(rest, "/")
	list := map[string][]model.Sentence{"conditions": k.doc.Conditions, "readings": k.doc.Readings}[section]
	if i := slices.IndexFunc(list, func(s model.Sentence) bool { return s.ID == id }); i >= 0 {
		return list[i].Kind
	}
	return section
}

// title fills the title block from the newest run with a result.
func (k *briefMaker) title(m store.Model, h history) titleView {
	t := titleView{Run: "—", Balance: "—"}
	for _, f := range k.findings {
		t.Findings = append(t.Findings, findingView{f, f.Severity == model.Doubtful, k.helpOn(f.Place)})
	}
	blocking := model.Blocking(k.findings)
	t.Ready = len(blocking) == 0
	switch {
	case len(k.findings) == 0:
		t.Summary = "Nothing missing. Ready to run."
	case t.Ready:
		t.Summary = fmt.Sprintf("Ready to run; %s.", plural(len(k.findings), "doubt"))
	default:
		t.Summary = outstandingWords(blocking)
	}
	if done := h.withReadings(); len(done) > 0 {
		r := done[0]
		t.Mesh = quantity.Count(r.Cells)
		t.Run = fmt.Sprintf("#%d · %s", r.Number, seconds(r.Seconds))
		t.RunWords = r.Status
		t.Stale = h.stale
		t.Balance, t.BalanceGood = closure(r.Closure)
	}
	return t
}

// seconds prints a duration.
func seconds(s float64) string {
	switch {
	case s < 10:
		return fmt.Sprintf("%.1f s", s)
	case s < 120:
		return fmt.Sprintf("%.0f s", s)
	}
	return fmt.Sprintf("%.0f min", s/60)
}

// closure says how well a balance closes.
func closure(c float64) (string, bool) {
	good := c < 1e-6
	switch {
	case c == store.NoBalance:
		return "–", false
	case c < 1e-12:
		return "closed to round-off", good
	case good:
		return "closed to " + quantity.Figures(c, 1), good
	}
	return "open by " + quantity.Figures(100*c, 2) + " %", good
}
