package app

import (
	"context"
	"errors"
	"fmt"
	"slices"
	"time"

	"ebbe.example/ebbe/internal/core/change"
	"ebbe.example/ebbe/internal/core/decide"
	"ebbe.example/ebbe/internal/core/kinds"
	"ebbe.example/ebbe/internal/core/letter"
	"ebbe.example/ebbe/internal/core/schedule"
	"ebbe.example/ebbe/internal/core/sending"
	"ebbe.example/ebbe/internal/post"
	"ebbe.example/ebbe/internal/store"
	"ebbe.example/ebbe/internal/work"
)

func (a *App) transmit(ctx context.Context, ev schedule.Event) error {
	who, id := store.Nobody(ev.Owner), ev.ID
	title := "A letter goes out"
	switch late, over, err := a.afterItsTime(ctx, who, ev); {
	case over || err != nil:
		return err
	case late:
		title += " late: Ebbe was not running at its time"
	}
	key := fmt.Sprintf("send:%d", id)
	o, err := run(ctx, a, work.Command{ID: key, Who: who, Actor: work.ByClock, Kind: "send", Title: title, At: ev.Due}, func(s *step) (store.Outgoing, error) {
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
	sender, err := a.senderOf(ctx, who, o.AccountID)
	var said []post.Outcome
	if err == nil {
		said, err = sender.Send(ctx, post.Envelope{From: o.Sender, To: sending.Left(o.Recipients, o.Outcomes), Notify: o.Notify, ID: o.MessageID}, raw)
	}
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
	since := o.MadeAt
	if o.Later && o.Tries == 0 {
		since = ev.Due // it has been under way since then
	}
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
		return true, s.tried(o, raw, since, sending.Tried(o.Recipients, o.Outcomes, brought, failed, since, now))
	})
	return err
}

// unpunctual is from when on a letter that leaves after its own time is said to be late.
const unpunctual = 5 * time.Minute

// afterItsTime tells whether a letter with a time of its own leaves late, and gives back one
// whose time has passed too long ago: then it is over.
func (a *App) afterItsTime(ctx context.Context, who store.Who, ev schedule.Event) (late, over bool, err error) {
	o, err := read(ctx, a, who, func(tx *store.Tx) (store.Outgoing, error) { return tx.Outgoing(ev.ID) })
	if err != nil || !o.Later || o.State != sending.Waiting {
		return false, false, err
	}
	if !sending.Missed(ev.Due, a.Now()) {
		return a.Now().Sub(ev.Due) > unpunctual, false, nil
	}
	cmd := work.Command{ID: "missed:" + ev.Key(), Who: who, Actor: work.ByClock, Kind: "send", Title: "A letter was not sent"}
	_, err = run(ctx, a, cmd, func(s *step) (bool, error) { return true, s.missed(o) })
	return false, true, err
}

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

func (s *step) tried(o store.Outgoing, raw []byte, since time.Time, outcomes []sending.Outcome) error {
	if since != o.MadeAt {
		if err := s.SetUnderWay(o.ID, since); err != nil {
			return err
		}
	}
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
	if err := s.Change(changes); err != nil || o.Every == nil {
		return err
	}
	if len(refused) > 0 { // it pauses until somebody has looked at it
		s.Title += ". It recurs no longer, and is a draft"
		return s.wakeDraft(o)
	}
	return s.again(o, o.SendAt)
}

func (s *step) sent(o store.Outgoing, raw []byte) error {
	addresses, err := s.addresses()
	if err != nil {
		return err
	}
	st := describe(letter.Parse(raw).Under(o.Sender), ownKeys(addresses), s.At)
	if st.l.Report != nil || o.AutoKind != "" { // no part of the conversation, which is not to be seen yet
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
	if err := s.keepThere(o, st.id); err != nil {
		return err
	}
	conversation, err := s.Conversation(o.Conversation)
	if err != nil {
		st.fresh, st.accounts = true, []int64{o.AccountID}
		return s.letIn(st, time.Time{})
	}
	return s.joinOwn(st, conversation, o.AccountID)
}

func firstOwn(l letter.Letter, own map[string]int64) string {
	for _, a := range l.Recipients() {
		if own[a.Key()] != 0 {
			return a.Key()
		}
	}
	return ""
}

func (s *step) joinOwn(st stored, c store.Row, account int64) error {
	if err := s.LetIn(st.id, c.ID, s.At, time.Time{}, "", store.Sorted{}); err != nil {
		return err
	}
	if err := s.Join(store.Joined{
		Conversation: c.ID, Letter: st.row, LetterID: st.id, Accounts: []int64{account}, Persons: st.facts.Persons, InAt: s.At,
	}); err != nil {
		return err
	}
	s.Index(st.id, st.l)
	s.meet(st)
	s.Touch(decide.Conversation.Of(c.ID))
	return s.Change(decide.Arrive(c.State(), decide.Came{At: s.At, Own: true}))
}

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
