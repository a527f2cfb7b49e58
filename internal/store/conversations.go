package store

import (
	"encoding/json"
	"errors"
	"strings"
	"time"

	"gorm.io/gorm"

	"ebbe.example/ebbe/internal/core/change"
	"ebbe.example/ebbe/internal/core/decide"
	"ebbe.example/ebbe/internal/core/letter"
	"ebbe.example/ebbe/internal/core/sorting"
	"ebbe.example/ebbe/internal/core/waiting"
)

// Row is a conversation as lists show it.
type Row struct {
	ID         int64
	Place      decide.Place
	PlaceSince time.Time
	QueueAt    time.Time
	Back       *decide.Back
	Return     *decide.Return
	PutOffs    int
	Decided    int64
	// Version names the last change of where the conversation stands, or of when
	// it comes back; 0 before there was one.
	Version int64
	// Star and Unread are the reading person's.
	Star         bool
	Unread       bool
	Priority     string
	Note         string
	WorkingTitle string
	Subject      string
	From         letter.Address
	Ask          string
	Asks         bool
	Letters      int
	Attachments  int
	LastLetter   int64
	LastAt       time.Time
	RoundAt      time.Time
	Through      string // what let it through a closed gate
	Quiet        bool   // stays in the archive when letters come
	// Kind is that of the newest letter from somebody else, Unsorted how many letters are
	// not sorted out.
	Kind     sorting.Kind
	Unsorted int
	// Unreadable is why something kept of it can't be read; a list shows the row
	// without that.
	Unreadable error
	// Filled for a page of rows at once:
	Labels    []string
	Accounts  []int64
	FollowUps []FollowUpMark
	Waiting   []string
}

// FollowUpMark is an open follow-up as a conversation's row shows it.
type FollowUpMark struct {
	ID    int64
	Title string
	Due   *string // JSON of a when.Moment
	Flag  bool
}

// listRow is a row of such lists as it is read.
type listRow struct {
	ID, PlaceSince, QueueAt, BackRank, Decided, LastLetter, LastAt, RoundAt, Seen   int64
	Version                                                                         int64
	Place, Subject, WorkingTitle, FromName, FromEmail, Ask, Note, Priority, Through string
	Kind                                                                            sorting.Kind
	Back, Value                                                                     *string
	PutOffs, Letters, Attachments, Unsorted                                         int
	Star, Asks, Quiet                                                               bool
}

const (
	conversationColumns = stateColumns + versionColumn + shownColumns
	// unversionedColumns are the same for who does not ask what was changed since: a
	// version takes as long to find as all the rest.
	unversionedColumns = stateColumns + "0" + shownColumns
)

const stateColumns = "c.id, c.place, c.place_since, c.queue_at, c.back_rank, c.back, c.put_offs, c.decided, coalesce(m.seen, 0) AS seen, coalesce(m.star, 0) AS star, "

const shownColumns = ` AS version, c.priority, c.note,
	c.working_title, c.subject, c.from_name, c.from_email, c.ask, c.asks, c.letters, c.attachments, c.last_letter, c.last_at, c.round_at, c.through, c.quiet, c.kind, c.unsorted, r.value`

// versionColumn is the version of where a conversation stands (see Row).
const versionColumn = `(SELECT coalesce(max(v.version), 0) FROM field_versions v
	WHERE v.object = 'conversation' AND v.object_id = c.id AND v.field IN ('place', 'return') AND v.person = 0)`

// conversationFrom takes the person whose marks are wanted as its first value.
const conversationFrom = " FROM conversations c LEFT JOIN returns r ON r.conversation_id = c.id" + marksOf

const marksOf = " LEFT JOIN personal_marks m ON m.conversation_id = c.id AND m.person = ? "

// row is the conversation as it is to be acted on: whole.
func (r listRow) row() (Row, error) {
	out := r.shown()
	return out, out.Unreadable
}

