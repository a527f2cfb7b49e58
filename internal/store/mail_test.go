package store

import (
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"ebbe.example/ebbe/internal/core/change"
	"ebbe.example/ebbe/internal/core/kinds"
	"ebbe.example/ebbe/internal/core/sending"
)

// A draft is saved while it lives; one that is over is never woken by a late save.
func TestALateSaveWakesNothing(t *testing.T) {
	s, who := open(t)
	writes(t, s, who, func(tx *Tx) {
		save := func(id, value string, minute int) {
			require.NoError(t, tx.SaveDraft(Draft{ID: id, Kind: "new", Value: []byte(value), UpdatedAt: morning.Add(time.Duration(minute) * time.Minute)}))
		}
		save("a", `{"text":"one"}`, 0)
		save("b", `{"text":"two"}`, 1)
		save("a", `{"text":"one more"}`, 2)
		drafts, err := tx.Drafts()
		require.NoError(t, err)
		require.Len(t, drafts, 2)
		assert.Equal(t, []string{"a", "b"}, []string{drafts[0].ID, drafts[1].ID}, "the last touched first")
		assert.JSONEq(t, `{"text":"one more"}`, string(drafts[0].Value))
		assert.NotEqual(t, drafts[0].Number, drafts[1].Number)
		name, err := tx.DraftByNumber(drafts[1].Number)
		require.NoError(t, err)
		assert.Equal(t, "b", name)

		var changes change.List
		kinds.Draft.Alive.Set(&changes, drafts[0].Number, true, false)
		tx.step(t, changes)
		save("a", `{"text":"too late"}`, 3)
		over, err := tx.Draft("a")
		require.NoError(t, err)
		assert.False(t, over.Alive)
		assert.JSONEq(t, `{"text":"one more"}`, string(over.Value))
		drafts, err = tx.Drafts()
		require.NoError(t, err)
		assert.Len(t, drafts, 1)
	})
}

// The outbox holds what is to leave, the first first, and what could not; a letter is found by
// its Message-ID whatever became of it.
func TestTheOutbox(t *testing.T) {
	s, who := open(t)
	writes(t, s, who, func(tx *Tx) {
		accounts, err := tx.Accounts()
		require.NoError(t, err)
		add := func(id string, minute int, state sending.Stage, more func(*Outgoing)) int64 {
			o := Outgoing{AccountID: accounts[0].ID, MessageID: id + "@n.example", Draft: id, Recipients: []string{"a@b.example", "c@d.example"}, Subject: id, SendAt: morning.Add(time.Duration(minute) * time.Minute)}
			if more != nil {
				more(&o)
			}
			n, err := tx.AddOutgoing(o, Pack([]byte("letter "+id)), morning)
			require.NoError(t, err)
			var changes change.List
			kinds.Outbox.State.Set(&changes, n, sending.Unmade, state)
			if state != sending.Unmade {
				tx.step(t, changes)
			}
			return n
		}
		late := add("late", 30, sending.Waiting, func(o *Outgoing) { o.Later, o.Notify = true, true })
		soon := add("soon", 1, sending.Waiting, nil)
		add("sent", 0, sending.Sent, nil)
		failed := add("failed", 2, sending.Failed, nil)
		add("unmade", 0, sending.Unmade, nil)
		add("note", 3, sending.Sent, func(o *Outgoing) { o.AutoTo, o.AutoKind = "eva@x.example", "holding" })

		subjects := func() (out []string) {
			all, err := tx.Outbox()
			require.NoError(t, err)
			for _, o := range all {
				out = append(out, o.Subject)
			}
			return out
		}
		assert.Equal(t, []string{"soon", "failed", "late"}, subjects())
		require.NoError(t, tx.Retry(soon, morning.Add(time.Hour), "nobody answers"))
		assert.Equal(t, []string{"failed", "late", "soon"}, subjects())
		o, err := tx.Outgoing(soon)
		require.NoError(t, err)
		assert.Equal(t, []any{1, "nobody answers"}, []any{o.Tries, o.Trouble})
		o, err = tx.Outgoing(late)
		require.NoError(t, err)
		assert.Equal(t, []any{true, true, []string{"a@b.example", "c@d.example"}}, []any{o.Later, o.Notify, o.Recipients})
		raw, err := tx.OutgoingBytes(o)
		require.NoError(t, err)
		assert.Equal(t, "letter late", string(raw))

		outcomes := []sending.Outcome{{To: "a@b.example", State: sending.Accepted}, {To: "c@d.example", State: sending.Refused, Reason: "nobody of that name"}}
		require.NoError(t, tx.SetOutcomes(failed, outcomes))
		known, err := tx.Outcomes([]string{"failed@n.example", "sent@n.example", "unknown@n.example"})
		require.NoError(t, err)
		assert.Equal(t, outcomes, known["failed@n.example"])
		assert.Len(t, known, 2)
		o, err = tx.OutgoingByMessageID("sent@n.example")
		require.NoError(t, err)
		assert.Equal(t, "sent", o.Subject)
		_, err = tx.OutgoingByMessageID("")
		assert.ErrorIs(t, err, ErrNotFound)

		last, err := tx.LastAutoAnswer("eva@x.example")
		require.NoError(t, err)
		assert.Equal(t, morning.Add(3*time.Minute), last)
		last, err = tx.LastAutoAnswer("")
		require.NoError(t, err)
		assert.Zero(t, last, "what a person wrote answers nobody by itself")
		last, err = tx.LastSentOf("sent")
		require.NoError(t, err)
		assert.Equal(t, morning, last)
		last, err = tx.LastSentOf("soon")
		require.NoError(t, err)
		assert.Zero(t, last)

		require.NoError(t, tx.SaveDraft(Draft{ID: "failed", Kind: "new", Value: []byte("{}"), UpdatedAt: morning}))
		back, err := tx.GivenBack()
		require.NoError(t, err)
		require.Len(t, back, 1)
		assert.Equal(t, failed, back[0].ID)
	})
	writes(t, s, another(t, s), func(tx *Tx) {
		all, err := tx.Outbox()
		require.NoError(t, err)
		assert.Empty(t, all)
		_, err = tx.OutgoingByMessageID("sent@n.example")
		assert.ErrorIs(t, err, ErrNotFound)
	})
}
