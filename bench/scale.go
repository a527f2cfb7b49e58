package main

import (
	"bytes"
	"context"
	"crypto/rand"
	"database/sql"
	"encoding/json"
	"fmt"
	"log"
	"net/http"
	"net/http/cookiejar"
	"os"
	"path/filepath"
	"slices"
	"sync"
	"time"

	"github.com/alexedwards/argon2id"

	"ebbe.example/ebbe/internal/app"
	"ebbe.example/ebbe/internal/core/decide"
	"ebbe.example/ebbe/internal/show"
	"ebbe.example/ebbe/internal/store"
)

// scale measures how Ebbe grows: with letters, with persons, and while many sign in. It
// takes a quarter of an hour, so that it is run by “make bench-scale” alone.
func (r *run) scale() error {
	for _, n := range []int{15_000, 100_000, 500_000} {
		if n > r.letters*5 {
			break // a smaller run, to try it
		}
		if err := r.lettersAt(n); err != nil {
			return err
		}
	}
	for _, n := range []int{1, 5, 20} {
		if err := r.personsAt(n); err != nil {
			return err
		}
	}
	return r.signingIn()
}

// lettersAt measures what is done all day with so many letters.
func (r *run) lettersAt(n int) error {
	source, file := filepath.Join(r.folder, "scale.mbox"), filepath.Join(r.folder, fmt.Sprintf("scale-%d.db", n))
	if err := mbox(source, n, 0); err != nil {
		return err
	}
	info, err := os.Stat(source)
	if err != nil {
		return err
	}
	rate, err := r.importInto(file, source, n)
	if err != nil {
		return err
	}
	name := func(what string) string { return fmt.Sprintf("%d letters: %s", n, what) }
	r.add(name("import"), fmt.Sprintf("%.0f a second", rate), fmt.Sprintf("a file of %d MB", info.Size()>>20), "as fast as with few")
	a, err := openAt(r.ctx, file)
	if err != nil {
		return err
	}
	defer a.Store.Close()
	all, err := a.Everything(r.ctx, who, decide.Inbox, 0)
	if err != nil {
		return err
	}
	i := 0
	for _, step := range []struct {
		what, reach string
		do          func() error
	}{
		{"inbox page", "p95 10 ms", func() error { _, err := a.List(r.ctx, who, decide.Inbox, false, 0, ""); return err }},
		{"search for a rare word", "p95 10 ms", func() error { _, err := a.Search(r.ctx, who, show.Asked{Q: "zyzzyva"}); return err }},
		{"search for a common word", "p95 50 ms", func() error { _, err := a.Search(r.ctx, who, show.Asked{Q: "the"}); return err }},
		{"overview", "p95 15 ms", func() error { _, err := a.Overview(r.ctx, who); return err }},
		{"day line", "p95 15 ms", func() error { _, err := a.Day(r.ctx, who, 0); return err }},
		{"a decision", "p95 20 ms", func() error {
			i++
			_, err := a.Decide(r.ctx, who, app.Deciding{Command: rand.Text(), Kind: decide.Done, On: all[i : i+1]})
			return err
		}},
	} {
		got, err := times(100, step.do)
		if err != nil {
			return err
		}
		r.add(name(step.what), fmt.Sprintf("median %s, p95 %s", ms(median(got)), ms(p95(got))), "", step.reach)
	}
	tables, err := bytesByTable(r.ctx, file, n)
	if err != nil {
		return err
	}
	r.add(name("bytes of each in the database"), tables, fmt.Sprintf("%d bytes in the file", info.Size()/int64(n)), "")
	return os.Remove(source)
}

// bytesByTable says how many bytes of the database each letter takes, by table, with its
// indexes; small ones are left out.
func bytesByTable(ctx context.Context, file string, letters int) (string, error) {
	db, err := sql.Open("sqlite3", "file:"+file)
	if err != nil {
		return "", err
	}
	defer db.Close()
	rows, err := db.QueryContext(ctx, `SELECT coalesce(m.tbl_name, s.name), sum(s.pgsize) / ?1 AS each FROM dbstat s LEFT JOIN sqlite_schema m ON m.name = s.name
		GROUP BY 1 HAVING each >= 20 ORDER BY each DESC`, letters)
	if err != nil {
		return "", fmt.Errorf("built without dbstat: %w", err)
	}
	defer rows.Close()
	words, sum := "", 0
	for rows.Next() {
		var table string
		var each int
		if err := rows.Scan(&table, &each); err != nil {
			return "", err
		}
		words += fmt.Sprintf(", %s %d", table, each)
		sum += each
	}
	return fmt.Sprintf("%d%s", sum, words), rows.Err()
}

// scalePersons makes an Ebbe in which so many persons have letters each.
func (r *run) scalePersons(n, letters int) (file string, persons []store.Who, err error) {
	file = filepath.Join(r.folder, fmt.Sprintf("persons-%d-%d.db", n, letters))
	source := filepath.Join(r.folder, "persons.mbox")
	if err := mbox(source, letters, 0); err != nil {
		return "", nil, err
	}
	a, err := openAt(r.ctx, file)
	if err != nil {
		return "", nil, err
	}
	defer a.Store.Close()
	params := *argon2id.DefaultParams
	hash, err := argon2id.CreateHash(password, &params)
	if err != nil {
		return "", nil, err
	}
	for i := range n {
		w := who
		if i > 0 {
			address := fmt.Sprintf("p%d@norrholm.example", i)
			if w, err = a.Store.AddPerson(r.ctx, store.Person{Name: "Person", SignIn: address, Zone: "Europe/Oslo"}, []store.Account{{Address: address, Name: "Person"}}, time.Now()); err != nil {
				return "", nil, err
			}
		}
		persons = append(persons, w)
		if err := a.Store.SetPassword(r.ctx, w.Person, hash); err != nil {
			return "", nil, err
		}
		if _, err := a.ImportNow(r.ctx, w, app.Importing{Command: fmt.Sprint("bench import ", i), Name: "bench", Path: source, InboxDays: everyDay}, nil); err != nil {
			return "", nil, err
		}
	}
	return file, persons, nil
}

