package store

import (
	"context"
	"encoding/json"
	"strconv"
	"strings"
	"time"

	"gorm.io/gorm"
	"gorm.io/gorm/clause"

	"ebbe.example/ebbe/internal/core/learning"
	"ebbe.example/ebbe/internal/core/letter"
	"ebbe.example/ebbe/internal/core/sorting"
)

type lessonRow struct {
	ID          int64
	Owner       Owner
	JournalID   int64
	Journal     *entryRow
	LetterID    int64
	At          stamp
	Sender      string
	List        string
	Facts       learning.Fact
	Outcome     learning.Outcome
	Particulars string
	ForgottenBy maybeID
}

func (lessonRow) TableName() string { return "lessons" }

const learnedFact = "learned until this step of the journal"

// Teach makes lessons of what was done in steps of the Journal of which none were made yet, of
// so many at a time, whosoever they are. It tells in which inboxes something was done from which is
// learned, and whether there are more steps. A system query.
func (s *Store) Teach(ctx context.Context, most int64) (inboxes []Taught, more bool, err error) {
	text, err := s.Fact(ctx, learnedFact)
	if err != nil {
		return nil, false, err
	}
	since, err := strconv.ParseInt("0"+text, 10, 64)
	if err != nil {
		return nil, false, err
	}
	last, err := pluck[int64](ctx, gorm.G[entryRow](everybody(s.reader)).Order("id DESC").Limit(1), "id")
	if err != nil || len(last) == 0 || last[0] <= since {
		return nil, false, err
	}
	until := min(since+most, last[0])
	err = s.Write(ctx, Who{}, func(tx *Tx) error {
		if inboxes, err = tx.teach(since, until); err != nil {
			return err
		}
		return gorm.G[factRow](tx.db, clause.OnConflict{UpdateAll: true}).Create(tx.ctx(), &factRow{Name: learnedFact, Value: strconv.FormatInt(until, 10)})
	})
	return inboxes, until < last[0], err
}

// withWhat are the particulars of a decision: the first label, the phrase of a time, to whom.
const withWhat = `coalesce(CASE j.kind
		WHEN 'decide:file' THEN (SELECT min(substr(x.field, 7)) FROM changes x WHERE x.journal_id = j.id AND x.object = 'conversation' AND x.object_id = c.object_id AND x.field LIKE 'label:%' AND x.now = 'true')
		WHEN 'decide:later' THEN (SELECT json_extract(x.now, '$.when.phrase') FROM changes x WHERE x.journal_id = j.id AND x.object = 'conversation' AND x.object_id = c.object_id AND x.field = 'return')
		WHEN 'decide:hand-on' THEN (SELECT json_extract(o.recipients, '$[0]') FROM changes x JOIN outbox o ON o.id = x.object_id WHERE x.journal_id = j.id AND x.object = 'outbox')
	END, ''), `

// Taught is an inbox in which something was done from which is learned. Said tells that its
// owner has said so, or taken that back, and wants to see it.
type Taught struct {
	Owner int64
	Said  bool
}

// taught is a letter with what was done with it in a step.
type taught struct {
	step, owner, at int64
	kind, now       string
	// with are the particulars of a decision.
	with   string
	letter letterRow
}

// teach makes lessons of the steps between two.
//
// By hand: it goes over the steps of everybody; each lesson belongs to whom its step does.
func (tx *Tx) teach(since, until int64) (inboxes []Taught, err error) {
	const about = "l.id, l.from_email, l.list_id, l.traits, l.words, l.asks, l.mentions, l.attachments, l.joins"
	var found []taught
	for _, query := range []string{
		// The letter that was decided on is the newest of somebody else's that was there.
		`SELECT j.id, j.owner, j.at, j.kind, '', ` + withWhat + about + ` FROM journal j CROSS JOIN changes c ON c.journal_id = j.id
			CROSS JOIN letters l ON l.id = (SELECT max(x.id) FROM letters x WHERE x.conversation_id = c.object_id AND x.own = 0 AND x.in_at <= j.at)
			WHERE j.id > ? AND j.id <= ? AND j.actor = 'person' AND j.kind LIKE 'decide:%' AND c.object = 'conversation' AND c.field IN ('place', 'decided') GROUP BY j.id, l.id`,
		`SELECT j.id, j.owner, j.at, j.kind, c.now, '', ` + about + ` FROM journal j CROSS JOIN changes c ON c.journal_id = j.id CROSS JOIN letters l ON l.id = c.object_id
			WHERE j.id > ? AND j.id <= ? AND j.actor = 'person' AND j.kind = 'sort' AND c.object = 'letter' AND c.field = 'sort'`,
	} {
		rows, err := tx.query(query, since, until)
		if err != nil {
			return nil, err
		}
		defer rows.Close()
		for rows.Next() {
			var t taught
			l := &t.letter
			if err := rows.Scan(&t.step, &t.owner, &t.at, &t.kind, &t.now, &t.with, &l.ID, &l.FromEmail, &l.ListID, &l.Traits, &l.Words, &l.Asks, &l.Mentions, &l.Attachments, &l.Joins); err != nil {
				return nil, err
			}
			found = append(found, t)
		}
		if err := rows.Err(); err != nil {
			return nil, err
		}
	}
	lessons := tx.bulk()
	for _, t := range found {
		outcome := t.outcome()
		if !outcome.Tells() {
			continue
		}
		f := t.letter.learns()
		lessons.add(t.owner, t.step, t.letter.ID, t.at, f.Sender, f.List, int64(f.Is), string(outcome), t.with)
	}
	if err := lessons.flush("INSERT INTO lessons (owner, journal_id, letter_id, at, sender, list, facts, outcome, particulars) VALUES ", " ON CONFLICT (journal_id, letter_id) DO UPDATE SET particulars = excluded.particulars"); err != nil {
		return nil, err
	}
	said := []string{MattersKind, ForgetKind}
	return all[Taught](tx.db.Raw(`SELECT j.owner, max(j.kind IN ? OR coalesce(u.kind, '') IN ?) AS said FROM journal j LEFT JOIN journal u ON u.id = j.undo_of
		WHERE j.id > ? AND j.id <= ? AND (j.kind LIKE 'decide:%' OR j.kind = 'sort' OR j.kind IN ? OR j.undo_of IS NOT NULL) GROUP BY j.owner`, said, said, since, until, said))
}

