package store

import (
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"ebbe.example/ebbe/internal/core/letter"
)

// morning is when the stories of these tests begin.
var morning = time.Date(2026, 11, 24, 8, 0, 0, 0, time.UTC)

// writes does something within one transaction of somebody's.
func writes(t *testing.T, s *Store, who Who, do func(tx *Tx)) {
	t.Helper()
	require.NoError(t, s.Write(t.Context(), who, func(tx *Tx) error {
		do(tx)
		return nil
	}))
}

// another is somebody else with an inbox of their own.
func another(t *testing.T, s *Store) Who {
	t.Helper()
	who, err := s.AddPerson(t.Context(), Person{Name: "Tove", SignIn: "tove", Zone: "Europe/Oslo"}, []Account{{Address: "tove@n.example"}}, morning)
	require.NoError(t, err)
	return who
}

// Whoever is written to most is completed first, then whoever writes most; a name once known
// stays, and one's own addresses are not offered.
func TestKnownPeople(t *testing.T) {
	s, who := open(t)
	writes(t, s, who, func(tx *Tx) {
		meet := func(name, email string, sent bool, days int) {
			tx.Meet([]letter.Address{{Name: name, Email: email}}, sent, morning.AddDate(0, 0, days))
		}
		meet("Bram Oosterhuis", "bram@freight.example", true, 0)
		meet("", "Bram@Freight.example", false, 1) // the same, without a name
		for day := range 3 {
			meet("Brit Aas", "brit@x.example", false, day)
		}
		meet("Abram", "abram@x.example", false, 5)
		meet("100% wool", "shop@wool.example", false, 5)
		meet("Ines", "ines@n.example", true, 6) // a note to herself
	})
	writes(t, s, who, func(tx *Tx) {
		names := func(typed string) (out []string) {
			found, err := tx.Knows(typed, 10)
			require.NoError(t, err)
			for _, p := range found {
				out = append(out, p.Name)
			}
			return out
		}
		assert.Equal(t, []string{"Bram Oosterhuis", "Brit Aas"}, names("br"))
		assert.Equal(t, []string{"Bram Oosterhuis"}, names("oost"), "by any word of the name")
		assert.Equal(t, []string{"100% wool"}, names("100%"), "signs stand for themselves")
		assert.Empty(t, names("%"))
		assert.Empty(t, names("ines"))
		few, err := tx.Knows("", 2)
		require.NoError(t, err)
		assert.Len(t, few, 2)

		known, err := tx.NamesOf([]string{"bram@freight.example", "nobody@x.example"})
		require.NoError(t, err)
		assert.Equal(t, map[string]string{"bram@freight.example": "Bram Oosterhuis"}, known)
		domains, err := tx.KnownDomains()
		require.NoError(t, err)
		assert.ElementsMatch(t, []string{"freight.example", "x.example", "wool.example", "n.example"}, domains)
		for email, want := range map[string]bool{"bram@freight.example": true, "brit@x.example": false, "nobody@x.example": false} {
			written, err := tx.WrittenTo(email)
			require.NoError(t, err)
			assert.Equal(t, want, written, email)
		}
	})
	writes(t, s, another(t, s), func(tx *Tx) {
		found, err := tx.Knows("br", 10)
		require.NoError(t, err)
		assert.Empty(t, found, "whom one knows is one's own")
		written, err := tx.WrittenTo("bram@freight.example")
		require.NoError(t, err)
		assert.False(t, written)
	})
}

// An address to send as is the person's own from then on, and nobody else's.
func TestAnAddressIsClaimedOnce(t *testing.T) {
	s, who := open(t)
	tove := another(t, s)
	shared := letter.Address{Name: "Garden", Email: "Garden@N.example"}
	writes(t, s, who, func(tx *Tx) {
		accounts, err := tx.Accounts()
		require.NoError(t, err)
		require.NoError(t, tx.ClaimAddress(shared, accounts[0].ID))
		require.NoError(t, tx.ClaimAddress(shared, accounts[0].ID))
		taken, err := tx.AddressTaken("garden@n.example")
		require.NoError(t, err)
		assert.False(t, taken, "it is her own")
	})
	box, err := s.MailboxOf(t.Context(), "GARDEN@n.example")
	require.NoError(t, err)
	assert.Equal(t, []int64{who.Inbox}, box.Owners)
	writes(t, s, tove, func(tx *Tx) {
		taken, err := tx.AddressTaken("garden@n.example")
		require.NoError(t, err)
		assert.True(t, taken)
		own, err := tx.OwnAddresses()
		require.NoError(t, err)
		assert.NotContains(t, own, "garden@n.example")
	})
}
