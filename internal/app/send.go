package app

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"slices"
	"strings"
	"time"

	"ebbe.example/ebbe/internal/core/change"
	"ebbe.example/ebbe/internal/core/decide"
	"ebbe.example/ebbe/internal/core/kinds"
	"ebbe.example/ebbe/internal/core/letter"
	"ebbe.example/ebbe/internal/core/schedule"
	"ebbe.example/ebbe/internal/core/sending"
	"ebbe.example/ebbe/internal/core/waiting"
	"ebbe.example/ebbe/internal/say"
	"ebbe.example/ebbe/internal/show"
	"ebbe.example/ebbe/internal/store"
	"ebbe.example/ebbe/internal/work"
)

// SaveDraft keeps what is being typed. It is no step of the Journal: there is
// nothing to undo in a keystroke.
func (a *App) SaveDraft(ctx context.Context, who store.Who, id string, conversation int64, w show.Writing) error {
	value, err := json.Marshal(w)
	if err != nil {
		return err
	}
	err = a.Store.Write(ctx, who, func(tx *store.Tx) error {
		return tx.SaveDraft(store.Draft{ID: id, Conversation: conversation, Kind: w.Kind, Value: value, UpdatedAt: a.Now()})
	})
	if err == nil {
		a.Publish(who.Inbox, work.News{Stale: work.StaleBy(kinds.Draft.Kind)})
	}
	return err
}

// DropDraft throws a draft away.
func (a *App) DropDraft(ctx context.Context, who store.Who, command, id string) (Decided, error) {
	cmd := work.Command{ID: command, Who: who, Actor: work.ByPerson, Kind: "draft", Title: "Draft thrown away"}
	return run(ctx, a, cmd, func(s *step) (Decided, error) {
		d, err := s.Draft(id)
		if errors.Is(err, store.ErrNotFound) {
			return Decided{Entry: s.ID, Title: s.Title}, nil
		}
		if err != nil {
			return Decided{}, err
		}
		var changes change.List
		kinds.Draft.Alive.Set(&changes, d.Number, d.Alive, false)
		return Decided{Entry: s.ID, Title: s.Title}, s.Change(changes)
	})
}

// Sending is a letter to be sent, with the decision that goes with it.
type Sending struct {
	Command      string
	Draft        string
	Conversation int64
	Saw          int64
	// Version is that at which the conversation was seen; nil makes no difference.
	Version *int64
	show.Writing
}

// Sent is what became of a letter handed to the outbox.
type Sent struct {
	Decided
	Outgoing int64     `json:"outgoing"`
	LeavesAt time.Time `json:"leavesAt"`
}

// Send puts a letter into the outbox, from where it leaves after the person's delay,
// and decides on the conversation that it answers or hands on.
func (a *App) Send(ctx context.Context, who store.Who, w Sending) (Sent, error) {
	kind := map[string]decide.Kind{"answer": decide.Answer, "hand-on": decide.HandOn, "again": decide.Answer}[w.Kind]
	cmd := work.Command{ID: w.Command, Who: who, Actor: work.ByPerson, Kind: "decide:" + string(kind)}
	if kind == "" {
		cmd.Kind = "send"
	}
	if w.Draft == "" { // so that undoing gives the text back
		w.Draft = "of-" + w.Command
	}
	return run(ctx, a, cmd, func(s *step) (Sent, error) {
		out, account, err := s.compose(w)
		if err != nil {
			return Sent{}, err
		}
		raw, err := out.Bytes()
		if err != nil {
			return Sent{}, err
		}
		var changes change.List
		conversation := w.Conversation
		var left []string
		s.Title = "Sent “" + say.Shorten(out.Subject, 60) + "”"
		if kind == "" {
			if conversation, err = s.AddConversation(letter.BareSubject(out.Subject)); err != nil {
				return Sent{}, err
			}
		} else {
			row, err := s.Conversation(conversation)
			if err != nil {
				return Sent{}, work.Gone("The conversation is no longer there. The letter was kept as a draft.")
			}
			conversation = row.ID
			if decide.Overtaken(row.State(), w.Version) { // it goes all the same, and moves nothing
				w.Stay = true
				left = append(left, fmt.Sprintf("“%s” has gone elsewhere meanwhile: it stays %s.", say.Shorten(row.Title(), 60), row.Place.About().Where))
			}
			if err := s.settle([]seenRow{{row, w.Saw, nil}}, decide.Decision{Kind: kind, At: s.At, Saw: w.Saw, Stay: w.Stay}); err != nil {
				return Sent{}, err
			}
			s.Title = kind.About().Did + " “" + say.Shorten(row.Title(), 60) + "”"
			if w.Kind == "again" {
				s.Title = "Sent again “" + say.Shorten(row.Title(), 60) + "”"
			}
			if kind == decide.HandOn {
				s.Title += " to " + out.To[0].Display()
			}
		}
		if w.FollowUp != 0 {
			if err := s.handOver(w.FollowUp, out.To[0]); err != nil {
				return Sent{}, err
			}
		}
		if err := s.expectAnswer(w, kind, conversation, out); err != nil {
			return Sent{}, err
		}
		leaves, err := s.leaves()
		if err != nil {
			return Sent{}, err
		}
		var recipients []string
		for _, r := range append(out.To, out.Cc...) {
			recipients = append(recipients, r.Email)
		}
		id, err := s.AddOutgoing(store.Outgoing{
			AccountID: account, Conversation: conversation, Draft: w.Draft, MessageID: out.MessageID, Sender: out.From.Email,
			Recipients: recipients, Subject: out.Subject, SendAt: leaves,
		}, store.Pack(raw), s.At)
		if err != nil {
			return Sent{}, err
		}
		kinds.Outbox.State.Set(&changes, id, sending.Unmade, sending.Waiting)
		if err := s.sleepDraft(&changes, w); err != nil {
			return Sent{}, err
		}
		return Sent{Decided{Entry: s.ID, Title: s.Title, Left: left}, id, leaves}, s.Change(changes)
	})
}

