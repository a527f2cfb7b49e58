// By hand: it is done with every letter that comes, and ten thousand rows at once.

package store

import (
	"cmp"
	"maps"
	"slices"
	"time"

	"gorm.io/gorm"

	"ebbe.example/ebbe/internal/core/decide"
	"ebbe.example/ebbe/internal/core/review"
)

// counting is what a transaction has to count once all of it is written: however
// many letters came and conversations moved, each quarter of an hour and each minute
// of them is written once.
type counting struct {
	came  []cameIn
	moves []moved
}

// cameIn are letters that came within a quarter of an hour.
type cameIn struct {
	ownTime
	n int
}

// ownTime is a stretch of time of an inbox, by its number.
type ownTime struct{ owner, number int64 }

// moved are conversations of an inbox that were moved alike at one instant.
type moved struct {
	owner, at int64
	was, now  decide.Place
	n         int
}

func (t ownTime) compare(o ownTime) int {
	return cmp.Or(cmp.Compare(t.owner, o.owner), cmp.Compare(t.number, o.number))
}

// ownPlace is a place of an inbox.
type ownPlace struct {
	owner int64
	place decide.Place
}

func (p ownPlace) compare(o ownPlace) int {
	return cmp.Or(cmp.Compare(p.owner, o.owner), cmp.Compare(p.place, o.place))
}

const (
	quarterMillis = int64(review.Quarter / time.Millisecond)
	minuteMillis  = int64(time.Minute / time.Millisecond)
)

// countLetter counts a letter that came.
func (c *counting) countLetter(owner int64, at time.Time) {
	k := ownTime{owner, millis(at) / quarterMillis}
	if n := len(c.came); n > 0 && c.came[n-1].ownTime == k {
		c.came[n-1].n++
		return
	}
	c.came = append(c.came, cameIn{k, 1})
}

// countMove counts a conversation that was moved.
func (c *counting) countMove(owner, at int64, was, now decide.Place) {
	m := moved{owner, at, was, now, 1}
	if n := len(c.moves); n > 0 {
		if last := c.moves[n-1]; last.owner == m.owner && last.at == m.at && last.was == m.was && last.now == m.now {
			c.moves[n-1].n++
			return
		}
	}
	c.moves = append(c.moves, m)
}

// mark gives what forgets what is counted from now on, where that is taken back.
func (c *counting) mark() (back func()) {
	came, moves := c.came, c.moves
	var lastCame, lastMoved int
	if n := len(came); n > 0 {
		lastCame = came[n-1].n
	}
	if n := len(moves); n > 0 {
		lastMoved = moves[n-1].n
	}
	return func() {
		c.came, c.moves = came, moves
		if n := len(came); n > 0 {
			came[n-1].n = lastCame
		}
		if n := len(moves); n > 0 {
			moves[n-1].n = lastMoved
		}
	}
}

// keepCounts writes down what the transaction has counted.
func (tx *Tx) keepCounts(came []cameIn, moves []moved) error {
	if len(came) == 0 && len(moves) == 0 {
		return nil
	}
	tallies, minutes, lying := tally(came, moves)
	for _, k := range slices.SortedFunc(maps.Keys(tallies), ownTime.compare) {
		t := tallies[k]
		if err := tx.exec(`INSERT INTO tallies (owner, quarter, came, entered, gone) VALUES (?, ?, ?, ?, ?)
			ON CONFLICT DO UPDATE SET came = came + excluded.came, entered = entered + excluded.entered, gone = gone + excluded.gone`,
			k.owner, k.number, t.Came, t.Entered, t.Gone); err != nil {
			return err
		}
	}
	for _, k := range slices.SortedFunc(maps.Keys(minutes), ownTime.compare) {
		if err := tx.keepMinute(k, minutes[k]); err != nil {
			return err
		}
	}
	for _, k := range slices.SortedFunc(maps.Keys(lying), ownPlace.compare) {
		if err := tx.exec("INSERT INTO place_counts (owner, place, n) VALUES (?, ?, ?) ON CONFLICT DO UPDATE SET n = n + excluded.n", k.owner, k.place, lying[k]); err != nil {
			return err
		}
	}
	return nil
}

// step is a step of the inbox at an instant.
type step struct {
	at int64
	by int
}

// tally sums up what came and moved, by the core's rules.
func tally(came []cameIn, moves []moved) (tallies map[ownTime]Tally, minutes map[ownTime][]step, lying map[ownPlace]int) {
	tallies, minutes, lying = map[ownTime]Tally{}, map[ownTime][]step{}, map[ownPlace]int{}
	for _, c := range came {
		t := tallies[c.ownTime]
		t.Came += c.n
		tallies[c.ownTime] = t
	}
	for _, m := range moves {
		quarter := ownTime{m.owner, m.at / quarterMillis}
		t := tallies[quarter]
		if decide.Entered(m.was, m.now) {
			t.Entered += m.n
		}
		if decide.Gone(m.was, m.now) {
			t.Gone += m.n
		}
		if t != (Tally{}) {
			tallies[quarter] = t
		}
		if by := decide.Step(m.was, m.now) * m.n; by != 0 {
			minute := ownTime{m.owner, m.at / minuteMillis}
			minutes[minute] = append(minutes[minute], step{m.at, by})
		}
		if m.was.Undecided() {
			lying[ownPlace{m.owner, m.was}] -= m.n
		}
		if m.now.Undecided() {
			lying[ownPlace{m.owner, m.now}] += m.n
		}
	}
	return tallies, minutes, lying
}

