package app_test

import (
	"crypto/rand"
	"database/sql"
	"fmt"
	"slices"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"ebbe.example/ebbe/internal/app"
	"ebbe.example/ebbe/internal/core/sorting"
	"ebbe.example/ebbe/internal/core/when"
	"ebbe.example/ebbe/internal/say"
	"ebbe.example/ebbe/internal/show"
	"ebbe.example/ebbe/internal/store"
)

// raw is everything that a day sheet is made of, as it stands in the tables.
type raw struct {
	letters []rawLetter
	moves   []rawMove
	steps   map[int64]rawStep
	putOffs []rawPutOff
	purged  map[int64]int // by quarter
}

type rawLetter struct {
	id, conversation, received, in, round int64
	own, quietly, asks, sorted            bool
	through, kind, automatic              string
}

type rawMove struct {
	conversation, at, step int64
	was, now               string
}

type rawStep struct {
	kind, actor string
	at          int64
	stands      bool
}

type rawPutOff struct{ step, conversation, was, now int64 }

func readRaw(t require.TestingT, db *sql.DB, owner int64) raw {
	r := raw{steps: map[int64]rawStep{}, purged: map[int64]int{}}
	each := func(query string, scan func(*sql.Rows) error) {
		rows, err := db.Query(query, owner)
		require.NoError(t, err)
		for rows.Next() {
			require.NoError(t, scan(rows))
		}
		require.NoError(t, rows.Close())
		require.NoError(t, rows.Err())
	}
	each(`SELECT id, coalesce(conversation_id, 0), received_at, coalesce(in_at, 0), round_at, own, quietly, asks, sorted_out, through, kind, automatic FROM letters WHERE owner = ?`, func(rows *sql.Rows) error {
		var l rawLetter
		defer func() { r.letters = append(r.letters, l) }()
		return rows.Scan(&l.id, &l.conversation, &l.received, &l.in, &l.round, &l.own, &l.quietly, &l.asks, &l.sorted, &l.through, &l.kind, &l.automatic)
	})
	each(`SELECT conversation_id, at, journal_id, was, now FROM place_history WHERE owner = ? ORDER BY at, id`, func(rows *sql.Rows) error {
		var m rawMove
		defer func() { r.moves = append(r.moves, m) }()
		return rows.Scan(&m.conversation, &m.at, &m.step, &m.was, &m.now)
	})
	each(`SELECT id, kind, actor, at, undo_of IS NULL AND undone_by IS NULL FROM journal WHERE owner = ?`, func(rows *sql.Rows) error {
		var id int64
		var s rawStep
		defer func() { r.steps[id] = s }()
		return rows.Scan(&id, &s.kind, &s.actor, &s.at, &s.stands)
	})
	each(`SELECT journal_id, object_id, was, now FROM changes WHERE owner = ? AND object = 'conversation' AND field = 'putOffs' ORDER BY id`, func(rows *sql.Rows) error {
		var p rawPutOff
		defer func() { r.putOffs = append(r.putOffs, p) }()
		return rows.Scan(&p.step, &p.conversation, &p.was, &p.now)
	})
	each(`SELECT quarter, letters FROM purged WHERE owner = ?`, func(rows *sql.Rows) error {
		var quarter int64
		var n int
		defer func() { r.purged[quarter] += n }()
		return rows.Scan(&quarter, &n)
	})
	return r
}

// bruteSheet is what a day comes to, by going through all rows.
type bruteSheet struct {
	Came, Decided map[string]int
	Lines         []show.SheetLine
	Zeros, Left   int
	Waits         []int64
	Kept          int // interruptions that were kept out
}

func (r raw) day(begins, ends time.Time) bruteSheet {
	from, to := begins.UnixMilli(), ends.UnixMilli()
	within := func(at int64) bool { return at >= from && at < to }
	out := bruteSheet{Came: map[string]int{}, Decided: map[string]int{}}
	for _, l := range r.letters {
		if l.own || l.quietly || l.in == 0 || !within(l.in) {
			continue
		}
		switch {
		case l.kind == "away" || l.kind == "junk":
			out.Came["refused"]++
		case l.sorted:
			out.Came["Shallows"]++
		case l.through != "":
			out.Came["let through"]++
		case l.round == 0:
			out.Came["as they came"]++
		default:
			out.Came[time.UnixMilli(l.round).In(begins.Location()).Format("15:04")+" round"]++
		}
	}
	for quarter, n := range r.purged {
		if within(quarter * 900_000) {
			out.Came["since purged"] += n
		}
	}
	r.walk(from, to, &out)
	r.times(from, to, &out)
	return out
}

