package web

import (
	"encoding/json"
	"fmt"
	"html/template"
	"net/http"
	"net/url"
	"slices"
	"strings"
	"unicode/utf16"

	"github.com/go-chi/chi/v5"

	"saltkettle/app/store"
	"saltkettle/core/formula"
	"saltkettle/core/material"
	"saltkettle/core/model"
	"saltkettle/core/physics"
	"saltkettle/core/quantity"
)

// materialsView is the page of the materials of a model and of the library.
type materialsView struct {
	pageView
	List   []materialRow
	Chosen *materialView
	State  string
}

// materialRow is a material in the list.
type materialRow struct {
	Name, Family, About string
	Carried, Chosen     bool
	Search              string // what a search looks through
}

// materialView is one material with its properties.
type materialView struct {
	Model   uint
	Title   string
	Carried bool
	Name    field
	Family  field
	About   field
	Temper  field
	// States has what properties depend on beside the temperature.
	States  []labelled
	Rows    []propertyRow
	Missing []material.Definition
	// Finishes are its surfaces, Pairs what it does with other substances.
	Finishes []material.Finish
	Pairs    []pairRow
	// Parts that are made of it, and those that are not.
	MadeOf, Others []partName
}

type partName struct{ ID, Name string }

// labelled is a field with words before it.
type labelled struct {
	Label string
	Field field
}

// pairRow is what another substance does in the material.
type pairRow struct{ What, Typical, Value, Source string }

// propertyRow is one property. A constant has At, a function From and To.
type propertyRow struct {
	material.Definition
	Value, At, From, To, Source, Spread field
	Text                                propertyText
	Varies                              bool
	// Basis says how the value came about; Derived from what it follows, if it is not given.
	Basis, Derived string
	Typical        string
	Chart          template.HTML
	Fault          string
}

// propertyText is what a property of the library says.
type propertyText struct{ Value, Range, Source, Spread string }

// materialsPage is the materials of a model and the library.
type materialsPage struct{ *desk }

// Routes adds the routes of materials.
func (s *materialsPage) Routes(r chi.Router) {
	r.Get("/models/{model}/materials", s.materials)
	r.Get("/models/{model}/materials/find", s.findMaterials)
	r.Get("/models/{model}/materials/file", s.exportMaterials)
	r.Post("/models/{model}/materials/file", s.importMaterials)
}

func (s *materialsPage) materials(w http.ResponseWriter, r *http.Request) {
	v, err := s.newMaterials(r, r.URL.Query().Get("m"))
	if err != nil {
		s.fail(w, r, err)
		return
	}
	if r.Header.Get("HX-Request") != "" {
		s.render(w, r, http.StatusOK, "materials-answer", v)
		return
	}
	s.render(w, r, http.StatusOK, "materials", v)
}

// answerMaterials answers an edit that was made on the page of materials.
func (s *materialsPage) answerMaterials(w http.ResponseWriter, r *http.Request, focus string) {
	name := r.Form.Get("m")
	if path := strings.Split(r.Form.Get("place"), "/"); len(path) == 3 && path[0] == "materials" && path[2] == "name" {
		name = r.Form.Get("value")
	} else if parts := strings.Split(focus, "/"); parts[0] == "materials" {
		name = parts[1]
	}
	v, err := s.newMaterials(r, name)
	if err != nil {
		s.fail(w, r, err)
		return
	}
	announce(w, "kettle:material", map[string]string{"name": name, "focus": focus})
	s.render(w, r, http.StatusOK, "materials-answer", v)
}

// announce has the page raise an event after the answer has been swapped in. A
// header carries nothing but ASCII.
func announce(w http.ResponseWriter, event string, detail map[string]string) {
	trigger(w, "HX-Trigger-After-Swap", event, detail)
}

// trigger has the page raise an event when it comes to a header of the answer.
func trigger(w http.ResponseWriter, after, event string, detail map[string]string) {
	text, err := json.Marshal(map[string]any{event: detail})
	if err != nil {
		panic("web: " + err.Error()) // texts always can be written
	}
	var b strings.Builder
	for _, c := range utf16.Encode([]rune(string(text))) {
		if c > 0x7e {
			fmt.Fprintf(&b, `\u%04x`, c)
		} else {
			b.WriteByte(byte(c))
		}
	}
	w.Header().Set(after, b.String())
}

// tell has the page show a message.
func tell(w http.ResponseWriter, text string) {
	trigger(w, "HX-Trigger", "kettle:said", map[string]string{"text": text})
}

