package exchange_test

import (
	"fmt"
	"strings"
	"testing"
	"time"

	goical "github.com/emersion/go-ical"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"ebbe.example/ebbe/internal/core/exchange"
	"ebbe.example/ebbe/internal/core/followup"
	"ebbe.example/ebbe/internal/core/when"
)

// todo is a calendar with one task of these lines.
func todo(lines ...string) string {
	all := append([]string{"BEGIN:VCALENDAR", "VERSION:2.0", "PRODID:-//x//EN", "BEGIN:VTODO", "UID:one", "SUMMARY:Crates"}, lines...)
	return strings.Join(append(all, "END:VTODO", "END:VCALENDAR", ""), "\r\n")
}

// shown is what of a task the tables below look at.
func shown(t exchange.Task, c when.Calendar) string {
	moment := func(m *when.Moment) string {
		if m == nil {
			return "-"
		}
		return strings.TrimSuffix(m.Canonical(c), " morning") // a day
	}
	return fmt.Sprintf("%s, %s, %s to %s", t.Status, t.Priority, moment(t.Start), moment(t.Due))
}

// What the standard allows a task to say (RFC 5545, 3.6.2), beside what our own
// code writes.
func TestTasksAsTheStandardAllowsThem(t *testing.T) {
	c := oslo(t)
	for name, k := range map[string]struct{ lines, want string }{
		"nothing else":                   {"", "open, normal, - to -"},
		"a day":                          {"DUE;VALUE=DATE:20261127", "open, normal, - to Fri 27 Nov 2026"},
		"a floating time":                {"DUE:20261127T090000", "open, normal, - to Fri 27 Nov 2026 09:00"},
		"an instant":                     {"DUE:20261127T090000Z", "open, normal, - to Fri 27 Nov 2026 10:00"},
		"a zone":                         {"DUE;TZID=Asia/Kathmandu:20261127T090000", "open, normal, - to Fri 27 Nov 2026 04:15"},
		"a zone nobody knows":            {"DUE;TZID=Old Town:20261127T090000", "open, normal, - to Fri 27 Nov 2026 09:00"},
		"a time that does not exist":     {"DUE;TZID=Europe/Oslo:20270328T023000", "open, normal, - to Sun 28 Mar 2027 03:30"},
		"a length":                       {"DTSTART:20261127T090000\nDURATION:PT90M", "open, normal, Fri 27 Nov 2026 09:00 to Fri 27 Nov 2026 10:30"},
		"days long":                      {"DTSTART;VALUE=DATE:20261127\nDURATION:P3D", "open, normal, Fri 27 Nov 2026 to Mon 30 Nov 2026"},
		"the highest":                    {"PRIORITY:1", "open, urgent, - to -"},
		"the lowest":                     {"PRIORITY:9", "open, low, - to -"},
		"none":                           {"PRIORITY:0", "open, normal, - to -"},
		"no number":                      {"PRIORITY:soon", "open, normal, - to -"},
		"done":                           {"STATUS:COMPLETED", "done, normal, - to -"},
		"done, but it doesn't say so":    {"COMPLETED:20261120T100000Z", "done, normal, - to -"},
		"done by a hundred of a hundred": {"PERCENT-COMPLETE:100", "done, normal, - to -"},
		"under way by a part":            {"PERCENT-COMPLETE:40", "under-way, normal, - to -"},
		"called off":                     {"STATUS:CANCELLED", "dropped, normal, - to -"},
		"small letters":                  {"status:in-process\npriority:2", "under-way, high, - to -"},
		"folded in the middle of a word": {"DU\n E;VALUE=DATE:2026\n 1127", "open, normal, - to Fri 27 Nov 2026"},
		"unknown properties":             {"X-MOOD;X-A=\"b;c:d\":fine\nGEO:59.9;10.7\nCLASS:PRIVATE", "open, normal, - to -"},
	} {
		var lines []string
		if k.lines != "" {
			lines = strings.Split(k.lines, "\n")
		}
		got, troubles := exchange.Read(exchange.ICalendar, todo(lines...), c, now)
		if assert.Empty(t, troubles, name) && assert.Len(t, got, 1, name) {
			assert.Equal(t, "Crates", got[0].Title, name)
			assert.Equal(t, k.want, shown(got[0], c), name)
		}
	}
}

// A file of the world may end its lines in any way, begin with a mark, and name
// several calendars; one broken task costs no other.
func TestCalendarsInAnyShape(t *testing.T) {
	c := oslo(t)
	usual := todo("DUE;VALUE=DATE:20261127")
	broken := strings.Replace(usual, "UID:one\r\n", "UID:one\r\nthis is no property\r\n", 1)
	for name, text := range map[string]string{
		"as it should be":          usual,
		"bare line ends":           strings.ReplaceAll(usual, "\r\n", "\n"),
		"a byte order mark":        "\ufeff" + usual,
		"empty lines before":       "\r\n\r\n" + usual,
		"no line end at the end":   strings.TrimSuffix(usual, "\r\n"),
		"two calendars":            todo("STATUS:CANCELLED") + usual,
		"a line that says nothing": broken,
	} {
		got, _ := exchange.Read(exchange.ICalendar, text, c, now)
		if assert.NotEmpty(t, got, name) {
			assert.Equal(t, "open, normal, - to Fri 27 Nov 2026", shown(got[len(got)-1], c), name)
		}
	}
	for name, text := range map[string]string{"nothing": "", "no calendar": "BEGIN:VTODO\r\nSUMMARY:x\r\nEND:VTODO\r\n", "cut off": usual[:60]} {
		got, troubles := exchange.Read(exchange.ICalendar, text, c, now)
		assert.Empty(t, got, name)
		assert.NotEmpty(t, troubles, "%s: it says so", name)
	}
}

