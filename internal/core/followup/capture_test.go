package followup_test

import (
	"fmt"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"ebbe.example/ebbe/internal/core/followup"
	"ebbe.example/ebbe/internal/core/when"
)

func oslo(t require.TestingT) when.Calendar {
	zone, err := time.LoadLocation("Europe/Oslo")
	require.NoError(t, err)
	return when.Standard(zone)
}

// tuesday is Tuesday 24 November 2026, 11:06 in Oslo.
var tuesday = time.Date(2026, 11, 24, 10, 6, 0, 0, time.UTC)

var known = followup.Known{Projects: []string{"Bromeliad loan", "Winter walks"}, Contexts: []string{"phone", "orangery"}, People: []string{"Lise Bo", "Henrik Aas"}, Stages: []string{"Drafted"}}

func TestCapture(t *testing.T) {
	for line, want := range map[string]string{
		"send lift height to Bram fri 10, high, for brom, by phone, 15 min": "send lift height to Bram | due Fri 27 Nov, 10:00 | priority high | project Bromeliad loan | context by phone | estimate 15 min",
		"water the ferns":                                    "water the ferns",
		"order 12 crates":                                    "order 12 crates",
		"buy 3 pots tomorrow":                                "buy 3 pots | due tomorrow 08:30",
		"tidy up, tomorrow to fri, remind thu 10":            "tidy up | due tomorrow 08:30 to Fri 27 Nov, 08:30 | remind Thu 26 Nov, 10:00",
		"call Maren, urgent, 1 h, remind 1 day before at 10": "call Maren | priority urgent | estimate 1 h 00 min | remind 1 day before at 10:00",
		"water the ferns every monday":                       "water the ferns | recurs every monday",
		"rota, every first monday, 1h30":                     "rota | recurs every first monday | estimate 1 h 30 min",
		"bring ladder, rope and paint, low":                  "bring ladder, rope and paint | priority low",
		`read "fri 10", for Board`:                           "read fri 10 | project Board",
		"plan, Winter walks, Drafted, note: ask Tove":        "plan | project Winter walks | stage Drafted | note ask Tove",
		"send the list, owner lise, in half an hour":         "send the list | owner Lise Bo | due today 11:36",
		"pay 1,5 kg of seed 1 dec":                           "pay 1,5 kg of seed | due Tue 1 Dec, 08:30",
		"clean, every 31 february":                           "clean | recurs ! it never comes",
		"look, remind someday":                               "look | remind ! a reminder needs a time",
		"fri 10":                                             "fri 10",
		"":                                                   "",
	} {
		got := followup.Capture(line, tuesday, oslo(t), known)
		parts := []string{got.Title}
		for _, c := range got.Chips {
			words := c.Words
			if c.Trouble != "" {
				words = "! " + strings.SplitN(c.Trouble, ":", 2)[0]
			}
			parts = append(parts, string(c.Kind)+" "+words)
			assert.Contains(t, strings.NewReplacer(`"`, "").Replace(line[c.From:]), c.Text, line)
		}
		assert.Equal(t, want, strings.Join(parts, " | "), line)
	}
	c := followup.Capture("x, high, 15 min, by phone", tuesday, oslo(t), known)
	assert.Equal(t, followup.High, c.Priority)
	assert.Equal(t, 15*time.Minute, c.Estimate)
	assert.Equal(t, "phone", c.Context)
}

// Whatever is in quotation marks stays in the title, letter by letter.
func TestQuotedStays(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		inner := rapid.StringMatching(`[a-z0-9, :]{1,30}`).Draw(t, "inner")
		c := followup.Capture(`do "`+inner+`"`, tuesday, oslo(t), known)
		assert.Equal(t, strings.TrimSpace("do "+inner), strings.TrimSpace(c.Title))
	})
}

func FuzzCapture(f *testing.F) {
	for _, s := range []string{"a, fri 10", `"`, "“”, x", ",,;", "remind", "every", "for \x01", "é, fri, for é"} {
		f.Add(s)
	}
	c := oslo(f)
	f.Fuzz(func(t *testing.T, line string) {
		got := followup.Capture(line, tuesday, c, known)
		for _, chip := range got.Chips {
			if chip.From < 0 || chip.From > len(line) {
				t.Fatal(chip)
			}
		}
	})
}

