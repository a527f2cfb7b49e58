package app

import (
	"context"
	"fmt"
	"slices"
	"strings"

	"ebbe.example/ebbe/internal/core/change"
	"ebbe.example/ebbe/internal/core/decide"
	"ebbe.example/ebbe/internal/core/kinds"
	"ebbe.example/ebbe/internal/core/letter"
	"ebbe.example/ebbe/internal/core/waiting"
	"ebbe.example/ebbe/internal/core/when"
	"ebbe.example/ebbe/internal/store"
	"ebbe.example/ebbe/internal/work"
)

// expect starts waiting for an answer to a letter that is being sent.
func (s *step) expect(conversation int64, persons []letter.Address, all bool, messageID string, until *when.Moment, followUp int64) error {
	e := store.Expectation{Expectation: waiting.Expectation{Conversation: conversation, StartID: messageID, Since: s.At, All: all}, Until: until, FollowUp: followUp}
	for _, p := range persons {
		e.Persons = append(e.Persons, p.Key())
	}
	id, err := s.AddExpectation(e)
	if err != nil {
		return err
	}
	var changes change.List
	kinds.Expectation.Alive.Set(&changes, id, false, true)
	return s.Change(changes)
}

// EditWaiting moves the limit of an expectation, says that it was answered, or
// drops it. Sure is that of Deciding.
func (a *App) EditWaiting(ctx context.Context, who store.Who, command string, id int64, state *waiting.State, until *string, sure bool) (Decided, error) {
	cmd := work.Command{ID: command, Who: who, Actor: work.ByPerson, Kind: "waiting"}
	return run(ctx, a, cmd, func(s *step) (Decided, error) {
		e, err := s.Expectation(id)
		if err != nil {
			return Decided{}, work.Gone("That is no longer waited for.")
		}
		s.sure = sure
		if state != nil {
			s.Title = map[waiting.State]string{waiting.Met: "Answered: no longer waiting", waiting.Dropped: "No longer waiting", waiting.Open: "Waiting again"}[*state]
			if err := s.setWaiting(e, *state); err != nil {
				return Decided{}, err
			}
		}
		if until != nil {
			moment, err := s.optional(until)
			if err != nil {
				return Decided{}, err
			}
			s.Title = "Waiting without a limit"
			if moment != nil {
				s.Title = "Waiting until " + s.speak(*moment)
			}
			if err := s.setLimit(e, moment); err != nil {
				return Decided{}, err
			}
		}
		return Decided{Entry: s.ID, Title: s.Title}, nil
	})
}

// putOffFor is the conversation that is put off until an expectation is met or
// its limit passes; false if there is none.
func (s *step) putOffFor(e store.Expectation) (store.Row, bool) {
	if !e.ForReturn || e.State != waiting.Open {
		return store.Row{}, false
	}
	row, err := s.Conversation(e.Conversation)
	return row, err == nil && row.Place == decide.Later && row.Return != nil
}

// setLimit changes until when an answer is waited for; nil waits without a
// limit. A letter that is put off until then is put off anew.
func (s *step) setLimit(e store.Expectation, until *when.Moment) error {
	var changes change.List
	kinds.Expectation.Until.Set(&changes, e.ID, e.Until, until)
	kinds.Expectation.Late.Set(&changes, e.ID, e.Late, false)
	if row, ok := s.putOffFor(e); ok {
		changes = append(changes, s.decideOn(row, decide.Until(row.State(), until, s.At))...)
	}
	s.Touch(decide.Conversation.Of(e.Conversation))
	return s.Change(changes)
}

// setWaiting ends the waiting for an answer, or begins it again. A letter that
// was put off until then comes back: nothing else would bring it.
func (s *step) setWaiting(e store.Expectation, state waiting.State) error {
	var changes change.List
	kinds.Expectation.State.Set(&changes, e.ID, e.State, state)
	if row, ok := s.putOffFor(e); ok {
		changes = append(changes, s.decideOn(row, decide.Decision{Kind: decide.ToInbox, At: s.At, Saw: row.LastLetter})...)
	}
	s.Touch(decide.Conversation.Of(e.Conversation))
	return s.Change(changes)
}

// Nudge is a letter that reminds somebody of what is waited for.
type Nudge struct {
	Conversation int64   `json:"conversation"`
	Last         int64   `json:"last"`
	Writing      Writing `json:"writing"`
}

// nudgeWait is how much longer is waited after a nudge.
const nudgeWait = "3d"

// Nudge drafts a letter that reminds of what is waited for. Nothing is sent.
func (a *App) Nudge(ctx context.Context, who store.Who, id int64) (Nudge, error) {
	return read(ctx, a, who, func(tx *store.Tx) (Nudge, error) {
		v, err := a.viewer(tx)
		if err != nil {
			return Nudge{}, err
		}
		e, err := tx.Expectation(id)
		if err != nil || e.State != waiting.Open {
			return Nudge{}, work.Gone("That is no longer waited for.")
		}
		row, err := tx.Conversation(e.Conversation)
		if err != nil {
			return Nudge{}, work.Gone("The conversation is no longer there.")
		}
		letters, err := tx.LettersIn(row.ID)
		if err != nil || len(letters) == 0 {
			return Nudge{}, work.Refuse("The letter that waits for an answer has not left yet.")
		}
		accounts, err := tx.Accounts()
		if err != nil {
			return Nudge{}, err
		}
		w := Writing{Kind: "answer", From: accounts[0].Address, To: []string{}, Letter: letters[len(letters)-1].ID, Wait: nudgeWait, Nudges: id, Subject: replySubject(row.Title())}
		for _, l := range letters {
			if l.Own {
				w.From = l.From.Email
			}
		}
		first := ""
		for _, p := range e.Persons {
			if slices.Contains(e.Answered, p) {
				continue
			}
			name := v.waitingName(tx, p)
			to := letter.Address{Email: p}
			if name != p {
				to.Name = name
			}
			w.To = append(w.To, written([]letter.Address{to})...)
			if first == "" {
				first = to.FirstName()
			}
		}
		greeting := "Hello,"
		if first != "" {
			greeting = "Dear " + first + ","
		}
		w.Text = fmt.Sprintf("%s\n\non %s I wrote to you about “%s”. Have you been able to look at it? A line on when I can expect an answer would help.\n",
			greeting, e.Since.In(v.cal.Zone).Format("Monday 2 January"), row.Title())
		for _, acc := range accounts {
			if strings.EqualFold(acc.Address, w.From) {
				w.Text += letter.SignatureBlock(acc.Signature)
			}
		}
		return Nudge{Conversation: row.ID, Last: row.LastLetter, Writing: w}, nil
	})
}

func replySubject(title string) string {
	if letter.IsReplySubject(title) {
		return title
	}
	return "Re: " + title
}

// waitingName is what somebody is called, or the address.
func (v viewer) waitingName(tx *store.Tx, email string) string {
	if known, err := tx.Knows(email, 1); err == nil && len(known) == 1 && known[0].Name != "" {
		return known[0].Name
	}
	return email
}
