package gate_test

import (
	"path/filepath"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"ebbe.example/ebbe/internal/core/change"
	"ebbe.example/ebbe/internal/core/delivery"
	"ebbe.example/ebbe/internal/core/kinds"
	"ebbe.example/ebbe/internal/gate"
	"ebbe.example/ebbe/internal/store"
)

// Tuesday, a quarter to nine in Oslo.
var now = time.Date(2026, 11, 24, 7, 45, 0, 0, time.UTC)

type inbox struct {
	*testing.T
	*store.Store
	who      store.Who
	accounts []store.Account
}

func begin(t *testing.T) *inbox {
	t.Helper()
	s, err := store.Open(filepath.Join(t.TempDir(), "gate.db"))
	require.NoError(t, err)
	t.Cleanup(func() { require.NoError(t, s.Close()) })
	who, err := s.AddPerson(t.Context(), store.Person{Name: "Ines", SignIn: "ines", Zone: "Europe/Oslo"},
		[]store.Account{{Address: "ines@n.example"}, {Address: "ines@home.example"}}, now)
	require.NoError(t, err)
	i := &inbox{T: t, Store: s, who: who}
	require.NoError(t, s.Read(t.Context(), who, func(tx *store.Tx) error { i.accounts, err = tx.Accounts(); return err }))
	return i
}

// plan puts a plan in force: the common one, or that of an account.
func (i *inbox) plan(account int64, text string) {
	i.Helper()
	require.NoError(i, i.Write(i.Context(), i.who, func(tx *store.Tx) error {
		id := int64(0)
		if text != "" {
			plan, err := delivery.ReadPlan(text)
			require.NoError(i, err)
			if id, err = tx.AddPlan(plan, now); err != nil {
				return err
			}
		}
		var changes change.List
		if account == 0 {
			kinds.Person.PlanID.Set(&changes, i.who.Inbox, -9, id)
		} else {
			kinds.Account.PlanID.Set(&changes, account, -9, id)
		}
		entry, err := tx.AddEntry(store.Entry{CommandID: text + string(rune('0'+account)), Kind: "plan", Actor: "person", At: now, RecordedAt: now})
		if err != nil {
			return err
		}
		return tx.Apply(entry, now, changes)
	}))
}

func (i *inbox) gates() (g gate.Gates) {
	i.Helper()
	require.NoError(i, i.Read(i.Context(), i.who, func(tx *store.Tx) (err error) { g, err = gate.Of(tx); return err }))
	return g
}

// Accounts go by the common plan until they have their own; what is their own is no
// longer the common one's business.
func TestAccountsHavePlansOfTheirOwn(t *testing.T) {
	i := begin(t)
	work, home := i.accounts[0].ID, i.accounts[1].ID
	g := i.gates()
	assert.True(t, g.State(work, now).Open, "without a plan mail flows")
	assert.Nil(t, g.Under(0), "all accounts")
	assert.True(t, g.Next(now).IsZero())

	i.plan(0, "mon-fri 9:00, 13:00")
	g = i.gates()
	for _, account := range []int64{0, work, home} {
		assert.False(t, g.State(account, now).Open)
		assert.WithinDuration(t, now.Add(15*time.Minute), g.State(account, now).Next, 0)
	}

	i.plan(home, "mon-fri 18:00")
	g = i.gates()
	assert.WithinDuration(t, now.Add(15*time.Minute), g.State(work, now).Next, 0)
	assert.WithinDuration(t, now.Add(9*time.Hour+15*time.Minute), g.State(home, now).Next, 0)
	assert.Equal(t, []int64{0, work}, g.Under(0), "the common plan is that of the others")
	assert.Equal(t, []int64{home}, g.Under(home))
	assert.WithinDuration(t, now.Add(15*time.Minute), g.Next(now), 0, "the first of any")

	i.plan(home, "")
	g = i.gates()
	assert.True(t, g.State(home, now).Open, "an account whose mail flows, beside those whose mail waits")
	assert.False(t, g.State(work, now).Open)
}

// A hold by hand is stronger than the plan, for the account that it is meant for; an
// opening lets in.
func TestHoldsByHand(t *testing.T) {
	i := begin(t)
	home := i.accounts[1].ID
	hold := func(h store.Hold) {
		require.NoError(t, i.Write(t.Context(), i.who, func(tx *store.Tx) error {
			id, err := tx.AddHold(h)
			if err != nil {
				return err
			}
			entry, err := tx.AddEntry(store.Entry{CommandID: h.From.String(), Kind: "hold", Actor: "person", At: h.From, RecordedAt: h.From})
			if err != nil {
				return err
			}
			var changes change.List
			kinds.Hold.Alive.Set(&changes, id, false, true)
			return tx.Apply(entry, h.From, changes)
		}))
	}
	hold(store.Hold{Account: home, From: now})
	g := i.gates()
	assert.False(t, g.State(home, now.Add(time.Minute)).Open)
	assert.True(t, g.State(i.accounts[0].ID, now.Add(time.Minute)).Open)

	i.plan(0, "mon-fri 13:00")
	hold(store.Hold{From: now.Add(2 * time.Minute), Opens: true})
	g = i.gates()
	assert.True(t, g.State(i.accounts[0].ID, now.Add(3*time.Minute)).Open, "let in by hand, against the plan")
	require.Len(t, g.Holds, 2)
	assert.True(t, g.Holds[0].Opens, "the latest first")
}

func TestAnAccountThatIsNotThere(t *testing.T) {
	i := begin(t)
	require.NoError(t, i.Read(t.Context(), i.who, func(tx *store.Tx) error {
		_, err := gate.For(tx, 4711)
		assert.ErrorIs(t, err, gate.ErrNoAccount)
		_, err = gate.For(tx, i.accounts[0].ID)
		assert.NoError(t, err)
		return nil
	}))
}

// The deliveries of a day are those that came and those that are planned.
func TestRoundsOfADay(t *testing.T) {
	i := begin(t)
	i.plan(0, "mon-fri 9:00, 13:00, 16:30")
	require.NoError(t, i.Write(t.Context(), i.who, func(tx *store.Tx) error {
		_, err := tx.AddEntry(store.Entry{CommandID: "round", Kind: "delivery", Actor: "clock", At: now.Add(-time.Hour), RecordedAt: now})
		return err
	}))
	g := i.gates()
	require.NoError(t, i.Read(t.Context(), i.who, func(tx *store.Tx) error {
		rounds, err := g.Rounds(tx, now.Add(-2*time.Hour), now, now.Add(6*time.Hour))
		require.NoError(t, err)
		for n, want := range []time.Time{now.Add(-time.Hour), now.Add(15 * time.Minute), now.Add(4*time.Hour + 15*time.Minute)} {
			assert.WithinDuration(t, want, rounds[n], 0)
		}
		assert.Len(t, rounds, 3)
		return nil
	}))
}
