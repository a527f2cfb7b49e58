package store

import (
	"encoding/json"

	"gorm.io/gorm"

	"ebbe.example/ebbe/internal/core/letter"
)

// rereadBatch is how many letters are held in memory while they are read again.
const rereadBatch = 200

// reread reads every stored letter again and brings up to date what is kept of
// it, after the reading has become better: identity, people, subject, date,
// parts, report, and by what it joins others. It runs within the transaction of a migration.
func reread(db *gorm.DB) error {
	tx := &Tx{db: db}
	for last := int64(0); ; {
		rows, err := all[struct {
			ID     int64
			Packed []byte
		}](db.Raw(`SELECT l.id, b.packed FROM letters l JOIN blobs b ON b.owner = l.owner AND b.sha = l.sha
			WHERE l.id > ? ORDER BY l.id LIMIT ?`, last, rereadBatch))
		if err != nil || len(rows) == 0 {
			return err
		}
		for _, r := range rows {
			last = r.ID
			raw, err := unpacker.DecodeAll(r.Packed, nil)
			if err != nil {
				continue // one that is damaged keeps what was read of it; check names it
			}
			if err := tx.reread(r.ID, letter.Parse(raw)); err != nil {
				return err
			}
		}
	}
}

func (tx *Tx) reread(id int64, l letter.Letter) error {
	info := PartInfos(l.Parts)
	parts, err := json.Marshal(info)
	if err != nil {
		return err
	}
	report, err := reportColumn(l.Report)
	if err != nil {
		return err
	}
	// Two that were told apart before may be the same now; then the older name stays.
	if err := tx.exec("UPDATE OR IGNORE letters SET identity = ? WHERE id = ?", l.Identity(), id); err != nil {
		return err
	}
	recipients, err := json.Marshal(Recipients{To: l.To, Cc: l.Cc, ReplyTo: l.ReplyTo})
	if err != nil {
		return err
	}
	var date *int64
	if !l.Date.IsZero() {
		ms := millis(l.Date)
		date = &ms
	}
	return tx.exec(`UPDATE letters SET parts = ?, html = ?, attachments = ?, damage = ?, automatic = ?, report = ?, bare_subject = ?, joins = ?,
		from_name = ?, from_email = ?, recipients = ?, subject = ?, date = coalesce(?, date) WHERE id = ?`,
		string(parts), l.HTML != "", Letter{Parts: info}.attachments(), l.Damage, string(l.Automatic), report,
		letter.BareSubject(l.Subject), l.JoinsBySubject(), l.From.Name, l.From.Email, string(recipients), l.Subject, date, id)
}

// rerow reads the rows of all conversations off their letters, after the rule
// for them has changed.
func rerow(db *gorm.DB) error {
	owners, err := all[int64](db.Raw("SELECT id FROM people"))
	if err != nil {
		return err
	}
	for _, owner := range owners {
		tx := &Tx{db: db, owner: owner}
		for last := int64(0); ; {
			ids, err := all[int64](db.Raw("SELECT id FROM conversations WHERE owner = ? AND id > ? ORDER BY id LIMIT ?", owner, last, checkedAtOnce))
			if err != nil {
				return err
			}
			if len(ids) == 0 {
				break
			}
			last = ids[len(ids)-1]
			if err := tx.recompute(ids); err != nil {
				return err
			}
		}
	}
	return nil
}