// shown is the conversation as a list shows it: what can be read.
func (r listRow) shown() Row {
	out := Row{
		ID: r.ID, Place: decide.Place(r.Place), PlaceSince: fromMillis(r.PlaceSince), QueueAt: fromMillis(r.QueueAt), PutOffs: r.PutOffs,
		Decided: r.Decided, Version: r.Version, Star: r.Star, Unread: max(r.Seen, r.Decided) < r.LastLetter, Priority: r.Priority, Note: r.Note, WorkingTitle: r.WorkingTitle,
		Subject: r.Subject, From: letter.Address{Name: r.FromName, Email: r.FromEmail}, Ask: r.Ask, Asks: r.Asks,
		Letters: r.Letters, Attachments: r.Attachments, LastLetter: r.LastLetter, LastAt: fromMillis(r.LastAt), RoundAt: fromMillis(r.RoundAt), Through: r.Through, Quiet: r.Quiet,
		Kind: r.Kind, Unsorted: r.Unsorted,
	}
	for _, kept := range []struct {
		text *string
		into any
	}{{r.Back, &out.Back}, {r.Value, &out.Return}} {
		if kept.text != nil {
			out.Unreadable = errors.Join(out.Unreadable, json.Unmarshal([]byte(*kept.text), kept.into))
		}
	}
	return out
}

// State is what the rules need to know of the conversation.
func (r Row) State() decide.State {
	return decide.State{
		ID: r.ID, Place: r.Place, Return: r.Return, Back: r.Back, PutOffs: r.PutOffs, Last: r.LastLetter, Decided: r.Decided, Version: r.Version, Labels: r.Labels, Quiet: r.Quiet,
		Note: r.Note, WorkingTitle: r.WorkingTitle, Sorted: r.Letters > 0 && r.Unsorted == 0,
	}
}

// Object names the conversation in changes.
func (r Row) Object() change.Object { return decide.Conversation.Of(r.ID) }

// Title is the working title, or the subject.
func (r Row) Title() string {
	switch {
	case r.WorkingTitle != "":
		return r.WorkingTitle
	case strings.TrimSpace(r.Subject) != "":
		return r.Subject
	}
	return "(no subject)"
}

// Order is how a list of conversations runs.
type Order struct {
	column string
	back   bool // came back first
	desc   bool
}

// The orders of the views.
var (
	QueueNewest = Order{"queue_at", true, true}
	QueueOldest = Order{"queue_at", true, false}
	LastFirst   = Order{"last_at", false, true}
	SinceFirst  = Order{"place_since", false, true}
)

// Cursor marks the last row of a page; the zero Cursor starts at the top.
type Cursor struct {
	Back int64 `json:"b"`
	Key  int64 `json:"k"`
	ID   int64 `json:"i"`
}

// Page lists conversations of a place after the cursor. account narrows to
// one account unless it is 0. next is nil on the last page.
func (tx *Tx) Page(place decide.Place, o Order, after *Cursor, account int64, most int) (rows []Row, next *Cursor, err error) {
	where := []string{"c.owner = ?", is("c.place", place)}
	args := []any{tx.who.Person, tx.who.Inbox}
	cmp, dir := ">", "ASC"
	if o.desc {
		cmp, dir = "<", "DESC"
	}
	key := "c." + o.column
	order := key + " " + dir + ", c.id " + dir
	if o.back {
		order = "c.back_rank DESC, " + order
	}
	if after != nil {
		rest := "(" + key + " " + cmp + " ? OR " + key + " = ? AND c.id " + cmp + " ?)"
		if o.back {
			rest = "(c.back_rank < ? OR c.back_rank = ? AND " + rest + ")"
			args = append(args, after.Back, after.Back)
		}
		where = append(where, rest)
		args = append(args, after.Key, after.Key, after.ID)
	}
	if account != 0 {
		where = append(where, "EXISTS (SELECT 1 FROM conversation_accounts a WHERE a.conversation_id = c.id AND a.account_id = ?)")
		args = append(args, account)
	}
	args = append(args, most+1)
	found, err := tx.conversationRows("SELECT "+conversationColumns+conversationFrom+"WHERE "+strings.Join(where, " AND ")+
		" ORDER BY "+order+" LIMIT ?", args...)
	if err != nil {
		return nil, nil, err
	}
	if len(found) > most {
		found = found[:most]
		last := found[most-1]
		next = &Cursor{Back: last.BackRank, ID: last.ID, Key: map[string]int64{"queue_at": last.QueueAt, "last_at": last.LastAt, "place_since": last.PlaceSince}[o.column]}
	}
	rows, err = tx.rows(found)
	return rows, next, err
}

