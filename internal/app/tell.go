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
	"ebbe.example/ebbe/internal/show"
	"ebbe.example/ebbe/internal/store"
	"ebbe.example/ebbe/internal/work"
)

// TellView is the note that would tell senders when to expect an answer, and
// who would get it.
type TellView struct {
	Text string    `json:"text"`
	To   []string  `json:"to" doc:"Who would get it"`
	Not  []TellNot `json:"not" doc:"Who would not"`
}

// TellNot is somebody who gets no note.
type TellNot struct {
	Name string `json:"name"`
	Why  string `json:"why"`
}

// maxTold bounds how many senders are told at once.
const maxTold = 50

// Tell drafts the note that goes to the senders of conversations that are put
// off to a time. Nothing is sent.
func (a *App) Tell(ctx context.Context, who store.Who, on []int64, phrase string) (TellView, error) {
	return read(ctx, a, who, func(tx *store.Tx) (TellView, error) {
		v, err := a.Viewer(tx)
		if err != nil {
			return TellView{}, err
		}
		w, err := when.ReadWish(phrase, v.Now, v.Cal, show.SpotNames(v.Spots))
		if err != nil {
			return TellView{}, work.Invalid("when", "%s", err)
		}
		if !w.Timed() {
			return TellView{}, work.Invalid("when", "There is no date to tell. Name a time.")
		}
		s := a.reading(tx, v.Now)
		told, not, err := s.tellable(on)
		if err != nil {
			return TellView{}, err
		}
		out := TellView{To: []string{}, Not: show.OrEmpty(not)}
		name, subject, me := "", "", v.Person.Name
		for _, t := range told {
			out.To = append(out.To, t.l.From.Display())
			name, subject, me = t.l.From.FirstName(), t.row.Title(), t.account.Name
		}
		if len(told) > 1 {
			name, subject = "", ""
		}
		out.Text = autoanswer.PutOff(name, subject, v.Cal.Instant(w.Day(v.Cal), when.At(12, 0)), me)
		return out, nil
	})
}

// telling is a letter whose sender is told.
type telling struct {
	row     store.Row
	l       letter.Letter
	account store.Account
}

// tellable finds, for each conversation, the newest letter from somebody else,
// and sorts out whose senders may be told; each person once.
func (s *step) tellable(on []int64) (told []telling, not []TellNot, err error) {
	if len(on) > maxTold {
		return nil, nil, work.Invalid("on", "Telling works for up to %d letters at once.", maxTold)
	}
	addresses, err := s.addresses()
	if err != nil {
		return nil, nil, err
	}
	accounts, err := s.Accounts()
	if err != nil {
		return nil, nil, err
	}
	own := ownKeys(addresses)
	seen := map[string]bool{}
	for _, id := range on {
		row, err := s.Conversation(id)
		if err != nil {
			return nil, nil, work.Gone("That conversation is no longer there.")
		}
		list, err := s.LettersIn(row.ID)
		if err != nil {
			return nil, nil, err
		}
		i := len(list) - 1
		for i >= 0 && list[i].Own {
			i--
		}
		if i < 0 {
			not = append(not, TellNot{row.Title(), "all its letters are yours"})
			continue
		}
		l, err := arrived(s.Tx, list[i].ID)
		if err != nil {
			return nil, nil, err
		}
		last, err := s.LastAutoAnswer(l.From.Key())
		if err != nil {
			return nil, nil, err
		}
		if why := autoanswer.Refuse(autoanswer.Asked{Letter: l, Own: own, Junk: row.Place == decide.Junk, Last: last, Now: s.At}); why != "" {
			not = append(not, TellNot{l.From.Display(), why})
			continue
		}
		if seen[l.From.Key()] {
			continue
		}
		seen[l.From.Key()] = true
		from := letter.Answer(l, own, false).From
		account := accounts[max(0, slices.IndexFunc(accounts, func(a store.Account) bool { return strings.EqualFold(a.Address, from) }))]
		told = append(told, telling{row, l, account})
	}
	return told, not, nil
}

// tell puts the note into the outbox for everybody who may get it, and says
// who that is.
func (s *step) tell(rows []seenRow, text string) ([]string, error) {
	if len(text) > maxNote {
		return nil, work.Invalid("note", "The note is too long.")
	}
	told, _, err := s.tellable(idsOf(rows))
	var names []string
	for _, t := range told {
		_, domain, _ := strings.Cut(t.account.Address, "@")
		note := autoanswer.Make(t.l, letter.Address{Name: t.account.Name, Email: t.account.Address}, strings.TrimSpace(text)+"\n", s.app.NewID()+"@"+domain, s.At)
		raw, err := note.Bytes()
		if err != nil {
			return nil, err
		}
		leaves, err := s.leaves("")
		if err != nil {
			return nil, err
		}
		id, err := s.AddOutgoing(store.Outgoing{
			AccountID: t.account.ID, Conversation: t.row.ID, MessageID: note.MessageID, Recipients: []string{note.To[0].Email},
			Subject: note.Subject, SendAt: leaves, AutoTo: t.l.From.Key(),
		}, store.Pack(raw), s.At)
		if err != nil {
			return nil, err
		}
		var changes change.List
		kinds.Outbox.State.Set(&changes, id, sending.Unmade, sending.Waiting)
		if err := s.Change(changes); err != nil {
			return nil, err
		}
		names = append(names, t.l.From.Display())
	}
	return names, err
}

// maxNote bounds a note, in bytes.
const maxNote = 10_000
