package app_test

import (
	"bytes"
	"crypto/rand"
	"database/sql"
	"errors"
	"fmt"
	"os"
	"slices"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"ebbe.example/ebbe/internal/app"
	"ebbe.example/ebbe/internal/core/contact"
	"ebbe.example/ebbe/internal/core/decide"
	"ebbe.example/ebbe/internal/core/sorting"
	"ebbe.example/ebbe/internal/show"
	"ebbe.example/ebbe/internal/store"
)

const bram = "bram@freight.example"

// erase erases somebody as it was said to go.
func (w *world) erase(address string) app.ErasingView {
	w.t.Helper()
	v, err := w.app.Erasing(w.ctx, w.who, address)
	require.NoError(w.t, err)
	_, err = w.app.Erase(w.ctx, w.who, rand.Text(), address, v.Seal, false)
	require.NoError(w.t, err)
	w.sound()
	return v
}

// Whatever was done with somebody, nothing names them any more but what is the owner's own, in no table and in no
// page of the file.
func TestNothingIsLeftOfSomebodyErased(t *testing.T) {
	w := newWorld(t)
	fillWorld(w)
	w.receive(mail{id: "last@freight.example", from: "Bram Oosterhuis <" + bram + ">", subject: "Zeppelin crates", text: "Shall they come on Friday?"})
	w.receive(mail{id: "waits@freight.example", from: "Bram <" + bram + ">", subject: "At the gate"})
	require.NoError(t, w.editAhead("cancel", "", app.EntryRef{Kind: "send", ID: w.sends()[0].ID}))
	_, err := w.app.NewAppointment(w.ctx, w.who, rand.Text(), app.AppointmentFields{Title: ref("Site walk"), When: ref("mon 9 to 9:30"), Recurs: ref("every week"), Attendees: &[]string{bram, "oda@school.example"}}, 0)
	require.NoError(t, err)
	words := []string{bram, "Bram Oosterhuis", "Zeppelin"}
	require.Greater(t, len(w.naming(words...)), 12, "there is a lot that names them")
	v := w.erase(bram)
	assert.Contains(t, v.Stays, "What is yours and names them: the rule “Crates”")
	assert.Equal(t, map[string]int{"rules": 1, "outbox": 1}, w.naming(words...), "the invitation goes to somebody else too")
}

// Nor in what was taken back: a redo would bring it again.
func TestNothingIsLeftOfSomebodyErasedInWhatWasTakenBack(t *testing.T) {
	w := newWorld(t)
	fillWorld(w)
	undone := 0
	for ; undone < 100; undone++ {
		if _, err := w.app.Undo(w.ctx, w.who, rand.Text(), 0, true); err != nil {
			assert.ErrorContains(t, err, "There is nothing to undo.")
			break
		}
	}
	require.Greater(t, undone, 20)
	w.erase(bram)
	assert.Empty(t, w.naming(bram, "Bram Oosterhuis"))
}

// naming counts the rows of all tables in which one of the words stands, by table.
func (w *world) naming(words ...string) map[string]int {
	w.t.Helper()
	db, err := sql.Open("sqlite3", "file:"+w.app.Store.Path()+"?mode=ro&_busy_timeout=10000")
	require.NoError(w.t, err)
	defer db.Close()
	out := map[string]int{}
	tables, err := db.Query("SELECT name FROM sqlite_master WHERE type = 'table' AND sql NOT LIKE 'CREATE VIRTUAL%'")
	require.NoError(w.t, err)
	var names []string
	for tables.Next() {
		var name string
		require.NoError(w.t, tables.Scan(&name))
		names = append(names, name)
	}
	for _, table := range names {
		rows, err := db.Query("SELECT * FROM " + table)
		require.NoError(w.t, err)
		columns, err := rows.Columns()
		require.NoError(w.t, err)
		for rows.Next() {
			values, at := make([]any, len(columns)), make([]any, len(columns))
			for i := range values {
				at[i] = &values[i]
			}
			require.NoError(w.t, rows.Scan(at...))
			text := strings.ToLower(fmt.Sprint(values...))
			if slices.ContainsFunc(words, func(word string) bool { return strings.Contains(text, strings.ToLower(word)) }) {
				out[table]++
			}
		}
		require.NoError(w.t, errors.Join(rows.Err(), rows.Close()))
	}
	return out
}

