package app

import (
	"context"
	"fmt"
	"slices"
	"strings"

	"ebbe.example/ebbe/internal/core/change"
	"ebbe.example/ebbe/internal/core/decide"
	"ebbe.example/ebbe/internal/core/kinds"
	"ebbe.example/ebbe/internal/core/routine"
	"ebbe.example/ebbe/internal/say"
	"ebbe.example/ebbe/internal/store"
	"ebbe.example/ebbe/internal/work"
)

// RoutineFields are the fields of a routine that can be set; nil leaves one.
type RoutineFields struct {
	Name     *string         `json:"name,omitempty" maxLength:"200"`
	Key      *string         `json:"key,omitempty" maxLength:"8" doc:"One letter or digit; empty for none"`
	Position *int            `json:"position,omitempty"`
	Steps    *[]routine.Step `json:"steps,omitempty" maxItems:"100"`
	Remove   bool            `json:"remove,omitempty"`
}

// NewRoutine makes a routine.
func (a *App) NewRoutine(ctx context.Context, who store.Who, command string, f RoutineFields) (Made, error) {
	cmd := work.Command{ID: command, Who: who, Actor: work.ByPerson, Kind: "routine-made"}
	return run(ctx, a, cmd, func(s *step) (Made, error) {
		if f.Name == nil || f.Steps == nil {
			return Made{}, work.Invalid("name", "A routine needs a name and a step.")
		}
		all, err := s.Routines()
		if err != nil {
			return Made{}, err
		}
		if f.Position == nil {
			last := len(all)
			f.Position = &last
		}
		id, err := s.AddRoutine()
		if err != nil {
			return Made{}, err
		}
		if err := s.editRoutine(store.Routine{ID: id, Steps: []routine.Step{}}, all, f); err != nil {
			return Made{}, err
		}
		var changes change.List
		kinds.Routine.Alive.Set(&changes, id, false, true)
		s.Title = "New routine “" + strings.TrimSpace(*f.Name) + "”"
		return Made{Decided{Entry: s.ID, Title: s.Title}, id}, s.Change(changes)
	})
}

// EditRoutine changes a routine, or takes it away.
func (a *App) EditRoutine(ctx context.Context, who store.Who, command string, id int64, f RoutineFields) (Decided, error) {
	cmd := work.Command{ID: command, Who: who, Actor: work.ByPerson, Kind: "routine-made"}
	return run(ctx, a, cmd, func(s *step) (Decided, error) {
		r, all, err := s.routine(id)
		if err != nil {
			return Decided{}, err
		}
		s.Title = "Changed the routine “" + r.Name + "”"
		err = s.editRoutine(r, all, f)
		return Decided{Entry: s.ID, Title: s.Title}, err
	})
}

func (s *step) routine(id int64) (store.Routine, []store.Routine, error) {
	all, err := s.Routines()
	if err != nil {
		return store.Routine{}, nil, err
	}
	i := slices.IndexFunc(all, func(r store.Routine) bool { return r.ID == id })
	if i < 0 {
		return store.Routine{}, nil, work.Gone("That routine is no longer there.")
	}
	return all[i], all, nil
}

func (s *step) editRoutine(r store.Routine, all []store.Routine, f RoutineFields) error {
	var changes change.List
	if f.Remove {
		kinds.Routine.Alive.Set(&changes, r.ID, true, false)
		s.Title = "Took the routine “" + r.Name + "” away"
	}
	if f.Name != nil {
		name, err := newName("routine", *f.Name, func(name string) bool {
			return slices.ContainsFunc(all, func(o store.Routine) bool { return o.ID != r.ID && strings.EqualFold(o.Name, name) })
		})
		if err != nil {
			return err
		}
		kinds.Routine.Name.Set(&changes, r.ID, r.Name, name)
	}
	if f.Key != nil {
		if err := routine.CheckKey(*f.Key); err != nil {
			return work.Invalid("key", "%s", say.Sentence(err))
		}
		if i := slices.IndexFunc(all, func(o store.Routine) bool { return o.ID != r.ID && o.Key == *f.Key }); *f.Key != "" && i >= 0 {
			return work.Invalid("key", "The key %s is that of the routine “%s”.", *f.Key, all[i].Name)
		}
		kinds.Routine.Key.Set(&changes, r.ID, r.Key, *f.Key)
	}
	if f.Position != nil {
		kinds.Routine.Position.Set(&changes, r.ID, r.Position, *f.Position)
	}
	if f.Steps != nil {
		if err := routine.Check(*f.Steps); err != nil {
			return work.Invalid("steps", "%s", say.Sentence(err))
		}
		kinds.Routine.Steps.Set(&changes, r.ID, r.Steps, *f.Steps)
	}
	return s.Change(changes)
}

