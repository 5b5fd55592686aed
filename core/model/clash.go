package model

import (
	"encoding/json"
	"fmt"
	"reflect"
	"slices"
	"strings"
)

// ClashError says that an edit was made on an older revision, in which what it speaks of was
// something else than it is now.
type ClashError struct {
	// Place of the value that differs, and the same in words.
	Place, Words string
	// Was and Now are what stands there in the revision that the edit was made on and now, in
	// words; empty where there was nothing.
	Was, Now string
}

func (e *ClashError) Error() string {
	return fmt.Sprintf("%s was changed in another window: it was %s, and is %s now", e.Words, quoted(e.Was), quoted(e.Now))
}

func quoted(text string) string {
	if text == "" {
		return "nothing"
	}
	return "“" + shorten(text) + "”"
}

// Clash compares what stands at places in the revision that an edit was made on with what stands
// there now. between are the revisions from the one to the other: what was not there in one of
// them is not the same thing, even if it has the same name. It returns nil if all is the same, a
// *GoneError if a place is gone and a *ClashError if it differs.
func Clash(seen, now *Document, between []*Document, places []string) error {
	was, is := seen.tree(), now.tree()
	var ways []any
	for _, d := range between {
		ways = append(ways, d.tree())
	}
	for _, place := range places {
		path := strings.Split(place, "/")
		before, had := at(was, path)
		after, has := at(is, path)
		if had && !has {
			return &GoneError{place}
		}
		same := had == has && reflect.DeepEqual(before, after)
		gone := slices.ContainsFunc(ways, func(way any) bool { _, there := at(way, path); return !there })
		if same && !(had && gone) {
			continue
		}
		return &ClashError{Place: place, Words: now.placeWords(path), Was: said(before), Now: said(after)}
	}
	return nil
}

// tree is a document as plain maps and lists.
func (d *Document) tree() any {
	var t any
	bare, _ := d.WithoutSurfaces()
	if err := json.Unmarshal(bare.Bytes(), &t); err != nil {
		panic("model: a document cannot be read back: " + err.Error())
	}
	return t
}

// at finds what stands at a place. What is left out of a file stands for the text "", but in a
// list what is not there is missing.
func at(tree any, path []string) (found any, ok bool) {
	for i, name := range path {
		switch t := tree.(type) {
		case map[string]any:
			next, has := t[name]
			if properties, is := t["properties"].(map[string]any); is && !has {
				next, has = properties[name]
			}
			if !has && i < len(path)-1 && slices.Contains(entered, name) {
				return nil, false // no list: none of its entries is there
			}
			tree = next
		case []any:
			k := slices.IndexFunc(t, func(e any) bool {
				m, _ := e.(map[string]any)
				return m["id"] == name || m["id"] == nil && (m["name"] == name || m["kind"] == name)
			})
			if k < 0 {
				return nil, false
			}
			tree = t[k]
		}
		if tree == nil {
			return "", true
		}
	}
	return tree, true
}

// entered are the lists whose entries places speak of.
var entered = []string{"parameters", "materials", "parts", "conditions", "readings", "plates", "trials", "points", "holes", "caps", "cuts", "near", "walls", "vary", "slices", "lines", "levels", "arrows", "streams", "probes"}

// said writes what stands at a place in a few words.
func said(v any) string {
	switch t := v.(type) {
	case nil:
		return ""
	case string:
		return t
	case map[string]any:
		var words []string
		for _, k := range []string{"name", "kind", "value", "x", "y", "size", "at"} {
			if text, ok := t[k].(string); ok && text != "" {
				words = append(words, text)
			}
		}
		if text, err := json.Marshal(t["values"]); err == nil && t["values"] != nil {
			words = append(words, string(text))
		}
		return strings.Join(words, ", ")
	}
	text, err := json.Marshal(v)
	if err != nil {
		return "something else"
	}
	return string(text)
}

// placeWords names a place.
func (d *Document) placeWords(path []string) string {
	words := strings.NewReplacer("_", " ").Replace(strings.Join(path[min(2, len(path)-1):], ", "))
	switch path[0] {
	case "parts":
		if len(path) == 2 {
			return "the " + d.partName(path[1])
		}
		return words + " of the " + d.partName(path[1])
	case "parameters", "materials":
		if len(path) == 2 {
			return path[1]
		}
		return words + " of " + path[1]
	case "conditions", "readings", "plates", "trials":
		if len(path) == 2 {
			return path[1]
		}
		return strings.TrimPrefix(words, "values, ") + " in " + path[1]
	}
	return strings.Join(path, ", ")
}
