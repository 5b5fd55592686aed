package web

import (
	"crypto/rand"
	"crypto/subtle"
	"errors"
	"fmt"
	"io/fs"
	"net"
	"net/http"
	"os"
	"path/filepath"
	"strings"
)

// Guard lets nobody in who was not asked: it answers only to the server's own names, so that
// a foreign page cannot reach it through a name of its own that leads here; only to whoever has
// its key; and not to what pages of other sites fetch.
type Guard struct {
	// Names are the hosts that are answered, with their port.
	Names map[string]bool
	// Key is in the link that the server prints; a browser keeps it as a cookie. Empty lets
	// everybody in who reaches the address.
	Key string

	cookie string
}

// NewGuard makes a guard for an address that is listened to. Other names are further hosts
// that lead here, without or with a port. Beyond the loopback addresses of this machine a key
// is demanded.
func NewGuard(at net.Addr, key string, others ...string) (*Guard, error) {
	host, port, err := net.SplitHostPort(at.String())
	if err != nil {
		return nil, err
	}
	ip := net.ParseIP(host)
	local := ip != nil && ip.IsLoopback()
	if !local && key == "" {
		return nil, fmt.Errorf("the address %s can be reached from other machines: that needs a key; leave out --no-key", at)
	}
	g := &Guard{Names: map[string]bool{}, Key: key, cookie: "saltkettle-" + port}
	add := func(name string) {
		if _, _, err := net.SplitHostPort(name); err == nil {
			g.Names[strings.ToLower(name)] = true
			return
		}
		g.Names[strings.ToLower(net.JoinHostPort(name, port))] = true
		if port == "80" {
			g.Names[strings.ToLower(name)] = true
		}
	}
	for _, name := range append([]string{"localhost", "127.0.0.1", "::1"}, others...) {
		add(name)
	}
	if ip != nil && !ip.IsUnspecified() {
		add(host)
	}
	if ip != nil && ip.IsUnspecified() {
		// All addresses of this machine, by number; its names have to be said.
		if list, err := net.InterfaceAddrs(); err == nil {
			for _, a := range list {
				if n, ok := a.(*net.IPNet); ok {
					add(n.IP.String())
				}
			}
		}
	}
	return g, nil
}

// LoadKey returns the key that is kept in a data folder, for its owner alone; it makes one
// where there is none.
func LoadKey(dir string) (string, error) {
	path := filepath.Join(dir, "key")
	data, err := os.ReadFile(path)
	if key := strings.TrimSpace(string(data)); err == nil && len(key) >= 20 {
		return key, nil
	}
	if err != nil && !errors.Is(err, fs.ErrNotExist) {
		return "", fmt.Errorf("the key of the data folder cannot be read: %w", err)
	}
	key := rand.Text()
	if err := os.WriteFile(path, []byte(key+"\n"), 0o600); err != nil {
		return "", fmt.Errorf("the key of the data folder cannot be kept: %w", err)
	}
	return key, nil
}

// Link is the address of a page with the key in it.
func (g *Guard) Link(base string) string {
	if g.Key == "" {
		return base
	}
	return base + "?key=" + g.Key
}

// Handler guards another one.
func (g *Guard) Handler(next http.Handler) http.Handler {
	return http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
		w.Header().Set("X-Content-Type-Options", "nosniff")
		switch {
		case !g.Names[strings.ToLower(r.Host)]:
			refuse(w, http.StatusMisdirectedRequest, "This server does not answer to the name "+r.Host+". If it is one of its own, start it with --name.")
		case foreign(r):
			refuse(w, http.StatusForbidden, "Pages of other sites may not fetch anything here.")
		case g.Key == "" || g.known(r):
			next.ServeHTTP(w, r)
		case g.same(r.URL.Query().Get("key")):
			http.SetCookie(w, &http.Cookie{Name: g.cookie, Value: g.Key, Path: "/", HttpOnly: true, SameSite: http.SameSiteLaxMode, MaxAge: 400 * 86400})
			// On to the page itself, so that the key does not stay in the address. The cookie also
			// comes with a link from elsewhere that somebody follows, and with nothing else.
			query := r.URL.Query()
			query.Del("key")
			to := *r.URL
			to.RawQuery = query.Encode()
			w.Header().Set("Cache-Control", "no-store")
			w.Header().Set("Referrer-Policy", "no-referrer")
			http.Redirect(w, r, to.RequestURI(), http.StatusSeeOther)
		default:
			refuse(w, http.StatusForbidden, "Open the link that the server printed when it started: it has the key that lets you in.")
		}
	})
}

func refuse(w http.ResponseWriter, status int, words string) {
	w.Header().Set("Cache-Control", "no-store")
	http.Error(w, words, status)
}

// foreign says that a page of another site fetches something; a link from there that somebody
// follows is let through.
func foreign(r *http.Request) bool {
	switch r.Header.Get("Sec-Fetch-Site") {
	case "cross-site", "same-site":
		return r.Header.Get("Sec-Fetch-Mode") != "navigate" || r.Header.Get("Sec-Fetch-Dest") != "document" || r.Method != http.MethodGet && r.Method != http.MethodHead
	}
	return false
}

func (g *Guard) known(r *http.Request) bool {
	for _, c := range r.CookiesNamed(g.cookie) {
		if g.same(c.Value) {
			return true
		}
	}
	return false
}

func (g *Guard) same(key string) bool {
	return subtle.ConstantTimeCompare([]byte(key), []byte(g.Key)) == 1
}
