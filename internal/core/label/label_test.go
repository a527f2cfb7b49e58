package label_test

import (
	"slices"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"ebbe.example/ebbe/internal/core/label"
)

func TestClean(t *testing.T) {
	for typed, want := range map[string]string{
		"loans": "loans", "  to   read ": "to read", "loans / 2025": "loans/2025", "/loans//2025/": "loans/2025", " / ": "", "": "", "Ærø/קיץ": "Ærø/קיץ",
	} {
		assert.Equal(t, want, label.Clean(typed), typed)
	}
}

func TestRename(t *testing.T) {
	all := []string{"loans", "loans/2025", "loans/2025/spring", "loansome", "seeds"}
	for _, c := range []struct {
		from, to string
		want     []label.Move
	}{
		{"loans", "lent", []label.Move{{"loans", "lent"}, {"loans/2025", "lent/2025"}, {"loans/2025/spring", "lent/2025/spring"}}},
		{"loans/2025", "seeds", []label.Move{{"loans/2025", "seeds"}, {"loans/2025/spring", "seeds/spring"}}},
		{"loans", "loans/old", []label.Move{{"loans", "loans/old"}, {"loans/2025", "loans/old/2025"}, {"loans/2025/spring", "loans/old/2025/spring"}}},
		{"loans", "loans", nil},
		{"gone", "lent", nil},
	} {
		moves, err := label.Rename(all, c.from, c.to)
		require.NoError(t, err)
		assert.Equal(t, c.want, moves, "%s to %s", c.from, c.to)
	}
	_, err := label.Rename(all, "loans", strings.Repeat("x", 50))
	assert.ErrorContains(t, err, "too long")
}

func TestMeant(t *testing.T) {
	moves := []label.Move{{"loans", "lent"}, {"Seeds", "sown"}, {"seeds", "planted"}}
	for name, want := range map[string]string{"loans": "lent", " Loans ": "lent", "seeds": "planted", "SEEDS": "sown", "loan": "loan", "": ""} {
		assert.Equal(t, want, label.Meant(moves, name), name)
	}
}

// What is nested in a label stays so wherever the label goes, and what is not stays as it is.
func TestRenamingKeepsWhatIsNested(t *testing.T) {
	names := rapid.Custom(func(t *rapid.T) string {
		return strings.Join(rapid.SliceOfN(rapid.SampledFrom([]string{"a", "b", "c"}), 1, 4).Draw(t, "parts"), label.Between)
	})
	rapid.Check(t, func(t *rapid.T) {
		all := rapid.SliceOfDistinct(names, func(s string) string { return s }).Draw(t, "all")
		from, to := names.Draw(t, "from"), names.Draw(t, "to")
		moves, err := label.Rename(all, from, to)
		require.NoError(t, err)
		for _, name := range all {
			now := label.Renamed(moves, name)
			assert.Equal(t, now, label.Clean(now))
			if label.Under(name, from) {
				assert.True(t, label.Under(now, to))
				assert.Equal(t, label.Depth(name)-label.Depth(from), label.Depth(now)-label.Depth(to))
			} else {
				assert.Equal(t, name, now)
			}
		}
		assert.True(t, slices.IndexFunc(moves, func(m label.Move) bool { return m.From == m.To }) < 0)
	})
}
