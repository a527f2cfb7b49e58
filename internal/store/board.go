package store

import (
	"encoding/json"
	"time"

	"gorm.io/gorm"

	"ebbe.example/ebbe/internal/core/change"
	"ebbe.example/ebbe/internal/core/followup"
	"ebbe.example/ebbe/internal/core/kinds"
	"ebbe.example/ebbe/internal/core/when"
)

// Stage is one of the person's own lanes.
type Stage struct {
	ID       int64  `json:"id"`
	Name     string `json:"name"`
	Colour   string `json:"colour" enum:"tide,kelp,heather,lamp,buoy,deep"`
	Shape    string `json:"shape" enum:"circle,square,hexagon,drop,cross,bar"`
	Position int    `json:"position"`
	Most     int    `json:"most" doc:"How many should stand in it at once; 0 for any number"`
}

// Object names the stage in changes.
func (s Stage) Object() change.Object { return kinds.Stage.Of(s.ID) }

// Stages lists the person's stages in their order.
func (tx *Tx) Stages() ([]Stage, error) {
	rows, err := gorm.G[stageRow](tx.db).Where("alive").Order("position, id").Find(tx.ctx())
	out := make([]Stage, len(rows))
	for i, r := range rows {
		out[i] = r.Stage
	}
	return out, err
}

// AddStage writes a stage that is not alive yet.
func (tx *Tx) AddStage(s Stage) (int64, error) {
	row := stageRow{Stage: s}
	err := gorm.G[stageRow](tx.db).Create(tx.ctx(), &row)
	return row.ID, err
}

// KeptFilter is a filter of the board under a name.
type KeptFilter struct {
	ID    int64
	Name  string
	Value string // JSON
}

// KeptFilters lists the filters that were kept, by name.
func (tx *Tx) KeptFilters() ([]KeptFilter, error) {
	rows, err := gorm.G[keptFilterRow](tx.db).Where("alive").Order("name COLLATE NOCASE, id").Find(tx.ctx())
	out := make([]KeptFilter, len(rows))
	for i, r := range rows {
		out[i] = r.KeptFilter
	}
	return out, err
}

// AddKeptFilter writes a filter that is not alive yet.
func (tx *Tx) AddKeptFilter(name, value string) (int64, error) {
	row := keptFilterRow{KeptFilter: KeptFilter{Name: name, Value: value}}
	err := gorm.G[keptFilterRow](tx.db).Create(tx.ctx(), &row)
	return row.ID, err
}

// BoardItems lists follow-ups as far as laying them out goes: the open ones, or
// those closed, the latest first.
//
// By hand: thousands of rows, each due of the same words decoded once.
func (tx *Tx) BoardItems(closed bool, most int) ([]followup.Card, error) {
	where := "f.alive = 1 AND f.done_at IS NULL"
	if closed {
		where = "f.alive = 1 AND f.done_at IS NOT NULL ORDER BY f.done_at DESC, f.id DESC"
	}
	senders, err := tx.senders()
	if err != nil {
		return nil, err
	}
	rows, err := tx.query(`SELECT f.id, f.title, `+dueColumns+`, f.priority, f.status, f.stage_id, f.assignee, f.project, f.context, f.estimate, f.made_at, coalesce(f.done_at, 0)
		FROM followups f WHERE f.owner = ? AND `+where+" LIMIT ?", tx.who.Inbox, most)
	if err != nil {
		return nil, err
	}
	defer rows.Close()
	var out []followup.Card
	dues := dueReader{}
	for rows.Next() {
		var c followup.Card
		var dueAt *int64
		var due *string
		var made, done int64
		var estimate int
		if err := rows.Scan(&c.ID, &c.Title, &dueAt, &due, &c.Priority, &c.Status, &c.Stage, &c.Assignee, &c.Project, &c.Context, &estimate, &made, &done); err != nil {
			return nil, err
		}
		c.Due, c.Sender = dues.moment(dueAt, due), senders[c.ID]
		c.Estimate, c.MadeAt = time.Duration(estimate)*time.Minute, fromMillis(made)
		if done != 0 {
			c.DoneAt = fromMillis(done)
		}
		out = append(out, c)
	}
	return out, rows.Err()
}

