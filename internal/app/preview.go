package app

import (
	"context"
	"errors"
	"strings"
	"unicode/utf8"

	"ebbe.example/ebbe/internal/core/attached"
	"ebbe.example/ebbe/internal/core/filetext"
	"ebbe.example/ebbe/internal/core/letter"
	"ebbe.example/ebbe/internal/say"
	"ebbe.example/ebbe/internal/store"
)

// Preview is what is shown of a file without opening it.
type Preview struct {
	Shows string     `json:"shows" enum:"picture,text,table,nothing"`
	Text  string     `json:"text,omitempty" doc:"Of a PDF its first page"`
	Rows  [][]string `json:"rows,omitempty"`
	More  bool       `json:"more,omitempty" doc:"There is more of it"`
	Says  string     `json:"says,omitempty" doc:"Why nothing is shown, or not all"`
}

// mostPreview is how much text is shown of a file, in bytes.
const mostPreview = 8000

// pictures are the media types that every browser draws.
var pictures = map[string]bool{"image/png": true, "image/jpeg": true, "image/gif": true, "image/webp": true}

// Preview shows the beginning of a file of a letter.
func (a *App) Preview(ctx context.Context, who store.Who, id int64, index int) (Preview, error) {
	part, err := a.PartOf(ctx, who, id, index)
	if err != nil {
		return Preview{}, err
	}
	if pictures[part.ContentType] {
		return Preview{Shows: "picture"}, nil
	}
	if attached.InRows(part.Name, part.ContentType) {
		rows, more := attached.Rows(letter.DecodeText(part.Content, part.Charset))
		return Preview{Shows: "table", Rows: rows, More: more}, nil
	}
	words, more, err := a.FileWords(ctx, who, part)
	if err != nil {
		return Preview{}, err
	}
	if words != "" {
		text, cut := firstPage(words)
		return Preview{Shows: "text", Text: text, More: more || cut}, nil
	}
	if !filetext.Readable(part.Name, part.ContentType) {
		return Preview{Shows: "nothing", Says: "Nothing of such a file can be shown here."}, nil
	}
	if a.Texts == nil {
		return Preview{Shows: "nothing", Says: "Files are not read here."}, nil
	}
	text, err := a.Texts.Read(ctx, part.Name, part.ContentType, part.Content)
	out := Preview{Shows: "text"}
	if err != nil {
		if errors.Is(err, context.Canceled) {
			return out, err
		}
		out.Says = say.Sentence(err)
	}
	out.Text, out.More = firstPage(text)
	if strings.TrimSpace(out.Text) == "" {
		out.Shows = "nothing"
		if out.Says == "" {
			out.Says = "There is no text in it."
		}
	}
	return out, nil
}

// firstPage is the first page of a text that has any, and not too much of it.
func firstPage(text string) (first string, more bool) {
	first, rest, _ := strings.Cut(text, filetext.PageEnd)
	more = strings.TrimSpace(rest) != ""
	if len(first) > mostPreview {
		n := mostPreview
		for n > 0 && !utf8.RuneStart(first[n]) {
			n--
		}
		first, more = first[:n], true
	}
	return strings.TrimSpace(first), more
}
