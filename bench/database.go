package main

import (
	"context"
	"crypto/rand"
	"database/sql"
	"fmt"
	"log"
	"log/slog"
	"os"
	"path/filepath"
	"strings"
	"time"

	"github.com/jonboulle/clockwork"
	_ "github.com/mattn/go-sqlite3" // the floors use the driver bare

	"ebbe.example/ebbe/internal/app"
	"ebbe.example/ebbe/internal/core/decide"
	"ebbe.example/ebbe/internal/show"
	"ebbe.example/ebbe/internal/store"
)

var who = store.Own(1)

func (r *run) big() string { return filepath.Join(r.folder, "big.db") }

// filled makes the large database, where no row before has.
func (r *run) filled() error {
	if _, err := os.Stat(r.big()); err == nil {
		return nil
	}
	source := filepath.Join(r.folder, "big.mbox")
	if err := mbox(source, r.letters, 0); err != nil {
		return err
	}
	_, err := r.importInto(r.big(), source, r.letters)
	return err
}

func openAt(ctx context.Context, file string) (*app.App, error) {
	s, err := store.Open(file)
	if err != nil {
		return nil, err
	}
	if people, err := s.People(ctx); err == nil && len(people) == 0 {
		_, err = s.AddPerson(ctx, store.Person{Name: "Ines", SignIn: "ines", Zone: "Europe/Oslo"},
			[]store.Account{{Address: "ines@norrholm.example", Name: "Ines"}}, time.Now())
		if err != nil {
			return nil, err
		}
	}
	return app.New(s, clockwork.NewRealClock(), slog.New(slog.DiscardHandler)), nil
}

// reading measures the inbox page and the search against the bare queries.
func (r *run) reading() error {
	if err := r.filled(); err != nil {
		return err
	}
	a, err := openAt(r.ctx, r.big())
	if err != nil {
		return err
	}
	defer a.Store.Close()
	db, err := sql.Open("sqlite3", "file:"+r.big()+"?_query_only=1")
	if err != nil {
		return err
	}
	defer db.Close()
	const looks = 100
	compare := func(what, reach, floorQuery string, args []any, fn func() error) error {
		floor, err := times(looks, scanned(db, floorQuery, args...))
		if err != nil {
			return err
		}
		got, err := times(looks, fn)
		if err != nil {
			return err
		}
		r.add(what, fmt.Sprintf("median %s, p95 %s, %.1f times the floor", ms(median(got)), ms(p95(got)), ratio(median(got), median(floor))), "median "+ms(median(floor)), reach)
		return nil
	}
	err = compare("inbox page of 100", "3 times the floor, p95 10 ms",
		"SELECT * FROM conversations WHERE owner = 1 AND place = 'inbox' ORDER BY back_rank DESC, queue_at DESC, id DESC LIMIT 100", nil, func() error {
			_, err := a.List(r.ctx, who, decide.Inbox, false, 0, "")
			return err
		})
	if err != nil {
		return err
	}
	for word, reach := range map[string]string{"the": "2 times the floor, p95 50 ms", "zyzzyva": "2 times the floor, p95 10 ms"} {
		err := compare("search for a word ("+word+")", reach, `SELECT l.*, c.* FROM letters_text t JOIN letters l ON l.row_key = t.rowid JOIN conversations c ON c.id = l.conversation_id
			WHERE t.letters_text MATCH ? ORDER BY t.rank LIMIT 100`, []any{`"` + word + `"`}, func() error {
			_, err := a.Search(r.ctx, who, show.Asked{Q: word})
			return err
		})
		if err != nil {
			return err
		}
	}
	// A word as it is typed: each beginning of it is looked for.
	for _, word := range []string{"tuesday", "the", "zyzzyva"} {
		for n := 2; n <= len(word); n += 3 {
			typed := word[:n]
			err := compare("results as typed ("+typed+")", "2 times the floor", `SELECT l.*, c.* FROM letters_text t CROSS JOIN letters l ON l.row_key = t.rowid JOIN conversations c ON c.id = l.conversation_id
				WHERE t.letters_text MATCH ? ORDER BY t.rowid DESC LIMIT ?`, []any{`"` + typed + `" *`, show.PageSize}, func() error {
				_, err := a.Search(r.ctx, who, show.Asked{Q: typed})
				return err
			})
			if err != nil {
				return err
			}
		}
	}
	counts, err := times(5, func() error {
		_, err := a.SearchCounts(r.ctx, who, show.Asked{Q: "the"})
		return err
	})
	if err != nil {
		return err
	}
	r.add("counts of a word that stands in all letters (the)", "median "+ms(median(counts)), "", "under 1 s")
	return nil
}

