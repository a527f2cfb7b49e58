package main

import (
	"bufio"
	"crypto/rand"
	"fmt"
	"log"
	"os"
	"os/exec"
	"path/filepath"
	"strings"
	"time"

	"github.com/alexedwards/argon2id"
	"github.com/go-rod/rod"
	"github.com/go-rod/rod/lib/input"

	"ebbe.example/ebbe/e2e/browser"
	"ebbe.example/ebbe/internal/app"
	"ebbe.example/ebbe/internal/core/decide"
	"ebbe.example/ebbe/internal/core/followup"
	"ebbe.example/ebbe/internal/show"
	"ebbe.example/ebbe/internal/store"

	"slices"
)

func slicesSort(lists ...[]time.Duration) {
	for _, l := range lists {
		slices.Sort(l)
	}
}

const password = "a password for the bench"

// rest measures the server while nothing happens.
func (r *run) rest() error {
	resting := func(file string) (int, error) {
		server, err := start(file, "127.0.0.1:8671", "127.0.0.1:8672")
		if err != nil {
			return 0, err
		}
		defer func() { _ = server.Process.Kill(); _ = server.Wait() }()
		time.Sleep(3 * time.Second)
		return residentMB(server.Process.Pid), nil
	}
	floor, err := resting(filepath.Join(r.folder, "empty.db"))
	if err != nil {
		return err
	}
	full, err := resting(r.big())
	r.add(fmt.Sprintf("server at rest, %d letters", r.letters), fmt.Sprintf("%d MB resident", full), fmt.Sprintf("%d MB: with none", floor), "under 80 MB")
	return err
}

// page measures the real interface in a browser: a cold first paint, key to
// next letter, scrolling ten thousand rows.
func (r *run) page() error {
	file := filepath.Join(r.folder, "page.db")
	n := min(10_000, r.letters)
	source := filepath.Join(r.folder, "page.mbox")
	if err := mbox(source, n*3/2, 0); err != nil {
		return err
	}
	if _, err := r.importInto(file, source, n*3/2); err != nil {
		return err
	}
	if err := setPassword(r, file); err != nil {
		return err
	}
	server, err := start(file, "127.0.0.1:8673", "127.0.0.1:8674")
	if err != nil {
		return err
	}
	stop := func() { _ = server.Process.Kill(); _ = server.Wait() }
	defer func() { stop() }()
	const url = "http://127.0.0.1:8673"
	b, p := opened(url)
	defer b.MustClose()

	var paints []float64
	for range 9 {
		p.MustEval(`() => caches.keys()`)
		p.MustNavigate(url + "/inbox").MustWaitLoad()
		p.MustElement("[role=option]")
		paints = append(paints, p.MustEval(`() => new Promise((done) => requestAnimationFrame(() => requestAnimationFrame(() => done(performance.now()))))`).Num())
	}
	slices.Sort(paints)
	empty := p.MustEval(`async () => { const t = performance.now(); await fetch('/mark.svg', { cache: 'no-store' }).then((r) => r.text()); return performance.now() - t }`).Num()
	script := p.MustEval(`() => performance.getEntriesByType('resource').filter((e) => e.name.includes('/index-') && e.name.endsWith('.js')).reduce((sum, e) => sum + e.encodedBodySize, 0)`).Num()
	r.add("inbox painted, navigation to rows", fmt.Sprintf("median %.0f ms; %.0f KB of packed script", paints[len(paints)/2], script/1024), fmt.Sprintf("%.0f ms: a bare file of the server", empty), "under 250 ms, under 160 KB")

	p.Quiet()
	const letter, option, twoFrames = "section[aria-label=Letter]", "[role=option][aria-selected=true]", "p95 33 ms beyond the floor, no task over 50 ms"
	r.decision(p, "the inbox", "2", letter, twoFrames)
	others := make([]browser.Page, 4)
	for i := range others {
		others[i] = browser.Page{Page: p.Browser().MustPage(url + "/inbox")}
		others[i].MustElement("[role=option]")
	}
	p.MustActivate()
	r.decision(p, "the inbox, five pages open", "2", letter, twoFrames)
	for _, other := range others {
		other.MustClose()
	}
	slowed(p, 4)
	r.decision(p, "the inbox, a processor slowed four times", "2", letter, "p95 120 ms")
	slowed(p, 1)
	p.MustNavigate(url + "/archive").MustWaitLoad()
	p.Until(`() => document.querySelector('section[aria-label=Letter] h1') !== null`)
	p.Quiet()
	r.decision(p, "the archive", "7", letter, twoFrames)
	p.MustNavigate(url + "/search?q=the").MustWaitLoad()
	p.Until(`() => document.querySelector('section[aria-label=Letter] h1') !== null`)
	p.Quiet()
	r.decision(p, "what was found", "2", option, twoFrames)
	p.MustNavigate(url + "/inbox").MustWaitLoad()
	p.Until(`() => document.querySelector('section[aria-label=Letter] h1') !== null`)
	p.Quiet()

	r.scrolling(p, fmt.Sprintf("scrolling %d rows", n), "[role=listbox]", "[role=option]")
	r.sitting(p, url)

	stop()
	if err := r.putAhead(file, n); err != nil {
		return err
	}
	if server, err = start(file, "127.0.0.1:8673", "127.0.0.1:8674"); err != nil {
		return err
	}
	p.MustNavigate(url + "/ahead").MustWaitLoad()
	p.MustElement("main [aria-current]")
	p.Quiet()
	const entry = "main [aria-current=true]"
	r.decision(p, "Ahead", "7", entry, twoFrames)
	r.scrolling(p, fmt.Sprintf("scrolling %d entries of Ahead", n), "main [data-scroller]", "main [data-entry]")

	stop()
	if err := r.expect(file, n); err != nil {
		return err
	}
	if server, err = start(file, "127.0.0.1:8673", "127.0.0.1:8674"); err != nil {
		return err
	}
	p.MustNavigate(url + "/waiting").MustWaitLoad()
	p.MustElement(entry)
	p.Quiet()
	r.decision(p, "Waiting", "2", entry, twoFrames)

	stop()
	if err := r.track(file); err != nil {
		return err
	}
	if server, err = start(file, "127.0.0.1:8673", "127.0.0.1:8674"); err != nil {
		return err
	}
	var opens []float64
	p.MustNavigate(url + "/inbox").MustWaitLoad()
	for range 9 {
		p.Until(`() => document.querySelector('main') !== null`)
		p.Quiet()
		opens = append(opens, p.MustEval(`() => new Promise((done) => {
			const began = performance.now()
			const look = () => document.querySelectorAll('[data-card]').length > 5 ? requestAnimationFrame(() => done(performance.now() - began)) : requestAnimationFrame(look)
			document.body.dispatchEvent(new KeyboardEvent('keydown', { key: 'v', bubbles: true }))
			document.body.dispatchEvent(new KeyboardEvent('keydown', { key: 'f', bubbles: true }))
			requestAnimationFrame(look)
		})`).Num())
		p.Press('v', 'w')
		p.Until(`() => document.querySelector('main[aria-label=Waiting]') !== null`)
	}
	slices.Sort(opens)
	r.add(fmt.Sprintf("the board of %d follow-ups, key to cards painted", followUps), fmt.Sprintf("median %.0f ms, most %.0f ms", opens[len(opens)/2], opens[len(opens)-1]), fmt.Sprintf("p95 %.0f ms: a key that only marks the page", r.marked(p)), "200 ms")
	p.Press('v', 'f')
	p.MustElement("[data-card]")
	p.MustElement("button[aria-label='Show as a list']").MustClick()
	p.MustElement("main [data-scroller] [data-card]")
	p.Quiet()
	r.decision(p, "the follow-ups", "2", "main [data-card][aria-current=true]", twoFrames)
	r.scrolling(p, fmt.Sprintf("scrolling %d follow-ups", followUps), "main [data-scroller]", "main [data-card]")
	return nil
}

