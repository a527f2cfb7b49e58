package app_test

import (
	"crypto/rand"
	"fmt"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"ebbe.example/ebbe/internal/app"
	"ebbe.example/ebbe/internal/core/decide"
	"ebbe.example/ebbe/internal/core/routine"
	"ebbe.example/ebbe/internal/show"
	"ebbe.example/ebbe/internal/store"
)

func (w *world) makeRoutine(name, key string, steps ...routine.Step) (int64, error) {
	w.t.Helper()
	made, err := w.app.NewRoutine(w.ctx, w.who, rand.Text(), app.RoutineFields{Name: &name, Key: &key, Steps: &steps})
	return made.ID, err
}

func (w *world) runRoutine(id int64, rows ...show.Row) (app.Decided, error) {
	return w.app.RunRoutine(w.ctx, w.who, rand.Text(), id, seenAll(rows), false)
}

// steps are how many the Journal has.
func (w *world) steps() int {
	w.t.Helper()
	list, err := w.app.Journal(w.ctx, w.who, show.JournalAsk{})
	require.NoError(w.t, err)
	return len(list)
}

var filing = []routine.Step{
	{Do: routine.Label, Text: "loans"}, {Do: routine.Star}, {Do: routine.Note, Text: "Ask Tove."}, {Do: routine.FollowUp, When: "fri", Priority: "high"}, {Do: routine.Decide, Decision: decide.File, Text: "papers"},
}

// All steps of a routine are one step of the Journal, with one undo; its decision counts as one.
func TestARoutineIsOneStep(t *testing.T) {
	w := newWorld(t)
	w.receive(mail{id: "a", from: "bram@freight.example", subject: "Crates", text: "Can you send the sizes?"})
	id, err := w.makeRoutine("Loan papers", "8", filing...)
	require.NoError(t, err)
	row := w.row(decide.Inbox)
	open, err := w.app.Open(w.ctx, w.who, row.ID)
	require.NoError(t, err)
	require.Len(t, open.Routines, 1)
	assert.Equal(t, "label loans, star, note, follow up “Send the sizes” (high) Fri 27 Nov, 08:30, file under papers", open.Routines[0].Words)
	assert.Equal(t, "file", open.Routines[0].Ends)

	before := w.steps()
	d, err := w.runRoutine(id, row)
	require.NoError(t, err)
	assert.Equal(t, "Routine “Loan papers”: “Crates”", d.Title)
	assert.Equal(t, before+1, w.steps())
	filed := w.row(decide.Archive)
	assert.ElementsMatch(t, []string{"loans", "papers"}, filed.Labels)
	assert.True(t, filed.Star)
	assert.Len(t, filed.FollowUps, 1)
	require.NoError(t, w.app.Learn(w.ctx))
	require.Len(t, w.lessons(), 1)
	assert.Equal(t, "loans", w.lessons()[0].Particulars, "the first of its labels")

	w.takeBack(0)
	back := w.row(decide.Inbox)
	assert.Empty(t, back.Labels)
	assert.False(t, back.Star)
	assert.Empty(t, w.lessons())
	open, err = w.app.Open(w.ctx, w.who, back.ID)
	require.NoError(t, err)
	assert.Empty(t, open.Own.Note)
	assert.Empty(t, open.FollowUpList)
	w.sound()
}

// What can't be done whole is not done at all.
func TestARoutineIsAllOrNothing(t *testing.T) {
	w := newWorld(t)
	for i := range 3 {
		w.receive(mail{id: fmt.Sprint("l", i), from: fmt.Sprintf("p%d@school.example", i), subject: fmt.Sprint("Letter ", i)})
	}
	id, err := w.makeRoutine("Wrong", "", routine.Step{Do: routine.Label, Text: "x"}, routine.Step{Do: routine.Decide, Decision: decide.PutOff, When: "when pigs fly"})
	require.NoError(t, err)
	views, err := w.app.Routines(w.ctx, w.who)
	require.NoError(t, err)
	assert.Contains(t, views[0].Off, "“when pigs fly” is no time")
	before := w.steps()
	_, err = w.runRoutine(id, w.rows(decide.Inbox)...)
	assert.ErrorContains(t, err, "Step 2: ")
	assert.ErrorContains(t, err, "Nothing was done.")
	for _, r := range w.rows(decide.Inbox) {
		assert.Empty(t, r.Labels)
	}
	assert.Equal(t, before, w.steps())

	answer, err := w.makeRoutine("Thank", "9", routine.Step{Do: routine.Star}, routine.Step{Do: routine.Decide, Decision: decide.Answer})
	require.NoError(t, err)
	_, err = w.runRoutine(answer, w.rows(decide.Inbox)...)
	assert.ErrorContains(t, err, "works on one at a time")
	_, err = w.runRoutine(answer, w.rows(decide.Inbox)[0])
	require.NoError(t, err)
	assert.Len(t, w.rows(decide.Inbox), 3, "the letter is still to be written")

	many, err := w.makeRoutine("Read", "0", routine.Step{Do: routine.Label, Text: "to read"}, routine.Step{Do: routine.Decide, Decision: decide.Done})
	require.NoError(t, err)
	d, err := w.runRoutine(many, w.rows(decide.Inbox)...)
	require.NoError(t, err)
	assert.Equal(t, "Routine “Read”: 3 letters", d.Title)
	assert.Empty(t, w.rows(decide.Inbox))
	w.takeBack(0)
	assert.Len(t, w.rows(decide.Inbox), 3)
	w.sound()
}

