package app

import (
	"context"
	"errors"
	"strings"
	"time"

	"ebbe.example/ebbe/internal/core/learning"
	"ebbe.example/ebbe/internal/say"
	"ebbe.example/ebbe/internal/store"
	"ebbe.example/ebbe/internal/work"
)

const (
	// atOnce is of how many steps of the Journal lessons are made at a time.
	atOnce = 2000
	// settling is how long decisions are waited for that follow each other before they are learned.
	settling = 2 * time.Second
)

// Learn makes lessons of what was done since it was last called, and learns from them anew.
// An inbox of which that fails keeps what was learned before; the others go on.
func (a *App) Learn(ctx context.Context) error {
	a.learning.Lock() // what was read later is never learned before
	defer a.learning.Unlock()
	due := map[int64]bool{} // and whether open pages are told
	for more := true; more && ctx.Err() == nil; {
		var inboxes []store.Taught
		var err error
		if inboxes, more, err = a.Store.Teach(ctx, atOnce); err != nil {
			return err
		}
		for _, inbox := range inboxes {
			due[inbox.Owner] = due[inbox.Owner] || inbox.Said
		}
	}
	for inbox, said := range due {
		lessons, err := read(ctx, a, store.Nobody(inbox), func(tx *store.Tx) ([]learning.Lesson, error) { return tx.Lessons() })
		if err != nil {
			a.Log.Error("what was decided is not learned from", "inbox", inbox, "reason", err)
			continue
		}
		a.Learned.Renew(inbox, lessons)
		if said {
			a.Publish(inbox, work.News{Stale: []work.Reading{work.ReadList, work.ReadConversation, work.ReadGroups, work.ReadLearned}})
		}
	}
	return nil
}

// KeepLearning learns, beside all else, from what is done, until ctx ends.
func (a *App) KeepLearning(ctx context.Context) {
	for {
		if err := errors.Join(a.Learn(ctx), a.LearnJunk(ctx)); err != nil && ctx.Err() == nil {
			a.Log.Error("what was decided is not learned from", "reason", err)
		}
		select {
		case <-ctx.Done():
			return
		case <-a.taught:
		}
		select {
		case <-ctx.Done():
			return
		case <-a.Clock.After(settling):
		}
	}
}

// teaches tells whoever learns that a command may have taught something.
func (a *App) teaches(cmd work.Command) {
	if cmd.Actor != work.ByPerson || cmd.Kind != "sort" && cmd.Kind != "refuse" && cmd.Kind != junkKind && cmd.Kind != undoKind && cmd.Kind != store.MattersKind && cmd.Kind != store.ForgetKind && !strings.HasPrefix(cmd.Kind, "decide:") {
		return
	}
	select {
	case a.taught <- struct{}{}:
	default: // it is told already
	}
}

// Mattering says of conversations whether they matter.
type Mattering struct {
	Command string
	On      []store.Seen
	Matters bool
}

// Matters keeps what its owner says of some letters, whatever was learned. It teaches, too.
func (a *App) Matters(ctx context.Context, who store.Who, in Mattering) (Decided, error) {
	cmd := work.Command{ID: in.Command, Who: who, Actor: work.ByPerson, Kind: store.MattersKind}
	decided, err := run(ctx, a, cmd, func(s *step) (Decided, error) {
		rows, err := s.named(in.On)
		if err != nil {
			return Decided{}, err
		}
		letters, err := s.Learns(idsOf(rows))
		if err != nil {
			return Decided{}, err
		}
		if len(letters) == 0 {
			return Decided{}, work.Refuse("Only letters of somebody else’s matter or don’t.")
		}
		said, words := learning.Denied, "Doesn’t matter: "
		if in.Matters {
			said, words = learning.Said, "Matters: "
		}
		for _, r := range rows {
			l, ok := letters[r.ID]
			if !ok {
				continue
			}
			if err := s.AddLesson(s.ID, s.At, l.Letter, said); err != nil {
				return Decided{}, err
			}
		}
		s.Title, s.Changed = words+namedTitle(rows), true
		return Decided{Entry: s.ID, Title: s.Title, Left: s.gone()}, nil
	})
	if err == nil {
		err = a.Learn(ctx)
	}
	return decided, err
}

// Forget forgets what was learned of who wrote in a conversation.
func (a *App) Forget(ctx context.Context, who store.Who, command string, conversation int64) (Decided, error) {
	if err := a.Learn(ctx); err != nil { // also what was done just now
		return Decided{}, err
	}
	cmd := work.Command{ID: command, Who: who, Actor: work.ByPerson, Kind: store.ForgetKind}
	decided, err := run(ctx, a, cmd, func(s *step) (Decided, error) {
		letters, err := s.Learns([]int64{conversation})
		if err != nil {
			return Decided{}, err
		}
		l, ok := letters[conversation]
		if !ok {
			return Decided{}, work.Gone("That conversation is no longer there.")
		}
		n, err := s.Tx.Forget(s.ID, l.Sender)
		if err != nil {
			return Decided{}, err
		}
		if n == 0 {
			return Decided{}, work.Refuse("Nothing was learned of %s.", l.Sender)
		}
		s.Title, s.Changed = "Forgot what was learned of "+l.Sender+", from "+say.Count(n, "letter"), true
		return Decided{Entry: s.ID, Title: s.Title}, nil
	})
	if err == nil {
		err = a.Learn(ctx)
	}
	return decided, err
}
