package app

import (
	"errors"
	"fmt"
	"time"

	"ebbe.example/ebbe/internal/core/change"
	"ebbe.example/ebbe/internal/core/decide"
	"ebbe.example/ebbe/internal/core/kinds"
	"ebbe.example/ebbe/internal/core/sending"
	"ebbe.example/ebbe/internal/core/when"
	"ebbe.example/ebbe/internal/say"
	"ebbe.example/ebbe/internal/store"
	"ebbe.example/ebbe/internal/work"
)

// calendar is the person's.
func (s *step) calendar() when.Calendar {
	p, err := s.Person()
	if err != nil {
		return when.Standard(time.UTC)
	}
	return p.Calendar()
}

// waitingSends are those letters that wait for a time of their own, and how many wait no
// longer.
func (s *step) waitingSends(on []EntryRef) (waiting []store.Outgoing, gone int, err error) {
	for _, ref := range on {
		o, err := s.Outgoing(ref.ID)
		if errors.Is(err, store.ErrNotFound) || err == nil && (o.State != sending.Waiting || !o.Later) {
			gone++
			continue
		}
		if err != nil {
			return nil, 0, err
		}
		waiting = append(waiting, o)
	}
	return waiting, gone, nil
}

func (s *step) moveSends(on []EntryRef, w wished) (int, error) {
	if !w.Timed() {
		return 0, work.Invalid("when", "A letter needs a time to leave at.")
	}
	at, err := sendable(w.Moment, s.At)
	if err != nil {
		return 0, err
	}
	waiting, gone, err := s.waitingSends(on)
	if err != nil {
		return 0, err
	}
	var changes change.List
	for _, o := range waiting {
		kinds.Outbox.SendAt.Set(&changes, o.ID, o.SendAt.UnixMilli(), at.UnixMilli())
	}
	return gone, s.Change(changes)
}

// cancelSends makes letters that wait drafts again.
func (s *step) cancelSends(on []EntryRef) (int, error) {
	waiting, gone, err := s.waitingSends(on)
	if err != nil {
		return 0, err
	}
	for _, o := range waiting {
		var changes change.List
		kinds.Outbox.State.Set(&changes, o.ID, o.State, sending.Unmade)
		if err := s.Change(changes); err != nil {
			return 0, err
		}
		if err := s.wakeDraft(o); err != nil {
			return 0, err
		}
	}
	return gone, nil
}

// missed gives a letter back whose time has passed so long ago that it may not be meant any
// more: it is a draft again, and what it answers comes back.
func (s *step) missed(o store.Outgoing) error {
	s.Final = true
	words := fmt.Sprintf("It was to leave %s, when Ebbe was not running. It was not sent.", s.speak(when.Exact(o.SendAt, s.calendar())))
	s.Title = "Not sent: “" + say.Shorten(o.Subject, 60) + "”. " + words
	if err := s.Retry(o.ID, s.At, words); err != nil {
		return err
	}
	var changes change.List
	kinds.Outbox.State.Set(&changes, o.ID, o.State, sending.Failed)
	if err := s.Change(changes); err != nil {
		return err
	}
	if o.Every != nil { // the next is not too late
		return s.again(o, s.At)
	}
	if err := s.wakeDraft(o); err != nil {
		return err
	}
	c, err := s.Conversation(o.Conversation)
	if err != nil || c.Letters == 0 {
		return nil //nolint:nilerr // it began a conversation: there is none to bring back
	}
	return s.Change(decide.Arrive(c.State(), decide.Came{At: s.At, Failed: true, From: inWords(o.Recipients), Detail: words}))
}
