// By hand: its tables and columns are named by the archive, in whatever schema that has.

package store

import (
	"context"
	"encoding/base64"
	"encoding/json"
	"errors"
	"fmt"
	"strings"

	"gorm.io/gorm"

	"ebbe.example/ebbe/internal/core/letter"
)

// Schema is the version of the newest migration.
func Schema() string { return migrations[len(migrations)-1].ID }

// Dump gives the owner's rows of a table as JSON objects, in the order of
// their keys. Bytes are written in base64, times as milliseconds.
func (tx *Tx) Dump(table string, row func(json.RawMessage) error) error {
	columns, err := tx.columns(table)
	if err != nil {
		return err
	}
	rows, err := tx.db.Raw("SELECT "+strings.Join(columns, ", ")+" FROM "+table+" WHERE "+tableOf(table).owner+" = ? ORDER BY 1, 2", tx.who.Inbox).Rows()
	if err != nil {
		return err
	}
	defer rows.Close()
	values, targets := make([]any, len(columns)), make([]any, len(columns))
	for i := range values {
		targets[i] = &values[i]
	}
	for rows.Next() {
		if err := rows.Scan(targets...); err != nil {
			return err
		}
		object := make(map[string]any, len(columns))
		for i, c := range columns {
			object[c] = values[i] // bytes become base64
		}
		line, err := json.Marshal(object)
		if err != nil {
			return err
		}
		if err := row(line); err != nil {
			return err
		}
	}
	return rows.Err()
}

func (tx *Tx) columns(table string) ([]string, error) {
	return all[string](tx.db.Raw("SELECT name FROM pragma_table_info(?) ORDER BY cid", table))
}

// Load puts a row of an archive into its table.
func (tx *Tx) Load(table string, line json.RawMessage) error {
	tx.ending.touch(tx.who.Inbox, 0)
	d := json.NewDecoder(strings.NewReader(string(line)))
	d.UseNumber()
	var object map[string]any
	if err := d.Decode(&object); err != nil {
		return err
	}
	columns, err := tx.columnsOf(table)
	if err != nil {
		return err
	}
	var names []string
	var values []any
	blob := tableOf(table).blob
	for _, c := range columns {
		v, ok := object[c]
		if !ok {
			continue
		}
		delete(object, c)
		switch x := v.(type) {
		case json.Number:
			if v, err = x.Int64(); err != nil {
				return fmt.Errorf("%s: %w", c, err)
			}
		case string:
			if blob == c {
				if v, err = base64.StdEncoding.DecodeString(x); err != nil {
					return fmt.Errorf("%s: %w", c, err)
				}
			}
		}
		names, values = append(names, c), append(values, v)
	}
	for unknown := range object {
		return fmt.Errorf("a column %q, which is not known", unknown)
	}
	return tx.exec("INSERT INTO "+table+" ("+strings.Join(names, ", ")+") VALUES (?"+strings.Repeat(", ?", len(names)-1)+")", values...)
}

func (tx *Tx) columnsOf(table string) ([]string, error) {
	if c, ok := tx.known[table]; ok {
		return c, nil
	}
	c, err := tx.columns(table)
	if tx.known == nil {
		tx.known = map[string][]string{}
	}
	tx.known[table] = c
	return c, err
}

// Originals lists the digests of the owner's original letters.
func (tx *Tx) Originals(each func(sha []byte) error) error {
	rows, err := gorm.G[blobRow](tx.db).Select("sha").Order("sha").Rows(tx.ctx())
	if err != nil {
		return err
	}
	defer rows.Close()
	for rows.Next() {
		var sha []byte
		if err := rows.Scan(&sha); err != nil {
			return err
		}
		if err := each(sha); err != nil {
			return err
		}
	}
	return rows.Err()
}

// TitlesOf says for people which letters have an original.
func (tx *Tx) TitlesOf(sha []byte) ([]string, error) {
	came := gorm.G[arrivalRow](tx.few()).Select("letter_id").Where("sha = ?", sha)
	rows, err := gorm.G[letterRow](tx.few()).Where("id IN (?)", came).Order("id").Find(tx.ctx())
	out := []string{}
	for _, r := range rows {
		from := letter.Address{Name: r.FromName, Email: r.FromEmail}
		out = append(out, fmt.Sprintf("“%s” from %s, %s", r.Subject, from.Display(), r.ReceivedAt.Format("2 January 2006")))
	}
	return out, err
}

