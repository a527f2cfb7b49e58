package app

import (
	"context"
	"strings"

	"ebbe.example/ebbe/internal/core/change"
	"ebbe.example/ebbe/internal/core/decide"
	"ebbe.example/ebbe/internal/core/findings"
	"ebbe.example/ebbe/internal/core/followup"
	"ebbe.example/ebbe/internal/core/kinds"
	"ebbe.example/ebbe/internal/core/when"
	"ebbe.example/ebbe/internal/say"
	"ebbe.example/ebbe/internal/store"
	"ebbe.example/ebbe/internal/work"
)

// FollowUpFields are what a person fills in or changes; nil leaves a field as
// it is. Times are phrases; "" clears them.
type FollowUpFields struct {
	Title *string
	Notes *string
	Start *string
	// Due may be a range, which sets the start too.
	Due       *string
	Priority  *followup.Priority
	Status    *followup.Status
	Stage     *int64
	Assignee  *string
	Project   *string
	Context   *string
	Estimate  *int
	Recurs    *string
	Checklist *[]followup.Item
	// Remind are all its reminders: times, or relative to start or due.
	Remind *[]string
	// Lane puts it into a lane of a layout.
	Lane *LaneRef
}

// LaneRef names a lane of a layout.
type LaneRef struct {
	By  followup.Layout `json:"by" enum:"due,stage,priority,person,project,context,order"`
	Key string          `json:"key" maxLength:"300"`
}

// actionOf proposes a title: the letter's ask as an action.
func actionOf(r seenRow) string { return findings.Action(r.Ask, r.Asks, r.Title()) }

func set[T any](field *T, to *T) {
	if to != nil {
		*field = *to
	}
}

// fill puts what was typed into a follow-up, and gives the reminders that it
// is to have; nil leaves them as they are.
func (s *step) fill(f *store.FollowUp, in FollowUpFields) ([]followup.Reminding, error) {
	p, err := s.Person()
	if err != nil {
		return nil, err
	}
	c := p.Calendar()
	if in.Lane != nil {
		card := followup.Card{Due: f.Due, Priority: f.Priority, Stage: f.Stage, Assignee: f.Assignee, Project: f.Project, Context: f.Context}
		if len(f.Letters) > 0 {
			card.Sender = f.Letters[0].Sender
		}
		if card, err = card.PutInto(in.Lane.By, in.Lane.Key, s.At, c); err != nil {
			return nil, work.Invalid("lane", "%s", say.Sentence(err))
		}
		if in.Lane.By == followup.ByDue && followup.CheckTimes(f.Start, card.Due, nil) != nil {
			f.Start = nil // put somewhere earlier, it starts when it must
		}
		f.Due, f.Priority, f.Stage, f.Assignee, f.Project, f.Context = card.Due, card.Priority, card.Stage, card.Assignee, card.Project, card.Context
	}
	set(&f.Title, in.Title)
	set(&f.Notes, in.Notes)
	set(&f.Priority, in.Priority)
	set(&f.Status, in.Status)
	set(&f.Estimate, in.Estimate)
	set(&f.Stage, in.Stage)
	set(&f.Assignee, in.Assignee)
	set(&f.Project, in.Project)
	set(&f.Context, in.Context)
	set(&f.Checklist, in.Checklist)
	for _, text := range []*string{&f.Title, &f.Assignee, &f.Project, &f.Context} {
		*text = strings.Join(strings.Fields(*text), " ")
	}
	if err := s.fillTimes(f, in, c); err != nil {
		return nil, err
	}
	if in.Recurs != nil {
		f.Recurs = nil
		if strings.TrimSpace(*in.Recurs) != "" {
			r, err := followup.ReadRecurrence(*in.Recurs, s.At, c)
			if err != nil {
				return nil, work.Invalid("recurs", "“%s”: %v.", say.Shorten(*in.Recurs, 40), err)
			}
			f.Recurs = &r
		}
	}
	if f.Recurs != nil && (f.Due == nil || f.Due.Precision == when.Open) {
		first, ok, err := f.Recurs.Next(c.Today(s.At).Add(-1), c.Today(s.At).Add(-1), c.Today(s.At))
		if err != nil || !ok {
			return nil, work.Invalid("recurs", "That recurrence never comes.")
		}
		due := when.OnDay(first, c)
		f.Due = &due
	}
	if f.Recurs != nil && f.Recurs.From == "" {
		r := *f.Recurs
		r.From = f.Due.Day(c).String()
		f.Recurs = &r
	}
	if err := s.checkFields(*f); err != nil {
		return nil, err
	}
	return readReminders(in.Remind, s.At, c)
}

func (s *step) fillTimes(f *store.FollowUp, in FollowUpFields, c when.Calendar) error {
	if in.Start != nil {
		start, err := s.optional(in.Start)
		if err != nil {
			return err
		}
		f.Start = start
	}
	if in.Due == nil {
		return nil
	}
	if strings.TrimSpace(*in.Due) == "" {
		f.Due = nil
		return nil
	}
	span, err := when.ReadSpan(*in.Due, s.At, c)
	if err != nil {
		return work.Invalid("due", "%s", err)
	}
	f.Due = &span.Due.Moment
	if span.Start != nil {
		f.Start = &span.Start.Moment
	}
	return nil
}

