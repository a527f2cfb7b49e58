package find_test

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"pgregory.net/rapid"

	"ebbe.example/ebbe/internal/core/find"
	"ebbe.example/ebbe/internal/core/letter"
)

func TestNear(t *testing.T) {
	words := []string{"crate", "create", "crates", "orchid", "greenhouse", "glass"}
	for typed, want := range map[string]string{"crtae": "crate", "crat": "crate", "orhcid": "orchid", "orchyd": "orchid", "grenhuose": "greenhouse", "gras": "", "crate": "create", "zzz": ""} {
		assert.Equal(t, want, find.Near(typed, words), typed)
	}
}

func TestInstead(t *testing.T) {
	for typed, want := range map[string][]string{
		"a":                     nil,
		"a b":                   {"b", "a"},
		"from:x a":              {"a", "from:x"},
		"a from:x (b or c)":     {"a (b or c)", "a from:x", "from:x (b or c)", "a", "from:x", "b or c"},
		"a or b":                nil,
		"-mark:starred \"a b\"": {`"a b"`, "-mark:starred"},
	} {
		var got []string
		for _, q := range find.Read(typed, now, cal).Query.Instead() {
			got = append(got, q.String())
		}
		assert.Equal(t, want, got, typed)
	}
}

func marked(text string, hits []find.Hit) (out []string) {
	units := []rune(text) // all within the first plane
	for _, h := range hits {
		out = append(out, string(units[h.From:h.To]))
	}
	return out
}

func TestHits(t *testing.T) {
	for _, c := range []struct {
		typed, text string
		want        []string
	}{
		{"crate", "One crate, two Crates.", []string{"crate", "Crates"}},
		{`"crate"`, "One crate, two Crates.", []string{"crate"}},
		{`"crate sizes"`, "The crate  sizes are off; sizes of a crate", []string{"crate  sizes"}},
		{"creme", "Une crème brûlée, CRE\u0300ME", []string{"crème", "CRE\u0300ME"}},
		{"strasse", "In der Straße", []string{"Straße"}},
		{"京都", "東京都に行く。京都", []string{"京都", "京都"}},
		{"京", "東京", []string{"京"}},
		{"東京都", "ここは東京都です", []string{"東京都"}},
		{"-crate box", "a crate in a box", []string{"box"}},
		{"from:bram", "bram", nil},
		{"subject:loan", "the loans", []string{"loans"}},
		{"a or b", "a c b", []string{"a", "b"}},
		{"mark:starred", "starred", nil},
		{"x", "", nil},
		{"fine", "all ﬁne", []string{"ﬁne"}},
	} {
		assert.Equal(t, c.want, marked(c.text, find.Read(c.typed, now, cal).Query.Hits(c.text, find.Subject)), "%q in %q", c.typed, c.text)
	}
}

// What is marked in a text is what is found in it.
func TestWhatIsMarkedIsFound(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		signs := rapid.SampledFrom([]rune("abcé ø東京カ.ﬁß-\u0301 "))
		text, typed := string(rapid.SliceOfN(signs, 0, 20).Draw(t, "text")), string(rapid.SliceOfN(signs, 1, 3).Draw(t, "typed"))
		term := find.Term{Value: typed}
		if list, _ := term.Phrases(); len(list) != 1 {
			return
		}
		q := find.Query{Op: find.Is, Term: term}
		assert.Equal(t, term.In(text), len(q.Hits(text, find.Subject)) > 0, "%q in %q, of the words %q", typed, text, letter.Words(text))
	})
}

func TestRelabelled(t *testing.T) {
	lent := func(l string) string {
		if l == "loans" {
			return "lent out"
		}
		return l
	}
	for typed, want := range map[string]string{
		"label:loans": `label:"lent out"`, "-label:loans ferns": `-label:"lent out" ferns`, "loans": "loans", "(label:loans or from:loans) label:loan": `(label:"lent out" or from:loans) label:loan`, "": "",
	} {
		assert.Equal(t, want, find.Read(typed, now, cal).Query.Relabelled(lent).String(), typed)
	}
}

func TestLine(t *testing.T) {
	q := find.Read("slips", now, cal).Query
	line, hits := q.Line("Dear Ines,\n\nwe have looked at all of the papers that came with the crates, and two of the slips for the glass are missing; would you send them, please, to the office before Friday at noon, so that the boat can leave with all that is on its list?")
	assert.Equal(t, "… crates, and two of the slips for the glass are missing; would you send them, please, to the office before Friday at noon, so that the boat can leave with all that is on its list?", line)
	assert.Equal(t, []string{"slips"}, marked(line, hits))
	line, _ = q.Line("nothing")
	assert.Empty(t, line)
	line, hits = q.Line("slips")
	assert.Equal(t, "slips", line)
	assert.Equal(t, []find.Hit{{From: 0, To: 5}}, hits)
	assert.Equal(t, []string{"slips", "SLIPS"}, q.Quotes("slips and SLIPS, slips", 9))
}
