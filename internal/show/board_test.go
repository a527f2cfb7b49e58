package show_test

import (
	"fmt"
	"slices"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"ebbe.example/ebbe/internal/app"
	"ebbe.example/ebbe/internal/core/followup"
	"ebbe.example/ebbe/internal/show"
	"ebbe.example/ebbe/internal/store"
)

func (d *desk) board(q show.Arranged) show.Board {
	d.Helper()
	out, err := d.Board(d.Context(), d.who, q)
	require.NoError(d, err)
	return out
}

// filled is a desk with follow-ups of all sorts.
func filled(t *testing.T) *desk {
	d := begin(t)
	_, err := d.NewStage(t.Context(), d.who, crand(), app.StageFields{Name: ptr("Asked"), Most: ptr(3)})
	require.NoError(t, err)
	stage := d.board(show.Arranged{By: followup.ByStage}).Stages[0].ID
	priorities := []followup.Priority{followup.Urgent, followup.High, followup.Normal, followup.Low}
	for i := range 60 {
		f := app.FollowUpFields{Title: ptr(fmt.Sprintf("See to %d", i)), Due: ptr([]string{"", "today", "tomorrow", "in 10 days"}[i%4]), Priority: &priorities[i%3],
			Project: ptr([]string{"", "Loan", "Fair"}[i%3]), Context: ptr([]string{"", "archive"}[i%2]), Assignee: ptr([]string{"", "Henrik", "Tomasz"}[i%3]), Estimate: ptr(1 + i%50)}
		if i%5 == 0 {
			f.Stage = &stage
		}
		_, err := d.NewFollowUp(t.Context(), d.who, crand(), f)
		require.NoError(t, err)
	}
	return d
}

// However follow-ups are laid out, each stands in one lane, what a lane counts is
// what stands in it, and the first of each come along.
func TestEachFollowUpStandsInOneLane(t *testing.T) {
	d := filled(t)
	for _, by := range []followup.Layout{followup.ByDue, followup.ByStage, followup.ByPriority, followup.ByPerson, followup.ByProject, followup.ByContext, followup.ByOrder} {
		b := d.board(show.Arranged{By: by})
		assert.Equal(t, 60, b.Total, by)
		seen := map[int64]bool{}
		along := map[int64]bool{}
		for _, c := range b.Cards {
			along[c.ID] = true
		}
		for _, l := range b.Lanes {
			for i, id := range l.IDs {
				assert.False(t, seen[id], "%s: %d twice", by, id)
				seen[id] = true
				if i < 24 {
					assert.True(t, along[id], "%s: the first of %s come along", by, l.Label)
				}
			}
			cards, err := d.Cards(t.Context(), d.who, l.IDs)
			require.NoError(t, err)
			minutes := 0
			for i, c := range cards {
				assert.Equal(t, l.IDs[i], c.ID, "in the order asked for")
				minutes += c.Estimate
			}
			assert.Equal(t, minutes, l.Minutes, "%s: the minutes of %s", by, l.Label)
		}
		assert.Len(t, seen, 60, by)
	}
	names := d.board(show.Arranged{By: followup.ByDue}).Names
	assert.Equal(t, []string{"Fair", "Loan"}, slices.Sorted(slices.Values(names.Projects)))
	assert.Equal(t, []string{"archive"}, names.Contexts)
}

// A filter leaves what passes all of it, and what is kept under a name is found
// again as it was.
func TestFiltersOfTheBoard(t *testing.T) {
	d := filled(t)
	for name, c := range map[string]struct {
		filter followup.Filter
		keeps  func(show.FollowUp) bool
	}{
		"a project":     {followup.Filter{Project: []string{"Loan"}}, func(f show.FollowUp) bool { return f.Project == "Loan" }},
		"no project":    {followup.Filter{Project: []string{""}}, func(f show.FollowUp) bool { return f.Project == "" }},
		"words":         {followup.Filter{Text: "to 17"}, func(f show.FollowUp) bool { return f.Title == "See to 17" }},
		"mine":          {followup.Filter{Mine: true}, func(f show.FollowUp) bool { return f.Assignee == "" }},
		"short":         {followup.Filter{Most: 10}, func(f show.FollowUp) bool { return f.Estimate <= 10 }},
		"two together":  {followup.Filter{Project: []string{"Fair"}, Context: []string{"archive"}}, func(f show.FollowUp) bool { return f.Project == "Fair" && f.Context == "archive" }},
		"either of two": {followup.Filter{Priority: []followup.Priority{followup.Urgent, followup.High}}, func(f show.FollowUp) bool { return f.Priority == "urgent" || f.Priority == "high" }},
		"nothing":       {followup.Filter{Text: "purple"}, func(show.FollowUp) bool { return false }},
	} {
		b := d.board(show.Arranged{By: followup.ByDue, Filter: c.filter})
		assert.Equal(t, 60, b.All, name)
		want := 0
		all, err := d.FollowUps(t.Context(), d.who, false)
		require.NoError(t, err)
		for _, f := range all {
			if c.keeps(f) {
				want++
			}
		}
		assert.Equal(t, want, b.Total, name)
	}
	kept := followup.Filter{Project: []string{"Loan"}, Most: 30}
	_, err := d.KeepFilter(t.Context(), d.who, crand(), "Loan, short", followup.ByPriority, kept)
	require.NoError(t, err)
	filters := d.board(show.Arranged{By: followup.ByDue}).Filters
	require.Len(t, filters, 1)
	assert.Equal(t, "Loan, short", filters[0].Name)
	assert.Equal(t, followup.ByPriority, filters[0].By)
	assert.Equal(t, kept, filters[0].Filter)
}

