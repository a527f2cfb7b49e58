package letter

import (
	"bytes"
	"net/url"
	"regexp"
	"strings"

	"github.com/microcosm-cc/bluemonday"
	"golang.org/x/net/html"
)

// Shown is a letter's HTML made safe for a page of its own.
type Shown struct {
	HTML string
	// Blocked counts the remote images that were left out.
	Blocked int
	Spying  Spying
}

var colour = regexp.MustCompile(`(?i)^(#[0-9a-f]{3,8}|[a-z]{3,20}|rgba?\([\d\s.,%]{5,40}\))$`)
var measure = regexp.MustCompile(`(?i)^(-?[\d.]{1,7}(px|pt|em|rem|%|ex|ch)?|auto|normal|inherit|0)(\s+(-?[\d.]{1,7}(px|pt|em|rem|%|ex|ch)?|auto)){0,3}$`)
var words = regexp.MustCompile(`(?i)^[a-z0-9 ,'"-]{1,120}$`)
var border = regexp.MustCompile(`(?i)^[a-z0-9 #.%(),-]{1,60}$`)

// policy is the allow-list. No script, no form, no frame, no style sheet, no
// url() in styles, nothing that can be positioned over the page.
var policy = func() *bluemonday.Policy {
	p := bluemonday.NewPolicy()
	p.AllowElements("p", "br", "hr", "div", "span", "b", "i", "u", "s", "strong", "em", "small", "big", "sub", "sup", "font", "center",
		"h1", "h2", "h3", "h4", "h5", "h6", "ul", "ol", "li", "dl", "dt", "dd", "blockquote", "pre", "code", "tt", "abbr", "address",
		"table", "thead", "tbody", "tfoot", "tr", "td", "th", "caption", "colgroup", "col", "a", "img", "figure", "figcaption", "section", "article", "header", "footer", "details", "summary", "mark", "del", "ins", "q", "cite")
	p.AllowAttrs("href").OnElements("a")
	p.AllowAttrs("title", "dir", "lang").Globally()
	p.AllowAttrs("alt").OnElements("img")
	p.AllowAttrs("src").OnElements("img")
	p.AllowAttrs("width", "height").Matching(regexp.MustCompile(`^\d{1,4}%?$`)).OnElements("img", "table", "td", "th", "col")
	p.AllowAttrs("align", "valign").Matching(regexp.MustCompile(`(?i)^[a-z]{3,10}$`)).Globally()
	p.AllowAttrs("bgcolor", "color").Matching(colour).Globally()
	p.AllowAttrs("colspan", "rowspan", "border", "cellpadding", "cellspacing", "start").Matching(regexp.MustCompile(`^\d{1,4}$`)).Globally()
	p.AllowAttrs("face", "size").Matching(words).OnElements("font")
	p.AllowURLSchemes("http", "https", "mailto", "tel", "cid")
	p.AllowDataURIImages()
	p.RequireParseableURLs(true)
	p.RequireNoFollowOnLinks(true)
	p.RequireNoReferrerOnLinks(true)
	p.AddTargetBlankToFullyQualifiedLinks(true)
	p.AllowStyles("color", "background-color", "border-color").Matching(colour).Globally()
	p.AllowStyles("font-size", "line-height", "width", "max-width", "height", "margin", "margin-top", "margin-bottom", "margin-left", "margin-right",
		"padding", "padding-top", "padding-bottom", "padding-left", "padding-right", "text-indent", "letter-spacing", "border-width", "border-radius", "border-spacing").Matching(measure).Globally()
	p.AllowStyles("font-family", "font-weight", "font-style", "text-align", "text-decoration", "vertical-align", "white-space", "list-style-type", "text-transform", "border-style", "border-collapse").Matching(words).Globally()
	p.AllowStyles("border", "border-top", "border-bottom", "border-left", "border-right").Matching(border).Globally()
	p.AllowStyles("display").MatchingEnum("block", "inline", "inline-block", "table", "table-row", "table-cell", "none").Globally()
	return p
}()

