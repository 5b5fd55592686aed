package web

import (
	"fmt"
	"net/http"
	"net/url"
	"os"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// TestSentencesLeftOut: the switch of a sentence keeps it on the sheet, out of the
// drawing's flags, and what nobody says is told without it.
func TestSentencesLeftOut(t *testing.T) {
	s := open(t)
	m := s.demo("pan-floor")
	_, brief := s.edit(m, "op=set&place=conditions/c2/off&value=true", nil)
	assert.Contains(t, brief, "Left out.")
	assert.Contains(t, brief, "take in")
	assert.Contains(t, brief, "nothing leads heat away")
	_, drawn := s.do("GET", fmt.Sprintf("/models/%d/drawing", m.ID), nil)
	assert.NotContains(t, drawn, `"id":"c2"`)
	_, brief = s.edit(m, "op=set&place=conditions/c2/off&value=false", nil)
	assert.NotContains(t, brief, "Left out.")
	assert.NotContains(t, brief, "nothing leads heat away")
}

// TestSectionsOnTheSheet: a plane space asks for its depth, its parts have no span in z,
// and no sentence is offered their tops.
func TestSectionsOnTheSheet(t *testing.T) {
	s := open(t)
	m := s.demo("pan-floor")
	_, brief := s.edit(m, "op=set&place=space/kind&value=plane", nil)
	assert.Contains(t, brief, `data-place="space/depth"`)
	assert.NotContains(t, brief, `data-place="parts/brick/span/from"`)
	assert.Contains(t, brief, "has no side &#34;top&#34;")
	_, drawn := s.do("GET", fmt.Sprintf("/models/%d/drawing", m.ID), nil)
	assert.Contains(t, drawn, `"flat":true`)
	_, brief = s.edit(m, "op=set&place=space/kind&value=solid", nil)
	assert.NotContains(t, brief, `data-place="space/depth"`)
}

// TestRadiationOnThePlates runs the cabinet on a coarse mesh: the plates tell of its view
// factors, which the data folder keeps, and the run was asked for its mesh error.
func TestRadiationOnThePlates(t *testing.T) {
	s := open(t)
	m := s.demo("pan-floor")
	base := fmt.Sprintf("/models/%d", m.ID)
	s.edit(m, "op=set&place=mesh/size", url.Values{"value": {"8 mm"}})
	s.edit(m, "op=add-sentence&kind=heat.enclosure", url.Values{})
	s.edit(m, "op=set&place=conditions/c3/values/temperature", url.Values{"value": {"20 °C"}})
	events, err := s.client.Get(s.server.URL + base + "/events")
	require.NoError(t, err)
	defer events.Body.Close()
	resp, _ := s.do("POST", base+"/runs", url.Values{"mesh-error": {"yes"}}, "HX-Request", "true")
	require.Equal(t, http.StatusNoContent, resp.StatusCode)
	s.wait(events.Body, "#1", ">settled<")
	runs, err := s.store.Runs(t.Context(), m.ID, 1)
	require.NoError(t, err)
	assert.True(t, runs[0].MeshError)
	_, plates := s.do("GET", base+"/plates", nil)
	assert.Contains(t, plates, "Radiation between")
	assert.Contains(t, plates, "of the view is open to the surroundings")
	assert.NotContains(t, plates, "Run again with it", "it was asked for already")
	kept, err := os.ReadDir(s.store.ViewsDir())
	require.NoError(t, err)
	assert.NotEmpty(t, kept)
}