// followUps is how many the board is measured with.
const followUps = 10_000

// track brings many follow-ups in, and measures what is done with them.
func (r *run) track(file string) error {
	a, err := openAt(r.ctx, file)
	if err != nil {
		return err
	}
	defer a.Store.Close()
	var b strings.Builder
	for i := range followUps {
		fmt.Fprintf(&b, "(%c) Task %d +Project_%d @context%d due:%s min:%d\n", 'A'+i%4, i, i%40, i%9, time.Now().AddDate(0, 0, i%60-5).Format(time.DateOnly), 5+i%60)
	}
	began := time.Now()
	if _, err := a.ImportTasks(r.ctx, who, rand.Text(), b.String()); err != nil {
		return err
	}
	log.Printf("%d follow-ups came in within %s", followUps, time.Since(began))
	var board show.Board
	got, err := times(20, func() (err error) {
		board, err = a.Board(r.ctx, who, show.Arranged{By: followup.ByDue})
		return err
	})
	if err != nil {
		return err
	}
	floor, err := r.nothingRead(a)
	if err != nil {
		return err
	}
	r.add(fmt.Sprintf("laying out %d follow-ups", followUps), fmt.Sprintf("median %s, p95 %s", ms(median(got)), ms(p95(got))), floor, "200 ms with painting")
	ids := board.Lanes[1].IDs
	i := 0
	got, err = times(50, func() error {
		i++
		_, err := a.EditFollowUps(r.ctx, who, rand.Text(), ids[i:i+1], app.FollowUpFields{Lane: &app.LaneRef{By: followup.ByPriority, Key: "low"}}, 0)
		return err
	})
	if err != nil {
		return err
	}
	if floor, err = r.rowsWritten(file, 1); err != nil {
		return err
	}
	r.add("saving a drop on the board", fmt.Sprintf("median %s, p95 %s", ms(median(got)), ms(p95(got))), floor, "20 ms")
	return nil
}

