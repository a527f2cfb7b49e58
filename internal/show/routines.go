package show

import (
	"context"
	"slices"
	"strings"

	"ebbe.example/ebbe/internal/core/change"
	"ebbe.example/ebbe/internal/core/decide"
	"ebbe.example/ebbe/internal/core/findings"
	"ebbe.example/ebbe/internal/core/kinds"
	"ebbe.example/ebbe/internal/core/routine"
	"ebbe.example/ebbe/internal/core/when"
	"ebbe.example/ebbe/internal/say"
	"ebbe.example/ebbe/internal/store"
	"ebbe.example/ebbe/internal/work"
)

// RoutineView is a routine.
type RoutineView struct {
	ID       int64          `json:"id"`
	Name     string         `json:"name"`
	Key      string         `json:"key"`
	Position int            `json:"position"`
	Steps    []routine.Step `json:"steps"`
	Doing
}

// Doing is what a routine would do.
type Doing struct {
	Words string `json:"words" doc:"What it would do, with the letter in focus if there is one"`
	Off   string `json:"off,omitempty" doc:"Why a step can’t be done"`
	// Opening is the letter that it opens: it works on one at a time then.
	Opening *Opening `json:"opening,omitempty"`
	// Ends is the decision that ends it; empty for none.
	Ends string `json:"ends,omitempty"`
}

// Opening is a letter that a routine opens.
type Opening struct {
	Kind     string   `json:"kind" enum:"answer,hand-on,new"`
	To       []string `json:"to" doc:"To whom it goes, beside those that an answer has"`
	Template int64    `json:"template,omitempty"`
	Send     bool     `json:"send,omitempty" doc:"It leaves as soon as it is filled in, after the usual delay"`
}

// RoutineFor is what a routine would do with a letter.
type RoutineFor struct {
	ID int64 `json:"id"`
	Doing
}

// looking is what routines are looked at with, and the groups of receivers that they write to.
type looking struct {
	routine.About
	groups []store.ReceiverGroup
}

// with is what routines are looked at with; of no letter for a zero row.
func (v Viewer) with(tx *store.Tx, row store.Row) (out looking, err error) {
	spots, err := tx.Spots()
	if err != nil {
		return out, err
	}
	templates, err := tx.Templates() // once, however many routines use them
	if err != nil {
		return out, err
	}
	if out.groups, err = tx.ReceiverGroups(); err != nil {
		return out, err
	}
	about := routine.About{
		Speak: func(phrase string) (string, error) { return v.meant(phrase, spots) },
		Template: func(id int64) string {
			i := slices.IndexFunc(templates, func(t store.Template) bool { return t.ID == id })
			if i < 0 {
				return ""
			}
			return templates[i].Name
		},
		Group: func(id int64) string { return out.group(id).Name },
	}
	if row.ID != 0 {
		about.Action, about.Title = say.Shorten(findings.Action(row.Ask, row.Asks, row.Title()), 60), say.Shorten(row.Title(), 60)
		about.Labelled, about.Starred = row.Labels, row.Star
		about.Flagged = slices.ContainsFunc(row.FollowUps, func(f store.FollowUpMark) bool { return f.Flag })
	}
	out.About = about
	return out, nil
}

// group is one of the groups of receivers; a zero one for one that is gone.
func (l *looking) group(id int64) store.ReceiverGroup {
	i := slices.IndexFunc(l.groups, func(g store.ReceiverGroup) bool { return g.ID == id })
	if i < 0 {
		return store.ReceiverGroup{}
	}
	return l.groups[i]
}

// meant says a phrase as it is meant now: a time, a range of two, or what else brings a letter back.
func (v Viewer) meant(phrase string, spots []store.Spot) (string, error) {
	if r, err := when.ReadSpan(phrase, v.Now, v.Cal); err == nil {
		return when.Speak(r.Due.Moment, v.Now, v.Cal), nil
	}
	if _, err := when.ReadWish(phrase, v.Now, v.Cal, SpotNames(spots)); err != nil {
		return "", err
	}
	return phrase, nil
}

func doing(steps []routine.Step, with looking) Doing {
	words, trouble := routine.InWords(steps, with.About)
	out := Doing{Words: words}
	if s, opens := routine.Opening(steps); opens {
		out.Opening = &Opening{Kind: "new", To: OrEmpty(s.Receivers(with.group(s.Group).Members)), Template: s.Template, Send: s.Send}
		if s.Do == routine.Decide {
			out.Opening.Kind = string(s.Decision)
		}
	}
	if words == "" {
		out.Words = "nothing that isn’t so already"
	}
	if trouble != nil {
		out.Off = strings.TrimSuffix(say.Sentence(trouble), ".")
	}
	if last := len(steps) - 1; last >= 0 && steps[last].Do == routine.Decide {
		out.Ends = string(steps[last].Decision)
	}
	return out
}

