// Package followup holds the rules of tracked follow-ups: when one is due,
// late or done, and how they are laid out.
package followup

import (
	"errors"
	"slices"
	"strings"
	"time"

	"ebbe.example/ebbe/internal/core/when"
)

// Priority orders follow-ups; Normal is the usual one.
type Priority string

// The priorities, highest first.
const (
	Urgent Priority = "urgent"
	High   Priority = "high"
	Normal Priority = "normal"
	Low    Priority = "low"
)

// Priorities are all of them, highest first.
var Priorities = []Priority{Urgent, High, Normal, Low}

// Rank is 0 for urgent to 3 for low.
func (p Priority) Rank() int {
	if i := slices.Index(Priorities, p); i >= 0 {
		return i
	}
	return slices.Index(Priorities, Normal)
}

// Status is how far a follow-up has come.
type Status string

// The statuses.
const (
	Open    Status = "open"
	Under   Status = "under-way"
	Waiting Status = "waiting"
	Done    Status = "done"
	Dropped Status = "dropped"
)

// Statuses are all of them.
var Statuses = []Status{Open, Under, Waiting, Done, Dropped}

// Closed tells whether nothing is left to be done.
func (s Status) Closed() bool { return s == Done || s == Dropped }

// Group is a lane of the layout by due.
type Group string

// The groups, in the order in which they are shown.
const (
	Overdue   Group = "overdue"
	Today     Group = "today"
	ThisWeek  Group = "week"
	ThisMonth Group = "month"
	Further   Group = "further"
	Someday   Group = "someday"
)

// GroupOf tells in which lane a due stands at the instant now. A due day is
// overdue when the next day begins, a due minute when it has passed. "This
// week" is without today, and so is "this month".
func GroupOf(due *when.Moment, now time.Time, c when.Calendar) Group {
	if due == nil || due.Precision == when.Open {
		return Someday
	}
	today, day := c.Today(now), due.Day(c)
	switch {
	case day.Before(today), due.Precision == when.ToMinute && due.UTC.Before(now):
		return Overdue
	case day == today:
		return Today
	case !c.WeekEnd(today).Before(day):
		return ThisWeek
	case !c.MonthEnd(today).Before(day):
		return ThisMonth
	}
	return Further
}

// MaxTitle and MaxNotes bound what a person can type, in bytes.
const (
	MaxTitle = 500
	MaxNotes = 1 << 20
)

// MaxItems bounds a checklist, MaxName the name of a project, context or owner.
const (
	MaxItems = 200
	MaxName  = 120
)

// Check tells what is wrong with a follow-up's fields, for the person.
func Check(title, notes string, p Priority, s Status, items []Item, names ...string) error {
	switch {
	case strings.TrimSpace(title) == "":
		return errors.New("a follow-up needs a title")
	case len(title) > MaxTitle:
		return errors.New("the title is too long; the rest fits into the notes")
	case len(notes) > MaxNotes:
		return errors.New("the notes are longer than 1 MB")
	case len(items) > MaxItems || slices.ContainsFunc(items, func(i Item) bool { return len(i.Text) > MaxTitle }):
		return errors.New("the checklist is too long")
	case slices.ContainsFunc(names, func(n string) bool { return len(n) > MaxName }):
		return errors.New("the name of a project, context or owner is too long")
	case !slices.Contains(Priorities, p):
		return errors.New("the priority is urgent, high, normal or low")
	case !slices.Contains([]Status{Open, Under, Waiting, Done, Dropped}, s):
		return errors.New("the status is open, under way, waiting, done or dropped")
	}
	return nil
}
