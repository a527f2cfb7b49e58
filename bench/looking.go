package main

import (
	"crypto/rand"
	"database/sql"
	"fmt"
	"log/slog"
	"path/filepath"
	"slices"
	"time"

	"github.com/jonboulle/clockwork"

	"ebbe.example/ebbe/internal/app"
	"ebbe.example/ebbe/internal/core/decide"
	"ebbe.example/ebbe/internal/show"
	"ebbe.example/ebbe/internal/store"
)

const (
	// lived are the days of two years and a day, on each of which letters came, and were decided on in so many steps.
	lived       = 2*365 + 1
	decidedOnce = 5
)

// looking measures how long it takes to look back: the sheet of a day, and the charts of a year with that before it
// beside it, the first time after a start and from then on.
func (r *run) looking() error {
	file := filepath.Join(r.folder, "lived.db")
	a, err := openAt(r.ctx, file)
	if err != nil {
		return err
	}
	defer a.Store.Close()
	if err := a.Store.Relax(r.ctx); err != nil { // only reading is measured
		return err
	}
	clock := clockwork.NewFakeClockAt(time.Date(2024, 12, 31, 8, 0, 0, 0, time.UTC))
	a = app.New(a.Store, clock, slog.New(slog.DiscardHandler))
	number := 0
	for range lived {
		if err := r.live(a, clock, &number); err != nil {
			return err
		}
	}
	of := func(date string) func() error {
		return func() error { _, err := a.DaySheet(r.ctx, who, date); return err }
	}
	today, err := times(20, of(""))
	if err != nil {
		return err
	}
	far, err := times(20, of(clock.Now().AddDate(-1, 0, 0).Format(time.DateOnly)))
	if err != nil {
		return err
	}
	letters := fmt.Sprintf("%d letters in %d days", number, lived)
	floor, err := r.scan(file, "SELECT count(*) FROM place_history WHERE owner = 1 AND at >= ?", clock.Now().Truncate(24*time.Hour).UnixMilli())
	if err != nil {
		return err
	}
	r.add("the day sheet, "+letters, "median "+ms(median(today))+", p95 "+ms(p95(today))+"; of a day a year ago "+ms(median(far)), ms(floor)+": what moved that day, counted", "under 100 ms")
	year := func() error { _, err := a.Days(r.ctx, who, show.AYear, ""); return err }
	first, err := times(5, func() error {
		a.Pasts.Changed(store.Past{Inbox: who.Inbox}) // as after a start
		return year()
	})
	if err != nil {
		return err
	}
	kept, err := times(20, year)
	if err != nil {
		return err
	}
	if floor, err = r.scan(file, "SELECT count(*) FROM place_history h JOIN journal j ON j.id = h.journal_id WHERE h.owner = 1 AND h.at >= ? AND j.undone_by IS NULL", clock.Now().AddDate(-2, 0, 0).UnixMilli()); err != nil {
		return err
	}
	r.add("a year's charts, "+letters, "median "+ms(median(kept))+", p95 "+ms(p95(kept))+"; the first time after a start "+ms(median(first)), ms(floor)+": what moved in two years, counted", "under 200 ms")
	return nil
}

// live is a day: letters come in two rounds, all are decided on in steps of some.
func (r *run) live(a *app.App, clock *clockwork.FakeClock, number *int) error {
	for range 2 {
		clock.Advance(4 * time.Hour)
		for range r.letters / lived / 2 {
			*number++
			raw := fmt.Sprintf("From: Person %[2]d <p%[2]d@x.example>\r\nTo: ines@norrholm.example\r\nDate: %[3]s\r\nMessage-ID: <lived-%[1]d@bench.example>\r\nSubject: Letter %[1]d\r\n\r\n%[4]s\r\n",
				*number, *number%400, clock.Now().Format(time.RFC1123Z), []string{"Can you come?", "All is well.", "See you."}[*number%3])
			if err := a.Receive(r.ctx, app.Incoming{Inbox: who.Inbox, To: "ines@norrholm.example", Source: "smtp", Raw: []byte(raw), At: clock.Now()}); err != nil {
				return err
			}
			clock.Advance(20 * time.Second)
		}
	}
	for n := 0; ; {
		page, err := a.List(r.ctx, who, decide.Inbox, false, 0, "")
		if err != nil {
			return err
		}
		if len(page.Rows) == 0 {
			break
		}
		for rows := range slices.Chunk(page.Rows, decidedOnce) {
			d := app.Deciding{Command: rand.Text(), Kind: decide.Done}
			if n++; n%7 == 0 {
				d.Kind, d.When, d.Sure = decide.PutOff, "in 2 days", true
			}
			for _, one := range rows {
				d.On = append(d.On, store.Seen{ID: one.ID, Last: one.Last})
			}
			clock.Advance(15 * time.Second)
			if _, err := a.Decide(r.ctx, who, d); err != nil {
				return err
			}
		}
	}
	clock.Advance(12 * time.Hour)
	_, err := a.RunDue(r.ctx)
	return err
}

// scan gives the median time of a bare query.
func (r *run) scan(file, query string, args ...any) (time.Duration, error) {
	db, err := sql.Open("sqlite3", "file:"+file+"?_query_only=1")
	if err != nil {
		return 0, err
	}
	defer db.Close()
	took, err := times(9, func() error {
		var n int
		return db.QueryRow(query, args...).Scan(&n)
	})
	if err != nil {
		return 0, err
	}
	return median(took), nil
}
