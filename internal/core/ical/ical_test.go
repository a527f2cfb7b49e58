package ical_test

import (
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"ebbe.example/ebbe/internal/core/ical"
	"ebbe.example/ebbe/internal/core/when"
)

func TestLines(t *testing.T) {
	for line, want := range map[string]ical.Property{
		"SUMMARY:Crates":                         {Name: "SUMMARY", Value: "Crates"},
		"summary:a:b;c":                          {Name: "SUMMARY", Value: "a:b;c"},
		"DUE;TZID=Europe/Oslo:20261127T090000":   {Name: "DUE", Params: map[string][]string{"TZID": {"Europe/Oslo"}}, Value: "20261127T090000"},
		`ORGANIZER;CN="Lee, Ann":MAILTO:a@x`:     {Name: "ORGANIZER", Params: map[string][]string{"CN": {"Lee, Ann"}}, Value: "MAILTO:a@x"},
		"X;MEMBER=a,b;ROLE=c:v":                  {Name: "X", Params: map[string][]string{"MEMBER": {"a", "b"}, "ROLE": {"c"}}, Value: "v"},
		"X;CN=a^'b^^n:v":                         {Name: "X", Params: map[string][]string{"CN": {`a"b^n`}}, Value: "v"}, // RFC 6868
		`ATTENDEE;CN="never closed:mailto:b@x`:   {Name: "ATTENDEE", Params: map[string][]string{"CN": {"never closed"}}, Value: "mailto:b@x"},
		"ATTENDEE;CN=\"never closed:more:mail@x": {Name: "ATTENDEE", Params: map[string][]string{"CN": {"never closed"}}, Value: "more:mail@x"},
	} {
		top, troubles := ical.Read(line)
		if assert.Empty(t, troubles, line) && assert.Len(t, top.Props, 1, line) {
			if want.Params == nil {
				want.Params = map[string][]string{}
			}
			assert.Equal(t, want, top.Props[0], line)
		}
	}
	for _, line := range []string{"no colon", ":no name", "two words:x", `"quoted":x`} {
		_, troubles := ical.Read("SUMMARY:before\n" + line + "\nSUMMARY:after")
		assert.Len(t, troubles, 1, line)
	}
}

