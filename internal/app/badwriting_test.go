package app_test

import (
	"bytes"
	"fmt"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"ebbe.example/ebbe/internal/app"
)

// A letter to five hundred people is one letter, with lines that every server takes, and goes
// to each of them.
func TestALetterToFiveHundred(t *testing.T) {
	w := newWorld(t)
	var to []string
	for n := range 500 {
		to = append(to, fmt.Sprintf("Guide %d <guide%d@x.example>", n, n))
	}
	w.send(nil, func(s *app.Sending) { s.To, s.Cc = to[:400], to[400:] })
	l := w.left()
	assert.Len(t, l.To, 400)
	assert.Len(t, l.Cc, 100)
	w.post.mu.Lock()
	defer w.post.mu.Unlock()
	require.Len(t, w.post.to, 1)
	assert.Len(t, w.post.to[0], 500)
	for line := range bytes.SplitSeq(w.post.sent[0], []byte("\r\n")) {
		require.LessOrEqual(t, len(line), 998, "RFC 5322, 2.1.1")
	}
}

// Pictures in words, writing from right to left and names with signs in them arrive as they
// were written, plain and as a page.
func TestAnyWritingArrives(t *testing.T) {
	const subject, name, text = "🌱 שלום — «Crates, 60 × 98»", `Bram "the van" Oosterhuis, א`, "Dear 👩🏽‍🌾,\n\nשלום לכולם. مرحبا! Grüße 🪴\n"
	for _, markdown := range []bool{false, true} {
		w := newWorld(t)
		w.send(nil, func(s *app.Sending) {
			s.To = []string{`"` + strings.ReplaceAll(name, `"`, `\"`) + `" <bram@freight.example>`}
			s.Subject, s.Text, s.Markdown = subject, text, markdown
		})
		l := w.left()
		assert.Equal(t, []string{subject, name}, []string{l.Subject, l.To[0].Name})
		assert.Equal(t, strings.TrimSpace(text), strings.TrimSpace(l.Text))
		assert.Equal(t, markdown, l.HTML != "")
	}
}

// A page of five megabytes with scripts in it, pasted as text, is sent as text: nothing of it
// runs, and nothing of it is lost.
func TestAHugePageIsPasted(t *testing.T) {
	w := newWorld(t)
	page := "<script>alert(1)</script><p onclick=\"alert(2)\">Crates <b>60 by 98</b></p>\n"
	text := strings.Repeat(page, (5<<20)/len(page))
	w.send(nil, func(s *app.Sending) { s.Text, s.Markdown = text, true })
	l := w.left()
	assert.Equal(t, strings.Count(text, "60 by 98"), strings.Count(l.Text, "60 by 98"))
	assert.NotContains(t, l.HTML, "<script")
	assert.NotContains(t, l.HTML, "onclick=\"")
}

// No field of a letter can add a line to its head.
func TestNoFieldAddsToTheHead(t *testing.T) {
	w := newWorld(t)
	const evil = "x\r\nBcc: everybody@x.example\r\n\r\nbody"
	w.send(nil, func(s *app.Sending) { s.Subject = evil })
	l := w.left()
	head, _, _ := bytes.Cut(w.post.sent[0], []byte("\r\n\r\n"))
	assert.NotContains(t, string(head), "\nBcc:")
	assert.Equal(t, "As asked.", strings.TrimSpace(l.Text))
	for name, change := range map[string]func(*app.Sending){
		"receiver": func(s *app.Sending) { s.To = []string{"bram@freight.example" + evil} },
		"sender":   func(s *app.Sending) { s.From = "ines@norrholm.example" + evil },
		"copy":     func(s *app.Sending) { s.Cc = []string{"Bram" + evil + " <bram@freight.example>"} },
	} {
		n := len(w.post.sent)
		s := app.Sending{Command: "evil-" + name, Draft: "evil-" + name}
		s.Kind, s.From, s.To, s.Subject, s.Text = "new", "ines@norrholm.example", []string{"bram@freight.example"}, "Hello", "As asked."
		change(&s)
		if _, err := w.app.Send(w.ctx, w.who, s); err != nil {
			continue // it is said, and nothing leaves
		}
		w.pass(time.Minute)
		for _, raw := range w.post.sent[n:] {
			head, _, _ := bytes.Cut(raw, []byte("\r\n\r\n"))
			assert.NotContains(t, string(head), "\nBcc:", name)
			assert.NotContains(t, string(head), "\r\nbody", name)
		}
	}
}