// deciding measures 10,000 decisions at once and their undo.
func (r *run) deciding() error {
	if err := r.filled(); err != nil {
		return err
	}
	a, err := openAt(r.ctx, r.big())
	if err != nil {
		return err
	}
	defer a.Store.Close()
	all, err := a.Everything(r.ctx, who, decide.Inbox, 0)
	if err != nil {
		return err
	}
	for _, n := range []int{1_000, min(10_000, len(all))} {
		if err := r.decidingAll(a, all[:n]); err != nil {
			return err
		}
	}
	return nil
}

// decidingAll measures a decision on many letters at once and its undo.
func (r *run) decidingAll(a *app.App, all []store.Seen) error {
	n := len(all)
	var done, undone []time.Duration
	for range 5 {
		began := time.Now()
		if _, err := a.Decide(r.ctx, who, app.Deciding{Command: rand.Text(), Kind: decide.Done, On: all}); err != nil {
			return err
		}
		done = append(done, time.Since(began))
		began = time.Now()
		if _, err := a.Undo(r.ctx, who, rand.Text(), 0, true); err != nil {
			return err
		}
		undone = append(undone, time.Since(began))
	}
	db, err := sql.Open("sqlite3", "file:"+r.big()+"?_synchronous=FULL")
	if err != nil {
		return err
	}
	defer db.Close()
	floor, err := times(5, func() error {
		_, err := db.Exec("UPDATE conversations SET place_since = place_since + 1 WHERE id IN (SELECT id FROM conversations WHERE place = 'inbox' LIMIT ?)", n)
		return err
	})
	if err != nil {
		return err
	}
	slicesSort(done, undone)
	reach := "under 0.6 s"
	if n == 1_000 {
		reach = "under 150 ms"
	}
	r.add(fmt.Sprintf("decide %d letters at once", n), ms(median(done)), ms(median(floor))+": one UPDATE", reach)
	r.add(fmt.Sprintf("undo %d decisions at once", n), ms(median(undone)), ms(median(floor))+": one UPDATE", reach)
	return nil
}

// returning measures setting one return beside 10 and beside all others.
func (r *run) returning() error {
	if err := r.filled(); err != nil {
		return err
	}
	a, err := openAt(r.ctx, r.big())
	if err != nil {
		return err
	}
	defer a.Store.Close()
	all, err := a.Everything(r.ctx, who, decide.Inbox, 0)
	if err != nil {
		return err
	}
	put := func(on []store.Seen) error {
		_, err := a.Decide(r.ctx, who, app.Deciding{Command: rand.Text(), Kind: decide.PutOff, When: "in 3 months", On: on})
		return err
	}
	measure := func(from int) (time.Duration, error) {
		i := from
		got, err := times(50, func() error { i++; return put(all[i : i+1]) })
		if err != nil {
			return 0, err
		}
		return median(got), nil
	}
	if err := put(all[:10]); err != nil {
		return err
	}
	if err := r.settle(); err != nil {
		return err
	}
	var few, many []time.Duration
	for i := range 5 {
		d, err := measure(10 + 50*i)
		if err != nil {
			return err
		}
		few = append(few, d)
	}
	rest := len(all) - 400
	if err := put(all[300:rest]); err != nil {
		return err
	}
	if err := r.fillReturns(futureReturns - (rest - 300)); err != nil {
		return err
	}
	for i := range 5 {
		d, err := measure(rest + 50*i)
		if err != nil {
			return err
		}
		many = append(many, d)
	}
	slicesSort(few, many)
	began := time.Now()
	next, err := a.RunDue(r.ctx)
	if err != nil {
		return err
	}
	log.Printf("one look for what is due took %s; the next is %s", time.Since(began), next)
	r.add(fmt.Sprintf("setting a return beside %d others", futureReturns), fmt.Sprintf("%s, %.2f times", ms(median(many)), ratio(median(many), median(few))), ms(median(few))+": beside 10", "1.3 times")
	return r.picking(a, all[0].ID)
}

