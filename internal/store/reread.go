// By hand: it runs within migrations too, on schemas of their time.

package store

import (
	"encoding/json"
	"errors"
	"fmt"
	"runtime"
	"slices"
	"sync"

	"gorm.io/gorm"

	"ebbe.example/ebbe/internal/core/letter"
	"ebbe.example/ebbe/internal/core/sorting"
	"ebbe.example/ebbe/internal/core/thread"
)

// rereadBatch is how many originals are loaded at once to be read again.
const rereadBatch = 200

// original is a stored letter that is read again.
type original struct {
	ID, Owner   int64
	SHA, Packed []byte
	Pieces      int
	ReturnPath  *string

	letter   letter.Letter // as it first arrived
	told     Letter        // what is to be kept of it
	damaged  bool
	panicked any // what the reading panicked with, if it did
}

func (o *original) read() {
	defer func() { o.panicked = recover() }()
	raw, err := unpacker.DecodeAll(o.Packed, nil)
	if o.damaged = err != nil; o.damaged {
		return
	}
	o.letter = letter.Parse(raw)
	if o.ReturnPath != nil {
		o.letter = o.letter.Under(*o.ReturnPath)
	}
	o.told = LetterOf(o.letter)
}

// eachLetter reads every stored letter again, in the order of their ids, as
// many at once as there are processors. One whose original is damaged, or isn't
// here, is left out.
func (tx *Tx) eachLetter(fn func(original) error) error {
	since9 := "b.pieces, (SELECT a.return_path FROM arrivals a WHERE a.letter_id = l.id ORDER BY a.id LIMIT 1) AS return_path"
	if !tx.db.Migrator().HasColumn("blobs", "pieces") {
		since9 = "0 AS pieces, NULL AS return_path"
	}
	for last := int64(0); ; {
		rows, err := all[original](tx.db.Raw("SELECT l.id, l.owner, b.sha, b.packed, "+since9+` FROM letters l JOIN blobs b ON b.owner = l.owner AND b.sha = l.sha
			WHERE l.id > ? AND l.damage <> ? ORDER BY l.id LIMIT ?`, last, notArchived, rereadBatch))
		if err != nil || len(rows) == 0 {
			return err
		}
		for some := range slices.Chunk(rows, runtime.GOMAXPROCS(0)) {
			var reading sync.WaitGroup
			for i := range some {
				o := &some[i]
				last = o.ID
				if o.Packed, err = tx.at(o.Owner).whole(o.SHA, o.Packed, o.Pieces); err != nil {
					return err
				}
				reading.Go(o.read)
			}
			reading.Wait()
			for i, o := range some {
				some[i] = original{} // large ones are let go at once
				if o.damaged {
					continue
				}
				if err := fn(o); err != nil {
					return err
				}
			}
		}
	}
}

// reread brings up to date what is kept of every letter, after the reading has
// become better. It runs within the transaction of a migration.
func reread(db *gorm.DB) error {
	tx := &Tx{db: db}
	return tx.eachLetter(func(o original) error {
		if o.panicked != nil {
			return nil // it keeps what was read of it before; check names it
		}
		return tx.reread(o.ID, o.told)
	})
}

// retrait reads anew what letters say of their kind.
func retrait(db *gorm.DB) error {
	tx := &Tx{db: db}
	return tx.eachLetter(func(o original) error {
		if o.panicked != nil {
			return nil
		}
		return tx.exec("UPDATE letters SET list_id = ?, traits = traits | ?, words = ? WHERE id = ?", o.told.ListID, o.told.Traits, o.told.Words, o.ID)
	})
}

