package store

import (
	"maps"
	"slices"
	"time"

	"gorm.io/gorm"

	"ebbe.example/ebbe/internal/core/learning"
	"ebbe.example/ebbe/internal/core/letter"
	"ebbe.example/ebbe/internal/core/sorting"
)

// Correction is what a move has taught about a sender, a list or a domain.
type Correction struct {
	ID     int64
	Scope  sorting.Scope
	Value  string
	Kind   sorting.Kind
	MadeAt stamp
	// Took is how many letters it has put away, where it says that they are not wanted, and
	// TookAt when the last came.
	Took   int
	TookAt maybeStamp
}

// Correction is what it says to the core.
func (c Correction) Correction() sorting.Correction {
	return sorting.Correction{Scope: c.Scope, Value: c.Value, Kind: c.Kind}
}

// Corrections are those that count, the earliest first.
func (tx *Tx) Corrections() ([]Correction, error) {
	rows, err := gorm.G[correctionRow](tx.db).Where("alive").Order("id").Find(tx.ctx())
	out := make([]Correction, len(rows))
	for i, r := range rows {
		out[i] = r.Correction
	}
	return out, err
}

// AddCorrection writes a correction that is not alive yet.
func (tx *Tx) AddCorrection(c sorting.Correction, at time.Time) (int64, error) {
	row := correctionRow{Correction: Correction{Scope: c.Scope, Value: c.Value, Kind: c.Kind, MadeAt: stamp{at}}}
	err := gorm.G[correctionRow](tx.db).Create(tx.ctx(), &row)
	return row.ID, err
}

// Took counts letters that a correction has put away.
func (tx *Tx) Took(id int64, n int, at time.Time) error {
	_, err := gorm.G[correctionRow](tx.db).Where("id = ?", id).Set(to("took", gorm.Expr("took + ?", n)), to("took_at", maybeStamp{stamp{at}})).Update(tx.ctx())
	return err
}

// Unsorted is a letter that is to be sorted, with what is kept of it.
type Unsorted struct {
	From      string // address, lower case
	Automatic letter.Automatic
	Traits    sorting.Traits
	List      string
	// Named tells that it speaks to the owner by name, Meets that it met an expectation, and
	// Known that the owner has written to its sender.
	Named, Meets, Known bool
	// Through tells that the let-through list has let it through a closed gate.
	Through bool
	// Junk says what makes it like what its owner puts into Junk.
	Junk string
	// Learns are its facts from which is learned.
	Learns learning.Facts
}

// ToSort gives letters with what is kept of them that decides of what kind they are.
//
// By hand: a round asks it for ten thousand letters at once.
func (tx *Tx) ToSort(ids []int64) (map[int64]Unsorted, error) {
	rows, err := tx.query(`SELECT l.id, l.from_email, l.list_id, l.automatic, l.traits, l.mentions, l.through <> '', l.words, l.asks, l.attachments, l.joins, l.junk,
			EXISTS (SELECT 1 FROM expectations e WHERE e.met_by = l.id AND +e.owner = l.owner)
		FROM json_each(?) j CROSS JOIN letters l ON l.id = j.value WHERE +l.owner = ?`, jsonIDs(ids), tx.who.Inbox)
	if err != nil {
		return nil, err
	}
	defer rows.Close()
	out, senders := make(map[int64]Unsorted, len(ids)), map[string]bool{}
	for rows.Next() {
		var id int64
		var l letterRow
		var u Unsorted
		if err := rows.Scan(&id, &l.FromEmail, &l.ListID, &u.Automatic, &l.Traits, &l.Mentions, &u.Through, &l.Words, &l.Asks, &l.Attachments, &l.Joins, &u.Junk, &u.Meets); err != nil {
			return nil, err
		}
		u.From, u.List, u.Traits, u.Named, u.Learns = letter.Address{Email: l.FromEmail}.Key(), l.ListID, l.Traits, l.Mentions, l.learns()
		senders[u.From], out[id] = true, u
	}
	if err := rows.Err(); err != nil {
		return nil, err
	}
	known, err := tx.writtenTo(slices.Collect(maps.Keys(senders)))
	for id, u := range out {
		if u.Known = known[u.From]; u.Known {
			out[id] = u
		}
	}
	return out, err
}

