package letter

import (
	"bytes"
	"errors"
	"io"
	"strings"

	"github.com/emersion/go-message"
)

// readPart reads a letter that is over a limit as a stream: its first text,
// and the names and sizes of its parts, whose contents stay where they are.
func (l *Letter) readPart(raw, rest []byte) {
	l.digest = digestOf(rest)
	var page string
	err := stream(raw, func(index int, kind, charset, name string, content io.Reader) error {
		if name == "" && strings.HasPrefix(kind, "text/") && (l.Text == "" || page == "") {
			text, err := io.ReadAll(io.LimitReader(content, keptText))
			if err != nil {
				return err
			}
			if kind == "text/html" {
				page = decodeText(text, charset, true)
			} else if l.Text == "" {
				l.Text = clean(decodeText(text, charset, false))
			}
		}
		size, err := io.Copy(io.Discard, content)
		if name == "" {
			name = nameFor(kind)
		}
		l.Parts = append(l.Parts, Part{Name: name, ContentType: kind, Charset: charset, Size: int(size)})
		return err
	})
	if l.Text == "" && page != "" {
		l.Text = textFromHTML(page)
	}
	if err != nil && l.Text == "" {
		l.Text = printable(rest)
	}
}

// errFound ends a stream early.
var errFound = errors.New("found")

// PartOf gives one part of a letter with its content, also of a letter that
// is shown in part; false if there is no such part.
func PartOf(raw []byte, index int) (Part, bool) {
	l := Parse(raw)
	if index < 0 || index >= len(l.Parts) {
		return Part{}, false
	}
	found := l.Parts[index]
	if found.Content != nil || found.Size == 0 {
		return found, true
	}
	err := stream(raw, func(i int, _, _, _ string, content io.Reader) (err error) {
		if i != index {
			return nil
		}
		buf := bytes.NewBuffer(make([]byte, 0, found.Size))
		if _, err = buf.ReadFrom(content); err == nil {
			found.Content, err = buf.Bytes(), errFound
		}
		return err
	})
	return found, errors.Is(err, errFound)
}

// stream walks the leaves of a letter without keeping any of it in memory, as
// deep and as far as the limits allow.
func stream(raw []byte, leaf func(index int, kind, charset, name string, content io.Reader) error) error {
	entity, err := message.ReadWithOptions(bytes.NewReader(raw), &message.ReadOptions{MaxHeaderBytes: maxHeader})
	if err != nil && !message.IsUnknownCharset(err) && !message.IsUnknownEncoding(err) {
		return err
	}
	index := 0
	var walk func(e *message.Entity, depth int) error
	walk = func(e *message.Entity, depth int) error {
		if parts := e.MultipartReader(); parts != nil && depth < maxDepth {
			for index < maxParts {
				part, err := parts.NextPart()
				if errors.Is(err, io.EOF) {
					return nil
				}
				if err != nil && !message.IsUnknownCharset(err) && !message.IsUnknownEncoding(err) {
					return err
				}
				if err := walk(part, depth+1); err != nil {
					return err
				}
			}
			return nil
		}
		kind, params, err := e.Header.ContentType()
		if err != nil || kind == "" {
			kind = "text/plain"
		}
		_, disposition, err := e.Header.ContentDisposition()
		name := params["name"]
		if err == nil && disposition["filename"] != "" {
			name = disposition["filename"]
		}
		err = leaf(index, strings.ToLower(kind), strings.ToLower(params["charset"]), clean(decodeWords(name)), e.Body)
		index++
		return err
	}
	return walk(entity, 0)
}
