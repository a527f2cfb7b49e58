package show

import (
	"context"
	"crypto/sha256"
	"encoding/hex"
	"errors"
	"fmt"

	"ebbe.example/ebbe/internal/core/exchange"
	"ebbe.example/ebbe/internal/core/followup"
	"ebbe.example/ebbe/internal/core/meeting"
	"ebbe.example/ebbe/internal/say"
	"ebbe.example/ebbe/internal/store"
	"ebbe.example/ebbe/internal/work"
)

// ExportTasks writes all follow-ups, open and closed, in a format.
func (a *Show) ExportTasks(ctx context.Context, who store.Who, f exchange.Format) (string, error) {
	return read(ctx, a, who, func(tx *store.Tx) (string, error) {
		v, err := a.Viewer(tx)
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
		text, err := exchange.Write(f, tasks, v.Cal, v.Now)
		if err != nil {
			return "", work.Invalid("format", "%s", say.Sentence(err))
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

// Fresh reads a file and leaves out what is here already.
func Fresh(tx *store.Tx, v Viewer, data string) (f exchange.Format, tasks []exchange.Task, known int, troubles []exchange.Trouble, err error) {
	f = exchange.Guess(data)
	all, troubles := exchange.Read(f, data, v.Cal, v.Now)
	seen := map[string]bool{}
	for _, t := range all {
		if err := followup.Check(t.Title, t.Notes, t.Priority, t.Status, t.Checklist, t.Project, t.Context, t.Assignee); err != nil {
			troubles = append(troubles, exchange.Trouble{Text: say.Shorten(t.Title, 100), What: err.Error()})
			continue
		}
		if err := followup.CheckTimes(t.Start, t.Due, nil); err != nil {
			troubles = append(troubles, exchange.Trouble{Text: say.Shorten(t.Title, 100), What: err.Error()})
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
func (a *Show) PreviewTasks(ctx context.Context, who store.Who, data string) (TaskPreview, error) {
	return read(ctx, a, who, func(tx *store.Tx) (TaskPreview, error) {
		out := TaskPreview{New: []PreviewedTask{}, Troubles: []exchange.Trouble{}}
		v, err := a.Viewer(tx)
		if err != nil {
			return out, err
		}
		f, tasks, known, troubles, err := Fresh(tx, v, data)
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
func previewEvents(tx *store.Tx, v Viewer, data string, out *TaskPreview) error {
	_, events, troubles, err := meeting.Parse(data, v.Cal)
	if err != nil {
		return nil //nolint:nilerr // there are none
	}
	for _, t := range troubles[:min(len(troubles), mostPreviewed)] {
		out.Troubles = append(out.Troubles, exchange.Trouble{What: t})
	}
	for _, e := range events {
		if _, err := tx.AppointmentByUID(e.UID, e.Recurrence, v.Now); err == nil || e.Cancelled {
			out.Known++
		} else if !errors.Is(err, store.ErrNotFound) {
			return err
		} else {
			out.Events++
		}
	}
	return nil
}
