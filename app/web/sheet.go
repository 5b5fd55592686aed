package web

import (
	"encoding/json"
	"errors"
	"fmt"
	"math"
	"net/http"
	"slices"
	"strconv"
	"strings"

	"saltkettle/app/store"
	"saltkettle/core/drawing"
	"saltkettle/core/material"
	"saltkettle/core/model"
	"saltkettle/core/physics"
)

// pageView is what every page of a model has.
type pageView struct {
	Title string
	Model store.Model
	Tab   string
}

// sheetView is the sheet with its brief.
type sheetView struct {
	pageView
	Brief briefView
}

func (s *Server) sheet(w http.ResponseWriter, r *http.Request) {
	b, err := s.newBrief(r.Context(), modelID(r))
	if err != nil {
		s.fail(w, r, err)
		return
	}
	s.render(w, r, http.StatusOK, "sheet", sheetView{pageView{b.Model.Name, b.Model, "sheet"}, b})
}

// brief answers with the brief and the title block alone.
func (s *Server) brief(w http.ResponseWriter, r *http.Request) {
	s.answerBrief(w, r, "")
}

// answerBrief renders the fragments that an edit changes. focus is a place to
// put the cursor.
func (s *Server) answerBrief(w http.ResponseWriter, r *http.Request, focus string) {
	b, err := s.newBrief(r.Context(), modelID(r))
	if err != nil {
		s.fail(w, r, err)
		return
	}
	announce(w, "kettle:changed", map[string]string{"focus": focus})
	s.render(w, r, http.StatusOK, "brief-answer", b)
}

// drawing answers with the scene as JSON.
func (s *Server) drawing(w http.ResponseWriter, r *http.Request) {
	doc, err := s.store.Document(r.Context(), modelID(r), 0)
	if err != nil {
		s.fail(w, r, err)
		return
	}
	resolved, _ := model.Resolve(doc, physics.Catalog())
	w.Header().Set("Content-Type", "application/json")
	w.Header().Set("Cache-Control", "no-store")
	_ = json.NewEncoder(w).Encode(drawing.NewScene(resolved, physics.Catalog())) // the other side may have gone
}

// edit applies one operation to the model.
func (s *Server) edit(w http.ResponseWriter, r *http.Request) {
	if err := r.ParseForm(); err != nil {
		s.fail(w, r, &userError{err})
		return
	}
	focus := ""
	_, err := s.store.Edit(r.Context(), modelID(r), func(d *model.Document) error {
		var err error
		focus, err = apply(d, r)
		return err
	})
	if err != nil {
		var gone *model.GoneError
		if !store.IsNotFound(err) && !errors.As(err, &gone) {
			err = &userError{err}
		}
		s.fail(w, r, err)
		return
	}
	s.jobs.Notify(modelID(r))
	if r.Form.Get("page") == "materials" {
		s.answerMaterials(w, r, focus)
		return
	}
	if r.Form.Get("page") == "trials" {
		if path := strings.Split(focus, "/"); len(path) > 1 && path[0] == "trials" {
			r.Form.Set("set", path[1])
		}
		s.answerTrials(w, r, focus)
		return
	}
	s.answerBrief(w, r, focus)
}

