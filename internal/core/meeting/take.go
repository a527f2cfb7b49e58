package meeting

import (
	"strings"
	"time"
)

// Kept is an appointment as it is kept: one by itself, or one of a series.
type Kept struct {
	Event
	// Made tells that it was made of a series by its rules.
	Made bool
	// Mine tells that the person organizes it.
	Mine bool
}

// moved tells that one of a series no longer stands at its time by the rules.
func (k Kept) moved() bool { return !k.Start.UTC.Equal(k.Recurrence) }

// Fate is what becomes of a kept appointment when a message about its series is
// taken.
type Fate int

// The fates.
const (
	Stays   Fate = iota // as it is
	Renewed             // it stands where it stood, and says what the message says
	Goes                // it is none of the series any more
)

// TakeOne tells which of the appointments with its UID a message means that is
// about a single one, and what that is then; -1 if it is a new one. A message
// that is older than what is kept changes nothing of it (RFC 5546, 2.1.5).
func TakeOne(e Event, kept []Kept) (at int, now Event) {
	for i, k := range kept {
		if !k.Recurrence.Equal(e.Recurrence) || k.Made && e.Recurrence.IsZero() {
			continue
		}
		if e.Sequence < k.Sequence {
			return i, k.Event
		}
		now = e
		now.Recurrence = k.Recurrence
		return i, now
	}
	return -1, e
}

// TakeSeries tells what becomes of each appointment that is kept with the UID of
// a series when a message about all of the series is taken. times are those of
// its rules, apart tells of times that the message names by themselves, and
// what has ended by now stays. ok is false for a message that is older than
// what is kept (RFC 5546, 2.1.5).
func TakeSeries(e Event, kept []Kept, times []time.Time, apart func(time.Time) bool, now time.Time) (fates []Fate, ok bool) {
	recurs := make(map[int64]bool, len(times))
	for _, t := range times {
		recurs[t.UnixMilli()] = true
	}
	fates = make([]Fate, len(kept))
	for i, k := range kept {
		alone := k.Recurrence.IsZero()
		if (alone || !k.moved()) && k.Sequence > e.Sequence {
			return nil, false
		}
		switch {
		case alone && !k.Made:
			fates[i] = Goes // it stood alone, and recurs now
		case k.End.Before(now):
			fates[i] = Stays
		case !recurs[k.Recurrence.UnixMilli()], k.moved() && k.Sequence < e.Sequence:
			fates[i] = Goes
		case !k.moved() && !apart(k.Recurrence):
			fates[i] = Renewed
		}
	}
	return fates, true
}

// TakeCancel tells which of the kept appointments a message calls off, and
// whether the series is over with that. Only who organizes something can call
// it off, and not by an older message.
func TakeCancel(e Event, from string, kept []Kept) (off []int, over bool) {
	for i, k := range kept {
		if k.Mine || !strings.EqualFold(k.Organizer.Email, from) || k.Sequence > e.Sequence || !e.Means(k.Recurrence) {
			continue
		}
		off = append(off, i)
		over = over || e.Recurrence.IsZero() || e.Following
	}
	return off, over
}