// What was erased is in no page of the file, nor in the log beside it.
func TestErasedPagesAreWrittenOver(t *testing.T) {
	w := newWorld(t)
	w.receive(mail{id: "one@zeppelin.example", from: "Ferdi <ferdi@zeppelin.example>", subject: "Quixotic hangar", text: "Might you come?"})
	w.decide(decide.Done, w.titled(decide.Inbox, "Quixotic hangar"))
	w.receive(mail{id: "two@school.example", from: "Oda <oda@school.example>", subject: "Stays", text: "Yes."})
	file := func() (all []byte) {
		require.NoError(t, w.app.Store.Settle())
		for _, name := range []string{w.app.Store.Path(), w.app.Store.Path() + "-wal"} {
			content, err := os.ReadFile(name)
			require.NoError(t, err)
			all = append(all, content...)
		}
		return all
	}
	for _, word := range []string{"ferdi@zeppelin.example", "Quixotic", "quixotic"} {
		require.True(t, bytes.Contains(file(), []byte(word)), word)
	}
	w.erase("ferdi@zeppelin.example")
	for _, word := range []string{"ferdi@zeppelin.example", "Quixotic", "quixotic", "hangar"} {
		assert.False(t, bytes.Contains(file(), []byte(word)), word)
	}
	assert.Len(t, w.rows(decide.Inbox), 1)
}

// A conversation with somebody else keeps what they wrote, and what went to them.
func TestOthersKeepTheirLetters(t *testing.T) {
	w := newWorld(t)
	w.receive(bramAsks)
	w.receive(mail{id: "tove@norrholm.example", from: "Tove <tove@hall.example>", subject: "Re: Crates", answers: "one@freight.example", text: "I can take them."})
	w.receive(mail{id: "b@freight.example", from: "Bram <" + bram + ">", subject: "Only you", text: "Can you?"})
	w.decide(decide.PutOff, w.titled(decide.Inbox, "Only you"), until("fri"))
	before, err := w.app.DaySheet(w.ctx, w.who, "")
	require.NoError(t, err)
	v := w.erase(bram)
	assert.Contains(t, v.Goes, "2 letters from them")
	assert.Contains(t, v.Stays, "1 letter of others in conversations with them, which may name or quote them")
	rows := w.rows(decide.Inbox)
	require.Len(t, rows, 1)
	assert.Equal(t, "Tove", rows[0].From.Name)
	assert.Equal(t, 1, rows[0].Letters)
	assert.Empty(t, w.rows(decide.Later))
	after, err := w.app.DaySheet(w.ctx, w.who, "")
	require.NoError(t, err)
	assert.Equal(t, before.Came.N, after.Came.N, "what came on a day came")
	w.pass(72 * time.Hour) // nothing comes back
	assert.Len(t, w.rows(decide.Inbox), 1)
}

func TestErasingSomebodyWhoIsWaitedFor(t *testing.T) {
	w := newWorld(t)
	w.receive(bramAsks)
	w.receive(mail{id: "tove@norrholm.example", from: "Tove <tove@hall.example>", subject: "Re: Crates", answers: "one@freight.example", text: "I can take them."})
	w.decide(decide.PutOff, w.titled(decide.Inbox, "Crates"), until("fri if bram has not answered"))
	w.erase(bram)
	rows := w.rows(decide.Inbox)
	require.Len(t, rows, 1, "nobody waits any more: it is back")
	assert.Equal(t, "Tove", rows[0].From.Name)
}

func TestErasingIsNotAsked(t *testing.T) {
	w := newWorld(t)
	w.receive(bramAsks)
	v, err := w.app.Erasing(w.ctx, w.who, bram)
	require.NoError(t, err)
	w.receive(mail{id: "b@freight.example", from: "Bram <" + bram + ">", subject: "One more"})
	_, err = w.app.Erase(w.ctx, w.who, rand.Text(), bram, v.Seal, false)
	assert.ErrorContains(t, err, "look again")
	_, err = w.app.Erasing(w.ctx, w.who, "ines@norrholm.example")
	assert.ErrorContains(t, err, "your own")
	_, err = w.app.Erasing(w.ctx, w.who, "nobody at all")
	assert.Error(t, err)
	_, err = w.app.Undo(w.ctx, w.who, rand.Text(), 0, true)
	assert.Error(t, err, "the refused one is no step")

	w.send(ref(w.titled(decide.Inbox, "Crates")), func(s *app.Sending) { s.Text = "Yes." })
	_, err = w.app.Erasing(w.ctx, w.who, bram)
	assert.ErrorContains(t, err, "still to leave")
	w.pass(time.Minute)
	w.erase(bram)
	assert.Empty(t, w.rows(decide.Inbox))
	_, err = w.app.Undo(w.ctx, w.who, rand.Text(), 0, true)
	assert.Error(t, err, "it can't be undone, nor what was done with them")
}

