package find_test

import (
	"testing"
	"time"

	"github.com/stretchr/testify/assert"

	"ebbe.example/ebbe/internal/core/find"
	"ebbe.example/ebbe/internal/core/when"
)

// A filter comes to what is looked for and goes again, and what else was looked for stays as it was.
func TestFilters(t *testing.T) {
	now := time.Date(2026, 11, 24, 8, 20, 0, 0, time.UTC)
	cal := when.Calendar{Zone: time.UTC}
	for _, c := range []struct{ q, want string }{
		{"", "mark:unread"},
		{"mark:unread", ""},
		{"MARK:Unread", ""},
		{"crate", "crate mark:unread"},
		{"crate mark:unread from:bram", "crate from:bram"},
		{"mark:unread mark:starred", "mark:starred"},
		{"crate or mark:unread", "(crate or mark:unread) mark:unread"},
		{"-mark:unread", "-mark:unread mark:unread"},
		{"unread", "unread mark:unread"},
		{"after:\"last monday\"", "after:\"last monday\" mark:unread"},
	} {
		q := find.Read(c.q, now, cal).Query
		got := q.Toggled(find.Filters[0].Term)
		assert.Equal(t, c.want, got.String(), c.q)
		assert.NotEqual(t, q.Has(find.Filters[0].Term), got.Has(find.Filters[0].Term), c.q)
		again := find.Read(got.String(), now, cal).Query.Toggled(find.Filters[0].Term)
		assert.Len(t, again.String(), len(q.String()), "there and back: %s", c.q)
	}
}

// Each filter is a term that reads as itself, and its key is its own.
func TestFiltersCanBeTyped(t *testing.T) {
	keys := map[string]bool{}
	for _, f := range find.Filters {
		r := find.Read(f.Term.String(), time.Date(2026, 11, 24, 8, 20, 0, 0, time.UTC), when.Calendar{Zone: time.UTC})
		assert.Empty(t, r.Problems)
		assert.True(t, r.Query.Has(f.Term), f.Says)
		assert.False(t, keys[f.Key])
		keys[f.Key] = true
	}
}