// sleepDraft ends the draft with the text as it was sent, so that undoing the
// send gives back all of it.
func (s *step) sleepDraft(changes *change.List, w Sending) error {
	if w.Draft == "" {
		return nil
	}
	value, err := json.Marshal(w.Writing)
	if err != nil {
		return err
	}
	if err := s.SaveDraft(store.Draft{ID: w.Draft, Conversation: w.Conversation, Kind: w.Kind, Value: value, UpdatedAt: s.At}); err != nil {
		return err
	}
	d, err := s.Draft(w.Draft)
	if err != nil {
		return err
	}
	kinds.Draft.Alive.Set(changes, d.Number, d.Alive, false)
	return nil
}

func (s *step) expectAnswer(w Sending, kind decide.Kind, conversation int64, out letter.Outgoing) error {
	if w.Wait == "" && kind != decide.HandOn {
		return nil
	}
	if w.Wait == "" {
		w.Wait = waiting.DefaultWait
	}
	until, err := s.read(w.Wait)
	if err != nil {
		return err
	}
	if e, err := s.Expectation(w.Nudges); w.Nudges != 0 && err == nil && e.State == waiting.Open {
		var changes change.List
		kinds.Expectation.Until.Set(&changes, e.ID, e.Until, until)
		kinds.Expectation.Late.Set(&changes, e.ID, e.Late, false)
		return s.Change(changes)
	}
	return s.expect(conversation, out.To, w.WaitAll, out.MessageID, until, w.FollowUp)
}

// compose checks what was typed and makes the letter of it.
func (s *step) compose(w Sending) (letter.Outgoing, int64, error) {
	out := letter.Outgoing{Subject: strings.TrimSpace(w.Subject), Date: s.At, Text: w.Text, WantsReadReceipt: w.ReadReceipt}
	accounts, err := s.Accounts()
	if err != nil {
		return out, 0, err
	}
	var account store.Account
	for _, a := range accounts {
		if strings.EqualFold(a.Address, w.From) {
			account = a
		}
	}
	if account.ID == 0 {
		return out, 0, work.Invalid("from", "“%s” is not one of your addresses. The letter was not sent.", w.From)
	}
	out.From = letter.Address{Name: account.Name, Email: account.Address}
	if out.To, err = checkAddresses(w.To); err != nil {
		return out, 0, err
	}
	if out.Cc, err = checkAddresses(w.Cc); err != nil {
		return out, 0, err
	}
	if len(out.To) == 0 {
		return out, 0, work.Invalid("to", "The letter needs somebody to go to. It was not sent; the draft is kept.")
	}
	if w.Quoted != "" {
		out.Text = strings.TrimRight(w.Text, "\n") + "\n\n" + w.Quoted
	}
	_, domain, _ := strings.Cut(account.Address, "@")
	out.MessageID = s.app.NewID() + "@" + domain
	if w.Kind == "new" || w.Letter == 0 {
		return out, account.ID, nil
	}
	raw, err := s.Original(w.Letter)
	if err != nil {
		return out, 0, work.Gone("The letter that this answers is no longer there. The draft is kept.")
	}
	answered := letter.Parse(raw)
	out.References, out.InReplyTo = letter.Chain(answered), answered.MessageID
	switch w.Kind {
	case "hand-on":
		out.Parts = answered.Attachments()
	case "again": // the same letter, to somebody who can be reached
		out.Parts, out.References, out.InReplyTo = answered.Attachments(), answered.References, ""
		if len(answered.InReplyTo) > 0 {
			out.InReplyTo = answered.InReplyTo[0]
		}
	}
	return out, account.ID, nil
}

