package app

import (
	"encoding/json"
	"fmt"
	"slices"
	"strings"

	"ebbe.example/ebbe/internal/core/erasing"
	"ebbe.example/ebbe/internal/core/meeting"
	"ebbe.example/ebbe/internal/say"
	"ebbe.example/ebbe/internal/store"
)

// say says what goes of somebody, and what stays.
func (e *erasure) say(tx *store.Tx, letters []store.ErasableLetter, shares erasing.Share) (err error) {
	goes := func(n int, what, more string) {
		if n > 0 {
			e.view.Goes = append(e.view.Goes, say.Count(n, what)+more)
		}
	}
	goes(len(shares.Theirs), "letter", " from them")
	goes(len(shares.Mine), "letter", " of yours to nobody else")
	files := 0
	for _, l := range letters {
		if slices.Contains(e.Letters, l.ID) {
			files += l.Attachments
		}
	}
	goes(files, "file", " in these letters")
	if n := len(e.Conversations); n > 0 {
		e.view.Goes = append(e.view.Goes, "What you have noted, labelled and kept with "+say.Count(n, "conversation"))
	}
	goes(e.begun, "draft", " to them")
	goes(len(e.over), "waiting", " for their answer")
	if err := e.sayPlans(tx, goes); err != nil {
		return err
	}
	e.view.Goes = append(e.view.Goes, strings.Join(e.People, ", ")+", wherever it was remembered, and their name in the Journal’s titles")
	return e.sayStays(tx, shares)
}

// sayPlans says what was learned, settled and planned with them.
func (e *erasure) sayPlans(tx *store.Tx, goes func(n int, what, more string)) error {
	meetings, err := tx.AppointmentsOf(e.People)
	if err != nil {
		return err
	}
	called := slices.DeleteFunc(slices.Clone(meetings), func(a meeting.Event) bool { return !slices.Contains(e.People, a.Organizer.Key()) })
	goes(len(called), "meeting", " that they have called")
	goes(len(meetings)-len(called), "appointment", " of others with them: they are taken off the list")
	lessons, err := tx.CountLessonsOf(e.Letters, e.People)
	goes(lessons, "lesson", " learned from your decisions on their letters")
	return err
}

func (e *erasure) sayStays(tx *store.Tx, shares erasing.Share) (err error) {
	stays := func(format string, args ...any) {
		e.view.Stays = append(e.view.Stays, fmt.Sprintf(format, args...))
	}
	if n := len(shares.Others); n > 0 {
		stays("%s of others in conversations with them, which may name or quote them", say.Count(n, "letter"))
	}
	if n := len(shares.Shared); n > 0 {
		stays("%s of yours that went to others too", say.Count(n, "letter"))
	}
	named, err := e.namedIn(tx)
	if err != nil {
		return err
	}
	if len(named) > 0 {
		stays("What is yours and names them: %s", strings.Join(named, ", "))
	}
	stays("Follow-ups with their titles and notes; the letters behind them go")
	if e.view.Copies, err = tx.CountCopiesOf(e.Letters); err != nil {
		return err
	}
	stays("What they send from now on: it comes as from anybody")
	stays("Backups and archives that were made before, and files that rules have saved into a folder")
	return nil
}

// namedIn are the rules, searches and templates that name one of their addresses.
func (e *erasure) namedIn(tx *store.Tx) (out []string, err error) {
	names := func(what, name string, value any) {
		text, err := json.Marshal(value)
		if err == nil && erasing.Names(string(text), e.People, nil) {
			out = append(out, what+" “"+say.Shorten(name, 40)+"”")
		}
	}
	rules, err := tx.Rules()
	if err != nil {
		return nil, err
	}
	for _, r := range rules {
		names("the rule", r.Name, []any{r.Conditions, r.Steps})
	}
	routines, err := tx.Routines()
	if err != nil {
		return nil, err
	}
	for _, r := range routines {
		names("the routine", r.Name, r.Steps)
	}
	searches, err := tx.KeptSearches()
	if err != nil {
		return nil, err
	}
	for _, s := range searches {
		names("the search", s.Name, s.Query)
	}
	templates, err := tx.Templates()
	for _, t := range templates {
		names("the template", t.Name, []string{t.Subject, t.Text})
	}
	return out, err
}
