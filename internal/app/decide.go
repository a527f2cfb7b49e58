package app

import (
	"context"
	"errors"
	"fmt"
	"slices"
	"strings"

	"ebbe.example/ebbe/internal/core/change"
	"ebbe.example/ebbe/internal/core/decide"
	"ebbe.example/ebbe/internal/core/label"
	"ebbe.example/ebbe/internal/core/when"
	"ebbe.example/ebbe/internal/say"
	"ebbe.example/ebbe/internal/store"
	"ebbe.example/ebbe/internal/work"
)

// Deciding is a decision on one or many conversations.
type Deciding struct {
	Command string
	Kind    decide.Kind
	// On names the conversations, each with the last letter that was seen.
	On []store.Seen
	// When is the phrase for Later, or for a Follow up that also puts off; a
	// conversation named in Each has a phrase of its own.
	When   string
	Each   map[int64]string
	Stay   bool
	Labels []string
	// Tell is a note to the senders of what is put off; "" for none.
	Tell string
	// FollowUp is filled for the decision of that name, and for a flag.
	FollowUp *FollowUpFields
	// Sure does all the same what would be asked about: putting off what was put
	// off often already, deciding what was decided elsewhere meanwhile.
	Sure bool
}

// decidedSince refuses a decision on what was decided otherwise since it was
// seen, by another page or person: neither is to undo the other unseen.
func decidedSince(gone []store.Row) error {
	if len(gone) == 0 {
		return nil
	}
	p := &work.Problem{Kind: "decided-since", Field: "on", Choices: []string{"all-the-same"}}
	p.Reason = fmt.Sprintf("“%s” has gone elsewhere meanwhile: it is %s now.", say.Shorten(gone[0].Title(), 60), gone[0].Place.About().Where)
	if more := len(gone) - 1; more > 0 {
		p.Reason = fmt.Sprintf("“%s” and %d more have gone elsewhere meanwhile.", say.Shorten(gone[0].Title(), 60), more)
	}
	for _, r := range gone {
		p.On = append(p.On, r.ID)
	}
	return p
}

// putOffAgain is the question before letters are put off once more, however
// that is done; nil where none was put off often already.
func putOffAgain(often []store.Row) error {
	if len(often) == 0 {
		return nil
	}
	first := say.Shorten(often[0].Title(), 60)
	reason := fmt.Sprintf("“%s” was put off %d times already. Answer it, hand it on, follow it up, be done with it, or put it off all the same.", first, often[0].PutOffs)
	if more := len(often) - 1; more > 0 {
		reason = fmt.Sprintf("“%s” and %d more were put off often already. Answer them, hand them on, follow them up, be done with them, or put them off all the same.", first, more)
	}
	p := &work.Problem{Kind: "put-off-again", Field: "when", Choices: []string{"answer", "hand-on", "follow-up", "done", "later"}, Reason: reason}
	for _, r := range often {
		p.On = append(p.On, r.ID)
	}
	return p
}

// Decided is what became of a decision.
type Decided struct {
	Entry int64  `json:"entry"`
	Title string `json:"title"`
	// New are the conversations that a newer letter keeps in the inbox.
	New      []int64 `json:"new,omitempty"`
	FollowUp int64   `json:"followUp,omitempty"`
	// Left says of what was named and is no longer there.
	Left []string `json:"left,omitempty"`
	// Now is how the conversations stand, so that a further decision of the same
	// page is not taken for one that knows nothing of this; left out of many.
	Now []store.Seen `json:"now,omitempty"`
	// Final tells that it can't be taken back.
	Final bool `json:"final,omitempty"`
}

// Decide carries out a decision that sends no letter. Answer and Hand on go
// through Send.
func (a *App) Decide(ctx context.Context, who store.Who, d Deciding) (Decided, error) {
	cmd := work.Command{ID: d.Command, Who: who, Actor: work.ByPerson, Kind: "decide:" + string(d.Kind), Title: d.Kind.About().Did}
	return run(ctx, a, cmd, func(s *step) (Decided, error) { return s.decide(d) })
}

