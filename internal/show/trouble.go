package show

import (
	"fmt"
	"slices"
	"time"

	"ebbe.example/ebbe/internal/core/schedule"
	"ebbe.example/ebbe/internal/say"
	"ebbe.example/ebbe/internal/store"
	"ebbe.example/ebbe/internal/work"
)

// StuckView is something that could not happen, as its owner sees it.
type StuckView struct {
	ID     int64      `json:"id,omitempty" doc:"To try it again by; 0 for what can only be shown"`
	Title  string     `json:"title" doc:"What did not happen"`
	Reason string     `json:"reason"`
	Since  *time.Time `json:"since,omitempty"`
	Again  string     `json:"again" doc:"When it is tried again, in words; empty if it is not"`
	// Draft is the letter that nobody got, given back to its writer.
	Draft string `json:"draft,omitempty"`
}

// eventsOf are the rows of which events are made, as lists call them.
var eventsOf = map[schedule.Kind]string{schedule.Limit: "waiting", schedule.Send: "letter of the outbox"}

// troubles are what is stuck, and what lists had to go on without.
func (v Viewer) troubles(tx *store.Tx, dues work.Dues) ([]StuckView, error) {
	stuck, err := tx.Stuck()
	if err != nil {
		return nil, err
	}
	unsent, err := tx.GivenBack()
	if err != nil {
		return nil, err
	}
	out := []StuckView{}
	for _, s := range stuck {
		t := StuckView{ID: s.ID, Title: dues[s.Kind].Failed, Reason: s.Reason, Since: &s.Since, Again: "tried again " + v.short(s.AgainAt)}
		if s.Title != "" {
			t.Title += ": “" + say.Shorten(s.Title, 60) + "”"
		}
		out = append(out, t)
	}
	for _, o := range unsent {
		out = append(out, StuckView{Title: "Nobody got “" + say.Shorten(o.Subject, 60) + "”; it is a draft again", Reason: o.Trouble, Draft: o.Draft})
	}
	for _, u := range tx.PassedOver() {
		if slices.ContainsFunc(stuck, func(s store.Stuck) bool { return s.Object == u.ID && eventsOf[s.Kind] == u.What }) {
			continue // it is said already
		}
		out = append(out, StuckView{Title: fmt.Sprintf("A %s can’t be read; Ebbe goes on without it", u.What), Reason: work.ReasonOf(u.Reason)})
	}
	return out, nil
}
