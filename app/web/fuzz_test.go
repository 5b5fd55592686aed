package web

import (
	"encoding/json"
	"fmt"
	"maps"
	"net/http"
	"net/http/httptest"
	"slices"
	"strings"
	"testing"

	"github.com/stretchr/testify/require"

	"saltkettle/core/model"
	"saltkettle/examples"
)

// leaves are the texts in a document of JSON, as functions that set them, in one order.
func leaves(v any, list []func(string)) []func(string) {
	switch v := v.(type) {
	case map[string]any:
		for _, key := range slices.Sorted(maps.Keys(v)) {
			if _, ok := v[key].(string); ok {
				list = append(list, func(text string) { v[key] = text })
			} else {
				list = leaves(v[key], list)
			}
		}
	case []any:
		for i := range v {
			if _, ok := v[i].(string); ok {
				list = append(list, func(text string) { v[i] = text })
			} else {
				list = leaves(v[i], list)
			}
		}
	}
	return list
}

// FuzzPages: an example with any one or two of its texts exchanged for any others has findings or
// not, but its pages answer, and are no larger than those of any device.
func FuzzPages(f *testing.F) {
	f.Add(uint(0), uint(0), "", uint(1), "-")
	for i, value := range []string{"((1 m)^5)^5", "temperature/temperature", "1e308 m", "0 m", "table(x, 0: 0)", "parsec", "-1", "0/0", "mean(x over floor)", "é\x00<b>", "9e18", "t"} {
		for leaf := range uint(60) {
			if leaf%12 == uint(i) {
				f.Add(leaf%7, leaf, value, leaf*3, "1")
			}
		}
	}
	site := open(f)
	f.Setenv("KETTLE_TEST_WORKER", "") // the processes of the fuzzer are no workers of runs
	handler := site.server.Config.Handler
	f.Fuzz(func(t *testing.T, example, first uint, value string, second uint, other string) {
		doc, err := examples.Load(examples.List[example%uint(len(examples.List))].Key)
		require.NoError(t, err)
		var tree any
		require.NoError(t, json.Unmarshal(doc.Bytes(), &tree))
		list := leaves(tree, nil)
		list[first%uint(len(list))](value)
		list[second%uint(len(list))](other)
		data, err := json.Marshal(tree)
		require.NoError(t, err)
		changed, err := model.Parse(data)
		if err != nil || changed.CheckLabels() != nil {
			return
		}
		m, err := site.store.CreateModel(t.Context(), changed)
		require.NoError(t, err)
		at := fmt.Sprintf("/models/%d", m.ID)
		for _, path := range []string{"/", at + "/", at + "/drawing", at + "/materials", at + "/trials", at + "/revisions"} {
			answer := httptest.NewRecorder()
			handler.ServeHTTP(answer, httptest.NewRequest(http.MethodGet, path, nil))
			if answer.Code >= http.StatusInternalServerError || answer.Body.Len() > 8<<20 {
				t.Fatalf("%s: %d, %d bytes: %s", path, answer.Code, answer.Body.Len(), strings.TrimSpace(answer.Body.String()[:min(answer.Body.Len(), 2000)]))
			}
		}
		require.NoError(t, site.store.RemoveModel(t.Context(), m.ID))
	})
}
