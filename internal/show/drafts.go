package show

import (
	"context"
	"encoding/json"
	"time"

	"ebbe.example/ebbe/internal/store"
)

// DraftView is a draft as the page shows it.
type DraftView struct {
	ID           string    `json:"id"`
	Conversation int64     `json:"conversation,omitempty"`
	Writing      Writing   `json:"writing"`
	UpdatedAt    time.Time `json:"updatedAt"`
}

func draftView(d store.Draft) DraftView {
	out := DraftView{ID: d.ID, Conversation: d.Conversation, UpdatedAt: d.UpdatedAt}
	// A draft that can't be read back is shown empty rather than not at all.
	_ = json.Unmarshal(d.Value, &out.Writing)
	out.Writing.To = OrEmpty(out.Writing.To)
	return out
}

// Drafts lists the letters being written.
func (a *Show) Drafts(ctx context.Context, who store.Who) ([]DraftView, error) {
	return read(ctx, a, who, func(tx *store.Tx) ([]DraftView, error) {
		list, err := tx.Drafts()
		out := make([]DraftView, len(list))
		for i, d := range list {
			out[i] = draftView(d)
		}
		return out, err
	})
}
