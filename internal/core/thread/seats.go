package thread

// Seat is where a letter of a round goes: into a conversation that is there
// already, or one that a letter of the round begins.
type Seat struct {
	// Conversation that it joins; 0 for one that is begun in the round.
	Conversation int64
	// With is the index of the letter that begins the conversation, which may be
	// the letter itself. It means something only where Conversation is 0.
	With int
	// Long tells that it has no seat: it links several conversations, or a
	// letter that does. It takes the long way.
	Long bool
}

// Seats works out where the letters of a round go by what they refer to. ids
// are each letter's own Message-ID and all that it refers to, in the order in
// which the letters come; homes are the conversations in which an id is known
// already.
func Seats(ids [][]string, homes map[string][]int64) []Seat {
	known := make(map[string]Seat, len(ids))
	out := make([]Seat, len(ids))
	for i, list := range ids {
		seat, found := Seat{With: i}, false
		take := func(s Seat) {
			if found && s != seat {
				seat = Seat{Long: true}
			} else {
				seat, found = s, true
			}
		}
		for _, id := range list {
			for _, c := range homes[id] {
				take(Seat{Conversation: c})
			}
			if s, ok := known[id]; ok {
				take(s)
			}
		}
		for _, id := range list {
			known[id] = seat
		}
		out[i] = seat
	}
	return out
}

// Begins tells whether the letter at an index with this seat begins a
// conversation.
func (s Seat) Begins(i int) bool { return s == Seat{With: i} }
