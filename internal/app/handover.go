package app

import (
	"context"
	"fmt"
	"strings"

	"ebbe.example/ebbe/internal/core/change"
	"ebbe.example/ebbe/internal/core/followup"
	"ebbe.example/ebbe/internal/core/kinds"
	"ebbe.example/ebbe/internal/core/letter"
	"ebbe.example/ebbe/internal/core/waiting"
	"ebbe.example/ebbe/internal/core/when"
	"ebbe.example/ebbe/internal/store"
	"ebbe.example/ebbe/internal/work"
)

// HandOver drafts the letter with which a follow-up is handed to somebody else:
// with the letter behind it, its due, and what is asked. Nothing is sent.
func (a *App) HandOver(ctx context.Context, who store.Who, id int64) (Nudge, error) {
	return read(ctx, a, who, func(tx *store.Tx) (Nudge, error) {
		v, err := a.viewer(tx)
		if err != nil {
			return Nudge{}, err
		}
		f, err := tx.FollowUp(id)
		if err != nil || !f.Alive || f.Status.Closed() {
			return Nudge{}, work.Gone("That follow-up is no longer open.")
		}
		accounts, err := tx.Accounts()
		if err != nil {
			return Nudge{}, err
		}
		w := Writing{Kind: "new", From: accounts[0].Address, To: []string{}, Subject: f.Title, FollowUp: id, Wait: waiting.DefaultWait}
		by := ""
		if f.Due != nil && f.Due.Precision != when.Open && f.Due.UTC.After(v.now) {
			w.Wait = f.Due.Canonical(v.cal)
			words, _ := v.due(*f.Due)
			by = " by " + words
		}
		out := Nudge{}
		for _, l := range f.Letters {
			if l.Conversation == 0 {
				continue
			}
			row, err := tx.Conversation(l.Conversation)
			if err != nil {
				continue
			}
			w.Kind, w.Letter, w.Stay, out.Conversation, out.Last = "hand-on", l.LetterID, true, row.ID, row.LastLetter
			w.Subject = letter.WithPrefix("Fwd: ", row.Title())
			break
		}
		w.Text = fmt.Sprintf("Hello,\n\ncan you see to this%s, please: %s\n", by, f.Title)
		if f.Notes != "" {
			w.Text += "\n" + strings.TrimSpace(f.Notes) + "\n"
		}
		w.Text += letter.SignatureBlock(accounts[0].Signature)
		out.Writing = w
		return out, nil
	})
}

// handOver lets a follow-up wait for whoever it is handed to.
func (s *step) handOver(id int64, to letter.Address) error {
	f, err := s.FollowUp(id)
	if err != nil || !f.Alive {
		return work.Gone("That follow-up is no longer there. The letter was kept as a draft.")
	}
	var changes change.List
	kinds.FollowUp.Status.Set(&changes, f.ID, f.Status, followup.Waiting)
	kinds.FollowUp.Assignee.Set(&changes, f.ID, f.Assignee, to.Display())
	return s.Change(changes)
}

// WaitFollowUp lets a follow-up wait for an answer to its letter until a
// phrase; one without a letter for a reminder then.
func (a *App) WaitFollowUp(ctx context.Context, who store.Who, command string, id int64, until string) (Decided, error) {
	cmd := work.Command{ID: command, Who: who, Actor: work.ByPerson, Kind: "followup:edit"}
	return run(ctx, a, cmd, func(s *step) (Decided, error) {
		f, err := s.FollowUp(id)
		if err != nil || !f.Alive || f.Status.Closed() {
			return Decided{}, work.Gone("That follow-up is no longer open.")
		}
		moment, err := s.read(until)
		if err != nil {
			return Decided{}, err
		}
		if moment.Precision == when.Open {
			return Decided{}, work.Invalid("until", "Waiting needs a limit.")
		}
		var changes change.List
		kinds.FollowUp.Status.Set(&changes, f.ID, f.Status, followup.Waiting)
		s.Title = "“" + shorten(f.Title, 60) + "” waits until " + s.speak(*moment)
		if err := s.waitForLetter(f, *moment); err != nil {
			return Decided{}, err
		}
		return Decided{Entry: s.ID, Title: s.Title, FollowUp: id}, s.Change(changes)
	})
}

func (s *step) waitForLetter(f store.FollowUp, limit when.Moment) error {
	var changes change.List
	for _, l := range f.Letters {
		row, err := s.Conversation(l.Conversation)
		if l.Conversation == 0 || err != nil || row.From.Email == "" {
			continue
		}
		id, err := s.AddExpectation(store.Expectation{
			Expectation: waiting.Expectation{Conversation: row.ID, Since: s.At, Persons: []string{row.From.Key()}}, Until: &limit, FollowUp: f.ID,
		})
		if err != nil {
			return err
		}
		kinds.Expectation.Alive.Set(&changes, id, false, true)
		return s.Change(changes)
	}
	id, err := s.AddReminder(f.ID, limit, nil)
	if err != nil {
		return err
	}
	kinds.Reminder.Alive.Set(&changes, id, false, true)
	return s.Change(changes)
}

// resume opens a follow-up again that waited: the answer is there, or it has
// not come in time.
func (s *step) resume(changes *change.List, id int64) error {
	if id == 0 {
		return nil
	}
	f, err := s.FollowUp(id)
	if err != nil || !f.Alive || f.Status != followup.Waiting {
		return nil //nolint:nilerr // gone, or decided otherwise since
	}
	kinds.FollowUp.Status.Set(changes, f.ID, f.Status, followup.Open)
	return nil
}
