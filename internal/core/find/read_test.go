package find_test

import (
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"pgregory.net/rapid"

	"ebbe.example/ebbe/internal/core/find"
	"ebbe.example/ebbe/internal/core/when"
)

// now is a Tuesday.
var (
	now = time.Date(2026, 11, 24, 9, 0, 0, 0, time.UTC)
	cal = when.Standard(time.UTC)
)

// shape writes how a query was understood, without what it makes of days.
func shape(q find.Query) string {
	switch q.Op {
	case find.Is:
		exact := ""
		if q.Term.Exact {
			exact = "!"
		}
		return string(q.Term.Field) + exact + "<" + q.Term.Value + ">"
	case find.Not:
		return "not " + shape(q.Of[0])
	}
	parts := make([]string, len(q.Of))
	for i, p := range q.Of {
		parts[i] = shape(p)
	}
	between := " and "
	if q.Op == find.Any {
		between = " or "
	}
	return "[" + strings.Join(parts, between) + "]"
}

func TestWhatIsTypedIsRead(t *testing.T) {
	const nothing = "[]"
	for _, c := range []struct{ typed, is, problem string }{
		// Words.
		{"", nothing, ""}, {"   ", nothing, ""}, {"x", "<x>", ""}, {"crate", "<crate>", ""}, {"crate sizes", "[<crate> and <sizes>]", ""}, {"  crate\tsizes\n", "[<crate> and <sizes>]", ""},
		{"Crate", "<Crate>", ""}, {"14:30", "<14:30>", ""}, {"http://x.example", "<http://x.example>", ""}, {"bram@x.example", "<bram@x.example>", ""}, {"…", nothing, ""}, {"!", nothing, ""},
		{"a!", "<a!>", ""}, {"c++", "<c++>", ""}, {"*", nothing, ""}, {"crate*", "<crate*>", ""}, {"^a", "<^a>", ""}, {"{a b}", "[<{a> and <b}>]", ""}, {"a AND b", "[<a> and <AND> and <b>]", ""},
		{"NEAR(a b)", "[<NEAR> and <a> and <b>]", ""}, {"a NOT b", "[<a> and <NOT> and <b>]", ""}, {"straße", "<straße>", ""}, {"東京", "<東京>", ""}, {"שלום עולם", "[<שלום> and <עולם>]", ""},
		{"e\u0301t\u00e9", "<e\u0301t\u00e9>", ""}, {"a\x00b", "[<a> and <b>]", ""}, {"a\u00a0b", "[<a> and <b>]", ""}, {"\xff", nothing, ""}, {"don't", "<don't>", ""}, {"'; DROP TABLE letters", "[<DROP> and <TABLE> and <letters>]", ""},
		// Phrases.
		{`"crate sizes"`, "!<crate sizes>", ""}, {`"crate sizes`, "!<crate sizes>", ""}, {`"crate`, "!<crate>", ""}, {`""`, nothing, ""}, {`"`, nothing, ""}, {`" "`, nothing, ""}, {`"a" "b"`, "[!<a> and !<b>]", ""},
		{`"a""b"`, "[!<a> and !<b>]", ""}, {`a"b"`, "[<a> and !<b>]", ""}, {`"a"b`, "[!<a> and <b>]", ""}, {"“crate sizes”", "!<crate sizes>", ""}, {"„crate sizes“", "!<crate sizes>", ""}, {"«crate»", "!<crate>", ""},
		{`"or"`, "!<or>", ""}, {`"from:x"`, "!<from:x>", ""}, {`"-x"`, "!<-x>", ""}, {`"(x"`, "!<(x>", ""}, {`x "`, "<x>", ""},
		// Not.
		{"-orchid", "not <orchid>", ""}, {"a -b", "[<a> and not <b>]", ""}, {"-a -b", "[not <a> and not <b>]", ""}, {`-"a b"`, "not !<a b>", ""}, {"-", nothing, ""}, {"- a", "<a>", ""}, {"--a", "not <a>", ""},
		{"a-b", "<a-b>", ""}, {"-from:bram", "not from<bram>", ""}, {"-(a b)", "not [<a> and <b>]", ""}, {"-(a)", "not <a>", ""}, {"-(-a)", "<a>", ""}, {"-()", nothing, ""}, {"-mark:starred", "not mark<starred>", ""}, {`-"`, nothing, ""},
		// Or.
		{"a or b", "[<a> or <b>]", ""}, {"a OR b", "[<a> or <b>]", ""}, {"a or b or c", "[<a> or <b> or <c>]", ""}, {"a b or c", "[<a> and [<b> or <c>]]", ""}, {"a or b c", "[[<a> or <b>] and <c>]", ""},
		{"a or", "<a>", ""}, {"or", "!<or>", ""}, {"or a", "[!<or> and <a>]", ""}, {"a or or b", "[[<a> or !<or>] and <b>]", ""}, {"a or -b", "[<a> or not <b>]", ""}, {"from:a or from:b", "[from<a> or from<b>]", ""},
		{"(a b) or c", "[[<a> and <b>] or <c>]", ""}, {"a or (b c)", "[<a> or [<b> and <c>]]", ""}, {`"a" or "b"`, "[!<a> or !<b>]", ""}, {"oregon or b", "[<oregon> or <b>]", ""}, {"a or from:", "<a>", ""},
		{"a or b x or y", "[[<a> or <b>] and [<x> or <y>]]", ""}, {"a or (b or c)", "[<a> or <b> or <c>]", ""},
		// Brackets.
		{"(a)", "<a>", ""}, {"((a))", "<a>", ""}, {"(a b) c", "[<a> and <b> and <c>]", ""}, {"(a", "<a>", ""}, {"(a (b", "[<a> and <b>]", ""}, {"()", nothing, ""}, {"(", nothing, ""}, {"a)", "<a>", "This bracket closes nothing."},
		{")a", "<a>", "This bracket closes nothing."}, {"a)b", "[<a> and <b>]", "This bracket closes nothing."}, {"f(x)", "[<f> and <x>]", ""}, {"(a or b) c", "[[<a> or <b>] and <c>]", ""},
		{strings.Repeat("(", 30) + "a", "<a>", "Brackets stand in each other at most 20 deep."},
		// Fields.
		{"from:bram", "from<bram>", ""}, {"FROM:bram", "from<bram>", ""}, {"from:", nothing, ""}, {"from: bram", "<bram>", ""}, {`from:"Bram O"`, "from!<Bram O>", ""}, {`from:"Bram`, "from!<Bram>", ""}, {`from:""`, nothing, ""},
		{"from:-", nothing, ""}, {"from:*", nothing, ""}, {"to:tove cc:ines", "[to<tove> and cc<ines>]", ""}, {"subject:loan", "subject<loan>", ""}, {"label:a/b", "label<a/b>", ""}, {`label:"to read"`, "label!<to read>", ""},
		{"account:work", "account<work>", ""}, {"note:crate", "note<crate>", ""}, {"kind:reading", "kind<reading>", ""}, {"kind:people", "kind<person>", ""}, {"kind:READING", "kind<reading>", ""}, {"kind:read", nothing, ""},
		{"kind:odd", "<odd>", "“odd” is not known there. Try kind:person, kind:receipts, kind:notices, kind:reading, kind:meetings or kind:copies."}, {"at:archive", "at<archive>", ""}, {"at:arch", nothing, ""},
		{"at:arch x", "[<arch> and <x>]", "“arch” is not known there. Try at:inbox, at:shallows, at:later, at:archive, at:bin, at:junk or at:sent."}, {"mark:starred", "mark<starred>", ""}, {"mark:st", nothing, ""}, {"mark:unread mark:asks", "[mark<unread> and mark<asks>]", ""},
		{"mark:purple", "<purple>", "“purple” is not known there. Try mark:unread, mark:starred, mark:flagged, mark:asks, mark:waits, mark:tracked or mark:due."}, {"with:file", "with<file>", ""}, {"with:files", "with<file>", ""}, {"with:money", "with<amount>", ""},
		{"with:plan.pdf", "with<plan.pdf>", ""}, {`with:"file"`, "with!<file>", ""}, {"with:pic", "with<pic>", ""}, {"size:>1mb", "size<>1mb>", ""}, {"size:<2.5MB", "size<<2.5MB>", ""}, {"size:500", "size<500>", ""}, {"size:>", nothing, ""},
		{"size:huge", "<huge>", "“huge” is no size. Write it as >500kb or <2mb."}, {"form:bram", "<form:bram>", "There is no field “form:”. Is “from:” meant?"}, {"colour:red", "<colour:red>", "There is no field “colour:”."}, {"x:y", "<x:y>", ""}, {"a:b:c", "<a:b:c>", ""}, {"from:a:b", "from<a:b>", ""},
		{"at:from:x", "!<from:x>", "“from:x” is not known there. Try at:inbox, at:shallows, at:later, at:archive, at:bin, at:junk or at:sent."}, {"from:(a b)", "[<a> and <b>]", ""},
		// Days.
		{"before:2026-11-01", "before<2026-11-01>", ""}, {"after:2026-11", "after<2026-11>", ""}, {"on:2026", "on<2026>", ""}, {"on:yesterday", "on<yesterday>", ""}, {`after:"last monday"`, "after!<last monday>", ""},
		{"before:yes", nothing, ""}, {"before:yes x", "[<yes> and <x>]", "“yes” is no day. Write it as 2026-11-24, yesterday, or \"last monday\"."}, {"on:2026-13", nothing, ""}, {"on:2026-13 x", "[<2026-13> and <x>]", "“2026-13” is no day. Write it as 2026-11-24, yesterday, or \"last monday\"."},
		{"on:2026-02-30 x", "[<2026-02-30> and <x>]", "“2026-02-30” is no day. Write it as 2026-11-24, yesterday, or \"last monday\"."}, {"on:soonish", "<soonish>", "“soonish” is no day. Write it as 2026-11-24, yesterday, or \"last monday\"."},
		// All together.
		{`from:bram "crate sizes" -orchid with:file (loan or lend)`, "[from<bram> and !<crate sizes> and not <orchid> and with<file> and [<loan> or <lend>]]", ""},
		{"mark:starred or mark:flagged at:inbox", "[[mark<starred> or mark<flagged>] and at<inbox>]", ""}, {"-(from:a or to:b) c", "[not [from<a> or to<b>] and <c>]", ""},
	} {
		got := find.Read(c.typed, now, cal)
		assert.Equal(t, c.is, shape(got.Query), "%q", c.typed)
		said := ""
		if len(got.Problems) > 0 {
			said = got.Problems[0].Says
		}
		assert.Equal(t, c.problem, said, "%q", c.typed)
		assert.Equal(t, shape(got.Query), shape(find.Read(got.Query.String()+" ", now, cal).Query), "%q is written as %q", c.typed, got.Query)
	}
}

