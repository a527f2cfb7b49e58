package store

import (
	"encoding/json"
	"errors"
	"time"

	"gorm.io/gorm"

	"ebbe.example/ebbe/internal/core/change"
	"ebbe.example/ebbe/internal/core/decide"
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

func (r entryRow) entry() Entry {
	return Entry{
		ID: r.ID, CommandID: r.CommandID, Asked: r.Asked, Kind: r.Kind, Actor: r.Actor, Person: r.Person, Cause: r.Cause, Title: r.Title,
		At: r.At.Time, RecordedAt: r.RecordedAt.Time, Undoable: r.Undoable, UndoOf: int64(r.UndoOf), UndoneBy: int64(r.UndoneBy), Result: json.RawMessage(r.Result),
	}
}

// ErrForeign is returned for a command id that another person has used.
var ErrForeign = errors.New("this command id belongs to somebody else")

// EntryOf finds the step that an actor's command has made; ErrNotFound if none
// yet, ErrForeign if another person made one of that id, or in another inbox.
func (tx *Tx) EntryOf(commandID, actor string) (Entry, error) {
	rows, err := gorm.G[entryRow](everybody(tx.db)).Where("command_id = ? AND actor = ?", commandID, actor).Find(tx.ctx())
	if err != nil {
		return Entry{}, err
	}
	for _, r := range rows {
		if int64(r.Owner) == tx.who.Inbox && r.Person == tx.who.Person {
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
	r, err := gorm.G[entryRow](tx.db).Where("id = ?", id).Take(tx.ctx())
	return r.entry(), err
}

// LastUndoable is the person's own latest step in the inbox before another (0:
// of all) that is not yet undone.
func (tx *Tx) LastUndoable(before int64) (Entry, error) {
	own := tx.ownSteps().Where("undoable = 1 AND undo_of IS NULL AND undone_by IS NULL")
	if before != 0 {
		own = own.Where("id < ?", before)
	}
	r, err := own.Order("id DESC").Take(tx.ctx())
	return r.entry(), err
}

// ownSteps are the steps that the person made in the inbox.
func (tx *Tx) ownSteps() gorm.ChainInterface[entryRow] {
	return gorm.G[entryRow](tx.db).Where("person = ? AND actor = 'person'", tx.who.Person)
}

// ownDecisions are those of them that decided on letters.
func (tx *Tx) ownDecisions() gorm.ChainInterface[entryRow] {
	return tx.ownSteps().Where("kind LIKE 'decide:%'")
}

// OwnLatest lists the person's own latest steps, the newest first.
func (tx *Tx) OwnLatest(most int) ([]Entry, error) {
	rows, err := tx.ownSteps().Order("id DESC").Limit(most).Find(tx.ctx())
	return entries(rows), err
}

// SetRedone notes that a step took back an undo: what was undone stands again.
func (tx *Tx) SetRedone(redo, undo, of int64) error {
	if err := tx.SetUndoOf(redo, undo); err != nil {
		return err
	}
	return tx.setEntry(of, "undone_by", maybeID(0))
}

// Entries lists steps, newest first, from before the given id (0: from the
// newest) and from before a time (zero: any), of which the title has all words.
func (tx *Tx) Entries(before int64, until time.Time, words []string, most int) ([]Entry, error) {
	steps := gorm.G[entryRow](tx.db).Order("id DESC").Limit(most)
	if before != 0 {
		steps = steps.Where("id < ?", before)
	}
	if !until.IsZero() {
		steps = steps.Where("at < ?", at(until))
	}
	for _, w := range words {
		steps = steps.Where(`title LIKE ? ESCAPE '\'`, "%"+likePattern(w))
	}
	rows, err := steps.Find(tx.ctx())
	return entries(rows), err
}

// ConversationsOf gives for steps the first conversation that each has changed.
func (tx *Tx) ConversationsOf(steps []int64) (map[int64]int64, error) {
	rows, err := gorm.G[changeRow](tx.few()).Select("journal_id, min(object_id) AS object_id").
		Where(inNumbers("journal_id", steps)).Where("object = ?", decide.Conversation.Kind).Group("journal_id").Find(tx.ctx())
	out := make(map[int64]int64, len(rows))
	for _, r := range rows {
		out[r.JournalID] = r.ObjectID
	}
	return out, err
}

// TitledConversation is a conversation by its title.
type TitledConversation struct {
	Conversation int64
	Title        string
}

// AllConversationsOf gives for steps the conversations that each has changed, at most so many of each.
func (tx *Tx) AllConversationsOf(steps []int64, most int) (map[int64][]TitledConversation, error) {
	rows, err := gorm.G[changeRow](tx.few()).Select("DISTINCT journal_id, object_id").
		Where(inNumbers("journal_id", steps)).Where("object = ?", decide.Conversation.Kind).Order("journal_id, object_id").Find(tx.ctx())
	if err != nil {
		return nil, err
	}
	out, ids := map[int64][]TitledConversation{}, []int64{}
	for _, r := range rows {
		if len(out[r.JournalID]) < most {
			out[r.JournalID], ids = append(out[r.JournalID], TitledConversation{Conversation: r.ObjectID}), append(ids, r.ObjectID)
		}
	}
	titles, err := gorm.G[conversationRow](tx.few()).Select("id, working_title, subject").Where(inNumbers("id", ids)).Find(tx.ctx())
	named := make(map[int64]string, len(titles))
	for _, t := range titles {
		named[t.ID] = Row{WorkingTitle: t.WorkingTitle, Subject: t.Subject}.Title()
	}
	for _, list := range out {
		for i := range list {
			list[i].Title = named[list[i].Conversation]
		}
	}
	return out, err
}

// Decisions lists the person's own steps since the given time, newest first.
func (tx *Tx) Decisions(since, until time.Time, most int) ([]Entry, error) {
	rows, err := tx.ownDecisions().Where("at >= ? AND at < ? AND undo_of IS NULL AND undone_by IS NULL", at(since), at(until)).
		Order("at DESC, id DESC").Limit(most).Find(tx.ctx())
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
	if e.Result == nil {
		e.Result = change.Null
	}
	row := entryRow{
		Person: tx.who.Person, CommandID: e.CommandID, Asked: e.Asked, Kind: e.Kind, Actor: e.Actor, Cause: e.Cause, Title: e.Title, At: at(e.At), RecordedAt: at(e.RecordedAt),
		Undoable: e.Undoable, UndoOf: maybeID(e.UndoOf), Result: string(e.Result),
	}
	err := gorm.G[entryRow](tx.db).Create(tx.ctx(), &row)
	return row.ID, err
}

// SetResult keeps what the command came to, and what it answered, for when its
// id comes again.
func (tx *Tx) SetResult(id int64, kind, title string, undoable bool, result json.RawMessage) error {
	_, err := gorm.G[entryRow](tx.db).Where("id = ?", id).Select("kind", "title", "undoable", "result").
		Updates(tx.ctx(), entryRow{Kind: kind, Title: title, Undoable: undoable, Result: string(result)})
	return err
}

// LastOf is the latest step of a kind since a moment; the zero Entry if there is
// none.
func (tx *Tx) LastOf(kind string, since time.Time) (Entry, error) {
	row, err := orNone(gorm.G[entryRow](tx.db).Where("kind = ? AND at > ?", kind, at(since)).Order("at DESC, id DESC").Take(tx.ctx()))
	if row.ID == 0 {
		return Entry{}, err
	}
	return row.entry(), err
}

// SetUndoOf ties an undo to the step that it took back.
func (tx *Tx) SetUndoOf(undo, of int64) error {
	if err := tx.setEntry(undo, "undo_of", maybeID(of)); err != nil {
		return err
	}
	return tx.setEntry(of, "undone_by", maybeID(undo))
}

// SetUndone notes that a step was taken back by another one that took back more.
func (tx *Tx) SetUndone(of, by int64) error { return tx.setEntry(of, "undone_by", maybeID(by)) }

func (tx *Tx) setEntry(id int64, column string, value maybeID) error {
	row, err := orNone(gorm.G[entryRow](tx.db).Select("at").Where("id = ?", id).Take(tx.ctx()))
	if err != nil {
		return err
	}
	tx.ending.touch(tx.who.Inbox, millis(row.At.Time))
	_, err = gorm.G[entryRow](tx.db).Where("id = ?", id).Update(tx.ctx(), column, value)
	return err
}
