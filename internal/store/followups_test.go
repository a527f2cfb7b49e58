package store

import (
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"ebbe.example/ebbe/internal/core/change"
	"ebbe.example/ebbe/internal/core/followup"
	"ebbe.example/ebbe/internal/core/kinds"
	"ebbe.example/ebbe/internal/core/when"
)

// due is a day by its morning.
func due(day int) *when.Moment {
	at := time.Date(2026, 11, day, 7, 30, 0, 0, time.UTC)
	return &when.Moment{Phrase: at.Format("Mon 2 Jan"), Wall: at.Format("2006-01-02T15:04"), Zone: when.Mine, Precision: when.ToDay, UTC: at}
}

// followed writes follow-ups and brings them to life.
func followed(t *testing.T, tx *Tx, all ...FollowUp) (ids []int64) {
	t.Helper()
	var changes change.List
	for _, f := range all {
		f.MadeAt = morning
		id, err := tx.AddFollowUp(f)
		require.NoError(t, err)
		kinds.FollowUp.Alive.Set(&changes, id, false, true)
		ids = append(ids, id)
	}
	tx.step(t, changes)
	return ids
}

func titlesOf(list []FollowUp, err error) (out []string) {
	if err != nil {
		return []string{err.Error()}
	}
	for _, f := range list {
		out = append(out, f.Title)
	}
	return out
}

// Open follow-ups come in the order of their due, those for some day last; closed ones by when
// they were, the last first; the board has the same with as much of their due as it needs.
func TestFollowUpsInTheirOrder(t *testing.T) {
	s, who := open(t)
	writes(t, s, who, func(tx *Tx) {
		ids := followed(t, tx,
			FollowUp{Title: "some day", Status: followup.Open}, FollowUp{Title: "on the 26th", Due: due(26), Status: followup.Open, Estimate: 20, Project: "Walks"},
			FollowUp{Title: "on the 25th", Due: due(25), Status: followup.Open, Checklist: []followup.Item{{Text: "first", Done: true}}},
			FollowUp{Title: "done first", Status: followup.Done, DoneAt: morning}, FollowUp{Title: "done last", Status: followup.Done, DoneAt: morning.Add(time.Hour)},
		)
		_, err := tx.AddFollowUp(FollowUp{Title: "never alive", MadeAt: morning})
		require.NoError(t, err)
		assert.Equal(t, []string{"on the 25th", "on the 26th", "some day"}, titlesOf(tx.FollowUps(false, 9)))
		assert.Equal(t, []string{"done last", "done first"}, titlesOf(tx.FollowUps(true, 9)))
		assert.Equal(t, []string{"on the 25th"}, titlesOf(tx.FollowUps(false, 1)))
		n, err := tx.CountFollowUps()
		require.NoError(t, err)
		assert.Equal(t, 3, n)
		one, err := tx.FollowUp(ids[2])
		require.NoError(t, err)
		assert.Equal(t, []any{*due(25), []followup.Item{{Text: "first", Done: true}}}, []any{*one.Due, one.Checklist})

		cards, err := tx.BoardItems(false, 9)
		require.NoError(t, err)
		require.Len(t, cards, 3)
		by := map[string]followup.Card{}
		for _, c := range cards {
			by[c.Title] = c
		}
		assert.Nil(t, by["some day"].Due)
		require.NotNil(t, by["on the 26th"].Due)
		assert.Equal(t, []any{when.ToDay, due(26).UTC, due(26).Wall}, []any{by["on the 26th"].Due.Precision, by["on the 26th"].Due.UTC, by["on the 26th"].Due.Wall})
		assert.Equal(t, []any{20 * time.Minute, "Walks"}, []any{by["on the 26th"].Estimate, by["on the 26th"].Project})
		closed, err := tx.BoardItems(true, 1)
		require.NoError(t, err)
		require.Len(t, closed, 1)
		assert.Equal(t, morning.Add(time.Hour), closed[0].DoneAt)

		require.NoError(t, tx.exec("UPDATE followups SET due = 'spoiled' WHERE id = ?", ids[1]))
		cards, err = tx.BoardItems(false, 9)
		require.NoError(t, err)
		assert.Len(t, cards, 3, "one that can't be read is laid out all the same")
	})
}

