package rule_test

import (
	"fmt"
	"slices"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"pgregory.net/rapid"

	"ebbe.example/ebbe/internal/core/decide"
	"ebbe.example/ebbe/internal/core/letter"
	"ebbe.example/ebbe/internal/core/routine"
	"ebbe.example/ebbe/internal/core/rule"
	"ebbe.example/ebbe/internal/core/sorting"
)

var at = time.Date(2026, 11, 24, 8, 20, 0, 0, time.UTC)

func of(of rule.Field, is string) rule.Condition { return rule.Condition{Of: of, Is: is} }

func sample() rule.Facts {
	return rule.Facts{
		From: letter.Address{Name: "Bram Østby", Email: "Bram@Post.Hexa.example"}, To: []letter.Address{{Name: "Ines", Email: "ines@norrholm.example"}},
		Cc: []letter.Address{{Email: "tove@norrholm.example"}}, List: "news.hexa.example", Subject: "Loan Agreement: the ferns", Kind: sorting.Reading, Size: 600 << 10,
		Files: []rule.File{{Name: "Plan.PDF", Type: "application/pdf"}}, Accounts: []int64{2}, Labels: []string{"Loans"}, At: at,
		Text: func() string { return "Please\n  sign it.\nTotal: 1,420.00 EUR\n" },
	}
}

func TestConditions(t *testing.T) {
	for _, c := range []struct {
		rule.Condition
		takes bool
	}{
		{of(rule.From, "bram@post.hexa.example"), true},
		{of(rule.From, "bram@hexa.example"), false}, // an address is a whole one
		{of(rule.From, "ØSTBY"), true},
		{of(rule.From, "hexa"), true},
		{of(rule.Domain, "hexa.example"), true},
		{of(rule.Domain, "@post.hexa.example"), true},
		{of(rule.Domain, "exa.example"), false},
		{of(rule.To, "ines"), true},
		{of(rule.To, "tove"), false},
		{of(rule.Cc, "tove@norrholm.example"), true},
		{of(rule.List, "NEWS.hexa.example"), true},
		{of(rule.List, "hexa.example"), false},
		{of(rule.Subject, "agreement: the"), true},
		{of(rule.Text, "please sign"), true},
		{of(rule.Text, "ferns"), false},
		{of(rule.Kind, "reading"), true},
		{of(rule.Kind, "person"), false},
		{of(rule.Size, "500 kB"), true},
		{of(rule.Size, "600k"), false}, // over it, not as much
		{of(rule.Size, "0.5 MB"), true},
		{of(rule.Attached, ".pdf"), true},
		{of(rule.Attached, "image/"), false},
		{of(rule.Account, "2"), true},
		{of(rule.Label, "loans"), true},
		{of(rule.Hours, "8:00 to 8:20"), false}, // until before it
		{of(rule.Hours, "8:20-9:00"), true},
		{of(rule.Hours, "18:00 to 8:21"), true}, // over midnight
		{of(rule.Amount, "1,419.99 EUR"), true},
		{of(rule.Amount, "1420 EUR"), false},
		{of(rule.Amount, "10 NOK"), false}, // of another currency
	} {
		r := rule.Rule{Conditions: rule.Conditions{All: []rule.Condition{c.Condition}}}
		assert.NoError(t, r.Check(), c.InWords())
		assert.Equal(t, c.takes, r.Takes(sample()), c.InWords())
		assert.Equal(t, c.takes, len(rule.Of([]rule.Rule{r}).Judge(sample(), at)) == 1, c.InWords())
	}
	assert.True(t, rule.Rule{Conditions: rule.Conditions{All: []rule.Condition{of(rule.Kind, "person")}}}.Takes(rule.Facts{}), "never sorted is a person's")
}

func TestRelabelled(t *testing.T) {
	was := rule.Conditions{All: []rule.Condition{of(rule.Label, "loans")}, Any: []rule.Condition{of(rule.Subject, "loans")}, None: []rule.Condition{of(rule.Label, "loans"), of(rule.Label, "seeds")}}
	lent := func(l string) string { return strings.ReplaceAll(l, "loans", "lent") }
	now, some := was.Relabelled(lent)
	assert.True(t, some)
	assert.Equal(t, rule.Conditions{All: []rule.Condition{of(rule.Label, "lent")}, Any: was.Any, None: []rule.Condition{of(rule.Label, "lent"), of(rule.Label, "seeds")}}, now)
	assert.Equal(t, of(rule.Label, "loans"), was.All[0], "what was is left as it is")
	_, some = rule.Conditions{Any: was.Any}.Relabelled(lent)
	assert.False(t, some)
}

