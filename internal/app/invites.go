package app

import (
	"slices"
	"strings"

	"ebbe.example/ebbe/internal/core/change"
	"ebbe.example/ebbe/internal/core/kinds"
	"ebbe.example/ebbe/internal/core/letter"
	"ebbe.example/ebbe/internal/core/meeting"
	"ebbe.example/ebbe/internal/core/sending"
	"ebbe.example/ebbe/internal/store"
)

// invite puts the letter with which an appointment goes to people into the
// outbox (RFC 6047).
func (s *step) invite(a store.Appointment, method string, to []meeting.Attendee) error {
	if len(to) == 0 {
		return nil
	}
	v, err := s.app.Viewer(s.Tx)
	if err != nil {
		return err
	}
	verb := map[string]string{meeting.Request: "Invitation: ", meeting.Cancel: "Called off: "}[method]
	if method == meeting.Request && a.Sequence > 0 {
		verb = "Changed: "
	}
	text := verb + a.Title + "\n" + v.SpanWords(a.Start, a.End) + " (" + v.Cal.Zone.String() + ")\n"
	if a.Place != "" {
		text += a.Place + "\n"
	}
	if a.Notes != "" {
		text += "\n" + a.Notes + "\n"
	}
	var people []letter.Address
	for _, x := range to {
		people = append(people, x.Address)
	}
	return s.sendCalendar(verb+a.Title, text, method, a.Event, a.Conversation, people, nil)
}

// sendCalendar puts a letter with a calendar part into the outbox.
func (s *step) sendCalendar(subject, text, method string, e meeting.Event, conversation int64, to []letter.Address, answers *letter.Letter) error {
	accounts, err := s.Accounts()
	if err != nil {
		return err
	}
	account := accounts[0]
	if answers != nil {
		own := make([]string, 0, len(accounts))
		for _, acc := range accounts {
			own = append(own, letter.Address{Email: acc.Address}.Key())
		}
		from := letter.Answer(*answers, own, false).From
		if i := slices.IndexFunc(accounts, func(x store.Account) bool { return strings.EqualFold(x.Address, from) }); i >= 0 {
			account = accounts[i]
		}
	}
	p, err := s.Person()
	if err != nil {
		return err
	}
	_, domain, _ := strings.Cut(account.Address, "@")
	calendar := meeting.Write(method, []meeting.Event{e}, p.Calendar(), s.At)
	o := letter.Outgoing{
		MessageID: s.app.NewID() + "@" + domain, From: letter.Address{Name: account.Name, Email: account.Address}, To: to, Subject: subject, Date: s.At, Text: text,
		Parts: []letter.Part{{Name: "invite.ics", ContentType: "text/calendar; charset=utf-8; method=" + method, Content: []byte(calendar)}},
	}
	if answers != nil {
		o.InReplyTo, o.References = answers.MessageID, letter.Chain(*answers)
	}
	raw, err := o.Bytes()
	if err != nil {
		return err
	}
	if conversation == 0 {
		if conversation, err = s.AddConversation(letter.BareSubject(subject)); err != nil {
			return err
		}
	}
	var recipients []string
	for _, x := range to {
		recipients = append(recipients, x.Email)
	}
	leaves, err := s.leaves("")
	if err != nil {
		return err
	}
	id, err := s.AddOutgoing(store.Outgoing{
		AccountID: account.ID, Conversation: conversation, MessageID: o.MessageID, Sender: account.Address, Recipients: recipients, Subject: subject, SendAt: leaves,
	}, store.Pack(raw), s.At)
	if err != nil {
		return err
	}
	var changes change.List
	kinds.Outbox.State.Set(&changes, id, sending.Unmade, sending.Waiting)
	return s.Change(changes)
}
