package store

import (
	"encoding/json"
	"errors"
	"time"

	"ebbe.example/ebbe/internal/core/change"
)

// Entry is one step of the Journal.
type Entry struct {
	ID        int64
	CommandID string
	// Asked is the kind that the command had; Kind may say more of what it came
	// to.
	Asked      string
	Kind       string
	Actor      string
	Person     int64 // who acted; 0 for what ran by itself
	Cause      string
	Title      string
	At         time.Time // when it took effect
	RecordedAt time.Time
	Undoable   bool
	UndoOf     int64
	UndoneBy   int64
	Result     json.RawMessage
}

type entryRow struct {
	ID, Owner, Person, At, RecordedAt                    int64
	CommandID, Asked, Kind, Actor, Cause, Title, Outcome string
	Undoable                                             bool
	UndoOf, UndoneBy                                     *int64
}

func (r entryRow) entry() Entry {
	e := Entry{
		ID: r.ID, CommandID: r.CommandID, Asked: r.Asked, Kind: r.Kind, Actor: r.Actor, Person: r.Person, Cause: r.Cause, Title: r.Title,
		At: fromMillis(r.At), RecordedAt: fromMillis(r.RecordedAt), Undoable: r.Undoable, Result: json.RawMessage(r.Outcome),
	}
	if r.UndoOf != nil {
		e.UndoOf = *r.UndoOf
	}
	if r.UndoneBy != nil {
		e.UndoneBy = *r.UndoneBy
	}
	return e
}

const entryColumns = "id, owner, person, command_id, asked, kind, actor, cause, title, at, recorded_at, undoable, undo_of, undone_by, result AS outcome"

// ErrForeign is returned for a command id that another person has used.
var ErrForeign = errors.New("this command id belongs to somebody else")

// EntryOf finds the step that an actor's command has made; ErrNotFound if none
// yet, ErrForeign if another person made one of that id, or in another inbox.
func (tx *Tx) EntryOf(commandID, actor string) (Entry, error) {
	rows, err := all[entryRow](tx.db.Raw("SELECT "+entryColumns+" FROM journal WHERE command_id = ? AND actor = ?", commandID, actor))
	if err != nil {
		return Entry{}, err
	}
	for _, r := range rows {
		if r.Owner == tx.who.Inbox && r.Person == tx.who.Person {
			return r.entry(), nil
		}
	}
	if len(rows) > 0 {
		return Entry{}, ErrForeign
	}
	return Entry{}, ErrNotFound
}

// Entry is one step by its id.
func (tx *Tx) Entry(id int64) (Entry, error) {
	r, err := one[entryRow](tx.db.Raw("SELECT "+entryColumns+" FROM journal WHERE owner = ? AND id = ?", tx.who.Inbox, id))
	return r.entry(), err
}

// LastUndoable is the person's own latest step in the inbox before another (0:
// of all) that is not yet undone.
func (tx *Tx) LastUndoable(before int64) (Entry, error) {
	if before == 0 {
		before = 1 << 62
	}
	r, err := one[entryRow](tx.db.Raw(`SELECT `+entryColumns+` FROM journal WHERE owner = ? AND person = ? AND actor = 'person' AND undoable = 1
		AND undo_of IS NULL AND undone_by IS NULL AND id < ? ORDER BY id DESC LIMIT 1`, tx.who.Inbox, tx.who.Person, before))
	return r.entry(), err
}

// OwnLatest lists the person's own latest steps, the newest first.
func (tx *Tx) OwnLatest(most int) ([]Entry, error) {
	rows, err := all[entryRow](tx.db.Raw("SELECT "+entryColumns+" FROM journal WHERE owner = ? AND person = ? AND actor = 'person' ORDER BY id DESC LIMIT ?", tx.who.Inbox, tx.who.Person, most))
	return entries(rows), err
}

// SetRedone notes that a step took back an undo: what was undone stands again.
func (tx *Tx) SetRedone(redo, undo, of int64) error {
	if err := tx.SetUndoOf(redo, undo); err != nil {
		return err
	}
	return tx.exec("UPDATE journal SET undone_by = NULL WHERE owner = ? AND id = ?", tx.who.Inbox, of)
}

