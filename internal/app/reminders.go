package app

import (
	"context"
	"slices"
	"strings"
	"time"

	"ebbe.example/ebbe/internal/core/change"
	"ebbe.example/ebbe/internal/core/followup"
	"ebbe.example/ebbe/internal/core/kinds"
	"ebbe.example/ebbe/internal/core/when"
	"ebbe.example/ebbe/internal/say"
	"ebbe.example/ebbe/internal/store"
	"ebbe.example/ebbe/internal/work"
)

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
