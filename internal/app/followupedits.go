package app

import (
	"cmp"
	"context"
	"fmt"
	"reflect"
	"slices"
	"strings"

	"ebbe.example/ebbe/internal/core/change"
	"ebbe.example/ebbe/internal/core/decide"
	"ebbe.example/ebbe/internal/core/followup"
	"ebbe.example/ebbe/internal/core/kinds"
	"ebbe.example/ebbe/internal/core/when"
	"ebbe.example/ebbe/internal/say"
	"ebbe.example/ebbe/internal/show"
	"ebbe.example/ebbe/internal/store"
	"ebbe.example/ebbe/internal/work"
)

type Edited struct {
	Decided
	// Next are those that a completed one has made in turn.
	Next []int64 `json:"next,omitempty"`
	// Over says what somebody else had put there since the page was read.
	Over []Overwritten `json:"over,omitempty"`
}

type Overwritten struct {
	Field string `json:"field"`
	Was   string `json:"was" doc:"In words"`
}

func (a *App) EditFollowUp(ctx context.Context, who store.Who, command string, id int64, f FollowUpFields, seen int64) (Edited, error) {
	return a.EditFollowUps(ctx, who, command, []int64{id}, f, seen)
}

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
