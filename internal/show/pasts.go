package show

import (
	"slices"
	"sync"
	"time"

	"ebbe.example/ebbe/internal/core/decide"
	"ebbe.example/ebbe/internal/core/review"
	"ebbe.example/ebbe/internal/core/when"
	"ebbe.example/ebbe/internal/store"
)

// Pasts keep what days that are over came to, so that a year is not read anew each time it is looked at. What
// changes the past (an undo, a letter that is purged or sorted otherwise) says so, and what it may have changed is
// read again.
type Pasts struct {
	mu sync.Mutex
	of map[int64]*pastOf
}

// stretch is a person's time by its bounds, in milliseconds: days begin elsewhere once they are in another zone, and
// what was decided in them is each person's own.
type stretch struct{ person, from, to int64 }

type pastOf struct {
	days map[stretch]review.Day
	// changes counts what was told, and latest are the last of it: what was read before some is not kept, if it was
	// of their time.
	changes int
	latest  []store.Past
}

// latestPasts are how many changes are remembered; what was read before more of them is not kept.
const latestPasts = 100

func (p *Pasts) at(inbox int64) *pastOf {
	if p.of == nil {
		p.of = map[int64]*pastOf{}
	}
	if p.of[inbox] == nil {
		p.of[inbox] = &pastOf{days: map[stretch]review.Day{}}
	}
	return p.of[inbox]
}

// Changed forgets what may have been changed.
func (p *Pasts) Changed(c store.Past) {
	p.mu.Lock()
	defer p.mu.Unlock()
	of := p.at(c.Inbox)
	of.changes++
	if of.latest = append(of.latest, c); len(of.latest) > latestPasts {
		of.latest = slices.Delete(of.latest, 0, 1)
	}
	for s := range of.days {
		if concerns(c, s) {
			delete(of.days, s)
		}
	}
}

func concerns(c store.Past, s stretch) bool {
	return c.Since.UnixMilli() < s.to || slices.ContainsFunc(c.Days, func(d time.Time) bool { return d.UnixMilli() >= s.from && d.UnixMilli() < s.to })
}

// Seen is how much was told of an inbox until now. It is asked before what is kept is read.
func (p *Pasts) Seen(inbox int64) int {
	p.mu.Lock()
	defer p.mu.Unlock()
	return p.at(inbox).changes
}

// Of is what a day came to, if that is kept.
func (p *Pasts) Of(inbox int64, s stretch) (review.Day, bool) {
	p.mu.Lock()
	defer p.mu.Unlock()
	d, ok := p.at(inbox).days[s]
	return d, ok
}

// Keep keeps what a day came to, as it was read since so much was told.
func (p *Pasts) Keep(inbox int64, s stretch, d review.Day, seen int) {
	p.mu.Lock()
	defer p.mu.Unlock()
	of := p.at(inbox)
	missed := of.changes - seen
	if missed > len(of.latest) || slices.ContainsFunc(of.latest[len(of.latest)-missed:], func(c store.Past) bool { return concerns(c, s) }) {
		return
	}
	of.days[s] = d
}

// lookBack gives what days came to, from the first to before the last, as far as they have begun.
type lookBack struct {
	Viewer
	tx    *store.Tx
	pasts *Pasts
	seen  int
	inbox int
}

func (a *Show) lookBack(tx *store.Tx, seen int) (lookBack, error) {
	v, err := a.Viewer(tx)
	if err != nil {
		return lookBack{}, err
	}
	inbox, err := tx.Undecided(decide.Inbox)
	return lookBack{v, tx, &a.Pasts, seen, inbox}, err
}

// days gives what days came to; those that lie ahead are left out.
func (l lookBack) days(from, to when.Date) ([]review.Day, error) {
	var bounds []time.Time
	for d := from; d.Before(to) && !l.Cal.Begins(d).After(l.Now); d = d.Add(1) {
		bounds = append(bounds, l.Cal.Begins(d))
	}
	out := make([]review.Day, len(bounds))
	if len(bounds) == 0 {
		return out, nil
	}
	bounds = append(bounds, l.Cal.Begins(from.Add(len(bounds))))
	who := l.tx.Who()
	for i := 0; i < len(out); i++ {
		first := i
		for ; i < len(out); i++ {
			day, kept := l.pasts.Of(who.Inbox, stretchOf(who, bounds, i))
			if kept {
				out[i] = day
				break
			}
		}
		if first == i {
			continue
		}
		read, err := l.read(bounds[first : i+1])
		if err != nil {
			return nil, err
		}
		for n, day := range read {
			out[first+n] = day
			if !bounds[first+n+1].After(l.Now) {
				l.pasts.Keep(who.Inbox, stretchOf(who, bounds, first+n), day, l.seen)
			}
		}
	}
	return out, nil
}

func stretchOf(who store.Who, bounds []time.Time, i int) stretch {
	return stretch{who.Person, bounds[i].UnixMilli(), bounds[i+1].UnixMilli()}
}

// read reads days that follow each other, from each bound to the next.
func (l lookBack) read(bounds []time.Time) ([]review.Day, error) {
	from, to := bounds[0], bounds[len(bounds)-1]
	until := to
	if until.After(l.Now) {
		until = l.Now.Add(time.Millisecond) // what happens now has happened
	}
	passed, err := l.tx.PassedPlainly(from, until)
	if err != nil {
		return nil, err
	}
	tide, err := l.tideOf(l.tx, l.inbox, from, to)
	return review.Days(passed, tide, bounds), err
}
