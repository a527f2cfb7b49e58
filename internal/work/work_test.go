package work_test

import (
	"context"
	"errors"
	"fmt"
	"log/slog"
	"path/filepath"
	"slices"
	"testing"
	"time"

	"github.com/jonboulle/clockwork"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"ebbe.example/ebbe/internal/core/change"
	"ebbe.example/ebbe/internal/core/kinds"
	"ebbe.example/ebbe/internal/core/schedule"
	"ebbe.example/ebbe/internal/core/when"
	"ebbe.example/ebbe/internal/store"
	"ebbe.example/ebbe/internal/work"
)

var began = time.Date(2026, 11, 24, 8, 0, 0, 0, time.UTC)

// bench is a kernel over an empty database of one person.
type bench struct {
	*testing.T
	*work.Work
	clock *clockwork.FakeClock
	who   store.Who
}

func begin(t *testing.T) *bench {
	t.Helper()
	s, err := store.Open(filepath.Join(t.TempDir(), "work.db"))
	require.NoError(t, err)
	t.Cleanup(func() { require.NoError(t, s.Close()) })
	who, err := s.AddPerson(t.Context(), store.Person{Name: "Ines", SignIn: "ines", Zone: "Europe/Oslo"}, []store.Account{{Address: "ines@n.example"}}, began)
	require.NoError(t, err)
	// The weekly look through someday letters is none of these tests' business.
	require.NoError(t, s.Write(t.Context(), who, func(tx *store.Tx) error { return tx.SetLook(began.AddDate(1, 0, 0)) }))
	clock := clockwork.NewFakeClockAt(began)
	return &bench{t, work.New(s, clock, slog.New(slog.DiscardHandler)), clock, who}
}

func (b *bench) command(id string) work.Command {
	return work.Command{ID: id, Who: b.who, Actor: work.ByPerson, Kind: "test", Title: "Tried"}
}

func (b *bench) read(fn func(tx *store.Tx)) {
	b.Helper()
	require.NoError(b, b.Store.Read(b.Context(), b.who, func(tx *store.Tx) error { fn(tx); return nil }))
}

// spot makes a spot as an action of a step.
func spot(s *work.Step, name string) (int64, error) {
	id, err := s.AddSpot(name)
	if err != nil {
		return 0, err
	}
	var changes change.List
	kinds.Spot.Alive.Set(&changes, id, false, true)
	return id, s.Change(changes)
}

func (b *bench) spots() (names []string) {
	b.read(func(tx *store.Tx) {
		list, err := tx.Spots()
		require.NoError(b, err)
		for _, s := range list {
			names = append(names, s.Name)
		}
	})
	return names
}

// The same command again gives the first answer and does nothing; one of the same
// id that is another is refused.
func TestACommandIsCarriedOutOnce(t *testing.T) {
	b := begin(t)
	times := 0
	make := func(id, kind string) (int64, error) {
		cmd := b.command(id)
		cmd.Kind = kind
		return work.Run(t.Context(), b.Work, cmd, func(s *work.Step) (int64, error) {
			times++
			return spot(s, fmt.Sprintf("place %d", times))
		})
	}
	first, err := make("one", "test")
	require.NoError(t, err)
	again, err := make("one", "test")
	require.NoError(t, err)
	assert.Equal(t, first, again)
	assert.Equal(t, 1, times)

	_, err = make("one", "something else")
	assert.ErrorContains(t, err, "used for something else")
	_, err = make("", "test")
	assert.ErrorContains(t, err, "no id")

	other, err := b.Store.AddPerson(t.Context(), store.Person{Name: "Tove", SignIn: "tove", Zone: "Europe/Oslo"}, []store.Account{{Address: "tove@n.example"}}, began)
	require.NoError(t, err)
	cmd := b.command("one")
	cmd.Who = other
	_, err = work.Run(t.Context(), b.Work, cmd, func(*work.Step) (int64, error) { return 0, nil })
	assert.ErrorIs(t, err, store.ErrForeign)
	assert.Equal(t, []string{"place 1"}, b.spots())
}

