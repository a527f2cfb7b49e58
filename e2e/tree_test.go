package e2e

import (
	"strings"
	"testing"

	"github.com/go-rod/rod"
	"github.com/go-rod/rod/lib/input"
	"github.com/go-rod/rod/lib/proto"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"ebbe.example/ebbe/e2e/browser"
)

// everyView is each view's address.
var everyView = []string{"/inbox", "/shallows", "/follow-ups", "/work", "/waiting", "/ahead", "/archive", "/bin", "/junk", "/sent", "/search?q=crate", "/journal", "/drafts", "/files", "/routines", "/rules", "/backlog", "/day-sheet", "/labels", "/people?of=bram@oosterhuis-freight.example", "/attached", "/accounts", "/times", "/delivery"}

// heard is one node of the accessibility tree, as assistive technology reads it.
type heard struct {
	role, name         string
	focusable, focused bool
}

// tree is what a screen reader finds in the page.
func tree(p browser.Page) []heard {
	got, err := proto.AccessibilityGetFullAXTree{}.Call(p)
	if err != nil {
		panic(err)
	}
	var out []heard
	for _, n := range got.Nodes {
		if n.Ignored || n.Role == nil {
			continue
		}
		h := heard{role: n.Role.Value.Str()}
		if n.Name != nil {
			h.name = strings.TrimSpace(n.Name.Value.Str())
		}
		for _, is := range n.Properties {
			switch is.Name {
			case proto.AccessibilityAXPropertyNameFocusable:
				h.focusable = is.Value.Value.Bool()
			case proto.AccessibilityAXPropertyNameFocused:
				h.focused = is.Value.Value.Bool()
			}
		}
		out = append(out, h)
	}
	return out
}

// atFocus is what has the focus, as a screen reader says it.
func atFocus(p browser.Page) heard {
	var last heard
	for _, h := range tree(p) {
		if h.focused {
			last = h
		}
	}
	return last
}

// Whoever doesn't see the page finds in every view a title of its own, headings,
// landmarks, and a name on whatever takes the focus.
func TestEveryViewCanBeHeard(t *testing.T) {
	e := servePlanned(t)
	for _, size := range []browser.Size{browser.Desk, browser.Phone} {
		p := e.open(size, false)
		titles := map[string]string{}
		for _, path := range everyView {
			p.MustNavigate(e.url + path).MustWaitLoad()
			p.MustElement("main")
			p.Quiet()
			roles := map[string]int{}
			var nameless []string
			for _, h := range tree(p) {
				roles[h.role]++
				if h.focusable && h.name == "" && h.role != "RootWebArea" && h.role != "Iframe" {
					nameless = append(nameless, h.role)
				}
			}
			assert.Empty(t, nameless, "%s at %d: what takes the focus has a name", path, size.Width)
			assert.Equal(t, 1, roles["banner"], "%s at %d: banner", path, size.Width)
			assert.Equal(t, 1, roles["main"], "%s at %d: main", path, size.Width)
			assert.GreaterOrEqual(t, roles["navigation"], 1, "%s at %d: navigation", path, size.Width)
			assert.GreaterOrEqual(t, roles["heading"], 1, "%s at %d: a heading", path, size.Width)
			title := p.MustEval(`() => document.title`).Str()
			assert.Empty(t, titles[title], "%s has the title of another", path)
			titles[title] = path
		}
		require.NoError(t, p.Close())
	}
}

