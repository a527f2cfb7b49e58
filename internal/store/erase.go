// By hand: what is erased stands in thirty tables, and ten thousand rows of them go at once, by what was
// gathered before.

package store

import (
	"database/sql"
	"errors"
	"slices"
	"strings"

	"gorm.io/gorm"

	"ebbe.example/ebbe/internal/core/erasing"
	"ebbe.example/ebbe/internal/core/letter"
	"ebbe.example/ebbe/internal/core/meeting"
	"ebbe.example/ebbe/internal/core/schedule"
	"ebbe.example/ebbe/internal/core/sending"
)

// ErasableLetter is a letter of a conversation in which somebody stands who may be erased.
type ErasableLetter struct {
	erasing.Letter
	// Conversation is where it is; 0 for one that the gate holds.
	Conversation int64
	Attachments  int
}

// ErasableLetters are all letters of the conversations in which some addresses stand, and those from them that the
// gate holds.
func (tx *Tx) ErasableLetters(addresses, own []string) ([]ErasableLetter, error) {
	people := keep(addresses)
	rows, err := all[struct {
		ID             int64
		ConversationID maybeID
		FromEmail      string
		Own            bool
		Recipients     kept[Recipients]
		Attachments    int
	}](tx.db.Raw(`SELECT id, conversation_id, from_email, own, recipients, attachments FROM letters WHERE owner = ?1 AND (conversation_id IN
			(SELECT conversation_id FROM conversation_persons WHERE owner = ?1 AND person IN (SELECT value FROM json_each(?2)))
			OR conversation_id IS NULL AND lower(from_email) IN (SELECT value FROM json_each(?2))) ORDER BY id`, tx.who.Inbox, people))
	out := make([]ErasableLetter, len(rows))
	for i, r := range rows {
		if r.Recipients.Err != nil {
			tx.pass("letter", r.ID, r.Recipients.Err) // whom it went to isn't known: it stays
		}
		out[i] = ErasableLetter{erasing.Letter{ID: r.ID, From: strings.ToLower(r.FromEmail), Own: r.Own}, int64(r.ConversationID), r.Attachments}
		for _, a := range slices.Concat(r.Recipients.V.To, r.Recipients.V.Cc) {
			if k := a.Key(); !slices.Contains(own, k) {
				out[i].To = append(out[i].To, k)
			}
		}
	}
	return out, err
}

// CountCopiesOf counts the copies of letters on mail servers.
func (tx *Tx) CountCopiesOf(letters []int64) (int, error) {
	n, err := gorm.G[remoteLetterRow](tx.few()).Where(inNumbers("letter_id", letters)).Count(tx.ctx(), "*")
	return int(n), err
}

// CountLessonsOf counts what was learned from letters and of senders.
func (tx *Tx) CountLessonsOf(letters []int64, senders []string) (int, error) {
	n, err := gorm.G[lessonRow](tx.db).Where("sender IN ? OR letter_id IN (SELECT value FROM json_each(?))", senders, jsonIDs(letters)).Count(tx.ctx(), "*")
	return int(n), err
}

// ExpectationsOf lists the answers that are or were waited for from some people.
func (tx *Tx) ExpectationsOf(people []string) ([]Expectation, error) {
	return tx.expectations(waitingFor(tx.db, people).Order("id"))
}

func waitingFor(db *gorm.DB, people []string) gorm.ChainInterface[expectationRow] {
	return gorm.G[expectationRow](db).Where("json_valid(persons) AND EXISTS (SELECT 1 FROM json_each(persons) WHERE value IN ?)", people)
}

// SetWaitedFor says from whom an answer is waited for, and who has answered.
func (tx *Tx) SetWaitedFor(expectation int64, persons, answered []string) error {
	_, err := gorm.G[expectationRow](tx.db).Where("id = ?", expectation).Select("persons", "answered").
		Updates(tx.ctx(), expectationRow{Persons: keep(persons), Answered: keep(answered)})
	return err
}

// OutgoingTo lists the letters of the outbox to some people and nobody else, by id, with whether each is still to go.
func (tx *Tx) OutgoingTo(people []string) (ids []int64, underWay bool, err error) {
	rows, err := gorm.G[outgoingRow](tx.db).Where("json_valid(recipients) AND EXISTS (SELECT 1 FROM json_each(recipients) WHERE lower(value) IN ?)", people).Find(tx.ctx())
	for _, r := range rows {
		if r.Recipients.Err != nil || !erasing.Alone(r.Recipients.V, people) {
			continue
		}
		ids = append(ids, r.ID)
		underWay = underWay || slices.Contains(sending.UnderWay, r.State)
	}
	return ids, underWay, err
}