// The kinds of the steps that teach by themselves.
const (
	MattersKind = "matters"
	ForgetKind  = "forget"
)

// outcome is what became of the letter.
func (t taught) outcome() learning.Outcome {
	if decision, ok := strings.CutPrefix(t.kind, "decide:"); ok {
		return learning.Outcome(decision)
	}
	var now sorting.Verdict
	if json.Unmarshal([]byte(t.now), &now) != nil || now.Kind.Refused() {
		return ""
	}
	if now.Kind == sorting.Person {
		return learning.Fetched
	}
	return learning.Sorted
}

// learns are the facts of a letter from which is learned.
func (r letterRow) learns() learning.Facts {
	is := learning.Of(r.Traits, r.Words).With(r.Asks, learning.Asks).With(r.Mentions, learning.Named).With(r.Attachments > 0, learning.Attached).With(r.Joins, learning.Joined)
	return learning.Facts{Sender: letter.Address{Email: r.FromEmail}.Key(), List: r.ListID, Is: is}
}

// Lessons are those that count, in the order of time: what was undone or forgotten doesn't.
//
// By hand: fifty thousand at once.
func (tx *Tx) Lessons() ([]learning.Lesson, error) {
	rows, err := tx.query(`SELECT l.letter_id, l.at, l.sender, l.list, l.facts, l.outcome, l.particulars FROM lessons l CROSS JOIN journal j ON j.id = l.journal_id LEFT JOIN journal f ON f.id = l.forgotten_by
		WHERE l.owner = ? AND j.undone_by IS NULL AND (f.id IS NULL OR f.undone_by IS NOT NULL) ORDER BY l.at, l.letter_id, l.id`, tx.who.Inbox)
	if err != nil {
		return nil, err
	}
	defer rows.Close()
	var out []learning.Lesson
	for rows.Next() {
		var l learning.Lesson
		var at int64
		if err := rows.Scan(&l.Letter, &at, &l.Sender, &l.List, &l.Is, &l.Outcome, &l.Particulars); err != nil {
			return nil, err
		}
		l.At = fromMillis(at)
		out = append(out, l)
	}
	return out, rows.Err()
}

// AddLesson keeps what the owner says of a letter in a step.
func (tx *Tx) AddLesson(step int64, when time.Time, id int64, said learning.Outcome) error {
	row, err := gorm.G[letterRow](tx.few()).Where("id = ?", id).Take(tx.ctx())
	if err != nil {
		return err
	}
	f := row.learns()
	return gorm.G[lessonRow](tx.db).Create(tx.ctx(), &lessonRow{JournalID: step, LetterID: id, At: at(when), Sender: f.Sender, List: f.List, Facts: f.Is, Outcome: said})
}

// Forget lets the lessons of a sender count no longer, from a step on; it tells how many there were.
func (tx *Tx) Forget(step int64, sender string) (int, error) {
	undone := gorm.G[entryRow](tx.db).Select("id").Where("undone_by IS NOT NULL")
	return gorm.G[lessonRow](tx.db).Where("sender = ? AND journal_id NOT IN (?) AND (forgotten_by IS NULL OR forgotten_by IN (?))", sender, undone, undone).
		Update(tx.ctx(), "forgotten_by", maybeID(step))
}

// Unlearn takes back the lessons of what is thrown away by hand, for good.
func (tx *Tx) Unlearn(conversation int64) error {
	letters := gorm.G[letterRow](tx.few()).Select("id").Where("conversation_id = ?", conversation)
	_, err := gorm.G[lessonRow](tx.db).Where("letter_id IN (?)", letters).Delete(tx.ctx())
	return err
}

// Learns are the facts of the letters that speak for some conversations, from which is learned.
//
// By hand: it is asked with every list, for its rows at once.
func (tx *Tx) Learns(conversations []int64) (map[int64]Learnable, error) {
	rows, err := tx.query(`SELECT c.id, l.id, l.from_email, l.list_id, l.traits, l.words, l.asks, l.mentions, l.attachments, l.joins
		FROM json_each(?) j CROSS JOIN conversations c ON c.id = j.value CROSS JOIN letters l ON l.id = c.speaker WHERE +c.owner = ? AND l.own = 0`, jsonIDs(conversations), tx.who.Inbox)
	if err != nil {
		return nil, err
	}
	defer rows.Close()
	out := make(map[int64]Learnable, len(conversations))
	for rows.Next() {
		var id int64
		var l letterRow
		if err := rows.Scan(&id, &l.ID, &l.FromEmail, &l.ListID, &l.Traits, &l.Words, &l.Asks, &l.Mentions, &l.Attachments, &l.Joins); err != nil {
			return nil, err
		}
		out[id] = Learnable{l.ID, l.learns()}
	}
	return out, rows.Err()
}

// Learnable is a letter with its facts.
type Learnable struct {
	Letter int64
	learning.Facts
}
