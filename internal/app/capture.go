package app

import (
	"context"
	"strings"

	"ebbe.example/ebbe/internal/core/followup"
	"ebbe.example/ebbe/internal/store"
	"ebbe.example/ebbe/internal/work"
)

// CaptureView is a line of plain words as it is understood.
type CaptureView struct {
	Title string          `json:"title"`
	Chips []followup.Chip `json:"chips"`
	// Complete are names that the word being typed may become.
	Complete []string `json:"complete"`
}

func (a *App) known(tx *store.Tx) (followup.Known, error) {
	n, err := names(tx)
	if err != nil {
		return followup.Known{}, err
	}
	k := followup.Known{Projects: n.Projects, Contexts: n.Contexts, People: n.People}
	stages, err := tx.Stages()
	for _, s := range stages {
		k.Stages = append(k.Stages, s.Name)
	}
	return k, err
}

// ReadCapture shows how a line would be taken. Nothing is changed.
func (a *App) ReadCapture(ctx context.Context, who store.Who, line string) (CaptureView, error) {
	return read(ctx, a, who, func(tx *store.Tx) (CaptureView, error) {
		v, err := a.viewer(tx)
		if err != nil {
			return CaptureView{}, err
		}
		known, err := a.known(tx)
		if err != nil {
			return CaptureView{}, err
		}
		c := followup.Capture(line, v.now, v.cal, known)
		out := CaptureView{Title: c.Title, Chips: orEmpty(c.Chips), Complete: []string{}}
		out.Complete, err = complete(tx, line, known)
		return out, err
	})
}

// mostCompletions bounds how many names are offered.
const mostCompletions = 6

// complete offers names for what is being typed: projects after "for",
// contexts after "by" or "at", people anywhere.
func complete(tx *store.Tx, line string, known followup.Known) ([]string, error) {
	out := []string{}
	part := strings.TrimLeft(line[strings.LastIndexAny(line, ",;")+1:], " ")
	word, rest, ok := strings.Cut(part, " ")
	offer := func(list []string, typed string) {
		low := strings.ToLower(strings.TrimSpace(typed))
		for _, name := range list {
			if len(out) < mostCompletions && low != "" && strings.HasPrefix(strings.ToLower(name), low) && !strings.EqualFold(name, low) {
				out = append(out, strings.TrimSuffix(line, typed)+name)
			}
		}
	}
	if ok && strings.ContainsAny(line, ",;") {
		switch strings.ToLower(word) {
		case "for", "project":
			offer(known.Projects, rest)
		case "by", "at", "in", "with", "on":
			offer(known.Contexts, rest)
		case "stage":
			offer(known.Stages, rest)
		case "owner":
			offer(known.People, rest)
		}
	}
	typed := part[strings.LastIndex(part, " ")+1:]
	if len(out) == 0 && len(typed) >= 3 && strings.ToUpper(typed[:1]) == typed[:1] {
		people, err := tx.Knows(typed, mostCompletions)
		if err != nil {
			return out, err
		}
		var list []string
		for _, p := range people {
			if p.Name != "" {
				list = append(list, p.Name)
			}
		}
		offer(list, typed)
	}
	return out, nil
}

// Capture makes a follow-up of a line of plain words.
func (a *App) Capture(ctx context.Context, who store.Who, command, line string, on ...store.Seen) (Decided, error) {
	var fields FollowUpFields
	if _, err := read(ctx, a, who, func(tx *store.Tx) (none struct{}, err error) {
		v, err := a.viewer(tx)
		if err != nil {
			return none, err
		}
		known, err := a.known(tx)
		if err != nil {
			return none, err
		}
		stages, err := tx.Stages()
		if err != nil {
			return none, err
		}
		c := followup.Capture(line, v.now, v.cal, known)
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

func capturedFields(c followup.Captured, v viewer, stages []store.Stage) FollowUpFields {
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
		remind = append(remind, r.Phrase(v.cal))
	}
	f.Remind = &remind
	return f
}
