package letter

import (
	"bytes"
	"crypto/sha256"
	"hash"
	"html"
	"strings"

	"github.com/jhillyerd/enmime/v2"
	"github.com/jhillyerd/enmime/v2/mediatype"
)

// body is what a letter carries below its header, put together the way a
// reader shows it.
type body struct {
	root   *enmime.Part
	text   string
	html   string
	parts  []Part
	seal   Seal
	damage string
	// leaves are the decoded contents in their order; Identity is made of them.
	leaves []*enmime.Part
}

// assemble walks the tree of parts (RFC 2046) and sorts them into what is read
// and what is attached.
func assemble(root *enmime.Part) body {
	b := body{root: root}
	var r reading
	b.walk(root, &r)
	b.text, b.html = r.plain(), clean(r.markup())
	b.seal = b.seal.orInline(b.text)
	for i := range b.parts {
		// An inline part that nothing refers to is an attachment to a reader.
		p := &b.parts[i]
		p.Inline = p.ContentID != "" && (strings.Contains(b.html, "cid:"+p.ContentID) || strings.Contains(b.html, "cid:"+strings.ReplaceAll(p.ContentID, "@", "%40")))
	}
	return b
}

// reading collects the text that is read, in order, plain and as HTML.
type reading struct {
	texts  []string
	pages  []string // one for each text: its HTML, or ""
	asHTML bool
}

func (r *reading) add(text, page string) {
	r.texts, r.pages = append(r.texts, text), append(r.pages, page)
	r.asHTML = r.asHTML || page != ""
}

// plain is the reading as plain text, made of the HTML where there is no other.
func (r *reading) plain() string {
	var out []string
	for i, text := range r.texts {
		if text == "" {
			text = textFromHTML(r.pages[i])
		}
		if text != "" {
			out = append(out, text)
		}
	}
	return clean(strings.Join(out, "\n\n"))
}

// markup is the reading as one page; "" if none of it is HTML.
func (r *reading) markup() string {
	if !r.asHTML {
		return ""
	}
	var out strings.Builder
	for i, page := range r.pages {
		if page == "" && strings.TrimSpace(r.texts[i]) != "" {
			page = "<pre>" + html.EscapeString(r.texts[i]) + "</pre>"
		}
		out.WriteString(page)
	}
	return out.String()
}

func (b *body) walk(p *enmime.Part, r *reading) {
	for _, e := range p.Errors {
		if e.Severe && b.damage == "" {
			b.damage = "a part could not be read: " + strings.ToLower(e.Name)
		}
	}
	kind := strings.ToLower(p.ContentType)
	if p.FirstChild == nil {
		b.leaf(p, kind, r)
		return
	}
	children := childrenOf(p)
	b.seal = b.seal.or(sealOf(kind, paramsOf(p)))
	switch kind {
	case "multipart/alternative":
		b.alternative(children, r)
	case "multipart/digest":
		for _, c := range children {
			if c.Header.Get("Content-Type") == "" { // RFC 2046, 5.1.5
				c.ContentType = "message/rfc822"
			}
			b.walk(c, r)
		}
	default:
		for _, c := range children {
			b.walk(c, r)
		}
	}
}

// paramsOf are the parameters of a part's type; none where it can't be read.
func paramsOf(p *enmime.Part) map[string]string {
	_, params, _, err := mediatype.Parse(p.Header.Get("Content-Type"))
	if err != nil {
		return nil
	}
	return params
}

func childrenOf(p *enmime.Part) []*enmime.Part {
	var out []*enmime.Part
	for c := p.FirstChild; c != nil; c = c.NextSibling {
		out = append(out, c)
	}
	return out
}

// alternative takes the last plain text and the last HTML that are offered;
// what else is offered (a calendar) is attached.
func (b *body) alternative(children []*enmime.Part, r *reading) {
	var text, page string
	for _, c := range children {
		var one reading
		b.walk(c, &one)
		if m := one.markup(); m != "" {
			page = m
		} else if t := strings.Join(one.texts, "\n\n"); strings.TrimSpace(t) != "" {
			text = t
		}
	}
	if text != "" || page != "" {
		r.add(text, page)
	}
}

