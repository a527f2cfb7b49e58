package delivery

import "time"

// Notification says how something may be told of.
type Notification struct {
	Browser bool `json:"browser" doc:"A notification of the browser"`
	Sound   bool `json:"sound"`
	Count   bool `json:"count,omitempty" doc:"Counted in the page’s title and icon until it is looked at"`
}

// In is the notice as far as the state of the gate allows it: nothing in quiet
// hours but what comes at a precise minute, or was let through.
func (n Notification) In(s State, precise bool) Notification {
	if s.Cause == Quiet && !precise {
		return Notification{}
	}
	return n
}

// Any tells whether there is anything to give.
func (n Notification) Any() bool { return n.Browser || n.Sound || n.Count }

// NotificationFor is how long a notice is worth giving after what it tells of.
const NotificationFor = 10 * time.Minute
