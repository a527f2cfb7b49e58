package app

import (
	"log/slog"
	"path/filepath"
	"testing"
	"time"

	"github.com/jonboulle/clockwork"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"ebbe.example/ebbe/internal/core/decide"
	"ebbe.example/ebbe/internal/core/letter"
	"ebbe.example/ebbe/internal/store"
	"ebbe.example/ebbe/internal/work"
)

// Whoever has a step can take any action on it: what comes of several is one
// step of the Journal, undone as one; and what acts on arrival is a line.
func TestActionsAreTakenOnAStep(t *testing.T) {
	s, err := store.Open(filepath.Join(t.TempDir(), "ebbe.db"))
	require.NoError(t, err)
	defer func() { require.NoError(t, s.Close()) }()
	clock := clockwork.NewFakeClockAt(time.Date(2026, 11, 24, 8, 20, 0, 0, time.UTC))
	a := New(s, clock, slog.New(slog.DiscardHandler))
	who, err := s.AddPerson(t.Context(), store.Person{Name: "Ines", SignIn: "ines", Zone: "Europe/Oslo"}, []store.Account{{Address: "ines@norrholm.example"}}, clock.Now())
	require.NoError(t, err)

	usual := arrivals
	defer func() { arrivals = usual }()
	arrivals = append(arrivals, func(s *step, letters []store.Placed) error {
		for _, l := range letters {
			on := []store.Seen{{ID: l.Conversation, Last: l.Letter}}
			if _, err := s.mark(Marking{On: []int64{l.Conversation}, Mark: "label", Value: "freight"}); err != nil {
				return err
			}
			if _, err := s.flag(on, ""); err != nil {
				return err
			}
			if _, err := s.decide(Deciding{Kind: decide.PutOff, On: on, When: "fri 9:00"}); err != nil {
				return err
			}
		}
		return nil
	})
	raw := []byte("From: bram@freight.example\r\nTo: ines@norrholm.example\r\nSubject: Crates\r\nMessage-ID: <a@freight.example>\r\nDate: Tue, 24 Nov 2026 08:00:00 +0000\r\n\r\nHello.\r\n")
	require.NoError(t, a.Receive(t.Context(), Incoming{Inbox: who.Inbox, To: "ines@norrholm.example", Source: "smtp", Raw: raw, At: clock.Now()}))

	later, err := a.List(t.Context(), who, decide.Later, false, 0, "")
	require.NoError(t, err)
	require.Len(t, later.Rows, 1)
	row := later.Rows[0]
	assert.Equal(t, []string{"freight"}, row.Labels)
	require.Len(t, row.FollowUps, 1)

	on := []store.Seen{{ID: row.ID, Last: row.Last, Version: &row.Version}}
	cmd := work.Command{ID: "several-at-once", Who: who, Actor: work.ByPerson, Kind: "routine", Title: "Filed away"}
	_, err = run(t.Context(), a, cmd, func(s *step) (bool, error) {
		if _, err := s.decide(Deciding{Kind: decide.File, On: on, Labels: []string{"2026"}}); err != nil {
			return false, err
		}
		_, err := s.track(FollowUpFields{Title: new("Ask for the bill")}, on...)
		return true, err
	})
	require.NoError(t, err)
	undone, err := a.Undo(t.Context(), who, "and-back-again", 0, true)
	require.NoError(t, err)
	assert.Empty(t, undone.Left)
	later, err = a.List(t.Context(), who, decide.Later, false, 0, "")
	require.NoError(t, err)
	assert.Equal(t, []string{"freight"}, later.Rows[0].Labels)
	assert.Len(t, later.Rows[0].FollowUps, 1)
	assert.Equal(t, letter.Address{Email: "bram@freight.example"}, later.Rows[0].From)
}
