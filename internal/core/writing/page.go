// Package writing holds the rules of letters that are being written: how they look to
// whoever gets them, what of the answered letter they answer, what is doubtful in them, and
// how large they may be.
package writing

import (
	"bytes"
	"fmt"
	"strings"

	"github.com/microcosm-cc/bluemonday"
	"github.com/yuin/goldmark"
	"github.com/yuin/goldmark/extension"
	"github.com/yuin/goldmark/parser"
	"github.com/yuin/goldmark/renderer/html"
	"github.com/yuin/goldmark/util"
	nethtml "golang.org/x/net/html"
	"golang.org/x/net/html/atom"

	"ebbe.example/ebbe/internal/core/letter"
)

// markdown reads CommonMark with tables and struck text. What looks like HTML is text: it
// is written by whoever means the signs.
var markdown = goldmark.New(
	goldmark.WithParser(parser.NewParser(
		parser.WithBlockParsers(without(parser.DefaultBlockParsers(), parser.NewHTMLBlockParser())...),
		parser.WithInlineParsers(without(parser.DefaultInlineParsers(), parser.NewRawHTMLParser())...),
		parser.WithParagraphTransformers(parser.DefaultParagraphTransformers()...),
	)),
	goldmark.WithExtensions(extension.Linkify, extension.Strikethrough, extension.NewTable(extension.WithTableCellAlignMethod(extension.TableCellAlignAttribute))),
	goldmark.WithRendererOptions(html.WithHardWraps(), html.WithUnsafe()), // what is unsafe is left out below, and cid: is none
)

// without leaves a parser out, by its type.
func without(all []util.PrioritizedValue, out any) []util.PrioritizedValue {
	var kept []util.PrioritizedValue
	for _, p := range all {
		if fmt.Sprintf("%T", p.Value) != fmt.Sprintf("%T", out) {
			kept = append(kept, p)
		}
	}
	return kept
}

// sent is what a letter of ours may be made of. Its only pictures are those that go along.
var sent = func() *bluemonday.Policy {
	p := textPolicy()
	p.AllowURLSchemes("cid")
	p.AllowAttrs("src", "alt", "title").OnElements("img")
	return p
}()

// noted is what a note may be made of. Its links open elsewhere.
var noted = func() *bluemonday.Policy {
	p := textPolicy()
	p.AddTargetBlankToFullyQualifiedLinks(true)
	return p
}()

func textPolicy() *bluemonday.Policy {
	p := bluemonday.NewPolicy()
	p.AllowURLSchemes("http", "https", "mailto", "tel")
	p.AllowAttrs("href").OnElements("a")
	p.AllowAttrs("align").Matching(bluemonday.CellAlign).OnElements("td", "th")
	p.AllowAttrs("start").Matching(bluemonday.Integer).OnElements("ol")
	p.AllowElements("p", "br", "hr", "h1", "h2", "h3", "h4", "h5", "h6", "strong", "em", "del", "code", "pre", "blockquote",
		"ul", "ol", "li", "table", "thead", "tbody", "tr", "td", "th")
	p.RequireParseableURLs(true)
	return p
}

// styles are how the elements look. They stand in each of them, for many programs that show
// letters read no style sheet.
var styles = map[string]string{
	"p":          "margin: 0 0 1em",
	"blockquote": "margin: 0 0 1em; padding: 0 0 0 12px; border-left: 3px solid #b9c4bf; color: #4a5a57",
	"pre":        "margin: 0 0 1em; padding: 8px 12px; background-color: #f1f3ef; white-space: pre-wrap; font-family: monospace",
	"code":       "font-family: monospace",
	"table":      "margin: 0 0 1em; border-collapse: collapse",
	"td":         "padding: 4px 10px; border: 1px solid #c9d1cc",
	"th":         "padding: 4px 10px; border: 1px solid #c9d1cc; font-weight: bold",
	"ul":         "margin: 0 0 1em; padding-left: 24px",
	"ol":         "margin: 0 0 1em; padding-left: 24px",
	"img":        "max-width: 100%",
	"hr":         "margin: 1em 0; border: none; border-top: 1px solid #c9d1cc",
}

// Page is a letter as its reader sees it, as a whole HTML document: the text as Markdown
// (CommonMark), its signature below the mark of RFC 3676, and what is quoted below that.
// Nothing in it runs or is fetched; pictures are those of cid: URLs (RFC 2392).
func Page(text, quoted string) string {
	written, signature := letter.CutSignature(text)
	var b strings.Builder
	b.WriteString(`<!DOCTYPE html><html><head><meta charset="utf-8"></head><body style="font-family: sans-serif; font-size: 15px; line-height: 1.45">`)
	b.WriteString(styled(written))
	if signature != "" {
		b.WriteString(`<div style="margin: 0 0 1em; color: #4a5a57">-- <br>` + styled(signature) + `</div>`)
	}
	b.WriteString(quotation(strings.TrimSpace(quoted)))
	b.WriteString("</body></html>\n")
	return b.String()
}

// styled is Markdown as HTML, each element with its style.
func styled(source string) string {
	var b bytes.Buffer
	if err := markdown.Convert([]byte(source), &b); err != nil {
		return "<pre>" + nethtml.EscapeString(source) + "</pre>"
	}
	body := &nethtml.Node{Type: nethtml.ElementNode, Data: "body", DataAtom: atom.Body}
	nodes, err := nethtml.ParseFragment(strings.NewReader(sent.Sanitize(b.String())), body)
	if err != nil { // nested beyond what a parser takes
		return "<pre>" + nethtml.EscapeString(source) + "</pre>"
	}
	var out strings.Builder
	for _, n := range nodes {
		for d := range n.Descendants() {
			style(d)
		}
		style(n)
		if err := nethtml.Render(&out, n); err != nil {
			return "<pre>" + nethtml.EscapeString(source) + "</pre>"
		}
	}
	return out.String()
}

// Note is a note (Markdown) as HTML that can stand in a page: it has no pictures, and nothing
// in it runs.
func Note(source string) string {
	var b bytes.Buffer
	if err := markdown.Convert([]byte(source), &b); err != nil {
		return "<pre>" + nethtml.EscapeString(source) + "</pre>"
	}
	return noted.Sanitize(b.String())
}

func style(n *nethtml.Node) {
	if n.Type != nethtml.ElementNode {
		return
	}
	if s, ok := styles[n.Data]; ok {
		n.Attr = append(n.Attr, nethtml.Attribute{Key: "style", Val: s})
	}
}

// quotation is quoted text as HTML: what others wrote is no Markdown, and stays as it was.
func quotation(text string) string {
	if text == "" {
		return ""
	}
	var b strings.Builder
	depth := 0
	to := func(d int) {
		for ; depth < d; depth++ {
			b.WriteString(`<blockquote style="` + styles["blockquote"] + `">`)
		}
		for ; depth > d; depth-- {
			b.WriteString("</blockquote>")
		}
	}
	b.WriteString(`<div>`)
	for line := range strings.SplitSeq(text, "\n") {
		rest := strings.TrimLeft(line, ">")
		to(min(len(line)-len(rest), 20))
		b.WriteString(nethtml.EscapeString(strings.TrimPrefix(rest, " ")) + "<br>\n")
	}
	to(0)
	b.WriteString(`</div>`)
	return b.String()
}

// Shows tells whether a text shows a file as a picture, by ![…](cid:…).
func Shows(text, file string) bool { return strings.Contains(text, "](cid:"+file+")") }
