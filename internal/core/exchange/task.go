// Package exchange reads and writes follow-ups in open formats: iCalendar
// VTODO (RFC 5545), todo.txt and CSV (RFC 4180). What each can hold comes back
// the same; docs/formats.md says what it can't.
package exchange

import (
	"fmt"
	"strings"
	"time"

	"ebbe.example/ebbe/internal/core/followup"
	"ebbe.example/ebbe/internal/core/when"
)

// Task is a follow-up on its way in or out.
type Task struct {
	UID, Title, Notes string
	Start, Due        *when.Moment
	Priority          followup.Priority
	Status            followup.Status
	Stage, Assignee   string
	Project, Context  string
	Estimate          int // minutes, 0 for none
	Recurs            *followup.Recurrence
	Checklist         []followup.Item
	Remind            []followup.Reminding
	Letters           []Letter
	MadeAt, DoneAt    time.Time
}

// Letter names a letter behind a task.
type Letter struct{ MessageID, Subject, Sender string }

// Trouble is a part of a file that can't be read.
type Trouble struct {
	Line int    `json:"line" doc:"0 where a line can't be named"`
	Text string `json:"text"`
	What string `json:"what"`
}

// Format is a way of writing tasks.
type Format string

// The formats.
const (
	ICalendar Format = "ics"
	TodoTxt   Format = "txt"
	CSV       Format = "csv"
)

// Guess tells the format of a file by its contents.
func Guess(data string) Format {
	head := strings.TrimLeft(data, "\ufeff \t\r\n")
	if len(head) > 400 {
		head = head[:400]
	}
	if strings.HasPrefix(strings.ToUpper(head), "BEGIN:VCALENDAR") {
		return ICalendar
	}
	first, _, _ := strings.Cut(head, "\n")
	if low := strings.ToLower(first); strings.Contains(low, "title") && strings.ContainsAny(first, ",;\t") {
		return CSV
	}
	return TodoTxt
}

// Write writes tasks. The calendar gives the zone in which times without one
// are written.
func Write(f Format, tasks []Task, c when.Calendar, now time.Time) (string, error) {
	switch f {
	case ICalendar:
		return writeICal(tasks, c, now), nil
	case TodoTxt:
		return writeTodoTxt(tasks, c), nil
	case CSV:
		return writeCSV(tasks, c)
	}
	return "", fmt.Errorf("there is no format “%s”", f)
}

// Read reads tasks; what can't be read is told by line and left out.
func Read(f Format, data string, c when.Calendar, now time.Time) ([]Task, []Trouble) {
	data = strings.TrimPrefix(strings.ToValidUTF8(data, "\ufffd"), "\ufeff")
	switch f {
	case ICalendar:
		return readICal(data, c, now)
	case TodoTxt:
		return readTodoTxt(data, c, now)
	case CSV:
		return readCSV(data, c, now)
	}
	return nil, []Trouble{{What: fmt.Sprintf("there is no format “%s”", f)}}
}

// printMoment writes a moment: 2026-11-27 for a day, 2026-11-27T14:00 for a
// minute, 2026-11-27~18:00 for a part of a day, with the offset where an hour
// comes twice.
func printMoment(m *when.Moment, c when.Calendar) string {
	switch {
	case m == nil:
		return ""
	case m.Precision == when.Open:
		return "someday"
	}
	local := m.UTC.In(c.Zone)
	clock := when.At(local.Hour(), local.Minute())
	switch {
	case m.Precision == when.ToDay && clock == c.DayStart:
		return local.Format(time.DateOnly)
	case m.Precision == when.ToDay:
		return local.Format("2006-01-02~15:04")
	case m.Zone != when.Mine:
		return local.Format("2006-01-02T15:04-07:00")
	}
	return local.Format("2006-01-02T15:04")
}

