package main

import (
	"fmt"
	"slices"

	"github.com/go-rod/rod/lib/input"
)

// typing measures from a key in the box to its results painted, over all letters: words typed a key each
// fifth of a second, each word begun at the inbox.
func (r *run) typing() error {
	if err := r.filled(); err != nil {
		return err
	}
	if err := setPassword(r, r.big()); err != nil {
		return err
	}
	server, err := start(r.big(), "127.0.0.1:8673", "127.0.0.1:8674")
	if err != nil {
		return err
	}
	defer func() { _ = server.Process.Kill(); _ = server.Wait() }()
	const url = "http://127.0.0.1:8673"
	b, p := opened(url)
	defer b.MustClose()
	// What the server gave for a search tells when that is what rows show.
	p.MustEvalOnNewDocument(`window.given = {}
		const plain = window.fetch
		window.fetch = async (...asked) => {
			const res = await plain(...asked)
			const url = new URL(asked[0].url ?? asked[0], location)
			if (url.pathname === '/api/search') void res.clone().json().then((page) => { window.given[url.searchParams.get('q')] = page.rows.map((r) => 'row-' + r.id) })
			return res
		}`)
	var first, later []float64
	for range 3 {
		p.MustNavigate(url + "/search?q=zyzzyva").MustWaitLoad() // the view is there, and nothing of before is kept
		p.MustElement("[role=option]")
		p.Press('v', 'i')
		p.Until(`() => location.pathname === '/inbox' && document.querySelector('[aria-label=Letters] [role=option]') !== null`)
		p.Quiet()
		for _, word := range []string{"ferry", "island", "tuesday", "please", "garden"} {
			for i, t := range p.MustEval(`async (word) => {
				const box = document.querySelector('[aria-label="Find letters"]')
				box.focus()
				const set = Object.getOwnPropertyDescriptor(HTMLInputElement.prototype, 'value').set
				const times = []
				for (let n = 1; n <= word.length; n++) {
					const typed = word.slice(0, n)
					const began = performance.now()
					set.call(box, typed)
					box.dispatchEvent(new Event('input', { bubbles: true }))
					await new Promise((done) => {
						const look = () => {
							if (performance.now() - began > 5000) return done() // it is not found
							const given = window.given[typed]
							const rows = [...document.querySelectorAll('[aria-label=Letters] [role=option]')].map((r) => r.id)
							given && (given.length === 0) === (rows.length === 0) && rows.every((id, i) => id === given[i]) ? requestAnimationFrame(() => done()) : requestAnimationFrame(look)
						}
						requestAnimationFrame(look)
					})
					times.push(performance.now() - began)
					await new Promise((done) => setTimeout(done, 200 - (performance.now() - began)))
				}
				return times
			}`, word).Arr() {
				if i == 0 {
					first = append(first, t.Num())
				} else {
					later = append(later, t.Num())
				}
			}
			p.Press(input.Escape)
			p.Until(`() => location.pathname === '/inbox' && document.querySelector('[aria-label=Letters] [role=option]') !== null`)
			p.Quiet()
		}
	}
	all := slices.Concat(first, later)
	for _, of := range [][]float64{all, first, later} {
		slices.Sort(of)
	}
	median := func(of []float64) float64 { return of[len(of)/2] }
	r.add(fmt.Sprintf("results as typed over %d letters, key to painted", r.letters),
		fmt.Sprintf("median %.0f ms, p95 %.0f ms (the key that opens them: median %.0f ms, later keys: median %.0f ms, p95 %.0f ms)", median(all), at95(all), median(first), median(later), at95(later)),
		fmt.Sprintf("p95 %.0f ms: a key that only marks the page", r.marked(p)), "p95 150 ms")
	return nil
}