func TestReadRecurrence(t *testing.T) {
	c := oslo(t)
	next := func(phrase string, n int) string {
		r, err := followup.ReadRecurrence(phrase, tuesday, c)
		if err != nil {
			return "! " + err.Error()
		}
		first := c.Today(tuesday)
		due, out := first, []string{}
		for range n {
			next, ok, err := r.Next(due, first, first)
			require.NoError(t, err)
			if !ok {
				out = append(out, "end")
				break
			}
			out = append(out, fmt.Sprintf("%02d-%02d", next.Month, next.Day))
			due = next
		}
		return strings.Join(out, " ")
	}
	for phrase, want := range map[string]string{
		"every day":                      "11-25 11-26 11-27",
		"daily":                          "11-25 11-26 11-27",
		"every workday":                  "11-25 11-26 11-27 11-30",
		"every monday":                   "11-30 12-07 12-14",
		"every mon, wed and fri":         "11-25 11-27 11-30",
		"Every Other Friday":             "11-27 12-11 12-25",
		"every 2 weeks":                  "12-08 12-22 01-05",
		"every first monday":             "12-07 01-04 02-01",
		"every last friday of the month": "11-27 12-25 01-29",
		"every last workday":             "11-30 12-31 01-29",
		"every month on the 31st":        "11-30 12-31 01-31 02-28",
		"every 30th":                     "11-30 12-30 01-30 02-28 03-30",
		"every 15th":                     "12-15 01-15 02-15",
		"every last day of the month":    "11-30 12-31 01-31",
		"every year on 24 nov":           "11-24 11-24",
		"every 29 feb":                   "02-29",
		"every quarter":                  "02-24 05-24 08-24",
		"every day until fri":            "11-25 11-26 11-27 end",
		"every day, 3 times":             "11-25 11-26 end",
		"every weekend":                  "11-28 11-29 12-05",
		"FREQ=MONTHLY;BYMONTHDAY=31":     "12-31 01-31 03-31",
		"every 31 february":              "! it never comes: there is no such day",
		"every 31 nov":                   "! it never comes: there is no such day",
		"every hour":                     "! every what? “hour” is not understood; try “every monday” or “every first monday”",
		"FREQ=SECONDLY":                  "! a follow-up comes again once a day at most",
		"FREQ=NEVER":                     "! “FREQ=NEVER” is no rule of recurrence",
		"every 0 days":                   "! the interval goes from 1 to 999",
		"every 32nd":                     "! a month has 31 days at most",
	} {
		assert.Equal(t, want, next(phrase, max(1, len(strings.Fields(want)))), phrase)
	}
	r, err := followup.ReadRecurrence("3 days after done", tuesday, c)
	require.NoError(t, err)
	next2, ok, err := r.Next(when.Date{Year: 2026, Month: 11, Day: 1}, when.Date{Year: 2026, Month: 11, Day: 24}, when.Date{Year: 2026, Month: 11, Day: 1})
	require.NoError(t, err)
	assert.True(t, ok)
	assert.Equal(t, "2026-11-27", next2.String())
}

// The next one always lies after the last, and a rule that was accepted has one.
func TestRecurrenceGoesForward(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		phrase := rapid.SampledFrom([]string{"every day", "every 3 weeks", "every last friday", "every 31st", "every 29 feb", "2 months after done", "every workday"}).Draw(t, "phrase")
		c := oslo(t)
		at := tuesday.AddDate(0, 0, rapid.IntRange(0, 3000).Draw(t, "days"))
		r, err := followup.ReadRecurrence(phrase, at, c)
		require.NoError(t, err)
		due := c.Today(at)
		next, ok, err := r.Next(due, due, due)
		require.NoError(t, err)
		assert.True(t, ok && due.Before(next), "%s: %s then %s", phrase, due, next)
	})
}
