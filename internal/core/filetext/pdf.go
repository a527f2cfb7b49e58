package filetext

import (
	"bytes"
	"errors"
	"fmt"
	"strings"

	"github.com/ledongthuc/pdf"
)

// maxPages are the pages of a PDF that are read, maxNested how deep they may be nested.
const (
	maxPages  = 2000
	maxNested = 40
)

// pdfText reads the text of a PDF (ISO 32000) page by page; one that can't be read is no matter of the
// others.
func pdfText(data []byte, out *text) error {
	r, err := pdf.NewReader(bytes.NewReader(data), int64(len(data)))
	if errors.Is(err, pdf.ErrInvalidPassword) || err != nil && bytes.Contains(data, []byte("/Encrypt")) {
		return ErrEncrypted
	}
	if err != nil {
		return err
	}
	p := pages{out: out}
	err = p.under(r.Trailer().Key("Root").Key("Pages"), 0)
	if err == nil && p.read == 0 {
		err = p.failed
	}
	return err
}

// pages are those of a document. They are gone through as they are nested: the library finds a page by its
// number only by going through all before it.
type pages struct {
	out     *text
	n, read int
	failed  error
}

func (p *pages) under(node pdf.Value, depth int) error {
	kids := node.Key("Kids")
	if kids.Kind() != pdf.Array {
		return p.page(node)
	}
	if depth > maxNested {
		return ErrTooLarge
	}
	for i := range kids.Len() {
		if err := p.under(kids.Index(i), depth+1); err != nil {
			return err
		}
	}
	return nil
}

func (p *pages) page(v pdf.Value) error {
	if p.n++; p.n > maxPages {
		return ErrTooLarge
	}
	says, err := pageText(pdf.Page{V: v})
	if err != nil {
		p.failed = fmt.Errorf("page %d: %w", p.n, err)
		return nil
	}
	p.read++
	return p.out.add(says + PageEnd)
}

// apart is how far letters are moved, in thousandths of their size, where that is a blank: a PDF need not
// have any.
const apart = -180

// pageText is what a page shows, by its operators of text (ISO 32000-1, 9.4).
func pageText(page pdf.Page) (says string, err error) {
	defer func() {
		if p := recover(); p != nil {
			err = fmt.Errorf("%v", p)
		}
	}()
	content := page.V.Key("Contents")
	if content.IsNull() {
		return "", nil
	}
	var b strings.Builder
	fonts := map[string]pdf.TextEncoding{}
	var font pdf.TextEncoding
	show := func(v pdf.Value) {
		if font == nil {
			b.WriteString(v.RawString())
			return
		}
		b.WriteString(font.Decode(v.RawString()))
	}
	pdf.Interpret(content, func(stack *pdf.Stack, operator string) {
		args := make([]pdf.Value, stack.Len())
		for i := range args {
			args[len(args)-1-i] = stack.Pop()
		}
		switch operator {
		case "BT", "T*", "Td", "TD", "Tm":
			if operator == "Td" && len(args) == 2 && args[1].Float64() == 0 { // on the same line
				b.WriteByte(' ')
				return
			}
			b.WriteByte('\n')
		case "Tf":
			if len(args) != 2 {
				return
			}
			name := args[0].Name()
			if fonts[name] == nil {
				f := page.Font(name)
				fonts[name] = f.Encoder()
			}
			font = fonts[name]
		case "'", "\"":
			b.WriteByte('\n')
			fallthrough
		case "Tj":
			if len(args) > 0 {
				show(args[len(args)-1])
			}
		case "TJ":
			if len(args) == 0 {
				return
			}
			for i := range args[0].Len() {
				v := args[0].Index(i)
				if v.Kind() == pdf.String {
					show(v)
				} else if v.Float64() < apart {
					b.WriteByte(' ')
				}
			}
		}
	})
	return b.String(), nil
}
