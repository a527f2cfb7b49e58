package store

import (
	"fmt"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"ebbe.example/ebbe/internal/core/change"
	"ebbe.example/ebbe/internal/core/decide"
	"ebbe.example/ebbe/internal/core/kinds"
	"ebbe.example/ebbe/internal/core/review"
)

func TestPlacesOfValues(t *testing.T) {
	for _, k := range []struct {
		same, width, rows int
		want              string
	}{
		{0, 1, 1, "(?1)"}, {0, 2, 2, "(?1,?2),(?3,?4)"}, {1, 1, 3, "(?1,?2),(?1,?3),(?1,?4)"}, {2, 2, 2, "(?1,?2,?3,?4),(?1,?2,?5,?6)"}, {2, 0, 1, "(?1,?2)"},
	} {
		assert.Equal(t, k.want, places(k.same, k.width, k.rows))
	}
}

// However many rows there are, each is written once, whatever of it is the same in
// all.
func TestManyRowsAreWrittenAtOnce(t *testing.T) {
	s, ines := open(t)
	rapid.Check(t, func(rt *rapid.T) {
		n := rapid.SampledFrom([]int{0, 1, 2, 4, 5, 24, 25, 26, 499, 500, 501, 530, 1031}).Draw(rt, "rows")
		shared := rapid.IntRange(0, 2).Draw(rt, "columns that are the same")
		err := s.Write(t.Context(), ines, func(tx *Tx) error {
			if err := tx.execAll("CREATE TEMP TABLE IF NOT EXISTS many (a TEXT, b INTEGER, c INTEGER)", "DELETE FROM temp.many"); err != nil {
				return err
			}
			row := []any{"same", int64(7)}
			rows := tx.bulk(row[:shared]...)
			for i := range n {
				rows.add(append(append([]any{}, row[shared:]...), int64(i))...)
			}
			if err := rows.flush("INSERT INTO temp.many (a, b, c) VALUES ", ""); err != nil {
				return err
			}
			var got string
			want := fmt.Sprintf("%d %d %d", n, n, n*(n-1)/2)
			err := tx.db.Raw("SELECT count(*) || ' ' || count(DISTINCT c) || ' ' || coalesce(sum(c), 0) FROM temp.many WHERE a = 'same' AND b = 7").Row().Scan(&got)
			require.Equal(rt, want, got)
			return err
		})
		require.NoError(rt, err)
	})
}

// A step that changes fields of several kinds, of several persons, one of them twice,
// is written down as it was given and taken back as it was.
func TestAStepIsWrittenDownAsItWasGiven(t *testing.T) {
	s, ines := open(t)
	at := time.Date(2026, 11, 24, 8, 0, 0, 0, time.UTC)
	write := func(do func(*Tx, int64) error) (entry int64) {
		require.NoError(t, s.Write(t.Context(), ines, func(tx *Tx) (err error) {
			entry, err = tx.AddEntry(Entry{CommandID: fmt.Sprint("entry-", time.Now().UnixNano()), Kind: "k", Actor: "person", Title: "t", At: at, RecordedAt: at})
			if err != nil {
				return err
			}
			return do(tx, entry)
		}))
		return entry
	}
	var conversation, followUp int64
	write(func(tx *Tx, entry int64) (err error) {
		if conversation, err = tx.AddConversation("crates"); err != nil {
			return err
		}
		followUp, err = tx.AddFollowUp(FollowUp{Title: "Crates", Priority: "normal", Status: "open", MadeAt: at})
		return err
	})
	var given change.List
	entry := write(func(tx *Tx, entry int64) error {
		decide.Conversation.Place.Set(&given, conversation, decide.Nowhere, decide.Inbox)
		decide.Conversation.Star.Set(&given, conversation, false, true)
		kinds.FollowUp.Title.Set(&given, followUp, "Crates", "Boxes")
		decide.Conversation.Note.Set(&given, conversation, "", "first")
		kinds.FollowUp.Title.Set(&given, followUp, "Boxes", "Panes")
		decide.Conversation.Note.Set(&given, conversation, "first", "second")
		return tx.Apply(entry, at, given)
	})
	var recorded []change.Recorded
	undo := write(func(tx *Tx, entry2 int64) (err error) {
		if recorded, err = tx.Changes(entry); err != nil {
			return err
		}
		current, err := tx.Versions(recorded)
		if err != nil {
			return err
		}
		back, kept := change.Inverse(recorded, current)
		assert.Empty(t, kept)
		return tx.Revert(entry2, at, back)
	})
	require.Len(t, recorded, len(given))
	for i, r := range recorded {
		assert.Equal(t, given[i].Field, r.Field)
		assert.Equal(t, string(given[i].Was), string(r.Was))
		assert.Equal(t, string(given[i].Now), string(r.Now))
		assert.Greater(t, r.After, r.Before)
	}
	assert.Equal(t, ines.Person, recorded[1].Person, "a star is one's own")
	assert.Zero(t, recorded[0].Person)
	assert.Equal(t, recorded[2].After, recorded[4].Before, "the second change of a field begins where the first ended")

	write(func(tx *Tx, _ int64) error {
		f, err := tx.FollowUp(followUp)
		require.NoError(t, err)
		assert.Equal(t, "Crates", f.Title)
		taken, err := tx.Changes(undo)
		require.NoError(t, err)
		assert.Len(t, taken, len(given))
		return nil
	})
}

// Weeks in which something happened in each quarter of an hour are read as they are
// kept, in their order, those of others and of other times left out.
func TestTalliesOfFullWeeks(t *testing.T) {
	s, ines := open(t)
	from := time.Date(2026, 10, 1, 0, 0, 0, 0, time.UTC)
	const days = 42
	quarters := int(days * 24 * time.Hour / review.Quarter)
	require.NoError(t, s.Write(t.Context(), ines, func(tx *Tx) error {
		rows := tx.bulk()
		for i := -3; i < quarters+3; i++ {
			q := from.Add(time.Duration(i)*review.Quarter).UnixMilli() / review.Quarter.Milliseconds()
			rows.add(ines.Inbox, q, i%5, i%3, i%2)
			rows.add(ines.Inbox+1, q, 9, 9, 9)
		}
		if err := rows.flush("INSERT INTO tallies (owner, quarter, came, entered, gone) VALUES ", ""); err != nil {
			return err
		}
		got, err := tx.Tallies(from, from.AddDate(0, 0, days))
		require.NoError(t, err)
		require.Len(t, got, quarters)
		for i, q := range got {
			require.Equal(t, Tally{At: from.Add(time.Duration(i) * review.Quarter), Came: i % 5, Entered: i % 3, Gone: i % 2}, q)
		}
		none, err := tx.Tallies(from.AddDate(-1, 0, 0), from.AddDate(-1, 0, 1))
		assert.Empty(t, none)
		return err
	}))
}
