package web

import (
	"fmt"
	"net/http"
	"net/url"
	"regexp"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"saltkettle/core/model"
	"saltkettle/core/physics"
)

// manyParts is a model of n bars side by side, each as wide as a parameter of its own.
func manyParts(t testing.TB, n int) *model.Document {
	t.Helper()
	doc := model.New("Evaporation rack")
	doc.Mesh.Size = "10 mm"
	for i := range n {
		name := fmt.Sprintf("a%d", i+1)
		doc.Parameters = append(doc.Parameters, model.Parameter{Name: name, Value: "4 mm", About: "width"})
		doc.Parts = append(doc.Parts, model.Part{ID: fmt.Sprintf("p%d", i+1), Name: fmt.Sprintf("bar %d", i+1), Material: "copper", Role: model.Solved, Outline: model.Outline{Kind: "rectangle", Width: name, Depth: "4 mm"},
			Span: model.Span{From: "0 mm", To: "3 mm"}, Place: model.Place{X: fmt.Sprintf("%d mm", 4*(i%40)), Y: fmt.Sprintf("%d mm", 4*(i/40))}})
	}
	for i := range 10 {
		id, err := doc.AddSentence(physics.Catalog(), "heat.held", model.Patch{Part: fmt.Sprintf("p%d", i+1), Side: "top"})
		require.NoError(t, err)
		require.NoError(t, doc.Set("conditions/"+id+"/values/temperature", "20 °C"))
		_, err = doc.AddSentence(physics.Catalog(), "heat.greatest", model.Patch{Part: fmt.Sprintf("p%d", i+1)})
		require.NoError(t, err)
	}
	doc.CarryAll()
	return doc
}

// window asks as a page does that says what it shows.
type window struct {
	*site
	model       uint
	state, open string
}

var stateOf = regexp.MustCompile(`id="brief-state" data-state="([^"]*)"`)

func (w *window) ask(method, path string, form url.Values) (*http.Response, string) {
	w.t.Helper()
	r, body := w.do(method, fmt.Sprintf("/models/%d/%s", w.model, path), form, "HX-Request", "true", "Kettle-State", w.state, "Kettle-Open", w.open)
	if found := stateOf.FindStringSubmatch(body); found != nil {
		w.state = found[1]
	}
	return r, body
}

// TestAnswersCarryWhatChanged: of a thousand parts an edit sends a few kilobytes.
func TestAnswersCarryWhatChanged(t *testing.T) {
	s := open(t)
	m, err := s.store.CreateModel(t.Context(), manyParts(t, 1000))
	require.NoError(t, err)
	w := &window{site: s, model: m.ID}
	_, page := w.ask("GET", "", nil)
	assert.Less(t, len(page), 4<<20)
	ids := func(body string) (list []string) {
		for _, f := range regexp.MustCompile(`<\w+ hx-swap-oob="([^"]*)"[^>]*?\sid="([^"]*)"|<\w+ id="([^"]*)" hx-swap-oob="delete"|hx-swap-oob="(after[^"]*)"`).FindAllStringSubmatch(body, -1) {
			list = append(list, strings.TrimSpace(f[2]+f[3]+" "+f[4]))
		}
		return list
	}
	set := func(place, value string) (*http.Response, string) {
		return w.ask("POST", "edit", url.Values{"op": {"set"}, "place": {place}, "value": {value}})
	}
	r, body := set("parameters/a3/value", "5 mm")
	require.Equal(t, 200, r.StatusCode)
	assert.Equal(t, "none", r.Header.Get("HX-Reswap"))
	assert.Less(t, len(body), 20_000)
	got := ids(body)
	for _, id := range []string{"undo-row", "titleblock"} {
		assert.Contains(t, got, id)
	}
	assert.Contains(t, body, `id="parameter-a3"`)
	assert.NotContains(t, body, `id="part-p4"`)
	// A part comes behind the last one, and goes again.
	_, body = w.ask("POST", "edit", url.Values{"op": {"add-part"}, "outline": {"disc"}})
	assert.Less(t, len(body), 100_000)
	assert.Contains(t, body, `hx-swap-oob="afterend:[id=&#34;part-p1000&#34;]"><div class="part`)
	w.open = "p1001" // its details came with it
	_, body = set("parts/p1001/outline/diameter", "3 mm")
	assert.Less(t, len(body), 100_000)
	assert.Contains(t, body, `data-place="parts/p1001/outline/diameter"`)
	_, body = w.ask("POST", "edit", url.Values{"op": {"remove-part"}, "id": {"p1001"}})
	assert.Contains(t, body, `<div id="part-p1001" hx-swap-oob="delete">`)
	assert.Less(t, len(body), 100_000)
	w.open = ""
	// Details that are opened are known from then on.
	_, body = w.ask("GET", "parts/p7", nil)
	assert.Contains(t, body, `data-place="parts/p7/place/turn"`)
	w.open = "p7"
	_, body = set("parts/p7/place/turn", "3 deg")
	assert.Less(t, len(body), 20_000)
	assert.Contains(t, body, `value="3 deg"`)
	// A change of the order, or a window that shows something unknown, gets the whole.
	r, _ = w.ask("POST", "edit", url.Values{"op": {"move-part"}, "id": {"p7"}, "by": {"3"}})
	assert.Empty(t, r.Header.Get("HX-Reswap"))
	w.state = "who knows"
	r, _ = set("parameters/a3/value", "6 mm")
	assert.Empty(t, r.Header.Get("HX-Reswap"))
}

// TestChoicesAreAskedFor: what a sentence can act on comes when it is wanted, as complete as the
// device.
func TestChoicesAreAskedFor(t *testing.T) {
	s := open(t)
	m := s.demo("pan-floor")
	get := func(place string) (int, string) {
		r, body := s.do("GET", fmt.Sprintf("/models/%d/choices?place=%s", m.ID, place), nil, "HX-Request", "true")
		return r.StatusCode, body
	}
	_, page := s.do("GET", fmt.Sprintf("/models/%d/", m.ID), nil)
	assert.NotContains(t, page, "bottom of the hearth brick")
	status, body := get("conditions/c2/on")
	require.Equal(t, 200, status)
	for _, want := range []string{`["","choose where"]`, `["brick|bottom","bottom of the hearth brick"]`, `["floor|*","surface of the pan floor"]`} {
		assert.Contains(t, body, want)
	}
	_, body = get("readings/r4/on")
	assert.Contains(t, body, `where it meets the heater rod`)
	assert.NotContains(t, body, `"surface of the hearth brick, where it meets the pan floor"`, "they are apart")
	for _, place := range []string{"conditions/c9/on", "conditions/c1/values/power", "mesh/near/1/on", "on", "aim"} {
		status, _ = get(place)
		assert.Equal(t, 409, status, place)
	}
}

// TestADrawingThatIsKnownIsNotSentAgain.
func TestADrawingThatIsKnownIsNotSentAgain(t *testing.T) {
	s := open(t)
	m := s.demo("pan-floor")
	path := fmt.Sprintf("/models/%d/drawing", m.ID)
	r, _ := s.do("GET", path, nil)
	tag := r.Header.Get("ETag")
	require.NotEmpty(t, tag)
	s.edit(m, "op=set&place=aim", url.Values{"value": {"another"}})
	r, body := s.do("GET", path, nil, "If-None-Match", tag)
	assert.Equal(t, 304, r.StatusCode)
	assert.Empty(t, body)
	s.edit(m, "op=set&place=parameters/t/value", url.Values{"value": {"7 mm"}})
	r, _ = s.do("GET", path, nil, "If-None-Match", tag)
	assert.Equal(t, 200, r.StatusCode)
}