// What is closed stands by the month in which it was closed, the newest first.
func TestClosedFollowUpsByMonth(t *testing.T) {
	d := begin(t)
	done := followup.Done
	for i := range 6 {
		d.follow(fmt.Sprint("Thing ", i), "", 10)
		all, err := d.FollowUps(t.Context(), d.who, false)
		require.NoError(t, err)
		_, err = d.EditFollowUp(t.Context(), d.who, crand(), all[0].ID, app.FollowUpFields{Status: &done}, 0)
		require.NoError(t, err)
		d.clock.Advance(12 * 24 * time.Hour)
	}
	var labels []string
	total := 0
	for _, l := range d.board(show.Arranged{By: followup.ByDue, Closed: true}).Lanes {
		labels = append(labels, l.Label)
		total += l.Minutes
	}
	assert.Equal(t, []string{"January 2027", "December 2026", "November 2026"}, labels)
	assert.Equal(t, 60, total)
}

// A follow-up in full has its notes made safe, its history and its version; of one
// that is not there, or of somebody else, nothing is said.
func TestOneFollowUpInFull(t *testing.T) {
	d := begin(t)
	d.receive(1)
	row := d.inbox()[0]
	notes := "**Ask** Bram <script>alert(1)</script>"
	made, err := d.NewFollowUp(t.Context(), d.who, crand(), app.FollowUpFields{Title: ptr("Ask Bram"), Notes: &notes, Due: ptr("fri"), Remind: &[]string{"1 day before"}},
		store.Seen{ID: row.ID, Last: row.Last})
	require.NoError(t, err)
	require.NotZero(t, made.Entry)
	all, err := d.FollowUps(t.Context(), d.who, false)
	require.NoError(t, err)
	one, err := d.App.FollowUp(t.Context(), d.who, all[0].ID)
	require.NoError(t, err)
	assert.Contains(t, one.NotesHTML, "<strong>Ask</strong>")
	assert.NotContains(t, one.NotesHTML, "<script")
	require.Len(t, one.Letters, 1)
	assert.Equal(t, row.ID, one.Letters[0].Conversation)
	require.Len(t, one.Reminders, 1)
	assert.Equal(t, "1 day before", one.Reminders[0].Phrase)
	assert.Positive(t, one.Version)
	require.Len(t, one.History, 1)

	other, err := d.Store.AddPerson(t.Context(), store.Person{Name: "Other", SignIn: "other", Zone: "Europe/Oslo"}, nil, d.clock.Now())
	require.NoError(t, err)
	_, err = d.App.FollowUp(t.Context(), other, one.ID)
	assert.ErrorIs(t, err, store.ErrNotFound)
	_, err = d.App.FollowUp(t.Context(), d.who, one.ID+100)
	assert.ErrorIs(t, err, store.ErrNotFound)
}

// A line noted down is shown as it will be taken, and names are completed from
// those that are in use.
func TestALineIsShownAsItWillBeTaken(t *testing.T) {
	d := filled(t)
	read := func(line string) show.CaptureView {
		out, err := d.ReadCapture(t.Context(), d.who, line)
		require.NoError(t, err)
		return out
	}
	out := read("Call Bram, fri 10, 30 min, for Loan")
	assert.Equal(t, "Call Bram", out.Title)
	assert.GreaterOrEqual(t, len(out.Chips), 3)
	assert.Equal(t, []string{"Call Bram, for Loan"}, read("Call Bram, for lo").Complete)
	assert.Equal(t, []string{"Call Bram, at archive"}, read("Call Bram, at ar").Complete)
	assert.Empty(t, read("Call Bram, for Loan").Complete, "what is whole needs no completing")
	assert.Empty(t, read("").Chips)
}