// Names are those in use, of open follow-ups before those that only closed ones have.
func TestNamesInUse(t *testing.T) {
	s, who := open(t)
	writes(t, s, who, func(tx *Tx) {
		ids := followed(t, tx,
			FollowUp{Title: "1", Project: "walks", Context: "phone", Status: followup.Open}, FollowUp{Title: "2", Project: "Board", Status: followup.Open},
			FollowUp{Title: "3", Project: "annex", Status: followup.Done, DoneAt: morning}, FollowUp{Title: "4", Project: "walks", Status: followup.Done, DoneAt: morning},
		)
		names, err := tx.UsedNames("project")
		require.NoError(t, err)
		assert.Equal(t, []string{"Board", "walks", "annex"}, names)
		with, err := tx.FollowUpsWith("project", "walks")
		require.NoError(t, err)
		assert.ElementsMatch(t, []int64{ids[0], ids[3]}, with)
		names, err = tx.UsedNames("context")
		require.NoError(t, err)
		assert.Equal(t, []string{"phone"}, names)
		names, err = tx.UsedNames("assignee")
		require.NoError(t, err)
		assert.Empty(t, names)
	})
	writes(t, s, another(t, s), func(tx *Tx) {
		names, err := tx.UsedNames("project")
		require.NoError(t, err)
		assert.Empty(t, names)
	})
}

// Reminders belong to their follow-up and ring while it is open; a follow-up may wait for a
// letter that has not come.
func TestRemindersAndLettersOfFollowUps(t *testing.T) {
	s, who := open(t)
	writes(t, s, who, func(tx *Tx) {
		l := sample(t, tx, "letters", who.Inbox)
		c := sample(t, tx, "conversations", who.Inbox)
		require.NoError(t, tx.exec("UPDATE letters SET conversation_id = ?, message_id = 'a@x.example' WHERE id = ?", c, l))
		ids := followed(t, tx, FollowUp{Title: "open", Status: followup.Open, UID: "u1", Letters: []FollowUpLetter{{LetterID: l, Subject: "Crates", Sender: "Bram", Date: morning, Ask: "How many?"}}},
			FollowUp{Title: "done", Status: followup.Done, DoneAt: morning})
		require.NoError(t, tx.LinkLetter(ids[0], FollowUpLetter{LetterID: l, Subject: "again"}))
		var changes change.List
		for _, id := range ids {
			r, err := tx.AddReminder(id, *due(24), nil)
			require.NoError(t, err)
			kinds.Reminder.Alive.Set(&changes, r, false, true)
			kinds.Reminder.State.Set(&changes, r, "set", "rang")
		}
		tx.step(t, changes)
		assert.Equal(t, []string{"open"}, titlesOf(tx.Ringing()), "what is closed rings no more")
		one, err := tx.FollowUpByUID("u1")
		require.NoError(t, err)
		require.Len(t, one.Letters, 1)
		assert.Equal(t, []any{c, "a@x.example", "Crates", "How many?"}, []any{one.Letters[0].Conversation, one.Letters[0].MessageID, one.Letters[0].Subject, one.Letters[0].Ask})
		require.Len(t, one.Reminders, 1)
		of, r, err := tx.ReminderOf(one.Reminders[0].ID)
		require.NoError(t, err)
		assert.Equal(t, []any{ids[0], due(24).UTC}, []any{of, r.Moment.UTC})
		_, err = tx.FollowUpByUID("")
		assert.ErrorIs(t, err, ErrNotFound)
		assert.Equal(t, []string{"open"}, titlesOf(tx.FollowUpsOf(c)))

		waits, err := tx.AnyAwaited()
		require.NoError(t, err)
		assert.False(t, waits)
		require.NoError(t, tx.AwaitLetters(ids[0], []string{"later@x.example", "later@x.example"}))
		require.NoError(t, tx.AwaitLetters(ids[1], []string{"later@x.example"}))
		found, err := tx.AwaitingLetter("later@x.example")
		require.NoError(t, err)
		assert.Equal(t, ids, found)
		found, err = tx.AwaitingLetter("")
		require.NoError(t, err)
		assert.Empty(t, found)
		require.NoError(t, tx.LetterCame("later@x.example"))
		waits, err = tx.AnyAwaited()
		require.NoError(t, err)
		assert.False(t, waits)
	})
}
