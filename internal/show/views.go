package show

import (
	"context"
	"encoding/json"
	"fmt"
	"slices"
	"strings"
	"time"

	"ebbe.example/ebbe/internal/core/decide"
	"ebbe.example/ebbe/internal/core/letter"
	"ebbe.example/ebbe/internal/core/sorting"
	"ebbe.example/ebbe/internal/core/when"
	"ebbe.example/ebbe/internal/say"
	"ebbe.example/ebbe/internal/store"
	"ebbe.example/ebbe/internal/work"
)

// Row is a conversation as lists show it.
type Row struct {
	ID          int64          `json:"id"`
	Place       decide.Place   `json:"place"`
	Title       string         `json:"title"`
	From        letter.Address `json:"from"`
	Ask         string         `json:"ask"`
	Asks        bool           `json:"asks" doc:"The text is something asked, not only a first sentence"`
	Action      string         `json:"action" doc:"The ask as the title of a follow-up"`
	Letters     int            `json:"letters"`
	Last        int64          `json:"last" doc:"The newest letter; sent back with a decision"`
	Version     int64          `json:"version" doc:"Of where it stands; sent back with a decision, which is refused if it was decided otherwise since"`
	At          time.Time      `json:"at"`
	Unread      bool           `json:"unread"`
	Star        bool           `json:"star"`
	Attachments int            `json:"attachments"`
	Labels      []string       `json:"labels"`
	Accounts    []int64        `json:"accounts"`
	Group       Group          `json:"group"`
	Back        string         `json:"back,omitempty" doc:"Why it came back, in words"`
	Why         string         `json:"why,omitempty" doc:"That in a word or two, for its row; empty where the head of its group says it"`
	Again       *Proposal      `json:"again,omitempty" doc:"The old time, offered once when an answer came first"`
	Same        *Proposal      `json:"same,omitempty" doc:"As long again as it was put off before"`
	Return      string         `json:"return,omitempty" doc:"When it comes back, in words"`
	ReturnAt    *time.Time     `json:"returnAt,omitempty"`
	PutOffs     int            `json:"putOffs,omitempty"`
	Often       bool           `json:"often,omitempty" doc:"Put off so often that Ebbe asks before the next time"`
	PlaceSince  time.Time      `json:"placeSince"`
	DaysLeft    int            `json:"daysLeft,omitempty" doc:"In the bin: days until it is purged"`
	FollowUps   []RowFollowUp  `json:"followUps"`
	Waiting     []string       `json:"waiting"`
	To          []string       `json:"to,omitempty" doc:"In Sent: who the letter went to"`
	Letter      int64          `json:"letter,omitempty" doc:"In Sent and search: the letter meant"`
	CameBack    bool           `json:"cameBack"`
	Through     string         `json:"through,omitempty" doc:"What let it through a closed gate"`
	Quiet       bool           `json:"quiet,omitempty" doc:"Stays in the archive when letters come, unless one is to the person alone"`
	Noted       bool           `json:"noted,omitempty" doc:"It has a note"`
	High        string         `json:"high,omitempty" doc:"Why it is ranked high, by what was done with others like it; empty where it isn’t"`
	Failed      bool           `json:"failed,omitempty" doc:"Came back because a letter of mine could not be delivered"`
	// Marked is where something was found, in a row of a search.
	Marked *Marked `json:"marked,omitempty"`
}

// Group says how a row came to its place in the queue.
type Group struct {
	Key   string `json:"key"`
	Label string `json:"label"`
	// Kind is that of the Shallows that has come up; "" for letters of the inbox.
	Kind sorting.Kind `json:"kind,omitempty" enum:"receipts,notices,reading,meetings,copies"`
}

// RowFollowUp is an open follow-up on a row.
type RowFollowUp struct {
	ID    int64  `json:"id"`
	Title string `json:"title"`
	Due   string `json:"due,omitempty"`
	Late  bool   `json:"late,omitempty"`
	Flag  bool   `json:"flag,omitempty"`
}

