package store

import (
	"context"
	"encoding/json"
	"fmt"
	"time"

	"gorm.io/gorm"

	"ebbe.example/ebbe/internal/core/decide"
)

// Import is one taking in of files.
type Import struct {
	ID      int64
	Command string
	Name    string
	Path    string
	// Spooled tells that Path is a folder of uploaded files, to be removed.
	Spooled bool
	Quoting int
	// InboxSince sends letters received after it to the inbox; zero sends all
	// to the archive.
	InboxSince time.Time
	State      string // "filling", "running", "done", "stopped" or "failed"
	Journal    int64
	MadeAt     time.Time
	EndedAt    time.Time
	Size, Done int64 // bytes
	Account    ImportAccount
	Trouble    string
}

// ImportAccount is the account of an import, in letters: how many entries
// were read, and what became of them.
type ImportAccount struct {
	Items   int
	Added   int
	Known   int
	Passed  int // files that are no letters
	Damaged int // kept, or left out; ImportTroubles names each
}

// ImportTrouble is a damaged letter of an import, or one that was left out.
type ImportTrouble struct {
	Name         string
	Subject      string
	What         string
	LetterID     int64 // 0 for one that was left out
	Conversation int64
}

func (r importRow) value() Import {
	return Import{
		ID: r.ID, Command: r.CommandID, Name: r.Name, Path: r.Path, Spooled: r.Spooled, Quoting: r.Quoting, InboxSince: r.InboxSince.Time, State: r.State,
		Journal: r.JournalID, MadeAt: r.MadeAt.Time, EndedAt: r.EndedAt.Time, Size: r.Size, Done: r.Done, Trouble: r.Trouble, Account: r.ImportAccount,
	}
}

func imports(rows []importRow, err error) ([]Import, error) {
	out := make([]Import, len(rows))
	for i, r := range rows {
		out[i] = r.value()
	}
	return out, err
}

// AddImport keeps a new import and gives its id; the same command again gives
// the id of the first.
func (tx *Tx) AddImport(im Import) (int64, error) {
	known, err := orNone(gorm.G[importRow](tx.db).Where("command_id = ?", im.Command).Take(tx.ctx()))
	if err != nil || known.ID != 0 {
		return known.ID, err
	}
	row := importRow{
		Person: tx.who.Person, CommandID: im.Command, Name: im.Name, Path: im.Path, Spooled: im.Spooled, Quoting: im.Quoting, InboxSince: at(im.InboxSince), State: im.State,
		JournalID: im.Journal, MadeAt: at(im.MadeAt),
	}
	err = gorm.G[importRow](tx.db).Create(tx.ctx(), &row)
	return row.ID, err
}

// SaveImport keeps how far an import has come.
func (tx *Tx) SaveImport(im Import) error {
	row := importRow{
		Name: im.Name, Path: im.Path, Spooled: im.Spooled, State: im.State, JournalID: im.Journal, EndedAt: maybeAt(im.EndedAt), Size: im.Size, Done: im.Done,
		ImportAccount: im.Account, Trouble: im.Trouble,
	}
	_, err := gorm.G[importRow](tx.db).Where("id = ?", im.ID).
		Select("name", "path", "spooled", "state", "journal_id", "ended_at", "size", "done", "items", "added", "known", "passed", "damaged", "trouble").
		Updates(tx.ctx(), row)
	return err
}

// Import is one import by its id.
func (tx *Tx) Import(id int64) (Import, error) {
	r, err := gorm.G[importRow](tx.db).Where("id = ?", id).Take(tx.ctx())
	return r.value(), err
}

// Imports lists the latest imports, newest first.
func (tx *Tx) Imports(most int) ([]Import, error) {
	return imports(gorm.G[importRow](tx.db).Order("id DESC").Limit(most).Find(tx.ctx()))
}

