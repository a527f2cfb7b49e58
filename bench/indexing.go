package main

import (
	"context"
	"crypto/rand"
	"encoding/base64"
	"fmt"
	mathrand "math/rand/v2"
	"os/exec"
	"path/filepath"
	"slices"
	"time"

	"ebbe.example/ebbe/internal/apart"
	"ebbe.example/ebbe/internal/app"
	"ebbe.example/ebbe/internal/core/decide"
	"ebbe.example/ebbe/internal/store"
)

const (
	filed   = 600 // letters with a table of filedKB each
	filedKB = 100
	// turns are taken by decisions while files are read and while none are, so that both see the same machine.
	turns, turnOf = 8, 200
)

// indexing measures what reading the text of files costs decisions meanwhile.
func (r *run) indexing() error {
	a, err := openAt(r.ctx, filepath.Join(r.folder, "filed.db"))
	if err != nil {
		return err
	}
	defer a.Store.Close()
	random := mathrand.New(mathrand.NewPCG(3, 4)) //nolint:gosec // the same files each time
	for i := range filed {
		table := base64.StdEncoding.EncodeToString([]byte(words(random, filedKB*1000/6)))
		raw := fmt.Sprintf("From: Person %[2]d <p%[2]d@x.example>\r\nTo: ines@norrholm.example\r\nMessage-ID: <filed-%[1]d@bench.example>\r\nSubject: Table %[1]d\r\nMIME-Version: 1.0\r\n"+
			"Content-Type: text/csv; name=table.csv\r\nContent-Disposition: attachment; filename=table.csv\r\nContent-Transfer-Encoding: base64\r\n\r\n%[3]s\r\n", i, i%40, table)
		if err := a.Receive(r.ctx, app.Incoming{Inbox: who.Inbox, To: "ines@norrholm.example", Source: "smtp", Raw: []byte(raw), At: time.Now()}); err != nil {
			return err
		}
	}
	var all []store.Seen
	page, err := a.List(r.ctx, who, decide.Inbox, false, 0, "")
	if err != nil {
		return err
	}
	for _, row := range page.Rows {
		all = append(all, store.Seen{ID: row.ID, Last: row.Last})
	}
	a.Texts = &apart.Reader{Command: func() *exec.Cmd { return exec.CommandContext(context.Background(), "bin/ebbe", "read-files") }, Patience: 20 * time.Second}
	n := 0
	decisions := func() ([]time.Duration, error) {
		return times(turnOf, func() error {
			n++
			kind := decide.Done
			if n/len(all)%2 == 1 {
				kind = decide.ToInbox
			}
			_, err := a.Decide(r.ctx, who, app.Deciding{Command: rand.Text(), Kind: kind, On: all[n%len(all) : n%len(all)+1]})
			return err
		})
	}
	var alone, beside []time.Duration
	for range turns {
		took, err := decisions()
		if err != nil {
			return err
		}
		alone = append(alone, took...)
		ctx, stop := context.WithCancel(r.ctx)
		ended := make(chan error, 1)
		go func() { ended <- a.ReadFiles(ctx) }()
		if took, err = decisions(); err != nil {
			stop()
			return err
		}
		beside = append(beside, took...)
		stop()
		<-ended // broken off
	}
	slices.Sort(alone)
	slices.Sort(beside)
	r.add(fmt.Sprintf("a decision while the text of %d kB files is read", filedKB), fmt.Sprintf("median %s, p95 %s: %.2f of the floor", ms(median(beside)), ms(p95(beside)), ratio(median(beside), median(alone))),
		"median "+ms(median(alone))+", p95 "+ms(p95(alone))+": while none is", "1.1 of the floor")
	return nil
}
