package main

import (
	"crypto/rand"
	"fmt"
	"path/filepath"
	"time"

	"ebbe.example/ebbe/internal/app"
	"ebbe.example/ebbe/internal/core/decide"
	"ebbe.example/ebbe/internal/core/delivery"
	"ebbe.example/ebbe/internal/core/when"
)

// held is how many letters a round is measured with, replayed how many letters
// a replay.
const (
	held     = 10_000
	replayed = 2_000
)

// heldRounds holds letters with these headers, and gives how long they took to be let in, and
// that to be undone, sorted.
func (r *run) heldRounds(a *app.App, headers string) (in, out []time.Duration, err error) {
	if _, err := a.Hold(r.ctx, who, rand.Text(), app.Holding{}); err != nil {
		return nil, nil, err
	}
	now := time.Now()
	for i := range held {
		raw := fmt.Appendf(nil, "From: Person %d <p%[1]d@people.example>\r\nTo: ines@norrholm.example\r\nDate: %s\r\n"+headers+"\r\n\r\n%[4]s\r\n",
			i%300, now.Format(time.RFC1123Z), i, "Could you tell me by Friday whether the room is free? "+rand.Text())
		if err := a.Receive(r.ctx, app.Incoming{Inbox: who.Inbox, To: "ines@norrholm.example", Source: "smtp", Raw: raw, At: now}); err != nil {
			return nil, nil, err
		}
	}
	for range 5 {
		began := time.Now()
		step, err := a.LetIn(r.ctx, who, rand.Text(), 0, false)
		if err != nil {
			return nil, nil, err
		}
		in = append(in, time.Since(began))
		began = time.Now()
		if _, err := a.Undo(r.ctx, who, rand.Text(), step.Entry, true); err != nil {
			return nil, nil, err
		}
		out = append(out, time.Since(began))
	}
	slicesSort(in, out)
	return in, out, nil
}

// rounds measures a large round of letters with these headers, and its undo.
func (r *run) rounds(a *app.App, what, headers string) error {
	in, out, err := r.heldRounds(a, headers)
	if err != nil {
		return err
	}
	floor, err := r.rowsWritten(a.Store.Path(), held)
	if err != nil {
		return err
	}
	r.add(fmt.Sprintf("a round of %d %s", held, what), fmt.Sprintf("median %s, most %s", ms(median(in)), ms(in[len(in)-1])), floor, "under 1 s")
	r.add("its undo", fmt.Sprintf("median %s, most %s", ms(median(out)), ms(out[len(out)-1])), floor, "under 1 s")
	return nil
}

// delivering measures a large round and its undo, the gate, and a replay.
func (r *run) delivering() error {
	a, err := openAt(r.ctx, filepath.Join(r.folder, "round.db"))
	if err != nil {
		return err
	}
	defer a.Store.Close()
	if err := r.rounds(a, "letters", "Subject: Letter %[3]d\r\nMessage-ID: <held-%[3]d@people.example>"); err != nil {
		return err
	}
	if _, err := a.LetIn(r.ctx, who, rand.Text(), 0, true); err != nil {
		return err
	}
	all, err := a.Everything(r.ctx, who, decide.Inbox, 0)
	if err != nil {
		return err
	}
	if _, err := a.Decide(r.ctx, who, app.Deciding{Command: rand.Text(), Kind: decide.Done, On: all}); err != nil {
		return err
	}
	if err := r.rounds(a, "answers, each to a conversation of the archive", "Subject: Re: Letter %[3]d\r\nMessage-ID: <answer-%[3]d@people.example>\r\nIn-Reply-To: <held-%[3]d@people.example>"); err != nil {
		return err
	}

	now, c := time.Now(), when.Standard(time.Local)
	var p delivery.Plan
	for i := range 500 {
		d, m := &p.Days[i%7], when.Minute(i/7*20)
		if i%3 == 0 {
			d.Rounds = append(d.Rounds, m)
		} else {
			d.Closed = append(d.Closed, delivery.Span{From: m, To: m + 10})
		}
	}
	g := delivery.NewGate(p, c)
	state := func(g *delivery.Gate) string {
		const asked = 100_000
		began := time.Now()
		for i := range asked {
			g.State(now.Add(time.Duration(i)*time.Minute), delivery.OneOff{})
		}
		return fmt.Sprintf("%.1f µs", float64(time.Since(began).Nanoseconds())/asked/1000)
	}
	r.add("state and next delivery, a plan of 500 entries", state(g), state(delivery.NewGate(delivery.Plan{}, c))+": no plan", "50 µs")
	letters := make([]delivery.Sample, replayed)
	for i := range letters {
		letters[i] = delivery.Sample{At: now.Add(time.Duration(i) * 5 * time.Minute), Facts: delivery.Facts{From: fmt.Sprintf("p%d@people.example", i%300), Subject: "The room"}}
	}
	entries := []delivery.Through{{ID: 1, Kind: delivery.BySender, Value: "p7@people.example"}, {ID: 2, Kind: delivery.ByWords, Value: "frost alarm"}}
	replays, err := times(20, func() error { delivery.Run(g, entries, letters); return nil })
	if err != nil {
		return err
	}
	one, err := times(20, func() error { delivery.Run(g, entries, letters[:1]); return nil })
	if err != nil {
		return err
	}
	r.add(fmt.Sprintf("replay of %d letters", replayed), fmt.Sprintf("median %s, p95 %s", ms(median(replays)), ms(p95(replays))), ms(median(one))+": of one", "20 ms")
	return nil
}