// CutOff lists imports that were under way when Ebbe last stopped, each with
// whom it is for. A system query.
func (s *Store) CutOff(ctx context.Context) (map[Who][]Import, error) {
	rows, err := gorm.G[importRow](everybody(s.reader)).Where("state IN ('filling', 'running')").Order("id").Find(ctx)
	out := map[Who][]Import{}
	for _, r := range rows {
		who := Who{Person: r.Person, Inbox: int64(r.Owner)}
		out[who] = append(out[who], r.value())
	}
	return out, err
}

// AddImportTrouble keeps what was wrong with one entry of an import.
func (tx *Tx) AddImportTrouble(importID int64, t ImportTrouble) error {
	return gorm.G[importTroubleRow](tx.db).Create(tx.ctx(), &importTroubleRow{
		ImportID: importID, Name: t.Name, Subject: t.Subject, What: t.What, LetterID: maybeID(t.LetterID),
	})
}

// ImportTroubles lists what was wrong, in the order of the entries.
func (tx *Tx) ImportTroubles(importID int64, most int) ([]ImportTrouble, error) {
	rows, err := gorm.G[importTroubleRow](tx.db).Preload("Letter", func(b gorm.PreloadBuilder) error { b.Select("id", "conversation_id"); return nil }).
		Where("import_id = ?", importID).Order("id").Limit(most).Find(tx.ctx())
	out := make([]ImportTrouble, len(rows))
	for i, r := range rows {
		out[i] = ImportTrouble{Name: r.Name, Subject: r.Subject, What: r.What, LetterID: int64(r.LetterID)}
		if r.Letter != nil {
			out[i].Conversation = int64(r.Letter.ConversationID)
		}
	}
	return out, err
}

// Settle gives a new conversation its first place, as an import does: without
// a change of the Journal for each. One that has a place stays there.
//
// By hand: it is called with every conversation of an import.
func (tx *Tx) Settle(conversation int64, place decide.Place, journalID int64, at time.Time) error {
	settled, err := tx.ids("UPDATE conversations SET place = ?, place_since = ? WHERE owner = ? AND id = ? AND place = '' RETURNING last_letter",
		string(place), millis(at), tx.who.Inbox, conversation)
	if err != nil || len(settled) == 0 {
		return err
	}
	tx.ending.history = append(tx.ending.history, []any{tx.who.Inbox, millis(at), journalID, conversation, string(decide.Nowhere), string(place)})
	tx.ending.countMove(tx.who.Inbox, millis(at), decide.Nowhere, place)
	if place != decide.Archive {
		return nil
	}
	return tx.exec("INSERT INTO personal_marks (conversation_id, person, owner, seen) VALUES (?, ?, ?, ?) ON CONFLICT DO UPDATE SET seen = excluded.seen",
		conversation, tx.who.Person, tx.who.Inbox, settled[0])
}

// ImportSource is the source of arrivals by an import.
func ImportSource(journal int64) string { return fmt.Sprintf("import:%d", journal) }

// usedSince tells of a conversation that a person has done something with, or
// that something of theirs hangs on.
const usedSince = `EXISTS (SELECT 1 FROM field_versions v WHERE v.owner = c.owner AND v.object = 'conversation' AND v.object_id = c.id)
	OR EXISTS (SELECT 1 FROM letters l JOIN followup_letters x ON x.letter_id = l.id WHERE l.conversation_id = c.id)
	OR EXISTS (SELECT 1 FROM letters l JOIN field_versions v ON v.owner = l.owner AND v.object = 'letter' AND v.object_id = l.id WHERE l.conversation_id = c.id)
	OR EXISTS (SELECT 1 FROM expectations e WHERE e.conversation_id = c.id)
	OR EXISTS (SELECT 1 FROM drafts d WHERE d.owner = c.owner AND d.conversation_id = c.id)
	OR EXISTS (SELECT 1 FROM outbox o WHERE o.owner = c.owner AND o.conversation_id = c.id)
	OR EXISTS (SELECT 1 FROM appointments a WHERE a.owner = c.owner AND a.conversation_id = c.id)
	OR EXISTS (SELECT 1 FROM letters l JOIN arrivals a ON a.letter_id = l.id WHERE l.conversation_id = c.id AND a.source <> ?)`

