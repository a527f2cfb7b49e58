package app

import (
	"context"
	"strings"

	"ebbe.example/ebbe/internal/core/change"
	"ebbe.example/ebbe/internal/core/decide"
	"ebbe.example/ebbe/internal/core/kinds"
	"ebbe.example/ebbe/internal/core/letter"
	"ebbe.example/ebbe/internal/core/sending"
	"ebbe.example/ebbe/internal/say"
	"ebbe.example/ebbe/internal/store"
	"ebbe.example/ebbe/internal/work"
)

// How a sender's wish to be told that a letter was read stands.
const (
	ReadReceiptAsked    = "asked"
	ReadReceiptSent     = "sent"
	ReadReceiptDeclined = "declined"
)

// ReadReceipt answers the wish of a sender to be told that a letter was read
// (RFC 8098), or declines it. Nothing is ever sent without this.
func (a *App) ReadReceipt(ctx context.Context, who store.Who, command string, letterID int64, send bool) (Decided, error) {
	cmd := work.Command{ID: command, Who: who, Actor: work.ByPerson, Kind: "receipt", Title: "No receipt sent"}
	return run(ctx, a, cmd, func(s *step) (Decided, error) {
		row, err := s.Letter(letterID)
		if err != nil || row.InAt.IsZero() {
			return Decided{}, work.Gone("That letter is no longer there.")
		}
		if row.ReadReceipt != ReadReceiptAsked {
			return Decided{}, work.Refuse("That letter asks for no receipt, or has had its answer.")
		}
		var changes change.List
		s.Touch(decide.Conversation.Of(row.Conversation))
		if !send {
			kinds.Letter.ReadReceipt.Set(&changes, row.ID, row.ReadReceipt, ReadReceiptDeclined)
			return Decided{Entry: s.ID, Title: s.Title}, s.Change(changes)
		}
		id, err := s.writeReadReceipt(row)
		if err != nil {
			return Decided{}, err
		}
		kinds.Letter.ReadReceipt.Set(&changes, row.ID, row.ReadReceipt, ReadReceiptSent)
		kinds.Outbox.State.Set(&changes, id, sending.Unmade, sending.Waiting)
		s.Title = "Told " + row.From.Display() + " that the letter was read"
		return Decided{Entry: s.ID, Title: s.Title}, s.Change(changes)
	})
}

// writeReadReceipt puts a receipt into the outbox. Its envelope names no sender,
// so that nothing ever answers it (RFC 8098, 2.1).
func (s *step) writeReadReceipt(row store.Letter) (int64, error) {
	raw, err := s.Original(row.ID)
	if err != nil {
		return 0, err
	}
	l := letter.Parse(raw)
	accounts, err := s.Accounts()
	if err != nil {
		return 0, err
	}
	own := make([]string, 0, len(accounts))
	for _, a := range accounts {
		own = append(own, letter.Address{Email: a.Address}.Key())
	}
	from := letter.Answer(l, own, false).From
	var account store.Account
	for _, a := range accounts {
		if strings.EqualFold(a.Address, from) {
			account = a
		}
	}
	_, domain, _ := strings.Cut(account.Address, "@")
	r := letter.ReadReceipt{
		MessageID: s.app.NewID() + "@" + domain, From: letter.Address{Name: account.Name, Email: account.Address}, To: l.ReadReceiptTo, At: s.At, Of: l,
	}
	bytes, err := r.Bytes()
	if err != nil {
		return 0, err
	}
	var to []string
	for _, a := range l.ReadReceiptTo {
		to = append(to, a.Email)
	}
	leaves, err := s.leaves("")
	if err != nil {
		return 0, err
	}
	return s.AddOutgoing(store.Outgoing{
		AccountID: account.ID, Conversation: row.Conversation, MessageID: r.MessageID, Recipients: to,
		Subject: "Receipt of “" + say.Shorten(row.Subject, 60) + "”", SendAt: leaves,
	}, store.Pack(bytes), s.At)
}

// PicturesOf settles whether the remote pictures of a sender's letters are
// loaded.
func (a *App) PicturesOf(ctx context.Context, who store.Who, command, email string, load bool) (Decided, error) {
	title := "Pictures from " + email + " are loaded from now on"
	if !load {
		title = "Pictures from " + email + " are no longer loaded"
	}
	cmd := work.Command{ID: command, Who: who, Actor: work.ByPerson, Kind: "pictures", Title: title}
	return run(ctx, a, cmd, func(s *step) (Decided, error) {
		sender, err := s.Sender(email)
		if err == nil && sender.ID == 0 {
			sender, err = s.AddSender(email)
		}
		if err != nil {
			return Decided{}, err
		}
		var changes change.List
		kinds.Sender.Pictures.Set(&changes, sender.ID, sender.Pictures, load)
		return Decided{Entry: s.ID, Title: s.Title}, s.Change(changes)
	})
}
