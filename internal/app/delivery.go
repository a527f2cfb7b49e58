package app

import (
	"context"
	"fmt"
	"time"

	"ebbe.example/ebbe/internal/core/change"
	"ebbe.example/ebbe/internal/core/decide"
	"ebbe.example/ebbe/internal/core/when"
	"ebbe.example/ebbe/internal/store"
)

// Hold holds delivery back from now on: until let in when until is empty, else
// until the phrase. A hold in force is replaced.
func (a *App) Hold(ctx context.Context, owner int64, command, until string) (Decided, error) {
	cmd := Command{ID: command, Owner: owner, Actor: ByPerson, Kind: "hold", Title: "Delivery held until you let it in"}
	return run(ctx, a, cmd, func(s *step) (Decided, error) {
		moment, err := s.optional(&until)
		if err != nil {
			return Decided{}, err
		}
		if moment != nil && moment.Precision == when.Open {
			moment = nil
		}
		var changes change.List
		current, err := s.CurrentHold()
		if err != nil {
			return Decided{}, err
		}
		if current != nil {
			changes.Set(current.Object(), "endedAt", nil, millisOf(s.at))
		}
		id, err := s.AddHold(store.Hold{From: s.at, Until: moment})
		if err != nil {
			return Decided{}, err
		}
		changes.Set(change.Object{Kind: "hold", ID: id}, "alive", false, true)
		if moment != nil {
			s.title = "Delivery held until " + s.speak(*moment)
		}
		return Decided{Entry: s.id, Title: s.title}, s.apply(changes)
	})
}

func millisOf(t time.Time) *int64 {
	ms := t.UnixMilli()
	return &ms
}

// LetIn is one round at this moment: it lets in everything that is held. With
// open the hold ends as well; without, it stays.
func (a *App) LetIn(ctx context.Context, owner int64, command string, open bool) (Decided, error) {
	cmd := Command{ID: command, Owner: owner, Actor: ByPerson, Kind: "let-in"}
	return run(ctx, a, cmd, func(s *step) (Decided, error) {
		// Letters that were seen can't be unseen.
		s.final = true
		n, err := s.round(open)
		if err != nil {
			return Decided{}, err
		}
		s.title = letInTitle(n)
		return Decided{Entry: s.id, Title: s.title}, nil
	})
}

func letInTitle(n int) string {
	switch n {
	case 0:
		return "Delivery is open; nothing was waiting"
	case 1:
		return "1 letter let in"
	}
	return fmt.Sprintf("%d letters let in", n)
}

// round lets in what was received up to now, and brings back what waits for a
// delivery. It returns the number of letters.
func (s *step) round(endHold bool) (int, error) {
	if endHold {
		hold, err := s.CurrentHold()
		if err != nil {
			return 0, err
		}
		if hold != nil {
			var changes change.List
			changes.Set(hold.Object(), "endedAt", nil, millisOf(s.at))
			if err := s.apply(changes); err != nil {
				return 0, err
			}
		}
	}
	letters, err := s.Held(s.at)
	if err != nil {
		return 0, err
	}
	addresses, err := s.OwnAddresses()
	if err != nil {
		return 0, err
	}
	own := ownKeys(addresses)
	for i, id := range letters {
		st, err := s.reopen(id, own)
		if err != nil {
			return 0, err
		}
		if err := s.letIn(st, s.at); err != nil {
			return 0, err
		}
		if i == len(letters)/2 {
			s.app.hook("round.midway")
		}
	}
	s.news.add("gate", 0)
	awaiting, err := s.Awaiting()
	if err != nil {
		return 0, err
	}
	for _, id := range awaiting {
		if err := s.comeBack(id); err != nil {
			return 0, err
		}
	}
	return len(letters), nil
}

// comeBack brings a put-off conversation back to the inbox.
func (s *step) comeBack(conversation int64) error {
	row, err := s.Conversation(conversation)
	if err != nil {
		return err
	}
	s.title = "Came back: “" + shorten(row.Title(), 60) + "”"
	if row.Return != nil && row.Return.When.Precision == when.Open && row.Return.If == when.Always {
		return s.apply(decide.LookThrough(row.State(), s.at))
	}
	return s.apply(decide.Due(row.State(), s.at))
}