// maxReminders bounds the reminders of one follow-up.
const maxReminders = 20

func (s *step) checkFields(f store.FollowUp) error {
	if err := followup.Check(f.Title, f.Notes, f.Priority, f.Status, f.Checklist, f.Project, f.Context, f.Assignee); err != nil {
		return work.Invalid("title", "Nothing was changed: %v.", err)
	}
	if err := followup.CheckTimes(f.Start, f.Due, nil); err != nil {
		return work.Invalid("due", "Nothing was changed: %v.", err)
	}
	if f.Stage != 0 {
		if _, err := s.stage(f.Stage); err != nil {
			return err
		}
	}
	return nil
}

// makeFollowUp makes one follow-up with all the conversations linked.
func (s *step) makeFollowUp(in FollowUpFields, rows []seenRow) (int64, error) {
	new := store.FollowUp{Priority: followup.Normal, Status: followup.Open, MadeAt: s.At}
	if len(rows) > 0 {
		new.Title = actionOf(rows[0])
	}
	remind, err := s.fill(&new, in)
	if err != nil {
		return 0, err
	}
	return s.addFollowUp(new, rows, remind)
}

// addFollowUp writes a follow-up with links to the conversations.
func (s *step) addFollowUp(f store.FollowUp, rows []seenRow, remind []followup.Reminding) (int64, error) {
	var changes change.List
	id, err := s.oneMoreFollowUp(&changes, f, rows, remind)
	if err != nil {
		return 0, err
	}
	return id, s.Change(changes)
}

// oneMoreFollowUp is addFollowUp for many: what brings them to life is carried out
// for all at once.
func (s *step) oneMoreFollowUp(changes *change.List, f store.FollowUp, rows []seenRow, remind []followup.Reminding) (int64, error) {
	if err := s.checkFields(f); err != nil {
		return 0, err
	}
	for _, r := range rows {
		id := r.saw
		if id == 0 || id > r.LastLetter {
			id = r.LastLetter
		}
		f.Letters = append(f.Letters, store.FollowUpLetter{LetterID: id, Subject: r.Title(), Sender: r.From.Display(), Date: r.LastAt, Ask: r.Ask})
	}
	id, err := s.AddFollowUp(f)
	if err != nil {
		return 0, err
	}
	f.ID = id
	kinds.FollowUp.Alive.Set(changes, id, false, true)
	return id, s.setReminders(changes, f, remind)
}

// setReminders gives a follow-up just these reminders. Those that it has
// already stay as they are, also those that rang.
// moveReminders lets the reminders that go by the due or start move with it.
// One that would ring in the past has had its time.
// optional reads a phrase that may be missing or empty.
func (s *step) optional(phrase *string) (*when.Moment, error) {
	if phrase == nil || strings.TrimSpace(*phrase) == "" {
		return nil, nil
	}
	return s.read(*phrase)
}

// NewFollowUp makes a follow-up without a letter, or from letters that stay
// where they are.
func (a *App) NewFollowUp(ctx context.Context, who store.Who, command string, f FollowUpFields, on ...store.Seen) (Decided, error) {
	cmd := work.Command{ID: command, Who: who, Actor: work.ByPerson, Kind: "followup:new"}
	return run(ctx, a, cmd, func(s *step) (Decided, error) { return s.track(f, on...) })
}

// track is NewFollowUp as an action of a step.
func (s *step) track(f FollowUpFields, on ...store.Seen) (Decided, error) {
	var rows []seenRow
	if len(on) > 0 {
		var err error
		if rows, err = s.named(on); err != nil {
			return Decided{}, err
		}
	}
	id, err := s.makeFollowUp(f, rows)
	if err != nil {
		return Decided{}, err
	}
	for _, r := range rows {
		s.Touch(decide.Conversation.Of(r.ID))
	}
	made, err := s.FollowUp(id)
	s.Title = "New follow-up “" + say.Shorten(made.Title, 60) + "”"
	return Decided{Entry: s.ID, Title: s.Title, FollowUp: id}, err
}

// Edited is what became of a change of follow-ups.
// Overwritten is a value that was there and is no more.
// EditFollowUp changes fields of a follow-up. seen is the version that the
// page shows, 0 if it does not matter: fields that others changed since are
// merged, and of the same field the later value counts.
// maxEdited bounds how many follow-ups are changed at once.
const maxEdited = 20_000

// EditFollowUps changes fields of several follow-ups, as one step.
// edit works out what changes on one follow-up.
// overwritten lists the fields that were changed since the version seen, and
// are changed now to something else: the later one counts, the earlier one is
// offered.
// editedInWords says what was changed on a follow-up: "due Fri 27 Nov → Mon 30 Nov".
// QuietReminder takes note that a reminder was seen, or puts it off to a
// phrase.
