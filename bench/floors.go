package main

import (
	"database/sql"
	"fmt"

	"ebbe.example/ebbe/e2e/browser"
	"ebbe.example/ebbe/internal/app"
	"ebbe.example/ebbe/internal/store"
)

// What the measuring itself costs stands beside each figure: a figure near its floor
// can't be bettered, and where floors of two runs differ, so do the machines.

// nothingRead is the floor of what is read: the same with nothing to read.
func (r *run) nothingRead(a *app.App) (string, error) {
	got, err := times(100, func() error { return a.Store.Read(r.ctx, who, func(*store.Tx) error { return nil }) })
	if err != nil {
		return "", err
	}
	return ms(median(got)) + ": nothing read", nil
}

// rowsWritten is the floor of what is changed: so many rows of one table, in one go, by
// the driver alone.
func (r *run) rowsWritten(file string, rows int) (string, error) {
	db, err := sql.Open("sqlite3", "file:"+file+"?_busy_timeout=10000&_synchronous=FULL")
	if err != nil {
		return "", err
	}
	defer db.Close()
	got, err := times(5, func() error {
		_, err := db.ExecContext(r.ctx, "UPDATE letters SET asks = asks WHERE id IN (SELECT id FROM letters LIMIT ?)", rows)
		return err
	})
	if err != nil {
		return "", err
	}
	return fmt.Sprintf("%s: %d rows by one UPDATE", ms(median(got)), rows), nil
}

// marked is the floor of what is painted at a key: the 95th percentile, in ms, of a key
// that only marks the page.
func (r *run) marked(p browser.Page) float64 {
	p.MustEval(`() => {
		document.body.dataset.bench = ''
		window.benchKey ??= addEventListener('keydown', (e) => { if (e.key === 'F9') document.body.dataset.bench += '.' }) ?? true
	}`)
	floors, _ := pressing(p, presses/3, "F9", "body")
	return at95(floors)
}

// bareScrolling is the floor of scrolling: the longest task while a bare box as high is
// scrolled as fast.
func (r *run) bareScrolling(p browser.Page) string {
	longest := p.MustEval(`() => new Promise((done) => {
		const box = document.createElement('div')
		box.style.cssText = 'position:fixed;inset:0;z-index:99;overflow:auto;background:white'
		box.innerHTML = '<div style="height:600000px"></div>'
		document.body.append(box)
		let longest = 0, steps = 0
		new PerformanceObserver((l) => { for (const e of l.getEntries()) longest = Math.max(longest, e.duration) }).observe({ type: 'longtask' })
		const step = () => {
			box.scrollTop += 1500
			if (++steps < 300) setTimeout(step, 16)
			else setTimeout(() => { box.remove(); done(longest) }, 300)
		}
		step()
	})`).Num()
	if longest == 0 {
		return "no task over 50 ms: a bare box"
	}
	return fmt.Sprintf("longest task %.0f ms: a bare box", longest)
}

// scanned reads all rows of a bare query.
func scanned(db *sql.DB, query string, args ...any) func() error {
	return func() error {
		rows, err := db.Query(query, args...)
		if err != nil {
			return err
		}
		defer rows.Close()
		columns, err := rows.Columns()
		if err != nil {
			return err
		}
		values := make([]any, len(columns))
		for i := range values {
			values[i] = new(any)
		}
		for rows.Next() {
			if err := rows.Scan(values...); err != nil {
				return err
			}
		}
		return rows.Err()
	}
}
