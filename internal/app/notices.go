package app

import (
	"context"
	"encoding/json"
	"strconv"
	"time"

	"ebbe.example/ebbe/internal/core/change"
	"ebbe.example/ebbe/internal/core/delivery"
	"ebbe.example/ebbe/internal/core/when"
	"ebbe.example/ebbe/internal/store"
)

// Notices say what may interrupt: quiet unless the person says otherwise.
type Notices struct {
	Through   delivery.Notice `json:"through"`
	Reminders delivery.Notice `json:"reminders"`
	Rounds    delivery.Notice `json:"rounds"`
	// Count shows the inbox in the page's title and icon.
	Count bool `json:"count"`
}

func notices(p store.Person) (n Notices) {
	if p.Notices != "" {
		_ = json.Unmarshal([]byte(p.Notices), &n) // what can't be read is quiet
	}
	return n
}

// SetNotices changes what may interrupt.
func (a *App) SetNotices(ctx context.Context, owner int64, command string, n Notices) (Decided, error) {
	cmd := Command{ID: command, Owner: owner, Actor: ByPerson, Kind: "notices", Title: "Notifications changed"}
	return run(ctx, a, cmd, func(s *step) (Decided, error) {
		p, err := s.Person()
		if err != nil {
			return Decided{}, err
		}
		value, err := json.Marshal(n)
		if err != nil {
			return Decided{}, err
		}
		var changes change.List
		changes.Set(p.Object(), "notices", p.Notices, string(value))
		return Decided{Entry: s.id, Title: s.title}, s.apply(changes)
	})
}

// NoticeView is something that the page may tell the person of, once.
type NoticeView struct {
	Key     string `json:"key" doc:"Names it for good"`
	Title   string `json:"title"`
	Text    string `json:"text"`
	Browser bool   `json:"browser"`
	Sound   bool   `json:"sound"`
	// Conversation is what it leads to; 0 for the inbox.
	Conversation int64 `json:"conversation,omitempty"`
	FollowUp     int64 `json:"followUp,omitempty"`
}

// lately is how long a notice is worth giving.
const lately = 10 * time.Minute

// notices lists what the page may tell of now. Quiet hours keep back all but
// what comes with a precise minute or was let through.
func (v viewer) notices(tx *store.Tx, state delivery.State, through []store.LetThrough) ([]NoticeView, error) {
	n, out := notices(v.person), []NoticeView{}
	add := func(may delivery.Notice, x NoticeView) {
		if may.Browser || may.Sound {
			x.Browser, x.Sound = may.Browser, may.Sound
			out = append(out, x)
		}
	}
	for _, t := range through {
		if v.now.Sub(t.At) < lately {
			add(n.Through.In(state, true), NoticeView{Key: "through:" + strconv.FormatInt(t.Letter, 10), Title: t.From, Text: t.Subject + " (let through: " + t.By + ")", Conversation: t.Conversation})
		}
	}
	ringing, err := tx.Ringing()
	if err != nil {
		return nil, err
	}
	for _, f := range ringing {
		for _, r := range f.Reminders {
			if r.State == "rang" && v.now.Sub(r.Moment.UTC) < lately {
				add(n.Reminders.In(state, r.Moment.Precision == when.ToMinute), NoticeView{Key: "reminder:" + strconv.FormatInt(r.ID, 10) + ":" + strconv.FormatInt(r.Moment.UTC.Unix(), 10), Title: "Reminder", Text: f.Title, FollowUp: f.ID})
			}
		}
	}
	last, err := tx.LastOf("delivery", v.now.Add(-lately))
	if err == nil && last.ID != 0 {
		add(n.Rounds.In(state, false), NoticeView{Key: "round:" + strconv.FormatInt(last.ID, 10), Title: "Delivery", Text: last.Title})
	}
	return out, err
}
