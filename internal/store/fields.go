package store

import (
	"encoding/json"
	"time"

	"ebbe.example/ebbe/internal/core/change"
	"ebbe.example/ebbe/internal/core/decide"
	"ebbe.example/ebbe/internal/core/when"
)

// writing is one value going into one field of some objects.
type writing struct {
	tx      *Tx
	journal int64
	at      time.Time
	undo    bool
	ids     string // JSON list
	now     string // JSON value
	person  int64  // whose value it is, where each person has one
	members []change.Recorded
}

type writer func(writing) error

// fields says, for every field that a command can change, where it is kept.
var fields = map[string]map[string]writer{
	"conversation": {
		"place": placeField, "return": returnField, "back": backField,
		"putOffs": column("conversations", "put_offs"), "decided": column("conversations", "decided"),
		"star": starField, "priority": column("conversations", "priority"),
		"redirect": redirectField, "apart": column("conversations", "apart"),
		"note": column("conversations", "note"), "quiet": column("conversations", "quiet"), "workingTitle": column("conversations", "working_title"),
	},
	"followup": {
		"alive": column("followups", "alive"), "title": column("followups", "title"), "notes": column("followups", "notes"),
		"due": momentField("followups", "due", "due_at"), "priority": column("followups", "priority"),
		"status": statusField, "estimate": column("followups", "estimate"), "project": column("followups", "project"),
		"start": momentField("followups", "start", ""), "stage": column("followups", "stage_id"), "assignee": column("followups", "assignee"),
		"context": column("followups", "context"), "recurs": nullColumn("followups", "recurs"), "checklist": jsonColumn("followups", "checklist"),
	},
	"appointment": {
		"alive": column("appointments", "alive"), "title": column("appointments", "title"), "place": column("appointments", "place"), "notes": column("appointments", "notes"),
		"start": momentField("appointments", "start", "start_at"), "end": column("appointments", "end_at"), "free": column("appointments", "free"),
		"cancelled": column("appointments", "cancelled"), "sequence": column("appointments", "sequence"), "attendees": jsonColumn("appointments", "attendees"),
		"reply": column("appointments", "reply"), "remind": column("appointments", "remind"), "remindState": column("appointments", "remind_state"),
	},
	"series": {"alive": column("series", "alive")},
	"stage": {
		"alive": column("stages", "alive"), "name": column("stages", "name"), "colour": column("stages", "colour"), "shape": column("stages", "shape"),
		"position": column("stages", "position"), "most": column("stages", "most"),
	},
	"filter": {
		"alive": column("kept_filters", "alive"), "name": column("kept_filters", "name"), "value": jsonColumn("kept_filters", "value"),
	},
	"reminder": {
		"alive": column("reminders", "alive"), "state": column("reminders", "state"), "moment": momentField("reminders", "moment", "at"),
	},
	"expectation": {
		"alive": column("expectations", "alive"), "state": column("expectations", "state"), "late": column("expectations", "late"),
		"until": momentField("expectations", "until", "until_at"), "answered": jsonColumn("expectations", "answered"),
		"metBy": column("expectations", "met_by"), "offered": column("expectations", "offered"), "away": column("expectations", "away"),
		"awayUntil":    column("expectations", "away_until"),
		"conversation": column("expectations", "conversation_id"),
	},
	"person": {
		"zone": zoneField, "weekStart": personColumn("week_start"), "dayTurn": personColumn("day_turn"), "dayStart": personColumn("day_start"),
		"dayEnd": personColumn("day_end"), "workdays": personColumn("workdays"), "evening": personColumn("evening"), "monthFirst": personColumn("month_first"),
		"namedTimes": personColumn("named_times"), "share": personColumn("share"), "sendDelay": personColumn("send_delay"), "spot": personColumn("spot_id"), "weights": personColumn("weights"), "intake": personColumn("intake"), "feed": personColumn("feed"), "planId": planField, "holdingNote": personColumn("holding_note"), "notices": personColumn("notices"), "lookDay": lookField("look_day"), "lookCount": lookField("look_count"),
	},
	"spot":   {"alive": column("spots", "alive"), "name": column("spots", "name")},
	"letter": {"conversation": letterConversationField, "receipt": column("letters", "receipt")},
	"sender": {"pictures": column("senders", "pictures")},
	"account": {
		"alive": column("accounts", "alive"), "name": column("accounts", "name"), "label": column("accounts", "label"),
		"signature": column("accounts", "signature"), "colour": column("accounts", "colour"), "shape": column("accounts", "shape"),
		"position": column("accounts", "position"), "planId": column("accounts", "plan_id"),
	},
	"through": {"alive": column("let_through", "alive")},
	"outbox":  {"state": column("outbox", "state")},
	"draft":   {"alive": draftField},
	"hold": {
		"alive": column("holds", "alive"), "endedAt": column("holds", "ended_at"),
	},
}