func TestTooMuchIsCutOff(t *testing.T) {
	many := find.Read(strings.Repeat("ab ", 300), now, cal)
	assert.Len(t, many.Query.Of, 60)
	assert.Equal(t, []find.Problem{{180, 900, "Only the first 60 words are looked for."}}, many.Problems)
	long := find.Read(strings.Repeat("a", 1<<20), now, cal)
	assert.Equal(t, []find.Problem{{2000, 1 << 20, "Only the first 2000 characters are looked for."}}, long.Problems)
	assert.Len(t, long.Query.Term.Value, 2000)
}

func TestProblemsSayWhereTheyStand(t *testing.T) {
	assert.Equal(t, []find.Problem{{3, 14, "“purple” is not known there. Try mark:unread, mark:starred, mark:flagged, mark:asks, mark:waits, mark:tracked or mark:due."}}, find.Read("ø  mark:purple x", now, cal).Problems)
}

func TestDays(t *testing.T) {
	for phrase, want := range map[string]string{
		"today": "2026-11-24 2026-11-25", "Yesterday": "2026-11-23 2026-11-24", "this week": "2026-11-23 2026-11-30", "last  week": "2026-11-16 2026-11-23", "this month": "2026-11-01 2026-12-01", "last month": "2026-10-01 2026-11-01",
		"this year": "2026-01-01 2027-01-01", "last year": "2025-01-01 2026-01-01", "monday": "2026-11-23 2026-11-24", "tuesday": "2026-11-24 2026-11-25", "last tuesday": "2026-11-17 2026-11-18", "wed": "2026-11-18 2026-11-19", "last monday": "2026-11-23 2026-11-24",
		"november": "2026-11-01 2026-12-01", "last november": "2025-11-01 2025-12-01", "december": "2025-12-01 2026-01-01", "feb 2024": "2024-02-01 2024-03-01", "2026": "2026-01-01 2027-01-01", "2026-2": "2026-02-01 2026-03-01", "2024-02-29": "2024-02-29 2024-03-01",
		"3 days ago": "2026-11-21 2026-11-22", "a week ago": "2026-11-17 2026-11-18", "two months ago": "2026-09-24 2026-09-25", "1 year ago": "2025-11-24 2025-11-25", "last 7 days": "2026-11-17 2026-11-25", "past 2 weeks": "2026-11-10 2026-11-25",
		"24 nov": "2026-11-24 2026-11-25", "25 nov": "2025-11-25 2025-11-26", "nov 3": "2026-11-03 2026-11-04", "3 March 2025": "2025-03-03 2025-03-04", "24.11.": "2026-11-24 2026-11-25", "24.12.2024": "2024-12-24 2024-12-25", "29 feb": "2024-02-29 2024-03-01", "the 3rd of may": "2026-05-03 2026-05-04", "3rd of may": "2026-05-03 2026-05-04", "31 nov": "", "tomorrow": "2026-11-25 2026-11-26",
		"": "", "soon": "", "2026-13": "", "2026-02-30": "", "someday": "",
	} {
		since, until, ok := find.Days(phrase, now, cal)
		got := ""
		if ok {
			got = since.Format(time.DateOnly) + " " + until.Format(time.DateOnly)
		}
		assert.Equal(t, want, got, phrase)
	}
}

