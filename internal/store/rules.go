package store

import (
	"database/sql"
	"encoding/json"
	"slices"
	"strconv"
	"strings"
	"time"

	"gorm.io/gorm"

	"ebbe.example/ebbe/internal/core/decide"
	"ebbe.example/ebbe/internal/core/letter"
	"ebbe.example/ebbe/internal/core/routine"
	"ebbe.example/ebbe/internal/core/rule"
	"ebbe.example/ebbe/internal/core/sorting"
	"ebbe.example/ebbe/internal/core/when"
)

// Rule is a rule of an inbox.
type Rule struct {
	rule.Rule
	Position int
	// Expires is when it does, as it was said; nil for never.
	Expires *when.Moment
	// Said is what of a script could not be made of it.
	Said string
}

// RuleCause is the cause of what a rule does, in the Journal.
func RuleCause(id int64) string { return "rule:" + strconv.FormatInt(id, 10) }

func (r ruleRow) rule() (Rule, error) {
	out := Rule{
		Rule:     rule.Rule{ID: r.ID, Name: r.Name, Conditions: r.Conditions.V, Steps: r.Steps.V, Stop: r.Stop, Off: r.Off, People: r.People},
		Position: r.Position, Expires: r.Until.V, Said: r.Said,
	}
	for _, err := range []error{r.Conditions.Err, r.Steps.Err, r.Until.Err} {
		if err != nil {
			return out, err
		}
	}
	return out, nil
}

// Rules lists the rules in their order.
func (tx *Tx) Rules() ([]Rule, error) {
	rows, err := gorm.G[ruleRow](tx.db).Where("alive").Order("position, id").Find(tx.ctx())
	if err != nil || len(rows) == 0 {
		return nil, err
	}
	p, err := tx.Person()
	if err != nil {
		return nil, err
	}
	c := p.Calendar()
	return readable(tx, "rule", rows, func(r ruleRow) int64 { return r.ID }, func(r ruleRow) (Rule, error) {
		out, err := r.rule()
		if out.Expires != nil {
			out.Until = rule.Expiry(*out.Expires, c)
		}
		return out, err
	}), nil
}

// AddRule writes a rule that is not alive yet.
func (tx *Tx) AddRule(at time.Time) (int64, error) {
	row := ruleRow{Conditions: keep(rule.Conditions{}), Steps: keep([]routine.Step{}), MadeAt: stamp{at}}
	err := gorm.G[ruleRow](tx.db).Create(tx.ctx(), &row)
	return row.ID, err
}

// RuleEntries are the latest steps of the Journal that a rule has taken, the newest first.
func (tx *Tx) RuleEntries(id int64, most int) ([]Entry, error) {
	rows, err := gorm.G[entryRow](tx.db).Where("actor = 'rule' AND cause = ?", RuleCause(id)).Order("id DESC").Limit(most).Find(tx.ctx())
	return entries(rows), err
}

// RuleStanding are the steps that a rule has taken and that stand, the newest first.
func (tx *Tx) RuleStanding(id int64) ([]Entry, error) {
	rows, err := gorm.G[entryRow](tx.db).Where("actor = 'rule' AND cause = ? AND undoable = 1 AND undone_by IS NULL", RuleCause(id)).Order("id DESC").Find(tx.ctx())
	return entries(rows), err
}

// RuleEntriesOf are the steps that rules have taken on what a step has let in, the newest first.
func (tx *Tx) RuleEntriesOf(step int64) ([]Entry, error) {
	rows, err := gorm.G[entryRow](tx.db).Where("actor = 'rule' AND command_id LIKE ? AND undoable = 1 AND undone_by IS NULL", RuleCommand(step, 0)+"%").Order("id DESC").Find(tx.ctx())
	return entries(rows), err
}

// RuleCommand is the command under which a rule acts on what a step has let in; of any rule for 0.
func RuleCommand(step, id int64) string {
	out := "ruled:" + strconv.FormatInt(step, 10) + ":"
	if id != 0 {
		out += strconv.FormatInt(id, 10)
	}
	return out
}

// RuleTally is what a rule did: how many conversations it acted on, and when last.
type RuleTally struct {
	Rule int64
	N    int
	Last stamp
}

// RuleTallies count by rule the conversations on which they have acted within [from, to), where that
// stands.
//
// By hand: it counts along the index of these steps.
func (tx *Tx) RuleTallies(from, to time.Time) (map[int64]RuleTally, error) {
	rows, err := all[RuleTally](tx.db.Raw(`SELECT CAST(substr(j.cause, 6) AS INTEGER) AS rule, count(DISTINCT c.object_id) AS n, max(j.at) AS last
		FROM journal j JOIN changes c ON c.journal_id = j.id AND c.object = 'conversation'
		WHERE j.owner = ? AND j.actor = 'rule' AND j.cause LIKE 'rule:%' AND j.at >= ? AND j.at < ? AND j.undone_by IS NULL GROUP BY j.cause`, tx.who.Inbox, millis(from), millis(to)))
	out := make(map[int64]RuleTally, len(rows))
	for _, r := range rows {
		out[r.Rule] = r
	}
	return out, err
}