// RunRoutine carries out the steps of a routine on letters, as one step: all of them or none. What
// opens a letter is left to the page. Unless the person is sure, what a decision asks before is asked.
func (a *App) RunRoutine(ctx context.Context, who store.Who, command string, id int64, on []store.Seen, sure bool) (Decided, error) {
	cmd := work.Command{ID: command, Who: who, Actor: work.ByPerson, Kind: "routine", Cause: fmt.Sprint("routine:", id)}
	return run(ctx, a, cmd, func(s *step) (Decided, error) {
		s.sure = sure
		r, _, err := s.routine(id)
		if err != nil {
			return Decided{}, err
		}
		out, err := s.carryOut(r, on)
		if err != nil {
			return Decided{}, err
		}
		s.Title = "Routine “" + r.Name + "”: " + out.Title
		out.Entry, out.Title = s.ID, s.Title
		return out, nil
	})
}

// carryOut takes the actions of a routine's steps.
func (s *step) carryOut(r store.Routine, on []store.Seen) (out Decided, err error) {
	rows, err := s.named(on)
	if err != nil {
		return out, err
	}
	if _, opens := routine.Opening(r.Steps); opens && len(rows) > 1 {
		return out, work.Refuse("“%s” opens a letter; it works on one at a time.", r.Name)
	}
	out.Left = s.gone()
	ids := idsOf(rows)
	for i, st := range r.Steps {
		did, err := s.carryOutStep(st, on, ids, rows)
		if err != nil {
			return out, stepTrouble(i, err)
		}
		s.Work.At("routine.midway")
		if st.Do == routine.Decide {
			out.New, out.Now = did.New, did.Now
		}
		if did.FollowUp != 0 {
			out.FollowUp = did.FollowUp
		}
	}
	out.Title = namedTitle(rows)
	if out.Now == nil {
		out.Now, err = s.standing(ids)
	}
	return out, err
}

// stepTrouble says at which step a routine could not go on.
func stepTrouble(i int, err error) error {
	if p, ok := err.(*work.Problem); ok { //nolint:errorlint // it is changed in its place
		p.Reason = fmt.Sprintf("Step %d: %s Nothing was done.", i+1, p.Reason)
	}
	return err
}

func (s *step) carryOutStep(st routine.Step, on []store.Seen, ids []int64, rows []seenRow) (Decided, error) {
	switch st.Do {
	case routine.Label:
		return s.mark(Marking{On: ids, Mark: "label", Value: st.Text})
	case routine.Star:
		return s.mark(Marking{On: ids, Mark: "star"})
	case routine.Flag:
		return s.flagOpen(on, st.When, rows)
	case routine.Note:
		return Decided{}, s.addToNotes(rows, st.Text)
	case routine.FollowUp:
		f := FollowUpFields{Due: textOrNil(st.When), Title: textOrNil(st.Text)}
		if st.Priority != "" {
			f.Priority = &st.Priority
		}
		return s.track(f, on...)
	case routine.Appointment:
		return Decided{}, s.appointmentsFor(rows, st)
	case routine.Decide:
		return s.decideLast(st, on)
	}
	return Decided{}, nil
}

func textOrNil(text string) *string {
	if text == "" {
		return nil
	}
	return &text
}

// flagOpen flags what is not flagged yet: a routine never takes a flag off.
func (s *step) flagOpen(on []store.Seen, phrase string, rows []seenRow) (Decided, error) {
	var open []store.Seen
	for _, r := range rows {
		if !slices.ContainsFunc(r.FollowUps, func(f store.FollowUpMark) bool { return f.Flag }) || phrase != "" {
			open = append(open, store.Seen{ID: r.ID, Last: r.saw})
		}
	}
	if len(open) == 0 {
		return Decided{}, nil
	}
	return s.flag(open, phrase)
}

// addToNotes adds a line to the notes of conversations.
func (s *step) addToNotes(rows []seenRow, line string) error {
	var changes change.List
	for _, r := range rows {
		note := strings.TrimSpace(r.Note + "\n\n" + strings.TrimSpace(line))
		if len([]rune(note)) > longestNote {
			return work.Refuse("The note of “%s” would be longer than %d characters.", say.Shorten(r.Title(), 60), longestNote)
		}
		decide.Conversation.Note.Set(&changes, r.ID, r.Note, note)
	}
	return s.Change(changes)
}

// appointmentsFor makes an appointment of each conversation.
func (s *step) appointmentsFor(rows []seenRow, st routine.Step) error {
	for _, r := range rows {
		title := st.Text
		if title == "" {
			title = r.Title()
		}
		if _, err := s.appoint(AppointmentFields{Title: &title, When: &st.When}, r.ID); err != nil {
			return err
		}
	}
	return nil
}

// decideLast takes the decision of a routine. Those that send a letter are taken by it, once it is
// written.
func (s *step) decideLast(st routine.Step, on []store.Seen) (Decided, error) {
	if st.Decision.About().Sends() {
		return Decided{}, nil
	}
	d := Deciding{Kind: st.Decision, On: on, When: st.When}
	if st.Decision == decide.File {
		d.Labels = []string{st.Text}
	}
	s.Kind = "decide:" + string(st.Decision) // it counts as the decision that it is
	return s.decide(d)
}
