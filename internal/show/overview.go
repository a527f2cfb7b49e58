package show

import (
	"context"
	"slices"
	"time"

	"ebbe.example/ebbe/internal/core/backlog"
	"ebbe.example/ebbe/internal/core/decide"
	"ebbe.example/ebbe/internal/core/delivery"
	"ebbe.example/ebbe/internal/core/review"
	"ebbe.example/ebbe/internal/core/when"
	"ebbe.example/ebbe/internal/store"
)

// Overview is what every view shows: counts, the gate, the staff, what the
// next undo would take back.
type Overview struct {
	Now           time.Time          `json:"now"`
	Zone          string             `json:"zone"`
	Offsets       []when.Offset      `json:"offsets" doc:"How far the zone's clocks are from UTC, for the months about now"`
	Inbox         int                `json:"inbox"`
	Backlog       bool               `json:"backlog,omitempty" doc:"So many wait for a decision that a way through them is offered"`
	Shallows      int                `json:"shallows"`
	FollowUp      int                `json:"followUps"`
	Waiting       int                `json:"waiting"`
	Ahead         int                `json:"ahead"`
	Held          int                `json:"held"`
	Codes         bool               `json:"codes" doc:"A letter is held with which one signs in, and no entry lets such letters through"`
	Gate          GateView           `json:"gate"`
	Notifications []NotificationView `json:"notifications" doc:"What the page may tell of now"`
	Evening       time.Time          `json:"evening" doc:"When the evening of the person's day begins"`
	Count         bool               `json:"count" doc:"Show the inbox in the page’s title and icon"`
	Undo          string             `json:"undo" doc:"What the next undo takes back; empty for nothing"`
	Ringing       []FollowUp         `json:"ringing"`
	Alarms        []AppointmentView  `json:"alarms" doc:"Appointments whose reminder rang"`
	Outbox        []OutgoingView     `json:"outbox"`
	Drafts        int                `json:"drafts"`
	High          int                `json:"high" doc:"The most there was in the inbox today"`
	LowWater      *time.Time         `json:"lowWater,omitempty" doc:"The day's first zero"`
	Zeros         []time.Time        `json:"zeros"`
	Troubles      []StuckView        `json:"troubles" doc:"What could not happen, and is tried again"`
	// Confined tells that no outside mail service is connected.
	Confined bool `json:"confined" doc:"Letters reach only people of this Ebbe"`
}

// Overview gives what every view shows.
func (a *Show) Overview(ctx context.Context, who store.Who) (Overview, error) {
	return read(ctx, a, who, func(tx *store.Tx) (out Overview, err error) {
		v, err := a.Viewer(tx)
		if err != nil {
			return out, err
		}
		month := time.Date(v.Now.Year(), v.Now.Month(), 1, 0, 0, 0, 0, time.UTC)
		out = Overview{Now: v.Now, Evening: v.Cal.Instant(v.Cal.Today(v.Now), v.Cal.Evening), Zone: v.Cal.Zone.String(), Offsets: when.Offsets(v.Cal.Zone, month.AddDate(-1, 0, 0), month.AddDate(1, 1, 0)), Ringing: []FollowUp{}, Alarms: []AppointmentView{}, Outbox: []OutgoingView{}, Zeros: []time.Time{}, Confined: a.about.Confined()}
		for _, count := range []struct {
			into *int
			by   func() (int, error)
		}{
			{&out.Inbox, func() (int, error) { return tx.Undecided(decide.Inbox) }},
			{&out.Shallows, func() (int, error) { return tx.Undecided(decide.Shallows) }},
			{&out.FollowUp, tx.CountFollowUps}, {&out.Waiting, tx.CountWaiting}, {&out.Ahead, func() (int, error) { return tx.CountAhead(v.Now) }}, {&out.Held, func() (int, error) { return tx.CountHeld(nil) }},
		} {
			if *count.into, err = count.by(); err != nil {
				return out, err
			}
		}
		if out.Gate, err = v.gate(tx); err != nil {
			return out, err
		}
		out.Count = notifications(v.Person).Count
		if out.Notifications, err = v.notifications(tx, delivery.State{Cause: out.Gate.Cause}); err != nil {
			return out, err
		}
		if e, err := LastUndoable(tx, v.Now); err == nil {
			out.Undo = e.Title
		}
		ringing, err := tx.Ringing()
		if err != nil {
			return out, err
		}
		for _, f := range ringing {
			out.Ringing = append(out.Ringing, v.followUp(f))
		}
		alarms, err := tx.RangAppointments()
		if err != nil {
			return out, err
		}
		for _, one := range alarms {
			out.Alarms = append(out.Alarms, v.appointment(one))
		}
		outbox, err := tx.Outbox()
		if err != nil {
			return out, err
		}
		for _, o := range outbox {
			out.Outbox = append(out.Outbox, outgoingView(o))
		}
		drafts, err := tx.Drafts()
		if err != nil {
			return out, err
		}
		out.Drafts = len(drafts)
		out.Backlog = out.Inbox > backlog.Many
		tide, err := a.tide(tx, v, out.Inbox)
		out.High, out.Zeros = tide.High, OrEmpty(tide.Zeros)
		if len(tide.Zeros) > 0 {
			out.LowWater = &tide.Zeros[0]
		}
		if err != nil {
			return out, err
		}
		through, err := tx.Throughs(v.Now) // also to see that they can be read
		if err != nil {
			return out, err
		}
		if out.Held > 0 && !slices.ContainsFunc(through, func(t store.Through) bool { return t.Through.Kind == delivery.ByCode }) {
			if out.Codes, err = tx.HoldsCodes(); err != nil {
				return out, err
			}
		}
		out.Troubles, err = v.troubles(tx, a.about.Failing())
		return out, err
	})
}

func (a *Show) tide(tx *store.Tx, v Viewer, inbox int) (review.Tide, error) {
	start := dayStart(v.Cal, v.Now)
	minutes, err := tx.Tide(start, v.Now.Add(time.Millisecond))
	return review.TideOf(start, v.Now, inbox, minutes), err
}
