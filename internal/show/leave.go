package show

import (
	"time"

	"ebbe.example/ebbe/internal/core/letter"
	"ebbe.example/ebbe/internal/core/sorting"
	"ebbe.example/ebbe/internal/store"
)

// Way is how the list is left by which a letter came.
type Way struct {
	// By is how; "" where the letter says nothing of it. To is where that goes.
	By letter.LeavingBy `json:"by" enum:"click,letter,page"`
	To string           `json:"to"`
	// Asked is when it was asked, and Since how many letters have come; Late tells that they
	// come although it had its time.
	Asked *time.Time `json:"asked,omitempty"`
	Since int        `json:"since,omitempty"`
	Late  bool       `json:"late,omitempty" doc:"It goes on although it had its time"`
}

// WayOut is how a letter's list is left, as its traits tell of its signature.
func WayOut(leaving letter.Leaving, row store.Letter) Way {
	by, to := leaving.Way(row.Traits.Has(sorting.Signed))
	return Way{By: by, To: to}
}

// wayOut is how the list is left by which a conversation's newest letter came, and since when it
// is to be; nil where nothing says so.
func (v Viewer) wayOut(tx *store.Tx, l letter.Letter, row store.Letter) (*Way, error) {
	way := WayOut(l.Leaving, row)
	if way.By == "" {
		return nil, nil
	}
	list, err := tx.Corrections()
	for _, c := range list {
		if c.Kind == sorting.Left && c.Correction().Covers(l.From.Key(), row.ListID, true) {
			way.Asked, way.Since = &c.MadeAt.Time, c.Took
			way.Late = sorting.LateLeaving(c.MadeAt.Time, c.TookAt.Time, v.Now)
		}
	}
	return &way, err
}
