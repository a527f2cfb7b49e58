package writing_test

import (
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"golang.org/x/net/html"

	"ebbe.example/ebbe/internal/core/letter"
	"ebbe.example/ebbe/internal/core/writing"
)

func TestPage(t *testing.T) {
	for name, c := range map[string]struct{ text, quoted, has, not string }{
		"emphasis":                        {text: "It is **here**, *now*.", has: "<strong>here</strong>, <em>now</em>"},
		"lines end where they were ended": {text: "one\ntwo", has: "one<br/>\ntwo"},
		"a list":                          {text: "- a\n- b", has: "<li>a</li>"},
		"a table":                         {text: "| a | b |\n|---|--:|\n| 1 | 2 |", has: `<td align="right"`},
		"code":                            {text: "```\nx < y\n```", has: "x &lt; y"},
		"a link":                          {text: "see https://norrholm.example/plan", has: `<a href="https://norrholm.example/plan">`},
		"a quotation":                     {text: "> yours\n\nmine", has: "<blockquote style="},
		"a picture that goes along":       {text: "![crates](cid:abc@x.example)", has: `<img src="cid:abc@x.example" alt="crates"`},
		"a picture from elsewhere":        {text: "![p](javascript:alert(1))", not: "javascript"},
		"a link that would run":           {text: "[a](javascript:alert(1)) [b](data:text/html,x)", not: "alert"},
		"signs are signs":                 {text: "if a <b> is <script>alert(1)</script>", has: "&lt;b&gt; is &lt;script&gt;", not: "<script"},
		"a signature makes no heading":    {text: "Yours\n\n-- \nInes\n*Norrholm*", has: "<p style=\"margin: 0 0 1em\">Yours</p>", not: "<h2"},
		"nor does its mark":               {text: "Yours\n-- \nInes", has: ">-- <br>", not: "<h2"},
		"what others wrote":               {text: "Yes.", quoted: "On Monday Bram wrote:\n> *no* <i>Markdown</i>\n>> older", has: "*no* &lt;i&gt;Markdown&lt;/i&gt;", not: "<em>"},
	} {
		page := writing.Page(c.text, c.quoted)
		assert.Contains(t, page, c.has, name)
		if c.not != "" {
			assert.NotContains(t, page, c.not, name)
		}
	}
}

// Whatever is typed: nothing runs or is fetched, the page is closed, and our own frame for
// letters shows all of it.
func FuzzPage(f *testing.F) {
	for _, s := range []string{"# a\n\n- b\n", "![a](cid:x)", "<script>", "| a |\n|---|\n| b", "> > a\nb", "[a]: javascript:x\n[a]", "&#0;", "\x00", "-- \n-- \n", "```\n"} {
		f.Add(s, s)
	}
	f.Fuzz(func(t *testing.T, text, quoted string) {
		page := writing.Page(text, quoted)
		doc, err := html.Parse(strings.NewReader(page))
		assert.NoError(t, err)
		for n := range doc.Descendants() {
			if n.Type != html.ElementNode {
				continue
			}
			assert.NotContains(t, []string{"script", "iframe", "form", "object", "style", "svg"}, n.Data)
			for _, a := range n.Attr {
				assert.False(t, strings.HasPrefix(a.Key, "on"), a.Key)
				if a.Key == "href" || a.Key == "src" {
					assert.NotContains(t, strings.ToLower(strings.TrimSpace(a.Val)), "javascript:")
				}
			}
		}
		shown := letter.Clean(page, false, func(string) string { return "" })
		assert.Zero(t, shown.Spying)
	})
}