// Ruled is what rules may act on: a letter from somebody else that was let in, with its facts but for
// its text.
type Ruled struct {
	rule.Facts
	// Amount tells that a sum of money was found in it.
	Amount bool
}

// ruledRow is a row of what rules see, while it is read.
type ruledRow struct {
	Ruled
	recipients, parts sql.RawBytes
	received          stamp
	traits            sorting.Traits
}

// columns are those that are read of it, and where to: each costs as much as a row does, so that only
// what is needed is read.
func (r *ruledRow) columns(needed func(rule.Field) bool) (names string, into []any) {
	list := []string{"l.id", "l.conversation_id"}
	into = []any{&r.Letter, &r.Conversation}
	for _, c := range []struct {
		name string
		into any
		of   []rule.Field
	}{
		{"l.from_name", &r.From.Name, []rule.Field{rule.From}},
		{"l.from_email", &r.From.Email, []rule.Field{rule.From, rule.Domain}},
		{"l.recipients", &r.recipients, []rule.Field{rule.To, rule.Cc}},
		{"l.list_id", &r.List, []rule.Field{rule.List}},
		{"l.subject", &r.Subject, []rule.Field{rule.Subject}},
		{"l.kind", &r.Kind, []rule.Field{rule.Kind}},
		{"CASE WHEN l.attachments > 0 THEN l.parts END", &r.parts, []rule.Field{rule.Attached}},
		{"l.received_at", &r.received, []rule.Field{rule.Hours}},
		{"coalesce((SELECT b.size FROM blobs b WHERE b.owner = l.owner AND b.sha = l.sha), 0)", &r.Size, []rule.Field{rule.Size}},
		{"l.traits", &r.traits, []rule.Field{rule.Amount}},
	} {
		if slices.ContainsFunc(c.of, needed) {
			list, into = append(list, c.name), append(into, c.into)
		}
	}
	return "SELECT " + strings.Join(list, ", ") + " ", into
}

// RuledLetters are some letters, but for own ones. What is needed tells of which fields facts are read.
//
// By hand: a round asks it for ten thousand letters at once.
func (tx *Tx) RuledLetters(ids []int64, needed func(rule.Field) bool) ([]Ruled, error) {
	return tx.ruled(needed, `FROM json_each(?) j CROSS JOIN letters l ON l.id = j.value
		WHERE +l.owner = ? AND l.own = 0`, jsonIDs(ids), tx.who.Inbox)
}

// RuledSince are the letters that came since a time, the oldest first, at most so many of the newest.
//
// By hand: it reads along the index of what came lately.
func (tx *Tx) RuledSince(since time.Time, most int, needed func(rule.Field) bool) ([]Ruled, error) {
	out, err := tx.ruled(needed, `FROM letters l
		WHERE l.owner = ? AND l.own = 0 AND l.in_at IS NOT NULL AND l.received_at >= ? ORDER BY l.received_at DESC, l.id DESC LIMIT ?`, tx.who.Inbox, millis(since), most)
	slices.Reverse(out)
	return out, err
}

// NewestIn are the newest letters from somebody else of the conversations in some places, by their ids.
//
// By hand: it reads along the index of places.
func (tx *Tx) NewestIn(places []decide.Place) ([]int64, error) {
	named, err := json.Marshal(places)
	if err != nil {
		return nil, err
	}
	ids, err := all[int64](tx.db.Raw(`SELECT n FROM (SELECT (SELECT max(l.id) FROM letters l WHERE l.conversation_id = c.id AND l.own = 0) AS n
		FROM conversations c WHERE c.owner = ? AND c.place IN (SELECT value FROM json_each(?))) WHERE n IS NOT NULL`, tx.who.Inbox, string(named)))
	slices.Sort(ids)
	return ids, err
}

// ruled reads facts of letters.
//
// By hand: of ten thousand letters and more at once.
func (tx *Tx) ruled(needed func(rule.Field) bool, query string, args ...any) ([]Ruled, error) {
	var r ruledRow
	columns, into := r.columns(needed)
	rows, err := tx.query(columns+query, args...)
	if err != nil {
		return nil, err
	}
	defer rows.Close()
	var out []Ruled
	known := map[string]Recipients{} // most letters are to the same
	for rows.Next() {
		if err := rows.Scan(into...); err != nil {
			return nil, err
		}
		r.At, r.Amount, r.Files = r.received.Time, r.traits.Has(sorting.Sums), nil
		if len(r.recipients) > 0 {
			to, ok := known[string(r.recipients)]
			if !ok {
				if err := json.Unmarshal(r.recipients, &to); err != nil {
					tx.pass("letter", r.Letter, err)
					continue
				}
				known[string(r.recipients)] = to
			}
			r.To, r.Cc = to.To, to.Cc
		}
		if len(r.parts) > 0 {
			var infos []PartInfo
			if err := json.Unmarshal(r.parts, &infos); err != nil {
				tx.pass("letter", r.Letter, err)
				continue
			}
			for _, p := range infos {
				if !p.Inline {
					r.Files = append(r.Files, rule.File{Name: p.Name, Type: p.Type})
				}
			}
		}
		out = append(out, r.Ruled)
	}
	if err := rows.Err(); err != nil {
		return nil, err
	}
	return out, tx.around(out, needed)
}