// A step that fails leaves nothing: no change, no entry, no news; its id can be
// used for another try.
func TestAStepThatFailsLeavesNothing(t *testing.T) {
	b := begin(t)
	news, stop := b.Listen(b.who)
	defer stop()
	fails := errors.New("no")
	_, err := work.Run(t.Context(), b.Work, b.command("one"), func(s *work.Step) (int64, error) {
		if _, err := spot(s, "home"); err != nil {
			return 0, err
		}
		return 0, fails
	})
	require.ErrorIs(t, err, fails)
	assert.Empty(t, b.spots())
	b.read(func(tx *store.Tx) {
		entries, err := tx.Entries(0, time.Time{}, nil, 10)
		require.NoError(t, err)
		assert.Empty(t, entries)
	})
	assert.Empty(t, news)

	_, err = work.Run(t.Context(), b.Work, b.command("one"), func(s *work.Step) (int64, error) { return spot(s, "home") })
	require.NoError(t, err)
	assert.Equal(t, []string{"home"}, b.spots())
	told := <-news
	assert.Equal(t, "one", told.Command)
	assert.NotEmpty(t, told.Stale)
}

// What was changed is taken back, and what was changed again since is not.
func TestAStepIsTakenBack(t *testing.T) {
	b := begin(t)
	var id, made int64
	_, err := work.Run(t.Context(), b.Work, b.command("one"), func(s *work.Step) (_ bool, err error) {
		made = s.ID
		id, err = spot(s, "home")
		return true, err
	})
	require.NoError(t, err)
	takeBack := func(command string) (undone, kept int) {
		_, err := work.Run(t.Context(), b.Work, b.command(command), func(s *work.Step) (bool, error) {
			recorded, err := s.Changes(made)
			if err != nil {
				return false, err
			}
			undo, left, gone, err := s.Invert(recorded)
			undone, kept = len(undo), len(left)
			assert.Empty(t, gone)
			return true, errors.Join(err, s.TakeBack(undo))
		})
		require.NoError(t, err)
		return undone, kept
	}
	undone, kept := takeBack("two")
	assert.Equal(t, []int{1, 0}, []int{undone, kept})
	assert.Empty(t, b.spots())

	_, err = work.Run(t.Context(), b.Work, b.command("three"), func(s *work.Step) (bool, error) {
		var changes change.List
		kinds.Spot.Alive.Set(&changes, id, false, true)
		return true, s.Change(changes)
	})
	require.NoError(t, err)
	undone, kept = takeBack("four")
	assert.Equal(t, []int{0, 1}, []int{undone, kept}, "it is another's doing by now")
	assert.Equal(t, []string{"home"}, b.spots())
}

// remind sets reminders of a follow-up, a minute apart.
func (b *bench) remind(n int) (ids []int64) {
	b.Helper()
	_, err := work.Run(b.Context(), b.Work, b.command("remind"), func(s *work.Step) (bool, error) {
		f, err := s.AddFollowUp(store.FollowUp{Title: "Water the ferns", Priority: "normal", Status: "open", MadeAt: s.At})
		if err != nil {
			return false, err
		}
		var changes change.List
		kinds.FollowUp.Alive.Set(&changes, f, false, true)
		for i := range n {
			at := began.Add(time.Duration(i+1) * time.Minute)
			id, err := s.AddReminder(f, when.Moment{UTC: at, Precision: when.ToMinute}, nil)
			if err != nil {
				return false, err
			}
			kinds.Reminder.Alive.Set(&changes, id, false, true)
			ids = append(ids, id)
		}
		return true, s.Change(changes)
	})
	require.NoError(b, err)
	return ids
}

