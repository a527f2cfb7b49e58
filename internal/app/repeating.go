package app

import (
	"encoding/json"
	"fmt"
	"strings"
	"time"

	"ebbe.example/ebbe/internal/core/change"
	"ebbe.example/ebbe/internal/core/followup"
	"ebbe.example/ebbe/internal/core/kinds"
	"ebbe.example/ebbe/internal/core/letter"
	"ebbe.example/ebbe/internal/core/meeting"
	"ebbe.example/ebbe/internal/core/sending"
	"ebbe.example/ebbe/internal/core/when"
	"ebbe.example/ebbe/internal/core/writing"
	"ebbe.example/ebbe/internal/say"
	"ebbe.example/ebbe/internal/show"
	"ebbe.example/ebbe/internal/store"
	"ebbe.example/ebbe/internal/work"
)

// A recurring letter is one of the outbox with a time of its own. When it has left, the next
// one is made from its draft, with its fields filled for that day; so it is moved, skipped and
// ended as any letter that leaves later.

// every reads how a letter recurs whose first one leaves at a moment; nil for one that does not.
func (s *step) every(w show.Writing, first time.Time) (*meeting.Series, error) {
	if strings.TrimSpace(w.Every) == "" {
		return nil, nil
	}
	if w.Kind != "new" {
		return nil, work.Invalid("every", "Only a new letter recurs. It was not sent; the draft is kept.")
	}
	cal := s.calendar()
	r, err := followup.ReadRecurrence(w.Every, first, cal)
	if err != nil {
		return nil, work.Invalid("every", "%s It was not sent; the draft is kept.", say.Sentence(err))
	}
	if r.AfterDone {
		return nil, work.Invalid("every", "A letter recurs by the calendar. It was not sent; the draft is kept.")
	}
	return &meeting.Series{Wall: first.In(cal.Zone).Format("20060102T150405"), Zone: cal.Zone.String(), Rules: []string{r.Rule}}, nil
}

// filledFor is a letter with its fields filled for the day on which it leaves.
func (s *step) filledFor(w show.Writing, leaves time.Time) (show.Writing, error) {
	values, err := show.ValuesFor(s.Tx, w, leaves)
	if err != nil {
		return w, err
	}
	text, _ := letter.CutSignature(w.Text)
	signature := strings.TrimPrefix(w.Text, text)
	w.Text, w.Subject = writing.FillIn(text, values)+signature, writing.FillIn(w.Subject, values)
	return w, nil
}

// longestRepeat is how far ahead the next of a recurring letter is looked for.
const longestRepeat = 5 * 366 * 24 * time.Hour

// again makes the next one of a recurring letter, after a moment; the last one has none.
func (s *step) again(o store.Outgoing, after time.Time) error {
	if after.Before(s.At) {
		after = s.At
	}
	next := o.Every.Starts(s.calendar(), after.Add(time.Second), after.Add(longestRepeat), 1)
	if len(next) == 0 {
		s.Title += "; it was the last one"
		return nil
	}
	d, err := s.Draft(o.Draft)
	if err != nil {
		return err
	}
	w := Sending{Draft: o.Draft}
	if err := json.Unmarshal(d.Value, &w.Writing); err != nil {
		return fmt.Errorf("what the recurring letter “%s” is made from can't be read: %w", o.Subject, err)
	}
	if w.Writing, err = s.filledFor(w.Writing, next[0]); err != nil {
		return err
	}
	out, account, err := s.compose(w)
	if err != nil { // it is a draft again, which says so: its account was laid aside, a field is open
		s.Title += ". The next one can't be made, and is a draft: " + work.ReasonOf(err)
		return s.wakeDraft(o)
	}
	raw, err := out.Bytes()
	if err != nil {
		return err
	}
	conversation, err := s.AddConversation(letter.BareSubject(out.Subject))
	if err != nil {
		return err
	}
	made := o
	made.AccountID, made.Conversation, made.MessageID, made.Sender, made.Subject = account, conversation, out.MessageID, out.From.Email, out.Subject
	made.Recipients, made.SendAt, made.Later = receivers(out), next[0], true
	id, err := s.AddOutgoing(made, store.Pack(raw), s.At)
	if err != nil {
		return err
	}
	var changes change.List
	kinds.Outbox.State.Set(&changes, id, sending.Unmade, sending.Waiting)
	s.Title += "; the next leaves " + s.speak(when.Exact(next[0], s.calendar()))
	return s.Change(changes)
}

// skipSends leaves one of each recurring letter out, and makes the next.
func (s *step) skipSends(on []EntryRef) (int, error) {
	waiting, gone, err := s.waitingSends(on)
	if err != nil {
		return 0, err
	}
	for _, o := range waiting {
		if o.Every == nil {
			return 0, work.Invalid("kind", "“%s” does not recur: move it, or cancel it.", say.Shorten(o.Subject, 60))
		}
		var changes change.List
		kinds.Outbox.State.Set(&changes, o.ID, o.State, sending.Unmade)
		if err := s.Change(changes); err != nil {
			return 0, err
		}
		s.Title = "Left out “" + say.Shorten(o.Subject, 60) + "”"
		if err := s.again(o, o.SendAt); err != nil {
			return 0, err
		}
	}
	return gone, nil
}
