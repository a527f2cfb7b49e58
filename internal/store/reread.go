package store

import (
	"fmt"
	"slices"

	"gorm.io/gorm"

	"ebbe.example/ebbe/internal/core/letter"
	"ebbe.example/ebbe/internal/core/thread"
)

// rereadBatch is how many letters are held in memory while they are read again.
const rereadBatch = 200

// eachLetter reads every stored letter again, as it first arrived, in the order
// of their ids. One whose original is damaged, or isn't here, is left out.
func (tx *Tx) eachLetter(fn func(id int64, l letter.Letter) error) error {
	since9 := "b.pieces, (SELECT a.return_path FROM arrivals a WHERE a.letter_id = l.id ORDER BY a.id LIMIT 1) AS return_path"
	if !tx.db.Migrator().HasColumn("blobs", "pieces") {
		since9 = "0 AS pieces, NULL AS return_path"
	}
	for last := int64(0); ; {
		rows, err := all[struct {
			ID, Owner   int64
			SHA, Packed []byte
			Pieces      int
			ReturnPath  *string
		}](tx.db.Raw("SELECT l.id, l.owner, b.sha, b.packed, "+since9+` FROM letters l JOIN blobs b ON b.owner = l.owner AND b.sha = l.sha
			WHERE l.id > ? AND l.damage <> ? ORDER BY l.id LIMIT ?`, last, notArchived, rereadBatch))
		if err != nil || len(rows) == 0 {
			return err
		}
		for _, r := range rows {
			last = r.ID
			packed, err := (&Tx{db: tx.db, owner: r.Owner}).whole(r.SHA, r.Packed, r.Pieces)
			if err != nil {
				return err
			}
			raw, err := unpacker.DecodeAll(packed, nil)
			if err != nil {
				continue
			}
			l := letter.Parse(raw)
			if r.ReturnPath != nil {
				l = l.Under(*r.ReturnPath)
			}
			if err := fn(r.ID, l); err != nil {
				return err
			}
		}
	}
}

// reread brings up to date what is kept of every letter, after the reading has
// become better. It runs within the transaction of a migration.
func reread(db *gorm.DB) error {
	tx := &Tx{db: db}
	return tx.eachLetter(func(id int64, l letter.Letter) error { return tx.reread(id, LetterOf(l)) })
}

func (tx *Tx) reread(id int64, l Letter) error {
	// Two that were told apart before may be the same now; then the older name stays.
	if err := tx.exec("UPDATE OR IGNORE letters SET identity = ? WHERE id = ?", l.Identity, id); err != nil {
		return err
	}
	k, err := l.kept()
	if err != nil {
		return err
	}
	var date *int64
	if !l.Date.IsZero() {
		ms := millis(l.Date)
		date = &ms
	}
	return tx.exec(`UPDATE letters SET parts = ?, html = ?, attachments = ?, damage = ?, automatic = ?, report = ?, bare_subject = ?, joins = ?,
		from_name = ?, from_email = ?, recipients = ?, subject = ?, ask = ?, asks = ?, date = coalesce(?, date) WHERE id = ?`,
		k.parts, l.HTML, l.attachments(), l.Damage, string(l.Automatic), k.report, l.BareSubject, l.Joins,
		l.From.Name, l.From.Email, k.recipients, l.Subject, l.Ask, l.Asks, date, id)
}

// differingLetters lists letters of which something else is kept than their
// originals say.
func (tx *Tx) differingLetters() (wrong []string, err error) {
	err = tx.eachLetter(func(id int64, l letter.Letter) error {
		r, err := one[letterRow](tx.db.Raw("SELECT "+letterColumns+" FROM letters l WHERE l.id = ?", id))
		if err != nil {
			return err
		}
		own := LetterOf(l)
		k, err := own.kept()
		if err != nil {
			return err
		}
		date := r.Date
		if !own.Date.IsZero() {
			date = millis(own.Date)
		}
		for _, c := range []struct {
			what      string
			kept, own any
		}{
			{"Message-ID", r.MessageID, own.MessageID}, {"HTML", r.HTML, l.HTML != ""}, {"sender", r.FromName + "<" + r.FromEmail, own.From.Name + "<" + own.From.Email}, {"subject", r.Subject, own.Subject}, {"date", r.Date, date},
			{"receivers", r.Recipients, k.recipients}, {"parts", r.Parts, k.parts}, {"ask", r.Ask, own.Ask}, {"asking", r.Asks, own.Asks},
			{"automatic", r.Automatic, string(own.Automatic)}, {"report", value(r.Report), value(k.report)}, {"damage", r.Damage, own.Damage},
			{"subject to join by", r.BareSubject, own.BareSubject}, {"joining", r.Joins, own.Joins},
		} {
			if c.kept != c.own {
				wrong = append(wrong, fmt.Sprintf("the %s kept of letter %d is not what its original says: “%v”, not “%v”", c.what, id, c.kept, c.own))
			}
		}
		if r.Identity != own.Identity {
			twin, err := tx.firstID("SELECT count(*) FROM letters o JOIN letters l ON l.owner = o.owner WHERE l.id = ? AND o.identity = ?", id, own.Identity)
			if err != nil {
				return err
			}
			if twin == 0 { // two that were told apart before keep their names
				wrong = append(wrong, fmt.Sprintf("letter %d is known by “%s”, and its original by “%s”", id, r.Identity, own.Identity))
			}
		}
		refs, err := all[string](tx.db.Raw("SELECT ref FROM letter_ids WHERE letter_id = ?", id))
		if err != nil {
			return err
		}
		// One whose own id strangers have used before is not found by it.
		said := thread.FactsOf(l, nil, fromMillis(r.ReceivedAt)).IDs
		without := slices.DeleteFunc(slices.Clone(said), func(ref string) bool { return ref == l.MessageID })
		if !sameSet(refs, said) && !sameSet(refs, without) {
			wrong = append(wrong, fmt.Sprintf("letter %d is found by other ids than its original says: %q, not %q", id, refs, said))
		}
		return nil
	})
	return wrong, err
}

func sameSet(a, b []string) bool {
	slices.Sort(a)
	slices.Sort(b)
	return slices.Equal(a, b)
}

func value(s *string) string {
	if s == nil {
		return ""
	}
	return *s
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