// futureReturns is how many letters are put off while one more is.
const futureReturns = 100_000

// settle lets what was written settle, as it would in time.
func (r *run) settle() error { return r.sql("PRAGMA wal_checkpoint(TRUNCATE)") }

// sql runs a statement past Ebbe.
func (r *run) sql(text string, args ...any) error { return r.in(r.big(), text, args...) }

// in runs one past Ebbe in another file.
func (r *run) in(file, text string, args ...any) error {
	db, err := sql.Open("sqlite3", "file:"+file+"?_busy_timeout=10000&_synchronous=FULL")
	if err != nil {
		return err
	}
	defer db.Close()
	_, err = db.ExecContext(r.ctx, text, args...)
	return err
}

// fillReturns adds put-off conversations that there are not letters enough for.
func (r *run) fillReturns(n int) error {
	for _, s := range []struct {
		text string
		arg  any
	}{
		{`WITH RECURSIVE n(i) AS (SELECT 1 UNION ALL SELECT i + 1 FROM n WHERE i < ?)
			INSERT INTO conversations (owner, place, subject) SELECT 1, 'later', 'Put off ' || i FROM n`, max(n, 1)},
		{`INSERT INTO returns (conversation_id, owner, due, precise, value)
			SELECT id, 1, ? + id * 60000, 1, '{"when":{"phrase":"later","precision":"minute"}}' FROM conversations WHERE subject LIKE 'Put off %'`,
			time.Now().AddDate(0, 1, 0).UnixMilli()},
	} {
		if err := r.sql(s.text, s.arg); err != nil {
			return err
		}
	}
	return r.settle()
}

// picking measures what is computed while a time is asked for, and the day
// line, with a long history and many follow-ups.
func (r *run) picking(a *app.App, conversation int64) error {
	// What came in and was decided in one go here happens over eight weeks.
	if err := r.sql("UPDATE place_history SET at = at - id % 56 * 86400000"); err != nil {
		return err
	}
	if err := r.sql("UPDATE journal SET at = at - id % 56 * 86400000"); err != nil {
		return err
	}
	if err := r.settle(); err != nil {
		return err
	}
	for i := range 5000 {
		title, due := fmt.Sprint("Task ", i), fmt.Sprintf("in %d days", 1+i%60)
		if _, err := a.NewFollowUp(r.ctx, who, rand.Text(), app.FollowUpFields{Title: &title, Due: &due}); err != nil {
			return err
		}
	}
	for what, step := range map[string]struct {
		reach string
		fn    func() error
	}{
		"the picker, 5000 follow-ups": {"50 ms", func() error {
			_, err := a.ReadPhrase(r.ctx, who, show.Asking{Phrase: "fri 2pm", Conversation: conversation, Count: 1})
			return err
		}},
		"the day line and its expectation": {"30 ms", func() error {
			_, err := a.Day(r.ctx, who, 0)
			return err
		}},
	} {
		got, err := times(50, step.fn)
		if err != nil {
			return err
		}
		floor, err := r.nothingRead(a)
		if err != nil {
			return err
		}
		r.add(what, fmt.Sprintf("median %s, p95 %s", ms(median(got)), ms(p95(got))), floor, step.reach)
	}
	return nil
}

func residentMB(pid int) int {
	text, err := os.ReadFile(fmt.Sprintf("/proc/%d/status", pid))
	if err != nil {
		return 0
	}
	for line := range strings.Lines(string(text)) {
		var kb int
		if n, _ := fmt.Sscanf(line, "VmRSS: %d kB", &kb); n == 1 {
			return kb >> 10
		}
	}
	return 0
}
