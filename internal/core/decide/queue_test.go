package decide

import (
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"pgregory.net/rapid"

	"ebbe.example/ebbe/internal/core/when"
)

func TestGroupOf(t *testing.T) {
	c := when.Standard(time.UTC)
	now := time.Date(2026, 11, 24, 8, 20, 0, 0, time.UTC)
	day := func(ago int) time.Time { return now.AddDate(0, 0, -ago) }
	for want, q := range map[Group]Queued{
		GroupBack:      {Back: &Back{Reason: BackTime}, QueueAt: day(0)},
		GroupNew:       {Back: &Back{Reason: BackNew}, QueueAt: day(3)},
		GroupRound:     {QueueAt: day(0), RoundAt: day(0)},
		GroupThrough:   {QueueAt: day(0), Through: true},
		GroupToday:     {QueueAt: day(0)},
		GroupYesterday: {QueueAt: day(1), RoundAt: day(1), Through: true},
		GroupBefore:    {QueueAt: day(2)},
	} {
		assert.Equal(t, want, GroupOf(q, now, c))
	}
	assert.Equal(t, GroupYesterday, GroupOf(Queued{QueueAt: now.Add(-5 * time.Hour)}, now, c), "before the day turned")
}

// What stands higher in the queue by its rank stands in a group of that rank.
func TestGroupsFollowTheRank(t *testing.T) {
	c := when.Standard(time.UTC)
	ranks := map[Group]int{GroupBack: 2, GroupNew: 1}
	rapid.Check(t, func(rt *rapid.T) {
		now := time.Unix(rapid.Int64Range(1e9, 2e9).Draw(rt, "now"), 0).UTC()
		q := Queued{
			QueueAt: now.Add(-time.Duration(rapid.IntRange(0, 100).Draw(rt, "hours")) * time.Hour), Through: rapid.Bool().Draw(rt, "through"),
		}
		if rapid.Bool().Draw(rt, "round") {
			q.RoundAt = q.QueueAt
		}
		if rapid.Bool().Draw(rt, "back") {
			q.Back = &Back{Reason: rapid.SampledFrom([]BackReason{BackTime, BackNew, BackAnswer, BackSpot, BackLook}).Draw(rt, "reason")}
		}
		if got := GroupOf(q, now, c); ranks[got] != q.Back.Rank() {
			rt.Fatalf("%s is of rank %d, not %d", got, ranks[got], q.Back.Rank())
		}
	})
}

func TestDaysLeft(t *testing.T) {
	now := time.Date(2026, 11, 24, 8, 20, 0, 0, time.UTC)
	assert.Equal(t, 30, DaysLeft(now, now))
	assert.Equal(t, 29, DaysLeft(now.AddDate(0, 0, -1), now))
	assert.Equal(t, 0, DaysLeft(now.AddDate(0, 0, -40), now))
}
