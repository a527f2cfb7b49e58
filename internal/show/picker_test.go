package show_test

import (
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"ebbe.example/ebbe/internal/app"
	"ebbe.example/ebbe/internal/core/decide"
	"ebbe.example/ebbe/internal/show"
)

func (d *desk) ask(q show.Asking) show.PhraseView {
	d.Helper()
	out, err := d.ReadPhrase(d.Context(), d.who, q)
	require.NoError(d, err)
	return out
}

// follow makes a follow-up of a title, a due and minutes.
func (d *desk) follow(title, due string, minutes int) {
	d.Helper()
	_, err := d.NewFollowUp(d.Context(), d.who, crand(), app.FollowUpFields{Title: &title, Due: &due, Estimate: &minutes})
	require.NoError(d, err)
}

func (d *desk) inbox() []show.Row {
	d.Helper()
	page, err := d.List(d.Context(), d.who, decide.Inbox, false, 0, "")
	require.NoError(d, err)
	return page.Rows
}

// What is typed is read as what it is for: a time, a span, several reminders, how
// something comes again; or it says in words why it can't be.
func TestPhrasesAreReadForWhatTheyAreFor(t *testing.T) {
	d := begin(t) // a Tuesday, 08:20 in Oslo
	d.receive(1)
	for name, c := range map[string]struct {
		ask    show.Asking
		words  string
		phrase string
		why    string
	}{
		"a time":             {show.Asking{Phrase: "fri 2pm"}, "Fri 27 Nov, 14:00", "Fri 27 Nov 2026 14:00", "in 3 days"},
		"a day":              {show.Asking{Phrase: "tomorrow"}, "tomorrow 08:30", "Wed 25 Nov 2026 morning", "in one day"},
		"over the clocks":    {show.Asking{Phrase: "2027-04-06 10:00"}, "Tue 6 Apr 2027, 10:00", "Tue 6 Apr 2027 10:00", "clocks are changed"},
		"a condition":        {show.Asking{Phrase: "fri if no answer"}, "if nobody has answered", "", ""},
		"a span":             {show.Asking{Phrase: "wed to fri", As: "span"}, "tomorrow 08:30 to Fri 27 Nov", "", "in 3 days"},
		"hours of a day":     {show.Asking{Phrase: "thu 10-12", As: "appointment"}, "Thu 26 Nov, 10:00 to 12:00", "", ""},
		"reminders besides":  {show.Asking{Phrase: "remind fri 10", As: "times"}, "", "", ""},
		"a reminder":         {show.Asking{Phrase: "2 hours before", As: "remind", Due: "fri 10"}, "2 hours before", "2 hours before", "08:00"},
		"how it comes again": {show.Asking{Phrase: "every friday", As: "recurs"}, "every friday", "every friday", "then"},
	} {
		out := d.ask(c.ask)
		require.NotNil(t, out.Reading, "%s: %s", name, out.Trouble)
		assert.Contains(t, out.Reading.Words, c.words, name)
		assert.Contains(t, out.Reading.Phrase, c.phrase, name)
		assert.Contains(t, out.Reading.Why, c.why, name)
	}
	for name, q := range map[string]show.Asking{
		"no phrase at all":   {Phrase: "purple"},
		"no span":            {Phrase: "purple", As: "span"},
		"no reminders":       {Phrase: "purple", As: "times"},
		"no reminder":        {Phrase: "purple", As: "remind"},
		"nothing that comes": {Phrase: "purple", As: "recurs"},
		"no appointment":     {Phrase: "purple", As: "appointment"},
		"for nothing known":  {Phrase: "fri", As: "purple"},
	} {
		out := d.ask(q)
		assert.Nil(t, out.Reading, name)
		assert.NotEmpty(t, out.Trouble, name)
	}
}

