package web_test

import (
	"bytes"
	"fmt"
	"io"
	"log/slog"
	"net"
	"net/http"
	"net/http/httptest"
	"net/url"
	"path/filepath"
	"regexp"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"valleyside/demo"
	"valleyside/store"
	"valleyside/web"
)

// Private pages stay out of caches and indexes, HEAD is GET without a body, and
// the address of a link is the one that was set, whatever the browser says.
func TestHeadersAndAddresses(t *testing.T) {
	t.Parallel()
	st, err := store.Open(t.Context(), filepath.Join(t.TempDir(), "test.db"))
	require.NoError(t, err)
	defer st.Close()
	require.NoError(t, demo.Fill(t.Context(), st, noon))
	_, proxy, err := net.ParseCIDR("127.0.0.0/8")
	require.NoError(t, err)
	s, err := web.New(web.Config{Store: st, Now: func() time.Time { return noon }, Secure: true, PublicURL: "https://lessons.example/", TrustedProxies: []*net.IPNet{proxy}})
	require.NoError(t, err)
	defer s.Close()
	server := httptest.NewTLSServer(s)
	defer server.Close()
	h := &house{t: t, store: st, server: s, http: server}
	v := h.visitor()
	v.client.Transport = server.Client().Transport
	page := v.get("/sign-in")
	assert.Equal(t, "no-store", page.Header.Get("Cache-Control"))
	assert.Contains(t, page.Header.Get("X-Robots-Tag"), "noindex")
	assert.Contains(t, page.Header.Get("Strict-Transport-Security"), "max-age=")
	head, err := v.client.Head(server.URL + "/sign-in")
	require.NoError(t, err)
	body, err := io.ReadAll(head.Body)
	require.NoError(t, err)
	head.Body.Close()
	assert.Equal(t, http.StatusOK, head.StatusCode)
	assert.Empty(t, body)
	assert.Equal(t, page.Header.Get("Content-Type"), head.Header.Get("Content-Type"))

	require.Equal(t, http.StatusSeeOther, v.post("/sign-in", url.Values{"email": {demo.Email}, "password": {demo.Password}}).StatusCode)
	v.get("/students/1")
	v.post("/students/1/links", nil)
	assert.Regexp(t, regexp.MustCompile(`https://lessons\.example/s/[\w-]{22}<`), v.get("/students/1").body)

	// A stranger behind the proxy uses up their own tries.
	try := func(from string) int {
		visitor := h.visitor()
		visitor.client.Transport = server.Client().Transport
		visitor.get("/sign-in")
		form := url.Values{"email": {demo.Email}, "password": {"a guess"}, "_csrf": {visitor.csrf}}
		r, err := http.NewRequest("POST", server.URL+"/sign-in?"+form.Encode(), nil)
		require.NoError(t, err)
		r.Header.Set("X-Forwarded-For", from)
		r.Header.Set("X-CSRF-Token", visitor.csrf)
		r.Header.Set("Referer", server.URL+"/sign-in")
		res, err := visitor.client.Do(r)
		require.NoError(t, err)
		res.Body.Close()
		return res.StatusCode
	}
	for range 8 {
		assert.Equal(t, http.StatusUnprocessableEntity, try("203.0.113.5"))
	}
	for range 120 { // as often as it likes: it uses up nobody else's tries
		assert.Equal(t, http.StatusTooManyRequests, try("203.0.113.5"))
	}
	assert.Equal(t, http.StatusUnprocessableEntity, try("198.51.100.7"))
}

// The log says with which status a request was answered, and nothing of who asked:
// what is not there is no error of the program.
func TestTheLog(t *testing.T) {
	st, err := store.Open(t.Context(), filepath.Join(t.TempDir(), "test.db"))
	require.NoError(t, err)
	defer st.Close()
	require.NoError(t, demo.Fill(t.Context(), st, noon))
	var log bytes.Buffer
	s, err := web.New(web.Config{Store: st, Now: func() time.Time { return noon }, Log: slog.New(slog.NewTextHandler(&log, nil))})
	require.NoError(t, err)
	defer s.Close()
	server := httptest.NewServer(s)
	defer server.Close()
	h := &house{t: t, store: st, server: s, http: server}
	token, _ := h.link("Saskia")
	v := h.marit()
	for path, want := range map[string]int{"/songs/999": 404, "/nowhere": 404, "/songs/1": 200, "/s/" + token: 200, "/s/" + token + "x": 404} {
		log.Reset()
		require.Equal(t, want, v.get(path).StatusCode, path)
		assert.Contains(t, log.String(), fmt.Sprintf("status=%d", want), path)
		assert.Contains(t, log.String(), "level=INFO", path)
		assert.NotContains(t, log.String(), token)
		assert.NotContains(t, log.String(), demo.Email)
	}
}