// rings is what a reminder does when it falls due, but for those that fail.
func (b *bench) rings(fails map[int64]func() error) *[]int64 {
	var rang []int64
	b.Dues[schedule.Reminder] = work.Due{Field: kinds.Reminder.State.Named, Happen: func(s *work.Step, ev schedule.Event) error {
		if fail := fails[ev.ID]; fail != nil {
			if err := fail(); err != nil {
				return err
			}
		}
		rang = append(rang, ev.ID)
		var changes change.List
		kinds.Reminder.State.Set(&changes, ev.ID, "set", "rang")
		return s.Change(changes)
	}}
	return &rang
}

// What is due happens in its order, each at its own time and once; what is to come
// is told.
func TestWhatIsDueHappensOnce(t *testing.T) {
	b := begin(t)
	ids := b.remind(3)
	rang := b.rings(nil)
	next, err := b.RunDue(t.Context())
	require.NoError(t, err)
	assert.Equal(t, began.Add(time.Minute), next)
	assert.Empty(t, *rang)

	b.clock.Advance(2*time.Minute + 30*time.Second)
	for range 2 {
		next, err = b.RunDue(t.Context())
		require.NoError(t, err)
		assert.Equal(t, began.Add(3*time.Minute), next)
		assert.Equal(t, ids[:2], *rang)
	}
	b.read(func(tx *store.Tx) {
		entries, err := tx.Entries(0, time.Time{}, nil, 10)
		require.NoError(t, err)
		require.Len(t, entries, 3)
		assert.Equal(t, began.Add(2*time.Minute), entries[0].At, "as of when it was due, not of when it was looked at")
		assert.Equal(t, work.ByClock, entries[0].Actor)
		assert.Zero(t, entries[0].Person)
		assert.False(t, entries[0].Undoable)
	})
}

// One that fails, by an error or a panic, stops none of the others. It is tried
// again after pauses that grow, and is forgotten once it has happened.
func TestWhatFailsFailsAlone(t *testing.T) {
	b := begin(t)
	ids := b.remind(3)
	broken := true
	rang := b.rings(map[int64]func() error{
		ids[0]: func() error {
			if broken {
				return errors.New("the bell is broken")
			}
			return nil
		},
		ids[1]: func() error { panic("the bell fell down") },
	})
	stuck := func() (list []store.Stuck) {
		b.read(func(tx *store.Tx) {
			var err error
			list, err = tx.Stuck()
			require.NoError(t, err)
		})
		return list
	}
	b.clock.Advance(5 * time.Minute)
	next, err := b.RunDue(t.Context())
	require.NoError(t, err)
	assert.Equal(t, ids[2:], *rang)
	list := stuck()
	require.Len(t, list, 2)
	slices.SortFunc(list, func(x, y store.Stuck) int { return int(x.Object - y.Object) })
	assert.Equal(t, "the bell is broken", list[0].Reason)
	assert.Equal(t, "Water the ferns", list[0].Title)
	assert.Contains(t, list[1].Reason, "the bell fell down")
	assert.Equal(t, list[0].AgainAt, next)

	for tries := 2; tries < 5; tries++ {
		pause := list[0].AgainAt.Sub(b.Now())
		b.clock.Advance(pause)
		_, err = b.RunDue(t.Context())
		require.NoError(t, err)
		again := stuck()
		slices.SortFunc(again, func(x, y store.Stuck) int { return int(x.Object - y.Object) })
		assert.Equal(t, tries, again[0].Tries)
		assert.GreaterOrEqual(t, again[0].AgainAt.Sub(b.Now()), pause, "the pauses grow")
		assert.Equal(t, list[0].Since, again[0].Since, "it is stuck since it was first tried")
		list = again
	}

	broken = false
	require.NoError(t, b.Store.Write(t.Context(), b.who, func(tx *store.Tx) error { return tx.RetryStuck(list[0].ID, b.Now()) }))
	_, err = b.RunDue(t.Context())
	require.NoError(t, err)
	assert.Equal(t, append(ids[2:], ids[0]), *rang)
	assert.Len(t, stuck(), 1, "the other one still can't")
}