// The load strip says what stands on the days to come, and a phrase whose day
// would be over-full says so before it is taken.
func TestADayThatWouldBeOverFull(t *testing.T) {
	d := begin(t)
	d.receive(3)
	before := d.ask(show.Asking{Phrase: "thu", Count: 1})
	require.Len(t, before.Days, 14)
	assert.False(t, before.Reading.Over)
	thursday := func(v show.PhraseView) show.DayLoad {
		for _, day := range v.Days {
			if day.Date == "2026-11-26" {
				return day
			}
		}
		t.Fatal("no Thursday")
		return show.DayLoad{}
	}
	assert.Zero(t, thursday(before).Planned)
	free := thursday(before).Free
	require.Positive(t, free)

	d.follow("Walk round the panes", "thu", free-1)
	nearly := d.ask(show.Asking{Phrase: "thu", Count: 1})
	assert.False(t, nearly.Reading.Over, "a minute is left for one decision")
	assert.Contains(t, nearly.Reading.Why, "free min planned")
	assert.Equal(t, 1, thursday(nearly).Tasks)
	assert.True(t, d.ask(show.Asking{Phrase: "thu", Count: 3}).Reading.Over, "not for three")

	d.decide(decide.PutOff, "thu", d.inbox()[0])
	full := d.ask(show.Asking{Phrase: "thu", Count: 1})
	assert.True(t, full.Reading.Over)
	assert.Contains(t, full.Reading.Why, "Thursday would be over-full")
	assert.Equal(t, 1, thursday(full).Returns)

	for _, p := range full.Proposals {
		if p.Label == "the first day with room" {
			assert.Equal(t, "2026-11-25", p.Day, "Wednesday is empty")
		}
	}
	weekend := d.ask(show.Asking{Phrase: "sat", Count: 1})
	assert.Contains(t, weekend.Reading.Why, "no working time that day")
}

// What an appointment takes of a day is not free, unless it was declined, called
// off, or takes no time.
func TestAppointmentsTakeTimeOfADay(t *testing.T) {
	d := begin(t)
	free := func() int { return d.ask(show.Asking{Phrase: "thu"}).Days[2].Free }
	whole := free()
	made, err := d.NewAppointment(t.Context(), d.who, crand(), app.AppointmentFields{Title: ptr("Panes"), When: ptr("thu 10-12")}, 0)
	require.NoError(t, err)
	less := free()
	assert.Less(t, less, whole)
	_, err = d.Undo(t.Context(), d.who, crand(), made.Entry, true)
	require.NoError(t, err)
	assert.Equal(t, whole, free())
	_, err = d.NewAppointment(t.Context(), d.who, crand(), app.AppointmentFields{Title: ptr("Fair"), When: ptr("thu 10-12"), Free: ptr(true)}, 0)
	require.NoError(t, err)
	assert.Equal(t, whole, free())
}

func ptr[T any](v T) *T { return &v }

// A place that nobody has named yet is named with taking the phrase; the places
// that are known are offered, but for the one where the person is.
func TestPlacesInPhrases(t *testing.T) {
	d := begin(t)
	d.receive(1)
	row := d.inbox()[0]
	out := d.ask(show.Asking{Phrase: "when I am at the orangery", Conversation: row.ID})
	require.NotNil(t, out.Reading, out.Trouble)
	assert.NotEmpty(t, out.Reading.Makes)
	assert.Contains(t, out.Reading.Why, "a new place")

	spot, err := d.NewSpot(t.Context(), d.who, crand(), "Greenhouse")
	require.NoError(t, err)
	offered := func() (places []string) {
		for _, p := range d.ask(show.Asking{Conversation: row.ID}).Proposals {
			if p.Phrase == "when I am at Greenhouse" {
				places = append(places, p.Words)
			}
		}
		return places
	}
	assert.Len(t, offered(), 1)
	spots, err := d.Spots(t.Context(), d.who)
	require.NoError(t, err)
	require.Len(t, spots.Spots, 1)
	_, err = d.BeAt(t.Context(), d.who, crand(), spots.Spots[0].ID)
	require.NoError(t, err)
	assert.Empty(t, offered(), "one is there already")
	assert.NotZero(t, spot.Entry)

	// Whoever works by contexts may want to wait for one.
	title, context := "Fetch the old maps", "archive"
	_, err = d.NewFollowUp(t.Context(), d.who, crand(), app.FollowUpFields{Title: &title, Context: &context})
	require.NoError(t, err)
	var contexts []string
	for _, p := range d.ask(show.Asking{Phrase: "when I am at ", Conversation: row.ID}).Proposals {
		if p.Makes != "" {
			contexts = append(contexts, p.Makes)
		}
	}
	assert.Equal(t, []string{"archive"}, contexts)
}