// Viewer is what rows need to be put into words.
type Viewer struct {
	Now    time.Time
	Cal    when.Calendar
	Person store.Person
	Spots  []store.Spot
}

// Viewer is whoever reads, now.
func (a *Show) Viewer(tx *store.Tx) (Viewer, error) {
	p, err := tx.Person()
	if err != nil {
		return Viewer{}, err
	}
	spots, err := tx.Spots()
	return Viewer{a.now(), p.Calendar(), p, spots}, err
}

// spotName is what a place is called; it may have been taken off the list.
func (v Viewer) spotName(id int64) string {
	for _, s := range v.Spots {
		if s.ID == id {
			return s.Name
		}
	}
	return "a place"
}

func (v Viewer) speak(m when.Moment) string { return when.Speak(m, v.Now, v.Cal) }

// short prints an instant as briefly as its distance allows.
func (v Viewer) short(t time.Time) string {
	return when.Speak(when.Moment{UTC: t, Precision: when.ToMinute}, v.Now, v.Cal)
}

func (v Viewer) row(r store.Row) Row {
	out := Row{
		ID: r.ID, Place: r.Place, Title: r.Title(), From: r.From, Ask: r.Ask, Asks: r.Asks,
		Letters: r.Letters, Last: r.LastLetter, Version: r.Version, At: r.LastAt, Unread: r.Unread, Star: r.Star, Attachments: r.Attachments,
		Labels: OrEmpty(r.Labels), Accounts: OrEmpty(r.Accounts), PutOffs: r.PutOffs, Often: decide.Often(r.State()), PlaceSince: r.PlaceSince, Waiting: OrEmpty(r.Waiting),
		FollowUps: []RowFollowUp{}, CameBack: r.Back != nil, Through: r.Through, Quiet: r.Quiet, Noted: r.Note != "",
	}
	out.Group = v.group(r)
	if r.Back != nil {
		out.Back, out.Failed = v.backInWords(*r.Back), r.Back.Reason == decide.BackFailed
		out.Why = say.BackBriefly(*r.Back)
		out.Again, out.Same = v.again(*r.Back), v.sameAgain(*r.Back)
	}
	if r.Return != nil {
		out.Return = v.returns(*r.Return)
		if r.Return.When.Precision != when.Open {
			out.ReturnAt = &r.Return.When.UTC
		}
	}
	if r.Place == decide.Bin {
		out.DaysLeft = decide.DaysLeft(r.PlaceSince, v.Now)
	}
	for _, f := range r.FollowUps {
		out.FollowUps = append(out.FollowUps, v.mark(f))
	}
	return out
}

// again offers the time for which a conversation had been put off when a
// letter came first.
func (v Viewer) again(b decide.Back) *Proposal {
	if b.Old == nil || b.Reason == decide.BackTime || b.Old.Precision != when.Open && !b.Old.UTC.After(v.Now) {
		return nil
	}
	return &Proposal{Phrase: b.Old.Canonical(v.Cal), Label: "the old time", Words: v.speak(*b.Old)}
}

// sameAgain offers to put a conversation off for as long as before.
func (v Viewer) sameAgain(b decide.Back) *Proposal {
	if b.Reason == decide.BackLook {
		return &Proposal{Phrase: "someday", Label: "as long again", Words: "someday"}
	}
	if b.Reason != decide.BackTime || b.Old == nil || b.PutOff.IsZero() {
		return nil
	}
	phrase := fmt.Sprintf("in %d minutes", max(1, int(b.Old.UTC.Sub(b.PutOff).Minutes())))
	if days := v.Cal.Today(b.PutOff).DaysUntil(b.Old.Day(v.Cal)); days > 0 {
		clock := b.Old.UTC.In(v.Cal.Zone).Format("15:04")
		phrase = fmt.Sprintf("in %d days at %s", days, clock)
		if b.Old.Precision == when.ToDay {
			phrase = fmt.Sprintf("in %d days around %s", days, clock)
		}
	}
	r, err := when.Read(phrase, v.Now, v.Cal)
	if err != nil {
		return nil
	}
	return &Proposal{Phrase: phrase, Label: "as long again", Words: v.speak(r.Moment)}
}

