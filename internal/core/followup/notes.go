package followup

import (
	"bytes"
	"fmt"

	"github.com/microcosm-cc/bluemonday"
	"github.com/yuin/goldmark"
	"github.com/yuin/goldmark/extension"
	"github.com/yuin/goldmark/renderer/html"
)

var (
	markdown = goldmark.New(goldmark.WithExtensions(extension.Linkify, extension.Strikethrough, extension.Table, extension.TaskList), goldmark.WithRendererOptions(html.WithHardWraps()))
	safe     = func() *bluemonday.Policy {
		p := bluemonday.NewPolicy()
		p.AllowStandardURLs()
		p.AllowLists()
		p.AllowTables()
		p.AllowElements("p", "br", "hr", "h1", "h2", "h3", "h4", "h5", "h6", "strong", "em", "del", "code", "pre", "blockquote")
		p.AllowAttrs("href").OnElements("a")
		p.AllowAttrs("type", "checked", "disabled").OnElements("input")
		p.RequireNoReferrerOnLinks(true)
		p.AddTargetBlankToFullyQualifiedLinks(true)
		return p
	}()
)

// NotesHTML renders notes (CommonMark) as HTML that can run nothing. Pictures
// are left out: they would be fetched.
func NotesHTML(notes string) (string, error) {
	var b bytes.Buffer
	if err := markdown.Convert([]byte(notes), &b); err != nil {
		return "", fmt.Errorf("render notes: %w", err)
	}
	return safe.Sanitize(b.String()), nil
}
