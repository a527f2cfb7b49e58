package show

import (
	"context"
	"errors"

	"ebbe.example/ebbe/internal/core/decide"
	"ebbe.example/ebbe/internal/core/sorting"
	"ebbe.example/ebbe/internal/say"
	"ebbe.example/ebbe/internal/store"
	"ebbe.example/ebbe/internal/work"
)

// SortedKind is the kind of a step of the Journal under which letters were sorted out that came.
const SortedKind = "sorted"

// SortedLetters is what was sorted out under a step and lies there still.
type SortedLetters struct {
	Letters []SortedLetter `json:"letters"`
	// More are so many others.
	More int `json:"more"`
}

// SortedLetter is one of them.
type SortedLetter struct {
	Conversation int64        `json:"conversation"`
	Last         int64        `json:"last" doc:"The newest letter of the conversation"`
	From         string       `json:"from"`
	Subject      string       `json:"subject"`
	Kind         sorting.Kind `json:"kind" enum:"receipts,notices,reading,meetings,copies,away,junk"`
	Why          string       `json:"why"`
}

// mostSorted is how many letters of a step are listed.
const mostSorted = 500

// Sorted lists what was sorted out under a step of the Journal, but for what was moved since.
func (a *Show) Sorted(ctx context.Context, who store.Who, entry int64) (SortedLetters, error) {
	return read(ctx, a, who, func(tx *store.Tx) (SortedLetters, error) {
		out := SortedLetters{Letters: []SortedLetter{}}
		e, err := tx.Entry(entry)
		if errors.Is(err, store.ErrNotFound) || err == nil && e.Kind != SortedKind {
			return out, work.Gone("No letters were sorted in that step.")
		}
		if err != nil {
			return out, err
		}
		letters, err := tx.SortedIn(entry)
		if err != nil {
			return out, err
		}
		ids := make([]int64, len(letters))
		for i, l := range letters {
			ids[i] = l.Conversation
		}
		rows, err := tx.Conversations(ids)
		if err != nil {
			return out, err
		}
		of := make(map[int64]store.Row, len(rows))
		for _, r := range rows {
			of[r.ID] = r
		}
		for _, l := range letters {
			r := of[l.Conversation]
			switch {
			case !l.Sort.Out || !decide.LiesSorted(r.Place, r.Kind):
			case len(out.Letters) == mostSorted:
				out.More++
			default:
				out.Letters = append(out.Letters, SortedLetter{
					Conversation: r.ID, Last: r.LastLetter, From: r.From.Display(), Subject: say.Shorten(r.Title(), 200), Kind: l.Sort.Kind, Why: l.Sort.Why,
				})
			}
		}
		return out, nil
	})
}
