package show

import (
	"context"
	"time"

	"ebbe.example/ebbe/internal/store"
)

// RangView is a reminder that rang.
type RangView struct {
	ID       int64     `json:"id"`
	FollowUp int64     `json:"followUp"`
	Title    string    `json:"title"`
	At       time.Time `json:"at" doc:"When it was due"`
	Words    string    `json:"words"`
	Seen     bool      `json:"seen"`
}

// Rang lists the reminders that rang, the latest first.
func (a *Show) Rang(ctx context.Context, who store.Who) ([]RangView, error) {
	return read(ctx, a, who, func(tx *store.Tx) ([]RangView, error) {
		v, err := a.Viewer(tx)
		if err != nil {
			return nil, err
		}
		list, err := tx.Rang(100)
		out := make([]RangView, len(list))
		for i, r := range list {
			out[i] = RangView{ID: r.ID, FollowUp: r.FollowUp, Title: r.Title, At: r.At, Words: v.short(r.At), Seen: r.State == "seen"}
		}
		return out, err
	})
}