// A letter is decided by ear: to the list at once, one stop for all of it, and
// after each decision it is said what was done and what comes next.
func TestDecidedByEar(t *testing.T) {
	e := serve(t)
	p := e.open(browser.Desk, false)
	p.MustElement("[role=option]")
	p.MustEval(`() => document.querySelector('a, button, input, [tabindex="0"]').focus()`)
	assert.Equal(t, "To the list", atFocus(p).name, "the first stop of the page")
	p.Press(input.Enter)
	assert.Equal(t, "listbox", p.MustEval(`() => document.activeElement.getAttribute('role')`).Str())
	p.Press(input.Tab)
	assert.NotEqual(t, "option", atFocus(p).role, "one stop for the whole list")
	p.KeyActions().Press(input.ShiftLeft).Type(input.Tab).MustDo()

	title := p.MustEval(`() => document.querySelector('section[aria-label=Letter] h1').innerText`).Str()
	p.Press('2')
	p.Until(`(title) => { const said = document.querySelector('[data-spoken]').innerText; return said.includes(title) && /next/i.test(said) }`, title)

	p.Press('3')
	p.Until(`() => document.activeElement.getAttribute('role') === 'combobox'`)
	assert.NotEmpty(t, atFocus(p).name)
	p.Type("next tuesday 9")
	p.Until(`() => [...document.querySelectorAll('[role=dialog] [role=status], [role=dialog] [aria-live]')].some((s) => /9:00|09:00/.test(s.innerText))`)
	p.Press(input.Escape)
	p.Until(`() => document.activeElement.getAttribute('role') === 'listbox'`)

	p.MustNavigate(e.url + "/ahead").MustWaitLoad()
	p.MustElement("main [role=option], main [data-home]")
	p.Quiet()
	p.Press(input.ArrowDown)
	p.Until(`() => document.activeElement.id.startsWith('entry-')`)
	one := p.MustEval(`() => document.activeElement.id`).Str()
	p.Press(input.ArrowDown)
	p.Until(`(one) => document.activeElement.id.startsWith('entry-') && document.activeElement.id !== one`, one)
	assert.NotEmpty(t, atFocus(p).name, "the focus itself goes through what is ahead")
}

// Every dialog and menu is clean to axe, by day on a desk and at night on a phone.
func TestEveryDialogIsAccessible(t *testing.T) {
	e := servePlanned(t)
	keys := map[string][]string{
		"/inbox":      {"3", "4", "5", "6", "F", "l", "a", "c", "h", "?"},
		"/follow-ups": {"g", "3"},
		"/waiting":    {"3"},
		"/ahead":      {"3"},
	}
	buttons := map[string][]string{
		"/inbox":      {"header nav button", "header button[aria-label*='look, keys']"},
		"/follow-ups": {"main [aria-label^=Stages]", "main [aria-label^='In and out']"},
	}
	for _, look := range []struct {
		size  browser.Size
		night bool
	}{{browser.Desk, false}, {browser.Phone, true}} {
		p := e.open(look.size, look.night)
		clean := func(what string) {
			p.Quiet()
			assert.Empty(t, offences(p), "%s at %d, night %v", what, look.size.Width, look.night)
			p.Press(input.Escape)
			p.Until(`() => !document.querySelector('[role=dialog], [role=menu]')`)
		}
		for path := range keys {
			p.MustNavigate(e.url + path).MustWaitLoad()
			p.MustElement("main [role=option], main [data-home], main article, main li")
			p.Quiet()
			for _, key := range keys[path] {
				if key == "5" {
					p.Press('5')
					p.MustElement("textarea[aria-label=Text]")
					clean("hand on")
					p.Press(input.Escape) // the offered people went with the first
					p.Until(`() => !document.querySelector('textarea[aria-label=Text]')`)
					continue
				}
				if stroke := input.Key([]rune(key)[0]); key == "F" {
					p.KeyActions().Press(input.ShiftLeft).Type(stroke).MustDo()
				} else {
					p.Press(stroke)
				}
				require.NoError(t, p.Timeout(browser.Wait).Wait(rod.Eval(`() => document.querySelector('[role=dialog]') !== null`)), "%s %s at %d", path, key, look.size.Width)
				clean(path + " " + key)
			}
			for _, b := range buttons[path] {
				p.MustElement(b).MustClick()
				p.Until(`() => document.querySelector('[role=dialog], [role=menu]') !== null`)
				clean(path + " " + b)
			}
		}
		require.NoError(t, p.Close())
	}
}