// reindex makes all let-in letters findable anew, and reads what they say of their kind.
func reindex(db *gorm.DB) error {
	tx := &Tx{db: db}
	err := tx.eachLetter(func(o original) error {
		if o.panicked != nil {
			return nil
		}
		if err := tx.exec("UPDATE letters SET traits = traits | ? WHERE id = ?", o.told.Traits, o.ID); err != nil {
			return err
		}
		key, err := tx.firstID("SELECT row_key FROM letters WHERE id = ? AND in_at IS NOT NULL", o.ID)
		if err != nil || key == 0 {
			return err
		}
		return tx.putIndex(key, indexedOf(o.Owner, o.ID, o.letter))
	})
	if err != nil {
		return err
	}
	// Those whose original can't be read are found by what was kept of them.
	rows, err := all[letterRow](db.Raw("SELECT * FROM letters WHERE in_at IS NOT NULL AND row_key NOT IN (SELECT rowid FROM letters_text)"))
	for _, r := range rows {
		if err == nil {
			err = tx.putIndex(r.RowKey, indexed{subject: letter.Folded(r.Subject), sender: letter.Folded(r.FromName + " " + r.FromEmail)})
		}
	}
	owners, failed := all[int64](db.Raw("SELECT id FROM people"))
	if err = errors.Join(err, failed); err != nil {
		return err
	}
	for _, owner := range owners {
		if err := transaction(db, Nobody(owner)).indexAllNotes(); err != nil {
			return err
		}
	}
	return nil
}

func (tx *Tx) reread(id int64, l Letter) error {
	// Two that were told apart before may be the same now; then the older name stays.
	if err := tx.exec("UPDATE OR IGNORE letters SET identity = ? WHERE id = ?", l.Identity, id); err != nil {
		return err
	}
	return tx.exec(`UPDATE letters SET parts = ?, html = ?, attachments = ?, damage = ?, automatic = ?, report = ?, bare_subject = ?, joins = ?,
		from_name = ?, from_email = ?, recipients = ?, subject = ?, ask = ?, asks = ?, date = coalesce(?, date) WHERE id = ?`,
		keep(l.Parts), l.HTML, l.attachments(), l.Damage, l.Automatic, maybe(l.Report), l.BareSubject, l.Joins,
		l.From.Name, l.From.Email, keep(l.Recipients), l.Subject, l.Ask, l.Asks, maybeAt(l.Date), id)
}

// differingLetters lists letters of which something else is kept than their
// originals say.
func (tx *Tx) differingLetters() (wrong []string, err error) {
	err = tx.eachLetter(func(o original) error {
		id, l, own := o.ID, o.letter, o.told
		if o.panicked != nil {
			wrong = append(wrong, fmt.Sprintf("letter %d can't be read again: %v", id, o.panicked))
			return nil
		}
		r, err := gorm.G[letterRow](everybody(tx.db)).Where("id = ?", id).Take(tx.ctx())
		if err != nil {
			return err
		}
		date := millis(r.Date.Time)
		if !own.Date.IsZero() {
			date = millis(own.Date)
		}
		for _, c := range []struct {
			what      string
			kept, own any
		}{
			{"Message-ID", r.MessageID, own.MessageID}, {"HTML", r.HTML, l.HTML != ""}, {"sender", r.FromName + "<" + r.FromEmail, own.From.Name + "<" + own.From.Email}, {"subject", r.Subject, own.Subject}, {"date", millis(r.Date.Time), date},
			{"receivers", text(r.Recipients), text(keep(own.Recipients))}, {"parts", text(r.Parts), text(keep(own.Parts))}, {"ask", r.Ask, own.Ask}, {"asking", r.Asks, own.Asks},
			{"automatic", r.Automatic, own.Automatic}, {"report", text(r.Report.kept), text(maybe(own.Report).kept)}, {"damage", r.Damage, own.Damage},
			{"subject to join by", r.BareSubject, own.BareSubject}, {"joining", r.Joins, own.Joins},
			{"list", r.ListID, own.ListID}, {"traits", r.Traits &^ sorting.Beside, own.Traits}, {"words", r.Words, own.Words},
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
		said := thread.FactsOf(l, nil, r.ReceivedAt.Time).IDs
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

// text is a kept value in words.
func text[T any](k kept[T]) string {
	if k.Err != nil {
		return k.Err.Error()
	}
	b, err := json.Marshal(k.V)
	return fmt.Sprint(string(b), err)
}

// rerow reads the rows of all conversations off their letters, after the rule
// for them has changed.
func rerow(db *gorm.DB) error {
	if !db.Migrator().HasColumn("letters", "kind") {
		return nil // 0018 does it, once rows are read off what it adds
	}
	owners, err := all[int64](db.Raw("SELECT id FROM people"))
	if err != nil {
		return err
	}
	for _, owner := range owners {
		tx := transaction(db, Nobody(owner))
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
