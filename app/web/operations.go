package web

import (
	"fmt"
	"math"
	"net/url"
	"slices"
	"strconv"
	"strings"

	"saltkettle/core/material"
	"saltkettle/core/model"
	"saltkettle/core/physics"
)

// operation is an edit that a form can ask for.
type operation struct {
	// touches lists the places that the edit depends on: if they are not what they were in
	// the revision that the window shows, it is not carried out unasked. Nil means that
	// whatever it speaks of only has to be there.
	touches func(form url.Values) []string
	// do carries it out and returns the place that a user wants to go to next.
	do func(d *model.Document, form url.Values) (focus string, err error)
}

// operations are the edits by the name that stands in "op".
var operations = map[string]operation{
	"set": {named("place"), func(d *model.Document, f url.Values) (string, error) {
		return "", set(d, f.Get("place"), f.Get("value"))
	}},
	"remove": {named("place"), func(d *model.Document, f url.Values) (string, error) {
		return "", d.RemoveItem(f.Get("place"))
	}},

	"add-part": {nil, func(d *model.Document, f url.Values) (string, error) { return addPart(d, f.Get("outline")) }},
	"push": {func(f url.Values) []string {
		part, _, _ := strings.Cut(f.Get("on"), "|")
		return drawnBy(part)
	}, push},
	"move": {drawn, moveParts},
	"turn": {drawn, moveParts},
	"fill": {unless("on", "true", "parts/%s/fill"), func(d *model.Document, f url.Values) (string, error) {
		return "parts/" + f.Get("id") + "/fill/x", d.SetFill(f.Get("id"), f.Get("on") == "true")
	}},
	"add-cap":  {nil, func(d *model.Document, f url.Values) (string, error) { return d.AddCap(f.Get("id")) }},
	"add-cut":  {nil, func(d *model.Document, f url.Values) (string, error) { return d.AddCut(), nil }},
	"add-near": {nil, onPatch((*model.Document).AddNear)},
	"add-wall": {nil, onPatch((*model.Document).AddWall)},
	"duplicate-part": {nil, func(d *model.Document, f url.Values) (string, error) {
		id, err := d.DuplicatePart(f.Get("id"))
		return "parts/" + id + "/name", err
	}},
	"remove-part": {of("parts/%s"), func(d *model.Document, f url.Values) (string, error) { return "", d.RemovePart(f.Get("id")) }},
	"move-part": {nil, func(d *model.Document, f url.Values) (string, error) {
		by, err := strconv.Atoi(f.Get("by"))
		if err != nil {
			return "", fmt.Errorf("a part moves by a whole number of places")
		}
		return "", d.MovePart(f.Get("id"), by)
	}},
	"set-parts": {func(f url.Values) (places []string) {
		for _, id := range strings.Split(f.Get("id"), ",") {
			places = append(places, "parts/"+id+"/"+f.Get("what"))
		}
		return places
	}, func(d *model.Document, f url.Values) (string, error) { return "", setParts(d, f) }},
	"remove-parts": {drawn, func(d *model.Document, f url.Values) (string, error) {
		for _, id := range strings.Split(f.Get("id"), ",") {
			if err := d.RemovePart(id); err != nil {
				return "", err
			}
		}
		return "", nil
	}},
	"array": {unless("on", "true", "parts/%s/array"), func(d *model.Document, f url.Values) (string, error) {
		return "parts/" + f.Get("id") + "/array/count", d.SetArray(f.Get("id"), f.Get("on") == "true")
	}},
	"add-hole": {nil, func(d *model.Document, f url.Values) (string, error) { return d.AddHole(f.Get("id"), f.Get("outline")) }},
	"hole-array": {func(f url.Values) []string {
		if f.Get("on") == "true" {
			return nil
		}
		return []string{f.Get("place") + "/array"}
	}, func(d *model.Document, f url.Values) (string, error) {
		return f.Get("place") + "/array/count", d.SetHoleArray(f.Get("place"), f.Get("on") == "true")
	}},
	"add-point": {nil, func(d *model.Document, f url.Values) (string, error) { return d.AddPoint(f.Get("place")) }},

	"add-sentence": {nil, addSentence},
	"patch-add":    {onSentence, patched(model.Patch.With)},
	"patch-take":   {onSentence, patched(model.Patch.Without)},
	"copy-sentence": {nil, func(d *model.Document, f url.Values) (string, error) {
		id, err := d.CopySentence(f.Get("section"), f.Get("id"))
		return f.Get("section") + "/" + id + "/on", err
	}},
	"remove-sentence": {func(f url.Values) []string { return []string{f.Get("section") + "/" + f.Get("id")} }, func(d *model.Document, f url.Values) (string, error) {
		return "", d.RemoveSentence(f.Get("section"), f.Get("id"))
	}},

	"lift": {named("place"), func(d *model.Document, f url.Values) (string, error) {
		name, err := d.Lift(f.Get("place"))
		return "parameters/" + name + "/name", err
	}},
	"lower":            {of("parameters/%s"), func(d *model.Document, f url.Values) (string, error) { return "", d.Lower(f.Get("id")) }},
	"add-parameter":    {nil, addParameter},
	"remove-parameter": {of("parameters/%s"), func(d *model.Document, f url.Values) (string, error) { return "", d.RemoveParameter(f.Get("id")) }},

	"own-material": {of("parts/%s/material"), func(d *model.Document, f url.Values) (string, error) { return ownMaterial(d, f.Get("id")) }},
	"use-material": {nil, func(d *model.Document, f url.Values) (string, error) { return "", d.UseMaterial(f.Get("id")) }},
	"add-material": {nil, func(d *model.Document, f url.Values) (string, error) {
		return "materials/" + f.Get("name") + "/name", d.AddMaterial(f.Get("name"), f.Get("like"))
	}},
	"remove-material": {of("materials/%s"), func(d *model.Document, f url.Values) (string, error) { return "", d.RemoveMaterial(f.Get("id")) }},
	"add-property": {nil, func(d *model.Document, f url.Values) (string, error) {
		return "materials/" + f.Get("id") + "/" + f.Get("key"), d.AddProperty(f.Get("id"), material.Key(f.Get("key")))
	}},
	"remove-property": {func(f url.Values) []string { return []string{"materials/" + f.Get("id") + "/" + f.Get("key")} }, func(d *model.Document, f url.Values) (string, error) {
		return "", d.RemoveProperty(f.Get("id"), material.Key(f.Get("key")))
	}},
	"give-material": {func(f url.Values) []string { return []string{"parts/" + f.Get("part") + "/material"} }, func(d *model.Document, f url.Values) (string, error) {
		return "", d.Set("parts/"+f.Get("part")+"/material", f.Get("id"))
	}},

	"add-plate": {nil, func(d *model.Document, f url.Values) (string, error) {
		id, err := d.AddPlate(physics.Catalog(), f.Get("field"))
		return "plates/" + id, err
	}},
	"add-swing": {nil, func(d *model.Document, f url.Values) (string, error) {
		id, err := d.AddSwing(physics.Catalog(), f.Get("quantity"), f.Get("phase") == "true")
		return "plates/" + id, err
	}},
	"add-slice": {nil, func(d *model.Document, f url.Values) (string, error) {
		return d.AddSlice(f.Get("id"), f.Get("across"), f.Get("at"))
	}},
	"add-level": {nil, func(d *model.Document, f url.Values) (focus string, err error) {
		for _, at := range f["at"] {
			if focus, err = d.AddLevel(f.Get("id"), at); err != nil {
				return "", err
			}
		}
		return focus, nil
	}},
	"add-line": {nil, func(d *model.Document, f url.Values) (string, error) {
		return d.AddLine(f.Get("id"), model.Line{Kind: f.Get("kind"), FromX: f.Get("from_x"), FromY: f.Get("from_y"), FromZ: f.Get("from_z"), ToX: f.Get("to_x"), ToY: f.Get("to_y"), ToZ: f.Get("to_z"), Radius: f.Get("radius"), Side: f.Get("side")})
	}},
	"see-part": {nil, func(d *model.Document, f url.Values) (string, error) {
		return "", d.SeePart(f.Get("id"), f.Get("part"), f.Get("how"))
	}},
	"turn-slice": {func(f url.Values) []string { return []string{f.Get("place") + "/across", f.Get("place") + "/at"} }, func(d *model.Document, f url.Values) (string, error) {
		if err := d.Set(f.Get("place")+"/across", f.Get("across")); err != nil {
			return "", err
		}
		return "", d.Set(f.Get("place")+"/at", f.Get("at"))
	}},
	"add-arrows": {nil, func(d *model.Document, f url.Values) (string, error) {
		return d.AddArrows(f.Get("id"), model.Arrows{Field: f.Get("field"), On: f.Get("on"), Count: f.Get("count")})
	}},
	"add-streams": {nil, func(d *model.Document, f url.Values) (string, error) {
		return d.AddStreams(f.Get("id"), model.Streams{Field: f.Get("field"), From: model.Everywhere, Count: f.Get("count")})
	}},
	"add-probe": {nil, func(d *model.Document, f url.Values) (string, error) {
		return d.AddProbe(f.Get("id"), model.Probe{X: f.Get("x"), Y: f.Get("y"), Z: f.Get("z")})
	}},
	"remove-plate": {of("plates/%s"), func(d *model.Document, f url.Values) (string, error) { return "", d.RemovePlate(f.Get("id")) }},

	"add-trials": {nil, func(d *model.Document, f url.Values) (string, error) {
		return "trials/" + d.AddTrialSet() + "/name", nil
	}},
	"remove-trials": {of("trials/%s"), func(d *model.Document, f url.Values) (string, error) { return "", d.RemoveTrialSet(f.Get("id")) }},
	"add-vary": {nil, func(d *model.Document, f url.Values) (string, error) {
		return d.AddVary(f.Get("id"), f.Get("parameter"))
	}},
	"vary-value": {named("place"), func(d *model.Document, f url.Values) (string, error) {
		return d.VaryValue(f.Get("id"), f.Get("place"))
	}},
	"add-goal":  {nil, func(d *model.Document, f url.Values) (string, error) { return d.AddGoal(f.Get("id")) }},
	"add-limit": {nil, func(d *model.Document, f url.Values) (string, error) { return d.AddLimit(f.Get("id")) }},
	"trial-fields": {nil, func(d *model.Document, f url.Values) (string, error) {
		return "", d.KeepFields(f.Get("id"), f.Get("on") == "true")
	}},
}