// returns says when a conversation comes back.
func (v Viewer) returns(r decide.Return) string {
	words := v.speak(r.When)
	if r.If == when.Always {
		return words
	}
	return strings.TrimPrefix(say.Until(words, r.When.Precision != when.Open, r.If, v.spotName(r.Spot), r.Who), "until ")
}

func (v Viewer) mark(f store.FollowUpMark) RowFollowUp {
	mark := RowFollowUp{ID: f.ID, Title: f.Title, Flag: f.Flag}
	if f.Due == nil {
		return mark
	}
	var due when.Moment
	if json.Unmarshal([]byte(*f.Due), &due) == nil {
		mark.Due, mark.Late = v.due(due)
	}
	return mark
}

// due puts a due into words; a day has no clock time.
func (v Viewer) due(m when.Moment) (words string, late bool) {
	late = lateAt(m, v.Now, v.Cal)
	words = v.speak(m)
	if m.Precision == when.ToDay && len(words) > 6 {
		words = say.TrimClock(words)
	}
	return words, late
}

// groupWords head the groups of the queue.
var groupWords = map[decide.Group]string{
	decide.GroupNew: "New since you decided", decide.GroupBack: "Came back", decide.GroupThrough: "Let through", decide.GroupToday: "Today",
	decide.GroupYesterday: "Carried over from yesterday", decide.GroupBefore: "Carried over",
}

func (v Viewer) group(r store.Row) Group {
	g := decide.GroupOf(decide.Queued{Back: r.Back, QueueAt: r.QueueAt, RoundAt: r.RoundAt, Through: r.Through != ""}, v.Now, v.Cal)
	if g == decide.GroupRound {
		return Group{Key: "round:" + r.RoundAt.Format(time.RFC3339), Label: "Let in at " + r.RoundAt.In(v.Cal.Zone).Format("15:04")}
	}
	return Group{Key: string(g), Label: groupWords[g]}
}

// dueWords say the day that something came up for.
func (v Viewer) dueWords(day string) string {
	d, ok := when.ReadDate(day)
	if !ok {
		return day
	}
	words, _ := v.due(when.OnDay(d, v.Cal))
	return words
}

func (v Viewer) backInWords(b decide.Back) string {
	since := v.short(b.At)
	switch b.Reason {
	case decide.BackTime:
		return "back since " + since + v.history(b)
	case decide.BackFetched:
		return "fetched back " + since + v.history(b)
	case decide.BackAnswer:
		return "answered by " + b.Person + " " + since
	case decide.BackNew:
		return "new letter " + since + ", after you decided"
	case decide.BackLook:
		return "from someday, for the weekly look" + v.history(b)
	case decide.BackNoAnswer:
		return "no answer from " + b.Person + " since " + v.short(b.PutOff)
	case decide.BackFailed:
		if b.Detail != "" {
			return "could not be delivered to " + b.Person + ": " + b.Detail
		}
		return "could not be delivered to " + b.Person
	case decide.BackDue:
		return "up from the Shallows: due " + v.dueWords(b.Detail)
	case decide.BackSpot:
		return "you are at " + b.Detail + v.history(b)
	case decide.BackNoSpot:
		return "the place “" + b.Detail + "” is gone" + v.history(b)
	}
	return "back since " + since
}

// history says when and how often something was put off.
func (v Viewer) history(b decide.Back) string {
	if b.PutOff.IsZero() {
		return ""
	}
	today := v.Cal.Today(v.Now)
	day := func(t time.Time) string {
		if v.Cal.Today(t) == today {
			return "today"
		}
		return t.In(v.Cal.Zone).Format("Mon 2 Jan")
	}
	if b.Times > 1 && !b.Since.IsZero() {
		if since := day(b.Since); since != "today" {
			return fmt.Sprintf(", put off %d times since %s", b.Times, since)
		}
		return fmt.Sprintf(", put off %d times today", b.Times)
	}
	if on := day(b.PutOff); on != "today" {
		return ", put off on " + on
	}
	return ", put off today"
}

