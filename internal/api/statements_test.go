package api_test

import (
	"context"
	"crypto/rand"
	"fmt"
	"net/http"
	"os"
	"path/filepath"
	"slices"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"ebbe.example/ebbe/internal/app"
	"ebbe.example/ebbe/internal/core/decide"
	"ebbe.example/ebbe/internal/core/sorting"
	"ebbe.example/ebbe/internal/core/waiting"
	"ebbe.example/ebbe/internal/counted"
	"ebbe.example/ebbe/internal/show"
	"ebbe.example/ebbe/internal/store"
)

// crowded serves an Ebbe that has n of everything that is listed, and counts what is
// asked of its database.
func crowded(t *testing.T, n int) (*server, *counted.Counter) {
	t.Helper()
	driver, counter := counted.Driver()
	s := serveBy(t, driver, filepath.Join(t.TempDir(), "crowded.db"))
	s.setUp()
	ctx, who := context.Background(), store.Own(1)
	accounts, err := s.app.Accounts(ctx, who)
	require.NoError(t, err)
	own := accounts[0].Address

	var mbox strings.Builder
	now := time.Now()
	letter := func(i int, from, to, more string) {
		at := now.Add(-time.Duration(i) * time.Minute)
		fmt.Fprintf(&mbox, "From - %s\nFrom: %s\nTo: %s\nSubject: Letter %d\nDate: %s\nMessage-ID: <l%d@x.example>\n%s\nCan you tell me about the panes?\n\n",
			at.UTC().Format(time.ANSIC), from, to, i, at.Format(time.RFC1123Z), i, more)
	}
	for i := range 5 * n {
		letter(i, fmt.Sprintf("Somebody %d <s%d@x.example>", i, i), own, "")
	}
	for i := 5 * n; i < 6*n; i++ { // what one wrote oneself, to everybody
		letter(i, own, fmt.Sprintf("s%d@x.example", i-5*n), "")
	}
	for i := 6 * n; i < 7*n; i++ { // one long conversation
		letter(i, "Bram <bram@x.example>", own, fmt.Sprintf("In-Reply-To: <l%d@x.example>\nReferences: <l%d@x.example>\n", 6*n, 6*n))
	}
	file := filepath.Join(t.TempDir(), "crowd.mbox")
	require.NoError(t, os.WriteFile(file, []byte(mbox.String()), 0o600))
	_, err = s.app.ImportNow(ctx, who, app.Importing{Command: rand.Text(), Name: "crowd.mbox", Path: file, InboxDays: 100}, nil)
	require.NoError(t, err)
	all, err := s.app.Everything(ctx, who, decide.Inbox, 0)
	require.NoError(t, err)
	require.GreaterOrEqual(t, len(all), 5*n)
	for i, kind := range []decide.Kind{decide.Done, decide.ToBin, decide.ToJunk, decide.PutOff} {
		in := app.Deciding{Command: rand.Text(), Kind: kind, On: all[i*n : i*n+n]}
		if kind == decide.PutOff {
			in.When = "in 20 days if no answer"
		}
		_, err := s.app.Decide(ctx, who, in)
		require.NoError(t, err, kind)
	}
	_, err = s.app.Flag(ctx, who, rand.Text(), all[4*n:5*n], "in 3 days")
	require.NoError(t, err)
	var tasks strings.Builder
	tasks.WriteString("BEGIN:VCALENDAR\r\nVERSION:2.0\r\n")
	for i := range n {
		fmt.Fprintf(&tasks, "BEGIN:VTODO\r\nUID:t%d@x.example\r\nSUMMARY:See to %d\r\nDUE:%s\r\nCATEGORIES:Project %d\r\nBEGIN:VALARM\r\nACTION:DISPLAY\r\nTRIGGER;RELATED=END:-PT2H\r\nEND:VALARM\r\nEND:VTODO\r\n",
			i, i, now.AddDate(0, 0, i%9+2).UTC().Format("20060102T150405Z"), i%7)
	}
	tasks.WriteString("END:VCALENDAR\r\n")
	_, err = s.app.ImportTasks(ctx, who, rand.Text(), tasks.String())
	require.NoError(t, err)
	title, when, recurs := "Panes", "tomorrow 10:00", fmt.Sprintf("every day until %s", now.AddDate(0, 0, n/2).Format(time.DateOnly))
	_, err = s.app.NewAppointment(ctx, who, rand.Text(), app.AppointmentFields{Title: &title, When: &when, Recurs: &recurs}, 0)
	require.NoError(t, err)
	for range n {
		_, err = s.app.SaveDraft(ctx, who, rand.Text(), 0, show.Writing{Kind: "new", From: own, To: []string{}, Subject: title})
		require.NoError(t, err)
	}
	waits, err := s.app.WaitingList(ctx, who, false)
	require.NoError(t, err)
	require.Len(t, waits, n)
	dropped := waiting.Dropped
	for _, w := range waits[:n/10] {
		_, err := s.app.EditWaiting(ctx, who, rand.Text(), w.ID, &dropped, nil, true)
		require.NoError(t, err)
	}
	for i := range min(n, 80) { // late parcels, and who accepts an appointment, of which the originals are read
		letters := []string{
			fmt.Sprintf("From: Parcels <track@x.example>\r\nTo: %[1]s\r\nAuto-Submitted: auto-generated\r\nMessage-ID: <p%[2]d@x.example>\r\nDate: %[3]s\r\nSubject: Your parcel NP 4512 %[2]d comes tomorrow\r\n\r\nIt is on its way.\r\n", own, i+100, now.AddDate(0, 0, -9).Format(time.RFC1123Z)),
			fmt.Sprintf("From: s%[2]d@x.example\r\nTo: %[1]s\r\nMessage-ID: <a%[2]d@x.example>\r\nSubject: Accepted\r\nContent-Type: text/calendar; method=REPLY\r\n\r\nBEGIN:VCALENDAR\r\nVERSION:2.0\r\nMETHOD:REPLY\r\nBEGIN:VEVENT\r\nUID:u%[2]d\r\nDTSTAMP:20260101T100000Z\r\nDTSTART:20270101T100000Z\r\nSUMMARY:Panes\r\nORGANIZER:mailto:%[1]s\r\nATTENDEE;PARTSTAT=ACCEPTED:mailto:s%[2]d@x.example\r\nEND:VEVENT\r\nEND:VCALENDAR\r\n", own, i),
		}
		for _, raw := range letters {
			require.NoError(t, s.app.Receive(ctx, app.Incoming{Inbox: who.Inbox, To: own, Source: "smtp", Raw: []byte(raw), At: now}))
		}
	}
	shallows, err := s.app.Shallows(ctx, who)
	require.NoError(t, err)
	require.Equal(t, min(n, 80), shallows.Kinds[slices.IndexFunc(shallows.Kinds, func(k show.Shoal) bool { return k.Kind == sorting.Receipts })].N)
	require.Equal(t, min(n, 80), shallows.Kinds[slices.IndexFunc(shallows.Kinds, func(k show.Shoal) bool { return k.Kind == sorting.Meetings })].N)
	o, err := s.app.Overview(ctx, who)
	require.NoError(t, err)
	require.GreaterOrEqual(t, o.Ahead, 3*n, "put off, due, reminded of, limits and appointments")
	return s, counter
}