// Entries lists steps, newest first, from before the given id (0: from the
// newest) and from before a time (zero: any), of which the title has all words.
func (tx *Tx) Entries(before int64, until time.Time, words []string, most int) ([]Entry, error) {
	if before == 0 {
		before = 1 << 62
	}
	where, args := "owner = ? AND id < ?", []any{tx.who.Inbox, before}
	if !until.IsZero() {
		where, args = where+" AND at < ?", append(args, millis(until))
	}
	for _, w := range words {
		where, args = where+" AND title LIKE ? ESCAPE '\\'", append(args, "%"+likePattern(w))
	}
	rows, err := all[entryRow](tx.db.Raw("SELECT "+entryColumns+" FROM journal WHERE "+where+" ORDER BY id DESC LIMIT ?", append(args, most)...))
	return entries(rows), err
}

// ConversationsOf gives for steps the first conversation that each has changed.
func (tx *Tx) ConversationsOf(steps []int64) (map[int64]int64, error) {
	rows, err := all[struct{ JournalID, ObjectID int64 }](tx.db.Raw(`SELECT journal_id, min(object_id) AS object_id FROM changes
		WHERE journal_id IN (SELECT value FROM json_each(?)) AND object = 'conversation' AND owner = ? GROUP BY journal_id`, jsonIDs(steps), tx.who.Inbox))
	out := make(map[int64]int64, len(rows))
	for _, r := range rows {
		out[r.JournalID] = r.ObjectID
	}
	return out, err
}

// Decisions lists the person's own steps since the given time, newest first.
func (tx *Tx) Decisions(since, until time.Time, most int) ([]Entry, error) {
	rows, err := all[entryRow](tx.db.Raw(`SELECT `+entryColumns+` FROM journal WHERE owner = ? AND at >= ? AND at < ? AND person = ? AND actor = 'person'
		AND undo_of IS NULL AND undone_by IS NULL AND kind LIKE 'decide:%' ORDER BY at DESC, id DESC LIMIT ?`, tx.who.Inbox, millis(since), millis(until), tx.who.Person, most))
	return entries(rows), err
}

func entries(rows []entryRow) []Entry {
	out := make([]Entry, len(rows))
	for i, r := range rows {
		out[i] = r.entry()
	}
	return out
}

// AddEntry writes a step and gives its id.
func (tx *Tx) AddEntry(e Entry) (int64, error) {
	var undoOf *int64
	if e.UndoOf != 0 {
		undoOf = &e.UndoOf
	}
	if e.Result == nil {
		e.Result = change.Null
	}
	return tx.insertReturning(`INSERT INTO journal (owner, person, command_id, asked, kind, actor, cause, title, at, recorded_at, undoable, undo_of, result)
		VALUES (?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?)`,
		tx.who.Inbox, tx.who.Person, e.CommandID, e.Asked, e.Kind, e.Actor, e.Cause, e.Title, millis(e.At), millis(e.RecordedAt), e.Undoable, undoOf, string(e.Result))
}

// SetResult keeps what the command came to, and what it answered, for when its
// id comes again.
func (tx *Tx) SetResult(id int64, kind, title string, undoable bool, result json.RawMessage) error {
	return tx.exec("UPDATE journal SET kind = ?, title = ?, undoable = ?, result = ? WHERE owner = ? AND id = ?", kind, title, undoable, string(result), tx.who.Inbox, id)
}

// LastOf is the latest step of a kind since a moment; the zero Entry if there is
// none.
func (tx *Tx) LastOf(kind string, since time.Time) (Entry, error) {
	rows, err := all[entryRow](tx.db.Raw("SELECT "+entryColumns+" FROM journal WHERE owner = ? AND kind = ? AND at > ? ORDER BY at DESC, id DESC LIMIT 1", tx.who.Inbox, kind, millis(since)))
	if err != nil || len(rows) == 0 {
		return Entry{}, err
	}
	return entries(rows)[0], nil
}

// SetUndoOf ties an undo to the step that it took back.
func (tx *Tx) SetUndoOf(undo, of int64) error {
	if err := tx.exec("UPDATE journal SET undo_of = ? WHERE id = ?", of, undo); err != nil {
		return err
	}
	return tx.exec("UPDATE journal SET undone_by = ? WHERE owner = ? AND id = ?", undo, tx.who.Inbox, of)
}
