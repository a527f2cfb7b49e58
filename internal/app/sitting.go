package app

import (
	"context"
	"errors"
	"slices"
	"time"

	"ebbe.example/ebbe/internal/core/change"
	"ebbe.example/ebbe/internal/core/kinds"
	"ebbe.example/ebbe/internal/core/sitting"
	"ebbe.example/ebbe/internal/say"
	"ebbe.example/ebbe/internal/show"
	"ebbe.example/ebbe/internal/store"
	"ebbe.example/ebbe/internal/work"
)

// sittingKind is the kind of the steps that begin, change and end sittings.
const sittingKind = "sitting"

// SittingDown says of what a sitting is made and how long it is.
type SittingDown struct {
	Command string
	Heap    sitting.Heap
	// Minutes are how long; 0 for until zero.
	Minutes int
}

// BeginSitting begins a sitting; one that still goes on ends.
func (a *App) BeginSitting(ctx context.Context, who store.Who, in SittingDown) (Made, error) {
	cmd := work.Command{ID: in.Command, Who: who, Actor: work.ByPerson, Kind: sittingKind}
	return run(ctx, a, cmd, func(s *step) (Made, error) {
		long := time.Duration(in.Minutes) * time.Minute
		if long < 0 || long > sitting.Longest {
			return Made{}, work.Invalid("minutes", "A sitting is of up to %d hours, or goes on until zero.", sitting.Longest/time.Hour)
		}
		ids, err := a.HeapOf(s.Tx, in.Heap)
		if err != nil {
			return Made{}, err
		}
		if len(ids) == 0 {
			return Made{}, work.Refuse("Nothing waits for a decision in %s.", show.HeapWords(in.Heap))
		}
		var changes change.List
		if last, err := s.LatestSitting(); err == nil && last.Ended.IsZero() {
			kinds.Sitting.Ended.Set(&changes, last.ID, nil, millisOf(s.At))
		} else if err != nil && !errors.Is(err, store.ErrNotFound) {
			return Made{}, err
		}
		began := store.Sitting{Sitting: sitting.Sitting{Began: s.At, Letters: ids}, Heap: in.Heap}
		s.Title = "Began a sitting until zero: " + say.Count(len(ids), "letter")
		if long > 0 {
			began.Until = s.At.Add(long)
			s.Title = "Began a sitting of " + say.Count(in.Minutes, "minute") + ": " + say.Count(len(ids), "letter")
		}
		id, err := s.AddSitting(began)
		if err != nil {
			return Made{}, err
		}
		kinds.Sitting.Alive.Set(&changes, id, false, true)
		s.Final = true // Undo is for what was decided before
		return Made{Decided{Entry: s.ID, Title: s.Title, Final: true}, id}, s.Change(changes)
	})
}

// SittingFields are what changes of a sitting that goes on.
type SittingFields struct {
	// Skip is a conversation that comes again at the end.
	Skip int64 `json:"skip,omitempty" doc:"A conversation that comes again at the end, once"`
	// Minutes are so many more from now on, or from when its time is up.
	Minutes int  `json:"minutes,omitempty" minimum:"1" maximum:"480" doc:"So many minutes more"`
	End     bool `json:"end,omitempty"`
}

// EditSitting passes a letter over, gives a sitting more time, or ends it.
func (a *App) EditSitting(ctx context.Context, who store.Who, command string, id int64, f SittingFields) (Decided, error) {
	cmd := work.Command{ID: command, Who: who, Actor: work.ByPerson, Kind: sittingKind}
	return run(ctx, a, cmd, func(s *step) (Decided, error) {
		is, err := s.Sitting(id)
		if errors.Is(err, store.ErrNotFound) {
			return Decided{}, work.Gone("That sitting is no longer there.")
		}
		if err != nil {
			return Decided{}, err
		}
		if !is.Ended.IsZero() {
			return Decided{}, work.Refuse("That sitting has ended already, perhaps in another window.")
		}
		var changes change.List
		switch {
		case f.Skip != 0:
			row, err := s.Conversation(f.Skip)
			if err != nil {
				return Decided{}, work.Gone("That conversation is no longer there.")
			}
			kinds.Sitting.Skipped.Set(&changes, id, is.Skipped, append(slices.Clone(is.Skipped), row.ID))
			s.Title = "Skipped “" + say.Shorten(row.Title(), 60) + "”"
		case f.Minutes > 0:
			from := is.Until
			if from.Before(s.At) {
				from = s.At
			}
			var was *int64
			if !is.Until.IsZero() {
				was = millisOf(is.Until)
			}
			kinds.Sitting.Until.Set(&changes, id, was, millisOf(from.Add(time.Duration(f.Minutes)*time.Minute)))
			s.Title, s.Final = "The sitting goes on for "+say.Count(f.Minutes, "minute")+" more", true
		case f.End:
			kinds.Sitting.Ended.Set(&changes, id, nil, millisOf(s.At))
			s.Title = "Ended the sitting"
		default:
			return Decided{}, work.Invalid("", "Nothing was said that is to change.")
		}
		return Decided{Entry: s.ID, Title: s.Title, Final: s.Final}, s.Change(changes)
	})
}