// personsAt measures what one of so many persons waits for while all of them decide.
func (r *run) personsAt(n int) error {
	file, persons, err := r.scalePersons(n, 2000)
	if err != nil {
		return err
	}
	a, err := openAt(r.ctx, file)
	if err != nil {
		return err
	}
	defer a.Store.Close()
	const each = 100
	var mu sync.Mutex
	var pages, decisions []time.Duration
	var failed error
	var all sync.WaitGroup
	began := time.Now()
	for _, w := range persons {
		all.Go(func() {
			there, err := a.Everything(r.ctx, w, decide.Inbox, 0)
			for i := 0; err == nil && i < each; i++ {
				at := time.Now()
				if _, err = a.Decide(r.ctx, w, app.Deciding{Command: rand.Text(), Kind: decide.Done, On: there[i : i+1]}); err != nil {
					break
				}
				decided := time.Now()
				if _, err = a.List(r.ctx, w, decide.Inbox, false, 0, ""); err != nil {
					break
				}
				mu.Lock()
				decisions, pages = append(decisions, decided.Sub(at)), append(pages, time.Since(decided))
				mu.Unlock()
			}
			if err != nil {
				mu.Lock()
				failed = err
				mu.Unlock()
			}
		})
	}
	all.Wait()
	if failed != nil {
		return failed
	}
	rate := float64(len(decisions)) / time.Since(began).Seconds()
	slicesSort(pages, decisions)
	r.add(fmt.Sprintf("%d persons, each deciding without a pause", n), fmt.Sprintf("%.0f decisions a second; one waits median %s, p95 %s; for the page after it %s, p95 %s",
		rate, ms(median(decisions)), ms(p95(decisions)), ms(median(pages)), ms(p95(pages))), "", "")
	return nil
}

// signingIn measures what somebody waits for the inbox while twenty others sign in.
func (r *run) signingIn() error {
	file, _, err := r.scalePersons(20, 200)
	if err != nil {
		return err
	}
	server, err := start(file, "127.0.0.1:8675", "127.0.0.1:8676")
	if err != nil {
		return err
	}
	defer func() { _ = server.Process.Kill(); _ = server.Wait() }()
	const url = "http://127.0.0.1:8675"
	enter := func(name string) (*http.Client, error) {
		jar, err := cookiejar.New(nil)
		if err != nil {
			return nil, err
		}
		c := &http.Client{Jar: jar, Timeout: time.Minute}
		body, err := json.Marshal(map[string]string{"name": name, "password": password})
		if err != nil {
			return nil, err
		}
		answer, err := c.Post(url+"/api/session", "application/json", bytes.NewReader(body))
		if err != nil {
			return nil, err
		}
		defer answer.Body.Close()
		if answer.StatusCode >= 300 {
			return nil, fmt.Errorf("%s signs in: %s", name, answer.Status)
		}
		return c, nil
	}
	ines, err := enter("ines")
	if err != nil {
		return err
	}
	page := func() error {
		ask, err := http.NewRequestWithContext(r.ctx, http.MethodGet, url+"/api/places/inbox", nil)
		if err != nil {
			return err
		}
		ask.Header.Set("Ebbe-Person", "1")
		ask.Header.Set("Ebbe-Inbox", "1")
		answer, err := ines.Do(ask)
		if err != nil {
			return err
		}
		defer answer.Body.Close()
		if answer.StatusCode != http.StatusOK {
			return fmt.Errorf("the inbox: %s", answer.Status)
		}
		return nil
	}
	alone, err := times(200, page)
	if err != nil {
		return err
	}
	began := time.Now()
	var others sync.WaitGroup
	took := make([]time.Duration, 19)
	for i := range took {
		others.Go(func() {
			if _, err := enter(fmt.Sprintf("p%d@norrholm.example", i+1)); err != nil {
				log.Print(err)
			}
			took[i] = time.Since(began)
		})
	}
	done := make(chan struct{})
	go func() { others.Wait(); close(done) }()
	var beside []time.Duration
	for ended := false; !ended; {
		select {
		case <-done:
			ended = true
		default:
			got, err := times(1, page)
			if err != nil {
				return err
			}
			beside = append(beside, got...)
		}
	}
	slices.Sort(beside)
	slices.Sort(took)
	r.add("the inbox while nineteen others sign in at once", fmt.Sprintf("median %s, p95 %s; the last is in after %s, at most %d MB",
		ms(median(beside)), ms(p95(beside)), ms(took[len(took)-1]), residentMB(server.Process.Pid)), fmt.Sprintf("median %s, p95 %s: nobody signs in", ms(median(alone)), ms(p95(alone))), "p95 twice the floor")
	return nil
}
