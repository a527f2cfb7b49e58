package api

import (
	"context"
	"crypto/rand"
	"io"
	"mime"
	"net/http"
	"net/url"
	"strconv"
	"sync"
	"time"

	"github.com/danielgtaylor/huma/v2"
	"github.com/gin-gonic/gin"

	"ebbe.example/ebbe/internal/core/letter"
	"ebbe.example/ebbe/internal/core/writing"
	"ebbe.example/ebbe/internal/post"
	"ebbe.example/ebbe/internal/store"
	"ebbe.example/ebbe/internal/work"
)

// What another program shares with Ebbe (Web Share Target) comes without the session, whose
// cookie is SameSite=Strict. So it is laid by for a moment under a name that nobody can guess,
// and the page asks for it from its own origin.

const (
	// sharedFor is how long what was shared is laid by.
	sharedFor = 10 * time.Minute
	// mostShared bounds what is laid by of one share, and of all together, in bytes.
	mostShared, mostSharedInAll = 64 << 20, 128 << 20
)

// Shared is what another program shared: a letter is begun with it.
type Shared struct {
	Subject string       `json:"subject"`
	Text    string       `json:"text"`
	URL     string       `json:"url"`
	Files   []SharedFile `json:"files"`

	at   time.Time
	size int64
}

// SharedFile is a file that was shared.
type SharedFile struct {
	Name string `json:"name"`
	Type string `json:"type"`
	Size int64  `json:"size" doc:"In bytes"`

	content []byte
}

var errTooMuchShared = work.Refuse("Too much is being shared at once. Try again in some minutes.")

// shelf keeps what was shared, in memory.
type shelf struct {
	mu  sync.Mutex
	all map[string]Shared
	// coming is how much is being shared right now, each as large as it may be.
	coming int64
}

// begin keeps room for what is about to come until done is called; ok is false where there
// is none.
func (s *shelf) begin() (done func(), ok bool) {
	s.mu.Lock()
	defer s.mu.Unlock()
	if s.coming+mostShared > mostSharedInAll {
		return nil, false
	}
	s.coming += mostShared
	return func() {
		s.mu.Lock()
		defer s.mu.Unlock()
		s.coming -= mostShared
	}, true
}

// lay keeps something, and gives its name; "" where there is no room.
func (s *shelf) lay(x Shared, now time.Time) string {
	s.mu.Lock()
	defer s.mu.Unlock()
	in := x.size
	for name, other := range s.all {
		if now.Sub(other.at) > sharedFor {
			delete(s.all, name)
			continue
		}
		in += other.size
	}
	if in > mostSharedInAll {
		return ""
	}
	if s.all == nil {
		s.all = map[string]Shared{}
	}
	name := rand.Text()
	x.at = now
	s.all[name] = x
	return name
}

func (s *shelf) of(name string, now time.Time) (Shared, bool) {
	s.mu.Lock()
	defer s.mu.Unlock()
	x, ok := s.all[name]
	return x, ok && now.Sub(x.at) <= sharedFor
}

// share lays by what was shared, and leads to where a letter is begun with it.
func (s *server) share(c *gin.Context, _ store.Who) error {
	done, ok := s.shared.begin()
	if !ok {
		return errTooMuchShared
	}
	defer done()
	c.Request.Body = io.NopCloser(patient{http.MaxBytesReader(c.Writer, c.Request.Body, mostShared), http.NewResponseController(c.Writer)})
	parts, err := c.Request.MultipartReader()
	if err != nil {
		return work.Invalid("files", "That is nothing that can be shared.")
	}
	x := Shared{Files: []SharedFile{}}
	for {
		part, err := parts.NextPart()
		if err == io.EOF {
			break
		}
		if err != nil {
			return work.Refuse("What was shared did not come whole, or is larger than %d MB. Nothing was begun.", mostShared>>20)
		}
		content, err := io.ReadAll(part)
		if err != nil {
			return work.Refuse("What was shared did not come whole, or is larger than %d MB. Nothing was begun.", mostShared>>20)
		}
		x.size += int64(len(content))
		switch name := part.FormName(); {
		case name == "files" && len(x.Files) < writing.MostFiles:
			kind, _, err := mime.ParseMediaType(part.Header.Get("Content-Type"))
			if err != nil {
				kind = "application/octet-stream"
			}
			x.Files = append(x.Files, SharedFile{post.FileName(part.FileName()), kind, int64(len(content)), content})
		case name == "subject":
			x.Subject = string(content)
		case name == "text":
			x.Text = string(content)
		case name == "url":
			x.URL = string(content)
		}
	}
	name := s.shared.lay(x, time.Now())
	if name == "" {
		return errTooMuchShared
	}
	c.Redirect(http.StatusSeeOther, "/write?shared="+url.QueryEscape(name))
	return nil
}

func (s *server) describeShared(a huma.API) {
	operation(s, a, http.MethodGet, "/api/shared/{name}", "shared", "What another program shared", func(_ context.Context, _ store.Who, in *struct {
		Name string `path:"name" maxLength:"100"`
	}) (Shared, error) {
		x, ok := s.shared.of(in.Name, time.Now())
		if !ok {
			return x, work.Gone("What was shared is no longer there. Share it once more.")
		}
		return x, nil
	})
}

func (s *server) sharedFile(c *gin.Context, _ store.Who) error {
	x, ok := s.shared.of(c.Param("name"), time.Now())
	i, err := strconv.Atoi(c.Param("index"))
	if !ok || err != nil || i < 0 || i >= len(x.Files) {
		return errNoSuchThing
	}
	f := x.Files[i]
	servePart(c, letter.Part{Name: f.Name, ContentType: f.Type, Content: f.content})
	return nil
}

// shareRoutes are where other programs share to, and the files that they shared.
func (s *server) shareRoutes() []rawRoute {
	return []rawRoute{
		{http.MethodPost, "/share", "share", "Share text and files with Ebbe (Web Share Target); leads to a letter that is begun with them", nil, "multipart/form-data", "text/html", true, s.share},
		{http.MethodGet, "/api/shared/{name}/{index}", "shared-file", "A file that another program shared", nil, "", "application/octet-stream", false, s.sharedFile},
	}
}