// decide is a decision as an action of a step.
func (s *step) decide(d Deciding) (Decided, error) {
	if len(d.On) == 0 {
		return Decided{}, work.Invalid("on", "No letter was named.")
	}
	switch about := d.Kind.About(); {
	case about.Kind == "":
		return Decided{}, work.Invalid("kind", "There is no such decision.")
	case about.Sends():
		return Decided{}, work.Refuse("Answer and Hand on send a letter; they work on one at a time.")
	}
	s.sure = s.sure || d.Sure
	labels, err := cleanLabels(d.Labels)
	if err != nil {
		return Decided{}, err
	}
	rows, err := s.named(d.On)
	if err != nil {
		return Decided{}, err
	}
	wishes, err := s.wishesFor(d)
	if err != nil {
		return Decided{}, err
	}
	changes, err := s.release(rows)
	if err != nil {
		return Decided{}, err
	}
	out := Decided{Entry: s.ID, Left: s.gone()}
	decision := decide.Decision{Kind: d.Kind, At: s.At, Stay: d.Stay, Labels: labels}
	for _, r := range rows {
		decision.Saw = r.saw
		s.checkSeen(r.Row, r.version)
		if err := wishes.put(s, r.Row, &decision); err != nil {
			return Decided{}, err
		}
		if decide.Misses(r.State(), decision) {
			out.New = append(out.New, r.ID)
		}
		changes = append(changes, s.decideOn(r.Row, decision)...)
	}
	if d.FollowUp != nil {
		if out.FollowUp, err = s.makeFollowUp(*d.FollowUp, rows); err != nil {
			return Decided{}, err
		}
	}
	s.Title = decidedTitle(d, rows, wishes, s)
	if d.Kind == decide.PutOff && strings.TrimSpace(d.Tell) != "" {
		told, err := s.tell(rows, d.Tell)
		if err != nil {
			return Decided{}, err
		}
		s.Title += toldTitle(told)
	}
	out.Title = s.Title
	if err := s.Change(changes); err != nil {
		return Decided{}, err
	}
	out.Now, err = s.standing(idsOf(rows))
	return out, err
}

// checkSeen notes what is to be asked about before a decision on what was seen at
// a version.
func (s *step) checkSeen(row store.Row, version *int64) {
	if !s.sure && decide.Overtaken(row.State(), version) {
		s.since = append(s.since, row)
	}
}

// standing is how conversations stand within a step; nothing for many.
func (s *step) standing(ids []int64) ([]store.Seen, error) {
	if len(ids) == 0 || len(ids) > work.Named {
		return nil, nil
	}
	return s.Standing(ids)
}

func idsOf(rows []seenRow) []int64 {
	ids := make([]int64, len(rows))
	for i, r := range rows {
		ids[i] = r.ID
	}
	return ids
}

// decideOn computes what a decision changes, and notes what is to be asked
// before.
func (s *step) decideOn(row store.Row, d decide.Decision) change.List {
	if !s.sure && decide.Asks(row.State(), d) {
		s.often = append(s.often, row)
	}
	return decide.Decide(row.State(), d)
}

// settle decides on conversations within another step.
func (s *step) settle(rows []seenRow, d decide.Decision) error {
	changes, err := s.release(rows)
	if err != nil {
		return err
	}
	for _, r := range rows {
		changes = append(changes, s.decideOn(r.Row, d)...)
	}
	return s.Change(changes)
}

// seenRow is a conversation, the last letter of it that was seen, and the version
// at which it was (see store.Seen).
type seenRow struct {
	store.Row
	saw     int64
	version *int64
}