// Erasing is what is erased of somebody, for good.
type Erasing struct {
	// People are their addresses, Names what they are called in titles.
	People, Names []string
	// Letters are those that go, Conversations those of which nothing is left, and Parts the others.
	Letters, Conversations, Parts []int64
	// Drafts go by their numbers, Outgoing by their ids, and Expectations.
	Drafts, Outgoing, Expectations []int64
	// Servers takes the copies on mail servers away too.
	Servers bool
}

// Erase takes somebody out of the database: letters, addresses, lessons and what the Journal says of them. Pages of
// the file that held something are written over.
func (tx *Tx) Erase(e Erasing) error {
	if err := tx.exec("PRAGMA secure_delete = ON"); err != nil {
		return err
	}
	defer func() { _ = tx.exec("PRAGMA secure_delete = OFF") }() // another write then costs what it did
	for _, step := range []func(Erasing) error{tx.gatherErased, tx.eraseMeetings, tx.eraseFromGroups, tx.eraseFromUndone, tx.eraseRows, tx.eraseSteps} {
		if err := step(e); err != nil {
			return err
		}
	}
	tx.ending.touch(tx.who.Inbox, 0)
	if err := tx.recompute(e.Parts); err != nil {
		return err
	}
	// What was taken out of the index stands in its segments until they are merged.
	return tx.execAll("INSERT INTO letters_text (letters_text) VALUES ('optimize')", "INSERT INTO notes_text (notes_text) VALUES ('optimize')", dropGone)
}

// The tables of a connection in which stands what goes.
const (
	makeGone = `CREATE TEMP TABLE gone_people (person TEXT PRIMARY KEY);
		CREATE TEMP TABLE gone (object TEXT, id INTEGER, PRIMARY KEY (object, id));
		CREATE TEMP TABLE gone_changes (id INTEGER PRIMARY KEY);
		CREATE TEMP TABLE gone_steps (id INTEGER PRIMARY KEY)`
	dropGone = `DROP TABLE IF EXISTS temp.gone_people; DROP TABLE IF EXISTS temp.gone;
		DROP TABLE IF EXISTS temp.gone_changes; DROP TABLE IF EXISTS temp.gone_steps`
)

// gatherErased notes what goes, each object by its kind.
func (tx *Tx) gatherErased(e Erasing) error {
	if err := tx.execAll(dropGone, makeGone); err != nil {
		return err
	}
	people, objects := tx.bulk(), tx.bulk()
	for _, p := range e.People {
		people.add(p)
	}
	for kind, ids := range map[string][]int64{"letter": e.Letters, "conversation": e.Conversations, "draft": e.Drafts, "outbox": e.Outgoing, "expectation": e.Expectations} {
		for _, id := range ids {
			objects.add(kind, id)
		}
	}
	for into, rows := range map[string]*bulk{"temp.gone_people": people, "temp.gone": objects} {
		if err := rows.flush("INSERT OR IGNORE INTO "+into+" VALUES ", ""); err != nil {
			return err
		}
	}
	for _, also := range []string{
		// What was joined into a conversation that goes, and what belongs to nothing else.
		"SELECT 'conversation', from_id FROM conversation_redirects WHERE owner = ?1 AND to_id IN " + goneOf("conversation"),
		"SELECT 'expectation', id FROM expectations WHERE owner = ?1 AND conversation_id IN " + goneOf("conversation"),
		"SELECT 'draft', number FROM drafts WHERE owner = ?1 AND conversation_id IN " + goneOf("conversation"),
		"SELECT 'outbox', id FROM outbox WHERE owner = ?1 AND (conversation_id IN " + goneOf("conversation") + " OR auto_to IN (SELECT person FROM temp.gone_people)) AND state IN ('sent', 'failed', 'none')",
		"SELECT 'file', id FROM kept_files WHERE owner = ?1 AND conversation_id IN " + goneOf("conversation"),
		"SELECT 'saving', id FROM savings WHERE owner = ?1 AND letter_id IN " + goneOf("letter"),
		"SELECT 'contact', id FROM contacts WHERE owner = ?1 AND json_valid(emails) AND EXISTS (SELECT 1 FROM json_each(emails) WHERE value IN (SELECT person FROM temp.gone_people))",
		"SELECT 'through', id FROM let_through WHERE owner = ?1 AND kind = 'sender' AND lower(value) IN (SELECT person FROM temp.gone_people)",
		"SELECT 'correction', id FROM corrections WHERE owner = ?1 AND lower(value) IN (SELECT person FROM temp.gone_people)",
		"SELECT 'sender', id FROM senders WHERE owner = ?1 AND email IN (SELECT person FROM temp.gone_people)",
	} {
		if err := tx.exec("INSERT OR IGNORE INTO temp.gone "+also, tx.who.Inbox); err != nil {
			return err
		}
	}
	return nil
}

