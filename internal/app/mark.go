package app

import (
	"context"
	"slices"

	"ebbe.example/ebbe/internal/core/change"
	"ebbe.example/ebbe/internal/core/decide"
	"ebbe.example/ebbe/internal/core/followup"
	"ebbe.example/ebbe/internal/core/kinds"
	"ebbe.example/ebbe/internal/core/when"
	"ebbe.example/ebbe/internal/say"
	"ebbe.example/ebbe/internal/store"
	"ebbe.example/ebbe/internal/work"
)

// Marking sets a mark on conversations without moving them.
type Marking struct {
	Command string
	On      []int64
	// Mark is "star", "label" or "quiet".
	Mark  string
	Value string // the label
	Off   bool
}

// Mark stars or labels conversations.
func (a *App) Mark(ctx context.Context, who store.Who, m Marking) (Decided, error) {
	cmd := work.Command{ID: m.Command, Who: who, Actor: work.ByPerson, Kind: "mark:" + m.Mark}
	return run(ctx, a, cmd, func(s *step) (Decided, error) { return s.mark(m) })
}

// mark is Mark as an action of a step.
func (s *step) mark(m Marking) (Decided, error) {
	on := make([]store.Seen, len(m.On))
	for i, id := range m.On {
		on[i].ID = id
	}
	rows, err := s.named(on)
	if err != nil {
		return Decided{}, err
	}
	var changes change.List
	for _, r := range rows {
		switch m.Mark {
		case "star":
			decide.Conversation.Star.Set(&changes, r.ID, r.Star, !m.Off)
		case "label":
			labels, err := cleanLabels([]string{m.Value})
			if err != nil || len(labels) == 0 {
				return Decided{}, work.Invalid("value", "The label needs a name.")
			}
			decide.Conversation.Labels.Field(labels[0]).Set(&changes, r.ID, slices.Contains(r.Labels, labels[0]), !m.Off)
		case "quiet":
			changes = append(changes, decide.Quieten(r.State(), s.At, r.LastLetter, !m.Off)...)
		default:
			return Decided{}, work.Invalid("mark", "There is no mark “%s”.", m.Mark)
		}
	}
	s.Title = map[string]string{"star": "Starred ", "label": "Labelled ", "quiet": "Quieted "}[m.Mark] + namedTitle(rows)
	if m.Off {
		s.Title = map[string]string{"star": "Unstarred ", "label": "Took a label off ", "quiet": "No longer quiet: "}[m.Mark] + namedTitle(rows)
	}
	return Decided{Entry: s.ID, Title: s.Title, Left: s.gone()}, s.Change(changes)
}

// Flag makes a light follow-up due today on each conversation and leaves it
// where it is; on one that has such a flag open, it marks that as done. With a
// phrase the due, a start and reminders are those that it names, and a flag
// that is open gets them.
func (a *App) Flag(ctx context.Context, who store.Who, command string, on []store.Seen, phrase string) (Decided, error) {
	cmd := work.Command{ID: command, Who: who, Actor: work.ByPerson, Kind: "mark:flag"}
	return run(ctx, a, cmd, func(s *step) (Decided, error) { return s.flag(on, phrase) })
}

// flag is Flag as an action of a step.
func (s *step) flag(on []store.Seen, phrase string) (Decided, error) {
	rows, err := s.named(on)
	if err != nil {
		return Decided{}, err
	}
	p, err := s.Person()
	if err != nil {
		return Decided{}, err
	}
	c := p.Calendar()
	due := when.OnDay(c.Today(s.At), c)
	flag := store.FollowUp{Due: &due, Priority: followup.Normal, Status: followup.Open, Flag: true, MadeAt: s.At}
	var remind []followup.Reminding
	if phrase != "" {
		t, err := followup.ReadTimes(phrase, s.At, c)
		if err != nil {
			return Decided{}, work.Invalid("when", "%s", say.Sentence(err))
		}
		remind = t.Remind
		if t.Span != nil {
			flag.Due = &t.Span.Due.Moment
			if t.Span.Start != nil {
				flag.Start = &t.Span.Start.Moment
			}
		}
	}
	var changes change.List
	flagged, undone := 0, 0
	for _, r := range rows {
		open := slices.IndexFunc(r.FollowUps, func(f store.FollowUpMark) bool { return f.Flag })
		if open >= 0 && phrase != "" {
			flagged++
			if err := s.timeFlag(&changes, r.FollowUps[open].ID, flag, remind); err != nil {
				return Decided{}, err
			}
			continue
		}
		if open >= 0 {
			undone++
			kinds.FollowUp.Status.Set(&changes, r.FollowUps[open].ID, followup.Open, followup.Done)
			continue
		}
		flagged++
		s.Touch(decide.Conversation.Of(r.ID))
		flag.Title = actionOf(r)
		if _, err := s.oneMoreFollowUp(&changes, flag, []seenRow{r}, remind); err != nil {
			return Decided{}, err
		}
	}
	for _, r := range rows {
		s.Touch(decide.Conversation.Of(r.ID))
	}
	s.Title = "Flagged " + namedTitle(rows)
	if flagged == 0 && undone > 0 {
		s.Title = "Flag done on " + namedTitle(rows)
	}
	return Decided{Entry: s.ID, Title: s.Title, Left: s.gone()}, s.Change(changes)
}

// timeFlag gives an open flag other times.
func (s *step) timeFlag(changes *change.List, id int64, to store.FollowUp, remind []followup.Reminding) error {
	was, err := s.FollowUp(id)
	if err != nil {
		return err
	}
	kinds.FollowUp.Start.Set(changes, was.ID, was.Start, to.Start)
	kinds.FollowUp.Due.Set(changes, was.ID, was.Due, to.Due)
	now := was
	now.Start, now.Due = to.Start, to.Due
	return s.setReminders(changes, now, remind)
}