// conversationRows reads rows of lists.
//
// By hand: they are read at every look, and taking their columns apart by
// reflection cost as much as the query.
func (tx *Tx) conversationRows(query string, args ...any) ([]listRow, error) {
	rows, err := tx.query(query, args...)
	if err != nil {
		return nil, err
	}
	defer rows.Close()
	var out []listRow
	for rows.Next() {
		var r listRow
		if err := rows.Scan(&r.ID, &r.Place, &r.PlaceSince, &r.QueueAt, &r.BackRank, &r.Back, &r.PutOffs, &r.Decided, &r.Seen, &r.Star, &r.Version, &r.Priority, &r.Note,
			&r.WorkingTitle, &r.Subject, &r.FromName, &r.FromEmail, &r.Ask, &r.Asks, &r.Letters, &r.Attachments, &r.LastLetter, &r.LastAt, &r.RoundAt, &r.Through, &r.Quiet, &r.Kind, &r.Unsorted, &r.Value); err != nil {
			return nil, err
		}
		out = append(out, r)
	}
	return out, rows.Err()
}

func (tx *Tx) rows(found []listRow) ([]Row, error) {
	rows := make([]Row, len(found))
	for i, f := range found {
		rows[i] = f.shown()
	}
	return rows, tx.fillMarks(rows)
}

// fillMarks adds labels, accounts, follow-ups and expectations to a page of
// rows with one query each.
//
// By hand: with every page of a list, and with every decision; by models a page
// takes 1.3 times as long.
func (tx *Tx) fillMarks(rows []Row) error {
	if len(rows) == 0 {
		return nil
	}
	at := make(map[int64]*Row, len(rows))
	ids := make([]int64, len(rows))
	for i := range rows {
		at[rows[i].ID], ids[i] = &rows[i], rows[i].ID
	}
	list := jsonIDs(ids)
	if err := eachPair(tx, func(id int64, label string) { at[id].Labels = append(at[id].Labels, label) },
		"SELECT conversation_id, label FROM conversation_labels WHERE +owner = ? AND conversation_id IN (SELECT value FROM json_each(?)) ORDER BY label", tx.who.Inbox, list); err != nil {
		return err
	}
	if err := eachPair(tx, func(id, account int64) { at[id].Accounts = append(at[id].Accounts, account) },
		"SELECT conversation_id, account_id FROM conversation_accounts WHERE +owner = ? AND conversation_id IN (SELECT value FROM json_each(?))", tx.who.Inbox, list); err != nil {
		return err
	}
	marks, err := all[struct {
		ConversationID, ID int64
		Title              string
		Due                *string
		Flag               bool
	}](tx.db.Raw(`SELECT DISTINCT l.conversation_id, f.id, f.title, f.due, f.flag FROM letters l JOIN followup_letters x ON x.letter_id = l.id
		JOIN followups f ON f.id = x.followup_id
		WHERE +l.owner = ? AND l.conversation_id IN (SELECT value FROM json_each(?)) AND f.alive = 1 AND f.done_at IS NULL ORDER BY f.due_at`, tx.who.Inbox, list))
	if err != nil {
		return err
	}
	for _, m := range marks {
		at[m.ConversationID].FollowUps = append(at[m.ConversationID].FollowUps, FollowUpMark{ID: m.ID, Title: m.Title, Due: m.Due, Flag: m.Flag})
	}
	return eachPair(tx, func(id int64, persons kept[[]string]) {
		if persons.Err != nil {
			tx.pass("waiting of the letter", id, persons.Err)
			return
		}
		at[id].Waiting = append(at[id].Waiting, persons.V...)
	}, "SELECT conversation_id, persons FROM expectations WHERE +owner = ? AND conversation_id IN (SELECT value FROM json_each(?)) AND alive = 1 AND state = ?", tx.who.Inbox, list, waiting.Open)
}

