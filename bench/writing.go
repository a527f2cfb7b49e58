package main

import (
	"bufio"
	"fmt"
	"math/rand/v2"
	"os"
	"path/filepath"
	"slices"
	"strings"
	"time"

	"github.com/go-rod/rod/lib/input"

	"ebbe.example/ebbe/e2e/browser"
	"ebbe.example/ebbe/internal/core/decide"
	"ebbe.example/ebbe/internal/show"
	"ebbe.example/ebbe/internal/store"
)

// ownAnswers is with how many answers of one's own others are proposed.
const ownAnswers = 20_000

// correspondence makes letters of others, each with one's own answer.
func correspondence(path string, n int) error {
	f, err := os.Create(path)
	if err != nil {
		return err
	}
	defer f.Close()
	out := bufio.NewWriter(f)
	r := rand.New(rand.NewPCG(3, 4)) //nolint:gosec // the same letters each time
	for i := range n {
		at := began.Add(time.Duration(i) * 20 * time.Minute)
		var topic strings.Builder
		for range 3 + r.IntN(4) { // words that few letters have, as names of plants and places are
			fmt.Fprintf(&topic, "%c%c%s%d ", 'a'+rune(r.IntN(26)), 'a'+rune(r.IntN(26)), vocabulary[20+r.IntN(40)], r.IntN(40))
		}
		asked := fmt.Sprintf("Dear Ines,\r\n\r\ncould you send me the %s\r\n%s\r\n", topic.String(), words(r, 30+r.IntN(60)))
		fmt.Fprintf(out, "From p@x.example %s\r\nFrom: Person <p%d@x%d.example>\r\nTo: Ines <ines@norrholm.example>\r\nDate: %s\r\nMessage-ID: <a%d@bench.example>\r\nSubject: %s\r\n\r\n%s\r\n",
			at.Format(time.ANSIC), i%400, i%20, at.Format(time.RFC1123Z), i, topic.String(), asked)
		at = at.Add(10 * time.Minute)
		fmt.Fprintf(out, "From ines@norrholm.example %s\r\nFrom: Ines <ines@norrholm.example>\r\nTo: Person <p%d@x%d.example>\r\nDate: %s\r\nMessage-ID: <b%d@bench.example>\r\nIn-Reply-To: <a%d@bench.example>\r\nReferences: <a%d@bench.example>\r\nSubject: Re: %s\r\n\r\nDear Person,\r\n\r\n%s\r\n\r\n",
			at.Format(time.ANSIC), i%400, i%20, at.Format(time.RFC1123Z), i, i, i, topic.String(), words(r, 20))
	}
	return out.Flush()
}

// writing measures what a person waits for while they write.
func (r *run) writing() error {
	file, source := filepath.Join(r.folder, "writing.db"), filepath.Join(r.folder, "writing.mbox")
	if err := correspondence(source, ownAnswers); err != nil {
		return err
	}
	if _, err := r.importInto(file, source, 2*ownAnswers); err != nil {
		return err
	}
	if err := r.suggesting(file); err != nil {
		return err
	}
	if err := setPassword(r, file); err != nil {
		return err
	}
	server, err := start(file, "127.0.0.1:8673", "127.0.0.1:8674")
	if err != nil {
		return err
	}
	defer func() { _ = server.Process.Kill(); _ = server.Wait() }()
	b := browser.Launch()
	defer b.MustClose()
	url := "http://127.0.0.1:8673"
	p := browser.Open(b, url, browser.Desk, false)
	p.MustElement("input[type=email]").MustInput("ines")
	p.MustEval(`() => document.querySelector('form').noValidate = true`)
	p.MustElement("input[type=password]").MustInput(password)
	p.Press(input.Enter)
	p.MustElement("[role=option]").MustClick()
	p.MustElement("section[aria-label=Letter] h1")
	p.Quiet()
	r.composing(p)
	return r.attaching(p)
}

func (r *run) suggesting(file string) error {
	a, err := openAt(r.ctx, file)
	if err != nil {
		return err
	}
	defer a.Store.Close()
	who := store.Own(1)
	page, err := a.List(r.ctx, who, decide.Inbox, false, 0, "")
	if err != nil {
		return err
	}
	var asked []show.Writing
	for _, row := range page.Rows {
		c, err := a.Open(r.ctx, who, row.ID)
		if err != nil {
			return err
		}
		asked = append(asked, show.Writing{Kind: "answer", Letter: c.Answer.Letter})
	}
	i, found := 0, 0
	took, err := times(200, func() error {
		got, err := a.Suggestions(r.ctx, who, asked[i%len(asked)])
		i, found = i+1, found+len(got)
		return err
	})
	if err != nil {
		return err
	}
	floor, err := r.nothingRead(a)
	r.add(fmt.Sprintf("proposed answers with %d of one's own", ownAnswers), fmt.Sprintf("median %s, p95 %s; %.1f each", ms(median(took)), ms(p95(took)), float64(found)/200), floor, "under 50 ms")
	return err
}

