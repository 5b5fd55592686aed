package web

import (
	"encoding/json"
	"fmt"
	"net/http"
	"slices"
	"strings"

	"saltkettle/core/model"
	"saltkettle/core/physics"
	"saltkettle/core/sentence"
)

// choices are what can be chosen at a place, as pairs of a name and its words. Lists of places of
// a device are long: they are asked for when one is about to be opened.
type choices [][2]string

// patchField is the choice of what a sentence acts on; the list of choices is asked for.
func (k *briefMaker) patchField(place string, on model.Patch, label string) field {
	added, _, _ := on.Terms()
	first := added[0]
	words := "choose where"
	if first != (model.Patch{}) {
		words = strings.TrimSuffix(k.doc.PatchWords(first), ",")
	}
	f := k.choice(place, first.String(), label, []string{first.String()}, []string{words})
	f.Class = strings.TrimSpace(strings.Replace(f.Class, "varies", "", 1) + " patch")
	f.Asked = true
	return f
}

// patchPieces are the fields for what a sentence acts on: its first patch, those that are added
// and taken away, and the box.
func (k *briefMaker) patchPieces(place string, on model.Patch, label string) []piece {
	one := k.patchField(place, on, label)
	list := []piece{{Field: &one}}
	if on == (model.Patch{}) {
		return list
	}
	added, taken, box := on.Terms()
	term := func(word, at string, t model.Patch) {
		f := k.patchField(place+"/"+at, t, label+", too")
		list = append(list, piece{Text: word}, piece{Field: &f})
	}
	for i, t := range added[1:] {
		term(" and the ", fmt.Sprintf("also/%d", i), t)
	}
	for i, t := range taken {
		term(map[bool]string{true: " but not the ", false: " nor the "}[i == 0], fmt.Sprintf("but/%d", i), t)
	}
	if box != nil {
		for axis, ends := range box {
			name := "xyz"[axis : axis+1]
			if axis == 2 && k.doc.Space.Flat() {
				break
			}
			lo := k.field(fmt.Sprintf("%s/within/%s/0", place, name), ends[0], "least "+name+" "+label, "any")
			hi := k.field(fmt.Sprintf("%s/within/%s/1", place, name), ends[1], "greatest "+name+" "+label, "any")
			list = append(list, piece{Text: map[bool]string{true: " within ", false: ", "}[axis == 0] + name + " = "}, piece{Field: &lo}, piece{Text: " to "}, piece{Field: &hi})
		}
	}
	also, but := k.patchField(place+"/also/new", model.Patch{}, "another place "+label), k.patchField(place+"/but/new", model.Patch{}, "a place left out "+label)
	also.Texts, but.Texts = []string{"and …"}, []string{"but not …"}
	return append(list, piece{More: &moreView{Place: place, Also: also, But: but, Boxed: box != nil, Surfaces: added[0].Side != "" || added[0].Facing != ""}})
}

// moreView offers what else can be said of a patch.
type moreView struct {
	Place           string
	Also, But       field
	Boxed, Surfaces bool
}

// ID is that of the element.
func (m *moreView) ID() string { return "more-" + strings.ReplaceAll(m.Place, "/", "-") }

// choices answers with what can be chosen at a place of the current revision.
func (s *sheetPage) choices(w http.ResponseWriter, r *http.Request) {
	doc, err := s.store.Document(r.Context(), modelID(r), 0)
	if err != nil {
		s.fail(w, r, err)
		return
	}
	list, err := newBriefMaker(modelID(r), doc).choicesAt(r.URL.Query().Get("place"))
	if err != nil {
		s.fail(w, r, err)
		return
	}
	w.Header().Set("Content-Type", "application/json")
	w.Header().Set("Cache-Control", "no-store")
	_ = json.NewEncoder(w).Encode(list) // the other side may have gone
}

