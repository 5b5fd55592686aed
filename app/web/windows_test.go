package web

import (
	"encoding/json"
	"fmt"
	"net/http"
	"net/url"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"saltkettle/app/store"
	"saltkettle/core/model"
)

// TestTwoWindows: what one window changes and another has not seen is answered with both
// versions, and an undo of another window's edit says whose it was.
func TestTwoWindows(t *testing.T) {
	s := open(t)
	m := s.demo("pan-floor")
	ask := func(window string, seen int, path string, form url.Values) (*http.Response, string) {
		return s.do("POST", fmt.Sprintf("/models/%d/%s", m.ID, path), form, "HX-Request", "true", "Kettle-Window", window, "Kettle-Seen", fmt.Sprint(seen))
	}
	set := func(window string, seen int, place, value string) (*http.Response, string) {
		return ask(window, seen, "edit", url.Values{"op": {"set"}, "place": {place}, "value": {value}})
	}
	r, _ := set("a", 1, "parameters/t/value", "7 mm")
	require.Equal(t, 200, r.StatusCode)
	assert.Equal(t, "1→2", r.Header.Get("Kettle-Before")+"→"+r.Header.Get("Kettle-After"))
	r, _ = set("b", 1, "aim", "Something else")
	require.Equal(t, 200, r.StatusCode, "another place is free")
	r, body := set("b", 1, "parameters/t/value", "9 mm")
	require.Equal(t, 409, r.StatusCode)
	var clash struct {
		Place, Was, Now, Message string
		Revision                 int
	}
	require.NoError(t, json.Unmarshal([]byte(body), &clash))
	assert.Equal(t, []string{"parameters/t/value", "5 mm", "7 mm"}, []string{clash.Place, clash.Was, clash.Now})
	assert.Equal(t, 3, clash.Revision)
	r, _ = set("b", clash.Revision, "parameters/t/value", "9 mm")
	require.Equal(t, 200, r.StatusCode, "said once more, it is done")
	r, _ = ask("a", 2, "edit", url.Values{"op": {"remove-parameter"}, "id": {"t"}})
	assert.Equal(t, 409, r.StatusCode, "what is taken away is what was shown")
	r, _ = ask("a", 2, "undo", nil)
	assert.Contains(t, r.Header.Get("HX-Trigger"), `had been made in another window: t: 7 mm \u2192 9 mm`)
	r, _ = s.do("GET", fmt.Sprintf("/models/%d/brief", m.ID), nil, "HX-Request", "true", "Kettle-Window", "a", "Kettle-Seen", "1")
	assert.Contains(t, r.Header.Get("HX-Trigger"), `Changed in another window: t: 5 mm \u2192 7 mm`)
	r, _ = s.do("GET", fmt.Sprintf("/models/%d/brief", m.ID), nil, "HX-Request", "true", "Kettle-Window", "a", "Kettle-Seen", "3")
	assert.Empty(t, r.Header.Get("HX-Trigger"))
}

// TestEveryOperationKnowsWhatItTouches: the places that operations name are places of a model.
func TestEveryOperationKnowsWhatItTouches(t *testing.T) {
	s := open(t)
	m := s.demo("pan-floor")
	_, _, err := s.store.Edit(t.Context(), m.ID, store.Stamp{}, nil, func(d *model.Document) error {
		if err := d.UseMaterial("copper"); err != nil {
			return err
		}
		if _, err := d.AddHole("floor", "disc"); err != nil {
			return err
		}
		return d.SetHoleArray("parts/floor/outline/holes/1", true)
	})
	require.NoError(t, err)
	doc, err := s.store.Document(t.Context(), m.ID, 0)
	require.NoError(t, err)
	bare := model.New("nothing in it")
	forms := map[string]url.Values{
		"set": {"place": {"parameters/t/value"}}, "remove": {"place": {"parts/floor/outline/holes/1"}}, "push": {"on": {"floor|top"}}, "move": {"id": {"floor,rod"}}, "turn": {"id": {"floor"}},
		"fill": {"id": {"floor"}}, "remove-part": {"id": {"floor"}}, "array": {"id": {"rod"}}, "hole-array": {"place": {"parts/floor/outline/holes/1"}}, "remove-sentence": {"section": {"readings"}, "id": {"r1"}},
		"lift": {"place": {"parts/rod/outline/depth"}}, "vary-value": {"id": {"t1"}, "place": {"parts/rod/outline/depth"}}, "lower": {"id": {"t"}}, "remove-parameter": {"id": {"t"}}, "own-material": {"id": {"floor"}}, "remove-material": {"id": {"copper"}},
		"patch-add": {"section": {"readings"}, "id": {"r1"}, "on": {"floor|top"}}, "patch-take": {"section": {"readings"}, "id": {"r1"}, "on": {"floor|top"}},
		"remove-property": {"id": {"copper"}, "key": {"conductivity"}}, "give-material": {"part": {"floor"}}, "remove-plate": {"id": {"I"}}, "remove-trials": {"id": {"t1"}}, "set-parts": {"id": {"floor,rod"}, "what": {"material"}}, "remove-parts": {"id": {"floor,rod"}}, "turn-slice": {"place": {"plates/I/slices/1"}},
	}
	for name, op := range operations {
		if op.touches == nil {
			assert.NotContains(t, forms, name)
			continue
		}
		require.Contains(t, forms, name)
		places := op.touches(forms[name])
		require.NotEmpty(t, places, name)
		assert.NoError(t, model.Clash(doc, doc, nil, places), name)
		if name != "remove-plate" && name != "turn-slice" { // which every model has, and what the first one has not either
			assert.Error(t, model.Clash(doc, bare, nil, places), "%s: %v is nowhere", name, places)
		}
	}
}
