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
	By string `json:"by" enum:"click,letter,page"`
	To string `json:"to"`
	// Asked is when it was asked, and Since how many letters have come; Late tells that they
	// come although it had its time.
	Asked *time.Time `json:"asked,omitempty"`
	Since int        `json:"since,omitempty"`
	Late  bool       `json:"late,omitempty" doc:"It goes on although it had its time"`
}

// The ways.
const (
	ByOneClick = "click"
	ByLetter   = "letter"
	ByPage     = "page" // to be opened by hand
)

// WayOut is how a letter's list is left: by one click where a signature covers that, else by a
// letter, else on its page.
func WayOut(leave letter.Leaving, row store.Letter) Way {
	switch {
	case leave.OneClick != "" && row.Traits.Has(sorting.Signed):
		return Way{By: ByOneClick, To: leave.OneClick}
	case leave.Letter != nil:
		return Way{By: ByLetter, To: leave.Letter.To[0]}
	case leave.Page != "":
		return Way{By: ByPage, To: leave.Page}
	}
	return Way{}
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
			way.Late = lateLeaving(c, v.Now)
		}
	}
	return &way, err
}

// lateLeaving tells whether a list that was asked to be left has sent something after its time.
func lateLeaving(c store.Correction, now time.Time) bool {
	until := c.MadeAt.AddDate(0, 0, sorting.PatienceDays)
	return c.Kind == sorting.Left && c.TookAt.After(until) && now.After(until)
}