func checkAddresses(typed []string) ([]letter.Address, error) {
	var out []letter.Address
	for _, t := range typed {
		if strings.TrimSpace(t) == "" {
			continue
		}
		a, err := letter.CheckAddress(t)
		if err != nil {
			return nil, work.Invalid("to", "%v. The letter was not sent; the draft is kept.", err)
		}
		out = append(out, a)
	}
	return out, nil
}

// transmit sends a letter that has come due, and makes it part of its
// conversation. It is at least once on the wire: after a crash in between it
// goes again under its old Message-ID; here it is exactly once. It runs beside
// the clock.
func (a *App) transmit(ctx context.Context, ev schedule.Event) error {
	who, id := store.Nobody(ev.Owner), ev.ID
	key := fmt.Sprintf("send:%d", id)
	o, err := run(ctx, a, work.Command{ID: key, Who: who, Actor: work.ByClock, Kind: "send", Title: "A letter goes out", At: ev.Due}, func(s *step) (store.Outgoing, error) {
		s.Final = true
		o, err := s.Outgoing(id)
		if err != nil {
			return o, err
		}
		var changes change.List
		kinds.Outbox.State.Set(&changes, id, o.State, sending.Leaving)
		return o, s.Change(changes)
	})
	if err != nil {
		return err
	}
	o, raw, err := a.outgoing(ctx, who, id)
	if err != nil {
		return err
	}
	a.At("send.before")
	said, err := a.Sender.Send(ctx, o.Sender, sending.Left(o.Recipients, o.Outcomes), raw)
	a.At("send.after")
	if err != nil && ctx.Err() != nil && len(said) == 0 {
		return ctx.Err() // Ebbe is stopping; it goes when it starts again
	}
	failed := ""
	if err != nil {
		failed = err.Error()
		a.Log.Warn("a letter did not leave for everybody; it will be tried again", "outbox", id, "reason", err)
	}
	now := a.Now()
	brought := make([]sending.Outcome, len(said))
	for i, x := range said {
		brought[i] = sending.Outcome{To: x.Recipient, State: sending.Again, Reason: x.Reason, At: now}
		switch {
		case x.Accepted:
			brought[i].State = sending.Accepted
		case x.Refused:
			brought[i].State = sending.Refused
		}
	}
	// What is known by now is kept, also where Ebbe is being stopped.
	_, err = run(context.WithoutCancel(ctx), a, work.Command{ID: fmt.Sprintf("%s:try:%d", key, o.Tries), Who: who, Actor: work.ByClock, Kind: "sent", Title: "Letter left", At: now}, func(s *step) (bool, error) {
		s.Final = true
		return true, s.tried(o, raw, sending.Tried(o.Recipients, o.Outcomes, brought, failed, o.MadeAt, now))
	})
	return err
}

// outgoing is a letter of the outbox with its bytes.
func (a *App) outgoing(ctx context.Context, who store.Who, id int64) (o store.Outgoing, raw []byte, err error) {
	err = a.Store.Write(ctx, who, func(tx *store.Tx) error {
		if o, err = tx.Outgoing(id); err != nil {
			return err
		}
		raw, err = tx.OutgoingBytes(o)
		return err
	})
	return o, raw, err
}

// tried keeps what a try to send a letter has brought. With the first
// recipient for whom it is accepted it has left, and is part of its
// conversation; who refuses it brings that back; for the rest it goes again.
func (s *step) tried(o store.Outgoing, raw []byte, outcomes []sending.Outcome) error {
	if err := s.SetOutcomes(o.ID, outcomes); err != nil {
		return err
	}
	s.Touch(kinds.Outbox.Of(o.ID))
	accepted, again := sending.Of(outcomes, sending.Accepted), sending.Of(outcomes, sending.Again)
	if len(accepted) > 0 && len(sending.Of(o.Outcomes, sending.Accepted)) == 0 {
		if err := s.sent(o, raw); err != nil {
			return err
		}
	}
	refused := sending.Of(outcomes, sending.Refused)
	var fresh []sending.Outcome
	for _, r := range refused {
		if !slices.ContainsFunc(o.Outcomes, func(k sending.Outcome) bool { return k.To == r.To && k.State == sending.Refused }) {
			fresh = append(fresh, r)
		}
	}
	if len(fresh) > 0 {
		if err := s.refused(o, fresh); err != nil {
			return err
		}
	}
	trouble := ""
	for _, x := range append(refused, again...) {
		trouble = x.Reason
	}
	if len(again) > 0 {
		s.Title = "A letter did not leave for everybody; it is tried again"
		if len(accepted) == 0 {
			s.Title = "A letter did not leave; it is tried again"
		}
		return s.Retry(o.ID, s.At.Add(sending.Pause(o.Tries)), trouble)
	}
	if err := s.Retry(o.ID, s.At, trouble); err != nil {
		return err
	}
	state := sending.Sent
	if len(accepted) == 0 {
		state = sending.Failed
	}
	var changes change.List
	kinds.Outbox.State.Set(&changes, o.ID, sending.Leaving, state)
	return s.Change(changes)
}

