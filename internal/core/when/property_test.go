package when

import (
	"testing"
	"time"

	"pgregory.net/rapid"
)

var zones = []string{
	"Europe/Oslo", "Europe/London", "America/New_York", "America/St_Johns", "America/Santiago",
	"Australia/Lord_Howe", "Australia/Adelaide", "Pacific/Auckland", "Africa/Casablanca", "Asia/Tehran", "UTC", "Asia/Kathmandu",
}

// atChanges are phrases that name hours at which clocks are changed.
var atChanges = []string{
	"sat 02:30", "sun 02:30", "sun 01:15", "tomorrow 02:15", "02:30", "23:59", "00:00", "the 31st 02:30", "next sun 03:00", "sun around 02:30",
	"last sunday of march 02:30", "last sunday of october 02:30", "first sunday of november 01:30", "in 26 hours", "midnight",
}

// nearChange draws an instant close to a daylight-saving change of the zone,
// where there is one, and any instant otherwise.
func nearChange(rt *rapid.T, loc *time.Location) time.Time {
	at := time.Unix(rapid.Int64Range(1_750_000_000, 1_950_000_000).Draw(rt, "unix"), 0)
	if rapid.Bool().Draw(rt, "anywhere") {
		return at
	}
	_, next := at.In(loc).ZoneBounds()
	if next.IsZero() {
		return at
	}
	return next.Add(time.Duration(rapid.IntRange(-3*24*60, 24*60).Draw(rt, "minutes")) * time.Minute)
}

func TestPhraseProperties(t *testing.T) {
	phrases := atChanges
	for _, k := range table(t) {
		phrases = append(phrases, k.phrase)
	}
	rapid.Check(t, func(rt *rapid.T) {
		loc, err := time.LoadLocation(rapid.SampledFrom(zones).Draw(rt, "zone"))
		if err != nil {
			rt.Fatal(err)
		}
		c := Standard(loc)
		c.Named, c.MonthFirst = UsualTimes, rapid.Bool().Draw(rt, "month first")
		c.WeekStart = time.Weekday(rapid.IntRange(0, 6).Draw(rt, "week start"))
		now := nearChange(rt, loc)
		phrase := rapid.SampledFrom(phrases).Draw(rt, "phrase")
		r, err := Read(phrase, now, c)
		if err != nil || r.Precision == Open {
			return // "tonight" late in the evening has passed
		}
		if !r.UTC.After(now) {
			rt.Fatalf("%q at %v reads to the past: %v", phrase, now, r.UTC)
		}
		earlier := now.Add(-time.Duration(rapid.IntRange(0, 60*24*400).Draw(rt, "earlier")) * time.Minute)
		again, err := Read(r.Canonical, earlier, c)
		if err != nil {
			rt.Fatalf("canonical %q of %q: %v", r.Canonical, phrase, err)
		}
		if !again.UTC.Equal(r.UTC) || again.Precision != r.Precision {
			rt.Fatalf("%q at %v: canonical %q reads to %v, not %v", phrase, now, r.Canonical, again.UTC, r.UTC)
		}
		if again := r.In(c); !again.UTC.Equal(r.UTC) {
			rt.Fatalf("%q at %v: stored wall %s %s computes to %v, not %v", phrase, now, r.Wall, r.Zone, again.UTC, r.UTC)
		}
	})
}

func TestWallClockTimesAreKeptOrMovedByTheGap(t *testing.T) {
	rapid.Check(t, func(rt *rapid.T) {
		loc, err := time.LoadLocation(rapid.SampledFrom(zones).Draw(rt, "zone"))
		if err != nil {
			rt.Fatal(err)
		}
		c := Standard(loc)
		d := c.Today(nearChange(rt, loc))
		m := Minute(rapid.IntRange(0, 24*60-1).Draw(rt, "minute"))
		got := c.Instant(d, m)
		if sameWall(got, d.utc().Add(time.Duration(m)*time.Minute)) {
			if earlier := got.Add(-30 * time.Minute); sameWall(earlier, got) {
				rt.Fatal("not the first of a doubled time")
			}
			return
		}
		start, _ := got.ZoneBounds()
		_, before := start.Add(-time.Second).Zone()
		_, after := got.Zone()
		shift := got.Hour()*60 + got.Minute() - int(m)
		if gap := (after - before) / 60; (shift+24*60)%(24*60) != gap {
			rt.Fatalf("%v %v moved by %d minutes over a gap of %d", d, m, shift, gap)
		}
	})
}

func FuzzRead(f *testing.F) {
	for _, k := range table(f) {
		f.Add(k.phrase)
	}
	now, c := tuesday(f)
	f.Fuzz(func(t *testing.T, phrase string) {
		r, err := Read(phrase, now, c)
		if err == nil && r.Precision != Open && !r.UTC.After(now) {
			t.Fatalf("%q reads to the past", phrase)
		}
	})
}
