package api

import (
	"bytes"
	"compress/gzip"
	"encoding/json"
	"net/http"
	"strconv"
	"strings"
	"sync"

	"github.com/gin-gonic/gin"
	"github.com/klauspost/compress/gzhttp"
)

// The page asks for these as soon as it runs. Whoever opens it and is signed in gets
// the answers along with it, so that it can be drawn at once, with its rows.
const (
	firstSession = "/api/session"
	firstList    = "/api/places/inbox?cursor=&oldest=false"
)

var firstAsked = []string{"/api/overview", "/api/accounts", "/api/day?away=0"}

// firstMark stands in the built page where the answers go.
const firstMark = "<!--first-->"

// answer is what a handler answers within another.
type answer struct {
	header http.Header
	body   bytes.Buffer
	status int
}

func (a *answer) Header() http.Header         { return a.header }
func (a *answer) Write(b []byte) (int, error) { return a.body.Write(b) }
func (a *answer) WriteHeader(status int)      { a.status = status }

// ask asks this server as whoever has sent the request does.
func (s *server) ask(r *http.Request, path string) (json.RawMessage, bool) {
	inner, err := http.NewRequestWithContext(r.Context(), http.MethodGet, path, nil)
	if err != nil {
		return nil, false
	}
	inner.Host, inner.RemoteAddr, inner.Header = r.Host, r.RemoteAddr, http.Header{"Cookie": r.Header["Cookie"]}
	got := &answer{header: http.Header{}, status: http.StatusOK}
	s.engine.ServeHTTP(got, inner)
	return got.body.Bytes(), got.status == http.StatusOK
}

// packing packs answers that are long enough to be worth it; not what flows, such as
// events.
func packing(h http.Handler) http.Handler {
	wrap, err := gzhttp.NewWrapper(gzhttp.MinSize(4<<10), gzhttp.CompressionLevel(gzip.BestSpeed), gzhttp.ContentTypes([]string{"application/json", "text/html"}))
	if err != nil {
		panic(err) // its options are always the same
	}
	return wrap(h)
}

// withFirst puts the first answers into the page, where somebody is signed in; else
// they would be of no use. What can't be told now is asked for by the page itself.
func (s *server) withFirst(c *gin.Context, page []byte) (_ []byte, told bool) {
	var who SessionView
	session, ok := s.ask(c.Request, firstSession)
	if !ok || json.Unmarshal(session, &who) != nil || who.Me == nil {
		return page, false
	}
	answers := map[string]json.RawMessage{firstSession: session}
	var mu sync.Mutex
	ask := func(path string) json.RawMessage {
		body, ok := s.ask(c.Request, path)
		if !ok {
			return nil
		}
		mu.Lock()
		defer mu.Unlock()
		answers[path] = body
		return body
	}
	var asking sync.WaitGroup
	for _, path := range firstAsked {
		asking.Go(func() { ask(path) })
	}
	asking.Go(func() { // with the letter that is opened in it
		var list struct{ Rows []struct{ ID int64 } }
		if json.Unmarshal(ask(firstList), &list) == nil && len(list.Rows) > 0 {
			ask("/api/conversations/" + strconv.FormatInt(list.Rows[0].ID, 10))
		}
	})
	asking.Wait()
	text, err := json.Marshal(answers) // which writes < as an escape, so that nothing in it ends the element
	if err != nil {
		return page, false
	}
	return []byte(strings.Replace(string(page), firstMark, `<script type="application/json" id="first">`+string(text)+`</script>`, 1)), true
}