// Routines lists the routines, with what they would do.
func (a *Show) Routines(ctx context.Context, who store.Who) ([]RoutineView, error) {
	return read(ctx, a, who, func(tx *store.Tx) ([]RoutineView, error) {
		out := []RoutineView{}
		all, err := tx.Routines()
		if err != nil || len(all) == 0 {
			return out, err
		}
		v, err := a.Viewer(tx)
		if err != nil {
			return out, err
		}
		about, err := v.with(tx, store.Row{})
		if err != nil {
			return out, err
		}
		for _, r := range all {
			out = append(out, RoutineView{r.ID, r.Name, r.Key, r.Position, OrEmpty(r.Steps), doing(r.Steps, about)})
		}
		return out, nil
	})
}

// routinesFor says what the routines would do with a letter.
func (v Viewer) routinesFor(tx *store.Tx, row store.Row) ([]RoutineFor, error) {
	all, err := tx.Routines()
	if err != nil || len(all) == 0 {
		return nil, err
	}
	about, err := v.with(tx, row)
	out := make([]RoutineFor, len(all))
	for i, r := range all {
		out[i] = RoutineFor{r.ID, doing(r.Steps, about)}
	}
	return out, err
}

// TryRoutine says what steps would do with a letter, or what is wrong with them.
func (a *Show) TryRoutine(ctx context.Context, who store.Who, steps []routine.Step, conversation int64) (Doing, error) {
	return read(ctx, a, who, func(tx *store.Tx) (Doing, error) {
		if err := routine.Check(steps); err != nil {
			return Doing{Off: strings.TrimSuffix(say.Sentence(err), ".")}, nil
		}
		var row store.Row
		if conversation != 0 {
			var err error
			if row, err = tx.Conversation(conversation); err != nil {
				return Doing{}, work.Gone("The letter in focus is no longer there.")
			}
		}
		v, err := a.Viewer(tx)
		if err != nil {
			return Doing{}, err
		}
		about, err := v.with(tx, row)
		if err != nil {
			return Doing{}, err
		}
		return doing(steps, about), nil
	})
}

// lookedBack is how many of the person's latest steps are looked through for those on one letter.
const lookedBack = 30

// JustDid is what the person did last on one letter, as the steps of a routine.
type JustDid struct {
	Title string         `json:"title" doc:"The letter; empty where nothing was done that a routine does"`
	Steps []routine.Step `json:"steps"`
}

// JustDid gives what the person did last on one letter.
func (a *Show) JustDid(ctx context.Context, who store.Who) (JustDid, error) {
	return read(ctx, a, who, func(tx *store.Tx) (JustDid, error) {
		out := JustDid{Steps: []routine.Step{}}
		latest, err := tx.OwnLatest(lookedBack)
		if err != nil {
			return out, err
		}
		latest = slices.DeleteFunc(latest, func(e store.Entry) bool { return e.UndoOf != 0 || e.UndoneBy != 0 })
		ids := make([]int64, len(latest))
		for i, e := range latest {
			ids[i] = e.ID
		}
		of, err := tx.ConversationsOf(ids)
		if err != nil {
			return out, err
		}
		var conversation int64
		var taken []routine.Taken
		for _, e := range latest { // the newest first
			changes, err := tx.Changes(e.ID)
			if err != nil {
				return out, err
			}
			c := of[e.ID]
			if c == 0 { // a flag is a follow-up of the letter
				c = followedIn(tx, changes)
			}
			if c == 0 {
				continue
			}
			if conversation == 0 {
				conversation = c
			}
			if c != conversation {
				break
			}
			taken = append(taken, routine.Taken{Kind: e.Kind, Changes: changes})
		}
		if conversation == 0 {
			return out, nil
		}
		slices.Reverse(taken)
		out.Steps = OrEmpty(routine.From(conversation, taken))
		if row, err := tx.Conversation(conversation); err == nil && len(out.Steps) > 0 {
			out.Title = row.Title()
		}
		return out, nil
	})
}

// followedIn is the conversation of which a step made a follow-up; 0 for none.
func followedIn(tx *store.Tx, changes []change.Recorded) int64 {
	for _, c := range changes {
		if c.Kind != kinds.FollowUp.Kind {
			continue
		}
		if f, err := tx.FollowUp(c.ID); err == nil && len(f.Letters) > 0 {
			return f.Letters[0].Conversation
		}
	}
	return 0
}

// RoutineExample is a routine that ships, to begin with.
type RoutineExample struct {
	Name  string         `json:"name"`
	Key   string         `json:"key"`
	Steps []routine.Step `json:"steps"`
}

// RoutineExamples are those that ship.
var RoutineExamples = []RoutineExample{
	{"Loan papers", "8", []routine.Step{
		{Do: routine.Label, Text: "loans"}, {Do: routine.FollowUp, Text: "Check the loan papers", When: "3 days", Priority: "high"}, {Do: routine.Decide, Decision: decide.File, Text: "loans"},
	}},
	{"School visit", "9", []routine.Step{
		{Do: routine.Label, Text: "school visits"}, {Do: routine.Note, Text: "Guide, room and catering are to be booked."}, {Do: routine.Decide, Decision: decide.PutOff, When: "next mon 9:00"},
	}},
	{"Read on Friday", "0", []routine.Step{{Do: routine.Label, Text: "to read"}, {Do: routine.Decide, Decision: decide.PutOff, When: "fri 15:00"}}},
}