func TestWhatIsWrongWithConditions(t *testing.T) {
	for wrong, c := range map[string]rule.Condition{
		"there is no condition “mood”":                                             of("mood", "x"),
		"“Sender” needs a value":                                                   of(rule.From, "  "),
		"“Sender” is longer than 200 characters":                                   of(rule.From, strings.Repeat("ø", 201)),
		"“Words in the text” has a line break or another sign that can’t be typed": of(rule.Text, "a\nb"),
		"“a b” is no domain":                                                       of(rule.Domain, "a b"),
		"there is no kind “away”":                                                  of(rule.Kind, "away"),
		"“huge” is no size; write it as 500 kB or 5 MB":                            of(rule.Size, "huge"),
		"“soon” is no part of a day; write it as 9:00 to 12:00":                    of(rule.Hours, "soon"),
		"“9:00 to 9:00” is no part of a day":                                       of(rule.Hours, "9:00 to 9:00"),
		"“25:00 to 26:00” is no part of a day":                                     of(rule.Hours, "25:00 to 26:00"),
		"“500” is no amount; write it as 500 EUR":                                  of(rule.Amount, "500"),
		"there is no such account":                                                 of(rule.Account, "home"),
	} {
		assert.EqualError(t, rule.Conditions{Any: []rule.Condition{c}}.Check(), wrong)
		assert.EqualError(t, rule.Conditions{All: []rule.Condition{of(rule.From, "x")}, None: []rule.Condition{c}}.Check(), wrong)
	}
	assert.ErrorIs(t, rule.Conditions{None: []rule.Condition{of(rule.From, "x")}}.Check(), rule.ErrUnconditional)
	assert.EqualError(t, rule.Conditions{All: slices.Repeat([]rule.Condition{of(rule.From, "x")}, 101)}.Check(), "a rule has at most 100 conditions")
}

func TestOrderStopAndTheFirstDecision(t *testing.T) {
	from := rule.Conditions{All: []rule.Condition{of(rule.From, "bram")}}
	label := func(l string) []routine.Step { return []routine.Step{{Do: routine.Label, Text: l}} }
	bin := []routine.Step{{Do: routine.Star}, {Do: routine.Decide, Decision: decide.ToBin}}
	file := []routine.Step{{Do: routine.Decide, Decision: decide.File, Text: "kept"}}
	rules := []rule.Rule{
		{ID: 1, Conditions: rule.Conditions{All: []rule.Condition{of(rule.Label, "b")}}, Steps: label("a")}, // would need what comes after it
		{ID: 2, Conditions: from, Steps: label("b")},
		{ID: 3, Name: "Keep", Conditions: rule.Conditions{Any: []rule.Condition{of(rule.Label, "b")}}, Steps: file},
		{ID: 4, Conditions: from, Steps: bin},
		{ID: 5, Conditions: from, Steps: label("c"), Off: true},
		{ID: 6, Conditions: from, Steps: label("d"), Until: at},
		{ID: 7, Conditions: rule.Conditions{All: []rule.Condition{of(rule.Label, "kept")}}, Steps: label("e"), Stop: true},
		{ID: 8, Conditions: from, Steps: label("f")},
	}
	assert.Equal(t, []rule.Act{
		{Rule: 2, Steps: label("b")}, {Rule: 3, Steps: file}, {Rule: 4, Steps: bin[:1], Left: "“Keep” had decided on it"}, {Rule: 7, Steps: label("e")},
	}, rule.Of(rules).Judge(rule.Facts{From: letter.Address{Name: "Bram"}}, at))
	person := rule.Facts{From: letter.Address{Name: "Bram"}, Kind: sorting.Person}
	assert.Equal(t, []rule.Act{{Rule: 4, Steps: bin[:1], Left: "a person wrote it"}}, rule.Of(rules[3:4]).Judge(person, at))
	rules[3].People = true
	assert.Equal(t, []rule.Act{{Rule: 4, Steps: bin}}, rule.Of(rules[3:4]).Judge(person, at))
	assert.True(t, rule.Away(bin))
	assert.False(t, rule.Away(file))
}

