package app

import (
	"context"
	"slices"
	"strings"

	"ebbe.example/ebbe/internal/core/autoanswer"
	"ebbe.example/ebbe/internal/core/change"
	"ebbe.example/ebbe/internal/core/decide"
	"ebbe.example/ebbe/internal/core/kinds"
	"ebbe.example/ebbe/internal/core/letter"
	"ebbe.example/ebbe/internal/core/sending"
	"ebbe.example/ebbe/internal/core/when"
	"ebbe.example/ebbe/internal/say"
	"ebbe.example/ebbe/internal/store"
	"ebbe.example/ebbe/internal/work"
)

// Absence is a time away as it is set: its ends are phrases.
type Absence struct {
	From    string `json:"from,omitempty" maxLength:"200" doc:"A phrase; from now on where it is empty"`
	Back    string `json:"back,omitempty" maxLength:"200" doc:"A phrase: when you read letters again"`
	Text    string `json:"text,omitempty" maxLength:"4000"`
	Contact string `json:"contact,omitempty" maxLength:"200"`
	Off     bool   `json:"off,omitempty" doc:"No absence, or no longer"`
}

// SetAbsence says when nobody reads the letters to an account, and what is answered then.
func (a *App) SetAbsence(ctx context.Context, who store.Who, command string, id int64, w Absence) (Decided, error) {
	cmd := work.Command{ID: command, Who: who, Actor: work.ByPerson, Kind: "absence"}
	return run(ctx, a, cmd, func(s *step) (Decided, error) {
		account, _, err := s.Account(id)
		if err != nil {
			return Decided{}, work.Gone("That account is no longer there.")
		}
		var now *autoanswer.Absence
		s.Title = "No longer away: " + account.Address
		if !w.Off {
			if now, err = s.readAbsence(w); err != nil {
				return Decided{}, err
			}
			s.Title = "Away until " + s.speak(now.Back) + ": " + account.Address
		}
		var changes change.List
		kinds.Account.Away.Set(&changes, account.ID, account.Away, now)
		return Decided{Entry: s.ID, Title: s.Title}, s.Change(changes)
	})
}

func (s *step) readAbsence(w Absence) (*autoanswer.Absence, error) {
	out := autoanswer.Absence{Text: w.Text, Contact: w.Contact, From: when.Exact(s.At, s.calendar())}
	if strings.TrimSpace(w.From) != "" {
		from, err := s.read(w.From)
		if err != nil {
			return nil, err
		}
		out.From = *from
	}
	back, err := s.read(w.Back)
	if err != nil {
		return nil, err
	}
	out.Back = *back
	if err := out.Check(s.At); err != nil {
		return nil, work.Invalid("back", "%s Nothing was changed.", say.Sentence(err))
	}
	return &out, nil
}

// absent answers a letter that comes while its account is away, if the rules for automatic
// answers allow it; it tells whether the account is away.
func (s *step) absent(st stored, account int64, conversations []int64) (bool, error) {
	accounts, err := s.Accounts()
	if err != nil {
		return false, err
	}
	i := slices.IndexFunc(accounts, func(a store.Account) bool { return a.ID == account })
	if i < 0 || accounts[i].Away == nil || !accounts[i].Away.On(s.At, s.calendar()) {
		return false, nil
	}
	return true, s.autoAnswer(st, accounts[i], conversations, autoanswer.Asked{}, autoAbsence, accounts[i].Away.Fill(s.At, s.calendar()))
}

// autoAnswer answers a letter by a text, if the rules for automatic answers allow it. about
// says how soon again.
func (s *step) autoAnswer(st stored, from store.Account, conversations []int64, about autoanswer.Asked, kind, text string) error {
	addresses, err := s.addresses()
	if err != nil {
		return err
	}
	about.Letter, about.Own, about.Now = st.l, ownKeys(addresses), s.At
	if about.Last, err = s.LastAutoAnswer(st.l.From.Key()); err != nil {
		return err
	}
	if about.Junk, err = s.AnyIn(decide.Junk, conversations); err != nil {
		return err
	}
	if autoanswer.Refuse(about) != "" {
		return nil
	}
	_, domain, _ := strings.Cut(from.Address, "@")
	out := autoanswer.Make(st.l, letter.Address{Name: from.Name, Email: from.Address}, text, s.app.NewID()+"@"+domain, s.At)
	raw, err := out.Bytes()
	if err != nil {
		return err
	}
	id, err := s.AddOutgoing(store.Outgoing{
		AccountID: from.ID, MessageID: out.MessageID, Recipients: []string{out.To[0].Email}, Subject: out.Subject, SendAt: s.At,
		AutoTo: st.l.From.Key(), AutoKind: kind,
	}, store.Pack(raw), s.At)
	if err != nil {
		return err
	}
	var changes change.List
	kinds.Outbox.State.Set(&changes, id, sending.Unmade, sending.Waiting)
	return s.Change(changes)
}

// autoHolding and autoAbsence mark holding notes and absence notes in the outbox.
const (
	autoHolding = "holding"
	autoAbsence = "absence"
)