// walk goes through the history of places.
func (r raw) walk(from, to int64, out *bruteSheet) {
	place, inbox, before := map[int64]string{}, 0, 0 // before the instant
	words := map[string]string{"done": "Done", "later": "Put off", "follow-up": "Follow-up", "bin": "Binned", "junk": "Junked", "answer": "Answered", "file": "Filed", "hand-on": "Handed on"}
	for i, m := range r.moves {
		if m.at >= to {
			break
		}
		if i == 0 || r.moves[i-1].at != m.at {
			before = inbox
		}
		if place[m.conversation] = m.now; m.was == "inbox" {
			inbox--
		}
		if m.now == "inbox" {
			inbox++
		}
		last := i+1 == len(r.moves) || r.moves[i+1].at != m.at
		if m.at < from {
			continue
		}
		if last && inbox == 0 && before != 0 {
			out.Zeros++
		}
		s := r.steps[m.step]
		undecided := m.was == "inbox" || m.was == "shallows"
		if kind, ok := strings.CutPrefix(s.kind, "decide:"); ok && s.actor == "person" && s.stands && undecided && m.now != "inbox" && m.now != "shallows" {
			out.Decided[words[kind]]++
		}
		if s.stands && s.actor != "person" && m.was == "later" && m.now == "inbox" {
			out.Came["came back"]++
		}
	}
	out.Left = inbox
	var waiting []rawLetter
	for id, p := range place {
		if p != "inbox" && p != "later" {
			continue
		}
		var newest rawLetter
		for _, l := range r.letters {
			at := l.in
			if at == 0 {
				at = l.received
			}
			if l.conversation == id && at < to && (l.received > newest.received || l.received == newest.received && l.id > newest.id) {
				newest = l
			}
		}
		if newest.id != 0 && !newest.own && newest.asks {
			waiting = append(waiting, newest)
		}
	}
	slices.SortFunc(waiting, func(a, b rawLetter) int {
		if a.received != b.received {
			return int(a.received - b.received)
		}
		return int(a.id - b.id)
	})
	for _, l := range waiting[:min(5, len(waiting))] {
		out.Waits = append(out.Waits, l.conversation)
	}
}

// times makes up what is told by times: answers, put-offs, interruptions.
func (r raw) times(from, to int64, out *bruteSheet) {
	within := func(at int64) bool { return at >= from && at < to }
	var mine, theirs, waited []int64
	for _, l := range r.letters {
		if l.quietly {
			continue
		}
		if !l.own && within(l.received) && l.through == "" && (l.in == 0 || l.round != 0) {
			waited = append(waited, l.received)
		}
		var before rawLetter
		for _, o := range r.letters {
			earlier := o.received < l.received || o.received == l.received && o.id < l.id
			later := o.received > before.received || o.received == before.received && o.id > before.id
			if l.conversation != 0 && o.conversation == l.conversation && earlier && later {
				before = o
			}
		}
		if before.id == 0 || l.automatic != "" || before.automatic != "" || l.own == before.own {
			continue
		}
		if l.own && within(l.received) {
			mine = append(mine, l.received-before.received)
		}
		if !l.own && within(l.in) {
			theirs = append(theirs, l.received-before.received)
		}
	}
	middle := func(list []int64) string {
		if len(list) == 0 {
			return "none"
		}
		slices.Sort(list)
		return say.Length(time.Duration(list[len(list)/2]) * time.Millisecond)
	}
	often := map[int64]bool{}
	for _, p := range r.putOffs {
		if s := r.steps[p.step]; s.stands && s.actor == "person" && s.kind == "decide:later" && within(s.at) && p.now > p.was && p.now > 2 {
			often[p.conversation] = true
		}
	}
	out.Lines = []show.SheetLine{{Says: "you, median", Value: middle(mine)}, {Says: "they, median", Value: middle(theirs)}, {Says: "put off more than twice", Value: fmt.Sprint(len(often))}, {Says: "left undecided", Value: fmt.Sprint(out.Left)}}
	slices.Sort(waited)
	var last int64
	for _, at := range waited {
		if out.Kept == 0 || at-last >= 5*60_000 {
			out.Kept, last = out.Kept+1, at
		}
	}
}