// apply carries out the operation of a form on a document and returns the place
// that a user wants to go to next.
func apply(d *model.Document, r *http.Request) (focus string, err error) {
	id := r.Form.Get("id")
	switch op := r.Form.Get("op"); op {
	case "set":
		return "", d.Set(r.Form.Get("place"), r.Form.Get("value"))
	case "add-part":
		return addPart(d, r.Form.Get("outline"))
	case "push":
		on, err := model.ParsePatch(r.Form.Get("on"))
		if err != nil {
			return "", err
		}
		by, err := metres(r, "by")
		if err != nil {
			return "", err
		}
		_, err = d.Push(physics.Catalog(), on, by)
		return "", err
	case "move", "turn":
		return "", moveParts(d, r, strings.Split(id, ","))
	case "fill":
		return "parts/" + id + "/fill/x", d.SetFill(id, r.Form.Get("on") == "true")
	case "add-cap":
		return d.AddCap(id)
	case "add-cut":
		return d.AddCut(), nil
	case "add-near":
		on, err := model.ParsePatch(r.Form.Get("on"))
		if err != nil {
			return "", err
		}
		return d.AddNear(on), nil
	case "add-wall":
		on, err := model.ParsePatch(r.Form.Get("on"))
		if err != nil {
			return "", err
		}
		return d.AddWall(on), nil
	case "remove-cap", "remove-cut", "remove-near", "remove-wall":
		n, err := strconv.Atoi(r.Form.Get("n"))
		if err != nil {
			return "", fmt.Errorf("what is removed is given by its number")
		}
		switch op {
		case "remove-cap":
			return "", d.RemoveCap(id, n)
		case "remove-cut":
			return "", d.RemoveCut(n)
		case "remove-wall":
			return "", d.RemoveWall(n)
		}
		return "", d.RemoveNear(n)
	case "duplicate-part":
		id, err = d.DuplicatePart(id)
		return "parts/" + id + "/name", err
	case "remove-part":
		return "", d.RemovePart(id)
	case "move-part":
		by, err := strconv.Atoi(r.Form.Get("by"))
		if err != nil {
			return "", fmt.Errorf("a part moves by a whole number of places")
		}
		return "", d.MovePart(id, by)
	case "array":
		return "parts/" + id + "/array/count", d.SetArray(id, r.Form.Get("on") == "true")
	case "add-hole":
		place, err := d.AddHole(id, r.Form.Get("outline"))
		return place, err
	case "remove-hole":
		return "", d.RemoveHole(r.Form.Get("place"))
	case "hole-array":
		return r.Form.Get("place") + "/array/count", d.SetHoleArray(r.Form.Get("place"), r.Form.Get("on") == "true")
	case "add-point", "remove-point":
		n, err := strconv.Atoi(r.Form.Get("n"))
		if err != nil {
			return "", fmt.Errorf("a point is given by its number")
		}
		if op == "remove-point" {
			return "", d.RemovePoint(r.Form.Get("place"), n)
		}
		return d.AddPoint(r.Form.Get("place"), n)
	case "add-sentence":
		on, err := model.ParsePatch(r.Form.Get("on"))
		if err != nil {
			return "", err
		}
		kind, ok := physics.Catalog().Kind(r.Form.Get("kind"))
		if !ok {
			return "", fmt.Errorf("there is no sentence of the kind %q", r.Form.Get("kind"))
		}
		id, err = d.AddSentence(physics.Catalog(), kind.Key, on)
		return nextPlace(string(kind.Group)+"s/"+id, on, len(kind.Slots)), err
	case "remove-sentence":
		return "", d.RemoveSentence(r.Form.Get("section"), id)
	case "lift":
		name, err := d.Lift(r.Form.Get("place"))
		return "parameters/" + name + "/name", err
	case "lower":
		return "", d.Lower(id)
	case "own-material":
		return ownMaterial(d, id)
	case "use-material":
		return "", d.UseMaterial(id)
	case "add-material":
		return "materials/" + r.Form.Get("name") + "/name", d.AddMaterial(r.Form.Get("name"), r.Form.Get("like"))
	case "remove-material":
		return "", d.RemoveMaterial(id)
	case "add-property":
		return "materials/" + id + "/" + r.Form.Get("key"), d.AddProperty(id, material.Key(r.Form.Get("key")))
	case "remove-property":
		return "", d.RemoveProperty(id, material.Key(r.Form.Get("key")))
	case "give-material":
		return "", d.Set("parts/"+r.Form.Get("part")+"/material", id)
	case "add-plate":
		id, err = d.AddPlate(r.Form.Get("field"))
		return "plates/" + id, err
	case "remove-plate":
		return "", d.RemovePlate(id)
	case "add-trials":
		return "trials/" + d.AddTrialSet() + "/name", nil
	case "remove-trials":
		return "", d.RemoveTrialSet(id)
	case "add-vary":
		return d.AddVary(id, r.Form.Get("parameter"))
	case "remove-vary":
		n, err := strconv.Atoi(r.Form.Get("n"))
		if err != nil {
			return "", fmt.Errorf("what varies is given by its number")
		}
		return "", d.RemoveVary(id, n)
	case "add-parameter":
		return "parameters/" + d.AddParameter() + "/name", nil
	case "remove-parameter":
		return "", d.RemoveParameter(id)
	default:
		return "", fmt.Errorf("there is no operation %q", op)
	}
}

