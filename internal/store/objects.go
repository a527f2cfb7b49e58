// By hand: the table of an object is known by its kind only.

package store

import (
	"ebbe.example/ebbe/internal/core/change"
)

// TitleOf is how an object is called; "" if it has no name, or is not there.
func (tx *Tx) TitleOf(o change.Object) string {
	t := objectOf(o.Kind)
	if t == nil || t.title == "" {
		return ""
	}
	mine, args := t.mine(tx.who)
	list, err := all[string](tx.db.Raw("SELECT "+t.title+" FROM "+t.table+" WHERE "+mine+" AND "+t.key()+" = ?", append(args, o.ID)...))
	if err != nil || len(list) == 0 {
		return ""
	}
	return list[0]
}

// Missing tells which objects of changes are no longer there.
func (tx *Tx) Missing(recorded []change.Recorded) (map[change.Object]bool, error) {
	ids := map[change.Kind][]int64{}
	for _, r := range recorded {
		ids[r.Kind] = append(ids[r.Kind], r.ID)
	}
	out := map[change.Object]bool{}
	for kind, list := range ids {
		t := objectOf(kind)
		if t == nil {
			continue
		}
		mine, args := t.mine(tx.who)
		gone, err := tx.ids("SELECT DISTINCT value FROM json_each(?) WHERE value NOT IN (SELECT "+t.key()+" FROM "+t.table+" WHERE "+mine+")", append([]any{jsonIDs(list)}, args...)...)
		if err != nil {
			return nil, err
		}
		for _, id := range gone {
			out[kind.Of(id)] = true
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