// Every number of a day sheet is what one gets by going through all that happened.
func TestDaySheetEqualsBruteForce(t *testing.T) {
	w := newWorld(t)
	require.NoError(t, w.app.Store.Relax(w.ctx))
	db, err := sql.Open("sqlite3", "file:"+w.app.Store.Path()+"?mode=ro&_busy_timeout=10000")
	require.NoError(t, err)
	t.Cleanup(func() { require.NoError(t, db.Close()) })
	cal := when.Standard(time.UTC)
	cal.Zone, err = time.LoadLocation("Europe/Oslo")
	require.NoError(t, err)
	rapid.Check(t, func(rt *rapid.T) {
		h := newHistory(w, rt)
		first := cal.Today(w.clock.Now())
		for range rapid.IntRange(10, 40).Draw(rt, "steps") {
			h.step()
			switch rapid.SampledFrom([]string{"", "", "", "", "look", "look", "sort", "import", "erase", "month"}).Draw(rt, "beside") {
			case "look": // what was read then is kept
				_, err := w.app.Days(w.ctx, h.who, show.AYear, "")
				require.NoError(rt, err)
			case "sort":
				if r, ok := h.any(); ok {
					_, err := w.app.Sort(w.ctx, h.who, app.Sorting{Command: rand.Text(), Kind: sorting.Reading, Scope: sorting.ByAddress, On: []store.Seen{seen(r)}})
					h.accepted(err)
				}
			case "import": // a letter before those that are there
				m := mail{id: rand.Text() + "@x.example", from: "p@x.example", subject: "Crates", to: h.own[0], answers: rapid.SampledFrom([]string{"", "0@x.example", "1@x.example"}).Draw(rt, "answers")}
				in := app.Importing{Command: rand.Text(), Name: "old.mbox", Path: mboxOf(t, m.bytes(h.clock.Now().AddDate(0, 0, -rapid.IntRange(0, 9).Draw(rt, "days"))))}
				_, err := w.app.ImportNow(w.ctx, h.who, in, nil)
				require.NoError(rt, err)
			case "erase":
				if v, err := w.app.Erasing(w.ctx, h.who, "p@x.example"); err == nil && rapid.IntRange(0, 4).Draw(rt, "really") == 0 {
					_, err := w.app.Erase(w.ctx, h.who, rand.Text(), "p@x.example", v.Seal, false)
					h.accepted(err)
				}
			case "month": // the bin lets go
				if rapid.IntRange(0, 3).Draw(rt, "really") == 0 {
					w.pass(31 * 24 * time.Hour)
				}
			}
		}
		r := readRaw(rt, db, h.who.Inbox)
		var zeros, came, decided, putOffs int
		for day := first; !day.After(cal.Today(w.clock.Now())); day = day.Add(1) {
			sheet, err := w.app.DaySheet(w.ctx, h.who, day.String())
			require.NoError(rt, err)
			begins, ends := cal.Begins(day).In(cal.Zone), cal.Begins(day.Add(1))
			if sheet.Today {
				ends = w.clock.Now().Add(time.Millisecond)
			}
			want := r.day(begins, ends)
			if sheet.Today {
				want.Lines[3].Says = "undecided now"
			}
			got := bruteSheet{Came: partsOf(sheet.Came), Decided: partsOf(sheet.Decided), Lines: sheet.Lines, Zeros: len(sheet.Zeros), Left: sheet.Curve[len(sheet.Curve)-1].Count}
			for _, one := range sheet.Waits {
				got.Waits = append(got.Waits, one.Conversation)
			}
			if _, err := fmt.Sscanf(sheet.Head[max(0, strings.LastIndex(sheet.Head, "· ")+len("· ")*min(1, strings.Count(sheet.Head, "· "))):], "%d interruption", &got.Kept); err != nil {
				got.Kept = 0
			}
			if !assert.ObjectsAreEqual(want, got) {
				rt.Fatalf("%s:\nwant %+v\ngot  %+v", day, want, got)
			}
			zeros, came, decided = zeros+want.Zeros, came+sheet.Came.N, decided+sheet.Decided.N
		}
		for _, p := range r.putOffs {
			if s := r.steps[p.step]; s.stands && s.actor == "person" && s.kind == "decide:later" && p.now > p.was {
				putOffs++
			}
		}
		// The days make up the year.
		var all show.DaysPart
		for year := first.Year; year <= cal.Today(w.clock.Now()).Year; year++ {
			date := when.Date{Year: year, Month: time.January, Day: 1}
			if date.Before(first) {
				date = first
			}
			days, err := w.app.Days(w.ctx, h.who, show.AYear, date.String())
			require.NoError(rt, err)
			w.app.Pasts.Changed(store.Past{Inbox: h.who.Inbox})
			anew, err := w.app.Days(w.ctx, h.who, show.AYear, date.String())
			require.NoError(rt, err)
			if !assert.ObjectsAreEqual(anew, days) {
				rt.Fatalf("what is kept of %d: %+v\nis not what is read: %+v", year, days, anew)
			}
			all.Zeros, all.Came, all.Decided, all.PutOffs = all.Zeros+days.All.Zeros, all.Came+days.All.Came, all.Decided+days.All.Decided, all.PutOffs+days.All.PutOffs
		}
		if want := (show.DaysPart{Zeros: zeros, Came: came, Decided: decided, PutOffs: putOffs}); want != all {
			rt.Fatalf("the years: want %+v, got %+v", want, all)
		}
	})
}

func partsOf(bar show.SheetBar) map[string]int {
	out := map[string]int{}
	for _, p := range bar.Parts {
		out[p.Says] += p.N
	}
	return out
}
