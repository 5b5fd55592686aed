package web

import (
	"fmt"
	"io"
	"net/http"
	"path/filepath"
	"slices"
	"strings"

	"saltkettle/core/drawing"
	"saltkettle/core/model"
	"saltkettle/core/solid"
	"saltkettle/core/trace"
)

// trace adds parts from a drawing and answers with what was repaired or left out.
func (s *sheetPage) trace(w http.ResponseWriter, r *http.Request) {
	file, title, err := uploaded(r)
	if err != nil {
		s.fail(w, r, err)
		return
	}
	defer func() { _ = file.Close() }()
	data, err := io.ReadAll(file)
	if err != nil {
		s.fail(w, r, err)
		return
	}
	name := strings.TrimSuffix(title, filepath.Ext(title))
	var add func(d *model.Document) error
	var ids, report []string
	advice := ""
	if strings.EqualFold(filepath.Ext(title), ".stl") {
		add, err = solids(name, data, r.FormValue("unit"), &ids, &report)
	} else {
		var drawing *trace.Drawing
		if drawing, err = trace.Read(title, data, r.FormValue("unit")); err == nil {
			advice, report = ". Give them their heights", drawing.Report
			add = func(d *model.Document) error {
				var err error
				ids, err = d.AddTraced(name, drawing)
				return err
			}
		}
	}
	if err != nil {
		s.fail(w, r, &userError{fmt.Errorf("%s: %w", title, err)})
		return
	}
	m, before, err := s.store.Edit(r.Context(), modelID(r), stamp(r), nil, add)
	if err != nil {
		s.fail(w, r, err)
		return
	}
	s.jobs.Notify(modelID(r))
	cameFrom(w, before, m.Head)
	if r.Header.Get("HX-Request") == "" {
		http.Redirect(w, r, fmt.Sprintf("/models/%d/", modelID(r)), http.StatusSeeOther)
		return
	}
	w.Header().Set("Content-Type", "text/plain; charset=utf-8")
	_, _ = fmt.Fprintln(w, strings.Join(append([]string{"Drawn: " + plural(len(ids), "part") + advice}, report...), "; ")+".")
}

// solids reads an STL file, whose unit a user has to say.
func solids(name string, data []byte, unit string, ids, report *[]string) (func(d *model.Document) error, error) {
	if unit == "" {
		return nil, fmt.Errorf("an STL file does not say in which unit it is; choose one")
	}
	_, scale := drawing.Scale(unit)
	in, err := solid.ReadSTL(name, data, 1/scale)
	if err != nil {
		return nil, err
	}
	return func(d *model.Document) error {
		var err error
		*ids, *report, err = d.AddSolids(name, in)
		return err
	}, nil
}

// outlineView is an outline in words with its dimensions in place.
type outlineView struct {
	Place  string
	Pieces []piece
	Points []pointView
	Holes  []holeView
}

// pointView is a corner of a path.
type pointView struct {
	Place  string
	Number int
	X, Y   field
	Z      *field // the height of a point of a line
	// Round and the Bend behind it are not of a curve.
	Round, Bend *field
	// Name of the side behind it, or Called what the point itself is.
	Name, Called *field
}

// holeView is a hole with its place.
type holeView struct {
	Place      string
	Number     string
	Outline    outlineView
	X, Y, Turn field
	Count      field
	Array      []piece
}