// An address that was written down for somebody goes with their others.
func TestSomebodyIsErasedByAllTheirAddresses(t *testing.T) {
	w := newWorld(t)
	w.receive(bramAsks)
	w.receive(mail{id: "h@home.example", from: "B. O. <Bo@home.example>", subject: "From home"})
	_, err := w.app.WriteContact(w.ctx, w.who, rand.Text(), 0, contact.Contact{Name: "Bram Oosterhuis", Emails: []string{bram, "bo@home.example"}})
	require.NoError(t, err)
	w.erase("bo@home.example")
	assert.Empty(t, w.rows(decide.Inbox))
	list, err := w.app.Correspondents(w.ctx, w.who, "")
	require.NoError(t, err)
	assert.Empty(t, list.Rows)
}

// What somebody else does next is named by no id of what was erased: it can be taken back as ever.
func TestNothingIsCalledAsWhatWasErased(t *testing.T) {
	w := newWorld(t)
	other, err := w.app.Store.AddPerson(w.ctx, store.Person{Name: "Ola", SignIn: "ola", Zone: "Europe/Oslo"}, []store.Account{{Address: "ola@school.example"}}, start)
	require.NoError(t, err)
	ola := w.at(other)
	sorted := func(w *world, at string) (letter, correction int64) {
		m := bramAsks
		m.to = at
		w.receive(m)
		row := w.row(decide.Inbox)
		_, err := w.app.Sort(w.ctx, w.who, app.Sorting{Command: rand.Text(), Kind: sorting.Reading, Scope: sorting.ByAddress, On: []store.Seen{seen(row)}})
		require.NoError(t, err)
		list, err := w.app.Corrections(w.ctx, w.who)
		require.NoError(t, err)
		require.Len(t, list, 1)
		return row.Last, list[0].ID
	}
	letter, correction := sorted(w, "ines@norrholm.example")
	w.erase(bram)
	next, second := sorted(ola, "ola@school.example")
	assert.Greater(t, next, letter)
	assert.Greater(t, second, correction)
	u := ola.undo()
	assert.Empty(t, u.Left)
	assert.Equal(t, next, ola.row(decide.Inbox).Last)
}

// What would be put off again until they answer comes back instead: nobody is waited for.
func TestNothingIsPutOffUntilSomebodyErasedAnswers(t *testing.T) {
	w := newWorld(t)
	w.receive(bramAsks)
	w.receive(mail{id: "eva@x.example", from: "Eva <eva@x.example>", subject: "Re: Crates", answers: "one@freight.example"})
	w.decide(decide.PutOff, w.row(decide.Inbox), until("when bram answers"))
	w.decide(decide.Done, w.row(decide.Later))
	w.erase(bram)
	w.undo()
	assert.Equal(t, "Re: Crates", w.row(decide.Inbox).Title)
}

// The same where the round is taken back that had brought it.
func TestARoundIsUndoneOnceSomebodyErasedWasWaitedFor(t *testing.T) {
	w := newWorld(t)
	w.receive(bramAsks)
	w.receive(mail{id: "eva@x.example", from: "Eva <eva@x.example>", subject: "Re: Crates", answers: "one@freight.example"})
	w.decide(decide.PutOff, w.row(decide.Inbox), until("when bram answers"))
	w.plan(working)
	w.receive(mail{id: "eva2@x.example", from: "Eva <eva@x.example>", subject: "Re: Crates", answers: "eva@x.example"})
	w.pass(10 * time.Minute)
	assert.Equal(t, 3, w.row(decide.Inbox).Letters)
	w.erase(bram)
	w.undoRound("The 08:30 round: 1 letter")
	assert.Equal(t, 1, w.row(decide.Inbox).Letters)
}

// And where putting it off is done again, after somebody else at the inbox has erased them.
func TestNothingIsPutOffOnceMoreUntilSomebodyErasedAnswers(t *testing.T) {
	w := newWorld(t)
	w.receive(bramAsks)
	w.receive(mail{id: "eva@x.example", from: "Eva <eva@x.example>", subject: "Re: Crates", answers: "one@freight.example"})
	w.decide(decide.PutOff, w.row(decide.Inbox), until("when bram answers"))
	w.undo()
	w.colleague().erase(bram)
	assert.Empty(t, w.naming(bram))
	_, err := w.app.Redo(w.ctx, w.who, rand.Text())
	require.NoError(t, err)
	assert.Equal(t, "Re: Crates", w.row(decide.Inbox).Title)
}

