package when

import (
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

func shown(r Reading, c Calendar) string {
	if r.Precision == Open {
		return "-"
	}
	out := r.UTC.In(c.Zone).Format("01-02 15:04")
	if r.Precision == ToDay {
		out += " ~"
	}
	return out
}

func TestReadWish(t *testing.T) {
	now, c := tuesday(t)
	spots := []string{"the orangery", "Town office", "orangery cellar"}
	cases := []struct {
		phrase, want string
		on           Condition
		who, spot    string
	}{
		{"fri 2pm", "11-27 14:00", Always, "", ""},
		{"when she answers", "-", IfAnswered, "", ""},
		{"When he replies", "-", IfAnswered, "", ""},
		{"when they answer", "-", IfAnswered, "", ""},
		{"once they have answered", "-", IfAnswered, "", ""},
		{"when somebody writes back", "-", IfAnswered, "", ""},
		{"when there's an answer", "-", IfAnswered, "", ""},
		{"when there is a reply", "-", IfAnswered, "", ""},
		{"on reply", "-", IfAnswered, "", ""},
		{"after her answer", "-", IfAnswered, "", ""},
		{"as soon as Maren answers", "-", IfAnswered, "maren", ""},
		{"when bram oosterhuis replies to me", "-", IfAnswered, "bram oosterhuis", ""},
		{"when answered", "-", IfAnswered, "", ""},
		{"when I am at the orangery", "-", AtSpot, "", "the orangery"},
		{"when i’m at orangery", "-", AtSpot, "", "the orangery"},
		{"next time I am in the town office", "-", AtSpot, "", "Town office"},
		{"at the orangery", "-", AtSpot, "", "the orangery"},
		{"at orangery cellar", "-", AtSpot, "", "orangery cellar"},
		{"when back at the town office", "-", AtSpot, "", "Town office"},
		{"when I am at the orangery or fri 10", "11-27 10:00", AtSpot, "", "the orangery"},
		{"fri if nobody has answered", "11-27 08:30 ~", IfSilent, "", ""},
		{"fri 10:00 if no one has answered", "11-27 10:00", IfSilent, "", ""},
		{"fri if no answer", "11-27 08:30 ~", IfSilent, "", ""},
		{"3d if there is no reply", "11-27 08:30 ~", IfSilent, "", ""},
		{"fri unless she answers", "11-27 08:30 ~", IfSilent, "", ""},
		{"tomorrow unless answered", "11-25 08:30 ~", IfSilent, "", ""},
		{"fri if bram hasn't answered by then", "11-27 08:30 ~", IfSilent, "bram", ""},
		{"if nobody has answered by fri", "11-27 08:30 ~", IfSilent, "", ""},
		{"if she has not replied, next week", "11-30 08:30 ~", IfSilent, "", ""},
		{"fri or when she answers", "11-27 08:30 ~", Always, "", ""},
		{"after lunch", "11-24 14:00 ~", Always, "", ""},
	}
	for _, k := range cases {
		w, err := ReadWish(k.phrase, now, c, spots)
		if !assert.NoError(t, err, k.phrase) {
			continue
		}
		assert.Equal(t, k.want, shown(w.Reading, c), k.phrase)
		assert.Equal(t, k.on, w.If, k.phrase)
		assert.Equal(t, k.who, w.Who, k.phrase)
		assert.Equal(t, k.spot, w.Spot, k.phrase)
		again, err := ReadWish(w.Canonical, now.Add(-time.Hour), c, spots)
		if assert.NoError(t, err, w.Canonical) {
			again.Phrase, w.Phrase, again.Notes, w.Notes = "", "", nil, nil
			again.Moment.Phrase, w.Moment.Phrase = "", ""
			assert.Equal(t, w, again, "%s printed as %s", k.phrase, w.Canonical)
		}
	}
	for _, phrase := range []string{"if nobody answers", "unless she answers", "when I am at the castle", "when she answers if nobody answers", "", "when", "when she sings", "fri when"} {
		_, err := ReadWish(phrase, now, c, spots)
		assert.Error(t, err, phrase)
	}
}

func TestReadSpan(t *testing.T) {
	now, c := tuesday(t)
	for phrase, want := range map[string][2]string{
		"fri":                         {"", "11-27 08:30 ~"},
		"tomorrow to fri":             {"11-25 08:30 ~", "11-27 08:30 ~"},
		"from tomorrow until fri 2pm": {"11-25 08:30 ~", "11-27 14:00"},
		"mon - wed":                   {"11-30 08:30 ~", "12-02 08:30 ~"},
		"mon-wed 12:00":               {"11-30 08:30 ~", "12-02 12:00"},
		"fri to mon":                  {"11-27 08:30 ~", "11-30 08:30 ~"},
		"1 to 5 dec":                  {"12-01 08:30 ~", "12-05 08:30 ~"},
		"fri 10 to 12":                {"11-27 10:00", "11-27 12:00"},
		"fri 10:00 till 11:30":        {"11-27 10:00", "11-27 11:30"},
		"tomorrow to end of week":     {"11-25 08:30 ~", "11-27 17:30 ~"},
		"next week to end of month":   {"11-30 08:30 ~", "11-30 17:30 ~"},
		"between mon and thu":         {"11-30 08:30 ~", "12-03 08:30 ~"},
		"quarter to five":             {"", "11-24 16:45"},
		"fri at ten to six":           {"", "11-27 17:50"},
		"2026-12-03 to 2026-12-05":    {"12-03 08:30 ~", "12-05 08:30 ~"},
		"2026-12-03":                  {"", "12-03 08:30 ~"},
	} {
		s, err := ReadSpan(phrase, now, c)
		if !assert.NoError(t, err, phrase) {
			continue
		}
		start := ""
		if s.Start != nil {
			start = shown(*s.Start, c)
		}
		assert.Equal(t, want, [2]string{start, shown(s.Due, c)}, phrase)
		again, err := ReadSpan(s.Canonical(), now, c)
		require.NoError(t, err, s.Canonical())
		assert.Equal(t, s.Due.UTC, again.Due.UTC, s.Canonical())
	}
	for _, phrase := range []string{"5 dec to 1 dec 2026", "someday to fri", "fri to someday", "fri to", "to", "x to y", "2026-12-05 to 2026-12-03"} {
		_, err := ReadSpan(phrase, now, c)
		assert.Error(t, err, phrase)
	}
}

func TestReadRelative(t *testing.T) {
	now, c := tuesday(t)
	due, err := Read("fri 2pm", now, c)
	require.NoError(t, err)
	for phrase, want := range map[string]string{
		"1 day before at 10": "11-26 10:00", "a day before": "11-26 14:00", "the day before": "11-26 14:00", "the day before at noon": "11-26 12:00",
		"2 days before 9:30": "11-25 09:30", "the evening before": "11-26 18:00", "the morning before": "11-26 08:30",
		"2 hours before": "11-27 12:00", "30 min before it is due": "11-27 13:30", "half an hour before": "11-27 13:30", "a week before": "11-20 14:00",
		"on the day at 9": "11-27 09:00", "on the day": "11-27 08:30", "when due": "11-27 14:00", "1 day before the start": "11-26 14:00",
	} {
		r, ok, err := ReadRelative(phrase, c)
		require.NoError(t, err, phrase)
		require.True(t, ok, phrase)
		assert.Equal(t, want, r.From(due.Moment, c).UTC.In(c.Zone).Format("01-02 15:04"), phrase)
		again, ok, err := ReadRelative(r.String(), c)
		require.NoError(t, err, r.String())
		assert.True(t, ok)
		assert.Equal(t, r, again, "%s printed as %s", phrase, r)
	}
	for _, phrase := range []string{"fri", "tomorrow at 9", "3d"} {
		_, ok, err := ReadRelative(phrase, c)
		assert.NoError(t, err)
		assert.False(t, ok, "%s is a time of its own", phrase)
	}
	for _, phrase := range []string{"long before", "2 hours before at 10", "a month before", "before", "on the day at breakfast", "1 day before tomorrow"} {
		_, _, err := ReadRelative(phrase, c)
		assert.Error(t, err, phrase)
	}
}

func TestNamedTimes(t *testing.T) {
	now, c := tuesday(t)
	c.Named = []Named{{Name: "after the rounds", Phrase: "15:10"}, {Name: "quiet day", Phrase: "next fri"}}
	r, err := Read("After the rounds", now, c)
	require.NoError(t, err)
	assert.Equal(t, "11-24 15:10 ~", shown(r, c), "a named time means a part of the day")
	again, err := Read(r.Canonical, now, c)
	require.NoError(t, err)
	assert.Equal(t, "11-24 15:10 ~", shown(again, c))
	r, err = Read("fri after the rounds", now, c)
	require.NoError(t, err)
	assert.Equal(t, "11-27 15:10 ~", shown(r, c))
	r, err = Read("quiet day at 11", now, c)
	require.NoError(t, err)
	assert.Equal(t, "12-04 11:00", shown(r, c))
}

func FuzzReadWish(f *testing.F) {
	now, c := tuesday(f)
	for _, s := range []string{"when she answers", "fri if nobody has answered", "at the orangery or fri", "tomorrow to fri", "1 day before at 10"} {
		f.Add(s)
	}
	f.Fuzz(func(t *testing.T, phrase string) {
		if w, err := ReadWish(phrase, now, c, []string{"the orangery"}); err == nil && w.Timed() && !w.UTC.After(now) {
			t.Fatalf("%q reads to the past", phrase)
		}
		if s, err := ReadSpan(phrase, now, c); err == nil && s.Start != nil && s.Due.UTC.Before(s.Start.UTC) {
			t.Fatalf("%q ends before it starts", phrase)
		}
		_, _, _ = ReadRelative(phrase, c)
	})
}
