package web

import (
	"net"
	"net/http"
	"net/http/httptest"
	"os"
	"path/filepath"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

func address(text string) net.Addr {
	a, err := net.ResolveTCPAddr("tcp", text)
	if err != nil {
		panic(err)
	}
	return a
}

// TestGuardLetsNobodyIn: foreign names, pages of other sites and whoever has no key are
// refused; the link lets in, and its key becomes a cookie and leaves the address.
func TestGuardLetsNobodyIn(t *testing.T) {
	g, err := NewGuard(address("127.0.0.1:8420"), "a-long-and-secret-key", "works.marram.example")
	require.NoError(t, err)
	h := g.Handler(http.HandlerFunc(func(w http.ResponseWriter, _ *http.Request) { _, _ = w.Write([]byte("in")) }))
	ask := func(host, path string, header ...string) *httptest.ResponseRecorder {
		r := httptest.NewRequest("GET", path, nil)
		r.Host = host
		for i := 0; i < len(header); i += 2 {
			r.Header.Set(header[i], header[i+1])
		}
		w := httptest.NewRecorder()
		h.ServeHTTP(w, r)
		return w
	}
	cookie := []string{"Cookie", "saltkettle-8420=a-long-and-secret-key"}
	for _, host := range []string{"127.0.0.1:8420", "localhost:8420", "LOCALHOST:8420", "[::1]:8420", "works.marram.example:8420"} {
		assert.Equal(t, http.StatusOK, ask(host, "/models/1/", cookie...).Code, host)
	}
	for _, host := range []string{"evil.example", "evil.example:8420", "127.0.0.1", "localhost:80", "127.0.0.1.evil.example:8420", ""} {
		assert.Equal(t, http.StatusMisdirectedRequest, ask(host, "/", cookie...).Code, host)
	}
	assert.Equal(t, http.StatusForbidden, ask("localhost:8420", "/").Code)
	assert.Equal(t, http.StatusForbidden, ask("localhost:8420", "/?key=guess").Code)
	assert.Equal(t, http.StatusForbidden, ask("localhost:8420", "/", "Cookie", "saltkettle-8420=guess").Code)
	in := ask("localhost:8420", "/models/3/plates?run=2&key=a-long-and-secret-key")
	assert.Equal(t, http.StatusSeeOther, in.Code)
	assert.Equal(t, "/models/3/plates?run=2", in.Header().Get("Location"))
	require.Len(t, in.Result().Cookies(), 1)
	c := in.Result().Cookies()[0]
	assert.True(t, c.HttpOnly && c.SameSite == http.SameSiteLaxMode)
	assert.Equal(t, http.StatusOK, ask("localhost:8420", "/", "Cookie", c.Name+"="+c.Value).Code)
	// What a page of another site fetches, with the cookie or without.
	for mode, want := range map[string]int{"cors": http.StatusForbidden, "no-cors": http.StatusForbidden, "navigate": http.StatusOK} {
		got := ask("localhost:8420", "/models/1/mesh", append([]string{"Sec-Fetch-Site", "cross-site", "Sec-Fetch-Mode", mode, "Sec-Fetch-Dest", "document"}, cookie...)...)
		assert.Equal(t, want, got.Code, mode)
	}
	assert.Equal(t, http.StatusForbidden, ask("localhost:8420", "/", append([]string{"Sec-Fetch-Site", "cross-site", "Sec-Fetch-Mode", "navigate", "Sec-Fetch-Dest", "iframe"}, cookie...)...).Code)
	assert.Equal(t, http.StatusOK, ask("localhost:8420", "/", append([]string{"Sec-Fetch-Site", "same-origin", "Sec-Fetch-Mode", "cors"}, cookie...)...).Code)
}

// TestGuardBeyondThisMachine: an address that others reach needs a key.
func TestGuardBeyondThisMachine(t *testing.T) {
	for _, at := range []string{"0.0.0.0:8420", "[::]:8420", "192.0.2.7:8420"} {
		_, err := NewGuard(address(at), "")
		assert.ErrorContains(t, err, "needs a key", at)
		_, err = NewGuard(address(at), "key")
		assert.NoError(t, err, at)
	}
	g, err := NewGuard(address("127.0.0.1:9"), "")
	require.NoError(t, err)
	assert.Equal(t, "http://127.0.0.1:9/", g.Link("http://127.0.0.1:9/"))
}

// TestTheKeyIsKept: from start to start, for the owner of the folder alone.
func TestTheKeyIsKept(t *testing.T) {
	dir := t.TempDir()
	first, err := LoadKey(dir)
	require.NoError(t, err)
	assert.GreaterOrEqual(t, len(first), 20)
	second, err := LoadKey(dir)
	require.NoError(t, err)
	assert.Equal(t, first, second)
	info, err := os.Stat(filepath.Join(dir, "key"))
	require.NoError(t, err)
	assert.Zero(t, info.Mode().Perm()&0o077)
	_, err = LoadKey(filepath.Join(dir, "missing"))
	assert.Error(t, err)
}