func goneOf(kind string) string { return "(SELECT id FROM temp.gone WHERE object = '" + kind + "')" }

// eraseMeetings takes away the meetings that somebody has called, and them out of others.
func (tx *Tx) eraseMeetings(e Erasing) error {
	rows, err := gorm.G[appointmentRow](tx.db).Where("organizer <> 'null' OR attendees <> '[]'").Find(tx.ctx())
	if err != nil {
		return err
	}
	for _, r := range rows {
		switch {
		case r.Organizer.Err == nil && slices.Contains(e.People, r.Organizer.V.Key()):
			err = tx.exec("INSERT OR IGNORE INTO temp.gone VALUES ('appointment', ?)", r.ID)
		case r.Attendees.Err == nil && slices.ContainsFunc(r.Attendees.V, attends(e.People)):
			_, err = gorm.G[appointmentRow](tx.db).Where("id = ?", r.ID).Select("attendees").
				Updates(tx.ctx(), appointmentRow{Attendees: keep(slices.DeleteFunc(r.Attendees.V, attends(e.People)))})
		}
		if err != nil {
			return err
		}
	}
	return tx.eraseFromSeries(e)
}

// eraseFromSeries takes somebody off the lists of what recurs.
func (tx *Tx) eraseFromSeries(e Erasing) error {
	rows, err := gorm.G[seriesRow](tx.db).Find(tx.ctx())
	if err != nil {
		return err
	}
	for _, r := range rows {
		list := r.Value.V.Event.Attendees
		if r.Value.Err != nil || !slices.ContainsFunc(list, attends(e.People)) {
			continue
		}
		r.Value.V.Event.Attendees = slices.DeleteFunc(list, attends(e.People))
		if _, err := gorm.G[seriesRow](tx.db).Where("id = ?", r.ID).Select("value").Updates(tx.ctx(), seriesRow{Value: keep(r.Value.V)}); err != nil {
			return err
		}
	}
	return nil
}

func attends(people []string) func(meeting.Attendee) bool {
	return func(a meeting.Attendee) bool { return slices.Contains(people, a.Key()) }
}

// eraseFromGroups takes somebody out of the groups of receivers.
func (tx *Tx) eraseFromGroups(e Erasing) error {
	rows, err := gorm.G[receiverGroupRow](tx.db).Find(tx.ctx())
	if err != nil {
		return err
	}
	for _, r := range rows {
		left := slices.DeleteFunc(slices.Clone(r.Members.V), func(m string) bool {
			a, err := letter.CheckAddress(m)
			return err == nil && slices.Contains(e.People, a.Key())
		})
		if r.Members.Err != nil || len(left) == len(r.Members.V) {
			continue
		}
		if _, err := gorm.G[receiverGroupRow](tx.db).Where("id = ?", r.ID).Select("members").Updates(tx.ctx(), receiverGroupRow{Members: keep(left)}); err != nil {
			return err
		}
	}
	return nil
}

// eraseFromUndone takes somebody out of waitings that were taken back: a redo would bring them again.
func (tx *Tx) eraseFromUndone(e Erasing) error {
	rows, err := waitingFor(tx.db, e.People).Where("alive = 0").Find(tx.ctx())
	for _, w := range readable(tx, "waiting", rows, func(r expectationRow) int64 { return r.ID }, expectationRow.expectation) {
		persons, answered, over := erasing.Without(w.Expectation, e.People)
		if over {
			err = errors.Join(err, tx.exec("INSERT OR IGNORE INTO temp.gone VALUES ('expectation', ?)", w.ID))
		} else {
			err = errors.Join(err, tx.SetWaitedFor(w.ID, persons, answered))
		}
	}
	return err
}

