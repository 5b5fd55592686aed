package model

import (
	"fmt"
	"regexp"
	"unicode/utf8"
)

// idPattern is what ids are made of: they stand in places and in patches.
var idPattern = regexp.MustCompile(`^[A-Za-z0-9_-]{1,40}$`)

// maxName bounds a name, characters.
const maxName = 200

// checkName bounds a name, which stands on cards, in lists and in names of files.
func checkName(what, name string) error {
	if n := utf8.RuneCountInString(name); n > maxName {
		return fmt.Errorf("the name of %s has %d characters; %d are the most", what, n, maxName)
	}
	return nil
}

// label is what something in a document is called: the section it is in, its place there, its id
// and its name.
type label struct {
	section  string
	index    int
	id, name string
}

// labels are those of all that has an id.
func (d *Document) labels() []label {
	var list []label
	for i, p := range d.Parts {
		list = append(list, label{"parts", i, p.ID, p.Name})
	}
	for i, s := range d.Conditions {
		list = append(list, label{"conditions", i, s.ID, s.Name})
	}
	for i, s := range d.Readings {
		list = append(list, label{"readings", i, s.ID, s.Name})
	}
	for i, p := range d.Plates {
		list = append(list, label{"plates", i, p.ID, p.Name})
	}
	for i, t := range d.Trials {
		list = append(list, label{"trials", i, t.ID, t.Name})
	}
	return list
}

// CheckLabels demands that all ids are plain and no name is endless, as those of a file from
// elsewhere may not be: they stand in addresses and on pages.
func (d *Document) CheckLabels() error {
	if err := checkName("the model", d.Name); err != nil {
		return err
	}
	for _, p := range d.Parameters {
		if err := checkName("one of the parameters", p.Name); err != nil {
			return err
		}
	}
	for _, l := range d.labels() {
		if !idPattern.MatchString(l.id) {
			return fmt.Errorf("the %s have an id %q; an id is up to 40 letters, digits, - and _", l.section, l.id)
		}
		if err := checkName("one of the "+l.section, l.name); err != nil {
			return err
		}
	}
	return nil
}

// ids demands that every part, sentence and plate has an id of its own.
func (r *resolver) ids() {
	seen := map[string]bool{}
	for _, l := range r.doc.labels() {
		key := l.section + "/" + l.id
		switch {
		case !idPattern.MatchString(l.id):
			r.find(Wrong, l.section, "use up to 40 letters, digits, - and _", "number %d has the id %q", l.index+1, l.id)
		case seen[key]:
			r.find(Wrong, l.section, "give each its own id", "two have the id %q", l.id)
		}
		seen[key] = true
	}
}