// Speaker is the letter that speaks for a conversation, as far as sorting goes.
type Speaker struct {
	Letter int64
	Own    bool
	From   string // address, lower case
	List   string
	Sort   sorting.Verdict
	// Words are how many its new text has; Received is when it came.
	Words    int
	Received time.Time
}

// Speakers are the letters that speak for some conversations.
func (tx *Tx) Speakers(conversations []int64) (map[int64]Speaker, error) {
	spoken, err := gorm.G[conversationRow](tx.few()).Select("id, speaker").Where(inNumbers("id", conversations)).Find(tx.ctx())
	if err != nil {
		return nil, err
	}
	ids := make([]int64, len(spoken))
	for i, c := range spoken {
		ids[i] = c.Speaker
	}
	letters, err := gorm.G[letterRow](tx.few()).Select("id, conversation_id, own, from_email, list_id, kind, kind_why, sorted_out, words, received_at").Where(inNumbers("id", ids)).Find(tx.ctx())
	out := make(map[int64]Speaker, len(letters))
	for _, l := range letters {
		out[int64(l.ConversationID)] = l.speaker()
	}
	return out, err
}

func (r letterRow) speaker() Speaker {
	return Speaker{
		Letter: r.ID, Own: r.Own, From: letter.Address{Email: r.FromEmail}.Key(), List: r.ListID,
		Sort: sorting.Verdict{Kind: r.Kind, Why: r.KindWhy, Out: r.SortedOut}, Words: r.Words, Received: r.ReceivedAt.Time,
	}
}

// Depth is how much of a kind lies in the Shallows.
type Depth struct {
	Kind      sorting.Kind
	N, Unread int
}

// Depths are how much of each kind lies in the Shallows, of kinds of which something does.
//
// By hand: it counts along the index of that place.
func (tx *Tx) Depths() ([]Depth, error) {
	return all[Depth](tx.db.Raw(`SELECT c.kind, count(*) AS n, count(*) FILTER (WHERE max(coalesce(m.seen, 0), c.decided) < c.last_letter) AS unread
		FROM conversations c`+marksOf+`WHERE c.owner = ? AND c.place = 'shallows' GROUP BY c.kind`, tx.who.Person, tx.who.Inbox))
}

// NeverSorted counts the conversations of the inbox that are of no kind.
//
// By hand: it counts along the index of that place.
func (tx *Tx) NeverSorted() (n int, err error) {
	return n, tx.db.Raw("SELECT count(*) FROM conversations WHERE owner = ? AND place = 'inbox' AND kind = ''", tx.who.Inbox).Scan(&n).Error
}

// Lying are the newest conversations of a kind in the Shallows, at most so many.
//
// By hand: as other lists.
func (tx *Tx) Lying(kind sorting.Kind, most int) ([]Row, error) {
	found, err := tx.conversationRows("SELECT "+conversationColumns+conversationFrom+
		"WHERE c.owner = ? AND c.place = 'shallows' AND c.kind = ? ORDER BY c.last_at DESC, c.id DESC LIMIT ?", tx.who.Person, tx.who.Inbox, string(kind), most)
	if err != nil {
		return nil, err
	}
	return tx.rows(found)
}