// OrEmpty is a list that is written as one even when there is nothing in it.
func OrEmpty[T any](list []T) []T {
	if list == nil {
		return []T{}
	}
	return list
}

// RowPage is a page of a list.
type RowPage struct {
	Rows []Row `json:"rows"`
	// Next is the cursor of the next page; empty on the last one.
	Next string `json:"next,omitempty"`
}

// PageSize is how many rows a page of a list has.
const PageSize = 100

// orders are how the lists of places run.
var orders = map[decide.Order]store.Order{decide.ByQueue: store.QueueNewest, decide.BySince: store.SinceFirst, decide.ByLast: store.LastFirst}

// List gives a page of a place that has a list.
func (a *Show) List(ctx context.Context, who store.Who, place decide.Place, oldest bool, account int64, cursor string) (RowPage, error) {
	order := orders[place.About().Order]
	if order == store.QueueNewest && oldest {
		order = store.QueueOldest
	}
	return read(ctx, a, who, func(tx *store.Tx) (RowPage, error) {
		after, err := readCursor(cursor)
		if err != nil {
			return RowPage{}, err
		}
		rows, next, err := tx.Page(place, order, after, account, PageSize)
		if err != nil {
			return RowPage{}, err
		}
		v, err := a.Viewer(tx)
		if err != nil {
			return RowPage{}, err
		}
		out := RowPage{Rows: v.rows(rows), Next: writeCursor(next)}
		if err := a.rank(tx, v, out.Rows); err != nil || place != decide.Inbox || cursor != "" || account != 0 {
			return out, err
		}
		up, err := v.up(tx)
		if len(up) > 0 {
			out.Rows = append(up, out.Rows...)
		}
		return out, err
	})
}

func (v Viewer) rows(rows []store.Row) []Row {
	out := make([]Row, len(rows))
	for i, r := range rows {
		out[i] = v.row(r)
	}
	return out
}

func readCursor(text string) (*store.Cursor, error) {
	if text == "" {
		return nil, nil
	}
	var c store.Cursor
	if err := json.Unmarshal([]byte(text), &c); err != nil {
		return nil, work.Gone("That page of the list is no longer there.")
	}
	return &c, nil
}

func writeCursor(c *store.Cursor) string {
	if c == nil {
		return ""
	}
	b, _ := json.Marshal(c) // three numbers can always be written
	return string(b)
}

// Everything lists the ids of a place, for deciding on all of it.
func (a *Show) Everything(ctx context.Context, who store.Who, place decide.Place, account int64) ([]store.Seen, error) {
	return read(ctx, a, who, func(tx *store.Tx) ([]store.Seen, error) {
		list, err := tx.AllIn(place, account)
		return OrEmpty(list), err
	})
}

// Sent gives a page of the owner's own letters.
func (a *Show) Sent(ctx context.Context, who store.Who, cursor string) (RowPage, error) {
	return read(ctx, a, who, func(tx *store.Tx) (RowPage, error) {
		after, err := readCursor(cursor)
		if err != nil {
			return RowPage{}, err
		}
		letters, next, err := tx.Sent(after, PageSize)
		if err != nil {
			return RowPage{}, err
		}
		ids := make([]int64, 0, len(letters))
		for _, l := range letters {
			ids = append(ids, l.Conversation)
		}
		rows, err := tx.Conversations(ids)
		if err != nil {
			return RowPage{}, err
		}
		v, err := a.Viewer(tx)
		out := RowPage{Rows: []Row{}, Next: writeCursor(next)}
		for _, l := range letters {
			i := slices.IndexFunc(rows, func(r store.Row) bool { return r.ID == l.Conversation })
			if i < 0 {
				continue
			}
			row := v.row(rows[i])
			row.At, row.Ask, row.Asks, row.Letter, row.Title, row.Unread = l.Date, l.Ask, false, l.ID, l.Subject, false
			for _, to := range append(l.Recipients.To, l.Recipients.Cc...) {
				row.To = append(row.To, to.Display())
			}
			out.Rows = append(out.Rows, row)
		}
		return out, err
	})
}