// A day is as long as it is where the clocks change.
func TestDaysWithOtherClocks(t *testing.T) {
	oslo, err := time.LoadLocation("Europe/Oslo")
	assert.NoError(t, err)
	since, until, _ := find.Days("2026-10-25", now, when.Standard(oslo))
	assert.Equal(t, 25*time.Hour, until.Sub(since))
	_, until, _ = find.Days("31 jan", time.Date(2026, 3, 1, 9, 0, 0, 0, time.UTC), cal)
	assert.Equal(t, "2026-02-01", until.Format(time.DateOnly))
	since, _, _ = find.Days("1 month ago", time.Date(2026, 3, 31, 9, 0, 0, 0, time.UTC), cal)
	assert.Equal(t, "2026-02-28", since.Format(time.DateOnly))
}

// typing draws what somebody may type.
func typing(t *rapid.T) string {
	parts := rapid.SliceOfN(rapid.SampledFrom([]string{"a", "or", "OR", "-", "(", ")", `"`, " ", "  ", "from:", "mark:starred", "mark:", "with:", "size:>1", "at:inbox", "on:monday", "x:y", "ø", "東京", "not", "before:", "2026", ":", "kb", "\x00", "”", "label:", "/"}), 0, 14).Draw(t, "parts")
	return strings.Join(parts, "")
}