// A letter can wait for its sender; several can't be said to have one.
func TestWhoIsWaitedForInProposals(t *testing.T) {
	d := begin(t)
	d.receive(1)
	row := d.inbox()[0]
	words := func(count int) string {
		for _, p := range d.ask(show.Asking{Conversation: row.ID, Count: count}).Proposals {
			if p.Phrase == "when they answer" {
				return p.Words
			}
		}
		return ""
	}
	assert.Equal(t, "when "+row.From.Display()+" answers", words(1))
	assert.Equal(t, "when the sender answers", words(2))
	assert.Empty(t, d.ask(show.Asking{Plain: true}).Days, "where only a time is asked for, nothing is weighed")
}

// What is read ahead says until when it means the same; read again at the last
// moment before, each phrase still means what was promised.
func TestWhatWasReadAheadHolds(t *testing.T) {
	d := begin(t)
	list, err := d.ReadyPhrases(t.Context(), d.who)
	require.NoError(t, err)
	require.NotEmpty(t, list)
	began := d.clock.Now()
	checked := 0
	for _, ready := range list {
		if ready.At == nil || ready.Until == nil || !ready.Until.After(began.Add(time.Second)) {
			continue
		}
		if checked++; checked > 25 {
			break
		}
		before := ready.Until.Add(-time.Second)
		if before.Before(d.clock.Now()) {
			continue
		}
		d.clock.Advance(before.Sub(d.clock.Now()))
		again := d.ask(show.Asking{Phrase: ready.Typed, Plain: true})
		require.NotNil(t, again.Reading, ready.Typed)
		assert.Equal(t, ready.At.UTC(), again.Reading.At.UTC(), "%s at %s", ready.Typed, before)
	}
	assert.Positive(t, checked)
}

// Letters are spread over working days only, none lost, and the days say what
// they would carry.
func TestSpreadingOverDays(t *testing.T) {
	d := begin(t)
	d.receive(17)
	rows := d.inbox()
	for over, working := range map[string]int{"week": 3, "next-week": 5, "two-weeks": 9} {
		out, err := d.Spread(t.Context(), d.who, ids(rows), over)
		require.NoError(t, err, over)
		assert.Len(t, out.Days, working, over)
		require.Len(t, out.Each, len(rows), over)
		total, most, least := 0, 0, len(rows)
		for _, day := range out.Days {
			total += day.Count
			most, least = max(most, day.Count), min(least, day.Count)
		}
		assert.Equal(t, len(rows), total, over)
		assert.LessOrEqual(t, most-least, 1, "empty days share alike: %s", over)
		for i, one := range out.Each {
			assert.Equal(t, rows[i].ID, one.ID)
			reading := d.ask(show.Asking{Phrase: one.Phrase, Plain: true}).Reading
			require.NotNil(t, reading)
		}
	}
	_, err := d.Spread(t.Context(), d.who, ids(rows), "the year")
	assert.ErrorContains(t, err, "Spread over")
	d.clock.Advance(4 * 24 * time.Hour) // Saturday
	_, err = d.Spread(t.Context(), d.who, ids(rows), "week")
	assert.ErrorContains(t, err, "no working day left")
}

// Of what is too much for today as much is moved as makes it fit; what has an hour
// today stays.
func TestMakingTodayFit(t *testing.T) {
	d := begin(t)
	fits, err := d.Fit(t.Context(), d.who)
	require.NoError(t, err)
	assert.Empty(t, fits.Moves)
	d.follow("By four", "today 16:00", 120)
	for _, title := range []string{"One", "Two", "Three", "Four", "Five"} {
		d.follow(title, "today", 120)
	}
	fits, err = d.Fit(t.Context(), d.who)
	require.NoError(t, err)
	require.NotEmpty(t, fits.Moves)
	left := fits.Planned
	for _, m := range fits.Moves {
		assert.NotEqual(t, "By four", m.Title)
		left -= m.Estimate
	}
	assert.LessOrEqual(t, left-fits.Left, fits.Free)
	var moves []app.FitMove
	for _, m := range fits.Moves {
		moves = append(moves, app.FitMove{ID: m.ID, To: m.To})
	}
	_, err = d.TakeFit(t.Context(), d.who, crand(), moves)
	require.NoError(t, err)
	again, err := d.Fit(t.Context(), d.who)
	require.NoError(t, err)
	assert.Empty(t, again.Moves)
}
