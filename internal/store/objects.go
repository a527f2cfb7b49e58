package store

import (
	"ebbe.example/ebbe/internal/core/change"
)

// objectTables say where the objects of changes stand, and what they are
// called; "" for what has no name.
var objectTables = map[string]struct{ table, id, title string }{
	"conversation": {"conversations", "id", "CASE WHEN working_title <> '' THEN working_title ELSE subject END"},
	"followup":     {"followups", "id", "title"}, "appointment": {"appointments", "id", "title"}, "stage": {"stages", "id", "name"}, "filter": {"kept_filters", "id", "name"},
	"series":   {"series", "id", "json_extract(value, '$.Title')"},
	"reminder": {"reminders", "id", "(SELECT title FROM followups f WHERE f.id = followup_id)"}, "spot": {"spots", "id", "name"}, "account": {"accounts", "id", "address"},
	"expectation": {"expectations", "id", "(SELECT subject FROM conversations c WHERE c.id = conversation_id)"}, "letter": {"letters", "id", "subject"},
	"outbox": {"outbox", "id", "subject"}, "draft": {"drafts", "number", "''"}, "hold": {"holds", "id", "''"}, "through": {"let_through", "id", "value"}, "sender": {"senders", "id", "email"},
}

// TitleOf is how an object is called; "" if it has no name, or is not there.
func (tx *Tx) TitleOf(o change.Object) string {
	t, ok := objectTables[o.Kind]
	if !ok {
		return ""
	}
	list, err := all[string](tx.db.Raw("SELECT "+t.title+" FROM "+t.table+" WHERE owner = ? AND "+t.id+" = ?", tx.who.Inbox, o.ID))
	if err != nil || len(list) == 0 {
		return ""
	}
	return list[0]
}

// Missing tells which objects of changes are no longer there.
func (tx *Tx) Missing(recorded []change.Recorded) (map[change.Object]bool, error) {
	ids := map[string][]int64{}
	for _, r := range recorded {
		ids[r.Kind] = append(ids[r.Kind], r.ID)
	}
	out := map[change.Object]bool{}
	for kind, list := range ids {
		t, ok := objectTables[kind]
		if !ok {
			continue
		}
		gone, err := tx.ids("SELECT DISTINCT value FROM json_each(?) WHERE value NOT IN (SELECT "+t.id+" FROM "+t.table+" WHERE owner = ?)", jsonIDs(list), tx.who.Inbox)
		if err != nil {
			return nil, err
		}
		for _, id := range gone {
			out[change.Object{Kind: kind, ID: id}] = true
		}
	}
	return out, nil
}

// SetBy is the version that the field of a change has today, and the kind of the
// step that set it; "" if none has.
func (tx *Tx) SetBy(c change.Change) (version int64, kind string, err error) {
	versions, err := tx.versions([]change.Change{c})
	if version = versions[keyOf(c)]; err != nil || version == 0 {
		return version, "", err
	}
	list, err := all[string](tx.db.Raw("SELECT j.kind FROM changes c JOIN journal j ON j.id = c.journal_id WHERE c.id = ? AND c.owner = ?", version, tx.who.Inbox))
	if err != nil || len(list) == 0 {
		return version, "", err
	}
	return version, list[0], nil
}
