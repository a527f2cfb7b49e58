package sorting

import (
	"encoding/json"
	"maps"
	"time"
)

// Up are the kinds that have come up by a round of theirs, with when. What lay in the Shallows by
// then stands above the inbox until it is cleared or passed over.
type Up map[Kind]time.Time

// ReadUp reads what String has written; of what can't be read nothing has come up.
func ReadUp(text string) Up {
	up := Up{}
	if text == "" || json.Unmarshal([]byte(text), &up) != nil {
		return Up{}
	}
	return up
}

// String writes it as JSON; "" where nothing has come up.
func (u Up) String() string {
	if len(u) == 0 {
		return ""
	}
	out, _ := json.Marshal(u) // times of this age can always be written
	return string(out)
}

// With adds kinds that come up at a moment. A round that was not cleared gives way to the next.
func (u Up) With(at time.Time, kinds ...Kind) Up {
	out := maps.Clone(u)
	for _, k := range kinds {
		out[k] = at.UTC()
	}
	return out
}

// Without passes a kind over.
func (u Up) Without(k Kind) Up {
	out := maps.Clone(u)
	delete(out, k)
	return out
}
