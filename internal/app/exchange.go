package app

import (
	"context"
	"crypto/sha256"
	"encoding/hex"
	"errors"
	"fmt"
	"strings"

	"ebbe.example/ebbe/internal/core/change"
	"ebbe.example/ebbe/internal/core/decide"
	"ebbe.example/ebbe/internal/core/exchange"
	"ebbe.example/ebbe/internal/core/followup"
	"ebbe.example/ebbe/internal/core/kinds"
	"ebbe.example/ebbe/internal/core/meeting"
	"ebbe.example/ebbe/internal/core/when"
	"ebbe.example/ebbe/internal/store"
	"ebbe.example/ebbe/internal/work"
)

// MaxTaskFile bounds a file of follow-ups, in bytes.
const MaxTaskFile = 10 << 20

// ExportTasks writes all follow-ups, open and closed, in a format.
func (a *App) ExportTasks(ctx context.Context, who store.Who, f exchange.Format) (string, error) {
	return read(ctx, a, who, func(tx *store.Tx) (string, error) {
		v, err := a.viewer(tx)
		if err != nil {
			return "", err
		}
		stages, err := tx.Stages()
		if err != nil {
			return "", err
		}
		named := map[int64]string{}
		for _, s := range stages {
			named[s.ID] = s.Name
		}
		var tasks []exchange.Task
		for _, closed := range []bool{false, true} {
			list, err := tx.FollowUps(closed, maxBoard)
			if err != nil {
				return "", err
			}
			for _, f := range list {
				tasks = append(tasks, outgoing(f, named[f.Stage]))
			}
		}
		text, err := exchange.Write(f, tasks, v.cal, v.now)
		if err != nil {
			return "", work.Invalid("format", "%s", sentence(err))
		}
		return text, nil
	})
}

func outgoing(f store.FollowUp, stage string) exchange.Task {
	t := exchange.Task{
		UID: uidOf(f), Title: f.Title, Notes: f.Notes, Start: f.Start, Due: f.Due, Priority: f.Priority, Status: f.Status, Stage: stage, Assignee: f.Assignee,
		Project: f.Project, Context: f.Context, Estimate: f.Estimate, Recurs: f.Recurs, Checklist: f.Checklist, MadeAt: f.MadeAt, DoneAt: f.DoneAt,
	}
	for _, r := range f.Reminders {
		if r.Pending() {
			m := r.Moment
			t.Remind = append(t.Remind, followup.Reminding{Moment: &m, Relative: r.Relative})
		}
	}
	for _, l := range f.Letters {
		if l.MessageID != "" {
			t.Letters = append(t.Letters, exchange.Letter{MessageID: l.MessageID, Subject: l.Subject, Sender: l.Sender})
		}
	}
	return t
}

// uidOf names a follow-up in files: as it came, or by when it was made here.
func uidOf(f store.FollowUp) string {
	if f.UID != "" {
		return f.UID
	}
	return fmt.Sprintf("%d-%d@follow-ups.ebbe", f.ID, f.MadeAt.UnixMilli())
}

// byUID finds the follow-up that a file's task is; ErrNotFound if it is new.
func byUID(tx *store.Tx, uid string) (store.FollowUp, error) {
	var id, made int64
	if n, _ := fmt.Sscanf(uid, "%d-%d@follow-ups.ebbe", &id, &made); n == 2 {
		f, err := tx.FollowUp(id)
		if err == nil && f.Alive && uidOf(f) == uid {
			return f, nil
		}
	}
	return tx.FollowUpByUID(uid)
}

// TaskPreview is what would be made of a file.
type TaskPreview struct {
	Format   exchange.Format    `json:"format" enum:"ics,txt,csv"`
	New      []PreviewedTask    `json:"new" doc:"The first of those that would be made"`
	Count    int                `json:"count" doc:"How many would be made"`
	Events   int                `json:"events" doc:"How many appointments would be made besides"`
	Known    int                `json:"known" doc:"How many are here already, and stay as they are"`
	Troubles []exchange.Trouble `json:"troubles" doc:"What can't be read"`
	Waits    int                `json:"waits" doc:"How many links to letters wait until those are here"`
}

// PreviewedTask is a follow-up that would be made.
type PreviewedTask struct {
	Title    string            `json:"title"`
	Due      string            `json:"due"`
	Priority followup.Priority `json:"priority"`
	Status   followup.Status   `json:"status"`
	Project  string            `json:"project"`
}

// mostPreviewed bounds how many are shown, and how many troubles.
const mostPreviewed = 200

