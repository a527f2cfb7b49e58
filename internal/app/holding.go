package app

import (
	"context"
	"encoding/json"
	"slices"
	"strings"
	"time"

	"ebbe.example/ebbe/internal/core/autoanswer"
	"ebbe.example/ebbe/internal/core/change"
	"ebbe.example/ebbe/internal/core/decide"
	"ebbe.example/ebbe/internal/core/delivery"
	"ebbe.example/ebbe/internal/core/kinds"
	"ebbe.example/ebbe/internal/core/letter"
	"ebbe.example/ebbe/internal/core/sending"
	"ebbe.example/ebbe/internal/core/when"
	"ebbe.example/ebbe/internal/store"
	"ebbe.example/ebbe/internal/work"
)

// holdingNote is the person's note, or the usual one, which is off.
func holdingNote(p store.Person) delivery.Note {
	n := delivery.UsualNote
	if p.HoldingNote != "" {
		_ = json.Unmarshal([]byte(p.HoldingNote), &n) // what can't be read leaves the usual one
	}
	n.Causes = orEmpty(n.Causes)
	return n
}

// SetHoldingNote changes what people are told whose letters wait.
func (a *App) SetHoldingNote(ctx context.Context, who store.Who, command string, n delivery.Note) (Decided, error) {
	cmd := work.Command{ID: command, Who: who, Actor: work.ByPerson, Kind: "holding-note", Title: "Holding note changed"}
	return run(ctx, a, cmd, func(s *step) (Decided, error) {
		if err := n.Check(); err != nil {
			return Decided{}, work.Invalid("note", "%s", sentence(err))
		}
		p, err := s.Person()
		if err != nil {
			return Decided{}, err
		}
		before := holdingNote(p)
		switch {
		case len(n.Causes) == 0:
			s.Title = "Holding note off"
		case len(before.Causes) == 0:
			s.Title = "Holding note on"
		}
		value, err := json.Marshal(n)
		if err != nil {
			return Decided{}, err
		}
		var changes change.List
		kinds.Person.HoldingNote.Set(&changes, p.ID, p.HoldingNote, string(value))
		return Decided{Entry: s.ID, Title: s.Title}, s.Change(changes)
	})
}

// nextInWords is the next delivery as a stranger reads it.
func nextInWords(next time.Time, c when.Calendar) string {
	if next.IsZero() {
		return ""
	}
	return next.In(c.Zone).Format("on Monday 2 January at 15:04")
}

// NotePreview is the note as its receiver reads it.
func (a *App) NotePreview(ctx context.Context, who store.Who, n delivery.Note) (string, error) {
	return read(ctx, a, who, func(tx *store.Tx) (string, error) {
		if err := n.Check(); err != nil {
			return "", work.Invalid("note", "%s", sentence(err))
		}
		accounts, err := tx.Accounts()
		if err != nil || len(accounts) == 0 {
			return "", err
		}
		g, err := gatesOf(tx)
		if err != nil {
			return "", err
		}
		next := nextInWords(g.state(0, a.Now()).Next, g.cal)
		return "From: " + letter.Address{Name: accounts[0].Name, Email: accounts[0].Address}.Display() + "\nSubject: Auto: (their subject)\n\n" + n.Fill(next), nil
	})
}

// note answers a letter that waits, if the person wants that and the rules for
// automatic answers allow it.
func (s *step) note(st stored, account int64, state delivery.State, conversations []int64) error {
	p, err := s.Person()
	if err != nil {
		return err
	}
	n := holdingNote(p)
	if !slices.Contains(n.Causes, state.Cause) {
		return nil
	}
	addresses, err := s.addresses()
	if err != nil {
		return err
	}
	last, err := s.LastAutoAnswer(st.l.From.Key())
	if err != nil {
		return err
	}
	junk, err := s.AnyIn(decide.Junk, conversations)
	if err != nil {
		return err
	}
	asked := autoanswer.Asked{Letter: st.l, Own: ownKeys(addresses), Junk: junk, Last: last, Period: n.Period(), Now: s.At}
	if autoanswer.Refuse(asked) != "" {
		return nil
	}
	accounts, err := s.Accounts()
	if err != nil || len(accounts) == 0 {
		return err
	}
	from := accounts[max(0, slices.IndexFunc(accounts, func(a store.Account) bool { return a.ID == account }))]
	_, domain, _ := strings.Cut(from.Address, "@")
	out := autoanswer.Make(st.l, letter.Address{Name: from.Name, Email: from.Address}, n.Fill(nextInWords(state.Next, p.Calendar()))+"\n", s.app.NewID()+"@"+domain, s.At)
	raw, err := out.Bytes()
	if err != nil {
		return err
	}
	id, err := s.AddOutgoing(store.Outgoing{
		AccountID: from.ID, MessageID: out.MessageID, Recipients: []string{out.To[0].Email}, Subject: out.Subject, SendAt: s.At,
		AutoTo: st.l.From.Key(), AutoKind: autoHolding,
	}, store.Pack(raw), s.At)
	if err != nil {
		return err
	}
	var changes change.List
	kinds.Outbox.State.Set(&changes, id, sending.Unmade, sending.Waiting)
	return s.Change(changes)
}

// autoHolding marks holding notes in the outbox.
const autoHolding = "holding"