// readMoment reads what printMoment writes, and any phrase.
func readMoment(text string, c when.Calendar, now time.Time) (*when.Moment, error) {
	text = strings.TrimSpace(text)
	switch {
	case text == "":
		return nil, nil
	case strings.EqualFold(text, "someday"):
		return &when.Moment{Phrase: "someday", Precision: when.Open}, nil
	}
	for _, layout := range []string{"2006-01-02T15:04", "2006-01-02T15:04:05", "2006-01-02 15:04"} {
		if t, err := time.ParseInLocation(layout, text, c.Zone); err == nil {
			return exact(wallTime(t, c), c), nil
		}
	}
	for _, layout := range []string{"2006-01-02T15:04Z07:00", time.RFC3339} {
		if t, err := time.Parse(layout, text); err == nil {
			return exact(t, c), nil
		}
	}
	if t, err := time.Parse(time.DateOnly, text); err == nil {
		m := when.OnDay(when.Date{Year: t.Year(), Month: t.Month(), Day: t.Day()}, c)
		return &m, nil
	}
	if t, err := time.Parse("2006-01-02~15:04", text); err == nil {
		day := when.Date{Year: t.Year(), Month: t.Month(), Day: t.Day()}
		m := when.OnDay(day, c)
		m.Wall = t.Format("2006-01-02T15:04")
		m = m.In(c)
		m.Phrase = m.Canonical(c)
		return &m, nil
	}
	r, err := when.Read(text, now, c)
	if err != nil {
		return nil, err
	}
	return &r.Moment, nil
}

// wallTime is a wall-clock time as the rules of time have it: what does not
// exist moves forward, what comes twice is the first.
func wallTime(t time.Time, c when.Calendar) time.Time {
	y, m, d := t.Date()
	return c.Instant(when.Date{Year: y, Month: m, Day: d}, when.At(t.Hour(), t.Minute()))
}

func exact(t time.Time, c when.Calendar) *when.Moment {
	m := when.Exact(t, c)
	return &m
}

// printReminder writes a reminder as a phrase or a time.
func printReminder(r followup.Reminding, c when.Calendar) string {
	if r.Relative != nil {
		return r.Relative.String()
	}
	return printMoment(r.Moment, c)
}

func readReminder(text string, c when.Calendar, now time.Time) (followup.Reminding, error) {
	if rel, ok, err := when.ReadRelative(text, c); ok {
		return followup.Reminding{Relative: &rel}, err
	}
	m, err := readMoment(text, c, now)
	if err != nil {
		return followup.Reminding{}, err
	}
	if m == nil || m.Precision == when.Open {
		return followup.Reminding{}, fmt.Errorf("“%s” is no time for a reminder", text)
	}
	return followup.Reminding{Moment: m}, nil
}

const doneSuffix = " after done"

// printRecurs writes a recurrence as its rule.
func printRecurs(r *followup.Recurrence) string {
	if r == nil {
		return ""
	}
	if r.AfterDone {
		return r.Rule + doneSuffix
	}
	return r.Rule
}

// readRecurs reads a rule, or a phrase. phrase is how it was typed, where that
// is known.
func readRecurs(text, phrase string, c when.Calendar, now time.Time) (*followup.Recurrence, error) {
	text = strings.TrimSpace(text)
	if text == "" {
		return nil, nil
	}
	rule, after := strings.CutSuffix(text, doneSuffix)
	if !strings.Contains(strings.ToUpper(rule), "FREQ=") {
		r, err := followup.ReadRecurrence(text, now, c)
		return &r, err
	}
	r, err := followup.ParseRule(rule, c.Today(now))
	r.AfterDone, r.Phrase = after, phrase
	return &r, err
}

func priorityNamed(text string) (followup.Priority, bool) {
	p := followup.Priority(strings.ToLower(strings.TrimSpace(text)))
	switch p {
	case followup.Urgent, followup.High, followup.Normal, followup.Low:
		return p, true
	}
	return followup.Normal, text == ""
}

func statusNamed(text string) (followup.Status, bool) {
	s := followup.Status(strings.ToLower(strings.TrimSpace(text)))
	switch s {
	case followup.Open, followup.Under, followup.Waiting, followup.Done, followup.Dropped:
		return s, true
	}
	return followup.Open, text == ""
}