// An event that says that it has happened, and is due still, is not tried for ever.
func TestWhatDoesNothingIsStuck(t *testing.T) {
	b := begin(t)
	b.remind(1)
	tried := 0
	b.Dues[schedule.Reminder] = work.Due{Field: kinds.Reminder.State.Named, Happen: func(*work.Step, schedule.Event) error { tried++; return nil }}
	b.clock.Advance(time.Hour)
	_, err := b.RunDue(t.Context())
	require.NoError(t, err)
	assert.Equal(t, 1, tried)
	b.read(func(tx *store.Tx) {
		list, err := tx.Stuck()
		require.NoError(t, err)
		require.Len(t, list, 1)
		assert.Contains(t, list[0].Reason, "still due")
	})
}

// News goes to the pages of the inbox, and what is about one person to theirs only;
// a page that doesn't keep up is told that everything may have changed.
func TestNewsGoesToThoseItIsAbout(t *testing.T) {
	b := begin(t)
	mine, stopMine := b.Listen(b.who)
	theirs, stopTheirs := b.Listen(store.Who{Person: 99, Inbox: b.who.Inbox})
	defer stopTheirs()
	elsewhere, stopElsewhere := b.Listen(store.Own(77))
	defer stopElsewhere()

	b.Publish(b.who.Inbox, work.News{Stale: []work.Reading{work.ReadOverview}})
	b.Publish(b.who.Inbox, work.News{Stale: []work.Reading{work.ReadOverview}, Person: 99})
	assert.Len(t, mine, 1)
	assert.Len(t, theirs, 2)
	assert.Empty(t, elsewhere)

	for range 100 {
		b.Publish(b.who.Inbox, work.News{Stale: []work.Reading{work.ReadOverview}})
	}
	everything := false
	for len(mine) > 0 {
		told := <-mine
		everything = everything || told.Everything
	}
	assert.True(t, everything)

	stopMine()
	b.Publish(b.who.Inbox, work.News{Stale: []work.Reading{work.ReadOverview}})
	assert.Empty(t, mine)
}

// Whoever gives a command learns what it has made stale; where it was carried out
// before, that may be anything.
func TestWhoeverGivesACommandLearnsWhatIsStale(t *testing.T) {
	b := begin(t)
	run := func() *work.Made {
		ctx, made := work.Watch(t.Context())
		_, err := work.Run(ctx, b.Work, b.command("one"), func(s *work.Step) (int64, error) {
			s.Stale(work.ReadAccounts)
			return spot(s, "home")
		})
		require.NoError(t, err)
		return made
	}
	first := run()
	assert.False(t, first.Everything)
	assert.Contains(t, first.Stale, work.ReadAccounts)
	assert.True(t, run().Everything)
}

// The scheduler sleeps until the next due time, wakes with each change, and ends with
// its context.
func TestTheSchedulerRuns(t *testing.T) {
	b := begin(t)
	done := make(chan int64, 10)
	b.Dues[schedule.Reminder] = work.Due{Field: kinds.Reminder.State.Named, Happen: func(s *work.Step, ev schedule.Event) error {
		var changes change.List
		kinds.Reminder.State.Set(&changes, ev.ID, "set", "rang")
		done <- ev.ID
		return s.Change(changes)
	}}
	ctx, stop := context.WithCancel(t.Context())
	ended := make(chan struct{})
	go func() { b.Work.Run(ctx); close(ended) }()
	ids := b.remind(2)
	for _, id := range ids {
		require.NoError(t, b.clock.BlockUntilContext(t.Context(), 1))
		b.clock.Advance(time.Minute)
		select {
		case rang := <-done:
			assert.Equal(t, id, rang)
		case <-time.After(20 * time.Second):
			require.Fail(t, "it did not ring")
		}
	}
	stop()
	<-ended
}
