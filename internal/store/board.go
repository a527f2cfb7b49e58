package store

import (
	"time"

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
	return all[Stage](tx.db.Raw("SELECT id, name, colour, shape, position, most FROM stages WHERE owner = ? AND alive = 1 ORDER BY position, id", tx.who.Inbox))
}

// AddStage writes a stage that is not alive yet.
func (tx *Tx) AddStage(s Stage) (int64, error) {
	return tx.insertReturning("INSERT INTO stages (owner, name, colour, shape, position, most) VALUES (?, ?, ?, ?, ?, ?)", tx.who.Inbox, s.Name, s.Colour, s.Shape, s.Position, s.Most)
}

// KeptFilter is a filter of the board under a name.
type KeptFilter struct {
	ID    int64
	Name  string
	Value string // JSON
}

// KeptFilters lists the filters that were kept, by name.
func (tx *Tx) KeptFilters() ([]KeptFilter, error) {
	return all[KeptFilter](tx.db.Raw("SELECT id, name, value FROM kept_filters WHERE owner = ? AND alive = 1 ORDER BY name COLLATE NOCASE, id", tx.who.Inbox))
}

// AddKeptFilter writes a filter that is not alive yet.
func (tx *Tx) AddKeptFilter(name, value string) (int64, error) {
	return tx.insertReturning("INSERT INTO kept_filters (owner, name, value) VALUES (?, ?, ?)", tx.who.Inbox, name, value)
}

// BoardItems lists follow-ups as far as laying them out goes: the open ones, or
// those closed, the latest first.
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
	for rows.Next() {
		var c followup.Card
		var due dueScan
		var made, done int64
		var estimate int
		if err := rows.Scan(&c.ID, &c.Title, &due.at, &due.precision, &due.wall, &c.Priority, &c.Status, &c.Stage, &c.Assignee, &c.Project, &c.Context, &estimate, &made, &done); err != nil {
			return nil, err
		}
		c.Due, c.Sender = due.moment(), senders[c.ID]
		c.Estimate, c.MadeAt = time.Duration(estimate)*time.Minute, fromMillis(made)
		if done != 0 {
			c.DoneAt = fromMillis(done)
		}
		out = append(out, c)
	}
	return out, rows.Err()
}

// senders are, for each follow-up with letters, who wrote the first of them.
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

// dueColumns are a due as far as laying out and weighing go: its parts are read
// by SQLite, which costs a tenth of decoding the whole.
// What can't be read has an instant only.
const dueColumns = "f.due_at, CASE WHEN json_valid(f.due) THEN f.due ->> '$.precision' END, CASE WHEN json_valid(f.due) THEN f.due ->> '$.wall' END"

type dueScan struct {
	at              *int64
	precision, wall *string
}

func (d dueScan) moment() *when.Moment {
	if d.precision == nil {
		return nil
	}
	m := &when.Moment{Precision: when.Precision(*d.precision)}
	if d.at != nil {
		m.UTC = fromMillis(*d.at)
	}
	if d.wall != nil {
		m.Wall = *d.wall
	}
	return m
}

// Waiter is who waits for a follow-up, and since when.
type Waiter struct {
	Name  string
	Email string // lower case
	Since time.Time
}

// Waiters finds, for open follow-ups, the people whose letters have had no
// answer since.
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
	return all[string](tx.db.Raw("SELECT "+column+" FROM followups WHERE owner = ? AND alive = 1 AND "+column+" <> '' GROUP BY "+column+
		" ORDER BY count(*) = count(done_at), "+column+" COLLATE NOCASE LIMIT 500", tx.who.Inbox))
}

// FollowUpsWith lists the follow-ups, open or closed, that have a name.
func (tx *Tx) FollowUpsWith(field, name string) ([]int64, error) {
	column := map[string]string{"project": "project", "context": "context", "assignee": "assignee"}[field]
	return all[int64](tx.db.Raw("SELECT id FROM followups WHERE owner = ? AND alive = 1 AND "+column+" = ?", tx.who.Inbox, name))
}

// FollowUpsInStage lists the follow-ups of a stage.
func (tx *Tx) FollowUpsInStage(stage int64) ([]int64, error) {
	return all[int64](tx.db.Raw("SELECT id FROM followups WHERE owner = ? AND alive = 1 AND stage_id = ?", tx.who.Inbox, stage))
}

// LastChange is the id of the latest change of an object; 0 if none.
func (tx *Tx) LastChange(o change.Object) (int64, error) {
	return tx.firstID("SELECT coalesce(max(version), 0) FROM field_versions WHERE object = ? AND object_id = ? AND owner = ?", o.Kind, o.ID, tx.who.Inbox)
}

// HistoryOf lists the steps that changed a follow-up, the latest first.
func (tx *Tx) HistoryOf(id int64, most int) ([]Entry, error) {
	rows, err := all[entryRow](tx.db.Raw("SELECT "+entryColumns+` FROM journal WHERE owner = ? AND id IN (
		SELECT journal_id FROM changes WHERE owner = ? AND object = 'followup' AND object_id = ?) ORDER BY id DESC LIMIT ?`, tx.who.Inbox, tx.who.Inbox, id, most))
	return entries(rows), err
}