// A follow-up keeps its words, not the letter behind it.
func TestFollowUpsStayWithoutTheirLetters(t *testing.T) {
	w := newWorld(t)
	w.receive(bramAsks)
	w.decide(decide.FollowUp, w.titled(decide.Inbox, "Crates"), func(d *app.Deciding) { d.FollowUp = &app.FollowUpFields{Title: ref("Order crates")} })
	w.erase(bram)
	list, err := w.app.FollowUps(w.ctx, w.who, false)
	require.NoError(t, err)
	require.Len(t, list, 1)
	assert.Equal(t, "Order crates", list[0].Title)
	assert.Empty(t, list[0].Letters)
}

// A file that holds what was erased doesn't bring it back; what is sent anew comes.
func TestWhatWasErasedIsNotImported(t *testing.T) {
	w := newWorld(t)
	old := mail{id: "old@freight.example", from: "Bram <" + bram + ">", subject: "Old"}.bytes(start.AddDate(0, -2, 0))
	other := mail{id: "new@freight.example", from: "Bram <" + bram + ">", subject: "Another"}.bytes(start.AddDate(0, -1, 0))
	w.importFile(mboxOf(t, old), nil)
	w.erase(bram)
	im := w.importFile(mboxOf(t, old, other), nil)
	require.Len(t, im.Troubles, 1)
	assert.Equal(t, []string{"Another"}, titlesOf(w.rows(decide.Archive)))
	w.sound()
}

// A letter that lies on a mail server doesn't come again, wherever another program moves it, and is taken away
// there where that was asked for.
func TestErasedOnAMailServer(t *testing.T) {
	for _, servers := range []bool{false, true} {
		w := onAServer(t)
		w.comes("INBOX", mail{id: "a@freight.example", from: "Bram <" + bram + ">", subject: "Before"})
		w.comes("INBOX", mail{id: "o@school.example", from: "Oda <oda@school.example>", subject: "Other"})
		w.connect()
		w.comes("INBOX", mail{id: "b@freight.example", from: "Bram <" + bram + ">", subject: "After"})
		w.sync()
		require.Len(t, w.rows(decide.Inbox), 3)
		v, err := w.app.Erasing(w.ctx, w.who, bram)
		require.NoError(t, err)
		assert.Equal(t, 2, v.Copies)
		_, err = w.app.Erase(w.ctx, w.who, rand.Text(), bram, v.Seal, servers)
		require.NoError(t, err)
		w.sync()
		left := 1
		if servers {
			left = 0
		}
		box := w.second()
		for _, subject := range []string{"Before", "After"} {
			assert.Len(t, found(t, box, "INBOX", subject), left)
		}
		require.NoError(t, box.Close())
		if !servers {
			for _, subject := range []string{"Before", "After"} {
				w.phone("INBOX", subject, moves("Archive"))
				w.sync()
				w.phone("Archive", subject, moves("INBOX"))
			}
		}
		w.sync()
		assert.Equal(t, []string{"Other"}, titlesOf(w.rows(decide.Inbox)))
		assert.Empty(t, w.rows(decide.Archive))
		w.sound()
	}
}

// Whoever is called like a common word, or has a part of another's address, takes nothing of theirs along.
func TestErasingTakesNothingOfTheirNamesakes(t *testing.T) {
	w := newWorld(t)
	w.receive(mail{id: "an@x.example", from: "An <an@x.example>", subject: "Ask"})
	w.receive(mail{id: "dan@x.example", from: "Dan <dan@x.example>", subject: "An answer for an office"})
	w.decide(decide.Done, w.titled(decide.Inbox, "An answer for an office"))
	_, err := w.app.WriteContact(w.ctx, w.who, rand.Text(), 0, contact.Contact{Name: "Dan", Emails: []string{"dan@x.example"}})
	require.NoError(t, err)
	w.erase("an@x.example")
	var said []string
	list, err := w.app.Journal(w.ctx, w.who, show.JournalAsk{})
	require.NoError(t, err)
	for _, e := range list {
		said = append(said, e.Title)
	}
	assert.Equal(t, []string{
		"Erased a correspondent, 1 letter", "Wrote down who Dan is", "Done with “An answer for an office”", "Letter from Dan", "Something with a correspondent who was erased",
	}, said)
	w.undo()
	w.undo()
	assert.Equal(t, []string{"An answer for an office"}, titlesOf(w.rows(decide.Inbox)), "what was done with others is undone as before")
	w.sound()
}
