package app

import (
	"context"
	"strings"

	"ebbe.example/ebbe/internal/core/change"
	"ebbe.example/ebbe/internal/core/decide"
	"ebbe.example/ebbe/internal/core/kinds"
	"ebbe.example/ebbe/internal/core/letter"
	"ebbe.example/ebbe/internal/core/sending"
	"ebbe.example/ebbe/internal/core/sorting"
	"ebbe.example/ebbe/internal/say"
	"ebbe.example/ebbe/internal/show"
	"ebbe.example/ebbe/internal/store"
	"ebbe.example/ebbe/internal/work"
)

// Lists are the mailing lists outside.
type Lists interface {
	// Leave asks a list to be left, by one click (RFC 8058).
	Leave(ctx context.Context, address string) error
	// Signed tells whether a letter's signature holds and covers how its list is left.
	Signed(raw []byte) bool
}

// signed is the trait of a letter whose signature covers how its list is left. It is asked on
// arrival, as long as the key that it was made with is there, and only where it matters.
func (a *App) signed(l letter.Letter, raw []byte) sorting.Traits {
	if a.Lists == nil || l.Leaving.OneClick == "" || !a.Lists.Signed(raw) {
		return 0
	}
	return sorting.Signed
}

// Unsubscribe leaves the list by which a letter came, as the letter says: by one click, where a
// signature covers that, else by a letter to the list. It never happens unasked.
func (a *App) Unsubscribe(ctx context.Context, who store.Who, command string, id int64) (Decided, error) {
	way, err := read(ctx, a, who, func(tx *store.Tx) (show.Way, error) {
		_, way, err := leavable(tx, id)
		return way, err
	})
	if err != nil {
		return Decided{}, err
	}
	// Asked twice is asked once by the list; so it is told before it is written down.
	if way.By == letter.ByOneClick {
		if a.Lists == nil {
			return Decided{}, work.Refuse("Nothing outside can be reached from here.")
		}
		if err := a.Lists.Leave(ctx, way.To); err != nil {
			return Decided{}, work.Refuse("The list has not taken it: %s. Try again later, or turn it away.", err)
		}
	}
	cmd := work.Command{ID: command, Who: who, Actor: work.ByPerson, Kind: "unsubscribe"}
	return run(ctx, a, cmd, func(s *step) (Decided, error) { return s.unsubscribe(id) })
}

// leavable reads a letter and how its list is left.
func leavable(tx *store.Tx, id int64) (letter.Letter, show.Way, error) {
	row, err := tx.Letter(id)
	if err != nil || row.InAt.IsZero() {
		return letter.Letter{}, show.Way{}, work.Gone("That letter is no longer there.")
	}
	conversation, err := tx.Conversation(row.Conversation)
	if err != nil {
		return letter.Letter{}, show.Way{}, err
	}
	raw, err := tx.Original(id)
	if err != nil {
		return letter.Letter{}, show.Way{}, err
	}
	l := letter.Parse(raw)
	way := show.WayOut(l.Leaving, row)
	switch {
	case conversation.Place == decide.Junk:
		return l, way, work.Refuse("Whoever sends junk is told nothing. Turn them away instead.")
	case way.By == "":
		return l, way, work.Refuse("That letter says of no list how it is left. Turn it away instead.")
	case way.By == letter.ByPage:
		return l, way, work.Refuse("That list is left on its page: %s", way.To)
	}
	return l, way, nil
}

func (s *step) unsubscribe(id int64) (Decided, error) {
	l, way, err := leavable(s.Tx, id)
	if err != nil {
		return Decided{}, err
	}
	row, err := s.Letter(id)
	if err != nil {
		return Decided{}, err
	}
	c, err := sorting.Of(sorting.BySource, l.From.Key(), row.ListID, sorting.Left)
	if err != nil {
		return Decided{}, work.Invalid("letter", "%s", say.Sentence(err))
	}
	before, err := s.Corrections()
	if err != nil {
		return Decided{}, err
	}
	var changes change.List
	for _, b := range before {
		if c.Replaces(b.Correction()) {
			kinds.Correction.Alive.Set(&changes, b.ID, true, false)
		}
	}
	made, err := s.AddCorrection(c, s.At)
	if err != nil {
		return Decided{}, err
	}
	kinds.Correction.Alive.Set(&changes, made, false, true)
	s.Title = "Unsubscribed from " + c.String()
	if way.By == letter.ByLetter {
		out, err := s.leavingLetter(l)
		if err != nil {
			return Decided{}, err
		}
		kinds.Outbox.State.Set(&changes, out, sending.Unmade, sending.Waiting)
		s.Title += ", by a letter to " + way.To
	} else {
		s.Final = true // the list knows it
	}
	return Decided{Entry: s.ID, Title: s.Title, Final: s.Final}, s.Change(changes)
}

// autoLeaving marks letters in the outbox that leave a list.
const autoLeaving = "leaving"

// leavingLetter puts the letter into the outbox that a list wants from whoever leaves it. It
// goes from the address at which the list has reached its reader.
func (s *step) leavingLetter(l letter.Letter) (int64, error) {
	accounts, err := s.Accounts()
	if err != nil {
		return 0, err
	}
	own := make([]string, len(accounts))
	for i, a := range accounts {
		own[i] = letter.Address{Email: a.Address}.Key()
	}
	reached := letter.Answer(l, own, false).From
	account := accounts[0]
	for _, a := range accounts {
		if strings.EqualFold(a.Address, reached) {
			account = a
		}
	}
	_, domain, _ := strings.Cut(account.Address, "@")
	to := l.Leaving.Letter
	out := letter.Outgoing{
		MessageID: s.app.NewID() + "@" + domain, From: letter.Address{Name: account.Name, Email: account.Address}, To: []letter.Address{{Email: to.To[0]}},
		Subject: to.Subject, Text: to.Body, Date: s.At,
	}
	if out.Subject == "" {
		out.Subject = "unsubscribe"
	}
	raw, err := out.Bytes()
	if err != nil {
		return 0, err
	}
	leaves, err := s.leaves("")
	if err != nil {
		return 0, err
	}
	return s.AddOutgoing(store.Outgoing{
		AccountID: account.ID, MessageID: out.MessageID, Recipients: to.To, Subject: "Leaving a list: " + to.To[0], SendAt: leaves, AutoTo: strings.ToLower(to.To[0]), AutoKind: autoLeaving,
	}, store.Pack(raw), s.At)
}