// What a decision asks before, a routine asks too, and does all the same once that is meant.
func TestARoutineAsksWhatItsDecisionAsks(t *testing.T) {
	w := newWorld(t)
	w.receive(mail{id: "a", from: "bram@freight.example", subject: "Crates"})
	id, err := w.makeRoutine("Tomorrow", "8", routine.Step{Do: routine.Label, Text: "slow"}, routine.Step{Do: routine.Decide, Decision: decide.PutOff, When: "tomorrow"})
	require.NoError(t, err)
	for range 3 {
		w.decide(decide.PutOff, w.row(decide.Inbox), until("tomorrow"), func(d *app.Deciding) { d.Sure = true })
		w.decide(decide.ToInbox, w.row(decide.Later))
	}
	row := w.row(decide.Inbox)
	_, err = w.runRoutine(id, row)
	var asks *app.Problem
	require.ErrorAs(t, err, &asks)
	assert.Equal(t, "put-off-again", asks.Kind)
	assert.Empty(t, w.row(decide.Inbox).Labels, "nothing was done")
	_, err = w.app.RunRoutine(w.ctx, w.who, rand.Text(), id, seenAll([]show.Row{row}), true)
	require.NoError(t, err)
	assert.Equal(t, []string{"slow"}, w.row(decide.Later).Labels)
}

// A routine that writes to a group opens a new letter about the one that it works on, filled in from that;
// what else it does is one step.
func TestARoutineWritesToAGroup(t *testing.T) {
	w := newWorld(t)
	w.receive(mail{id: "a", from: "Bram Oosterhuis <bram@freight.example>", subject: "Re: Crates"})
	name, members := "Walk guides", "Tove <tove@n.example>, henrik@n.example"
	group, err := w.app.NewGroup(w.ctx, w.who, rand.Text(), app.GroupFields{Name: &name, Members: &members})
	require.NoError(t, err)
	template := w.template("Told", "From {sender}: {letter}", "Dear {first name},\n\n{sender} writes about {letter}.")
	id, err := w.makeRoutine("Tell", "8", routine.Step{Do: routine.Write, Group: group.ID, To: "nils@n.example", Template: template, Send: true}, routine.Step{Do: routine.Decide, Decision: decide.Done})
	require.NoError(t, err)
	row := w.row(decide.Inbox)
	open, err := w.app.Open(w.ctx, w.who, row.ID)
	require.NoError(t, err)
	r := open.Routines[0]
	assert.Equal(t, "write to “Walk guides” and nils@n.example with “Told”, sent, done", r.Words)
	assert.Equal(t, &show.Opening{Kind: "new", To: []string{"Tove <tove@n.example>", "henrik@n.example", "nils@n.example"}, Template: template, Send: true}, r.Opening)
	written := show.Writing{Kind: "new", From: open.Answer.From, To: r.Opening.To, Letter: open.Answer.Letter}
	got, err := w.app.PutIn(w.ctx, w.who, rand.Text(), template, written)
	require.NoError(t, err)
	assert.Equal(t, "From Bram Oosterhuis: Crates", got.Subject)
	assert.Contains(t, got.Text, "Dear {first name},\n\nBram Oosterhuis writes about Crates.", "several have no first name")
	written.To = written.To[:1]
	got, err = w.app.PutIn(w.ctx, w.who, rand.Text(), template, written)
	require.NoError(t, err)
	assert.Contains(t, got.Text, "Dear Tove,")

	_, err = w.runRoutine(id, row)
	require.NoError(t, err)
	assert.Empty(t, w.rows(decide.Inbox))
	_, err = w.app.EditGroup(w.ctx, w.who, rand.Text(), group.ID, app.GroupFields{Remove: true})
	require.NoError(t, err)
	views, err := w.app.Routines(w.ctx, w.who)
	require.NoError(t, err)
	assert.Equal(t, "Its group is gone", views[0].Off)
}