// Imported lists the conversations made only of letters of one import and not
// used since, and the titles of the others.
//
// By hand: what was used since is told by eight tables.
func (tx *Tx) Imported(entry int64) (rows []Row, used []string, err error) {
	const of = `c.owner = ? AND c.id IN (SELECT l.conversation_id FROM arrivals a JOIN letters l ON l.id = a.letter_id WHERE a.owner = ? AND a.source = ?)`
	source := ImportSource(entry)
	found, err := tx.conversationRows("SELECT "+conversationColumns+conversationFrom+"WHERE "+of+" AND NOT ("+usedSince+")", tx.who.Person, tx.who.Inbox, tx.who.Inbox, source, source)
	if err != nil {
		return nil, nil, err
	}
	if rows, err = tx.rows(found); err != nil {
		return nil, nil, err
	}
	used, err = all[string](tx.db.Raw("SELECT c.subject FROM conversations c WHERE "+of+" AND ("+usedSince+") ORDER BY c.id", tx.who.Inbox, tx.who.Inbox, source, source))
	return rows, used, err
}

// Export is a letter, or one copy of it, as exports name it.
type Export struct {
	ID         int64
	ReceivedAt time.Time
	Sender     string
	Subject    string
	Starred    bool
	SHA        []byte
	// Copy counts the copies of one letter, from 0.
	Copy int
	// Copies are how many other copies of the letter have come that differ from
	// this one, in their transport fields or otherwise.
	Copies int
}

// Exported lists letters to be written out, in the order in which they came:
// those of the conversations, of a label, or all of them; with copies each
// copy as it came, else each letter once.
//
// By hand: letters with a count of their copies, grouped.
func (tx *Tx) Exported(conversations []int64, label string, copies bool) ([]Export, error) {
	limit, args := "", []any{tx.who.Person, tx.who.Inbox}
	switch {
	case conversations != nil:
		list, err := json.Marshal(conversations)
		if err != nil {
			return nil, err
		}
		limit, args = " AND l.conversation_id IN (SELECT value FROM json_each(?))", append(args, string(list))
	case label != "":
		limit, args = " AND l.conversation_id IN (SELECT conversation_id FROM conversation_labels WHERE owner = l.owner AND label = ?)", append(args, label)
	}
	const star = `coalesce((SELECT m.star FROM personal_marks m WHERE m.conversation_id = l.conversation_id AND m.person = ?), 0) AS star`
	query := `SELECT l.id, l.received_at, l.from_email AS sender, l.subject, ` + star + `, l.sha,
		(SELECT count(DISTINCT a.sha) FROM arrivals a WHERE a.letter_id = l.id AND a.sha <> l.sha) AS copies
		FROM letters l WHERE l.conversation_id IS NOT NULL AND l.owner = ? AND l.in_at IS NOT NULL` + limit + " ORDER BY l.received_at, l.id"
	if copies {
		query = `SELECT l.id, min(a.received_at) AS received_at, l.from_email AS sender, l.subject, ` + star + `, a.sha, 0 AS copies
			FROM letters l JOIN arrivals a ON a.letter_id = l.id
			WHERE l.conversation_id IS NOT NULL AND l.owner = ? AND l.in_at IS NOT NULL AND a.state = 'in'` + limit + " GROUP BY l.id, a.sha ORDER BY min(a.received_at), l.id, min(a.id)"
	}
	rows, err := all[struct {
		ID, ReceivedAt  int64
		Sender, Subject string
		Star            bool
		Sha             []byte
		Copies          int
	}](tx.db.Raw(query, args...))
	out := make([]Export, len(rows))
	seen := map[int64]int{}
	for i, r := range rows {
		out[i] = Export{r.ID, fromMillis(r.ReceivedAt), r.Sender, r.Subject, r.Star, r.Sha, seen[r.ID], r.Copies}
		seen[r.ID]++
	}
	return out, err
}