func TestTexts(t *testing.T) {
	for value, want := range map[string][]string{
		"":                       {""},
		"one":                    {"one"},
		"one,two":                {"one", "two"},
		`one\,still one,two`:     {"one,still one", "two"},
		`a\\,b`:                  {`a\`, "b"},
		`a\nb\Nc\;d`:             {"a\nb\nc;d"},
		`ends with a backslash\`: {`ends with a backslash\`},
		" blanks , around ":      {"blanks", "around"},
	} {
		assert.Equal(t, want, ical.Property{Value: value}.Texts(), value)
	}
	assert.Equal(t, "a,b", ical.Property{Value: `a\,b`}.Text())
	assert.Equal(t, "ends\n", ical.Property{Value: `ends\n `}.Text(), "a line end that was meant stays")
}

// What is left open is closed by what is around it, and what is closed without
// having been opened closes nothing.
func TestComponentsInAnyShape(t *testing.T) {
	names := func(list []*ical.Component) (out []string) {
		for _, c := range list {
			out = append(out, c.Name)
		}
		return out
	}
	top, troubles := ical.Read("\ufeffBEGIN:VCALENDAR\rBEGIN:VEVENT\rSUMMARY:One\rEND:VTODO\rEND:VCALENDAR\rbegin:vcalendar\rEND:VEVENT\rBEGIN:VTODO\rSUM\r MARY:Tw\r\to\rEND:VTODO\r")
	assert.Empty(t, troubles)
	require.Equal(t, []string{"VCALENDAR", "VCALENDAR"}, names(top.Children))
	assert.Equal(t, []string{"VEVENT"}, names(top.Children[0].Children))
	assert.Equal(t, "One", top.Named("VCALENDAR")[0].Named("VEVENT")[0].Text("SUMMARY"))
	assert.Equal(t, "Two", top.Children[1].Named("VTODO")[0].Text("SUMMARY"), "folded, in its name too")
	c := top.Children[0].Children[0]
	assert.Empty(t, c.Text("LOCATION"))
	assert.Empty(t, c.All("LOCATION"))
	again, _ := ical.Read(c.String())
	assert.Equal(t, c, again.Children[0], "written as it was read")
}

func TestTimes(t *testing.T) {
	oslo, err := time.LoadLocation("Europe/Oslo")
	require.NoError(t, err)
	c := when.Standard(oslo)
	for _, k := range []struct{ text, zone, want string }{
		{"20261127", "", "2026-11-27 08:30 day"},
		{"20261127T090000", "", "2026-11-27 09:00 minute"},
		{"20261127T090000Z", "", "2026-11-27 10:00 minute"},
		{"20261127T090000", "America/New_York", "2026-11-27 15:00 minute"},
		{"20261127T090000", `"America/New_York"`, "2026-11-27 15:00 minute"},
		{"20261127T090000", "Nowhere/Else", "2026-11-27 09:00 minute"},
		{"20261127T090000", "Local", "2026-11-27 09:00 minute"},
		{"20270328T023000", "", "2027-03-28 03:30 minute"}, // which does not exist there
		{"20261025T023000", "", "2026-10-25 02:30 minute"}, // which comes twice: the first
		{"2026-11-27", "", "refused"}, {"20261332", "", "refused"}, {"soon", "", "refused"}, {"", "", "refused"}, {"20261127T0900", "", "refused"},
	} {
		params := map[string][]string{}
		if k.zone != "" {
			params["TZID"] = []string{k.zone}
		}
		m, err := ical.Time(k.text, params, c)
		got := "refused"
		if err == nil {
			got = m.UTC.In(oslo).Format("2006-01-02 15:04 ") + string(m.Precision)
		}
		assert.Equal(t, k.want, got, "%s in %q", k.text, k.zone)
	}
}

func TestDurations(t *testing.T) {
	for text, want := range map[string]time.Duration{
		"PT15M": 15 * time.Minute, "-PT15M": -15 * time.Minute, "+P1D": 24 * time.Hour, "P2W": 14 * 24 * time.Hour, "P1DT2H3M4S": 26*time.Hour + 3*time.Minute, "PT0S": 0, "P": 0,
	} {
		got, ok := ical.Duration(text)
		assert.True(t, ok, text)
		assert.Equal(t, want, got, text)
	}
	for _, text := range []string{"", "15M", "PT1X", "P1M", "T1H", "P99999W", "P99999999999999999999D", "P5000WT900000H"} {
		_, ok := ical.Duration(text)
		assert.False(t, ok, text)
	}
	rapid.Check(t, func(rt *rapid.T) {
		text := rapid.StringMatching(`[+-]?P(\d{1,20}W)?(\d{1,20}D)?(T(\d{1,20}H)?(\d{1,20}M)?)?`).Draw(rt, "text")
		if d, ok := ical.Duration(text); ok && (d > 101*365*24*time.Hour || d < -101*365*24*time.Hour) {
			rt.Fatalf("%s is %v", text, d)
		}
	})
}

func FuzzRead(f *testing.F) {
	for _, s := range []string{"BEGIN:A\nX;Y=\"z\":1\nEND:A", "BEGIN:A\r\n B\r\nEND:B", ":", "A;=:", "\ufeff \n x"} {
		f.Add(s)
	}
	f.Fuzz(func(t *testing.T, text string) {
		top, _ := ical.Read(text)
		for _, p := range top.Props {
			if p.Name == "" {
				t.Fatal("a property has no name")
			}
			p.Texts()
		}
		for _, c := range top.Children {
			again, troubles := ical.Read(c.String())
			if len(troubles) == 0 && len(again.Children) != 1 {
				t.Fatalf("%q is %d components once written", c.String(), len(again.Children))
			}
		}
	})
}
