package decide

import (
	"fmt"
	"slices"
	"strings"
)

// Kind is one of the decisions, or a move that undoes one by hand.
type Kind string

// The seven decisions of the deck, and the moves between other places.
const (
	Answer   Kind = "answer"
	Done     Kind = "done"
	PutOff   Kind = "later"
	FollowUp Kind = "follow-up"
	HandOn   Kind = "hand-on"
	File     Kind = "file"
	ToBin    Kind = "bin"
	ToJunk   Kind = "junk"
	ToInbox  Kind = "inbox" // fetch back, restore, not junk
)

// Needs is what a decision is made with, beside the letters that it is made on.
type Needs string

// What decisions need.
const (
	Nothing    Needs = "nothing"
	ALetter    Needs = "letter"    // one is written, and takes the decision along when it is sent
	ATime      Needs = "time"      // when they come back
	AFollowUp  Needs = "follow-up" // what is to be done
	SomeLabels Needs = "labels"    // under which they are kept
)

// About is what is to be known of a decision: the deck, the keys, what the API
// takes and what the Journal says go by it.
type About struct {
	Kind Kind
	// Name is what its key is called, and Hint what it does. Key is the one that it
	// has until a person changes it.
	Name, Hint, Key string
	// Did says what was done, before the names of the letters.
	Did string
	// To is where it sends a conversation.
	To    Place
	Needs Needs
	// Deck tells that it has a key of its own on the deck.
	Deck bool
}

// Kinds are all decisions; those of the deck first, in their order.
var Kinds = []About{
	{Kind: Answer, Name: "Answer", Key: "1", Did: "Answered", To: Archive, Needs: ALetter, Deck: true},
	{Kind: Done, Name: "Done", Hint: "to the archive", Key: "2", Did: "Done with", To: Archive, Needs: Nothing, Deck: true},
	{Kind: PutOff, Name: "Later", Hint: "pick a time", Key: "3", Did: "Put off", To: Later, Needs: ATime, Deck: true},
	{Kind: FollowUp, Name: "Follow up", Key: "4", Did: "Follow-up from", To: Archive, Needs: AFollowUp, Deck: true},
	{Kind: HandOn, Name: "Hand on", Hint: "and wait for them", Key: "5", Did: "Handed on", To: Archive, Needs: ALetter, Deck: true},
	{Kind: File, Name: "File", Hint: "under a label", Key: "6", Did: "Filed", To: Archive, Needs: SomeLabels, Deck: true},
	{Kind: ToBin, Name: "Bin", Hint: "kept for 30 days", Key: "7", Did: "Binned", To: Bin, Needs: Nothing, Deck: true},
	{Kind: ToInbox, Name: "Bring back to the inbox", Hint: "back to the inbox", Key: "b", Did: "Fetched back", To: Inbox, Needs: Nothing},
	{Kind: ToJunk, Name: "Junk, or not junk", Key: "m", Did: "Junked", To: Junk, Needs: Nothing},
}

// About is what is to be known of it; the zero About of what is no decision.
func (k Kind) About() About {
	if i := slices.IndexFunc(Kinds, func(a About) bool { return a.Kind == k }); i >= 0 {
		return Kinds[i]
	}
	return About{}
}

// Sends tells that it is made by a letter that is sent.
func (a About) Sends() bool { return a.Needs == ALetter }

// Tally says in words how many of which decisions were taken, in the order of the deck: “2 answered, 7
// done with, 1 put off”.
func Tally(of map[Kind]int) string {
	var parts []string
	for _, a := range Kinds {
		if n := of[a.Kind]; n > 0 {
			parts = append(parts, fmt.Sprintf("%d %s", n, strings.ToLower(a.Did)))
		}
	}
	return strings.Join(parts, ", ")
}
