package decide

import (
	"time"

	"ebbe.example/ebbe/internal/core/when"
)

// Queued is what decides where in the queue of the inbox a conversation stands.
type Queued struct {
	Back *Back
	// QueueAt is since when it stands in the queue, RoundAt the delivery that
	// brought it; zero for none. Through tells that it was let through a closed gate.
	QueueAt, RoundAt time.Time
	Through          bool
}

// Group is a part of the queue that stands together.
type Group string

// The groups, in the order of their ranks; those of one rank by time.
const (
	GroupBack      Group = "back"      // what came back
	GroupNew       Group = "new"       // new since it was decided
	GroupRound     Group = "round"     // brought by a delivery of today
	GroupThrough   Group = "through"   // let through today
	GroupToday     Group = "today"     // came today
	GroupYesterday Group = "yesterday" // carried over from yesterday
	GroupBefore    Group = "before"    // carried over
)

// GroupOf tells in which group of the queue a conversation stands.
func GroupOf(q Queued, now time.Time, c when.Calendar) Group {
	today, since := c.Today(now), c.Today(q.QueueAt)
	switch {
	case q.Back.Rank() == 1:
		return GroupNew
	case q.Back.Rank() > 1:
		return GroupBack
	case !q.RoundAt.IsZero() && c.Today(q.RoundAt) == today:
		return GroupRound
	case q.Through && since == today:
		return GroupThrough
	case since == today:
		return GroupToday
	case since.DaysUntil(today) == 1:
		return GroupYesterday
	}
	return GroupBefore
}

// DaysLeft is for how many days the bin still keeps what came into it at a time.
func DaysLeft(since, now time.Time) int {
	return max(0, BinDays-int(now.Sub(since).Hours()/24))
}