func (s *materialsPage) newMaterials(r *http.Request, name string) (materialsView, error) {
	ctx := r.Context()
	m, err := s.store.Model(ctx, modelID(r))
	if err != nil {
		return materialsView{}, err
	}
	doc, err := s.store.Document(ctx, m.ID, m.Head)
	if err != nil {
		return materialsView{}, err
	}
	v := materialsView{pageView: pageView{"Materials of " + m.Name, m, "materials"}, State: fmt.Sprint(m.Head)}
	if name == "" && len(doc.Materials) > 0 {
		name = doc.Materials[0].Name
	} else if name == "" {
		name = firstUsed(doc)
	}
	seen := map[string]bool{}
	for i, list := range [][]material.Material{doc.Materials, material.Library()} {
		for _, x := range list {
			key := strings.ToLower(x.Name)
			if seen[key] {
				continue
			}
			seen[key] = true
			v.List = append(v.List, materialRow{x.Name, x.Family, x.About, i == 0, strings.EqualFold(x.Name, name), x.Words()})
		}
	}
	v.Chosen, err = newMaterial(m, doc, name)
	return v, err
}

// firstUsed is a material that a part is made of, or the first of the library.
func firstUsed(doc *model.Document) string {
	for _, p := range doc.Parts {
		if _, ok := material.Find(material.Library(), p.Material); ok {
			return p.Material
		}
	}
	return material.Library()[0].Name
}

func newMaterial(m store.Model, doc *model.Document, name string) (*materialView, error) {
	x, carried := material.Find(doc.Materials, name)
	if !carried {
		var ok bool
		if x, ok = material.Find(material.Library(), name); !ok {
			return nil, fmt.Errorf("the material %q: %w", name, store.ErrNotFound)
		}
	}
	k := newBriefMaker(m.ID, doc)
	at := "materials/" + x.Name + "/"
	families := append([]string{""}, material.Families...)
	v := &materialView{Model: m.ID, Title: x.Name, Carried: carried,
		Name: k.field(at+"name", x.Name, "name of the material", "name"), About: k.field(at+"about", x.About, "what it is", "what it is"),
		Family: k.choice(at+"family", x.Family, "family", families, append([]string{"no family"}, material.Families...))}
	for i, p := range doc.Parts {
		if slices.Contains(doc.MadeOf(x.Name), i) {
			v.MadeOf = append(v.MadeOf, partName{p.ID, p.Name})
		} else {
			v.Others = append(v.Others, partName{p.ID, p.Name})
		}
	}
	v.Temper, v.Finishes = k.field(at+"temper", x.Temper, "temper", "no temper"), x.Finishes
	for _, s := range material.States {
		if value, given := x.State[s.Name]; given || carried && s.Usual != "" && x.Family == "gas" {
			v.States = append(v.States, labelled{s.Label, k.field(at+"state/"+s.Name, value, s.Label, s.Usual)})
		}
	}
	v.Pairs = pairsIn(x.Name)
	for _, d := range material.Definitions {
		p, ok := x.Properties[d.Key]
		if d.Pair {
			continue
		}
		if !ok && x.Gives(d.Key) {
			v.Rows = append(v.Rows, derivedRow(x, d, k.resolved.Parameters))
		}
		if !ok {
			v.Missing = append(v.Missing, d)
			continue
		}
		place := at + string(d.Key)
		row := propertyRow{Definition: d, Text: propertyText{p.Value, p.At, p.Source, p.Spread}, Basis: p.Basis,
			Spread: k.field(place+"/spread", p.Spread, "how far the "+d.Name+" may be off", "spread"),
			Value:  k.field(place, p.Value, d.Name, hintFor(d)), At: k.field(place+"/at", p.At, "condition for the "+d.Name, "at"),
			From: k.field(place+"/from", p.From, "lower end of the range of the "+d.Name, "from"), To: k.field(place+"/to", p.To, "upper end of the range of the "+d.Name, "to"),
			Source: k.field(place+"/source", p.Source, "source of the "+d.Name, "source")}
		if p.From != "" || p.To != "" {
			row.Text.Range = p.From + " … " + p.To
		}
		if !x.Has(d.Key) {
			row.Value.Class = "missing"
		} else if f, err := x.Function(d.Key, k.resolved.Parameters); err != nil {
			row.Fault = err.Error()
			row.Value.Fault, row.Value.Class = row.Fault, "wrong"
		} else {
			_, constant := f.Constant()
			row.Varies = !constant
			row.Typical = typical(f, d)
			if row.Varies {
				row.Chart = propertyChart(f, d, family(x, d, k.resolved.Parameters))
			}
		}
		v.Rows = append(v.Rows, row)
	}
	return v, nil
}

// derivedRow is a property that follows from others.
func derivedRow(m material.Material, d material.Definition, scope formula.Scope) propertyRow {
	row := propertyRow{Definition: d, Basis: material.Derived}
	f, err := m.Function(d.Key, scope)
	if err != nil {
		row.Fault = err.Error()
		return row
	}
	row.Derived, row.Varies, row.Typical = f.Derived, true, typical(f, d)
	row.Chart = propertyChart(f, d, family(m, d, scope))
	return row
}

// pairsIn is what other substances do in one.
func pairsIn(name string) (list []pairRow) {
	for _, p := range material.Pairs() {
		if !strings.EqualFold(p.In, name) {
			continue
		}
		f, err := p.Function()
		if err != nil {
			continue // what ships with the program is tested
		}
		d, _ := material.Define(p.Of)
		list = append(list, pairRow{p.Solute + ", " + d.Name, typical(f, d), p.Value, p.Basis + " · " + p.Source + " · ± " + p.Spread})
	}
	return list
}