// CameUp are the newest conversations of a kind that lay in the Shallows by a moment, at most so
// many, and how many there are.
//
// By hand: as other lists.
func (tx *Tx) CameUp(kind sorting.Kind, by time.Time, most int) (rows []Row, n int, err error) {
	const where = "c.owner = ? AND c.place = 'shallows' AND c.kind = ? AND c.queue_at <= ?"
	if err := tx.db.Raw("SELECT count(*) FROM conversations c WHERE "+where, tx.who.Inbox, string(kind), millis(by)).Scan(&n).Error; err != nil || n == 0 {
		return nil, 0, err
	}
	found, err := tx.conversationRows("SELECT "+conversationColumns+conversationFrom+"WHERE "+where+" ORDER BY c.queue_at DESC, c.id DESC LIMIT ?",
		tx.who.Person, tx.who.Inbox, string(kind), millis(by), most)
	if err != nil {
		return nil, 0, err
	}
	rows, err = tx.rows(found)
	return rows, n, err
}

// Undecided is a letter from somebody else in a conversation that stands in the inbox or lies
// in the Shallows.
type Undecided struct {
	Letter, Conversation int64
	Automatic            letter.Automatic
	From                 string // address, lower case
	List                 string
	Sort                 sorting.Verdict
}

// UndecidedLetters are all of them, in no order.
//
// By hand: it goes along the indexes of these two places.
func (tx *Tx) UndecidedLetters() ([]Undecided, error) {
	rows, err := all[letterRow](tx.db.Raw(`SELECT l.id, l.conversation_id, l.automatic, l.from_email, l.list_id, l.kind, l.kind_why, l.sorted_out FROM (
			SELECT id FROM conversations WHERE owner = ?1 AND place = 'inbox' UNION ALL SELECT id FROM conversations WHERE owner = ?1 AND place = 'shallows'
		) c CROSS JOIN letters l ON l.conversation_id = c.id WHERE l.own = 0`, tx.who.Inbox))
	return undecided(rows), err
}

func undecided(rows []letterRow) []Undecided {
	out := make([]Undecided, len(rows))
	for i, r := range rows {
		l := r.speaker()
		out[i] = Undecided{Letter: r.ID, Conversation: int64(r.ConversationID), Automatic: r.Automatic, From: l.From, List: l.List, Sort: l.Sort}
	}
	return out
}

// Unwanted are the letters that are not wanted, in no order.
//
// By hand: it goes along their index.
func (tx *Tx) Unwanted() ([]Undecided, error) {
	rows, err := all[letterRow](tx.db.Raw(`SELECT id, conversation_id, automatic, from_email, list_id, kind, kind_why, sorted_out FROM letters
		WHERE owner = ? AND kind IN ('away', 'junk') AND conversation_id IS NOT NULL`, tx.who.Inbox))
	return undecided(rows), err
}

// PeopleOf are those of a domain who have written to the owner themselves, but for one.
func (tx *Tx) PeopleOf(domain, but string) ([]string, error) {
	return pluck[string](tx.ctx(), gorm.G[knownPersonRow](tx.db).Where(`received > 0 AND email <> ? AND email LIKE ? ESCAPE '\'`, but, "%@"+likeEscape.Replace(domain)).Order("received DESC, email").Limit(3), "email")
}

// Sending is what comes of a list, or of a sender of bulk mail who names none.
type Sending struct {
	// From and Name are the latest sender's, List is its List-Id, "" without one.
	From, Name, List string
	// Kind is that of the newest.
	Kind sorting.Kind
	// N letters came, Opened of them were looked at, and Last is the newest, of Conversation.
	N, Opened          int
	Last, Conversation int64
}

// Sendings are the lists and bulk senders of which something came since then, the busiest
// first, at most so many.
//
// By hand: it goes once over what came since, and counts it by where it came from.
func (tx *Tx) Sendings(since time.Time, most int) ([]Sending, error) {
	return sendings(all[Sending](tx.db.Raw(`WITH came AS MATERIALIZED (
			SELECT l.id, l.conversation_id, lower(l.from_email) AS sender, l.from_name, l.list_id, coalesce(m.seen, 0) >= l.id AS opened
			FROM letters l LEFT JOIN personal_marks m ON m.conversation_id = l.conversation_id AND m.person = ?
			WHERE l.owner = ? AND l.own = 0 AND l.received_at >= ? AND l.in_at IS NOT NULL AND (l.list_id <> '' OR l.traits & ? <> 0 OR l.automatic = ?))
		SELECT sender AS "from", from_name AS name, list_id AS list, count(*) AS n, sum(opened) AS opened, max(id) AS last, conversation_id AS conversation, '' AS kind
		FROM came GROUP BY CASE WHEN list_id <> '' THEN 'list ' || list_id ELSE sender END ORDER BY n DESC, last DESC LIMIT ?`,
		tx.who.Person, tx.who.Inbox, millis(since), int(sorting.Listed), string(letter.Bulk), most)))
}