// A name and a key are each of one routine alone; what was just done makes one.
func TestMakingRoutines(t *testing.T) {
	w := newWorld(t)
	did, err := w.app.JustDid(w.ctx, w.who)
	require.NoError(t, err)
	assert.Empty(t, did.Steps)
	w.receive(mail{id: "a", from: "bram@freight.example", subject: "Crates"})
	w.receive(mail{id: "b", from: "oda@school.example", subject: "Class 4"})
	rows := w.rows(decide.Inbox)
	w.decide(decide.Done, rows[1])
	_, err = w.app.Mark(w.ctx, w.who, app.Marking{Command: rand.Text(), Mark: "label", Value: "visits", On: []int64{rows[0].ID}})
	require.NoError(t, err)
	_, err = w.app.Flag(w.ctx, w.who, rand.Text(), seenAll([]show.Row{rows[0]}), "")
	require.NoError(t, err)
	w.decide(decide.PutOff, rows[0], until("next mon 9:00"))
	did, err = w.app.JustDid(w.ctx, w.who)
	require.NoError(t, err)
	assert.Equal(t, show.JustDid{Title: "Class 4", Steps: []routine.Step{{Do: routine.Label, Text: "visits"}, {Do: routine.Flag}, {Do: routine.Decide, Decision: decide.PutOff, When: "next mon 9:00"}}}, did)

	id, err := w.makeRoutine("Visits", "8", did.Steps...)
	require.NoError(t, err)
	for name, c := range map[string]struct {
		name, key string
		steps     []routine.Step
	}{
		"There is a routine “visits” already.":       {"visits", "", did.Steps},
		"The key 8 is that of the routine “Visits”.": {"Other", "8", did.Steps},
		"A routine’s key is one letter or digit.":    {"Other", "f5", did.Steps},
		"A routine needs a name.":                    {" ", "", did.Steps},
		"Step 1: there is no such step “send cake”.": {"Cake", "", []routine.Step{{Do: "send cake"}}},
	} {
		_, err := w.makeRoutine(c.name, c.key, c.steps...)
		assert.EqualError(t, err, name)
	}
	_, err = w.app.EditRoutine(w.ctx, w.who, rand.Text(), id, app.RoutineFields{Remove: true})
	require.NoError(t, err)
	_, err = w.runRoutine(id, w.row(decide.Archive))
	assert.ErrorContains(t, err, "no longer there")
	w.takeBack(0)
	views, err := w.app.Routines(w.ctx, w.who)
	require.NoError(t, err)
	assert.Len(t, views, 1)
	for _, e := range show.RoutineExamples {
		assert.NoError(t, routine.Check(e.Steps))
		doing, err := w.app.TryRoutine(w.ctx, w.who, e.Steps, 0)
		require.NoError(t, err)
		assert.Empty(t, doing.Off, e.Name)
	}
}

// What breaks off in the middle of a routine leaves nothing of it.
func TestARoutineThatBreaksOffLeavesNothing(t *testing.T) {
	w := newWorld(t)
	w.receive(mail{id: "a", from: "bram@freight.example", subject: "Crates"})
	id, err := w.makeRoutine("Loan papers", "8", filing...)
	require.NoError(t, err)
	command := rand.Text()
	w.app.Hook = func(point string) {
		if point == "routine.midway" {
			panic("broken off")
		}
	}
	on := []store.Seen{{ID: w.row(decide.Inbox).ID, Last: w.row(decide.Inbox).Last}}
	assert.Panics(t, func() { _, _ = w.app.RunRoutine(w.ctx, w.who, command, id, on, false) })
	w.app.Hook = nil
	assert.Empty(t, w.row(decide.Inbox).Labels)
	for range 2 { // the same command again does it once
		_, err = w.app.RunRoutine(w.ctx, w.who, command, id, on, false)
		require.NoError(t, err)
	}
	assert.Len(t, w.row(decide.Archive).FollowUps, 1)
	w.sound()
}
