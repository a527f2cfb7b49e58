package main

import (
	"os"

	"github.com/go-rod/rod/lib/input"

	"ebbe.example/ebbe/e2e/browser"
)

func main() {
	b := browser.Launch()
	defer b.MustClose()
	url := os.Args[1]
	shot := func(p browser.Page, name string) { _ = os.WriteFile("/tmp/shot-"+name+".png", p.MustScreenshot(), 0o600) }
	p := browser.Open(b, url, browser.Desk, false).Enter()
	p.MustElement("[role=option]")
	p.Quiet()
	shot(p, "inbox")
	p.MustElementR("button", "Put away").MustFocus()
	p.Press(input.Enter)
	p.Until(`() => document.activeElement?.role === "menuitem"`)
	shot(p, "menu")
	p.Press(input.Escape)
	p.Press('2')
	p.Press('2')
	p.MustElementR("button", "IH").MustClick()
	p.Until(`() => document.querySelector("[role=menu]") !== null`)
	shot(p, "me")
	q := browser.Open(b, url, browser.Phone, true).Enter()
	q.MustElement("[role=option]")
	q.Quiet()
	shot(q, "phone")
}
