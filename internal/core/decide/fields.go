package decide

import "ebbe.example/ebbe/internal/core/change"

// Conversation are the fields of conversations.
var Conversation = change.Declare[struct {
	change.Kind
	Place        change.Field[Place]   `together:"place"`
	Return       change.Field[*Return] `together:"place"`
	Back         change.Field[*Back]   `together:"place"`
	PutOffs      change.Field[int]     `together:"place"`
	Decided      change.Field[int64]   `together:"place"` // the last letter seen when it was last decided
	Star         change.Field[bool]    `field:",personal"`
	Priority     change.Field[string]
	Redirect     change.Field[int64] // the conversation that its id leads to; 0 for none
	Apart        change.Field[int64] // what it is kept apart from; 0 for nothing
	Note         change.Field[string]
	Quiet        change.Field[bool]
	WorkingTitle change.Field[string]
	Labels       change.Family[bool] `field:"label:"`
}]("conversation")
