package web

import (
	"fmt"
	"net/http"
	"net/http/httptest"
	"strings"
	"testing"

	"github.com/stretchr/testify/require"

	"saltkettle/examples/spoilt"
)

// FuzzPages: an example with any one or two of its texts exchanged for any others has findings or
// not, but its pages answer, and are no larger than those of any device.
func FuzzPages(f *testing.F) {
	f.Add(uint(0), uint(0), "", uint(1), "-")
	for i, value := range spoilt.Texts {
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
		changed, ok, err := spoilt.Model(example, first, value, second, other)
		require.NoError(t, err)
		if !ok {
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
