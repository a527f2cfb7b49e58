// By hand: a value goes into thousands of rows at once, which one JSON list names.

package store

import (
	"encoding/json"

	"ebbe.example/ebbe/internal/core/decide"
	"ebbe.example/ebbe/internal/core/followup"
	"ebbe.example/ebbe/internal/core/when"
)

// planField puts a plan in force, and keeps since when.
func planField(w setting) error {
	if err := w.set("plan_id = json_extract(?1, '$')"); err != nil {
		return err
	}
	return w.tx.exec("INSERT INTO plan_history (owner, plan_id, at) VALUES (?, json_extract(?, '$'), ?)", w.tx.who.Inbox, w.now, millis(w.at))
}

// lookField changes when someday letters are looked through; the next time is
// then worked out anew.
func lookField(name string) writer {
	return func(w setting) error { return w.set("look_at = NULL, " + name + " = json_extract(?1, '$')") }
}

// zoneField moves the person to another zone. Times that follow the person
// keep their wall-clock time there; their instants are computed anew.
func zoneField(w setting) error {
	if err := lookField("zone")(w); err != nil {
		return err
	}
	p, err := w.tx.Person()
	if err != nil {
		return err
	}
	for _, m := range allMoments() {
		if m.fixed {
			continue
		}
		if err := w.tx.rezone(p.Calendar(), m); err != nil {
			return err
		}
	}
	return nil
}

// placeField moves conversations, and keeps the move for good. One that
// enters the inbox joins the queue now, unless an undo puts it back where it
// was.
func placeField(w setting) error {
	var place decide.Place
	if err := json.Unmarshal([]byte(w.now), &place); err != nil {
		return err
	}
	set := "place = ?2, place_since = ?3"
	if place == decide.Inbox && !w.undo {
		set += ", queue_at = ?3"
	}
	if err := w.set(set, place, millis(w.at)); err != nil {
		return err
	}
	if err := w.tx.keepHistory(); err != nil { // what happened before comes before
		return err
	}
	history := w.tx.bulk(w.tx.who.Inbox, millis(w.at), w.journal)
	for _, m := range w.members {
		var was decide.Place
		if err := json.Unmarshal(m.Was, &was); err != nil {
			return err
		}
		history.add(m.ID, string(was), string(place))
		w.tx.ending.countMove(w.tx.who.Inbox, millis(w.at), was, place)
	}
	return history.flush(historyHead, "")
}

// keepHistory writes down the first places that are not written down yet.
func (tx *Tx) keepHistory() error {
	waiting := bulk{tx: tx, rows: tx.ending.history}
	tx.ending.history = nil
	return waiting.flush(historyHead, "")
}

const historyHead = "INSERT INTO place_history (owner, at, journal_id, conversation_id, was, now) VALUES "

func backField(w setting) error {
	rank, err := rankOf([]byte(w.now))
	if err != nil {
		return err
	}
	return w.set("back = nullif(?1, 'null'), back_rank = ?2", rank)
}

// eachBack writes why each of many conversations came back.
func eachBack(w setting, values []objectValue) error {
	return w.setEach("back = json_extract(v.value, '$[1]'), back_rank = json_extract(v.value, '$[2]')", values, func(v objectValue) (int, error) { return rankOf(v.now) })
}

func rankOf(back []byte) (int, error) {
	var b *decide.Back
	err := json.Unmarshal(back, &b)
	return b.Rank(), err
}

// instantOf is the instant of a moment as it is kept to sort by; zero for none.
func instantOf(m *when.Moment) maybeStamp {
	if m == nil || m.Precision == when.Open {
		return maybeStamp{}
	}
	return maybeAt(m.UTC)
}

// dueOf is when a return happens by itself; zero for never. Where silence is
// waited for, the limit of the expectation brings it back.
func dueOf(r decide.Return) maybeStamp {
	if r.If == when.IfSilent {
		return maybeStamp{}
	}
	return instantOf(&r.When)
}

