package web

import (
	"bytes"
	"fmt"
	"html/template"
	"net/http"
	"reflect"
	"slices"
	"strings"
	"sync"

	"github.com/go-chi/chi/v5"

	"saltkettle/core/model"
)

// A brief may be long, and an edit changes little of it: an answer to a window that says what it
// shows carries only those units that differ. Units are elements with an id, each with a template
// of its own.

// unit is a piece of the brief.
type unit struct {
	id, template string
	data         any
}

// rows are units in a container that come and go.
type rows struct {
	container string
	units     []unit
}

// units are the pieces that are always there.
func (b *briefView) units() []unit {
	return []unit{
		{"materials", "materials-list", b.Materials}, {"named", "named-list", b.Named}, {"undo-row", "undo-row", b.Bar}, {"aim-text", "aim", b.Aim}, {"parts-unit", "parts-unit", b.Space.Space.Value},
		{"part-kinds", "part-kinds", b.Outlines},
		{"parts-foot", "space", b.Space}, {"physics-text", "physics", b.Physics}, {"conditions-else", "else", b.Else}, {"mesh-text", "mesh", b.Mesh}, {"titleblock", "titleblock", b.Block},
	}
}

// rows are the lists of the brief.
func (b *briefView) rows() []rows {
	list := []rows{{container: "parts-rows"}, {container: "conditions-rows"}, {container: "parameters-rows"}, {container: "readings-rows"}}
	for i := range b.Parts {
		list[0].units = append(list[0].units, unit{"part-" + b.Parts[i].ID, "part", b.Parts[i]})
	}
	for i := range b.Conditions {
		list[1].units = append(list[1].units, unit{"s-" + b.Conditions[i].ID, "sentence", b.Conditions[i]})
	}
	for i := range b.Parameters {
		list[2].units = append(list[2].units, unit{"parameter-" + b.Parameters[i].Name.Value, "parameter", b.Parameters[i]})
	}
	for i := range b.Readings {
		list[3].units = append(list[3].units, unit{"s-" + b.Readings[i].ID, "reading", b.Readings[i]})
	}
	return list
}

// swapped marks the element with which a text begins for a swap.
func swapped(html []byte, how string) []byte {
	html = bytes.TrimLeft(html, " \n")
	at := bytes.IndexAny(html, " >")
	return slices.Concat(html[:at], []byte(` hx-swap-oob="`+template.HTMLEscapeString(how)+`"`), html[at:])
}

// difference writes the units of a brief that are not what they are in another one; ok is false
// if the whole brief has to be sent.
func (s *sheetPage) difference(out *bytes.Buffer, was, is *briefView) (ok bool, err error) {
	write := func(u unit, how string) error {
		html, err := s.execute(u.template, u.data)
		if err == nil {
			out.Write(swapped(html, how))
		}
		return err
	}
	before := was.units()
	for i, u := range is.units() {
		if reflect.DeepEqual(u.data, before[i].data) {
			continue
		}
		if err := write(u, "morph"); err != nil {
			return false, err
		}
	}
	lists := was.rows()
	for i, list := range is.rows() {
		old := lists[i].units
		if (len(old) == 0) != (len(list.units) == 0) {
			return false, nil // the place of the list itself comes or goes
		}
		known := make(map[string]unit, len(old))
		for _, u := range old {
			known[u.id] = u
		}
		kept := make(map[string]bool, len(list.units))
		for _, u := range list.units {
			kept[u.id] = true
		}
		stayed := slices.DeleteFunc(slices.Clone(old), func(u unit) bool { return !kept[u.id] })
		for _, u := range old {
			if !kept[u.id] {
				fmt.Fprintf(out, `<div id="%s" hx-swap-oob="delete"></div>`, template.HTMLEscapeString(u.id))
			}
		}
		k := 0 // among those that stayed
		for j, u := range list.units {
			before, there := known[u.id]
			switch {
			case there && (k >= len(stayed) || stayed[k].id != u.id):
				return false, nil // the order has changed
			case there:
				k++
				if !reflect.DeepEqual(u.data, before.data) {
					if err := write(u, "morph"); err != nil {
						return false, err
					}
				}
			default:
				how := "afterbegin:#" + list.container
				if j > 0 {
					how = `afterend:[id="` + list.units[j-1].id + `"]`
				}
				html, err := s.execute(u.template, u.data)
				if err != nil {
					return false, err
				}
				wrap := "div"
				if list.container != "parts-rows" {
					wrap = "ul"
				}
				fmt.Fprintf(out, `<%s hx-swap-oob="%s">%s</%s>`, wrap, template.HTMLEscapeString(how), bytes.TrimSpace(html), wrap)
			}
		}
	}
	return true, nil
}

