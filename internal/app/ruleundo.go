package app

import (
	"context"
	"fmt"
	"slices"

	"ebbe.example/ebbe/internal/core/change"
	"ebbe.example/ebbe/internal/core/decide"
	"ebbe.example/ebbe/internal/core/kinds"
	"ebbe.example/ebbe/internal/say"
	"ebbe.example/ebbe/internal/store"
	"ebbe.example/ebbe/internal/work"
)

// UndoRule takes back all that a rule did and that stands, as one step.
func (a *App) UndoRule(ctx context.Context, who store.Who, command string, id int64) (Undone, error) {
	cmd := work.Command{ID: command, Who: who, Actor: work.ByPerson, Kind: "rule-undone"}
	return run(ctx, a, cmd, func(s *step) (Undone, error) {
		r, _, err := s.ruleNamed(id)
		if err != nil {
			return Undone{}, err
		}
		list, err := s.RuleStanding(id)
		if err != nil {
			return Undone{}, err
		}
		if len(list) == 0 {
			return Undone{}, work.Refuse("Nothing that “%s” did is left to undo.", r.Name)
		}
		out := Undone{}
		for _, e := range list {
			one, err := s.undoOne(e)
			if err != nil {
				return Undone{}, err
			}
			out.Left = append(out.Left, one.Left...)
			out.Conversations = append(out.Conversations, one.Conversations...)
		}
		out.Title = fmt.Sprintf("Undone: all that the rule “%s” did (%s)", r.Name, say.Count(len(list), "time"))
		s.Title, s.Final = out.Title, true
		out.Conversations = out.Conversations[:min(len(out.Conversations), work.Named)]
		return out, nil
	})
}

// undoOne takes back a step within another one.
func (s *step) undoOne(e store.Entry) (Undone, error) {
	recorded, err := s.Changes(e.ID)
	if err != nil {
		return Undone{}, err
	}
	out, err := s.undo(e, recorded)
	if err != nil {
		return Undone{}, err
	}
	return out, s.SetUndone(e.ID, s.ID)
}

// UndoRuleFor takes back what a step of a rule did with one conversation.
func (a *App) UndoRuleFor(ctx context.Context, who store.Who, command string, entry, conversation int64) (Undone, error) {
	cmd := work.Command{ID: command, Who: who, Actor: work.ByPerson, Kind: "rule-undone"}
	return run(ctx, a, cmd, func(s *step) (Undone, error) {
		e, err := s.Entry(entry)
		if err != nil || e.Actor != work.ByRule {
			return Undone{}, work.Gone("That step of a rule is not in the Journal.")
		}
		of, err := s.AllConversationsOf([]int64{e.ID}, 2)
		if err != nil {
			return Undone{}, err
		}
		if e.UndoneBy != 0 {
			return Undone{}, work.Refuse("That was undone before.")
		}
		if len(of[e.ID]) == 1 && of[e.ID][0].Conversation == conversation {
			out, err := s.undoOne(e)
			s.Title, s.Final = out.Title, true
			return out, err
		}
		recorded, err := s.Changes(e.ID)
		if err != nil {
			return Undone{}, err
		}
		var its []change.Recorded
		for _, r := range recorded {
			same, err := s.isOf(r.Object, conversation)
			if err != nil {
				return Undone{}, err
			}
			if same {
				its = append(its, r)
			}
		}
		if len(its) == 0 {
			return Undone{}, work.Gone("That step of a rule has nothing to do with this letter.")
		}
		row, err := s.Conversation(conversation)
		if err != nil {
			return Undone{}, work.Gone("That letter is no longer there.")
		}
		e.Title = fmt.Sprintf("“%s”, of: %s", say.Shorten(row.Title(), 60), e.Title)
		out, err := s.undo(e, its)
		s.Title, s.Final = out.Title, true
		return out, err
	})
}

// isOf tells whether something that a rule has changed belongs to a conversation.
func (s *step) isOf(o change.Object, conversation int64) (bool, error) {
	switch o.Kind {
	case decide.Conversation.Kind:
		return o.ID == conversation, nil
	case kinds.FollowUp.Kind:
		f, err := s.FollowUp(o.ID)
		if err != nil {
			return false, err
		}
		return slices.ContainsFunc(f.Letters, func(l store.FollowUpLetter) bool { return l.Conversation == conversation }), nil
	case kinds.Letter.Kind:
		l, err := s.Letter(o.ID)
		return err == nil && l.Conversation == conversation, err
	}
	return false, nil
}