// outline splits an outline into words and fields.
func (k *briefMaker) outline(place string, o *model.Outline) outlineView {
	v := outlineView{Place: place}
	keys := k.doc.Space.Outlines()
	if strings.Contains(place, "/holes/") {
		keys = model.HoleKeys()
	}
	if !slices.Contains(keys, o.Kind) {
		keys = append(keys, o.Kind)
	}
	var words []string
	for _, key := range keys {
		words = append(words, outlineWords(key))
	}
	kind := k.choice(place+"/kind", o.Kind, "outline", keys, words)
	v.Pieces = append(v.Pieces, piece{Field: &kind}, piece{Text: map[bool]string{true: " ", false: " of "}[strings.HasSuffix(o.Kind, "-around")]})
	i := slices.IndexFunc(model.OutlineKinds, func(x model.OutlineKind) bool { return x.Key == o.Kind })
	if i < 0 {
		return v
	}
	def := model.OutlineKinds[i]
	dims := def.Dimensions()
	rest := strings.ReplaceAll(strings.TrimSuffix(def.Template, "|"), "|", ", ")
	for _, d := range dims {
		before, after, _ := strings.Cut(rest, "{"+d.Name+"}")
		hint := d.Label
		if d.Optional {
			hint = "0"
		}
		f := k.field(place+"/"+d.Name, *o.Dimension(d.Name), d.Label, hint)
		v.Pieces = append(v.Pieces, piece{Text: before}, piece{Field: &f})
		rest = after
	}
	v.Pieces = append(v.Pieces, piece{Text: rest})
	if def.Points {
		curve := o.Kind == "path" && o.Smooth
		if o.Kind == "path" {
			smooth := k.choice(place+"/smooth", fmt.Sprint(o.Smooth), "how it runs through the points", []string{"false", "true"}, []string{"joined by lines", "joined by a curve"})
			v.Pieces = append(v.Pieces, piece{Text: " below, "}, piece{Field: &smooth})
		} else {
			v.Pieces = append(v.Pieces, piece{Text: " below"})
		}
		for i, p := range o.Points {
			at := place + "/points/" + p.ID
			row := pointView{Place: at, Number: i + 1, X: k.field(at+"/x", p.X, fmt.Sprintf("x of point %d", i+1), "x"), Y: k.field(at+"/y", p.Y, fmt.Sprintf("y of point %d", i+1), "y")}
			if def.Line {
				z, round := k.field(at+"/z", p.Z, fmt.Sprintf("height of point %d", i+1), "0"), k.field(at+"/round", p.Round, fmt.Sprintf("radius at point %d", i+1), "0")
				row.Z, row.Round = &z, &round
				name := k.field(at+"/name", p.Name, fmt.Sprintf("name of point %d", i+1), o.PointName(i))
				row.Called = &name
			} else if !curve {
				round := k.field(at+"/round", p.Round, fmt.Sprintf("radius at point %d", i+1), "0")
				bend := k.field(at+"/bend", p.Bend, fmt.Sprintf("bend behind point %d", i+1), "0")
				row.Round, row.Bend = &round, &bend
			}
			if o.Kind == "path" && !strings.Contains(place, "/holes/") {
				name := k.field(at+"/name", p.Name, fmt.Sprintf("name of the side behind point %d", i+1), "e"+p.ID)
				row.Name = &name
			}
			v.Points = append(v.Points, row)
		}
	}
	for i := range o.Holes {
		h := &o.Holes[i]
		at := place + "/holes/" + h.ID
		hole := holeView{Place: at, Number: h.ID, Outline: k.outline(at, &h.Outline),
			X: k.field(at+"/x", h.X, "place of the hole, x", "0"), Y: k.field(at+"/y", h.Y, "place of the hole, y", "0"), Turn: k.field(at+"/turn", h.Turn, "turn of the hole", "0 deg")}
		if h.Array != nil {
			hole.Count = k.field(at+"/array/count", h.Array.Count, "number of copies", "count")
			hole.Array = k.array(at+"/array", h.Array)
		}
		v.Holes = append(v.Holes, hole)
	}
	return v
}

// array says in words and fields where the copies of an array lie.
func (k *briefMaker) array(place string, a *model.Array) []piece {
	unit := ""
	if a.Along == "round" {
		unit = ", angle"
	}
	pitch := k.field(place+"/pitch", a.Pitch, "pitch", "pitch"+unit)
	along := k.choice(place+"/along", a.Along, "direction of the copies", []string{"x", "y", "z", "round"}, []string{"along x", "along y", "along z", "round a centre"})
	list := []piece{{Field: &pitch}, {Text: " apart "}, {Field: &along}}
	if a.Pitch == "" || a.Within != "" {
		within := k.field(place+"/within", a.Within, "from the first to the last", "extent"+unit)
		list = append(list, piece{Text: ", or within "}, piece{Field: &within})
		if a.Within != "" {
			list[0].Field.Class = strings.Replace(list[0].Field.Class, "missing", "", 1)
		}
	}
	if a.Along == "round" {
		x, y := k.field(place+"/x", a.X, "centre, x", "0"), k.field(place+"/y", a.Y, "centre, y", "0")
		list = append(list, piece{Text: " at x = "}, piece{Field: &x}, piece{Text: ", y = "}, piece{Field: &y})
	}
	if strings.Contains(place, "/holes/") {
		return list
	}
	centred := k.choice(place+"/centred", fmt.Sprint(a.Centred), "where the copies lie", []string{"true", "false"}, []string{"about its place", "from its place on"})
	return append(list, piece{Text: ", "}, piece{Field: &centred})
}
