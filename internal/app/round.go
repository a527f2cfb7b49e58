package app

import (
	"context"
	"errors"
	"slices"

	"ebbe.example/ebbe/internal/core/change"
	"ebbe.example/ebbe/internal/core/decide"
	"ebbe.example/ebbe/internal/core/kinds"
	"ebbe.example/ebbe/internal/core/schedule"
	"ebbe.example/ebbe/internal/core/sorting"
	"ebbe.example/ebbe/internal/core/thread"
	"ebbe.example/ebbe/internal/gate"
	"ebbe.example/ebbe/internal/say"
	"ebbe.example/ebbe/internal/store"
	"ebbe.example/ebbe/internal/work"
)

// brought is what a round has brought.
type brought struct{ letters, returns, reminders int }

func (b brought) String() string {
	out := say.Count(b.letters, "letter")
	if b.returns > 0 {
		out += ", " + say.Count(b.returns, "return")
	}
	if b.reminders > 0 {
		out += ", " + say.Count(b.reminders, "reminder")
	}
	return out
}

// round lets in what was received up to now at the accounts that it reaches,
// and brings what waits for a delivery.
func (s *step) round(g gate.Gates, reaches func(account int64) bool) (out brought, err error) {
	var accounts []int64
	for _, a := range g.Accounts {
		if reaches(a) {
			accounts = append(accounts, a)
		}
	}
	letters, err := s.Held(s.At, accounts)
	if err != nil {
		return out, err
	}
	out.letters = len(letters)
	s.Changed = s.Changed || len(letters) > 0 // also where a letter moves nothing
	var seated map[int64]bool
	// Where the many can't be let in together, they are one by one.
	if _, err := s.alone(func() (err error) {
		seated, err = s.seat(letters)
		return err
	}); err != nil {
		return out, err
	}
	addresses, err := s.addresses()
	if err != nil {
		return out, err
	}
	own := ownKeys(addresses)
	for _, id := range letters {
		if seated[id] {
			continue
		}
		why, err := s.alone(func() error { return s.letInOne(id, own) })
		if err != nil {
			return out, err
		}
		if why != nil {
			out.letters--
			s.Leave(schedule.Event{Kind: schedule.LetIn, Owner: s.Who().Inbox, ID: id, Due: s.At}, why)
		}
	}
	s.Stale(atTheGate...)
	if !slices.Contains(accounts, 0) {
		return out, nil
	}
	returns, err := s.Awaiting()
	if err != nil {
		return out, err
	}
	reminders, err := s.RemindersWaiting()
	if err != nil {
		return out, err
	}
	for _, id := range returns {
		why, err := s.alone(func() error { return s.comeBack(id) })
		if err == nil && why != nil {
			err = s.AwaitNoMore(id) // it is an event of its own again, and is tried as such
		} else {
			out.returns++
		}
		if err != nil {
			return out, err
		}
	}
	for _, id := range reminders {
		why, err := s.alone(func() error { return s.ring(id) })
		if err == nil && why != nil {
			err = s.ReminderAwaitsNoMore(id)
		} else {
			out.reminders++
		}
		if err != nil {
			return out, err
		}
	}
	return out, nil
}

// alone carries out a part of a step that may fail without the rest: what it
// wrote is then taken back, and why says why. err is an error that concerns
// all of the step.
func (s *step) alone(part func() error) (why, err error) {
	changed, title, sorted := s.Changed, s.Title, s.sorted.clone()
	why = s.Attempt(part)
	if why == nil {
		return nil, nil
	}
	if store.Unavailable(why) != "" || errors.Is(why, context.Canceled) {
		return nil, why
	}
	s.Changed, s.Title, s.sorted = changed, title, sorted
	s.app.Log.Error("a part of a step failed; the rest goes on", "owner", s.Who().Inbox, "step", s.ID, "reason", why)
	return why, nil
}

// letInOne lets a held letter in by itself.
func (s *step) letInOne(id int64, own []string) error {
	st, err := s.reopen(id, own)
	if err != nil {
		return err
	}
	row, err := s.Letter(id)
	if err != nil {
		return err
	}
	if row.InAt.IsZero() {
		return s.letIn(st, s.At)
	}
	if err := s.LetArrivalsIn(id, s.At); err != nil { // another copy of what is in
		return err
	}
	accounts, err := s.ArrivalAccounts(id)
	for _, a := range accounts {
		err = errors.Join(err, s.noteAccount(row, a))
	}
	return err
}

// letInLate lets in a letter that a delivery had to leave.
func (s *step) letInLate(id int64) error {
	addresses, err := s.addresses()
	if err != nil {
		return err
	}
	s.Title = "A letter that a delivery had to leave was let in"
	s.Stale(atTheGate...)
	return s.letInOne(id, ownKeys(addresses))
}