// sent makes a letter that has left part of its conversation.
func (s *step) sent(o store.Outgoing, raw []byte) error {
	addresses, err := s.addresses()
	if err != nil {
		return err
	}
	st := describe(letter.Parse(raw).Under(o.Sender), ownKeys(addresses), s.At)
	if st.l.Report != nil || o.AutoKind == autoHolding { // no part of the conversation, which is not to be seen yet
		return nil
	}
	if !st.row.Own { // to me alone: it comes in as a note to self does
		_, err := s.receive(Incoming{Inbox: s.Who().Inbox, To: firstOwn(st.l, addresses), Source: "sent", Raw: raw, At: s.At, ReturnPath: &o.Sender}, st.l)
		return err
	}
	known, err := s.knownLetter(st)
	if err != nil {
		return err
	}
	p := store.Pack(raw)
	arrival := store.Arrival{LetterID: known, AccountID: o.AccountID, Source: "sent", ReceivedAt: s.At, InAt: s.At, ReturnPath: &o.Sender}
	if known != 0 { // it came back, by a list or a copy to myself, before we knew
		if _, err := s.AddArrival(arrival, p); err != nil {
			return err
		}
		l, err := s.Letter(known)
		if err != nil || l.Conversation == 0 {
			return err
		}
		return s.noteAccount(l, o.AccountID)
	}
	if st.id, err = s.AddLetter(st.row, st.facts.IDs, p); err != nil {
		return err
	}
	arrival.LetterID = st.id
	if _, err := s.AddArrival(arrival, p.Kept()); err != nil {
		return err
	}
	conversation, err := s.Conversation(o.Conversation)
	if err != nil {
		st.fresh, st.accounts = true, []int64{o.AccountID}
		return s.letIn(st, time.Time{})
	}
	return s.joinOwn(st, conversation, o.AccountID)
}

// firstOwn is the own address to which a letter went, To before Cc.
func firstOwn(l letter.Letter, own map[string]int64) string {
	for _, a := range l.Recipients() {
		if own[a.Key()] != 0 {
			return a.Key()
		}
	}
	return ""
}

// joinOwn puts an own letter into the conversation it was written in.
func (s *step) joinOwn(st stored, c store.Row, account int64) error {
	if err := s.LetIn(st.id, c.ID, s.At, time.Time{}, ""); err != nil {
		return err
	}
	if err := s.Join(store.Joined{
		Conversation: c.ID, Letter: st.row, LetterID: st.id, Accounts: []int64{account}, Persons: st.facts.Persons, InAt: s.At,
	}); err != nil {
		return err
	}
	if err := s.Index(st.id, st.l); err != nil {
		return err
	}
	if err := s.meet(st); err != nil {
		return err
	}
	s.Touch(decide.Conversation.Of(c.ID))
	return s.Change(decide.Arrive(c.State(), decide.Came{At: s.At, Own: true}))
}

// refused brings the conversation of a letter back that the mail service would
// not take for some recipients, through any hold.
func (s *step) refused(o store.Outgoing, who []sending.Outcome) error {
	var names []string
	for _, r := range who {
		names = append(names, r.To)
	}
	reason := who[0].Reason
	s.Title = "A letter could not be delivered to " + inWords(names) + ": " + reason
	c, err := s.Conversation(o.Conversation)
	if err != nil || c.Letters == 0 {
		return s.wakeDraft(o) // it began a conversation: there is none to bring back
	}
	return s.Change(decide.Arrive(c.State(), decide.Came{At: s.At, Failed: true, From: inWords(names), Detail: reason}))
}

// wakeDraft gives a letter that nobody got back to its writer.
func (s *step) wakeDraft(o store.Outgoing) error {
	d, err := s.Draft(o.Draft)
	if errors.Is(err, store.ErrNotFound) {
		return nil
	}
	if err != nil {
		return err
	}
	var changes change.List
	kinds.Draft.Alive.Set(&changes, d.Number, d.Alive, true)
	return s.Change(changes)
}

// inWords lists the first few of names.
func inWords(names []string) string {
	const few = 3
	if len(names) <= few {
		return strings.Join(names, ", ")
	}
	return fmt.Sprintf("%s and %d others", strings.Join(names[:few], ", "), len(names)-few)
}

// leaves is when a letter that is sent now leaves; until then it can be undone.
func (s *step) leaves() (time.Time, error) {
	p, err := s.Person()
	return s.At.Add(time.Duration(p.SendDelay) * time.Second), err
}
