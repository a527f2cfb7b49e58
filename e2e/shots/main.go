// Command shots makes the pictures of docs/screenshots from the demo data: all of them, or those named.
package main

import (
	"bufio"
	"fmt"
	"log"
	"os"
	"os/exec"
	"path/filepath"
	"slices"
	"strings"

	"github.com/go-rod/rod/lib/input"

	"ebbe.example/ebbe/e2e/browser"
)

const folder = "docs/screenshots"

// shot is a picture: a size, a look, and the way to it from the inbox.
type shot struct {
	name  string
	size  browser.Size
	night bool
	walk  func(p browser.Page, url string)
}

func view(path string) func(browser.Page, string) {
	return func(p browser.Page, url string) { p.MustNavigate(url + path).MustWaitLoad() }
}

func keys(k ...input.Key) func(browser.Page, string) {
	return func(p browser.Page, _ string) {
		p.MustElement("[role=option]")
		p.Quiet()
		p.Press(k...)
	}
}

var shots = []shot{
	{"inbox", browser.Desk, false, keys('j', 'j')},
	{"inbox-night", browser.Desk, true, keys('j', 'j')},
	{"inbox-phone", browser.Phone, false, keys()},
	{"attached-phone", browser.Phone, true, view("/attached")},
	{"found", browser.Desk, false, func(p browser.Page, url string) {
		p.MustNavigate(url + "/search?q=crate+from:bram").MustWaitLoad()
		p.Until(`() => document.querySelector("[role=option] mark") !== null`)
	}},
	{"answer", browser.Desk, false, func(p browser.Page, _ string) {
		keys('j', '1')(p, "")
		p.MustElement("form[aria-label=Answer] textarea")
		p.Type("Dear all,\n\nthank you, I will see to it today.")
	}},
	{"delivery", browser.Desk, false, view("/delivery")},
	{"follow-ups", browser.Desk, false, view("/follow-ups")},
	{"rules", browser.Desk, false, func(p browser.Page, url string) {
		view("/rules")(p, url)
		p.MustElementR("li[aria-label='Winter programme'] button", "Change").MustClick()
		p.See("In the last 60 days")
		p.MustEval(`() => document.querySelector('main').scrollBy(0, document.querySelector('form').getBoundingClientRect().top - 180)`)
	}},
	{"backlog", browser.Desk, true, func(p browser.Page, url string) { view("/backlog")(p, url); p.See("left for you") }},
	{"work", browser.Desk, false, view("/work")},
	{"shallows", browser.Desk, false, view("/shallows")},
	{"waiting", browser.Desk, false, view("/waiting")},
	{"ahead", browser.Desk, false, view("/ahead")},
	{"day-sheet", browser.Desk, false, func(p browser.Page, url string) {
		view("/day-sheet?date=2026-11-18")(p, url)
		p.See("low water")
	}},
	{"people", browser.Desk, false, func(p browser.Page, url string) {
		view("/people?of=vera@skog-catering.example")(p, url)
		p.See("Between you")
	}},
	{"routines", browser.Desk, false, func(p browser.Page, url string) {
		keys('j', 'j', 'j')(p, "")
		view("/routines")(p, url)
		p.Click("Loan papers")
		p.See("file under loans")
	}},
	{"sitting", browser.Desk, false, func(p browser.Page, _ string) {
		keys()(p, "")
		p.KeyActions().Press(input.ShiftLeft).Type('S').MustDo()
		p.See("How long")
		p.Until(`() => document.activeElement?.closest('[role=dialog]') !== null`)
		p.Press(input.Enter)
		for range 2 {
			p.MustElement("[data-left]")
			p.Quiet()
			p.Press('2')
		}
		p.See("Done with")
	}},
	{"low-water", browser.Desk, false, func(p browser.Page, _ string) {
		keys()(p, "")
		p.KeyActions().Press(input.ControlLeft).Type('a').MustDo()
		p.See("selected")
		p.Press('2')
		p.See("Decided today")
	}},
}

func main() {
	log.SetFlags(0)
	work, err := os.MkdirTemp("", "ebbe-shots-")
	if err != nil {
		log.Fatal(err)
	}
	defer os.RemoveAll(work)
	cmd := exec.Command("bin/ebbe", "--db", filepath.Join(work, "demo.db"), "demo", "--listen", "127.0.0.1:8681", "--smtp", "127.0.0.1:8682")
	out, err := cmd.StdoutPipe()
	if err != nil {
		log.Fatal(err)
	}
	if err := cmd.Start(); err != nil {
		log.Fatal(err)
	}
	defer func() { _ = cmd.Process.Kill() }()
	url := ""
	for lines := bufio.NewScanner(out); url == "" && lines.Scan(); {
		if _, after, ok := strings.Cut(lines.Text(), "Ebbe is at "); ok {
			url = after
		}
	}
	b := browser.Launch()
	defer b.MustClose()
	if err := os.MkdirAll(folder, 0o755); err != nil {
		log.Fatal(err)
	}
	for _, s := range shots {
		if len(os.Args) > 1 && !slices.Contains(os.Args[1:], s.name) {
			continue
		}
		p := browser.Open(b, url, s.size, s.night).Enter()
		s.walk(p, url)
		p.MustElement("main")
		p.Quiet()
		if s.name != "sitting" { // its ring never stands still
			p.MustWaitStable()
		}
		path := filepath.Join(folder, s.name+".png")
		if err := os.WriteFile(path, p.MustScreenshot(), 0o644); err != nil { //nolint:gosec // a picture for the docs
			log.Fatal(err)
		}
		fmt.Println(path)
		p.MustClose()
	}
}