// sendings names senders as corrections do.
func sendings(list []Sending, err error) ([]Sending, error) {
	for i := range list {
		list[i].From = letter.Address{Email: list[i].From}.Key()
	}
	return list, err
}

// FirstSorted are the senders of whom something was sorted out since then for the first time, the
// latest first, at most so many.
//
// By hand: it goes along the index of what was sorted out.
func (tx *Tx) FirstSorted(since time.Time, most int) ([]Sending, error) {
	return sendings(all[Sending](tx.db.Raw(`WITH first AS MATERIALIZED (
			SELECT from_email FROM letters WHERE owner = ?1 AND sorted_out = 1 GROUP BY from_email HAVING min(received_at) >= ?2)
		SELECT l.from_email AS "from", l.from_name AS name, l.list_id AS list, count(*) AS n, max(l.id) AS last, l.conversation_id AS conversation, l.kind
		FROM first f CROSS JOIN letters l ON l.owner = ?1 AND l.from_email = f.from_email WHERE l.sorted_out = 1
		GROUP BY l.from_email ORDER BY last DESC LIMIT ?3`, tx.who.Inbox, millis(since), most)))
}

// writtenTo tells to which of some addresses the owner has ever written.
//
// By hand: a round asks it for ten thousand of them at once.
func (tx *Tx) writtenTo(emails []string) (map[string]bool, error) {
	list, err := all[string](tx.db.Raw("SELECT email FROM known_people WHERE owner = ? AND sent > 0 AND email IN (SELECT value FROM json_each(?))", tx.who.Inbox, keep(emails)))
	out := make(map[string]bool, len(list))
	for _, email := range list {
		out[email] = true
	}
	return out, err
}

// SortedDues are the earliest days by which something is to be done in the letters of some
// conversations that were sorted out, as 2006-01-02.
//
// By hand: a round asks it for ten thousand conversations at once.
func (tx *Tx) SortedDues(conversations []int64) (map[int64]string, error) {
	rows, err := all[struct {
		ConversationID int64
		Due            string
	}](tx.db.Raw(`SELECT l.conversation_id, min(l.due) AS due FROM json_each(?) j CROSS JOIN letters l ON l.conversation_id = j.value
		WHERE +l.owner = ? AND l.due <> '' AND l.sorted_out = 1 GROUP BY l.conversation_id`, jsonIDs(conversations), tx.who.Inbox))
	out := make(map[int64]string, len(rows))
	for _, r := range rows {
		out[r.ConversationID] = r.Due
	}
	return out, err
}

// Followed are those of some conversations that have an open follow-up.
//
// By hand: a round asks it for ten thousand conversations at once.
func (tx *Tx) Followed(conversations []int64) (map[int64]bool, error) {
	ids, err := tx.ids(`SELECT DISTINCT l.conversation_id FROM json_each(?) j CROSS JOIN letters l ON l.conversation_id = j.value
		CROSS JOIN followup_letters x ON x.letter_id = l.id CROSS JOIN followups f ON f.id = x.followup_id
		WHERE +l.owner = ? AND f.alive AND f.done_at IS NULL`, jsonIDs(conversations), tx.who.Inbox)
	out := make(map[int64]bool, len(ids))
	for _, id := range ids {
		out[id] = true
	}
	return out, err
}