// composing opens the answer to a letter again and again, and types into a long one.
func (r *run) composing(p browser.Page) {
	var opens []float64
	for range 40 {
		opens = append(opens, p.MustEval(`() => new Promise((done) => {
			const began = performance.now()
			const look = () => document.querySelector('textarea[aria-label=Text]') ? requestAnimationFrame(() => done(performance.now() - began)) : requestAnimationFrame(look)
			document.body.dispatchEvent(new KeyboardEvent('keydown', { key: '1', bubbles: true }))
			requestAnimationFrame(look)
		})`).Num())
		p.Quiet()
		p.MustElement("textarea[aria-label=Text]").MustFocus()
		p.Press(input.Escape)
		p.Until(`() => !document.querySelector('textarea[aria-label=Text]')`)
		p.Press('j')
		p.Quiet()
	}
	slices.Sort(opens)
	r.add("the composer, key to painted", fmt.Sprintf("median %.0f ms, p95 %.0f ms", opens[len(opens)/2], at95(opens)), fmt.Sprintf("p95 %.0f ms: a key that only marks the page", r.marked(p)), "p95 100 ms")

	p.Press('1')
	p.MustElement("textarea[aria-label=Text]").MustFocus()
	p.Type(strings.Repeat("Fifty thousand characters are a long letter, and not the longest. ", 50_000/66))
	p.Quiet()
	p.MustEval(`() => { window.tasks = []; new PerformanceObserver((list) => window.tasks.push(...list.getEntries().map((e) => e.duration))).observe({ entryTypes: ['longtask'] }) }`)
	for _, key := range strings.Repeat("typed on. ", 12) {
		p.Press(input.Key(key))
	}
	p.Quiet()
	longest := p.MustEval(`() => Math.max(0, ...window.tasks)`).Num()
	r.add("typing 120 keys into 50 kB", fmt.Sprintf("longest task %.0f ms (0 where none is over 50)", longest), "", "no task over 50 ms")
}

// attaching brings a large file, beside the same bytes in one bare request.
func (r *run) attaching(p browser.Page) error {
	file := filepath.Join(r.folder, "large.bin")
	bytes := make([]byte, 18<<20)
	for i := range bytes {
		bytes[i] = byte(rand.IntN(256)) //nolint:gosec // any bytes
	}
	if err := os.WriteFile(file, bytes, 0o600); err != nil {
		return err
	}
	const bare = `async () => {
		const id = crypto.randomUUID(), size = 18 << 20
		const headers = { 'Content-Type': 'application/json', 'Ebbe-Person': '1', 'Ebbe-Inbox': '1' }
		await fetch('/api/drafts/' + crypto.randomUUID() + '/files', { method: 'POST', headers, body: JSON.stringify({ id, name: 'x', size, type: 'application/octet-stream' }) })
		const body = new Uint8Array(size)
		const began = performance.now()
		const answer = await fetch('/api/attached/' + id + '?from=0', { method: 'PUT', headers: { ...headers, 'Content-Type': 'application/octet-stream' }, body })
		if (!answer.ok) throw new Error(await answer.text())
		return performance.now() - began
	}`
	var floors, took []float64
	for i := range 5 {
		floors = append(floors, p.MustEval(bare).Num())
		p.MustEval(`(n) => { window.attached = new Promise((done) => document.querySelector('form input[type=file]').addEventListener('change', () => {
			const began = performance.now()
			const look = () => document.querySelectorAll('[aria-label=Files] a').length === n ? done(performance.now() - began) : requestAnimationFrame(look)
			look()
		}, { capture: true, once: true })) }`, i+1)
		p.MustElement("form input[type=file]").MustSetFiles(file)
		took = append(took, p.MustEval(`() => window.attached`).Num())
	}
	slices.Sort(floors)
	slices.Sort(took)
	r.add("18 MB attached, the most that a usual account sends", fmt.Sprintf("median %.0f ms, %.2f times the floor", took[2], took[2]/floors[2]), fmt.Sprintf("%.0f ms: the same bytes in one request", floors[2]), "1.5 times a bare upload")
	return nil
}