// longPage bounds, in bytes, how much of a letter's HTML is shown.
const longPage = 4 << 20

// Clean makes a letter's HTML safe with an allow-list. Parts that it refers to
// by cid: are fetched from the addresses that part gives them ("" leaves one
// out). Remote images are left out and counted unless remote is set; those
// that only tell that the letter was read are left out always.
func Clean(source string, remote bool, part func(contentID string) string) Shown {
	if len(source) > longPage {
		source = source[:longPage]
	}
	var shown Shown
	doc, err := html.Parse(strings.NewReader(policy.Sanitize(source)))
	if err != nil { // nested beyond what a parser takes
		shown.HTML = "<pre>" + html.EscapeString(bareText(source)) + "</pre>"
		return shown
	}
	for n := range doc.Descendants() {
		switch {
		case n.Type == html.ElementNode && n.Data == "img":
			shown.placeImage(n, remote, part)
		case n.Type == html.ElementNode && n.Data == "a":
			shown.Spying.settleLink(n)
		}
	}
	foldQuotes(doc)
	var b bytes.Buffer
	for body := range doc.Descendants() {
		if body.Type == html.ElementNode && body.Data == "body" {
			for c := body.FirstChild; c != nil; c = c.NextSibling {
				if err := html.Render(&b, c); err != nil {
					return shown
				}
			}
		}
	}
	shown.HTML = b.String()
	return shown
}

var nothing = bluemonday.StrictPolicy()

// bareText is the text of HTML without any parsing of its structure.
func bareText(source string) string { return html.UnescapeString(nothing.Sanitize(source)) }

// placeImage settles where an image comes from, and counts it if it is a
// remote one that is left out.
func (s *Shown) placeImage(n *html.Node, remote bool, part func(string) string) {
	for i := 0; i < len(n.Attr); i++ {
		if n.Attr[i].Key != "src" {
			continue
		}
		src := n.Attr[i].Val
		if id, isPart := strings.CutPrefix(src, "cid:"); isPart {
			if plain, err := url.PathUnescape(id); err == nil {
				id = plain
			}
			n.Attr[i].Val = part(id)
			continue
		}
		if strings.HasPrefix(src, "data:") {
			continue
		}
		hidden := unseen(n)
		if u, err := url.Parse(src); hidden || err == nil && hasMark(u) {
			s.Spying.Pictures++
		}
		switch {
		case hidden:
			s.Spying.Unseen++
			s.Blocked++
			n.Attr[i] = html.Attribute{Key: "hidden"}
		case !remote:
			s.Blocked++
			n.Attr[i] = html.Attribute{Key: "data-blocked", Val: "remote"}
		}
	}
}

// shortQuote is the length of text, in characters, up to which a quotation is
// left open: it is being spoken about rather than carried along.
const shortQuote = 200

// foldQuotes puts each long outermost quotation into an element that the
// reader opens, which takes no script.
func foldQuotes(n *html.Node) {
	for c := n.FirstChild; c != nil; {
		next := c.NextSibling
		if c.Type == html.ElementNode && c.Data == "blockquote" && len(textOf(c)) > shortQuote {
			fold := &html.Node{Type: html.ElementNode, Data: "details"}
			summary := &html.Node{Type: html.ElementNode, Data: "summary"}
			summary.AppendChild(&html.Node{Type: html.TextNode, Data: "Quotation"})
			n.InsertBefore(fold, c)
			n.RemoveChild(c)
			fold.AppendChild(summary)
			fold.AppendChild(c)
		} else {
			foldQuotes(c)
		}
		c = next
	}
}

func textOf(n *html.Node) string {
	var b strings.Builder
	for d := range n.Descendants() {
		if d.Type == html.TextNode {
			b.WriteString(d.Data)
		}
	}
	return b.String()
}