// addParameter adds a parameter, with a name and a value if these are given.
func addParameter(d *model.Document, f url.Values) (string, error) {
	name := d.AddParameter()
	wanted := f.Get("name")
	if wanted == "" {
		return "parameters/" + name + "/name", nil
	}
	if err := d.Set("parameters/"+name+"/name", wanted); err != nil {
		return "", err
	}
	return "parameters/" + wanted + "/value", d.Set("parameters/"+wanted+"/value", f.Get("value"))
}

// keepUsual makes a plate that nobody has made one of the document if an edit is about it.
func keepUsual(d *model.Document, f url.Values) {
	place, ok := strings.CutPrefix(f.Get("place"), "plates/")
	id, _, _ := strings.Cut(place, "/")
	if !ok {
		id = f.Get("id")
	}
	d.KeepUsual(physics.Catalog(), id)
}

// set changes a value. The field of a plate may be called as people call it, or be a formula. A plate of another field has no longer a unit, ends and levels that do not fit.
func set(d *model.Document, place, value string) error {
	plate, ok := strings.CutSuffix(place, "/field")
	if !ok || !strings.HasPrefix(place, "plates/") || strings.Count(place, "/") != 2 {
		return d.Set(place, value)
	}
	return d.ShowOn(physics.Catalog(), strings.TrimPrefix(plate, "plates/"), value)
}

