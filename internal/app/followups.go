package app

import (
	"cmp"
	"context"
	"fmt"
	"reflect"
	"slices"
	"strings"
	"time"

	"ebbe.example/ebbe/internal/core/change"
	"ebbe.example/ebbe/internal/core/decide"
	"ebbe.example/ebbe/internal/core/findings"
	"ebbe.example/ebbe/internal/core/followup"
	"ebbe.example/ebbe/internal/core/kinds"
	"ebbe.example/ebbe/internal/core/when"
	"ebbe.example/ebbe/internal/say"
	"ebbe.example/ebbe/internal/show"
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

func readReminders(phrases *[]string, now time.Time, c when.Calendar) ([]followup.Reminding, error) {
	if phrases == nil {
		return nil, nil
	}
	out := []followup.Reminding{}
	for _, phrase := range *phrases {
		if strings.TrimSpace(phrase) == "" {
			continue
		}
		r, _, err := followup.ReadReminding(phrase, now, c)
		if err != nil {
			return nil, work.Invalid("remind", "%s", say.Sentence(err))
		}
		out = append(out, r)
	}
	if len(out) > maxReminders {
		return nil, work.Invalid("remind", "A follow-up has %d reminders at most.", maxReminders)
	}
	return out, nil
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

func (s *step) addFollowUp(f store.FollowUp, rows []seenRow, remind []followup.Reminding) (int64, error) {
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
	var changes change.List
	kinds.FollowUp.Alive.Set(&changes, f.ID, false, true)
	if err := s.setReminders(&changes, f, remind); err != nil {
		return 0, err
	}
	return id, s.Change(changes)
}

// setReminders gives a follow-up just these reminders. Those that it has
// already stay as they are, also those that rang.
func (s *step) setReminders(changes *change.List, f store.FollowUp, remind []followup.Reminding) error {
	p, err := s.Person()
	if err != nil {
		return err
	}
	c := p.Calendar()
	var moments []when.Moment
	kept := map[int64]bool{}
	for _, r := range remind {
		m := followup.RemindAt(r, f.Start, f.Due, c)
		moments = append(moments, m)
		i := slices.IndexFunc(f.Reminders, func(old store.Reminder) bool { return !kept[old.ID] && sameReminder(old, r, m) })
		if i >= 0 {
			kept[f.Reminders[i].ID] = true
			continue
		}
		id, err := s.AddReminder(f.ID, m, r.Relative)
		if err != nil {
			return err
		}
		kinds.Reminder.Alive.Set(changes, id, false, true)
	}
	for _, old := range f.Reminders {
		if !kept[old.ID] {
			kinds.Reminder.Alive.Set(changes, old.ID, true, false)
		}
	}
	if err := followup.CheckTimes(nil, f.Due, moments); err != nil {
		return work.Invalid("remind", "Nothing was changed: %v.", err)
	}
	return nil
}

func sameReminder(old store.Reminder, r followup.Reminding, m when.Moment) bool {
	if (old.Relative == nil) != (r.Relative == nil) {
		return false
	}
	if r.Relative != nil {
		return old.Relative.String() == r.Relative.String()
	}
	return old.Moment.UTC.Equal(m.UTC)
}

// moveReminders lets the reminders that go by the due or start move with it.
// One that would ring in the past has had its time.
func (s *step) moveReminders(changes *change.List, f store.FollowUp, start, due *when.Moment) error {
	p, err := s.Person()
	if err != nil {
		return err
	}
	for _, r := range f.Reminders {
		if r.Relative == nil {
			continue
		}
		m := followup.RemindAt(followup.Reminding{Relative: r.Relative}, start, due, p.Calendar())
		if m.UTC.Equal(r.Moment.UTC) && m.Precision == r.Moment.Precision {
			continue
		}
		state := "set"
		if m.Precision != when.Open && m.UTC.Before(s.At) {
			state = "seen"
		}
		kinds.Reminder.Moment.Set(changes, r.ID, r.Moment, m)
		kinds.Reminder.State.Set(changes, r.ID, r.State, state)
	}
	return nil
}

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
type Edited struct {
	Decided
	// Next are those that a completed one has made in turn.
	Next []int64 `json:"next,omitempty"`
	// Over says what somebody else had put there since the page was read.
	Over []Overwritten `json:"over,omitempty"`
}

// Overwritten is a value that was there and is no more.
type Overwritten struct {
	Field string `json:"field"`
	Was   string `json:"was" doc:"In words"`
}

// EditFollowUp changes fields of a follow-up. seen is the version that the
// page shows, 0 if it does not matter: fields that others changed since are
// merged, and of the same field the later value counts.
func (a *App) EditFollowUp(ctx context.Context, who store.Who, command string, id int64, f FollowUpFields, seen int64) (Edited, error) {
	return a.EditFollowUps(ctx, who, command, []int64{id}, f, seen)
}

// maxEdited bounds how many follow-ups are changed at once.
const maxEdited = 20_000

// EditFollowUps changes fields of several follow-ups, as one step.
func (a *App) EditFollowUps(ctx context.Context, who store.Who, command string, ids []int64, f FollowUpFields, seen int64) (Edited, error) {
	cmd := work.Command{ID: command, Who: who, Actor: work.ByPerson, Kind: "followup:edit"}
	return run(ctx, a, cmd, func(s *step) (Edited, error) {
		if len(ids) == 0 || len(ids) > maxEdited {
			return Edited{}, work.Invalid("on", "No follow-up was named.")
		}
		list, err := s.FollowUpsByID(ids)
		if err != nil {
			return Edited{}, err
		}
		list = slices.DeleteFunc(list, func(f store.FollowUp) bool { return !f.Alive })
		if len(list) == 0 {
			return Edited{}, work.Gone("That follow-up is no longer there.")
		}
		var out Edited
		var changes change.List
		var last store.FollowUp
		for _, was := range list {
			if was.Unreadable != nil {
				return Edited{}, work.Refuse("“%s” can’t be read whole, so nothing was changed: %v", say.Shorten(was.Title, 60), was.Unreadable)
			}
			now, err := s.edit(&changes, was, f, &out)
			if err != nil {
				return Edited{}, err
			}
			last = now
		}
		if seen > 0 && len(list) == 1 {
			if out.Over, err = s.overwritten(changes, list[0], seen); err != nil {
				return Edited{}, err
			}
		}
		s.Title = s.editTitle(list, last)
		out.Decided = Decided{Entry: s.ID, Title: s.Title, FollowUp: last.ID}
		return out, s.Change(changes)
	})
}

// edit works out what changes on one follow-up.
func (s *step) edit(changes *change.List, was store.FollowUp, f FollowUpFields, out *Edited) (store.FollowUp, error) {
	now := was
	remind, err := s.fill(&now, f)
	if err != nil {
		return now, err
	}
	next := was.Recurs != nil && !was.Status.Closed() && now.Status == followup.Done
	if next {
		id, err := s.recur(now)
		if err != nil {
			return now, err
		}
		if id != 0 {
			out.Next = append(out.Next, id)
		}
		now.Recurs = nil // the series goes on with the next one
	}
	kinds.FollowUp.Title.Set(changes, was.ID, was.Title, now.Title)
	kinds.FollowUp.Notes.Set(changes, was.ID, was.Notes, now.Notes)
	kinds.FollowUp.Start.Set(changes, was.ID, was.Start, now.Start)
	kinds.FollowUp.Due.Set(changes, was.ID, was.Due, now.Due)
	kinds.FollowUp.Priority.Set(changes, was.ID, was.Priority, now.Priority)
	kinds.FollowUp.Status.Set(changes, was.ID, was.Status, now.Status)
	kinds.FollowUp.Stage.Set(changes, was.ID, was.Stage, now.Stage)
	kinds.FollowUp.Assignee.Set(changes, was.ID, was.Assignee, now.Assignee)
	kinds.FollowUp.Project.Set(changes, was.ID, was.Project, now.Project)
	kinds.FollowUp.Context.Set(changes, was.ID, was.Context, now.Context)
	kinds.FollowUp.Estimate.Set(changes, was.ID, was.Estimate, now.Estimate)
	kinds.FollowUp.Recurs.Set(changes, was.ID, was.Recurs, now.Recurs)
	kinds.FollowUp.Checklist.Set(changes, was.ID, show.OrEmpty(was.Checklist), show.OrEmpty(now.Checklist))
	if f.Remind != nil {
		if err := s.setReminders(changes, now, remind); err != nil {
			return now, err
		}
	} else if err := s.moveReminders(changes, now, now.Start, now.Due); err != nil {
		return now, err
	}
	for _, l := range was.Letters {
		s.Touch(decide.Conversation.Of(l.Conversation))
	}
	return now, nil
}

// overwritten lists the fields that were changed since the version seen, and
// are changed now to something else: the later one counts, the earlier one is
// offered.
func (s *step) overwritten(changes change.List, was store.FollowUp, seen int64) ([]Overwritten, error) {
	var out []Overwritten
	for _, c := range changes {
		if c.Kind != kinds.FollowUp.Kind || c.ID != was.ID {
			continue
		}
		field, _ := change.FieldOf(c)
		version, err := s.Version(field, c.ID)
		if err != nil {
			return nil, err
		}
		if version > seen {
			out = append(out, Overwritten{c.Field, s.fieldInWords(was, field)})
		}
	}
	return out, nil
}

func (s *step) fieldInWords(f store.FollowUp, field change.Named) string {
	moment := func(m *when.Moment) string {
		if m == nil {
			return ""
		}
		return s.speak(*m)
	}
	switch field {
	case kinds.FollowUp.Title.Named:
		return f.Title
	case kinds.FollowUp.Notes.Named:
		return f.Notes
	case kinds.FollowUp.Start.Named:
		return moment(f.Start)
	case kinds.FollowUp.Due.Named:
		return moment(f.Due)
	case kinds.FollowUp.Priority.Named:
		return string(f.Priority)
	case kinds.FollowUp.Status.Named:
		return string(f.Status)
	case kinds.FollowUp.Assignee.Named:
		return f.Assignee
	case kinds.FollowUp.Project.Named:
		return f.Project
	case kinds.FollowUp.Context.Named:
		return f.Context
	case kinds.FollowUp.Estimate.Named:
		return fmt.Sprintf("%d min", f.Estimate)
	case kinds.FollowUp.Recurs.Named:
		if f.Recurs != nil {
			return f.Recurs.String()
		}
	}
	return ""
}

func (s *step) editTitle(was []store.FollowUp, now store.FollowUp) string {
	verb := "Changed "
	switch {
	case was[0].Status != now.Status && now.Status == followup.Done:
		verb = "Completed "
	case was[0].Status != now.Status && now.Status == followup.Dropped:
		verb = "Dropped "
	case was[0].Status.Closed() && !now.Status.Closed():
		verb = "Reopened "
	}
	if len(was) > 1 {
		return fmt.Sprintf("%s%d follow-ups", verb, len(was))
	}
	title := verb + "“" + say.Shorten(now.Title, 60) + "”"
	if what := s.editedInWords(was[0], now); verb == "Changed " && len(what) > 0 {
		title += ": " + strings.Join(what[:min(len(what), 3)], ", ")
	}
	return title
}

// editedInWords says what was changed on a follow-up: "due Fri 27 Nov → Mon 30 Nov".
func (s *step) editedInWords(was, now store.FollowUp) (out []string) {
	moved := func(what, from, to string) {
		if from != to {
			out = append(out, what+" "+cmp.Or(from, "none")+" → "+cmp.Or(to, "none"))
		}
	}
	spoken := func(m *when.Moment) string {
		if m == nil {
			return ""
		}
		return s.speak(*m)
	}
	moved("due", spoken(was.Due), spoken(now.Due))
	moved("start", spoken(was.Start), spoken(now.Start))
	moved("priority", string(was.Priority), string(now.Priority))
	moved("status", string(was.Status), string(now.Status))
	moved("project", was.Project, now.Project)
	moved("context", was.Context, now.Context)
	moved("for", was.Assignee, now.Assignee)
	if was.Title != now.Title {
		out = append(out, "it was “"+say.Shorten(was.Title, 40)+"”")
	}
	for _, other := range []struct {
		what    string
		changed bool
	}{
		{"notes", was.Notes != now.Notes}, {"stage", was.Stage != now.Stage}, {"estimate", was.Estimate != now.Estimate},
		{"checklist", !reflect.DeepEqual(was.Checklist, now.Checklist)}, {"recurrence", !reflect.DeepEqual(was.Recurs, now.Recurs)},
	} {
		if other.changed {
			out = append(out, other.what)
		}
	}
	return out
}

// QuietReminder takes note that a reminder was seen, or puts it off to a
// phrase.
func (a *App) QuietReminder(ctx context.Context, who store.Who, command string, id int64, until string) (Decided, error) {
	cmd := work.Command{ID: command, Who: who, Actor: work.ByPerson, Kind: "reminder"}
	return run(ctx, a, cmd, func(s *step) (Decided, error) {
		followUp, r, err := s.ReminderOf(id)
		if err != nil {
			return Decided{}, work.Gone("That reminder is no longer there.")
		}
		var changes change.List
		if until == "" {
			s.Title = "Reminder seen"
			kinds.Reminder.State.Set(&changes, id, r.State, "seen")
			return Decided{Entry: s.ID, Title: s.Title, FollowUp: followUp}, s.Change(changes)
		}
		moment, err := s.read(until)
		if err != nil {
			return Decided{}, err
		}
		if moment.Precision == when.Open {
			return Decided{}, work.Invalid("when", "A reminder needs a time.")
		}
		kinds.Reminder.Moment.Set(&changes, id, r.Moment, *moment)
		kinds.Reminder.State.Set(&changes, id, r.State, "set")
		s.Title = "Reminder put off until " + s.speak(*moment)
		return Decided{Entry: s.ID, Title: s.Title, FollowUp: followUp}, s.Change(changes)
	})
}
