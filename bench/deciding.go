package main

import (
	"fmt"
	"slices"
	"time"

	"github.com/go-rod/rod/lib/proto"

	"ebbe.example/ebbe/e2e/browser"
)

// presses is how often a key is pressed for a figure.
const presses = 60

// press is the time from a key until what is looked at has changed and is painted; in
// it are a frame to notice and a frame to paint, which the floor has too.
const press = `(key, look) => new Promise((done) => {
	const seen = () => {
		const at = document.querySelector(look)
		return at && (at.dataset.bench ?? at.id + (at.querySelector('h1') ?? at).textContent)
	}
	const was = seen()
	const began = performance.now()
	const wait = () => { const now = seen(); now && now !== was ? requestAnimationFrame(() => done(performance.now() - began)) : requestAnimationFrame(wait) }
	document.body.dispatchEvent(new KeyboardEvent('keydown', { key, bubbles: true }))
	requestAnimationFrame(wait)
})`

// pressing presses a key so often and gives the sorted times in ms, and the longest
// task.
func pressing(p browser.Page, often int, key, look string) (times []float64, longest float64) {
	p.MustEval(`() => {
		window.benchLongest = 0
		window.benchTasks?.disconnect()
		window.benchTasks = new PerformanceObserver((l) => { for (const e of l.getEntries()) window.benchLongest = Math.max(window.benchLongest, e.duration) })
		window.benchTasks.observe({ type: 'longtask' })
	}`)
	for range often {
		times = append(times, p.MustEval(press, key, look).Num())
		time.Sleep(150 * time.Millisecond) // a person reads the subject
	}
	slices.Sort(times)
	return times, p.MustEval(`() => window.benchLongest`).Num()
}

// decision measures a decision on a list beside the floor of the measuring: a key that
// only marks the page.
func (r *run) decision(p browser.Page, where, key, look, reach string) {
	floor := r.marked(p)
	got, longest := pressing(p, presses, key, look)
	words := "no task over 50 ms"
	if longest > 0 {
		words = fmt.Sprintf("longest task %.0f ms", longest)
	}
	r.add("a decision in "+where+", key to next one painted", fmt.Sprintf("median %.0f ms, p95 %.0f ms: %.0f ms beyond the floor; %s", got[len(got)/2], at95(got), at95(got)-floor, words),
		fmt.Sprintf("p95 %.0f ms: a key that only marks the same page", floor), reach)
}

func at95(sorted []float64) float64 { return sorted[len(sorted)*95/100] }

// slowed slows the page's processor.
func slowed(p browser.Page, times float64) {
	if err := (proto.EmulationSetCPUThrottlingRate{Rate: times}).Call(p); err != nil {
		panic(err)
	}
}