// onSentence is for edits of what a sentence is about.
func onSentence(f url.Values) []string {
	return []string{f.Get("section") + "/" + f.Get("id") + "/on"}
}

// patched adds a patch to what a sentence is about, or takes it away.
func patched(change func(p, other model.Patch) model.Patch) func(*model.Document, url.Values) (string, error) {
	return func(d *model.Document, f url.Values) (string, error) {
		on, err := model.ParsePatch(f.Get("on"))
		if err != nil {
			return "", err
		}
		return "", d.ChangePatch(f.Get("section"), f.Get("id"), func(p model.Patch) model.Patch { return change(p, on) })
	}
}

// named is for edits that depend on the place in a value of their form.
func named(value string) func(url.Values) []string {
	return func(f url.Values) []string { return []string{f.Get(value)} }
}

// of is for edits that depend on a place with the id of their form in it.
func of(place string) func(url.Values) []string {
	return func(f url.Values) []string { return []string{fmt.Sprintf(place, f.Get("id"))} }
}

// unless is of for edits that take something away, but not for those that add it.
func unless(value, adds, place string) func(url.Values) []string {
	return func(f url.Values) []string {
		if f.Get(value) == adds {
			return nil
		}
		return of(place)(f)
	}
}

// drawn is for edits of what a part looks like.
func drawn(f url.Values) []string {
	var places []string
	for _, id := range strings.Split(f.Get("id"), ",") {
		places = append(places, drawnBy(id)...)
	}
	return places
}

