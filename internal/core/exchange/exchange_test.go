package exchange_test

import (
	"fmt"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"ebbe.example/ebbe/internal/core/exchange"
	"ebbe.example/ebbe/internal/core/followup"
	"ebbe.example/ebbe/internal/core/when"
)

var now = time.Date(2026, 11, 24, 10, 6, 0, 0, time.UTC)

func oslo(t require.TestingT) when.Calendar {
	zone, err := time.LoadLocation("Europe/Oslo")
	require.NoError(t, err)
	return when.Standard(zone)
}

func moment(t *rapid.T, name string, c when.Calendar) *when.Moment {
	switch rapid.IntRange(0, 3).Draw(t, name+" kind") {
	case 0:
		return nil
	case 1:
		m := when.OnDay(c.Today(now.AddDate(0, 0, rapid.IntRange(-400, 400).Draw(t, name))), c)
		return &m
	case 2:
		r, err := when.Read(c.Today(now.AddDate(0, 0, rapid.IntRange(1, 400).Draw(t, name))).String()+" evening", now, c)
		require.NoError(t, err)
		return &r.Moment
	}
	m := when.Exact(now.Add(time.Duration(rapid.IntRange(-500_000, 500_000).Draw(t, name))*time.Minute), c)
	return &m
}

func task(t *rapid.T, c when.Calendar) exchange.Task {
	word := rapid.StringMatching(`[A-Za-z+@(x][A-Za-z0-9:_%,;"' \\éø-]{0,20}[a-z]`)
	name := rapid.StringMatching(`([A-Z][a-zé_%]{1,8}( [A-Z][a-z]{1,8})?)?`)
	out := exchange.Task{
		UID: rapid.StringMatching(`[a-z0-9-]{8}@x\.example`).Draw(t, "uid"), Title: strings.Join(strings.Fields(word.Draw(t, "title")), " "), Notes: rapid.StringMatching(`([a-z,;:\\"é]+\n?){0,4}[a-z]?`).Draw(t, "notes"),
		Start: moment(t, "start", c), Due: moment(t, "due", c),
		Priority: rapid.SampledFrom([]followup.Priority{followup.Urgent, followup.High, followup.Normal, followup.Low}).Draw(t, "priority"),
		Status:   rapid.SampledFrom([]followup.Status{followup.Open, followup.Under, followup.Waiting, followup.Done, followup.Dropped}).Draw(t, "status"),
		Stage:    name.Draw(t, "stage"), Assignee: name.Draw(t, "owner"), Project: name.Draw(t, "project"), Context: name.Draw(t, "context"),
		Estimate: rapid.IntRange(0, 600).Draw(t, "minutes"), MadeAt: now.AddDate(0, 0, -rapid.IntRange(0, 90).Draw(t, "made")).Truncate(time.Second),
	}
	if out.Status == followup.Done {
		out.DoneAt = now.Truncate(time.Second)
	}
	if rapid.Bool().Draw(t, "recurs") {
		phrase := rapid.SampledFrom([]string{"every first monday", "3 days after done", "every 31st", "every day until 1 march"}).Draw(t, "phrase")
		r, err := followup.ReadRecurrence(phrase, now, c)
		require.NoError(t, err)
		r.From = "2026-11-27"
		out.Recurs = &r
	}
	for i := range rapid.IntRange(0, 3).Draw(t, "items") {
		out.Checklist = append(out.Checklist, followup.Item{Text: fmt.Sprint("step, ", i), Done: i%2 == 0})
	}
	for _, phrase := range rapid.SliceOfNDistinct(rapid.SampledFrom([]string{"1 day before at 10", "2 hours before start", "when due", "fri 10:00"}), 0, 3, rapid.ID[string]).Draw(t, "remind") {
		r, _, err := followup.ReadReminding(phrase, now, c)
		require.NoError(t, err)
		out.Remind = append(out.Remind, r)
	}
	if rapid.Bool().Draw(t, "letter") {
		out.Letters = []exchange.Letter{{MessageID: "one%2=x@freight.example"}}
	}
	return out
}

// plain makes tasks comparable: what a moment was typed as does not matter.
func plain(t exchange.Task, c when.Calendar) exchange.Task {
	for _, m := range []**when.Moment{&t.Start, &t.Due} {
		if *m != nil {
			copied := **m
			copied.Phrase = copied.Canonical(c)
			*m = &copied
		}
	}
	for i, r := range t.Remind {
		if r.Moment != nil {
			copied := *r.Moment
			copied.Phrase = copied.Canonical(c)
			t.Remind[i].Moment = &copied
		}
	}
	return t
}

// What iCalendar and CSV can hold comes back the same.
func TestNothingIsLostOnTheWay(t *testing.T) {
	c := oslo(t)
	for _, f := range []exchange.Format{exchange.ICalendar, exchange.CSV} {
		rapid.Check(t, func(t *rapid.T) {
			in := task(t, c)
			text, err := exchange.Write(f, []exchange.Task{in}, c, now)
			require.NoError(t, err)
			assert.Equal(t, f, exchange.Guess(text))
			got, troubles := exchange.Read(f, text, c, now)
			require.Empty(t, troubles, text)
			require.Len(t, got, 1, text)
			require.Equal(t, plain(in, c), plain(got[0], c), text)
		})
	}
}