// seat lets in all at once those of the letters that were prepared and begin
// or join one conversation. It tells which they are.
func (s *step) seat(letters []int64) (map[int64]bool, error) {
	ready, err := s.Ready(letters)
	if err != nil || len(ready) == 0 {
		return nil, err
	}
	ids, refs := make([]int64, len(ready)), make([][]string, len(ready))
	for i, w := range ready {
		ids[i], refs[i] = w.ID, w.IDs
	}
	homes, err := s.Homes(ids)
	if err != nil {
		return nil, err
	}
	seats := thread.Seats(refs, homes)
	seated, into := map[int64]bool{}, map[int64]int64{}
	for i, seat := range seats {
		seated[ids[i]] = !seat.Long
		if seat.Conversation != 0 {
			into[ids[i]] = seat.Conversation
		}
	}
	verdicts, err := s.sortAll(ids, into)
	if err != nil {
		return nil, err
	}
	sorts := make(map[int64]store.Sorted, len(verdicts))
	for _, id := range ids {
		if sorts[id], err = s.sortedIn(verdicts[id]); err != nil {
			return nil, err
		}
	}
	var begin []store.Seat
	for i, seat := range seats {
		if seat.Begins(i) {
			begin = append(begin, store.Seat{Letter: ids[i], Sort: sorts[ids[i]]})
		}
	}
	begun, err := s.Begin(begin, s.At)
	if err != nil {
		return nil, err
	}
	begunBy := make(map[int64]int64, len(begun))
	for _, b := range begun {
		begunBy[b.Letter] = b.Conversation
	}
	if err := s.arrived(begun); err != nil {
		return nil, err
	}
	s.Work.At("round.midway")
	var join []store.Seat
	for i, seat := range seats {
		to := seat.Conversation
		if to == 0 {
			to = begunBy[ids[seat.With]]
		}
		if !seat.Long && !seat.Begins(i) {
			join = append(join, store.Seat{Letter: ids[i], Conversation: to, Sort: sorts[ids[i]]})
		}
	}
	joined, err := s.JoinAll(join, s.At)
	if err != nil {
		return nil, err
	}
	return seated, s.arrived(joined)
}

// arrived lets letters do in their conversations what an arrival does.
func (s *step) arrived(letters []store.Placed) error {
	var order []int64
	came := map[int64][]decide.Came{}
	for _, l := range letters {
		if _, ok := came[l.Conversation]; !ok {
			order = append(order, l.Conversation)
		}
		came[l.Conversation] = append(came[l.Conversation], decide.Came{At: s.At, Automatic: l.Automatic, From: l.From.Display(), Sorted: l.Sorted, Refused: decide.RefusedTo(l.Kind)})
		s.Touch(decide.Conversation.Of(l.Conversation))
	}
	states, err := s.States(order)
	if err != nil {
		return err
	}
	for _, id := range order { // of a quiet conversation it matters to whom they are
		if !states[id].Quiet {
			continue
		}
		if err := s.toWhom(came[id], letters, id); err != nil {
			return err
		}
	}
	var changes change.List
	for _, id := range order {
		changes = append(changes, decide.Arrive(states[id], came[id]...)...)
	}
	if err := s.Change(changes); err != nil {
		return err
	}
	kinds := make(map[int64]sorting.Kind, len(letters))
	for _, l := range letters {
		kinds[l.Letter] = l.Kind
	}
	if err := s.countTaken(kinds); err != nil {
		return err
	}
	return s.actOn(slices.DeleteFunc(letters, func(l store.Placed) bool { return l.Kind.Refused() }))
}

// toWhom fills in which of the letters that came to a conversation are to its
// owner alone.
func (s *step) toWhom(came []decide.Came, letters []store.Placed, conversation int64) error {
	addresses, err := s.addresses()
	if err != nil {
		return err
	}
	i := 0
	for _, l := range letters {
		if l.Conversation != conversation {
			continue
		}
		row, err := s.Letter(l.Letter)
		if err != nil {
			return err
		}
		came[i].Alone = alone(row, addresses)
		i++
	}
	return nil
}

// roundKinds are the steps that let in what was held.
var roundKinds = []string{"delivery", "let-in", "let-in-early"}

// holdAgain undoes a round: letters on which nobody has worked since wait
// outside again, and the conversations that they joined are as they were. It
// gives the conversations that changed, how many letters are held again, and what
// those are about that stay.
func (s *step) holdAgain(e store.Entry, recorded []change.Recorded) (moved []int64, held int, stay []string, err error) {
	takeBack := func(which func(change.Recorded) bool) ([]change.Recorded, error) {
		var list []change.Recorded
		for _, r := range recorded {
			if which(r) {
				list = append(list, r)
			}
		}
		undo, _, _, err := s.Invert(list)
		if err != nil {
			return nil, err
		}
		return undo, s.TakeBack(undo)
	}
	// First of all the hold that it ended, or the opening that it made.
	if _, err := takeBack(func(r change.Recorded) bool { return r.Kind == kinds.Hold.Kind }); err != nil {
		return nil, 0, nil, err
	}
	g, err := gate.Of(s.Tx)
	if err != nil {
		return nil, 0, nil, err
	}
	open := []int64{}
	for _, a := range g.Accounts {
		if g.State(a, s.At).Open {
			open = append(open, a)
		}
	}
	if len(open) == len(g.Accounts) {
		return nil, 0, nil, work.Refuse("Delivery is open: what is held now would come at once. Hold it first.")
	}
	calm, err := s.Calm(e.ID, e.At, open)
	if err != nil {
		return nil, 0, nil, err
	}
	begun := map[int64]bool{} // by conversation
	for _, c := range calm {
		if _, ok := begun[c.Conversation]; !ok {
			moved = append(moved, c.Conversation)
		}
		begun[c.Conversation] = c.Begun
	}
	s.Changed = true
	for _, c := range moved {
		s.Touch(decide.Conversation.Of(c))
	}
	s.Stale(atTheGate...)
	undone, err := takeBack(func(r change.Recorded) bool {
		_, ok := begun[r.ID]
		return r.Kind == decide.Conversation.Kind && ok
	})
	if err != nil {
		return nil, 0, nil, err
	}
	if err := s.HoldAgain(calm); err != nil {
		return nil, 0, nil, err
	}
	if err := s.freeStranded(undone); err != nil {
		return nil, 0, nil, err
	}
	if err := s.SettleSorted(e.ID, s.ID); err != nil {
		return nil, 0, nil, err
	}
	stay, err = s.StillIn(e.At)
	return moved, len(calm), stay, err
}
