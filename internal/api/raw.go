package api

import (
	"encoding/json"
	"fmt"
	"mime"
	"net/http"
	"strconv"
	"time"

	"github.com/gin-gonic/gin"

	"ebbe.example/ebbe/internal/post"
)

// raw registers what is not JSON: letters' own pages, attachments, originals,
// and the stream of changes.
func (s *server) raw(r *gin.Engine) {
	r.GET("/api/letters/:id/page", s.letterPage)
	r.GET("/api/letters/:id/parts/:index", s.letterPart)
	r.GET("/api/letters/:id/original", s.letterOriginal)
	r.GET("/api/events", s.events)
	s.rawFiles(r)
}

func (s *server) letterID(c *gin.Context) (owner, id int64, ok bool) {
	owner = ownerOf(c.Request.Context())
	id, err := strconv.ParseInt(c.Param("id"), 10, 64)
	if owner == 0 || err != nil {
		c.Status(http.StatusNotFound)
		return 0, 0, false
	}
	return owner, id, true
}

// letterStyle is how a letter's page looks where the letter itself says
// nothing. Letters bring their own colours, so their paper stays light.
const letterStyle = `<style>@font-face{font-family:Newsreader;src:url(/assets/newsreader-latin-wght-normal.woff2);font-weight:200 800}
html{background:#FDFDFA;color:#15282C;font:17px/1.55 Newsreader,Georgia,serif;overflow-wrap:anywhere}
body{margin:0;padding:2px}img{max-width:100%;height:auto}table{max-width:100%}a{color:#0C6A70}blockquote{margin:0 0 0 .5em;padding-left:.8em;border-left:2px solid #D3DAD3;color:#4C5F63}
pre{white-space:pre-wrap}summary{cursor:pointer;font:13px sans-serif;color:#4C5F63;margin:.5em 0}img[data-blocked]{display:inline-block;min-width:2em;min-height:1em;background:#E6EAE4;outline:1px dashed #B5C0B8}</style>`

// letterPage serves a letter's HTML on its own page, under a policy that runs
// nothing and fetches nothing but, if asked for, images.
func (s *server) letterPage(c *gin.Context) {
	owner, id, ok := s.letterID(c)
	if !ok {
		return
	}
	remote := c.Query("images") == "1"
	html, err := s.App.Page(c.Request.Context(), owner, id, remote, func(index int) string {
		return fmt.Sprintf("/api/letters/%d/parts/%d", id, index)
	})
	if err != nil {
		c.Status(http.StatusNotFound)
		return
	}
	images := "img-src 'self' data:"
	if remote {
		images += " https: http:"
	}
	c.Header("Content-Security-Policy", "default-src 'none'; style-src 'unsafe-inline'; font-src 'self'; "+images+
		"; base-uri 'none'; form-action 'none'; frame-ancestors 'self'; sandbox allow-same-origin allow-popups allow-popups-to-escape-sandbox")
	c.Data(http.StatusOK, "text/html; charset=utf-8", []byte("<!doctype html><html><head><meta charset=\"utf-8\"><base target=\"_blank\">"+letterStyle+"</head><body>"+html+"</body></html>"))
}

// shown are the types that a browser may show in place; everything else is
// saved. None of them can run anything, and the policy forbids it besides.
var shown = map[string]bool{
	"image/png": true, "image/jpeg": true, "image/gif": true, "image/webp": true, "application/pdf": true, "text/plain": true,
}

// letterPart serves an attachment so that none runs.
func (s *server) letterPart(c *gin.Context) {
	owner, id, ok := s.letterID(c)
	if !ok {
		return
	}
	index, err := strconv.Atoi(c.Param("index"))
	if err != nil {
		c.Status(http.StatusNotFound)
		return
	}
	part, err := s.App.PartOf(c.Request.Context(), owner, id, index)
	if err != nil {
		c.Status(http.StatusNotFound)
		return
	}
	kind, disposition := part.ContentType, "inline"
	if !shown[kind] || c.Query("save") == "1" {
		disposition = "attachment"
	}
	if !shown[kind] {
		kind = "application/octet-stream"
	}
	if kind == "text/plain" {
		kind += "; charset=utf-8"
	}
	c.Header("Content-Disposition", mime.FormatMediaType(disposition, map[string]string{"filename": post.FileName(part.Name)}))
	if kind != "application/pdf" { // a browser's own PDF reader will not start in a sandbox
		c.Header("Content-Security-Policy", "default-src 'none'; style-src 'unsafe-inline'; sandbox")
	} else {
		c.Header("Content-Security-Policy", "default-src 'none'; object-src 'self'; plugin-types application/pdf; style-src 'unsafe-inline'")
	}
	c.Data(http.StatusOK, kind, part.Content)
}

// letterOriginal serves a letter byte for byte.
func (s *server) letterOriginal(c *gin.Context) {
	owner, id, ok := s.letterID(c)
	if !ok {
		return
	}
	raw, err := s.App.Original(c.Request.Context(), owner, id)
	if err != nil {
		c.Status(http.StatusNotFound)
		return
	}
	l, err := s.App.ReadLetter(c.Request.Context(), owner, id)
	if err != nil {
		c.Status(http.StatusNotFound)
		return
	}
	c.Header("Content-Disposition", mime.FormatMediaType("attachment", map[string]string{"filename": post.FileName(l.Subject) + ".eml"}))
	c.Data(http.StatusOK, "application/octet-stream", raw)
}

// heartbeat keeps a stream open through anything that closes silent ones.
const heartbeat = 25 * time.Second

// events streams what changes, as server-sent events.
func (s *server) events(c *gin.Context) {
	owner := ownerOf(c.Request.Context())
	if owner == 0 {
		c.Status(http.StatusUnauthorized)
		return
	}
	news, stop := s.App.Listen(owner)
	defer stop()
	c.Header("Content-Type", "text/event-stream")
	c.Header("X-Accel-Buffering", "no")
	c.Writer.WriteString("event: ready\ndata: {}\n\n")
	c.Writer.Flush()
	beat := time.NewTicker(heartbeat)
	defer beat.Stop()
	for {
		select {
		case <-c.Request.Context().Done():
			return
		case n := <-news:
			data, err := json.Marshal(n)
			if err != nil {
				return
			}
			fmt.Fprintf(c.Writer, "event: change\ndata: %s\n\n", data)
		case <-beat.C:
			c.Writer.WriteString(": still here\n\n")
		}
		c.Writer.Flush()
	}
}