// fresh reads a file and leaves out what is here already.
func fresh(tx *store.Tx, v viewer, data string) (f exchange.Format, tasks []exchange.Task, known int, troubles []exchange.Trouble, err error) {
	f = exchange.Guess(data)
	all, troubles := exchange.Read(f, data, v.cal, v.now)
	seen := map[string]bool{}
	for _, t := range all {
		if err := followup.Check(t.Title, t.Notes, t.Priority, t.Status, t.Checklist, t.Project, t.Context, t.Assignee); err != nil {
			troubles = append(troubles, exchange.Trouble{Text: shorten(t.Title, 100), What: err.Error()})
			continue
		}
		if err := followup.CheckTimes(t.Start, t.Due, nil); err != nil {
			troubles = append(troubles, exchange.Trouble{Text: shorten(t.Title, 100), What: err.Error()})
			continue
		}
		if t.UID == "" { // the same line again is the same task
			sum := sha256.Sum256([]byte(t.Title + "\n" + t.MadeAt.String()))
			t.UID = "line-" + hex.EncodeToString(sum[:8])
		}
		if seen[t.UID] {
			known++
			continue
		}
		seen[t.UID] = true
		if _, err := byUID(tx, t.UID); err == nil {
			known++
			continue
		} else if !errors.Is(err, store.ErrNotFound) {
			return f, nil, 0, nil, err
		}
		tasks = append(tasks, t)
	}
	return f, tasks, known, troubles, nil
}

// PreviewTasks shows what would be made of a file. Nothing is changed.
func (a *App) PreviewTasks(ctx context.Context, who store.Who, data string) (TaskPreview, error) {
	return read(ctx, a, who, func(tx *store.Tx) (TaskPreview, error) {
		out := TaskPreview{New: []PreviewedTask{}, Troubles: []exchange.Trouble{}}
		v, err := a.viewer(tx)
		if err != nil {
			return out, err
		}
		f, tasks, known, troubles, err := fresh(tx, v, data)
		if err != nil {
			return out, err
		}
		out.Format, out.Count, out.Known = f, len(tasks), known
		if f == exchange.ICalendar {
			if err := previewEvents(tx, v, data, &out); err != nil {
				return out, err
			}
		}
		out.Troubles = append(out.Troubles, troubles[:min(len(troubles), mostPreviewed)]...)
		for _, t := range tasks {
			for _, l := range t.Letters {
				id, err := tx.LetterByMessageID(l.MessageID)
				if err != nil {
					return out, err
				}
				if id == 0 {
					out.Waits++
				}
			}
		}
		for _, t := range tasks[:min(len(tasks), mostPreviewed)] {
			p := PreviewedTask{Title: t.Title, Priority: t.Priority, Status: t.Status, Project: t.Project}
			if t.Due != nil {
				p.Due, _ = v.due(*t.Due)
			}
			out.New = append(out.New, p)
		}
		return out, nil
	})
}

// previewEvents counts the appointments of a file.
func previewEvents(tx *store.Tx, v viewer, data string, out *TaskPreview) error {
	_, events, troubles, err := meeting.Parse(data, v.cal)
	if err != nil {
		return nil //nolint:nilerr // there are none
	}
	for _, t := range troubles[:min(len(troubles), mostPreviewed)] {
		out.Troubles = append(out.Troubles, exchange.Trouble{What: t})
	}
	for _, e := range events {
		if _, err := tx.AppointmentByUID(e.UID, e.Recurrence, v.now); err == nil || e.Cancelled {
			out.Known++
		} else if !errors.Is(err, store.ErrNotFound) {
			return err
		} else {
			out.Events++
		}
	}
	return nil
}

// ImportTasks makes follow-ups of a file, as one step. What is here already
// stays as it is.
func (a *App) ImportTasks(ctx context.Context, who store.Who, command, data string) (Decided, error) {
	cmd := work.Command{ID: command, Who: who, Actor: work.ByPerson, Kind: "followup:import"}
	return run(ctx, a, cmd, func(s *step) (Decided, error) {
		v, err := a.viewer(s.Tx)
		if err != nil {
			return Decided{}, err
		}
		f, tasks, _, _, err := fresh(s.Tx, v, data)
		if err != nil {
			return Decided{}, err
		}
		appointments := 0
		if f == exchange.ICalendar {
			if _, events, _, err := meeting.Parse(data, v.cal); err == nil {
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
		for _, t := range tasks {
			n, err := s.importTask(t, stages, v.cal)
			if err != nil {
				return Decided{}, err
			}
			wait += n
		}
		s.Title = "Brought in " + countOf(len(tasks), "follow-up")
		if appointments > 0 {
			s.Title += " and " + countOf(appointments, "appointment")
		}
		out := Decided{Entry: s.ID, Title: s.Title}
		if wait > 0 {
			out.Left = []string{countOf(wait, "link") + " to letters that are not here: linked when they come."}
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
func (s *step) importTask(t exchange.Task, stages map[string]int64, c when.Calendar) (int, error) {
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
	id, err := s.addFollowUp(f, nil, remind)
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