// findMaterials answers with the materials that a search for a property finds, and their values.
func (s *materialsPage) findMaterials(w http.ResponseWriter, r *http.Request) {
	type hit struct {
		Name  string `json:"name"`
		Value string `json:"value"`
	}
	answer := struct {
		Bounds bool   `json:"bounds"` // the text speaks of a property
		Fault  string `json:"fault,omitempty"`
		Found  []hit  `json:"found"`
	}{Found: []hit{}}
	doc, err := s.store.Document(r.Context(), modelID(r), 0)
	if err != nil {
		s.fail(w, r, err)
		return
	}
	search, ok, err := material.ParseSearch(r.URL.Query().Get("q"))
	answer.Bounds = ok
	if err != nil {
		answer.Fault = err.Error()
	} else if ok {
		seen := map[string]bool{}
		for _, m := range append(slices.Clone(doc.Materials), material.Library()...) {
			v, found := search.Finds(m)
			if key := strings.ToLower(m.Name); found && !seen[key] {
				answer.Found = append(answer.Found, hit{m.Name, quantity.Show(v, search.Unit, true, 3)})
			}
			seen[strings.ToLower(m.Name)] = true
		}
	}
	w.Header().Set("Content-Type", "application/json")
	w.Header().Set("Cache-Control", "no-store")
	_ = json.NewEncoder(w).Encode(answer) // the other side may have gone
}

func hintFor(d material.Definition) string {
	if d.Unit == "" {
		return "a number, a formula or pasted rows"
	}
	return d.Unit + ", a formula or pasted rows"
}

// typical writes the value of a property at 20 °C or, of a magnetisation curve,
// at 1000 A/m.
func typical(f material.Function, d material.Definition) string {
	v, at := f.Typical(d)
	return quantity.Show(v, d.Unit, true, 4) + " at " + d.ArgumentWords(at)
}

// exportMaterials sends a material, the model's materials, or the library.
func (s *materialsPage) exportMaterials(w http.ResponseWriter, r *http.Request) {
	q := r.URL.Query()
	doc, err := s.store.Document(r.Context(), modelID(r), 0)
	if err != nil {
		s.fail(w, r, err)
		return
	}
	list, name := doc.Materials, "materials"
	switch {
	case q.Get("m") != "":
		m, ok := material.Find(doc.Materials, q.Get("m"))
		if !ok {
			m, ok = material.Find(material.Library(), q.Get("m"))
		}
		if !ok {
			s.fail(w, r, fmt.Errorf("the material %q: %w", q.Get("m"), store.ErrNotFound))
			return
		}
		list, name = []material.Material{m}, m.Name
	case q.Get("all") != "":
		list, name = material.Library(), "library"
	}
	kind, write := "json", material.WriteJSON
	if q.Get("format") == "csv" {
		kind, write = "csv", material.WriteCSV
	}
	w.Header().Set("Content-Type", map[string]string{"json": "application/json", "csv": "text/csv; charset=utf-8"}[kind])
	w.Header().Set("Content-Disposition", "attachment; filename*=UTF-8''"+url.PathEscape(name+"."+kind))
	if err := write(w, list); err != nil {
		s.log.Error("materials could not be sent", "error", err)
	}
}

// importMaterials adds the materials of a file to the model.
func (s *materialsPage) importMaterials(w http.ResponseWriter, r *http.Request) {
	id := modelID(r)
	file, _, err := uploaded(r)
	if err != nil {
		s.fail(w, r, err)
		return
	}
	defer func() { _ = file.Close() }()
	list, err := material.Read(file)
	if err == nil {
		_, _, err = s.store.Edit(r.Context(), id, stamp(r), nil, func(d *model.Document) error { return d.ImportMaterials(list, r.FormValue("replace") != "") })
	} else {
		err = &userError{err}
	}
	if err != nil {
		s.fail(w, r, err)
		return
	}
	s.jobs.Notify(id)
	http.Redirect(w, r, fmt.Sprintf("/models/%d/materials?m=%s", id, url.QueryEscape(list[0].Name)), http.StatusSeeOther)
}

// newBriefMaker resolves a document for its fields.
func newBriefMaker(id uint, doc *model.Document) *briefMaker {
	k := &briefMaker{doc: doc, id: id, faults: map[string]string{}, faulty: map[string]bool{}}
	k.resolved, k.findings = model.Resolve(doc, physics.Catalog())
	for _, f := range k.findings {
		if _, ok := k.faults[f.Place]; !ok && (f.Severity != model.Doubtful || strings.HasPrefix(f.Place, "trials/")) {
			k.faults[f.Place] = f.Message
			for at := f.Place; at != ""; at = at[:max(strings.LastIndexByte(at, '/'), 0)] {
				k.faulty[at] = true
			}
		}
	}
	return k
}
