package api

import (
	"encoding/json"
	"fmt"
	"net/http"
	"time"

	"github.com/gin-gonic/gin"

	"ebbe.example/ebbe/internal/store"
)

const (
	// heartbeat keeps a stream open through anything that closes silent ones. At
	// each one it is asked whether its session still stands.
	heartbeat = 25 * time.Second
	// patience is how long a client may take to read or write a piece.
	patience = 30 * time.Second
)

// events streams what changes, as server-sent events, as long as the session
// lasts.
func (s *server) events(c *gin.Context, who store.Who) error {
	token, _ := c.Cookie(cookieName)
	news, stop := s.App.Listen(who)
	defer stop()
	ended, forget := s.streams.begin(token)
	defer forget()
	c.Header("Content-Type", "text/event-stream")
	c.Header("X-Accel-Buffering", "no")
	c.Status(http.StatusOK)
	control := http.NewResponseController(c.Writer)
	say := func(text string) bool {
		_ = control.SetWriteDeadline(time.Now().Add(patience))
		_, err := c.Writer.WriteString(text)
		c.Writer.Flush()
		return err == nil
	}
	if !say("event: ready\ndata: {}\n\n") {
		return nil
	}
	beat := time.NewTicker(heartbeat)
	defer beat.Stop()
	for {
		select {
		case <-c.Request.Context().Done():
			return nil
		case <-ended:
			say("event: signed-out\ndata: {}\n\n")
			return nil
		case n := <-news:
			data, err := json.Marshal(n)
			if err != nil || !say(fmt.Sprintf("event: change\ndata: %s\n\n", data)) {
				return nil //nolint:nilerr // the page has gone, or asks anew
			}
		case <-beat.C:
			if s.personOf(c.Request.Context(), token) != who.Person || !say(": still here\n\n") {
				return nil
			}
		}
	}
}