// notArchived is the damage of a letter of which the archive has no original:
// other words stand in its place, and what is kept of it is all there is.
const notArchived = "its original could not be read when it was archived"

// Replace puts other bytes in the place of an original that is lost, and says
// so with its letters. It works on any schema that an archive may have.
func (tx *Tx) Replace(sha []byte, p Packed) error {
	if err := tx.putBlob(p); err != nil {
		return err
	}
	if _, err := gorm.G[arrivalRow](tx.db).Where("sha = ?", sha).Update(tx.ctx(), "sha", p.SHA); err != nil {
		return err
	}
	if _, err := gorm.G[outgoingRow](tx.db).Where("sha = ?", sha).Update(tx.ctx(), "sha", p.SHA); err != nil {
		return err
	}
	_, err := gorm.G[letterRow](tx.db).Where("sha = ?", sha).Set(to("sha", p.SHA), to("damage", notArchived)).Update(tx.ctx())
	return err
}

// Bytes gives an original letter by its digest.
func (tx *Tx) Bytes(sha []byte) ([]byte, error) { return tx.blob(sha) }

// Keep stores an original letter.
func (tx *Tx) Keep(p Packed) error { return tx.putBlob(p) }

// indexBatch is how many letters one transaction of Reindex makes findable.
const indexBatch = 500

// Reindex makes all let-in letters findable that are not, and all notes.
func (s *Store) Reindex(ctx context.Context, who Who) error {
	if err := s.Write(ctx, who, (*Tx).indexAllNotes); err != nil {
		return err
	}
	for last := int64(0); ; {
		n := 0
		err := s.Write(ctx, who, func(tx *Tx) error {
			ids, err := tx.ids(`SELECT l.id FROM letters l WHERE l.owner = ? AND l.id > ? AND l.in_at IS NOT NULL
				AND NOT EXISTS (SELECT 1 FROM letters_text t WHERE t.rowid = l.row_key) ORDER BY l.id LIMIT ?`, tx.who.Inbox, last, indexBatch)
			if err != nil {
				return err
			}
			n = len(ids)
			for _, id := range ids {
				raw, err := tx.Original(id)
				if err != nil {
					return err
				}
				if err := tx.exec("UPDATE letters SET files_read = NULL WHERE owner = ? AND id = ?", tx.who.Inbox, id); err != nil {
					return err
				}
				tx.Index(id, letter.Parse(raw))
				last = id
			}
			return nil
		})
		if err != nil || n == 0 {
			return err
		}
	}
}

// ErrNotEmpty is returned for a database that somebody owns already.
var ErrNotEmpty = errors.New("this Ebbe belongs to somebody already; an archive is restored into an empty one")

// OpenEmpty makes a new database with the schema of an older Ebbe, so that its
// rows fit. Upgrade brings it to the newest.
func OpenEmpty(path, schema string) (*Store, error) {
	writer, err := connect("sqlite3", path, "_txlock=immediate", 1)
	if err != nil {
		return nil, err
	}
	if err := migrator(writer).MigrateTo(schema); err != nil {
		return nil, fmt.Errorf("an archive of schema %q: %w", schema, err)
	}
	reader, err := connect("sqlite3", path, "_query_only=1", readers)
	if err != nil {
		return nil, err
	}
	s := &Store{writer: writer, reader: reader, path: path}
	people, err := s.People(context.Background())
	if err == nil && len(people) > 0 {
		err = ErrNotEmpty
	}
	if err != nil {
		return nil, errors.Join(err, s.Close())
	}
	return s, nil
}

// Upgrade brings the schema to the newest version, counts what rows were written
// into it, and keeps their ids from being given again.
func (s *Store) Upgrade() error {
	if err := migrate(s.writer); err != nil {
		return err
	}
	return s.writer.Transaction(func(db *gorm.DB) error { return errors.Join(recount(db), neverAgain(db)) })
}