// metres reads a number of a form, 0 if it is not there.
func metres(r *http.Request, name string) (float64, error) {
	text := r.Form.Get(name)
	if text == "" {
		return 0, nil
	}
	v, err := strconv.ParseFloat(text, 64)
	if err != nil || math.IsNaN(v) || math.IsInf(v, 0) {
		return 0, fmt.Errorf("%q is no number", text)
	}
	return v, nil
}

// moveParts moves or turns parts.
func moveParts(d *model.Document, r *http.Request, ids []string) error {
	var by [3]float64
	var err error
	for i, name := range []string{"x", "y", "z"} {
		if by[i], err = metres(r, name); err != nil {
			return err
		}
	}
	angle, err := metres(r, "by")
	if err != nil {
		return err
	}
	for _, id := range ids {
		if r.Form.Get("op") == "turn" {
			_, err = d.TurnBy(physics.Catalog(), id, angle)
		} else {
			_, err = d.MoveBy(physics.Catalog(), id, by)
		}
		if err != nil {
			return err
		}
	}
	return nil
}

// addPart adds a part of an outline kind: one that goes round the others with room of
// half of them.
func addPart(d *model.Document, kind string) (focus string, err error) {
	var id string
	if i := slices.IndexFunc(model.OutlineKinds, func(k model.OutlineKind) bool { return k.Key == kind }); i >= 0 && model.OutlineKinds[i].Around {
		resolved, _ := model.Resolve(d, physics.Catalog())
		id, err = d.AddAround(kind, resolved.Extent())
	} else {
		id, err = d.AddPart(kind)
	}
	return "parts/" + id + "/name", err
}

// ownMaterial gives a part a material of the model's own: the one that it names,
// if there is none of that name, or else a copy of the one that it has.
func ownMaterial(d *model.Document, id string) (focus string, err error) {
	i := d.Part(id)
	if i < 0 {
		return "", &model.GoneError{Place: "parts/" + id}
	}
	name := strings.TrimSpace(d.Parts[i].Material)
	_, carried := material.Find(d.Materials, name)
	_, shipped := material.Find(material.Library(), name)
	if carried || shipped {
		like := name
		name += " of mine"
		if err := d.AddMaterial(name, like); err != nil {
			return "", err
		}
	} else if err := d.AddMaterial(name, ""); err != nil {
		return "", err
	}
	d.Parts[i].Material = name
	return "materials/" + name + "/" + string(material.Conductivity), nil
}

// nextPlace is the first place in a new sentence that wants a value.
func nextPlace(place string, on model.Patch, slots int) string {
	if on.Part == "" || slots == 0 {
		return place + "/on"
	}
	return place
}

func (s *Server) undo(w http.ResponseWriter, r *http.Request) {
	_, err := s.store.Undo(r.Context(), modelID(r))
	s.afterMove(w, r, err)
}

func (s *Server) redo(w http.ResponseWriter, r *http.Request) {
	_, err := s.store.Redo(r.Context(), modelID(r))
	s.afterMove(w, r, err)
}

func (s *Server) afterMove(w http.ResponseWriter, r *http.Request, err error) {
	if err != nil && !errors.Is(err, store.ErrNothing) {
		s.fail(w, r, err)
		return
	}
	s.jobs.Notify(modelID(r))
	switch r.FormValue("to") {
	case "shelf":
		http.Redirect(w, r, "/", http.StatusSeeOther)
	case "sheet":
		http.Redirect(w, r, fmt.Sprintf("/models/%d/", modelID(r)), http.StatusSeeOther)
	default:
		s.answerBrief(w, r, "")
	}
}
