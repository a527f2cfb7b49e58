package lists_test

import (
	"bytes"
	"context"
	"io"
	"net"
	"net/http"
	"net/http/httptest"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"ebbe.example/ebbe/internal/lists"
	"ebbe.example/ebbe/internal/postoffice/listserver"
)

// outside is what reaches a server of the test under any name.
func outside(t *testing.T, take http.HandlerFunc) (lists.Outside, string) {
	t.Helper()
	server := httptest.NewTLSServer(take)
	t.Cleanup(server.Close)
	roots := server.Client().Transport.(*http.Transport).TLSClientConfig.RootCAs //nolint:forcetypeassert // it is
	dial := func(ctx context.Context, network, _ string) (net.Conn, error) {
		return (&net.Dialer{}).DialContext(ctx, network, server.Listener.Addr().String())
	}
	return lists.Outside{Dial: dial, Roots: roots, Wait: 5 * time.Second}, "https://example.com/leave?me=1" // the name of its certificate
}

// A list is left by one POST of exactly that body, without cookies, and no redirect is followed.
func TestLeaving(t *testing.T) {
	var asked []*http.Request
	var said string
	status := http.StatusOK
	o, address := outside(t, func(w http.ResponseWriter, r *http.Request) {
		body, _ := io.ReadAll(r.Body)
		asked, said = append(asked, r), string(body)
		w.Header().Set("Set-Cookie", "who=me")
		if status == http.StatusFound {
			w.Header().Set("Location", "/elsewhere")
		}
		w.WriteHeader(status)
		_, _ = w.Write(bytes.Repeat([]byte("thank you "), 100_000))
	})
	require.NoError(t, o.Leave(t.Context(), address))
	require.Len(t, asked, 1)
	assert.Equal(t, []string{"POST", "/leave", "application/x-www-form-urlencoded", "List-Unsubscribe=One-Click", ""},
		[]string{asked[0].Method, asked[0].URL.Path, asked[0].Header.Get("Content-Type"), said, asked[0].Header.Get("Cookie")})
	for code, want := range map[int]string{http.StatusFound: "302", http.StatusNotFound: "404", http.StatusInternalServerError: "500"} {
		asked, status = nil, code
		assert.ErrorContains(t, o.Leave(t.Context(), address), want)
		assert.Len(t, asked, 1)
	}
	for _, bad := range []string{"http://example.com/", "javascript:alert(1)", "file:///etc/passwd", "https://", "://"} {
		assert.Error(t, o.Leave(t.Context(), bad), bad)
	}
	assert.ErrorContains(t, lists.Outside{Dial: o.Dial}.Leave(t.Context(), address), "certificate", "whom nobody knows")
}

// A list that takes the question and says nothing is given up.
func TestAListThatHangs(t *testing.T) {
	over := make(chan bool)
	o, address := outside(t, func(http.ResponseWriter, *http.Request) { <-over })
	defer close(over) // before the server is closed, which waits for it
	o.Wait = 50 * time.Millisecond
	assert.ErrorContains(t, o.Leave(t.Context(), address), "could not be reached")
}

// Nothing of this machine or its network is reached, by whatever name.
func TestNothingInsideIsReached(t *testing.T) {
	called := false
	server := httptest.NewTLSServer(http.HandlerFunc(func(http.ResponseWriter, *http.Request) { called = true }))
	t.Cleanup(server.Close)
	_, port, err := net.SplitHostPort(server.Listener.Addr().String())
	require.NoError(t, err)
	for _, host := range []string{"127.0.0.1", "localhost", "[::1]", "[::ffff:127.0.0.1]", "0.0.0.0", "10.0.0.1", "192.168.1.1", "169.254.169.254", "100.64.0.1", "[fe80::1]", "[fd00::1]", "224.0.0.1"} {
		assert.ErrorContains(t, lists.Outside{Wait: time.Second}.Leave(t.Context(), "https://"+host+":"+port+"/"), "inside this network", host)
	}
	assert.False(t, called)
}

// A signature has to hold, and to cover both fields, of which there is one each.
func TestSigned(t *testing.T) {
	l := listserver.List{Name: "Moss", Address: "letters@moss.example", OneClick: true, Issues: []listserver.Issue{{Subject: "One", Text: "Text."}}}
	server := &listserver.Server{Lists: []listserver.List{l}, Now: time.Now}
	require.NoError(t, server.Start())
	t.Cleanup(func() { assert.NoError(t, server.Stop()) })
	o := lists.Outside{LookupTXT: server.LookupTXT}
	raw, err := server.Letter(l, "me@x.example", 0)
	require.NoError(t, err)
	assert.True(t, o.Signed(raw))
	with := func(was, now string) []byte {
		out := strings.Replace(string(raw), was, now, 1)
		require.NotEqual(t, string(raw), out)
		return []byte(out)
	}
	assert.False(t, o.Signed(with("Text.", "Text!")), "the text is another")
	assert.False(t, o.Signed(with("<https://moss.example/", "<https://other.example/")), "the address is another")
	assert.False(t, o.Signed(with("From: Moss", "List-Unsubscribe: <https://other.example/>\r\nFrom: Moss")), "one more, above the one that is signed")
	assert.False(t, o.Signed(with(":List-Unsubscribe:", ":")), "it is not covered")
	assert.False(t, lists.Outside{LookupTXT: func(string) ([]string, error) { return nil, io.EOF }}.Signed(raw), "no key")
	assert.False(t, o.Signed([]byte("no letter")))
	unsigned := l
	unsigned.OneClick = false
	raw, err = server.Letter(unsigned, "me@x.example", 0)
	require.NoError(t, err)
	assert.False(t, o.Signed(raw), "it says nothing of one click")
}