// todo.txt has no notes, checklist, reminders or letters, and days instead of
// instants for made and done; all else comes back the same.
func TestTodoTxtKeepsWhatALineCanHold(t *testing.T) {
	c := oslo(t)
	rapid.Check(t, func(t *rapid.T) {
		in := task(t, c)
		text, err := exchange.Write(exchange.TodoTxt, []exchange.Task{in}, c, now)
		require.NoError(t, err)
		got, troubles := exchange.Read(exchange.TodoTxt, text, c, now)
		require.Empty(t, troubles, text)
		require.Len(t, got, 1, text)
		in.Notes, in.Checklist, in.Remind, in.Letters = "", nil, nil, nil
		if in.Recurs != nil {
			in.Recurs.Phrase, in.Recurs.From = "", ""
		}
		in.MadeAt, in.DoneAt, got[0].MadeAt, got[0].DoneAt = time.Time{}, time.Time{}, time.Time{}, time.Time{}
		require.Equal(t, plain(in, c), plain(got[0], c), text)
	})
}

func TestFilesOfOtherPrograms(t *testing.T) {
	c := oslo(t)
	got, troubles := exchange.Read(exchange.ICalendar, strings.ReplaceAll(`BEGIN:VCALENDAR
VERSION:2.0
BEGIN:VTODO
UID:one
SUMMARY:Pay the
  invoice
DUE;TZID=America/New_York:20261127T090000
PRIORITY:4
CATEGORIES:Home,Phone
STATUS:IN-PROCESS
BEGIN:VALARM
ACTION:DISPLAY
TRIGGER;RELATED=END:-P1DT2H
END:VALARM
END:VTODO
BEGIN:VTODO
UID:two
DUE:soon
SUMMARY:Bad
END:VTODO
BEGIN:VTODO
UID:three
SUMMARY:Never
RRULE:FREQ=YEARLY;BYMONTH=2;BYMONTHDAY=31
END:VTODO
END:VCALENDAR
`, "\n", "\r\n"), c, now)
	require.Len(t, got, 1)
	assert.Equal(t, []any{"Pay the invoice", followup.High, followup.Under, "Home", "Phone", "Fri 27 Nov 2026 15:00", 26 * time.Hour},
		[]any{got[0].Title, got[0].Priority, got[0].Status, got[0].Project, got[0].Context, got[0].Due.Canonical(c), got[0].Remind[0].Relative.Before})
	require.Len(t, troubles, 2)
	assert.Contains(t, troubles[0].What, "not a time")
	assert.Contains(t, troubles[1].What, "never comes")

	got, troubles = exchange.Read(exchange.TodoTxt, "(A) Call Mum +Family @phone due:2026-11-27\nx 2026-11-20 2026-11-01 Post the letter\n\nPay 3:1 http://x.example/a\ndue:soonish Fail\n+p @c", c, now)
	require.Len(t, got, 3)
	assert.Equal(t, []any{"Call Mum", followup.Urgent, "Family", "phone"}, []any{got[0].Title, got[0].Priority, got[0].Project, got[0].Context})
	assert.Equal(t, followup.Done, got[1].Status)
	assert.Equal(t, "Pay 3:1 http://x.example/a", got[2].Title)
	require.Len(t, troubles, 2)
	assert.Equal(t, []int{5, 6}, []int{troubles[0].Line, troubles[1].Line})

	got, troubles = exchange.Read(exchange.CSV, "Task;Deadline;Priority\n\"Pay; now\";fri 10;high\n;fri;\nBad;soonish;\nOdd;;huge", c, now)
	require.Len(t, got, 1)
	assert.Equal(t, []any{"Pay; now", "Fri 27 Nov 2026 10:00", followup.High}, []any{got[0].Title, got[0].Due.Canonical(c), got[0].Priority})
	assert.Len(t, troubles, 3)
	_, troubles = exchange.Read(exchange.CSV, "a,b\n1,2", c, now)
	assert.Contains(t, troubles[0].What, "no column")
}

func TestASpreadsheetTakesNothingForAFormula(t *testing.T) {
	c := oslo(t)
	text, err := exchange.Write(exchange.CSV, []exchange.Task{{Title: "=1+1", Priority: followup.Normal, Status: followup.Open}}, c, now)
	require.NoError(t, err)
	assert.Contains(t, text, ",'=1+1,")
}

func FuzzRead(f *testing.F) {
	for _, s := range []string{"BEGIN:VCALENDAR\r\nBEGIN:VTODO\r\nSUMMARY:x\r\nEND:VTODO\r\nEND:VCALENDAR\r\n", "title,due\nx,fri", "(A) x +p due:2026-11-27", "x x", "\"", "BEGIN:VTODO"} {
		f.Add(s)
	}
	c := oslo(f)
	f.Fuzz(func(_ *testing.T, text string) {
		for _, format := range []exchange.Format{exchange.ICalendar, exchange.TodoTxt, exchange.CSV} {
			exchange.Read(format, text, c, now)
		}
	})
}