// briefs keeps the briefs that windows were shown last.
type briefs struct {
	mu   sync.Mutex
	list []shown
}

// shown is a brief that a window was shown, with the state and the open part it says of itself.
type shown struct {
	model       uint
	state, open string
	view        *briefView
}

// maxShown is how many briefs are kept.
const maxShown = 16

func (c *briefs) keep(model uint, open string, v *briefView) {
	c.mu.Lock()
	defer c.mu.Unlock()
	c.list = slices.DeleteFunc(c.list, func(s shown) bool { return s.model == model && s.state == v.State && s.open == open })
	if len(c.list) >= maxShown {
		c.list = slices.Delete(c.list, 0, 1)
	}
	c.list = append(c.list, shown{model, v.State, open, v})
}

func (c *briefs) get(model uint, state, open string) *briefView {
	c.mu.Lock()
	defer c.mu.Unlock()
	i := slices.IndexFunc(c.list, func(s shown) bool { return s.model == model && s.state == state && s.open == open })
	if i < 0 {
		return nil
	}
	return c.list[i].view
}

// open takes note that a window that was shown a brief shows the details of another part, too.
func (c *briefs) open(model uint, state, open string, details *partDetails) {
	was := c.get(model, state, open)
	if was == nil {
		return
	}
	now := *was
	now.Parts = slices.Clone(was.Parts)
	for i := range now.Parts {
		now.Parts[i].Details = nil
		if now.Parts[i].ID == details.ID {
			now.Parts[i].Details = details
		}
	}
	c.keep(model, details.ID, &now)
}

// openPart is the part whose details a window shows.
func openPart(r *http.Request) string { return r.Header.Get("Kettle-Open") }

// answerBrief renders what an edit changes of the brief. focus is a place to put the cursor: the
// details of its part are shown.
func (s *sheetPage) answerBrief(w http.ResponseWriter, r *http.Request, focus string) {
	open := openPart(r)
	if path := strings.Split(focus, "/"); path[0] == "parts" && len(path) > 1 {
		open = path[1]
	}
	b, err := s.newBrief(r.Context(), modelID(r), open)
	if err != nil {
		s.fail(w, r, err)
		return
	}
	if !slices.ContainsFunc(b.Parts, func(p partView) bool { return p.ID == open }) {
		open = "" // it is gone
	}
	announce(w, "kettle:changed", map[string]string{"focus": focus, "open": open})
	was := s.shown.get(b.Model.ID, r.Header.Get("Kettle-State"), openPart(r))
	s.shown.keep(b.Model.ID, open, b)
	if was != nil {
		var out bytes.Buffer
		ok, err := s.difference(&out, was, b)
		if err == nil && ok {
			err = s.templates.ExecuteTemplate(&out, "brief-state-oob", b)
		}
		if err != nil {
			s.fail(w, r, err)
			return
		}
		if ok {
			w.Header().Set("Content-Type", "text/html; charset=utf-8")
			w.Header().Set("Cache-Control", "no-store")
			w.Header().Set("HX-Reswap", "none")
			_, _ = out.WriteTo(w) // the other side may have gone
			return
		}
	}
	s.render(w, r, http.StatusOK, "brief-answer", b)
}

// partDetails answers with the sentences that describe a part.
func (s *sheetPage) partDetails(w http.ResponseWriter, r *http.Request) {
	doc, err := s.store.Document(r.Context(), modelID(r), 0)
	if err != nil {
		s.fail(w, r, err)
		return
	}
	id := chi.URLParam(r, "part")
	i := doc.Part(id)
	if i < 0 {
		s.fail(w, r, &model.GoneError{Place: "parts/" + id})
		return
	}
	details := newBriefMaker(modelID(r), doc).details(i)
	s.shown.open(modelID(r), r.Header.Get("Kettle-State"), openPart(r), details)
	s.render(w, r, http.StatusOK, "part-more", details)
}