func returnField(w setting) error {
	if err := w.tx.exec("DELETE FROM returns WHERE +owner = ? AND conversation_id IN (SELECT value FROM json_each(?))", w.tx.who.Inbox, w.ids); err != nil {
		return err
	}
	var r *decide.Return
	if err := json.Unmarshal([]byte(w.now), &r); err != nil || r == nil {
		return err
	}
	return w.tx.exec(`INSERT INTO returns (conversation_id, owner, due, precise, spot_id, value)
		SELECT value, ?, ?, ?, ?, ? FROM json_each(?)`, w.tx.who.Inbox, dueOf(*r), r.When.Precision == when.ToMinute, r.Spot, w.now, w.ids)
}

func labelField(w setting) error {
	label, _ := decide.Conversation.Labels.NameIn(w.members[0].Change)
	if w.now == "true" {
		return w.tx.exec("INSERT INTO conversation_labels (owner, label, conversation_id) SELECT ?, ?, value FROM json_each(?) WHERE true ON CONFLICT DO NOTHING",
			w.tx.who.Inbox, label, w.ids)
	}
	return w.tx.exec("DELETE FROM conversation_labels WHERE owner = ? AND label = ? AND conversation_id IN (SELECT value FROM json_each(?))",
		w.tx.who.Inbox, label, w.ids)
}

func statusField(w setting) error {
	var status followup.Status
	if err := json.Unmarshal([]byte(w.now), &status); err != nil {
		return err
	}
	var done any
	if status.Closed() {
		done = millis(w.at)
	}
	return w.set("status = ?2, done_at = ?3", status, done)
}

// letterConversationField moves letters between conversations, when two are
// joined or a join is taken back.
func letterConversationField(w setting) error {
	if err := w.set("conversation_id = json_extract(?1, '$')"); err != nil {
		return err
	}
	var touched []int64
	for _, m := range w.members {
		for _, v := range []json.RawMessage{m.Was, m.Now} {
			var id int64
			if err := json.Unmarshal(v, &id); err != nil {
				return err
			}
			touched = append(touched, id)
		}
	}
	return w.tx.recompute(touched)
}

// sortField sorts letters otherwise than when they were let in.
func sortField(w setting) error {
	if err := w.set("kind = json_extract(?1, '$.kind'), kind_why = coalesce(json_extract(?1, '$.why'), ''), sorted_out = coalesce(json_extract(?1, '$.out'), 0)"); err != nil {
		return err
	}
	touched, err := w.tx.ids("SELECT DISTINCT conversation_id FROM letters WHERE +owner = ? AND id IN (SELECT value FROM json_each(?)) AND conversation_id IS NOT NULL", w.tx.who.Inbox, w.ids)
	if err != nil {
		return err
	}
	return w.tx.recompute(touched)
}

// redirectField lets the id of a joined conversation lead to the one that
// lives on; 0 takes the redirect away.
func redirectField(w setting) error {
	if err := w.tx.exec("DELETE FROM conversation_redirects WHERE owner = ? AND from_id IN (SELECT value FROM json_each(?))", w.tx.who.Inbox, w.ids); err != nil {
		return err
	}
	err := w.tx.exec(`INSERT INTO conversation_redirects (owner, from_id, to_id)
		SELECT ?1, value, json_extract(?2, '$') FROM json_each(?3) WHERE json_extract(?2, '$') <> 0`, w.tx.who.Inbox, w.now, w.ids)
	if err != nil {
		return err
	}
	// Redirects that led to these lead on to where these lead now.
	return w.tx.exec(`UPDATE conversation_redirects SET to_id = json_extract(?2, '$')
		WHERE owner = ?1 AND to_id IN (SELECT value FROM json_each(?3)) AND json_extract(?2, '$') <> 0`, w.tx.who.Inbox, w.now, w.ids)
}
