package show

import (
	"encoding/json"
	"fmt"
	"strconv"

	"ebbe.example/ebbe/internal/core/delivery"
	"ebbe.example/ebbe/internal/store"
)

// Notifications say what may interrupt: quiet unless the person says otherwise.
type Notifications struct {
	Through   delivery.Notification `json:"through"`
	Reminders delivery.Notification `json:"reminders"`
	Rounds    delivery.Notification `json:"rounds"`
	// Mentions are of letters that name the person.
	Mentions delivery.Notification `json:"mentions"`
	// Count shows the inbox in the page's title and icon.
	Count bool `json:"count"`
}

func notifications(p store.Person) (n Notifications) {
	if p.Notifications != "" {
		_ = json.Unmarshal([]byte(p.Notifications), &n) // what can't be read is quiet
	}
	return n
}

// NotificationView is something that the page may tell the person of, once.
type NotificationView struct {
	Key     string `json:"key" doc:"Names it for good"`
	Title   string `json:"title"`
	Text    string `json:"text"`
	Browser bool   `json:"browser"`
	Sound   bool   `json:"sound"`
	Count   bool   `json:"count"`
	// Conversation is what it leads to; 0 for the inbox.
	Conversation int64 `json:"conversation,omitempty"`
	FollowUp     int64 `json:"followUp,omitempty"`
}

// notices lists what the page may tell of now. Quiet hours keep back all but
// what comes with a precise minute or was let through.
func (v Viewer) notifications(tx *store.Tx, state delivery.State) ([]NotificationView, error) {
	n, out := notifications(v.Person), []NotificationView{}
	since := v.Now.Add(-delivery.NotificationFor)
	add := func(may delivery.Notification, x NotificationView) {
		x.Browser, x.Sound, x.Count = may.Browser, may.Sound, may.Count
		out = append(out, x)
	}
	if may := n.Through.In(state, true); may.Any() {
		through, err := tx.LetThroughSince(since, mostNotices)
		if err != nil {
			return nil, err
		}
		for _, t := range through {
			add(may, NotificationView{Key: "through:" + strconv.FormatInt(t.Letter, 10), Title: t.From, Text: t.Subject + " (let through: " + t.By + ")", Conversation: t.Conversation})
		}
	}
	if may := n.Mentions.In(state, false); may.Any() {
		naming, err := tx.MentionsSince(since, mostNotices)
		if err != nil {
			return nil, err
		}
		for _, m := range naming {
			add(may, NotificationView{Key: "mention:" + strconv.FormatInt(m.Letter, 10), Title: m.From + " names you", Text: m.Subject, Conversation: m.Conversation})
		}
	}
	if n.Reminders.Any() {
		rang, err := tx.RangSince(since, mostNotices)
		if err != nil {
			return nil, err
		}
		for _, r := range rang {
			if may := n.Reminders.In(state, r.Precise); may.Any() {
				add(may, NotificationView{Key: fmt.Sprintf("reminder:%d:%d", r.ID, r.At.Unix()), Title: "Reminder", Text: r.Title, FollowUp: r.FollowUp})
			}
		}
	}
	if may := n.Rounds.In(state, false); may.Any() {
		last, err := tx.LastOf("delivery", since)
		if err != nil {
			return nil, err
		}
		if last.Undoable { // it brought something
			add(may, NotificationView{Key: "round:" + strconv.FormatInt(last.ID, 10), Title: "Delivery", Text: last.Title})
		}
	}
	return out, nil
}

// mostNotices bounds how many of a kind are told of at once.
const mostNotices = 20