// putAhead sends letters ahead, over the days of the next two weeks.
func (r *run) putAhead(file string, n int) error {
	a, err := openAt(r.ctx, file)
	if err != nil {
		return err
	}
	defer a.Store.Close()
	all, err := a.Everything(r.ctx, who, decide.Inbox, 0)
	if err != nil {
		return err
	}
	each := map[int64]string{}
	all = all[:min(n, len(all))]
	for i, s := range all {
		each[s.ID] = fmt.Sprintf("in %d days", 1+i%12)
	}
	_, err = a.Decide(r.ctx, who, app.Deciding{Command: rand.Text(), Kind: decide.PutOff, Each: each, On: all})
	return err
}

// expect waits for answers to what was written to n people.
func (r *run) expect(file string, n int) error {
	return r.in(file, `WITH RECURSIVE n(i) AS (SELECT 1 UNION ALL SELECT i + 1 FROM n WHERE i < ?)
		INSERT INTO expectations (owner, alive, conversation_id, persons, since, until, until_at)
		SELECT 1, 1, (SELECT min(id) + i FROM conversations), json_array('p' || i || '@x.example'), ?, NULL, NULL FROM n`, n, time.Now().AddDate(0, 0, -3).UnixMilli())
}

// scrolling measures what a list costs while it is scrolled from end to end.
func (r *run) scrolling(p browser.Page, what, list, row string) {
	scroll := p.MustEval(`(at, row) => new Promise((done) => {
		const list = document.querySelector(at)
		let longest = 0, most = 0, steps = 0
		new PerformanceObserver((l) => { for (const e of l.getEntries()) longest = Math.max(longest, e.duration) }).observe({ type: 'longtask' })
		const step = () => {
			list.scrollTop += 1500
			most = Math.max(most, document.querySelectorAll(row).length)
			if (++steps < 500) setTimeout(step, 16)
			else setTimeout(() => done({ longest, most, reached: list.scrollTop, height: list.scrollHeight }), 300)
		}
		step()
	})`, list, row)
	longest, most := scroll.Get("longest").Num(), scroll.Get("most").Int()
	words := fmt.Sprintf("longest task %.0f ms", longest)
	if longest == 0 {
		words = "no task over 50 ms"
	}
	r.add(what, fmt.Sprintf("%s, at most %d rows in the page, %.0f of %.0f px", words, most, scroll.Get("reached").Num(), scroll.Get("height").Num()), r.bareScrolling(p), "no task over 50 ms, 100 rows")
}

func setPassword(r *run, file string) error {
	hash, err := argon2id.CreateHash(password, argon2id.DefaultParams)
	if err != nil {
		return err
	}
	s, err := store.Open(file)
	if err != nil {
		return err
	}
	defer s.Close()
	return s.SetPassword(r.ctx, who.Person, hash)
}

// opened is a page that is signed in, with its inbox read.
func opened(url string) (*rod.Browser, browser.Page) {
	b := browser.Launch()
	p := browser.OpenFor(20*time.Minute, b, url, browser.Desk, false) // it takes longer than any test
	p.MustElement("input[type=email]").MustInput("ines")
	p.MustEval(`() => document.querySelector('form').noValidate = true`)
	p.MustElement("input[type=password]").MustInput(password)
	p.Press(input.Enter)
	p.MustElement("[role=option]")
	return b, p
}

// start runs the built server and waits until it says where it is.
func start(file, web, mail string) (*exec.Cmd, error) {
	cmd := exec.Command("bin/ebbe", "--db", file, "serve", "--listen", web, "--smtp", mail) //nolint:gosec // our own program
	cmd.Stderr = os.Stderr
	out, err := cmd.StdoutPipe()
	if err != nil {
		return nil, err
	}
	if err := cmd.Start(); err != nil {
		return nil, err
	}
	lines := bufio.NewScanner(out)
	for lines.Scan() {
		if strings.Contains(lines.Text(), "Ebbe is at") {
			go func() {
				for lines.Scan() { //nolint:revive // read on, so that the server never waits
				}
			}()
			return cmd, nil
		}
	}
	return nil, fmt.Errorf("the server did not start")
}

// sitting measures a decision in a sitting over all of the inbox.
func (r *run) sitting(p browser.Page, url string) {
	p.MustNavigate(url + "/inbox").MustWaitLoad()
	p.MustElement("[role=option]")
	p.KeyActions().Press(input.ShiftLeft).Type('S').MustDo()
	p.MustElement("[role=dialog] :focus")
	p.Press(input.Enter)
	p.MustElement("main[aria-label=Sitting] section[aria-label=Letter]")
	p.Quiet()
	r.decision(p, "a sitting", "2", "section[aria-label=Letter]", "p95 33 ms beyond the floor, no task over 50 ms")
	p.MustNavigate(url + "/inbox").MustWaitLoad()
}
