package app

import (
	"context"
	"strings"

	"ebbe.example/ebbe/internal/core/change"
	"ebbe.example/ebbe/internal/core/decide"
	"ebbe.example/ebbe/internal/core/exchange"
	"ebbe.example/ebbe/internal/core/followup"
	"ebbe.example/ebbe/internal/core/kinds"
	"ebbe.example/ebbe/internal/core/meeting"
	"ebbe.example/ebbe/internal/core/when"
	"ebbe.example/ebbe/internal/say"
	"ebbe.example/ebbe/internal/show"
	"ebbe.example/ebbe/internal/store"
	"ebbe.example/ebbe/internal/work"
)

// MaxTaskFile bounds a file of follow-ups, in bytes.
const MaxTaskFile = 10 << 20

// ImportTasks makes follow-ups of a file, as one step. What is here already
// stays as it is.
func (a *App) ImportTasks(ctx context.Context, who store.Who, command, data string) (Decided, error) {
	cmd := work.Command{ID: command, Who: who, Actor: work.ByPerson, Kind: "followup:import"}
	return run(ctx, a, cmd, func(s *step) (Decided, error) {
		v, err := a.Viewer(s.Tx)
		if err != nil {
			return Decided{}, err
		}
		f, tasks, _, _, err := show.Fresh(s.Tx, v, data)
		if err != nil {
			return Decided{}, err
		}
		appointments := 0
		if f == exchange.ICalendar {
			if _, events, _, err := meeting.Parse(data, v.Cal); err == nil {
				if appointments, err = s.importEvents(events); err != nil {
					return Decided{}, err
				}
			}
		}
		if len(tasks) == 0 && appointments == 0 {
			return Decided{}, work.Refuse("There is nothing new in this file.")
		}
		stages, err := s.importStages(tasks)
		if err != nil {
			return Decided{}, err
		}
		wait := 0
		var changes change.List
		for _, t := range tasks {
			n, err := s.importTask(&changes, t, stages, v.Cal)
			if err != nil {
				return Decided{}, err
			}
			wait += n
		}
		if err := s.Change(changes); err != nil {
			return Decided{}, err
		}
		s.Title = "Brought in " + say.Count(len(tasks), "follow-up")
		if appointments > 0 {
			s.Title += " and " + say.Count(appointments, "appointment")
		}
		out := Decided{Entry: s.ID, Title: s.Title}
		if wait > 0 {
			out.Left = []string{say.Count(wait, "link") + " to letters that are not here: linked when they come."}
		}
		return out, nil
	})
}

// importStages makes the stages that the tasks name and that are not there.
func (s *step) importStages(tasks []exchange.Task) (map[string]int64, error) {
	list, err := s.Stages()
	if err != nil {
		return nil, err
	}
	out := map[string]int64{"": 0}
	for _, st := range list {
		out[strings.ToLower(st.Name)] = st.ID
	}
	for _, t := range tasks {
		name := strings.ToLower(t.Stage)
		if _, ok := out[name]; ok {
			continue
		}
		n := len(out) - 1
		stage := store.Stage{Name: t.Stage, Colour: store.Colours[n%len(store.Colours)], Shape: store.Shapes[n%len(store.Shapes)], Position: n}
		if s.checkStage(stage) != nil { // too many, too long: then in none
			out[name] = 0
			continue
		}
		id, err := s.AddStage(stage)
		if err != nil {
			return nil, err
		}
		var changes change.List
		kinds.Stage.Alive.Set(&changes, id, false, true)
		if err := s.Change(changes); err != nil {
			return nil, err
		}
		out[name] = id
	}
	return out, nil
}

// importTask makes a follow-up of a task. It gives how many of its letters are
// not here; the links to them wait.
func (s *step) importTask(changes *change.List, t exchange.Task, stages map[string]int64, c when.Calendar) (int, error) {
	f := store.FollowUp{
		Title: t.Title, Notes: t.Notes, Start: t.Start, Due: t.Due, Priority: t.Priority, Status: t.Status, Stage: stages[strings.ToLower(t.Stage)], Assignee: t.Assignee,
		Project: t.Project, Context: t.Context, Estimate: t.Estimate, Recurs: t.Recurs, Checklist: t.Checklist, UID: t.UID, MadeAt: t.MadeAt, DoneAt: t.DoneAt,
	}
	if f.MadeAt.IsZero() || f.MadeAt.After(s.At) {
		f.MadeAt = s.At
	}
	if f.Status.Closed() && f.DoneAt.IsZero() {
		f.DoneAt = s.At
	}
	if f.Recurs != nil {
		if f.Due == nil || f.Due.Precision == when.Open {
			due := when.OnDay(c.Today(s.At), c)
			f.Due = &due
		}
		if f.Recurs.From == "" {
			f.Recurs.From = f.Due.Day(c).String()
		}
	}
	var waiting []string
	for _, l := range t.Letters {
		id, err := s.LetterByMessageID(l.MessageID)
		if err != nil {
			return 0, err
		}
		if id == 0 {
			if l.MessageID != "" {
				waiting = append(waiting, l.MessageID)
			}
			continue
		}
		row, err := s.Letter(id)
		if err != nil {
			return 0, err
		}
		f.Letters = append(f.Letters, store.FollowUpLetter{LetterID: id, Subject: row.Subject, Sender: row.From.Display(), Date: row.Date, Ask: row.Ask})
		s.Touch(decide.Conversation.Of(row.Conversation))
	}
	// Reminders of the past have rung where they came from.
	var remind []followup.Reminding
	for _, r := range t.Remind {
		m := followup.RemindAt(r, f.Start, f.Due, c)
		if m.Precision == when.Open || m.UTC.After(s.At) && followup.CheckTimes(nil, f.Due, []when.Moment{m}) == nil {
			remind = append(remind, r)
		}
	}
	id, err := s.oneMoreFollowUp(changes, f, nil, remind)
	if err != nil {
		return 0, err
	}
	return len(waiting), s.AwaitLetters(id, waiting)
}

// linkWaiting links a letter to the follow-ups that wait for it.
func (s *step) linkWaiting(st stored) error {
	followUps, err := s.AwaitingLetter(st.row.MessageID)
	if err != nil || len(followUps) == 0 {
		return err
	}
	link := store.FollowUpLetter{LetterID: st.id, Subject: st.row.Subject, Sender: st.row.From.Display(), Date: st.row.Date, Ask: st.row.Ask}
	for _, id := range followUps {
		if err := s.LinkLetter(id, link); err != nil {
			return err
		}
		s.Touch(kinds.FollowUp.Of(id))
	}
	return s.LetterCame(st.row.MessageID)
}