// No list asks the database for each row of it: it takes as many statements for a
// thousand rows as for ten. The lists are those of the description, so that a new one
// is counted too.
func TestListsTakeTheSameStatementsHoweverLong(t *testing.T) {
	few, fewCounted := crowded(t, 10)
	many, manyCounted := crowded(t, 1000)
	var paths []string
	for path, methods := range description(t).Paths {
		get, ok := methods["get"]
		if !ok || path == "/api/events" || path == "/api/demo/phone" || get.Responses["200"].Content["application/json"].Schema == nil {
			continue
		}
		if !strings.Contains(path, "{") {
			paths = append(paths, path)
		}
	}
	for _, p := range decide.PlaceTable {
		if !p.Listed {
			continue
		}
		paths = append(paths, "/api/places/"+string(p.Place), "/api/places/"+string(p.Place)+"/all")
	}
	paths = append(paths, "/api/groups/inbox?by=sender", "/api/groups/inbox/all?by=domain&key=x.example", "/api/groups/inbox/rows?by=domain&key=x.example", "/api/day?away=1", "/api/day?away=3", "/api/waiting?settled=true", "/api/search?q=panes", "/api/search?q=somebody", "/api/people?q=s", "/api/journal?q=new",
		"/api/tasks/file?format=csv", "/api/phrases?phrase=tomorrow")
	slices.Sort(paths)
	count := func(s *server, c *counted.Counter, path string) (int64, string) {
		s.send("GET", path, "") // what is read once for all is not of the list
		c.Reset()
		status, text, _ := s.send("GET", path, "")
		require.Equal(t, http.StatusOK, status, "%s: %.300s", path, text)
		statement, times := c.Most()
		return c.Statements(), fmt.Sprintf("%d times %s", times, statement)
	}
	for _, path := range paths {
		a, _ := count(few, fewCounted, path)
		b, most := count(many, manyCounted, path)
		assert.LessOrEqual(t, b, a, "%s; most: %s", path, most) // a short one may look for what comes after it
	}
	assert.Greater(t, len(paths), 40)
}

