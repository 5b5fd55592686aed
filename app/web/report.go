package web

import (
	"cmp"
	"fmt"
	"html/template"
	"net/http"
	"strings"

	"github.com/go-chi/chi/v5"

	"saltkettle/app/store"
	"saltkettle/core/drawing"
	"saltkettle/core/model"
	"saltkettle/core/physics"
	"saltkettle/core/result"
)

// reportPage is the report of a run: everything that was said, what came of it and how far it can be
// trusted, on pages to be printed.
type reportPage struct {
	*platesPage
	trials *trialsPage
	plain  *template.Template
}

// newReportPage makes it of the templates of the sheet, in which values are words and no fields: the
// report says what the brief says.
func newReportPage(plates *platesPage, trials *trialsPage) (*reportPage, error) {
	t, err := plates.templates.Clone()
	if err == nil {
		t, err = t.Parse(`{{define "value"}}<b class="said-value {{if .Fault}}bad{{end}}">{{.Plain}}</b>{{end}}`)
	}
	return &reportPage{plates, trials, t}, err
}

// Plain is the value as words: of a choice what is chosen, of nothing what holds then.
func (f field) Plain() string {
	for _, o := range f.Options() {
		if o.Chosen {
			return o.Text
		}
	}
	if strings.TrimSpace(f.Value) == "" {
		return f.Hint
	}
	return f.Value
}

// Routes adds the route of the report.
func (s *reportPage) Routes(r chi.Router) { r.Get("/models/{model}/report", s.heavy(s.report)) }

// reportView is the report of a run.
type reportView struct {
	pageView
	Brief    *briefView
	Findings []model.Finding
	Drawing  template.HTML
	// Run is what the report is about, nil for a model that has no result; Ran is when.
	Run  *store.Run
	Ran  string
	Runs []option
	trustView
	Values []reportReading
	// Configs are what the script draws the plates by.
	Configs []*plateConfig
	Plates  []reportPlate
	Trials  []reportTrials
}

// reportReading is a reading with the sentence that asks for it.
type reportReading struct {
	readingView
	Words string
	// Exactness says how far the value may be from the exact one.
	Exactness string
}

// reportPlate is a plate with what is said of it.
type reportPlate struct {
	Number, Name, Words string
}

func (s *reportPage) report(w http.ResponseWriter, r *http.Request) {
	v, err := s.newReport(r)
	if err != nil {
		s.fail(w, r, err)
		return
	}
	var b strings.Builder
	if err := s.plain.ExecuteTemplate(&b, "report", v); err != nil {
		s.fail(w, r, err)
		return
	}
	w.Header().Set("Content-Type", "text/html; charset=utf-8")
	w.Header().Set("Cache-Control", "no-store")
	_, _ = w.Write([]byte(b.String())) // the other side may have gone
}

// newReport is about the run that the request names, the last one with a result if it names none; without
// any run it is about the model as it is now.
func (s *reportPage) newReport(r *http.Request) (*reportView, error) {
	ctx := r.Context()
	m, err := s.store.Model(ctx, modelID(r))
	if err != nil {
		return nil, err
	}
	h, err := s.history(ctx, m)
	if err != nil {
		return nil, err
	}
	v := &reportView{pageView: pageView{m.Name, m, "report"}}
	asked := int(number(r.URL.Query().Get("run")))
	revision := m.Head
	for _, x := range h.withReadings() {
		if !x.HasResult {
			continue
		}
		if v.Run == nil && (asked == 0 || asked == x.Number) {
			v.Run, revision = &x, x.Revision
		}
		v.Runs = append(v.Runs, option{fmt.Sprint(x.Number), fmt.Sprintf("run #%d", x.Number), v.Run != nil && v.Run.ID == x.ID})
	}
	if asked != 0 && v.Run == nil {
		return nil, fmt.Errorf("a result of run #%d of this model: %w", asked, store.ErrNotFound)
	}
	doc, err := s.store.Document(ctx, m.ID, revision)
	if err != nil {
		return nil, err
	}
	now, err := s.store.Document(ctx, m.ID, m.Head)
	if err != nil {
		return nil, err
	}
	doc.Plates = now.Plates // how one looks at a result is not what was run
	k := newBriefMaker(m.ID, doc)
	v.Brief = &briefView{Model: m}
	k.fill(v.Brief)
	for i := range v.Brief.Parts {
		v.Brief.Parts[i].Details = k.details(i)
	}
	v.Findings = k.findings
	v.Drawing = template.HTML(drawing.NewScene(k.resolved, physics.Catalog()).Thumbnail(900, 460)) // escaped where it is made
	// Trials are what the model has now.
	if v.Trials, err = s.trials.reported(ctx, m.ID, now, newBriefMaker(m.ID, now)); err != nil {
		return nil, err
	}
	if v.Run == nil {
		return v, nil
	}
	v.Ran = v.Run.CreatedAt.Format("2 January 2006, 15:04")
	words := map[string]string{}
	for i := range doc.Readings {
		words[doc.Readings[i].ID] = doc.Words(physics.Catalog(), &doc.Readings[i])
	}
	v.addValues(h.readings[v.Run.ID], words)
	res, err := result.Load(s.store.RunDir(v.Run.ID))
	if err != nil {
		return nil, err
	}
	v.trustView = newTrust(res)
	s.addPlates(v, k, res)
	return v, nil
}

// addValues adds the readings of a run, with the words of the sentences that ask for them.
func (v *reportView) addValues(list []store.Reading, words map[string]string) {
	for _, q := range list {
		reading := reportReading{newReadingView(q), words[q.Key], "not known"}
		if q.Error != nil {
			reading.Exactness = cmp.Or(reading.Margin, "less than its last figure")
		}
		v.Values = append(v.Values, reading)
	}
}

// addPlates adds the plates.
func (s *reportPage) addPlates(v *reportView, k *briefMaker, res *result.Result) {
	list := k.doc.AllPlates(physics.Catalog(), func(string) bool { return false })
	for i := range list {
		p := list[i]
		f := k.fit(&p, res)
		c := s.configOf(k, &p, &f, *v.Run, res)
		words := ""
		if f.Greatest != nil && f.Least != nil {
			hi, lo := newExtreme(f.Greatest, c), newExtreme(f.Least, c)
			words = fmt.Sprintf("Highest %s %s in the %s at %s, lowest %s %s in the %s at %s.", hi.Value, hi.Unit, hi.Part, hi.At, lo.Value, lo.Unit, lo.Part, lo.At)
		}
		v.Configs, v.Plates = append(v.Configs, c), append(v.Plates, reportPlate{roman(i + 1), p.Name, words})
	}
}