// slow is what rules mean, as plainly as it can be said.
func slow(rules []rule.Rule, f rule.Facts) []rule.Act {
	var out []rule.Act
	decided := ""
	for _, r := range rules {
		if r.Off || r.Expired(at) || !r.Takes(f) {
			continue
		}
		steps, left := r.Steps, ""
		if n := len(steps); steps[n-1].Do == routine.Decide {
			if decided != "" {
				left = "“" + decided + "” had decided on it"
			} else if steps[n-1].Decision == decide.ToBin && !r.People && f.Kind == sorting.Person {
				left = "a person wrote it"
			} else {
				decided = r.Name
			}
			if left != "" {
				steps = steps[:n-1]
			}
		}
		for _, s := range steps {
			if s.Do == routine.Label || s.Decision == decide.File {
				f.Labels = append(slices.Clone(f.Labels), s.Text)
			}
		}
		out = append(out, rule.Act{Rule: r.ID, Steps: steps, Left: left})
		if r.Stop {
			break
		}
	}
	return out
}

// However rules are looked up, they mean what the slow way says.
func TestAnyRulesMeanWhatTheyMeanOneByOne(t *testing.T) {
	rapid.Check(t, func(rt *rapid.T) {
		people := rapid.SampledFrom([]string{"bram@hexa.example", "Tove@post.hexa.example", "x@norrholm.example", "nobody", ""})
		words := rapid.SampledFrom([]string{"loan", "ferns", "Plan", "x"})
		labels := rapid.SampledFrom([]string{"a", "b", "c"})
		condition := rapid.Custom(func(rt *rapid.T) rule.Condition {
			switch rapid.IntRange(0, 7).Draw(rt, "of") {
			case 0:
				return of(rule.From, rapid.SampledFrom([]string{"bram@hexa.example", "tove@post.hexa.example", "bram", "hexa"}).Draw(rt, "from"))
			case 1:
				return of(rule.Domain, rapid.SampledFrom([]string{"hexa.example", "example", "post.hexa.example", "norrholm.example"}).Draw(rt, "domain"))
			case 2:
				return of(rule.List, rapid.SampledFrom([]string{"l1", "L2"}).Draw(rt, "list"))
			case 3:
				return of(rule.Subject, words.Draw(rt, "word"))
			case 4:
				return of(rule.Text, words.Draw(rt, "word"))
			case 5:
				return of(rule.To, people.Filter(func(s string) bool { return s != "" }).Draw(rt, "to"))
			case 6:
				return of(rule.Size, fmt.Sprint(rapid.IntRange(0, 3).Draw(rt, "size")))
			}
			return of(rule.Label, labels.Draw(rt, "label"))
		})
		one := rapid.Custom(func(rt *rapid.T) rule.Rule {
			list := func(name string, most int) []rule.Condition { return rapid.SliceOfN(condition, 0, most).Draw(rt, name) }
			r := rule.Rule{
				Conditions: rule.Conditions{All: list("all", 2), Any: list("any", 2), None: list("none", 1)},
				Stop:       rapid.IntRange(0, 5).Draw(rt, "stop") == 0, Off: rapid.IntRange(0, 9).Draw(rt, "off") == 0, People: rapid.Bool().Draw(rt, "people"),
			}
			if rapid.IntRange(0, 9).Draw(rt, "expires") == 0 {
				r.Until = at.Add(time.Duration(rapid.IntRange(-1, 1).Draw(rt, "until")))
			}
			if rapid.Bool().Draw(rt, "labels") {
				r.Steps = append(r.Steps, routine.Step{Do: routine.Label, Text: labels.Draw(rt, "label")})
			}
			if len(r.Steps) == 0 || rapid.Bool().Draw(rt, "decides") {
				r.Steps = append(r.Steps, routine.Step{Do: routine.Decide, Decision: rapid.SampledFrom([]decide.Kind{decide.Done, decide.File, decide.ToBin}).Draw(rt, "decision"), Text: "c"})
			}
			return r
		})
		rules := rapid.SliceOfN(one, 0, 12).Draw(rt, "rules")
		for i := range rules {
			rules[i].ID, rules[i].Name = int64(i+1), fmt.Sprint("rule ", i+1)
		}
		f := rule.Facts{
			From: letter.Address{Name: words.Draw(rt, "name"), Email: people.Draw(rt, "from")}, To: []letter.Address{{Email: people.Draw(rt, "to")}},
			List: rapid.SampledFrom([]string{"", "l1", "l2"}).Draw(rt, "list"), Subject: words.Draw(rt, "subject"), Size: rapid.IntRange(0, 3).Draw(rt, "size"),
			Kind:   rapid.SampledFrom([]sorting.Kind{sorting.Person, sorting.Reading}).Draw(rt, "kind"),
			Labels: rapid.SliceOfN(labels, 0, 2).Draw(rt, "labels"), Text: func() string { return "the loan" },
		}
		assert.Equal(rt, slow(rules, f), rule.Of(rules).Judge(f, at))
	})
}