// What is done all day stays as cheap as it is: by how many statements, which are the
// same on any machine. Whoever needs more of them says so here.
func TestWhatEachActTakes(t *testing.T) {
	s, counter := crowded(t, 100)
	ctx, who := context.Background(), store.Own(1)
	everything := func() []store.Seen {
		all, err := s.app.Everything(ctx, who, decide.Inbox, 0)
		require.NoError(t, err)
		return all
	}
	decideOn := func(on []store.Seen) error {
		_, err := s.app.Decide(ctx, who, app.Deciding{Command: rand.Text(), Kind: decide.Done, On: on})
		return err
	}
	undo := func() error {
		_, err := s.app.Undo(ctx, who, rand.Text(), 0, true)
		return err
	}
	ignored := func(_ any, err error) error { return err }
	all := everything()
	for _, act := range []struct {
		what string
		most int64
		do   func() error
	}{
		{"a decision", 24, func() error { return decideOn(all[:1]) }},
		{"its undo", 24, undo},
		{"a decision on fifty", 40, func() error { return decideOn(all[:50]) }},
		{"its undo", 48, undo},
		{"a letter that comes", 47, func() error {
			raw := "From: Eva <eva@x.example>\r\nTo: ines@norrholm.example\r\nSubject: Day\r\nMessage-ID: <day@x.example>\r\n\r\nCan you?\r\n"
			return s.app.Receive(ctx, app.Incoming{Inbox: 1, To: "ines@norrholm.example", Source: "smtp", Raw: []byte(raw), At: time.Now()})
		}},
		{"the inbox", 8, func() error { return ignored(s.app.List(ctx, who, decide.Inbox, false, 0, "")) }},
		{"a letter opened", 24, func() error { return ignored(s.app.Open(ctx, who, all[0].ID)) }},
		{"a search", 10, func() error { return ignored(s.app.Search(ctx, who, show.Asked{Q: "panes"})) }},
		{"the overview", 22, func() error { return ignored(s.app.Overview(ctx, who)) }},
		{"the day line", 26, func() error { return ignored(s.app.Day(ctx, who, 0)) }},
	} {
		counter.Reset()
		require.NoError(t, act.do(), act.what)
		statement, times := counter.Most()
		assert.LessOrEqual(t, counter.Statements(), act.most, "%s; %d times %s", act.what, times, statement)
	}
}

// Many entries of what is ahead are changed by as many statements as few.
func TestManyEntriesAheadAreChangedAtOnce(t *testing.T) {
	few, fewCounted := crowded(t, 10)
	many, manyCounted := crowded(t, 100)
	ctx, who := context.Background(), store.Own(1)
	edit := func(s *server, kind, action, when string) int {
		v, err := s.app.Ahead(ctx, who)
		require.NoError(t, err)
		var on []app.EntryRef
		for _, e := range v.Entries {
			if e.Kind == kind {
				on = append(on, app.EntryRef{Kind: e.Kind, ID: e.ID, Version: e.Version})
			}
		}
		_, err = s.app.EditAhead(ctx, who, app.EditingAhead{Command: rand.Text(), Action: action, When: when, On: on, Sure: true})
		require.NoError(t, err, "%s %s", action, kind)
		return len(on)
	}
	for _, act := range []struct{ kind, action, when string }{
		{"reminder", "move", "in 30 days"}, {"due", "move", "in 31 days"}, {"limit", "move", "in 32 days"}, {"reminder", "cancel", ""}, {"due", "cancel", ""}, {"limit", "cancel", ""},
	} {
		fewCounted.Reset()
		n := edit(few, act.kind, act.action, act.when)
		a := fewCounted.Statements()
		manyCounted.Reset()
		m := edit(many, act.kind, act.action, act.when)
		statement, times := manyCounted.Most()
		require.Greater(t, m, 5*n, act.kind)
		assert.LessOrEqual(t, manyCounted.Statements(), a+60, "%d and %d of %s, %s; %d times %s", n, m, act.kind, act.action, times, statement)
	}
}
