package app

import (
	"context"
	"encoding/json"
	"slices"

	"ebbe.example/ebbe/internal/core/autoanswer"
	"ebbe.example/ebbe/internal/core/change"
	"ebbe.example/ebbe/internal/core/delivery"
	"ebbe.example/ebbe/internal/core/kinds"
	"ebbe.example/ebbe/internal/say"
	"ebbe.example/ebbe/internal/show"
	"ebbe.example/ebbe/internal/store"
	"ebbe.example/ebbe/internal/work"
)

// SetHoldingNote changes what people are told whose letters wait.
func (a *App) SetHoldingNote(ctx context.Context, who store.Who, command string, n delivery.Note) (Decided, error) {
	cmd := work.Command{ID: command, Who: who, Actor: work.ByPerson, Kind: "holding-note", Title: "Holding note changed"}
	return run(ctx, a, cmd, func(s *step) (Decided, error) {
		if err := n.Check(); err != nil {
			return Decided{}, work.Invalid("note", "%s", say.Sentence(err))
		}
		p, err := s.InboxSettings()
		if err != nil {
			return Decided{}, err
		}
		before := show.HoldingNote(p)
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

// note answers a letter that waits, if the person wants that and the rules for
// automatic answers allow it.
func (s *step) note(st stored, account int64, state delivery.State, conversations []int64) error {
	p, err := s.InboxSettings()
	if err != nil {
		return err
	}
	n := show.HoldingNote(p)
	if !slices.Contains(n.Causes, state.Cause) {
		return nil
	}
	accounts, err := s.Accounts()
	if err != nil || len(accounts) == 0 {
		return err
	}
	from := accounts[max(0, slices.IndexFunc(accounts, func(a store.Account) bool { return a.ID == account }))]
	return s.autoAnswer(st, from, conversations, autoanswer.Asked{Period: n.Period()}, autoHolding, n.Fill(say.NextInWords(state.Next, p.Calendar()))+"\n")
}