// choicesAt lists what can be chosen where a sentence acts, or where cells are wished for.
func (k *briefMaker) choicesAt(place string) (choices, error) {
	path := strings.Split(place, "/")
	gone := &model.GoneError{Place: place}
	first, term, _ := strings.Cut(place, "/on/")
	if term == "" && (len(path) < 3 || path[len(path)-1] != "on") {
		return nil, gone
	}
	switch path[0] {
	case "conditions", "readings":
		list := k.doc.Conditions
		if path[0] == "readings" {
			list = k.doc.Readings
		}
		i := slices.IndexFunc(list, func(q model.Sentence) bool { return q.ID == path[1] })
		if i < 0 {
			return nil, gone
		}
		kind, ok := physics.Catalog().Kind(list[i].Kind)
		if !ok {
			return nil, fmt.Errorf("there is no sentence of the kind %q", list[i].Kind)
		}
		if term == "" {
			return k.patches(kind, list[i].On.First(), "choose where"), nil
		}
		now, err := list[i].On.Term(term)
		if err != nil {
			return nil, &model.GoneError{Place: first + "/on/" + term}
		}
		word := "– leave it out of the sentence –"
		switch {
		case strings.HasSuffix(term, "/new") && strings.HasPrefix(term, "but"):
			word = "but not …"
		case strings.HasSuffix(term, "/new"):
			word = "and …"
		}
		return k.patches(kind, now, word), nil
	case "mesh":
		for _, n := range k.doc.Mesh.Near {
			if path[1] == "near" && n.ID == path[2] {
				return k.sides(n.On), nil
			}
		}
		for _, w := range k.doc.Mesh.Walls {
			if path[1] == "walls" && w.ID == path[2] {
				return k.sides(w.On), nil
			}
		}
	}
	return nil, gone
}

// patches lists what a kind of sentence can act on. Where parts meet is listed of those whose
// boxes do.
func (k *briefMaker) patches(kind *sentence.Kind, now model.Patch, none string) choices {
	list := choices{{"", none}}
	add := func(p model.Patch) {
		list = append(list, [2]string{p.String(), strings.TrimSuffix(k.doc.PatchWords(p), ",")})
	}
	neighbours := k.resolved.Neighbours()
	facing := func(i int) {
		for _, j := range neighbours[i] {
			if k.doc.Parts[j].Role == model.Solved {
				add(model.Patch{Part: k.doc.Parts[i].ID, Facing: k.doc.Parts[j].ID})
			}
		}
	}
	for _, name := range k.severals() {
		if kind.Acts&sentence.Bodies != 0 {
			add(model.Patch{Part: name})
		}
		if kind.Acts&sentence.Surfaces != 0 && !kind.Inner {
			add(model.Patch{Part: name, Side: model.WholeSurface})
			add(model.Patch{Part: name, Side: model.WholeSurface, Facing: model.Outside})
		}
	}
	for i := range k.doc.Parts {
		p := &k.doc.Parts[i]
		if p.Role == model.Off {
			continue
		}
		if kind.Acts&sentence.Bodies != 0 {
			add(model.Patch{Part: p.ID})
		}
		if kind.Inner {
			if p.Role == model.Solved {
				facing(i)
			}
			continue
		}
		if kind.Acts&sentence.Surfaces == 0 || p.Role != model.Solved || k.resolved.Parts[i].Outline == nil {
			continue
		}
		add(model.Patch{Part: p.ID, Side: model.WholeSurface})
		for _, side := range k.resolved.Sides(i) {
			add(model.Patch{Part: p.ID, Side: side})
		}
		if !kind.Exposed {
			facing(i)
			if len(k.resolved.PartsNamed(model.AllFluids)) > 0 {
				add(model.Patch{Part: p.ID, Facing: model.AllFluids})
			}
		}
	}
	return list.with(k, now)
}

// severals are the names for several parts that mean any.
func (k *briefMaker) severals() []string {
	var list []string
	seen := map[string]bool{}
	for _, name := range []string{model.AllParts, model.AllSolids, model.AllFluids} {
		if n := len(k.resolved.PartsNamed(name)); n > 1 || n == 1 && name == model.AllFluids {
			list = append(list, name)
		}
	}
	for _, p := range k.doc.Parts {
		if p.Group != "" && !seen[p.Group] {
			seen[p.Group] = true
			list = append(list, model.GroupName(p.Group))
		}
	}
	return list
}

// sides lists the sides of solved parts.
func (k *briefMaker) sides(now model.Patch) choices {
	list := choices{{"", "choose where"}}
	for i := range k.doc.Parts {
		p := &k.doc.Parts[i]
		if p.Role != model.Solved || k.resolved.Parts[i].Outline == nil {
			continue
		}
		for _, side := range append([]string{model.WholeSurface}, k.resolved.Sides(i)...) {
			on := model.Patch{Part: p.ID, Side: side}
			list = append(list, [2]string{on.String(), k.doc.PatchWords(on)})
		}
	}
	return list.with(k, now)
}

// with adds what is chosen now, if it is not in the list.
func (c choices) with(k *briefMaker, now model.Patch) choices {
	if slices.ContainsFunc(c, func(o [2]string) bool { return o[0] == now.String() }) {
		return c
	}
	return append(c, [2]string{now.String(), strings.TrimSuffix(k.doc.PatchWords(now), ",")})
}