// Reminders of other programs, and which of them Ebbe can't have.
func TestAlarmsOfOtherPrograms(t *testing.T) {
	c := oslo(t)
	for trigger, want := range map[string]string{
		"TRIGGER:-PT15M":                                "15m0s before start",
		"TRIGGER;RELATED=START:-P1W":                    "168h0m0s before start",
		"TRIGGER;RELATED=END:-PT1H30M":                  "1h30m0s before due",
		"TRIGGER:PT0S":                                  "0s before start",
		"TRIGGER;VALUE=DATE-TIME:20261126T090000Z":      "Thu 26 Nov 2026 10:00",
		"TRIGGER:PT5M":                                  "", // after it
		"TRIGGER;VALUE=DATE:20261126":                   "",
		"TRIGGER:soon":                                  "",
		"X-NOTHING:1":                                   "",
		"TRIGGER:-P99999999999999999999W":               "",
		"TRIGGER;VALUE=DURATION;RELATED=END:-P0DT0H10M": "10m0s before due",
	} {
		text := todo("DTSTART:20261127T090000", "DUE:20261127T110000", "BEGIN:VALARM", "ACTION:AUDIO", trigger, "END:VALARM")
		got, troubles := exchange.Read(exchange.ICalendar, text, c, now)
		require.Empty(t, troubles, trigger)
		require.Len(t, got, 1, trigger)
		said := ""
		for _, r := range got[0].Remind {
			if said = ""; r.Relative != nil {
				anchor := "start"
				if r.Relative.Anchor == when.FromDue {
					anchor = "due"
				}
				said = r.Relative.Before.String() + " before " + anchor
			} else {
				said = r.Moment.Canonical(c)
			}
		}
		assert.Equal(t, want, said, trigger)
	}
}

// An independent reader finds in what is written what was put in.
func TestOthersReadWhatIsWritten(t *testing.T) {
	c := oslo(t)
	due := when.OnDay(when.Date{Year: 2026, Month: 11, Day: 27}, c)
	start := when.Exact(time.Date(2026, 11, 26, 8, 0, 0, 0, time.UTC), c)
	in := exchange.Task{
		UID: "crates@x.example", Title: "Crates; boxes, and\na line", Notes: strings.Repeat("å long note, ", 30) + "and its end", Start: &start, Due: &due, Project: "Orangery, east",
		Priority: followup.High, Status: followup.Under, Checklist: []followup.Item{{Text: "Measure", Done: true}, {Text: "Order"}},
	}
	text, err := exchange.Write(exchange.ICalendar, []exchange.Task{in}, c, now)
	require.NoError(t, err)
	for line := range strings.SplitSeq(strings.TrimSuffix(text, "\r\n"), "\r\n") {
		assert.LessOrEqual(t, len(line), 75, "lines are folded (RFC 5545, 3.1)")
		assert.NotContains(t, line, "\n")
	}
	cal, err := goical.NewDecoder(strings.NewReader(text)).Decode()
	require.NoError(t, err)
	todos := cal.Children
	require.Len(t, todos, 3, "each part of a checklist is a task of its own")
	of := func(todo *goical.Component, name string) string {
		text, err := todo.Props.Text(name)
		require.NoError(t, err)
		return text
	}
	assert.Equal(t, in.Title, of(todos[0], "SUMMARY"))
	assert.Equal(t, in.Notes, of(todos[0], "DESCRIPTION"))
	categories, err := todos[0].Props.Get("CATEGORIES").TextList()
	require.NoError(t, err)
	assert.Equal(t, []string{"Orangery, east"}, categories, "a comma in a name is no second name")
	assert.Equal(t, []string{"20261126T090000", "20261127", "3", "IN-PROCESS"},
		[]string{todos[0].Props.Get("DTSTART").Value, todos[0].Props.Get("DUE").Value, todos[0].Props.Get("PRIORITY").Value, todos[0].Props.Get("STATUS").Value})
	for _, part := range todos[1:] {
		assert.Equal(t, in.UID, of(part, "RELATED-TO"))
	}
}