// keepMinute adds steps to a minute; one of which the order is lost is counted anew.
func (tx *Tx) keepMinute(k ownTime, steps []step) error {
	kept, err := all[tideRow](tx.db.Raw("SELECT * FROM tides WHERE owner = ? AND minute = ?", k.owner, k.number))
	if err != nil {
		return err
	}
	var m review.Minute
	if len(kept) > 0 {
		m = kept[0].value()
	}
	for _, s := range steps {
		if !m.Add(fromMillis(s.at), s.by) {
			moves, err := moves(tx.db, "owner = ? AND at >= ? AND at < ?", k.owner, k.number*minuteMillis, (k.number+1)*minuteMillis)
			if err != nil {
				return err
			}
			_, minutes, _ := tally(nil, moves)
			m = minuteOf(minutes[k])
			break
		}
	}
	return tx.exec(`INSERT INTO tides (owner, minute, last_at, sum, before, top, low, low_at) VALUES (?, ?, ?, ?, ?, ?, ?, ?)
		ON CONFLICT DO UPDATE SET last_at = excluded.last_at, sum = excluded.sum, before = excluded.before, top = excluded.top, low = excluded.low, low_at = excluded.low_at`,
		k.owner, k.number, millis(m.Last), m.Sum, m.Before, m.Top, m.Low, millis(m.LowAt))
}

// minuteOf counts steps, which are in their order.
func minuteOf(steps []step) (m review.Minute) {
	for _, s := range steps {
		m.Add(fromMillis(s.at), s.by)
	}
	return m
}

func (r tideRow) value() review.Minute {
	return review.Minute{Last: r.LastAt.Time, Sum: r.Sum, Before: r.Before, Top: r.Top, Low: r.Low, LowAt: r.LowAt.Time}
}

// moves are the moves of the history, in the order in which they happened.
func moves(db *gorm.DB, where string, args ...any) (out []moved, err error) {
	rows, err := db.Raw("SELECT owner, at, was, now, count(*) FROM place_history WHERE "+where+" GROUP BY 1, 2, 3, 4 ORDER BY 1, 2", args...).Rows()
	if err != nil {
		return nil, err
	}
	defer rows.Close()
	for rows.Next() {
		var m moved
		if err := rows.Scan(&m.owner, &m.at, &m.was, &m.now, &m.n); err != nil {
			return nil, err
		}
		out = append(out, m)
	}
	return out, rows.Err()
}

// recount counts everything anew, for everybody: after the rule has changed, or where
// rows were written past it, as those of an archive are.
func recount(db *gorm.DB) error {
	type quarter struct {
		Owner, Quarter int64
		Came           int
	}
	letters, err := all[quarter](db.Raw("SELECT owner, received_at / ? AS quarter, count(*) AS came FROM letters WHERE own = 0 GROUP BY 1, 2", quarterMillis))
	if err != nil {
		return err
	}
	// More may have come than is still there: what is purged was counted.
	kept, err := all[quarter](db.Raw("SELECT owner, quarter, came FROM tallies"))
	if err != nil {
		return err
	}
	came := map[ownTime]int{}
	for _, q := range slices.Concat(letters, kept) {
		k := ownTime{q.Owner, q.Quarter}
		came[k] = max(came[k], q.Came)
	}
	var counted []cameIn
	for k, n := range came {
		if n > 0 {
			counted = append(counted, cameIn{k, n})
		}
	}
	history, err := moves(db, "1")
	if err != nil {
		return err
	}
	tx := &Tx{db: db}
	if err := tx.execAll("DELETE FROM tallies", "DELETE FROM tides", "DELETE FROM place_counts"); err != nil {
		return err
	}
	return tx.keepCounts(counted, history)
}

// Tide gives what went through the inbox from then until then, by minutes in their
// order.
func (tx *Tx) Tide(from, until time.Time) ([]review.Minute, error) {
	rows, err := tx.numbers("last_at, sum, before, top, low, low_at", "(SELECT * FROM tides WHERE owner = ? AND minute >= ? AND minute * ? < ? ORDER BY minute)",
		tx.who.Inbox, millis(from)/minuteMillis, minuteMillis, millis(until))
	out := make([]review.Minute, len(rows))
	for i, r := range rows {
		out[i] = review.Minute{Last: fromMillis(r[0]), Sum: int(r[1]), Before: int(r[2]), Top: int(r[3]), Low: int(r[4]), LowAt: fromMillis(r[5])}
	}
	return out, err
}

// Undecided is how many conversations are in the inbox, or in the Shallows.
func (tx *Tx) Undecided(place decide.Place) (int, error) {
	row, err := orNone(gorm.G[placeCountRow](tx.db).Where("place = ?", place).Take(tx.ctx()))
	return row.N, err
}

// InboxSince is by how much the inbox has grown since then.
func (tx *Tx) InboxSince(since time.Time) (n int, err error) {
	err = gorm.G[tideRow](tx.db).Where("minute >= ?", millis(since)/minuteMillis).Select("coalesce(sum(sum), 0)").Scan(tx.ctx(), &n)
	return n, err
}