// named loads the conversations that a command names, following redirects.
func (s *step) named(on []store.Seen) ([]seenRow, error) {
	saw := make(map[int64]store.Seen, len(on))
	ids := make([]int64, 0, len(on))
	for _, o := range on {
		saw[o.ID] = o
		ids = append(ids, o.ID)
	}
	rows, err := s.Conversations(ids)
	if err != nil {
		return nil, err
	}
	s.missing = len(saw) - len(rows)
	out := make([]seenRow, 0, len(rows))
	taken := make(map[int64]bool, len(rows))
	for _, r := range rows {
		seen := saw[r.ID]
		if r.Place == decide.Nowhere { // joined into another meanwhile
			whole, err := s.Conversation(r.ID)
			if errors.Is(err, store.ErrNotFound) {
				s.missing++
				continue
			}
			if err != nil {
				return nil, err
			}
			r, seen.Version = whole, nil // it was seen of the other one
		}
		if r.Unreadable != nil {
			return nil, work.Refuse("“%s” can’t be read whole, so nothing was done with it: %v", say.Shorten(r.Title(), 60), r.Unreadable)
		}
		if !taken[r.ID] { // two may have been joined into one
			taken[r.ID] = true
			out = append(out, seenRow{r, seen.Last, seen.Version})
		}
	}
	if len(out) == 0 {
		return nil, work.Gone("That conversation is no longer there.")
	}
	return out, nil
}

// gone says how many of those that a command names are no longer there.
func (s *step) gone() []string {
	switch s.missing {
	case 0:
		return nil
	case 1:
		return []string{"1 of them is no longer there."}
	}
	return []string{fmt.Sprintf("%d of them are no longer there.", s.missing)}
}

// read understands a phrase at the step's time, in the owner's calendar.
func (s *step) read(phrase string) (*when.Moment, error) {
	p, err := s.Person()
	if err != nil {
		return nil, err
	}
	r, err := when.Read(phrase, s.At, p.Calendar())
	if err != nil {
		return nil, work.Invalid("when", "%s", err)
	}
	return &r.Moment, nil
}

func (s *step) speak(m when.Moment) string {
	p, err := s.Person()
	if err != nil {
		return m.Phrase
	}
	return when.Speak(m, s.At, p.Calendar())
}

func decidedTitle(d Deciding, rows []seenRow, wishes wishes, s *step) string {
	title := d.Kind.About().Did + " " + namedTitle(rows)
	switch {
	case d.Kind == decide.PutOff:
		title += " " + wishes.inWords(s)
	case len(d.Labels) > 0:
		title += " under " + strings.Join(d.Labels, ", ")
	}
	return title
}

// toldTitle says who was told; what was shown before may have changed since.
func toldTitle(told []string) string {
	switch len(told) {
	case 0:
		return "; nobody could be told"
	case 1:
		return "; told " + told[0]
	}
	return fmt.Sprintf("; told %d senders", len(told))
}

func namedTitle(rows []seenRow) string {
	if len(rows) == 1 {
		return "“" + say.Shorten(rows[0].Title(), 60) + "”"
	}
	return fmt.Sprintf("%d letters", len(rows))
}

func cleanLabels(labels []string) ([]string, error) {
	var out []string
	for _, l := range labels {
		if l = label.Clean(l); l == "" {
			continue
		}
		if len(l) > label.Max {
			return nil, work.Invalid("labels", "The label “%s” is too long.", say.Shorten(l, 30))
		}
		if !slices.Contains(out, l) {
			out = append(out, l)
		}
	}
	return out, nil
}

// See remembers that a conversation was looked at up to a letter.
func (a *App) See(ctx context.Context, who store.Who, conversation, last int64) error {
	err := a.Store.Write(ctx, who, func(tx *store.Tx) error {
		if err := tx.MarkSeen(conversation, last); err != nil {
			return err
		}
		return tx.NoteRemoteSeen(conversation)
	})
	if err == nil {
		a.Publish(who.Inbox, work.News{Stale: []work.Reading{}, Conversations: []int64{conversation}, Person: who.Person})
	}
	return err
}