// Lines of todo.txt as people write them by hand.
func TestLinesByHand(t *testing.T) {
	c := oslo(t)
	for line, want := range map[string]string{
		"Crates":                                 "Crates | open, normal, - to -",
		"(C) Crates":                             "Crates | open, normal, - to -",
		"(Z) Crates":                             "Crates | open, low, - to -",
		"(a) Crates":                             "(a) Crates | open, normal, - to -",
		"(A)Crates":                              "(A)Crates | open, normal, - to -",
		"x Crates":                               "Crates | done, normal, - to -",
		"X Crates":                               "X Crates | open, normal, - to -",
		"xylophone":                              "xylophone | open, normal, - to -",
		"x 2026-11-20 Crates pri:A":              "Crates | done, urgent, - to -",
		"2026-11-20 Crates":                      "Crates | open, normal, - to -",
		"Crates\tin the  yard":                   "Crates in the yard | open, normal, - to -",
		"Crates due:tomorrow":                    "Crates | open, normal, - to Wed 25 Nov 2026",
		"Crates t:2026-11-25 due:2026-11-27":     "Crates | open, normal, Wed 25 Nov 2026 to Fri 27 Nov 2026",
		"Crates due:":                            "Crates due: | open, normal, - to -",
		"Crates +a +b @c @d":                     "Crates +b @d | open, normal, - to -",
		"Crates 1+1 a@b.example + @":             "Crates 1+1 a@b.example + @ | open, normal, - to -",
		"Crates status:waiting":                  "Crates | waiting, normal, - to -",
		"Crates colour:red":                      "Crates colour:red | open, normal, - to -",
		"Crates due:2026-11-27 due:2026-11-28":   "Crates | open, normal, - to Sat 28 Nov 2026",
		"Crates due:2026-11-27T14:00":            "Crates | open, normal, - to Fri 27 Nov 2026 14:00",
		"(B) 2026-11-20 Crates due:2026-11-27\r": "Crates | open, high, - to Fri 27 Nov 2026",
	} {
		got, troubles := exchange.Read(exchange.TodoTxt, line, c, now)
		if assert.Empty(t, troubles, line) && assert.Len(t, got, 1, line) {
			assert.Equal(t, want, got[0].Title+" | "+shown(got[0], c), line)
		}
	}
	for line, what := range map[string]string{
		"x": "nothing is to be done", "(A)": "nothing is to be done", "+p @c": "nothing is to be done", "2026-13-40 Crates": "no day", "Crates due:2026-02-30": "due", "Crates min:ten": "number of minutes",
		"Crates min:-5": "number of minutes", "Crates status:asleep": "no status", "Crates rrule:FREQ=NEVER": "",
	} {
		got, troubles := exchange.Read(exchange.TodoTxt, "Before\n"+line+"\nAfter", c, now)
		assert.Len(t, got, 2, "%s: those around it are read", line)
		if assert.Len(t, troubles, 1, line) {
			assert.Equal(t, 2, troubles[0].Line)
			assert.NotEmpty(t, troubles[0].What, what)
		}
	}
}

// Tables as spreadsheets write them.
func TestTablesOfSpreadsheets(t *testing.T) {
	c := oslo(t)
	for name, text := range map[string]string{
		"commas":                  "title,due,priority\nCrates,2026-11-27,high\n",
		"semicolons":              "Title;Due;Priority\nCrates;2026-11-27;high\n",
		"tabs":                    "Title\tDue\tPriority\nCrates\t2026-11-27\thigh\n",
		"carriage returns":        "title,due,priority\r\nCrates,2026-11-27,high\r\n",
		"a mark and quotes":       "\ufeff\"Title\",\"Due\",\"Priority\"\r\n\"Crates\",\"2026-11-27\",\"high\"\r\n",
		"names of others":         "Task,Deadline,Owner,Priority\nCrates,2026-11-27,,HIGH\n",
		"columns nobody knows":    "Mood,Title,Due,Priority\nfine,Crates,2026-11-27,high\n",
		"a row that is too short": "title,priority,due,notes\nCrates,high,2026-11-27\n",
		"a row that is too long":  "title,priority,due\nCrates,high,2026-11-27,and,more\n",
		"blanks around names":     " title , due , priority \nCrates, 2026-11-27 , high \n",
		"an empty line between":   "title,due,priority\n\nCrates,2026-11-27,high\n\n",
		"a phrase":                "title,due,priority\nCrates,fri,high\n",
	} {
		got, troubles := exchange.Read(exchange.CSV, text, c, now)
		assert.Empty(t, troubles, name)
		if assert.Len(t, got, 1, name) {
			assert.Equal(t, "Crates | open, high, - to Fri 27 Nov 2026", strings.TrimSpace(got[0].Title)+" | "+shown(got[0], c), name)
		}
	}
	got, troubles := exchange.Read(exchange.CSV, "title,notes\n\"Two\nlines\",\"a \"\"word\"\"\"\nNext,\n", c, now)
	require.Empty(t, troubles)
	require.Len(t, got, 2)
	assert.Equal(t, "a \"word\"", got[0].Notes)
	got, troubles = exchange.Read(exchange.CSV, "title,minutes\nOne,10\nTwo,-1\nThree,30\n", c, now)
	assert.Len(t, got, 2)
	require.Len(t, troubles, 1)
	assert.Equal(t, 3, troubles[0].Line)
	assert.Contains(t, troubles[0].What, "minutes: ")
}