// column is a field that is one column; its JSON value is taken apart by
// SQLite, booleans as 0 and 1.
func column(table, name string) writer {
	return func(w writing) error {
		return w.tx.exec("UPDATE "+table+" SET "+name+" = json_extract(?, '$') WHERE +owner = ? AND id IN (SELECT value FROM json_each(?))",
			w.now, w.tx.who.Inbox, w.ids)
	}
}

// personColumn is a column of the person's own row, or of the inbox's.
func personColumn(name string) writer {
	return func(w writing) error {
		return w.tx.exec("UPDATE people SET "+name+" = json_extract(?, '$') WHERE id IN (?, ?) AND id IN (SELECT value FROM json_each(?))",
			w.now, w.tx.who.Person, w.tx.who.Inbox, w.ids)
	}
}

// planField puts a plan in force, and keeps since when.
func planField(w writing) error {
	if err := personColumn("plan_id")(w); err != nil {
		return err
	}
	return w.tx.exec("INSERT INTO plan_history (owner, plan_id, at) VALUES (?, json_extract(?, '$'), ?)", w.tx.who.Inbox, w.now, millis(w.at))
}

// lookField changes when someday letters are looked through; the next time is
// then worked out anew.
func lookField(name string) writer {
	return func(w writing) error {
		return w.tx.exec("UPDATE people SET look_at = NULL, "+name+" = json_extract(?, '$') WHERE id IN (?, ?) AND id IN (SELECT value FROM json_each(?))",
			w.now, w.tx.who.Person, w.tx.who.Inbox, w.ids)
	}
}

// zoneField moves the person to another zone. Times that follow the person
// keep their wall-clock time there; their instants are computed anew.
func zoneField(w writing) error {
	if err := lookField("zone")(w); err != nil {
		return err
	}
	p, err := w.tx.Person()
	if err != nil {
		return err
	}
	for _, kept := range []struct{ table, id, value, path, at string }{
		{"returns", "conversation_id", "value", "$.when", "due"}, {"followups", "id", "due", "$", "due_at"}, {"followups", "id", "start", "$", ""},
		{"reminders", "id", "moment", "$", "at"}, {"expectations", "id", "until", "$", "until_at"}, {"holds", "id", "until", "$", "until_at"}, {"let_through", "id", "until", "$", "until_at"},
	} {
		if err := w.tx.rezone(p.Calendar(), kept.table, kept.id, kept.value, kept.path, kept.at); err != nil {
			return err
		}
	}
	return nil
}

// rezone computes the instants of one column of moments anew.
func (tx *Tx) rezone(c when.Calendar, table, id, value, path, at string) error {
	rows, err := all[struct {
		ID     int64
		Moment string
	}](tx.db.Raw("SELECT "+id+" AS id, json_extract("+value+", ?) AS moment FROM "+table+" WHERE owner = ? AND json_valid("+value+")", path, tx.who.Inbox))
	if err != nil {
		return err
	}
	for _, r := range rows {
		var m when.Moment
		if err := json.Unmarshal([]byte(r.Moment), &m); err != nil {
			return err
		}
		now := m.In(c)
		if now.UTC.Equal(m.UTC) {
			continue
		}
		text, err := json.Marshal(now)
		if err != nil {
			return err
		}
		set, args := value+" = json_set("+value+", '"+path+"', json(?))", []any{string(text)}
		if path == "$" {
			set = value + " = ?"
		}
		if at != "" {
			set += ", " + at + " = CASE WHEN " + at + " IS NULL THEN NULL ELSE ? END"
			args = append(args, millis(now.UTC))
		}
		if err := tx.exec("UPDATE "+table+" SET "+set+" WHERE owner = ? AND "+id+" = ?", append(args, tx.who.Inbox, r.ID)...); err != nil {
			return err
		}
	}
	return nil
}

// nullColumn keeps JSON, and NULL for null.
func nullColumn(table, name string) writer {
	return func(w writing) error {
		return w.tx.exec("UPDATE "+table+" SET "+name+" = nullif(?, 'null') WHERE +owner = ? AND id IN (SELECT value FROM json_each(?))", w.now, w.tx.who.Inbox, w.ids)
	}
}

func jsonColumn(table, name string) writer {
	return func(w writing) error {
		return w.tx.exec("UPDATE "+table+" SET "+name+" = ? WHERE +owner = ? AND id IN (SELECT value FROM json_each(?))", w.now, w.tx.who.Inbox, w.ids)
	}
}

