package web

import (
	"encoding/json"
	"errors"
	"fmt"
	"html/template"
	"slices"
	"strings"

	"saltkettle/app/store"
	"saltkettle/core/model"
	"saltkettle/core/physics"
	"saltkettle/core/quantity"
	"saltkettle/core/sentence"
)

// functions are what templates may call.
var functions = template.FuncMap{
	"op":    op,
	"roman": roman,
	"acts":  acts,
	"menu":  menuOf,
	"roles": func() []option { return roles },
	// The part of a symbol behind "_" is set lower.
	"symbol": func(text string) template.HTML {
		base, low, ok := strings.Cut(template.HTMLEscapeString(text), "_")
		if ok {
			base += "<sub>" + low + "</sub>"
		}
		return template.HTML(base) // escaped before
	},
}

// roles are those that a part can have, in words.
var roles = []option{{string(model.Solved), "solved", false}, {string(model.Shown), "shown only", false}, {string(model.Off), "off", false}}

// outlineWords names the kind of an outline.
func outlineWords(key string) string {
	if base, ok := strings.CutSuffix(key, "-around"); ok {
		return base + " round the others"
	}
	return key
}

// acts writes what a kind of sentence can be about, for the script of the sheet.
func acts(a sentence.Acts) string {
	var words []string
	if a&sentence.Surfaces != 0 {
		words = append(words, "surface")
	}
	if a&sentence.Bodies != 0 {
		words = append(words, "body")
	}
	return strings.Join(words, " ")
}

// menuPart is a heading in a menu of sentences with those below it.
type menuPart struct {
	Heading string
	Kinds   []*sentence.Kind
}

// menuOf divides kinds of sentences by what they are about.
func menuOf(kinds []*sentence.Kind) []menuPart {
	var list []menuPart
	for _, k := range kinds {
		heading := "parts and formulas"
		for _, p := range physics.Catalog().Physics {
			if p.Key == model.Of(k.Key) {
				heading = p.Name
			}
		}
		if k.Heading != "" {
			heading = k.Heading
		}
		i := slices.IndexFunc(list, func(p menuPart) bool { return p.Heading == heading })
		if i < 0 {
			i = len(list)
			list = append(list, menuPart{Heading: heading})
		}
		list[i].Kinds = append(list[i].Kinds, k)
	}
	return list
}

// roman writes the number of a section of the plates page.
func roman(n int) string {
	var out string
	for _, d := range []struct {
		value int
		text  string
	}{{10, "X"}, {9, "IX"}, {5, "V"}, {4, "IV"}, {1, "I"}} {
		for ; n >= d.value; n -= d.value {
			out += d.text
		}
	}
	return out
}

// field is a value that is edited where it stands.
type field struct {
	Model uint
	Place string
	Value string
	Label string // for screen readers and messages
	Hint  string // shown while nothing is written
	Class string
	List  string // id of a list of suggestions
	Fault string // what is wrong with it
	// Prefix keeps the ids of fields apart that show one place twice.
	Prefix string
	Names  []string // choices, for a select; labels are in Texts
	Texts  []string
	// Asked says that there are more choices, which are asked for when they are wanted.
	Asked bool
}

// ID is the id of the element; it stays the same from edit to edit, so that the
// cursor stays where it is.
func (f field) ID() string {
	return "v-" + f.Prefix + strings.NewReplacer("/", "-", " ", "_").Replace(f.Place)
}

// Width is the room that the value needs, in characters.
func (f field) Width() int {
	n := len([]rune(f.Value))
	if n == 0 {
		n = len([]rune(f.Hint))
	}
	return max(n, 1)
}

// Long says that the value may be cut off where there is little room.
func (f field) Long() bool { return len(f.Value) > 12 }

// op is an edit that a button makes, as JSON: names and values in turn. Written in place, a value
// with a quotation mark in it would be more than a value.
func op(pairs ...any) (string, error) {
	if len(pairs)%2 != 0 {
		return "", errors.New("op takes names and values in turn")
	}
	edit := map[string]string{}
	for i := 0; i < len(pairs); i += 2 {
		edit[fmt.Sprint(pairs[i])] = fmt.Sprint(pairs[i+1])
	}
	data, err := json.Marshal(edit)
	return string(data), err
}

// Options pairs the choices of a select.
func (f field) Options() []option {
	list := make([]option, len(f.Names))
	for i, n := range f.Names {
		list[i] = option{n, f.Texts[i], n == f.Value}
	}
	return list
}

// option is a choice of a select.
type option struct {
	Name, Text string
	Chosen     bool
}

// readingView is a reading ready for print.
type readingView struct {
	Key, Name   string
	Value, Unit string
	Margin      string // its error, "" if it is nothing or not known
	// Missing says why there is no value, Trust what the error is made of or why it is not
	// known.
	Missing, Trust string
}

func newReadingView(q store.Reading) readingView {
	if q.Missing != "" {
		return readingView{Key: q.Key, Name: q.Name, Value: "no value", Missing: q.Missing}
	}
	text := quantity.Show(q.Value, q.Unit, q.Difference, 0)
	value, unit := splitUnit(text)
	return readingView{Key: q.Key, Name: q.Name, Value: value, Unit: unit, Margin: margin(q, q.Unit), Trust: q.Trust}
}

// margin prints the error of a reading in a unit.
func margin(q store.Reading, unit string) string {
	if q.Error == nil {
		return ""
	}
	return quantity.Margin(*q.Error, q.Value, unit)
}

// splitUnit parts "118.2 °C" at the space before the unit.
func splitUnit(text string) (value, unit string) {
	if v, u, ok := strings.Cut(text, "\u00a0"); ok {
		return v, u
	}
	return text, ""
}
