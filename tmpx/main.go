package main

import (
	"fmt"
	"os"

	"ebbe.example/ebbe/e2e/browser"
)

func main() {
	b := browser.Launch()
	defer b.MustClose()
	url := os.Args[1]
	p := browser.Open(b, url, browser.Desk, false)
	p = p.Enter()
	p.MustElement("[role=option]")
	for range 3 {
		p.MustNavigate(url + "/inbox").MustWaitLoad()
		p.MustElement("[role=option]")
		v := p.MustEval(`() => new Promise((done) => requestAnimationFrame(() => requestAnimationFrame(() => done(performance.now()))))`).Num()
		fmt.Println("painted", v)
	}
	fmt.Println(p.MustEval(`() => performance.getEntriesByType('resource').map((e) => Math.round(e.startTime) + '-' + Math.round(e.responseEnd) + ' ' + e.name.slice(21) + ' ' + e.encodedBodySize).join('\n')`).Str())
}
