package app

import (
	"context"

	"ebbe.example/ebbe/internal/core/change"
	"ebbe.example/ebbe/internal/core/followup"
	"ebbe.example/ebbe/internal/core/kinds"
	"ebbe.example/ebbe/internal/core/when"
	"ebbe.example/ebbe/internal/say"
	"ebbe.example/ebbe/internal/store"
	"ebbe.example/ebbe/internal/work"
)

// nextDay is the day on which a recurring follow-up comes again. What was
// missed meanwhile is not made up for.
func (s *step) nextDay(f store.FollowUp, c when.Calendar) (when.Date, bool, error) {
	today := c.Today(s.At)
	due := today
	if f.Due != nil && f.Due.Precision != when.Open {
		due = f.Due.Day(c)
	}
	if yesterday := today.Add(-1); due.Before(yesterday) {
		due = yesterday
	}
	first, ok := when.ReadDate(f.Recurs.From)
	if !ok {
		first = due
	}
	return f.Recurs.Next(due, today, first)
}

// recur makes the next one of a series; 0 when the series has ended.
func (s *step) recur(f store.FollowUp) (int64, error) {
	p, err := s.Person()
	if err != nil {
		return 0, err
	}
	c := p.Calendar()
	day, ok, err := s.nextDay(f, c)
	if err != nil || !ok {
		return 0, err
	}
	next := f
	next.ID, next.Alive, next.UID, next.Status, next.MadeAt, next.Reminders = 0, false, "", followup.Open, s.At, nil
	moved := f.Due.Day(c).DaysUntil(day)
	due := f.Due.MovedTo(day, c)
	next.Due = &due
	if f.Start != nil && f.Start.Precision != when.Open {
		start := f.Start.MovedTo(f.Start.Day(c).Add(moved), c)
		next.Start = &start
	}
	next.Checklist = nil
	for _, item := range f.Checklist {
		next.Checklist = append(next.Checklist, followup.Item{Text: item.Text})
	}
	var remind []followup.Reminding
	for _, r := range f.Reminders {
		if r.Relative != nil {
			remind = append(remind, followup.Reminding{Relative: r.Relative})
		} else if r.Moment.Precision != when.Open {
			m := r.Moment.MovedTo(r.Moment.Day(c).Add(moved), c)
			remind = append(remind, followup.Reminding{Moment: &m})
		}
	}
	return s.addFollowUp(next, nil, remind)
}

// SkipFollowUp moves a recurring follow-up to its next day without completing
// it; at the end of its series it is dropped.
func (a *App) SkipFollowUp(ctx context.Context, who store.Who, command string, id int64) (Decided, error) {
	cmd := work.Command{ID: command, Who: who, Actor: work.ByPerson, Kind: "followup:edit"}
	return run(ctx, a, cmd, func(s *step) (Decided, error) {
		f, err := s.FollowUp(id)
		if err != nil || !f.Alive || f.Status.Closed() || f.Recurs == nil {
			return Decided{}, work.Refuse("That follow-up does not come again.")
		}
		p, err := s.Person()
		if err != nil {
			return Decided{}, err
		}
		c := p.Calendar()
		day, ok, err := s.nextDay(f, c)
		if err != nil {
			return Decided{}, err
		}
		title := "“" + say.Shorten(f.Title, 60) + "”"
		if !ok {
			var changes change.List
			kinds.FollowUp.Status.Set(&changes, f.ID, f.Status, followup.Dropped)
			s.Title = "Dropped the last of " + title
			return Decided{Entry: s.ID, Title: s.Title, FollowUp: id}, s.Change(changes)
		}
		due := when.OnDay(day, c)
		if f.Due != nil && f.Due.Precision != when.Open {
			due = f.Due.MovedTo(day, c)
		}
		s.Title = "Skipped " + title + " to " + s.speak(due)
		var changes change.List
		if err := s.setDue(&changes, f, &due); err != nil {
			return Decided{}, err
		}
		return Decided{Entry: s.ID, Title: s.Title, FollowUp: id}, s.Change(changes)
	})
}
