package app

import (
	"context"
	"strings"

	"ebbe.example/ebbe/internal/core/followup"
	"ebbe.example/ebbe/internal/show"
	"ebbe.example/ebbe/internal/store"
	"ebbe.example/ebbe/internal/work"
)

// Capture makes a follow-up of a line of plain words.
func (a *App) Capture(ctx context.Context, who store.Who, command, line string, on ...store.Seen) (Decided, error) {
	fields, err := read(ctx, a, who, func(tx *store.Tx) (FollowUpFields, error) { return a.captured(tx, line) })
	if err != nil {
		return Decided{}, err
	}
	return a.NewFollowUp(ctx, who, command, fields, on...)
}

// captured is the follow-up that a line of plain words means.
func (a *App) captured(tx *store.Tx, line string) (f FollowUpFields, err error) {
	v, err := a.Viewer(tx)
	if err != nil {
		return f, err
	}
	known, err := a.Known(tx)
	if err != nil {
		return f, err
	}
	stages, err := tx.Stages()
	if err != nil {
		return f, err
	}
	c := followup.Capture(line, v.Now, v.Cal, known)
	for _, chip := range c.Chips {
		if chip.Trouble != "" {
			return f, work.Invalid("line", "“%s”: %s.", chip.Text, strings.TrimSuffix(chip.Trouble, "."))
		}
	}
	if c.Title == "" {
		return f, work.Invalid("line", "Say what is to be done.")
	}
	return capturedFields(c, v, stages), nil
}

func capturedFields(c followup.Captured, v show.Viewer, stages []store.Stage) FollowUpFields {
	minutes := int(c.Estimate.Minutes())
	f := FollowUpFields{Title: &c.Title, Notes: &c.Notes, Priority: &c.Priority, Project: &c.Project, Context: &c.Context, Assignee: &c.Owner, Estimate: &minutes}
	if c.Span != nil {
		due := c.Span.Due.Canonical
		f.Due = &due
		if c.Span.Start != nil {
			start := c.Span.Start.Canonical
			f.Start = &start
		}
	}
	if c.Recurs != nil {
		phrase := c.Recurs.Phrase
		f.Recurs = &phrase
	}
	for _, s := range stages {
		if s.Name == c.Stage {
			f.Stage = &s.ID
		}
	}
	remind := []string{}
	for _, r := range c.Remind {
		remind = append(remind, r.Phrase(v.Cal))
	}
	f.Remind = &remind
	return f
}