// leaf sorts a part without children: it is read, or attached. A text is read
// although it has a name or is marked "inline"; it can be saved as well then.
func (b *body) leaf(p *enmime.Part, kind string, r *reading) {
	b.leaves = append(b.leaves, p)
	b.seal = b.seal.or(sealOf(kind, paramsOf(p)))
	content, whole := transferred(p.Content, p.Header.Get("Content-Transfer-Encoding"))
	p.Content = content
	if !strings.Contains(kind, "/") { // RFC 2045, 5.2
		kind = "text/plain"
	}
	attached := strings.EqualFold(p.Disposition, "attachment")
	if !whole && b.damage == "" && !strings.HasPrefix(kind, "text/") {
		b.damage = "a part is not encoded as it says"
	}
	switch {
	case attached:
	case kind == "text/html":
		text := decodeText(content, p.Charset, true)
		p.Content = []byte(text)
		r.add("", text)
	case kind == "text/plain", kind == "text/enriched", strings.HasPrefix(kind, "multipart/"), b.alone(p) && strings.HasPrefix(kind, "text/") && kind != "text/calendar":
		text := strings.ReplaceAll(decodeText(content, p.Charset, false), "\r\n", "\n")
		p.Content = []byte(text)
		if params := paramsOf(p); strings.EqualFold(params["format"], "flowed") {
			text = unflow(text, strings.EqualFold(params["delsp"], "yes"))
		}
		r.add(strings.TrimRight(text, "\n"), "")
	default:
		attached = true
	}
	if !attached && p.FileName == "" {
		return
	}
	part := Part{
		Name: clean(decodeWords(p.FileName)), ContentType: kind, Charset: charsetOf(p),
		ContentID: strings.Trim(p.ContentID, "<> "), Content: content, Size: len(content),
	}
	if part.Name == "" {
		part.Name = nameFor(kind)
	}
	b.parts = append(b.parts, part)
}

// alone tells that a part is all that the letter carries.
func (b *body) alone(p *enmime.Part) bool {
	for ; p != nil && p.Parent != nil; p = p.Parent {
		if p.Parent.FirstChild != p || p.NextSibling != nil {
			return false
		}
	}
	return true
}

// charsetOf is the charset that a text was written in, by its header; "" where
// it names none that is known.
func charsetOf(p *enmime.Part) string {
	if !strings.HasPrefix(strings.ToLower(p.ContentType), "text/") || charsetByName(p.Charset) == nil {
		return ""
	}
	return strings.ToLower(p.Charset)
}

func nameFor(contentType string) string {
	switch {
	case IsLetterType(contentType):
		return "letter.eml"
	case contentType == "text/calendar":
		return "invitation.ics"
	case contentType == "application/pgp-signature":
		return "signature.asc"
	case contentType == "message/delivery-status", contentType == "message/disposition-notification":
		return "report.txt"
	case contentType == "text/rfc822-headers":
		return "header.txt"
	case strings.HasPrefix(contentType, "image/"):
		return "picture." + strings.TrimPrefix(contentType, "image/")
	}
	return "attachment"
}

// IsLetterType tells whether a part of this type holds a letter.
func IsLetterType(contentType string) bool {
	return contentType == "message/rfc822" || contentType == "message/global"
}

// digest is made of the decoded contents, so that copies that differ only in
// how they were encoded on the way have the same.
func (b body) digest() []byte {
	h := sha256.New()
	for _, p := range b.leaves {
		if strings.HasPrefix(p.ContentType, "text/") || strings.HasPrefix(p.ContentType, "message/") || p.ContentType == "" {
			writeTrimmed(h, p.Content)
		} else {
			_, _ = h.Write(p.Content) // a hash never fails
		}
		_, _ = h.Write([]byte{0})
	}
	return h.Sum(nil)
}

// digestOf is the digest of a body that was not taken apart.
func digestOf(rest []byte) []byte {
	h := sha256.New()
	writeTrimmed(h, rest)
	return h.Sum(nil)
}

// writeTrimmed writes text without what transport may change: line ends, and
// white space at the end of lines and of the text.
func writeTrimmed(h hash.Hash, text []byte) {
	empty := 0
	for len(text) > 0 {
		line := text
		if i := bytes.IndexByte(text, '\n'); i >= 0 {
			line, text = text[:i], text[i+1:]
		} else {
			text = nil
		}
		line = bytes.TrimRight(line, " \t\r")
		if len(line) == 0 {
			empty++
			continue
		}
		for ; empty > 0; empty-- {
			_, _ = h.Write([]byte{'\n'})
		}
		_, _ = h.Write(line)
		empty = 1
	}
}