// Conversation is one conversation by its id, or by one that leads to it.
func (tx *Tx) Conversation(id int64) (Row, error) {
	id, err := tx.Follow(id)
	if err != nil {
		return Row{}, err
	}
	rows, err := tx.Conversations([]int64{id})
	if err != nil {
		return Row{}, err
	}
	if len(rows) == 0 {
		return Row{}, ErrNotFound
	}
	return rows[0], rows[0].Unreadable
}

// Bare is one conversation by its own id, without what is filled for rows:
// enough for the rules of arrival.
func (tx *Tx) Bare(id int64) (Row, error) {
	found, err := tx.conversationRows("SELECT "+conversationColumns+conversationFrom+"WHERE c.owner = ? AND c.id = ?", tx.who.Person, tx.who.Inbox, id)
	if err != nil {
		return Row{}, err
	}
	if len(found) == 0 {
		return Row{}, ErrNotFound
	}
	return found[0].row()
}

// AnyIn tells whether one of the conversations is in a place.
func (tx *Tx) AnyIn(place decide.Place, ids []int64) (bool, error) {
	n, err := gorm.G[conversationRow](tx.few()).Where("place = ?", place).Where(inNumbers("id", ids)).Count(tx.ctx(), "*")
	return n > 0, err
}

// States are what the rules of arrival need to know of conversations; labels
// are none of it.
func (tx *Tx) States(ids []int64) (map[int64]decide.State, error) {
	found, err := tx.conversationRows("SELECT "+unversionedColumns+conversationFrom+
		"WHERE +c.owner = ? AND c.id IN (SELECT value FROM json_each(?))", tx.who.Person, tx.who.Inbox, jsonIDs(ids))
	if err != nil {
		return nil, err
	}
	out := make(map[int64]decide.State, len(found))
	for _, f := range found {
		row, err := f.row()
		if err != nil {
			return nil, err
		}
		out[row.ID] = row.State()
	}
	return out, nil
}

// Conversations loads many by their ids, without order.
func (tx *Tx) Conversations(ids []int64) ([]Row, error) {
	found, err := tx.conversationRows("SELECT "+conversationColumns+conversationFrom+
		"WHERE +c.owner = ? AND c.id IN (SELECT value FROM json_each(?))", tx.who.Person, tx.who.Inbox, jsonIDs(ids))
	if err != nil {
		return nil, err
	}
	return tx.rows(found)
}

// Seen is a conversation and the last letter of it, as a list shows them.
type Seen struct {
	ID   int64 `json:"id" minimum:"1"`
	Last int64 `json:"last" minimum:"1"`
	// Version is that of where it stood when it was seen; nil where that makes no
	// difference.
	Version *int64 `json:"version,omitempty"`
}

// Seen is the conversation as it stands, for a decision to be made on it.
func (r Row) Seen() Seen { return Seen{ID: r.ID, Last: r.LastLetter, Version: &r.Version} }

// Standing is how conversations stand now.
//
// By hand: ten thousand at once, with their versions.
func (tx *Tx) Standing(ids []int64) ([]Seen, error) {
	return all[Seen](tx.db.Raw("SELECT id, last_letter AS last, "+versionColumn+" AS version FROM conversations c WHERE +owner = ? AND id IN (SELECT value FROM json_each(?))",
		tx.who.Inbox, jsonIDs(ids)))
}

// AllIn lists every conversation of a place, for deciding on all at once.
//
// By hand: ten thousand at once, with their versions.
func (tx *Tx) AllIn(place decide.Place, account int64) ([]Seen, error) {
	query := "SELECT id, last_letter AS last, " + versionColumn + " AS version FROM conversations c WHERE c.owner = ? AND " + is("c.place", place)
	args := []any{tx.who.Inbox}
	if account != 0 {
		query += " AND EXISTS (SELECT 1 FROM conversation_accounts a WHERE a.conversation_id = c.id AND a.account_id = ?)"
		args = append(args, account)
	}
	return all[Seen](tx.db.Raw(query+" ORDER BY back_rank DESC, queue_at DESC, id DESC", args...))
}

// Labels lists the owner's labels, the most used first.
func (tx *Tx) Labels() ([]string, error) {
	return pluck[string](tx.ctx(), gorm.G[conversationLabelRow](tx.db).Group("label").Order("count(*) DESC, label"), "label")
}
