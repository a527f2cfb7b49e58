package store

import (
	"math"
	"time"
)

// Past is what of the past a transaction has changed, of one inbox: whatever an account of days says of a time from
// Since on, or that has one of Days in it, may be another one now. What happens as it happens changes nothing
// before it.
type Past struct {
	Inbox int64
	Since time.Time
	Days  []time.Time
}

// OnPast has a function told of what of the past was changed, after it was.
func (s *Store) OnPast(told func(Past)) { s.past = told }

// past is the same while it is gathered.
type past struct {
	since int64 // math.MaxInt64 for nothing
	days  []int64
}

// touch notes that what is from a time on is no longer what it was.
func (e *ending) touch(owner, since int64) { e.pastOf(owner).since = min(e.pastOf(owner).since, since) }

func (e *ending) pastOf(owner int64) *past {
	if e.pasts == nil {
		e.pasts = map[int64]*past{}
	}
	if e.pasts[owner] == nil {
		e.pasts[owner] = &past{since: math.MaxInt64}
	}
	return e.pasts[owner]
}

// touchLetters notes that letters are no longer what they were; what came after them in their conversations isn't
// either.
//
// By hand: it is done with every letter that is sorted otherwise.
func (tx *Tx) touchLetters(ids string) error {
	since, err := tx.firstID("SELECT coalesce(min(received_at), ?) FROM letters WHERE +owner = ? AND id IN (SELECT value FROM json_each(?))", int64(math.MaxInt64), tx.who.Inbox, ids)
	tx.ending.touch(tx.who.Inbox, since)
	return err
}

// touchDays notes that a whole conversation goes: nothing of others is changed by that.
//
// By hand: two columns as one list.
func (tx *Tx) touchDays(conversation int64) error {
	days, err := tx.ids(`SELECT received_at FROM letters WHERE owner = ?1 AND conversation_id = ?2 UNION SELECT in_at FROM letters WHERE owner = ?1 AND conversation_id = ?2 AND in_at IS NOT NULL`,
		tx.who.Inbox, conversation)
	p := tx.ending.pastOf(tx.who.Inbox)
	p.days = append(p.days, days...)
	return err
}

// tellPast tells what of the past was changed.
func (s *Store) tellPast(pasts map[int64]*past) {
	if s.past == nil {
		return
	}
	for owner, p := range pasts {
		out := Past{Inbox: owner, Since: fromMillis(p.since)}
		for _, d := range p.days {
			out.Days = append(out.Days, fromMillis(d))
		}
		s.past(out)
	}
}
