package show_test

import (
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"ebbe.example/ebbe/internal/core/decide"
	"ebbe.example/ebbe/internal/show"
)

func (d *desk) journal(ask show.JournalAsk) []show.JournalEntry {
	d.Helper()
	out, err := d.Journal(d.Context(), d.who, ask)
	require.NoError(d, err)
	return out
}

// The Journal is read a page at a time, newest first, and is found by words and by
// days; each line says which letter it is about.
func TestTheJournalIsReadBack(t *testing.T) {
	d := begin(t)
	d.receive(130)
	rows := d.inbox()
	for _, r := range rows {
		d.decide(decide.Done, "", r)
	}
	var all []show.JournalEntry
	for ask := (show.JournalAsk{Words: "done"}); ; {
		page := d.journal(ask)
		if len(page) == 0 {
			break
		}
		all = append(all, page...)
		ask.Before = page[len(page)-1].Entry
	}
	require.Len(t, all, len(rows))
	about := map[int64]bool{}
	for i, e := range all {
		about[e.Conversation] = true
		assert.True(t, e.Undo)
		assert.Equal(t, "2026-11-24", e.Day)
		if i > 0 {
			assert.Less(t, e.Entry, all[i-1].Entry)
		}
	}
	for _, r := range rows {
		assert.True(t, about[r.ID])
	}
	assert.Len(t, d.journal(show.JournalAsk{Words: "letter 17 done"}), 1, "all words, in any order")
	assert.Empty(t, d.journal(show.JournalAsk{Words: "purple"}))

	undone, err := d.Undo(t.Context(), d.who, crand(), all[0].Entry, true)
	require.NoError(t, err)
	require.NotZero(t, undone.Entry)
	for _, e := range d.journal(show.JournalAsk{Words: "done"}) {
		if e.Entry == all[0].Entry {
			assert.True(t, e.Undone)
			assert.False(t, e.Undo)
		}
	}
}

// A day of the Journal is the person's own: what is done past midnight in their
// zone belongs to the next.
func TestTheJournalByDays(t *testing.T) {
	d := begin(t)
	d.receive(2)
	rows := d.inbox()
	d.clock.Advance(14*time.Hour + 30*time.Minute) // 22:50 in Oslo
	d.decide(decide.Done, "", rows[0])
	d.clock.Advance(7 * time.Hour) // 05:50, past where a day begins
	d.decide(decide.Done, "", rows[1])
	on := func(day string) (titles []string) {
		for _, e := range d.journal(show.JournalAsk{Day: day, Words: "done"}) {
			titles = append(titles, e.Day)
		}
		return titles
	}
	assert.Equal(t, []string{"2026-11-24"}, on("2026-11-24"))
	assert.Equal(t, []string{"2026-11-25", "2026-11-24"}, on("2026-11-25"), "back from that day")
	assert.Empty(t, on("2026-11-23"))
	_, err := d.Journal(t.Context(), d.who, show.JournalAsk{Day: "yesterday"})
	assert.ErrorContains(t, err, "is no day")
}

// What the clock empties from the bin is one line, however much it was.
func TestEmptyingTheBinIsOneLine(t *testing.T) {
	d := begin(t)
	d.receive(12)
	for _, r := range d.inbox() {
		d.decide(decide.ToBin, "", r)
	}
	d.pass(31 * 24 * time.Hour)
	lines := d.journal(show.JournalAsk{Words: "purged"})
	require.Len(t, lines, 1)
	assert.Equal(t, "Purged from the bin: 12 conversations", lines[0].Title)
	assert.Empty(t, d.journal(show.JournalAsk{Words: "purged", Before: lines[0].Entry}), "its entry is the last of them, so the next page goes on after it")
}