// Whatever is typed, it is read; and what is written of it reads as the same.
func TestAQueryIsReadAsItIsWritten(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		typed := rapid.OneOf(rapid.Custom(typing), rapid.String()).Draw(t, "typed")
		q := find.Read(typed, now, cal).Query
		again := find.Read(q.String()+" ", now, cal)
		assert.Equal(t, q, again.Query, "%q is written as %q", typed, q)
		_, _ = q.Match(), q.Hits(typed, find.Subject)
	})
}

func FuzzRead(f *testing.F) {
	for _, typed := range []string{"a or b", `from:"x" -(a b)`, "size:>1mb after:monday", strings.Repeat("(", 25)} {
		f.Add(typed)
	}
	f.Fuzz(func(t *testing.T, typed string) {
		r := find.Read(typed, now, cal)
		written := r.Query.String()
		if len([]rune(written)) >= 2000 || strings.Count(typed, "(") > 18 {
			return // what was cut off may be written with more brackets
		}
		assert.Equal(t, r.Query, find.Read(written+" ", now, cal).Query, "%q is written as %q", typed, written)
	})
}

func TestTyping(t *testing.T) {
	for typed, want := range map[string]struct {
		from  int
		field find.Field
		value string
	}{
		"": {0, "", ""}, "fr": {0, "", "fr"}, "crate fr": {6, "", "fr"}, "from:": {0, "from", ""}, "x from:br": {2, "from", "br"}, `from:"bram o`: {0, "from", "bram o"}, "(-to:a": {2, "to", "a"}, "a ": {2, "", ""},
	} {
		from, field, value := find.Typing(typed)
		assert.Equal(t, want.from, from, typed)
		assert.Equal(t, want.field, field, typed)
		assert.Equal(t, want.value, value, typed)
	}
}

func TestAWordOfOneLetter(t *testing.T) {
	for typed, want := range map[string]bool{
		"f": true, "ferry f": true, "ø": true, "from:b": true, "-f ferry": false, `"f"`: false, "fe": false, "f or ferry": true, "港": false, "": false, "at:inbox": false, "…": false,
	} {
		assert.Equal(t, want, find.Read(typed, now, cal).Query.Short(), typed)
	}
}
