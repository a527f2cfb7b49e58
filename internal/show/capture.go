package show

import (
	"context"
	"strings"

	"ebbe.example/ebbe/internal/core/followup"
	"ebbe.example/ebbe/internal/store"
)

// CaptureView is a line of plain words as it is understood.
type CaptureView struct {
	Title string          `json:"title"`
	Chips []followup.Chip `json:"chips"`
	// Complete are names that the word being typed may become.
	Complete []string `json:"complete"`
}

// Known are the names that a line noted down can mean.
func (a *Show) Known(tx *store.Tx) (followup.Known, error) {
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
func (a *Show) ReadCapture(ctx context.Context, who store.Who, line string) (CaptureView, error) {
	return read(ctx, a, who, func(tx *store.Tx) (CaptureView, error) {
		v, err := a.Viewer(tx)
		if err != nil {
			return CaptureView{}, err
		}
		known, err := a.Known(tx)
		if err != nil {
			return CaptureView{}, err
		}
		c := followup.Capture(line, v.Now, v.Cal, known)
		out := CaptureView{Title: c.Title, Chips: OrEmpty(c.Chips), Complete: []string{}}
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