// momentField keeps a when.Moment, and beside it the instant to sort by, where
// there is a column for that.
func momentField(table, name, instant string) writer {
	return func(w writing) error {
		var m *when.Moment
		if err := json.Unmarshal([]byte(w.now), &m); err != nil {
			return err
		}
		var value *string
		at := instantOf(m)
		if m != nil {
			value = &w.now
		}
		if instant == "" {
			return w.tx.exec("UPDATE "+table+" SET "+name+" = ? WHERE +owner = ? AND id IN (SELECT value FROM json_each(?))", value, w.tx.who.Inbox, w.ids)
		}
		return w.tx.exec("UPDATE "+table+" SET "+name+" = ?, "+instant+" = ? WHERE +owner = ? AND id IN (SELECT value FROM json_each(?))",
			value, at, w.tx.who.Inbox, w.ids)
	}
}

// placeField moves conversations, and keeps the move for good. One that
// enters the inbox joins the queue now, unless an undo puts it back where it
// was.
func placeField(w writing) error {
	var place decide.Place
	if err := json.Unmarshal([]byte(w.now), &place); err != nil {
		return err
	}
	set := "place = ?, place_since = ?"
	args := []any{place, millis(w.at)}
	if place == decide.Inbox && !w.undo {
		set += ", queue_at = ?"
		args = append(args, millis(w.at))
	}
	args = append(args, w.tx.who.Inbox, w.ids)
	if err := w.tx.exec("UPDATE conversations SET "+set+" WHERE +owner = ? AND id IN (SELECT value FROM json_each(?))", args...); err != nil {
		return err
	}
	history := w.tx.bulk()
	for _, m := range w.members {
		var was decide.Place
		if err := json.Unmarshal(m.Was, &was); err != nil {
			return err
		}
		history.add(w.tx.who.Inbox, m.ID, was, place, millis(w.at), w.journal)
	}
	return history.flush("INSERT INTO place_history (owner, conversation_id, was, now, at, journal_id) VALUES ", "")
}

func backField(w writing) error {
	var b *decide.Back
	if err := json.Unmarshal([]byte(w.now), &b); err != nil {
		return err
	}
	return w.tx.exec("UPDATE conversations SET back = nullif(?, 'null'), back_rank = ? WHERE +owner = ? AND id IN (SELECT value FROM json_each(?))",
		w.now, b.Rank(), w.tx.who.Inbox, w.ids)
}

// instantOf is the instant of a moment as it is kept to sort by; nil for none.
func instantOf(m *when.Moment) *int64 {
	if m == nil || m.Precision == when.Open {
		return nil
	}
	ms := millis(m.UTC)
	return &ms
}

// dueOf is when a return happens by itself; nil for never. Where silence is
// waited for, the limit of the expectation brings it back.
func dueOf(r decide.Return) *int64 {
	if r.If == when.IfSilent {
		return nil
	}
	return instantOf(&r.When)
}

func returnField(w writing) error {
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

func labelField(label string) writer {
	return func(w writing) error {
		if w.now == "true" {
			return w.tx.exec("INSERT INTO conversation_labels (owner, label, conversation_id) SELECT ?, ?, value FROM json_each(?) WHERE true ON CONFLICT DO NOTHING",
				w.tx.who.Inbox, label, w.ids)
		}
		return w.tx.exec("DELETE FROM conversation_labels WHERE owner = ? AND label = ? AND conversation_id IN (SELECT value FROM json_each(?))",
			w.tx.who.Inbox, label, w.ids)
	}
}

func statusField(w writing) error {
	return w.tx.exec(`UPDATE followups SET status = json_extract(?1, '$'), done_at = CASE WHEN json_extract(?1, '$') IN ('done', 'dropped') THEN ?2 END
		WHERE +owner = ?3 AND id IN (SELECT value FROM json_each(?4))`, w.now, millis(w.at), w.tx.who.Inbox, w.ids)
}

func draftField(w writing) error {
	return w.tx.exec("UPDATE drafts SET alive = json_extract(?, '$') WHERE +owner = ? AND number IN (SELECT value FROM json_each(?))", w.now, w.tx.who.Inbox, w.ids)
}

// letterConversationField moves letters between conversations, when two are
// joined or a join is taken back.
func letterConversationField(w writing) error {
	err := w.tx.exec("UPDATE letters SET conversation_id = json_extract(?, '$') WHERE +owner = ? AND id IN (SELECT value FROM json_each(?))", w.now, w.tx.who.Inbox, w.ids)
	if err != nil {
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

// redirectField lets the id of a joined conversation lead to the one that
// lives on; 0 takes the redirect away.
func redirectField(w writing) error {
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