// around adds to facts the accounts and labels, where they are asked for.
func (tx *Tx) around(list []Ruled, needed func(rule.Field) bool) error {
	letters, conversations := make([]int64, len(list)), make([]int64, len(list))
	for i, r := range list {
		letters[i], conversations[i] = r.Letter, r.Conversation
	}
	if needed(rule.Account) {
		of := map[int64][]int64{}
		if err := eachPair(tx, func(id, account int64) { of[id] = append(of[id], account) },
			"SELECT a.letter_id, a.account_id FROM json_each(?) j CROSS JOIN arrivals a ON a.letter_id = j.value WHERE +a.owner = ? AND a.account_id IS NOT NULL", jsonIDs(letters), tx.who.Inbox); err != nil {
			return err
		}
		for i := range list {
			list[i].Accounts = of[list[i].Letter]
		}
	}
	if needed(rule.Label) {
		labels := map[int64][]string{}
		if err := eachPair(tx, func(id int64, label string) { labels[id] = append(labels[id], label) },
			"SELECT conversation_id, label FROM conversation_labels WHERE +owner = ? AND conversation_id IN (SELECT value FROM json_each(?))", tx.who.Inbox, jsonIDs(conversations)); err != nil {
			return err
		}
		for i := range list {
			list[i].Labels = labels[list[i].Conversation]
		}
	}
	return nil
}

// OthersUndecided are the letters from somebody else in some conversations that nobody has decided on.
//
// By hand: it goes along the letters of these conversations.
func (tx *Tx) OthersUndecided(conversations []int64) (map[int64][]int64, error) {
	out := map[int64][]int64{}
	return out, eachPair(tx, func(conversation, letter int64) { out[conversation] = append(out[conversation], letter) },
		`SELECT c.id, l.id FROM json_each(?) j CROSS JOIN conversations c ON c.id = j.value JOIN letters l ON l.conversation_id = c.id
			WHERE +c.owner = ? AND l.own = 0 AND l.id > c.decided`, jsonIDs(conversations), tx.who.Inbox)
}

// ReadText is what a letter says; "" for one whose original can't be read.
func (tx *Tx) ReadText(id int64) string {
	raw, err := tx.Original(id)
	if err != nil {
		tx.pass("letter", id, err)
		return ""
	}
	return letter.Parse(raw).Text
}

// SentByRules counts what rules of a kind have sent since a time.
func (tx *Tx) SentByRules(kind string, since time.Time) (int64, error) {
	return gorm.G[outgoingRow](tx.db).Where("auto_kind = ? AND made_at >= ?", kind, at(since)).Count(tx.ctx(), "*")
}

// Subjects are those of some letters, in their order.
func (tx *Tx) Subjects(letters []int64) ([]string, error) {
	rows, err := gorm.G[letterRow](tx.few()).Select("id, subject").Where(inNumbers("id", letters)).Find(tx.ctx())
	of := make(map[int64]string, len(rows))
	for _, r := range rows {
		of[r.ID] = r.Subject
	}
	var out []string
	for _, id := range letters {
		if s, ok := of[id]; ok {
			out = append(out, s)
		}
	}
	return out, err
}

// mostTerms bounds how many words of the index a text may be a part of.
const mostTerms = 400

// MaySay gives the letters in which one of some texts may stand, by the words of the index of which
// they are parts: no letter is left out that has one. nil where that can't be told, or nothing is
// looked for.
//
// By hand: full text.
func (tx *Tx) MaySay(texts []string) (map[int64]bool, error) {
	if len(texts) == 0 {
		return nil, nil
	}
	out := map[int64]bool{}
	for _, text := range texts {
		words := letter.Words(text)
		if len(words) == 0 {
			return nil, nil
		}
		var parts []string
		nowhere := false
		for _, w := range words {
			terms, err := all[string](tx.db.Raw("SELECT term FROM letters_text_words WHERE instr(term, ?) > 0 LIMIT ?", w, mostTerms+1))
			if err != nil {
				return nil, err
			}
			if len(terms) > mostTerms {
				continue
			}
			for i, t := range terms {
				terms[i] = `"` + strings.ReplaceAll(t, `"`, `""`) + `"`
			}
			if nowhere = len(terms) == 0; nowhere {
				break
			}
			parts = append(parts, "("+strings.Join(terms, " OR ")+")")
		}
		if nowhere {
			continue
		}
		if len(parts) == 0 {
			return nil, nil
		}
		ids, err := all[int64](tx.db.Raw("SELECT l.id FROM letters_text t CROSS JOIN letters l ON l.row_key = t.rowid WHERE letters_text MATCH ? AND +l.owner = ?",
			"body : ("+strings.Join(parts, " AND ")+")", tx.who.Inbox))
		if err != nil {
			return nil, err
		}
		for _, id := range ids {
			out[id] = true
		}
	}
	return out, nil
}
