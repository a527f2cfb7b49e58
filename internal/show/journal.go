package show

import (
	"context"
	"errors"
	"strings"
	"time"

	"ebbe.example/ebbe/internal/core/schedule"
	"ebbe.example/ebbe/internal/core/when"
	"ebbe.example/ebbe/internal/say"
	"ebbe.example/ebbe/internal/store"
	"ebbe.example/ebbe/internal/work"
)

// JournalEntry is a step of the Journal as the page shows it.
type JournalEntry struct {
	Entry  int64     `json:"entry"`
	Title  string    `json:"title"`
	Actor  string    `json:"actor"`
	At     time.Time `json:"at"`
	Undone bool      `json:"undone"`
	Undo   bool      `json:"undo" doc:"It can be undone"`
	Day    string    `json:"day" doc:"2006-01-02, by the person's own days"`
	// Conversation is the first that it changed; 0 for none.
	Conversation int64 `json:"conversation,omitempty"`
	Sorted       bool  `json:"sorted,omitempty" doc:"It sorted letters that came, which can be read singly"`
}

// JournalAsk narrows what of the Journal is read.
type JournalAsk struct {
	// Before is the entry from before which it is read; 0 from the newest.
	Before int64
	// Words must all be in the title.
	Words string
	// Day is the last day, 2006-01-02; "" for any.
	Day string
}

func journalEntry(e store.Entry) JournalEntry {
	return JournalEntry{Entry: e.ID, Title: e.Title, Actor: e.Actor, At: e.At, Undone: e.UndoneBy != 0, Undo: e.Undoable && e.UndoneBy == 0, Sorted: e.Kind == SortedKind}
}

// Journal lists steps, newest first, back to the first day.
func (a *Show) Journal(ctx context.Context, who store.Who, ask JournalAsk) ([]JournalEntry, error) {
	return read(ctx, a, who, func(tx *store.Tx) ([]JournalEntry, error) {
		out := []JournalEntry{}
		v, err := a.Viewer(tx)
		if err != nil {
			return out, err
		}
		before, until := ask.Before, time.Time{}
		if ask.Day != "" {
			t, err := time.Parse(time.DateOnly, ask.Day)
			if err != nil {
				return out, work.Invalid("day", "“%s” is no day. Write it as 2026-11-24.", ask.Day)
			}
			until = v.Cal.Begins(when.DateOf(t).Add(1))
		}
		folded := 0
		for len(out) < PageSize {
			list, err := tx.Entries(before, until, strings.Fields(ask.Words), PageSize)
			if err != nil || len(list) == 0 {
				return out, errors.Join(err, aboutLetters(tx, out))
			}
			for _, e := range list {
				before = e.ID
				if last := len(out) - 1; e.Kind == purgeKind && folded > 0 {
					folded++
					out[last].Entry, out[last].Title = e.ID, "Purged from the bin: "+say.Count(folded, "conversation")
					continue
				}
				if folded = 0; e.Kind == purgeKind {
					folded = 1
				}
				one := journalEntry(e)
				one.Day = v.Cal.Today(e.At).String()
				if out = append(out, one); len(out) == PageSize {
					break
				}
			}
		}
		return out, aboutLetters(tx, out)
	})
}

// aboutLetters fills in which letters entries are about.
func aboutLetters(tx *store.Tx, entries []JournalEntry) error {
	ids := make([]int64, len(entries))
	for i, e := range entries {
		ids[i] = e.Entry
	}
	about, err := tx.ConversationsOf(ids)
	for i := range entries {
		entries[i].Conversation = about[entries[i].Entry]
	}
	return err
}

// purgeKind is the kind of a step that empties the bin. Many after one another
// are one line of the Journal.
var purgeKind = schedule.Purge.String()
