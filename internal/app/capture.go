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
	var fields FollowUpFields
	if _, err := read(ctx, a, who, func(tx *store.Tx) (none struct{}, err error) {
		v, err := a.Viewer(tx)
		if err != nil {
			return none, err
		}
		known, err := a.Known(tx)
		if err != nil {
			return none, err
		}
		stages, err := tx.Stages()
		if err != nil {
			return none, err
		}
		c := followup.Capture(line, v.Now, v.Cal, known)
		for _, chip := range c.Chips {
			if chip.Trouble != "" {
				return none, work.Invalid("line", "“%s”: %s.", chip.Text, strings.TrimSuffix(chip.Trouble, "."))
			}
		}
		fields = capturedFields(c, v, stages)
		return none, nil
	}); err != nil {
		return Decided{}, err
	}
	if *fields.Title == "" {
		return Decided{}, work.Invalid("line", "Say what is to be done.")
	}
	return a.NewFollowUp(ctx, who, command, fields, on...)
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