func TestProposals(t *testing.T) {
	var all []rule.Decided
	add := func(n int, from, list string, kind decide.Kind, with string) {
		for range n {
			all = append(all, rule.Decided{Letter: int64(len(all) + 1), From: from, List: list, Kind: kind, With: with})
		}
	}
	add(1, "shop@hexa.example", "", decide.Answer, "")
	add(9, "shop@hexa.example", "", decide.File, "receipts")
	add(20, "shop@hexa.example", "", decide.Done, "") // of long ago
	add(2, "a@hexa.example", "news", decide.ToBin, "")
	add(6, "b@hexa.example", "news", decide.ToBin, "")
	add(7, "few@hexa.example", "", decide.Done, "")
	add(5, "torn@hexa.example", "", decide.File, "a")
	add(5, "torn@hexa.example", "", decide.File, "b")
	add(10, "asked@hexa.example", "", decide.Answer, "") // an answer is nobody's but one's own
	got := rule.Propose(all)
	assert.Len(t, got, 2)
	assert.Equal(t, []rule.Condition{of(rule.List, "news")}, got[0].All)
	assert.Equal(t, []int{8, 8}, []int{got[0].Same, got[0].Of})
	assert.Equal(t, []rule.Condition{of(rule.From, "shop@hexa.example")}, got[1].All)
	assert.Equal(t, []routine.Step{{Do: routine.Decide, Decision: decide.File, Text: "receipts"}}, got[1].Steps)
	assert.Equal(t, []int{9, 10}, []int{got[1].Same, got[1].Of})
	assert.Equal(t, "from:shop@hexa.example:file:receipts", got[1].Key)
}

// Two hundred rules and one letter.
func BenchmarkJudge(b *testing.B) {
	var rules []rule.Rule
	for i := range 200 {
		c := of(rule.From, fmt.Sprintf("person%d@hexa.example", i))
		if i%4 == 0 {
			c = of(rule.Subject, fmt.Sprintf("word%d", i))
		}
		rules = append(rules, rule.Rule{ID: int64(i), Conditions: rule.Conditions{All: []rule.Condition{c}}, Steps: []routine.Step{{Do: routine.Star}}})
	}
	set, f := rule.Of(rules), sample()
	for b.Loop() {
		set.Judge(f, at)
	}
}

func TestWhatRulesForward(t *testing.T) {
	const marked = "X-Loop: forwarded by a rule\r\nSubject: Round\r\n\r\nText\r\n"
	around := "Content-Type: multipart/mixed; boundary=b\r\n\r\n--b\r\nContent-Type: message/rfc822\r\n\r\n" + marked + "--b--\r\n"
	for _, c := range []struct {
		raw, says string
		within    int64
	}{
		{"Subject: Crate\r\n\r\nText\r\n", "", rule.MostForwards - 1},
		{"Subject: Crate\r\n\r\nText\r\n", "Rules have forwarded 50 letters within a day, and forward no more.", rule.MostForwards},
		{marked, "A rule has forwarded this letter before; it is not sent round in circles.", 0},
		{around, "A rule has forwarded this letter before; it is not sent round in circles.", 0},
	} {
		assert.Equal(t, c.says, rule.NotForwarded(letter.Parse([]byte(c.raw)), c.within))
	}
}

func TestWhatIsToBeKnownOfALetter(t *testing.T) {
	away, stays := []routine.Step{{Do: routine.Decide, Decision: decide.ToBin}}, []routine.Step{{Do: routine.Star}}
	c := rule.Conditions{All: []rule.Condition{of(rule.Subject, "crate")}}
	assert.True(t, rule.Rule{Conditions: c, Steps: stays}.Needs(rule.Subject))
	assert.False(t, rule.Rule{Conditions: c, Steps: stays}.Needs(rule.Kind))
	assert.True(t, rule.Rule{Conditions: c, Steps: away}.Needs(rule.Kind), "a person’s letter is not taken out of sight")
}