func drawnBy(part string) []string {
	at := "parts/" + part
	return []string{at + "/outline", at + "/span", at + "/place"}
}

// onPatch adds something at the patch of a form.
func onPatch(add func(*model.Document, model.Patch) string) func(*model.Document, url.Values) (string, error) {
	return func(d *model.Document, f url.Values) (string, error) {
		on, err := model.ParsePatch(f.Get("on"))
		if err != nil {
			return "", err
		}
		return add(d, on), nil
	}
}

// metres reads a number of a form, 0 if it is not there.
func metres(f url.Values, name string) (float64, error) {
	text := f.Get(name)
	if text == "" {
		return 0, nil
	}
	v, err := strconv.ParseFloat(text, 64)
	if err != nil || math.IsNaN(v) || math.IsInf(v, 0) {
		return 0, fmt.Errorf("%q is no number", text)
	}
	return v, nil
}

// push draws a face out.
func push(d *model.Document, f url.Values) (string, error) {
	on, err := model.ParsePatch(f.Get("on"))
	if err != nil {
		return "", err
	}
	by, err := metres(f, "by")
	if err != nil {
		return "", err
	}
	_, err = d.Push(physics.Catalog(), on, by)
	return "", err
}

// moveParts moves or turns parts.
func moveParts(d *model.Document, f url.Values) (string, error) {
	var by [3]float64
	var err error
	for i, name := range []string{"x", "y", "z"} {
		if by[i], err = metres(f, name); err != nil {
			return "", err
		}
	}
	angle, err := metres(f, "by")
	if err != nil {
		return "", err
	}
	for _, id := range strings.Split(f.Get("id"), ",") {
		if f.Get("op") == "turn" {
			_, err = d.TurnBy(physics.Catalog(), id, angle)
		} else {
			_, err = d.MoveBy(physics.Catalog(), id, by)
		}
		if err != nil {
			return "", err
		}
	}
	return "", nil
}

// setParts gives several parts a material, a role or a group.
func setParts(d *model.Document, f url.Values) error {
	what := f.Get("what")
	if !slices.Contains([]string{"material", "role", "group"}, what) {
		return fmt.Errorf("several parts have no %q together", what)
	}
	for _, id := range strings.Split(f.Get("id"), ",") {
		if err := d.Set("parts/"+id+"/"+what, f.Get("value")); err != nil {
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

// addSentence adds a condition or a reading.
func addSentence(d *model.Document, f url.Values) (string, error) {
	on, err := model.ParsePatch(f.Get("on"))
	if err != nil {
		return "", err
	}
	kind, ok := physics.Catalog().Kind(f.Get("kind"))
	if !ok {
		return "", fmt.Errorf("there is no sentence of the kind %q", f.Get("kind"))
	}
	id, err := d.AddSentence(physics.Catalog(), kind.Key, on)
	place := string(kind.Group) + "s/" + id
	if on.Part == "" || len(kind.Slots) == 0 {
		place += "/on"
	}
	return place, err
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
