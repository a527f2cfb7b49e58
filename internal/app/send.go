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
	"ebbe.example/ebbe/internal/core/sending"
	"ebbe.example/ebbe/internal/core/waiting"
	"ebbe.example/ebbe/internal/core/when"
	"ebbe.example/ebbe/internal/core/writing"
	"ebbe.example/ebbe/internal/post"
	"ebbe.example/ebbe/internal/say"
	"ebbe.example/ebbe/internal/show"
	"ebbe.example/ebbe/internal/store"
	"ebbe.example/ebbe/internal/work"
)

// Kept tells since when a draft is safe: whoever knows of a later moment than a list
// does knows better.
type Kept struct {
	UpdatedAt time.Time `json:"updatedAt"`
	// Over tells that it was not kept: it was sent, thrown away or replaced elsewhere.
	Over bool `json:"over,omitempty" doc:"It was sent, thrown away or replaced elsewhere, and nothing was kept"`
}

// SaveDraft keeps what is being typed. It is no step of the Journal: there is
// nothing to undo in a keystroke.
func (a *App) SaveDraft(ctx context.Context, who store.Who, id string, conversation int64, w show.Writing) (Kept, error) {
	value, err := json.Marshal(w)
	if err != nil {
		return Kept{}, err
	}
	now := a.Now()
	over := false
	err = a.Store.Write(ctx, who, func(tx *store.Tx) error {
		if err := tx.SaveDraft(store.Draft{ID: id, Conversation: conversation, Kind: w.Kind, Value: value, UpdatedAt: now}); err != nil {
			return err
		}
		d, err := tx.Draft(id)
		over = !d.Alive
		return err
	})
	if err == nil {
		a.Publish(who.Inbox, work.News{Stale: work.StaleBy(kinds.Draft.Kind)})
	}
	return Kept{UpdatedAt: now, Over: over}, err
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
		leaves, err := s.leaves(w.Later)
		if err != nil {
			return Sent{}, err
		}
		every, err := s.every(w.Writing, leaves)
		if err != nil {
			return Sent{}, err
		}
		filled := w
		if every != nil {
			if filled.Writing, err = s.filledFor(w.Writing, leaves); err != nil {
				return Sent{}, err
			}
		}
		out, account, err := s.compose(filled)
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
		if w.Track != "" {
			if err := s.trackSent(w.Track, conversation, kind != ""); err != nil {
				return Sent{}, err
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
		if w.Later != "" || every != nil {
			s.Title += fmt.Sprintf(", to leave %s", s.speak(when.Exact(leaves, s.calendar())))
		}
		if every != nil {
			s.Title += ", " + say.RecursInWords(every)
		}
		id, err := s.AddOutgoing(store.Outgoing{
			AccountID: account, Conversation: conversation, Draft: w.Draft, MessageID: out.MessageID, Sender: out.From.Email,
			Recipients: receivers(out), Subject: out.Subject, SendAt: leaves, Later: w.Later != "" || every != nil, Every: every, Notify: w.Notify,
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

// receivers are the addresses that a letter goes to.
func receivers(out letter.Outgoing) (to []string) {
	for _, r := range slices.Concat(out.To, out.Cc, out.Bcc) {
		to = append(to, r.Email)
	}
	return to
}

// trackSent makes a follow-up of a line of plain words, beside the letter that is sent; of a
// conversation that has letters it is about those.
func (s *step) trackSent(line string, conversation int64, about bool) error {
	fields, err := s.app.captured(s.Tx, line)
	if err != nil {
		return err
	}
	var rows []seenRow
	if about {
		row, err := s.Conversation(conversation)
		if err != nil {
			return err
		}
		rows = []seenRow{{Row: row, saw: row.LastLetter}}
	}
	id, err := s.makeFollowUp(fields, rows)
	if err != nil {
		return err
	}
	made, err := s.FollowUp(id)
	s.Title += ", with the follow-up “" + say.Shorten(made.Title, 60) + "”"
	return err
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
		if from, ok := a.Writes(w.From); ok && account.ID == 0 {
			account, out.From = a, from
		}
	}
	if account.ID == 0 {
		return out, 0, work.Invalid("from", "“%s” is not one of your addresses. The letter was not sent.", w.From)
	}
	if out.To, err = checkAddresses(w.To); err != nil {
		return out, 0, err
	}
	if out.Cc, err = checkAddresses(w.Cc); err != nil {
		return out, 0, err
	}
	if out.Bcc, err = checkAddresses(w.Bcc); err != nil {
		return out, 0, err
	}
	if len(out.To) == 0 {
		return out, 0, work.Invalid("to", "The letter needs somebody to go to. It was not sent; the draft is kept.")
	}
	if open := writing.Unfilled(out.Subject, w.Text, w.Fields); len(open) > 0 {
		return out, 0, work.Invalid("text", "Not filled in: {%s}. The letter was not sent; the draft is kept.", strings.Join(open, "}, {"))
	}
	asLetter := w.Kind == "hand-on" && w.Along == "letter"
	if asLetter {
		w.Quoted = ""
	}
	if w.Quoted != "" {
		out.Text = strings.TrimRight(w.Text, "\n") + "\n\n" + w.Quoted
	}
	_, domain, _ := strings.Cut(out.From.Email, "@")
	out.MessageID = s.app.NewID() + "@" + domain
	if err := s.attach(&out, w.Writing, domain); err != nil {
		return out, 0, err
	}
	if w.Kind == "new" || w.Letter == 0 {
		return out, account.ID, fits(out, account)
	}
	raw, err := s.Original(w.Letter)
	if err != nil {
		return out, 0, work.Gone("The letter that this answers is no longer there. The draft is kept.")
	}
	answered := letter.Parse(raw)
	out.References, out.InReplyTo = letter.Chain(answered), answered.MessageID
	switch w.Kind {
	case "hand-on":
		switch w.Along {
		case "text":
		case "letter":
			out.Parts = append([]letter.Part{{Name: post.FileName(answered.Subject) + ".eml", ContentType: "message/rfc822", Content: raw}}, out.Parts...)
		default:
			out.Parts = append(answered.Attachments(), out.Parts...)
		}
	case "again": // the same letter, to somebody who can be reached
		out.Parts, out.References, out.InReplyTo = answered.Attachments(), answered.References, ""
		if len(answered.InReplyTo) > 0 {
			out.InReplyTo = answered.InReplyTo[0]
		}
	}
	return out, account.ID, fits(out, account)
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
// outgoing is a letter of the outbox with its bytes.
// tried keeps what a try to send a letter has brought. With the first
// recipient for whom it is accepted it has left, and is part of its
// conversation; who refuses it brings that back; for the rest it goes again.
// sent makes a letter that has left part of its conversation.
// firstOwn is the own address to which a letter went, To before Cc.
// joinOwn puts an own letter into the conversation it was written in.
// refused brings the conversation of a letter back that the mail service would
// not take for some recipients, through any hold.
// wakeDraft gives a letter that nobody got back to its writer.
// inWords lists the first few of names.
func inWords(names []string) string {
	const few = 3
	if len(names) <= few {
		return strings.Join(names, ", ")
	}
	return fmt.Sprintf("%s and %d others", strings.Join(names[:few], ", "), len(names)-few)
}

// leaves is when a letter that is sent now leaves; until then it can be undone. later is the
// phrase of a time of its own, "" for as soon as it may.
func (s *step) leaves(later string) (time.Time, error) {
	p, err := s.Person()
	if err != nil {
		return time.Time{}, err
	}
	if later == "" {
		return s.At.Add(time.Duration(p.SendDelay) * time.Second), nil
	}
	m, err := s.read(later)
	if err != nil {
		return time.Time{}, err
	}
	return sendable(*m, s.At)
}

// sendable is the moment at which a letter can leave.
func sendable(m when.Moment, now time.Time) (time.Time, error) {
	if m.Precision == when.Open {
		return time.Time{}, work.Invalid("when", "A letter needs a time to leave at.")
	}
	if !m.UTC.After(now) {
		return time.Time{}, work.Invalid("when", "That time has passed. The letter was not sent; the draft is kept.")
	}
	return m.UTC, nil
}