// eraseRows takes away the rows that are somebody's. Counts of what came, and where it was, stay: they name nobody.
func (tx *Tx) eraseRows(e Erasing) error {
	letters, conversations, files := goneOf("letter"), goneOf("conversation"), "(SELECT attachment FROM kept_files WHERE owner = ?1 AND id IN "+goneOf("file")+`
		UNION SELECT a.id FROM attachments a JOIN drafts d ON d.owner = a.owner AND d.id = a.draft WHERE a.owner = ?1 AND d.number IN `+goneOf("draft")+")"
	steps := []string{
		"INSERT OR IGNORE INTO erased (owner, identity) SELECT owner, identity FROM letters WHERE owner = ?1 AND id IN " + letters,
		"DELETE FROM followup_letters WHERE owner = ?1 AND letter_id IN " + letters,
		"DELETE FROM import_troubles WHERE owner = ?1 AND letter_id IN " + letters,
		"DELETE FROM lessons WHERE owner = ?1 AND (letter_id IN " + letters + " OR sender IN (SELECT person FROM temp.gone_people))",
		"UPDATE lessons SET particulars = '' WHERE owner = ?1 AND lower(particulars) IN (SELECT person FROM temp.gone_people)",
		"DELETE FROM savings WHERE owner = ?1 AND id IN " + goneOf("saving"),
		"DELETE FROM remote_tasks WHERE owner = ?1 AND (letter_id IN " + letters + " OR conversation_id IN " + conversations + ")",
		"DELETE FROM attachment_pieces WHERE owner = ?1 AND attachment IN " + files,
		"DELETE FROM attachments WHERE owner = ?1 AND id IN " + files,
		"DELETE FROM kept_files WHERE owner = ?1 AND id IN " + goneOf("file"),
		"DELETE FROM drafts WHERE owner = ?1 AND number IN " + goneOf("draft"),
		"DELETE FROM outbox WHERE owner = ?1 AND id IN " + goneOf("outbox"),
		"DELETE FROM expectations WHERE owner = ?1 AND id IN " + goneOf("expectation"),
		"UPDATE expectations SET offered = NULL, away = '', away_until = '' WHERE owner = ?1 AND offered IN " + letters,
		"DELETE FROM appointments WHERE owner = ?1 AND id IN " + goneOf("appointment"),
		"DELETE FROM contacts WHERE owner = ?1 AND id IN " + goneOf("contact"),
		"DELETE FROM let_through WHERE owner = ?1 AND id IN " + goneOf("through"),
		"DELETE FROM corrections WHERE owner = ?1 AND id IN " + goneOf("correction"),
		"DELETE FROM senders WHERE owner = ?1 AND id IN " + goneOf("sender"),
		"DELETE FROM known_people WHERE owner = ?1 AND email IN (SELECT person FROM temp.gone_people)",
		"DELETE FROM stuck WHERE owner = ?1 AND (kind, object_id) IN (SELECT CASE object WHEN 'conversation' THEN '" + schedule.Return.String() + "' WHEN 'letter' THEN '" + schedule.LetIn.String() +
			"' WHEN 'expectation' THEN '" + schedule.Limit.String() + "' WHEN 'outbox' THEN '" + schedule.Send.String() + "' WHEN 'appointment' THEN '" + schedule.Alarm.String() + "' END, id FROM temp.gone)",
		"DELETE FROM stuck WHERE owner = ?1 AND kind = '" + schedule.Purge.String() + "' AND object_id IN " + conversations,
		"DELETE FROM letters_text WHERE rowid IN (SELECT row_key FROM letters WHERE owner = ?1 AND id IN " + letters + ")",
		"DELETE FROM notes_text WHERE rowid IN (SELECT id FROM conversations WHERE owner = ?1 AND id IN " + conversations + ")",
		purgedBlobs(letters),
		purgedCounts(letters),
		"DELETE FROM letters WHERE owner = ?1 AND id IN " + letters,
		"DELETE FROM conversation_redirects WHERE owner = ?1 AND from_id IN " + conversations,
		"DELETE FROM conversations WHERE owner = ?1 AND id IN " + conversations,
		// What was joined into others keeps the row that it had.
		"UPDATE conversations SET subject = '', from_name = '', from_email = '', ask = '' WHERE owner = ?1 AND place = '' AND lower(from_email) IN (SELECT person FROM temp.gone_people)",
	}
	if e.Servers {
		steps = slices.Insert(steps, 0, "UPDATE remote_letters SET purged = 1 WHERE owner = ?1 AND letter_id IN "+letters)
	}
	for _, q := range steps {
		if err := tx.exec(q, tx.who.Inbox); err != nil {
			return err
		}
	}
	return nil
}

// erasedTitle stands in the Journal for what a step was called that had to do with somebody who was erased.
const erasedTitle = "Something with a correspondent who was erased"