// senders are, for each follow-up with letters, who wrote the first of them.
//
// By hand: thousands of rows, which take half again as long by a model.
func (tx *Tx) senders() (map[int64]string, error) {
	rows, err := tx.query("SELECT followup_id, sender FROM followup_letters WHERE +owner = ? ORDER BY followup_id DESC, letter_id DESC", tx.who.Inbox)
	if err != nil {
		return nil, err
	}
	defer rows.Close()
	out := map[int64]string{}
	for rows.Next() {
		var id int64
		var sender string
		if err := rows.Scan(&id, &sender); err != nil {
			return nil, err
		}
		out[id] = sender // the first one comes last
	}
	return out, rows.Err()
}

// dueColumns are a due as a dueReader takes it.
const dueColumns = "f.due_at, f.due"

// dueReader reads the dues of thousands of follow-ups, each of the same words once: many are
// due on the same day.
type dueReader map[string]when.Moment

// moment is nil for no due, and for one that can't be read.
func (r dueReader) moment(at *int64, due *string) *when.Moment {
	if due == nil {
		return nil
	}
	m, ok := r[*due]
	if !ok {
		_ = json.Unmarshal([]byte(*due), &m) // what can't be read has no precision
		if at != nil {
			m.UTC = fromMillis(*at)
		}
		r[*due] = m
	}
	if m.Precision == "" {
		return nil
	}
	return &m
}

// Waiter is who waits for a follow-up, and since when.
type Waiter struct {
	Name  string
	Email string // lower case
	Since time.Time
}

// Waiters finds, for open follow-ups, the people whose letters have had no
// answer since.
//
// By hand: grouped over a join, with what has no answer left out.
func (tx *Tx) Waiters() (map[int64]Waiter, error) {
	rows, err := tx.query(`SELECT x.followup_id, x.sender, lower(l.from_email), min(x.date) FROM followups f JOIN followup_letters x ON x.followup_id = f.id JOIN letters l ON l.id = x.letter_id
		WHERE f.owner = ? AND f.alive = 1 AND f.done_at IS NULL AND l.own = 0 AND l.automatic = '' AND l.asks = 1
		AND NOT EXISTS (SELECT 1 FROM letters o WHERE o.conversation_id = l.conversation_id AND o.own = 1 AND o.date > x.date)
		GROUP BY x.followup_id`, tx.who.Inbox)
	if err != nil {
		return nil, err
	}
	defer rows.Close()
	out := map[int64]Waiter{}
	for rows.Next() {
		var id, since int64
		var w Waiter
		if err := rows.Scan(&id, &w.Name, &w.Email, &since); err != nil {
			return nil, err
		}
		w.Since = fromMillis(since)
		out[id] = w
	}
	return out, rows.Err()
}

// UsedNames lists the projects or contexts in use, open follow-ups first.
func (tx *Tx) UsedNames(field string) ([]string, error) {
	column := map[string]string{"project": "project", "context": "context", "assignee": "assignee"}[field]
	return pluck[string](tx.ctx(), gorm.G[followUpRow](tx.db).Where("alive").Where(column+" <> ''").Group(column).
		Order("count(*) = count(done_at), "+column+" COLLATE NOCASE").Limit(500), column)
}

// FollowUpsWith lists the follow-ups, open or closed, that have a name.
func (tx *Tx) FollowUpsWith(field, name string) ([]int64, error) {
	column := map[string]string{"project": "project", "context": "context", "assignee": "assignee"}[field]
	return pluck[int64](tx.ctx(), gorm.G[followUpRow](tx.db).Where("alive").Where(column+" = ?", name), "id")
}

// FollowUpsInStage lists the follow-ups of a stage.
func (tx *Tx) FollowUpsInStage(stage int64) ([]int64, error) {
	return pluck[int64](tx.ctx(), gorm.G[followUpRow](tx.db).Where("alive AND stage_id = ?", stage), "id")
}

// LastChange is the id of the latest change of an object; 0 if none.
func (tx *Tx) LastChange(o change.Object) (int64, error) {
	last, err := orNone(gorm.G[fieldVersionRow](tx.few()).Where("object = ? AND object_id = ?", o.Kind, o.ID).Order("version DESC").Take(tx.ctx()))
	return last.Version, err
}

// HistoryOf lists the steps that changed a follow-up, the latest first.
//
// The kind stands in the text: an index of some of the rows serves none for a value
// that is only bound.
func (tx *Tx) HistoryOf(id int64, most int) ([]Entry, error) {
	steps := gorm.G[changeRow](tx.db).Select("journal_id").Where("object = '"+string(kinds.FollowUp.Kind)+"' AND object_id = ?", id)
	rows, err := gorm.G[entryRow](tx.few()).Where("id IN (?)", steps).Order("id DESC").Limit(most).Find(tx.ctx())
	return entries(rows), err
}