// eraseSteps takes out of the Journal what it says of somebody: when something was done and what it was stays, its
// title and the values don't. A value that is no more has no version either.
func (tx *Tx) eraseSteps(e Erasing) error {
	values, err := tx.named(e, nil, "id, was, now, '', ''", "changes", "was", "now")
	if err != nil {
		return err
	}
	titles, err := tx.named(e, e.Names, "id, title, result, cause, kind", "journal", "title", "result", "cause")
	if err != nil {
		return err
	}
	changes, steps := tx.bulk(), tx.bulk()
	for _, id := range values {
		changes.add(id)
	}
	for _, id := range titles {
		steps.add(id)
	}
	if err := changes.flush("INSERT INTO temp.gone_changes VALUES ", ""); err != nil {
		return err
	}
	if err := steps.flush("INSERT INTO temp.gone_steps VALUES ", ""); err != nil {
		return err
	}
	const ofGone = "(object, object_id, field, person, %) IN (SELECT object, object_id, field, person, version_after FROM changes WHERE id IN (SELECT id FROM temp.gone_changes))"
	version := func(column string) string { return strings.ReplaceAll(ofGone, "%", column) }
	for _, q := range []string{
		"INSERT OR IGNORE INTO temp.gone_changes SELECT id FROM changes WHERE owner = ?1 AND (object, object_id) IN (SELECT object, id FROM temp.gone)",
		"UPDATE journal SET cause = '' WHERE owner = ?1 AND id IN (SELECT id FROM temp.gone_steps) AND cause NOT LIKE 'rule:%'",
		// A step of which something else is left keeps its title, unless that names them.
		`INSERT OR IGNORE INTO temp.gone_steps SELECT DISTINCT journal_id FROM changes c WHERE owner = ?1 AND id IN (SELECT id FROM temp.gone_changes)
			AND NOT EXISTS (SELECT 1 FROM changes o WHERE o.journal_id = c.journal_id AND o.object IN ('conversation', 'letter', 'followup') AND o.id NOT IN (SELECT id FROM temp.gone_changes))`,
		"UPDATE journal SET title = '" + erasedTitle + "', result = 'null' WHERE owner = ?1 AND id IN (SELECT id FROM temp.gone_steps)",
		"UPDATE field_versions SET version = 0 WHERE owner = ?1 AND version <> 0 AND " + version("version"),
		"UPDATE changes SET version_before = 0 WHERE owner = ?1 AND version_before <> 0 AND id NOT IN (SELECT id FROM temp.gone_changes) AND " + version("version_before"),
		`UPDATE journal SET undoable = 0 WHERE owner = ?1 AND undoable = 1 AND id IN (SELECT journal_id FROM changes WHERE id IN (SELECT id FROM temp.gone_changes))
			AND NOT EXISTS (SELECT 1 FROM changes c WHERE c.journal_id = journal.id AND c.id NOT IN (SELECT id FROM temp.gone_changes))`,
		"DELETE FROM changes WHERE owner = ?1 AND id IN (SELECT id FROM temp.gone_changes)",
	} {
		if err := tx.exec(q, tx.who.Inbox); err != nil {
			return err
		}
	}
	return nil
}

// named are the rows of a table of which a text names somebody, by the core's rule; SQLite finds those that may. A
// letter that came from a name of one word is told by its kind.
func (tx *Tx) named(e Erasing, names []string, columns, table string, texts ...string) (ids []int64, err error) {
	may := make([]string, len(texts))
	for i, t := range texts {
		may[i] = "instr(lower(" + t + "), value) > 0"
	}
	sought := slices.Clone(e.People)
	for _, n := range names {
		sought = append(sought, strings.Map(asSQLite, n))
	}
	err = tx.eachRow(func(rows *sql.Rows) error {
		var id int64
		var one, two, three, kind string
		if err := rows.Scan(&id, &one, &two, &three, &kind); err != nil {
			return err
		}
		came := kind == "arrive" && slices.ContainsFunc(names, func(n string) bool { return one == "Letter from "+n })
		if came || erasing.Names(one+"\n"+two+"\n"+three, e.People, names) {
			ids = append(ids, id)
		}
		return nil
	}, "SELECT "+columns+" FROM "+table+" WHERE owner = ? AND EXISTS (SELECT 1 FROM json_each(?) WHERE "+strings.Join(may, " OR ")+")", tx.who.Inbox, keep(sought))
	return ids, err
}

// asSQLite makes letters small as lower() does: those of ASCII.
func asSQLite(r rune) rune {
	if r >= 'A' && r <= 'Z' {
		return r + 'a' - 'A'
	}
	return r
}

// WasErased tells whether a letter was erased on request.
func (tx *Tx) WasErased(identity string) (bool, error) {
	n, err := gorm.G[erasedRow](tx.db).Where("identity = ?", identity).Count(tx.ctx(), "*")
	return n > 0, err
}

// Settle writes what was written into the database file, and empties the log beside it, in which older pages stand.
func (s *Store) Settle() error { return s.writer.Exec("PRAGMA wal_checkpoint(TRUNCATE)").Error }
