package sieve_test

import (
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"ebbe.example/ebbe/internal/core/decide"
	"ebbe.example/ebbe/internal/core/routine"
	"ebbe.example/ebbe/internal/core/rule"
	"ebbe.example/ebbe/internal/core/sieve"
)

func TestWhatIsWrongWithAScript(t *testing.T) {
	deep := strings.Repeat("if true {\n", 100) + strings.Repeat("}", 100)
	for script, wrong := range map[string]string{
		"":                                      "",
		"# nothing\n/* at\nall */":              "",
		"keep":                                  "line 1: the script ends in the middle of a command",
		"keep;\nif true keep;":                  "line 2: “if” needs a block",
		"\n\nfileinto \"x;":                     "line 3: a text is not closed",
		"if header [\"a\" \"b\"] {}":            "line 1: “b” is not expected here",
		"if allof (true, ) {}":                  "line 1: “)” is not expected here",
		"}":                                     "line 1: “}” is not expected here",
		"keep; é":                               "line 1: “é” has no meaning here",
		"/* x":                                  "line 1: a comment is not closed",
		"set text: now\nx\n.\n;":                "line 1: the lines of a text begin on the next line",
		"set text:\nx\n":                        "line 3: a text is not closed",
		"if size :over 99999999999999999999 {}": "line 1: that number is too large",
		"keep\xff;":                             "line 1: the script is not UTF-8",
		deep:                                    "line 33: blocks or tests are nested more than 32 deep",
		"if " + strings.Repeat("not ", 1000) + "true {}": "line 1: blocks or tests are nested more than 32 deep",
		strings.Repeat("#", sieve.MaxSize+1):             "line 1: the script is larger than 1024 kB",
	} {
		_, err := sieve.Parse(script)
		if wrong == "" {
			assert.NoError(t, err, script)
		} else {
			assert.EqualError(t, err, wrong, "%.60s", script)
		}
	}
}

func TestTheGrammar(t *testing.T) {
	list, err := sieve.Parse("REQUIRE [\"fileinto\",\n \"body\"];\r\n# rule: Loans\nif Header :Contains \"subject\" [\"a\\\"b\"] { redirect \"x\"; stop; } vacation :days 7K text: # so\r\n..dot\r\nline\r\n.\r\n;")
	require.NoError(t, err)
	require.Len(t, list, 3)
	assert.Equal(t, []string{"fileinto", "body"}, list[0].Args[0].Texts)
	assert.Equal(t, "rule: Loans", list[1].Said)
	assert.Equal(t, 4, list[1].Line)
	assert.Equal(t, "contains", list[1].Tests[0].Args[0].Tag)
	assert.Equal(t, []string{`a"b`}, list[1].Tests[0].Args[2].Texts)
	assert.Len(t, list[1].Block, 2)
	assert.Equal(t, int64(7<<10), list[2].Args[1].Number)
	assert.Equal(t, []string{".dot\nline\n"}, list[2].Args[2].Texts)
}

// Scripts as others write them become rules; what can't is said line by line, and such a rule is off.
func TestScriptsOfOthers(t *testing.T) {
	script := `require ["fileinto", "imap4flags", "envelope", "vnd.example.moon"];
# rule:[Loans]
if anyof (header :contains ["subject"] "loan", address :is :all "from" "bram@hexa.example")
{
	fileinto "INBOX/papers/loans";
	addflag "\\Flagged";
	stop;
}
elsif address :domain "from" "spam.example" { discard; }
else {
	if header :contains "list-id" "<news.hexa.example>" { fileinto "Shallows/Reading"; }
	if allof (moon :phase "full", size :over 1M) { fileinto "Junk"; }
}
vacation "I am away.";
if not header :matches "subject" "*re:*" { addflag ["read me", "\\Seen"]; }
`
	list, err := sieve.Rules(script)
	require.NoError(t, err)
	require.Len(t, list, 6)
	loans := list[0]
	assert.Equal(t, "Loans", loans.Name)
	assert.Equal(t, []rule.Condition{{Of: rule.Subject, Is: "loan"}, {Of: rule.From, Is: "bram@hexa.example"}}, loans.Any)
	assert.Equal(t, []routine.Step{{Do: routine.Star}, {Do: routine.Decide, Decision: decide.File, Text: "papers/loans"}}, loans.Steps)
	assert.True(t, loans.Stop)
	assert.Empty(t, loans.Left)

	assert.Equal(t, []rule.Condition{{Of: rule.Domain, Is: "spam.example"}}, list[1].All)
	assert.Equal(t, loans.Any, list[1].None, "what the branch before has not taken")
	assert.Equal(t, decide.ToBin, list[1].Steps[0].Decision)

	assert.Equal(t, []routine.Step{{Do: routine.SortOut, Text: "reading"}}, list[2].Steps)
	assert.Len(t, list[2].None, 3)

	assert.Equal(t, []string{"line 12: “moon” is nothing that rules look at"}, list[3].Left)
	assert.Equal(t, []rule.Condition{{Of: rule.Size, Is: "1048576"}}, list[3].All)
	assert.True(t, list[3].Off)

	assert.Equal(t, []string{"line 14: it takes every letter, which no rule does", "line 14: “vacation” is nothing that rules do"}, list[4].Left)
	assert.True(t, list[4].Off)

	assert.Equal(t, []string{"line 15: it takes every letter, which no rule does", "line 15: “\\Seen” is no mark of a rule’s"}, list[5].Left)
	assert.Equal(t, []rule.Condition{{Of: rule.Subject, Is: "re:"}}, list[5].None)
	assert.Equal(t, []routine.Step{{Do: routine.Label, Text: "read me"}}, list[5].Steps)
}

func TestWhatSieveCantSayIsSaid(t *testing.T) {
	script := sieve.Script([]rule.Rule{
		{Name: "Sums", Conditions: rule.Conditions{All: []rule.Condition{{Of: rule.Amount, Is: "5 EUR"}}}, Steps: []routine.Step{{Do: routine.Star}}},
		{Name: "A\nB", Conditions: rule.Conditions{All: []rule.Condition{{Of: rule.From, Is: `b"\`}}}, Until: time.Date(2026, 12, 31, 9, 0, 0, 0, time.UTC), Steps: []routine.Step{
			{Do: routine.Note, Text: "x"}, {Do: routine.Forward, To: "tove@norrholm.example"}, {Do: routine.Decide, Decision: decide.ToBin},
		}},
	})
	assert.Equal(t, `# The rules of Ebbe, in their order.
require ["copy", "date", "relational"];

# rule: Sums
# Sieve can’t say it, as it looks at “Amount over: 5 EUR”.

# rule: A B
if allof (header :contains "from" "b\"\\",
	currentdate :zone "+0000" :value "lt" "iso8601" "2026-12-31T09:00:00+00:00") {
	# Sieve can’t say: note
	redirect :copy "tove@norrholm.example";
	# Sieve can’t say: takes only what no person wrote out of sight: bin
}
`, script)
}

// What is written of rules is read again as the same rules.
func TestWhatIsWrittenIsReadAgain(t *testing.T) {
	rapid.Check(t, func(rt *rapid.T) {
		condition := rapid.Custom(func(rt *rapid.T) rule.Condition {
			of := rapid.SampledFrom([]rule.Field{rule.From, rule.To, rule.Cc, rule.Domain, rule.List, rule.Subject, rule.Label}).Draw(rt, "of")
			return rule.Condition{Of: of, Is: rapid.SampledFrom([]string{"a.example", `b\"c`, "x"}).Draw(rt, "is")}
		})
		distinct := func(name string, least int) []rule.Condition { // Sieve says the same twice only once
			return rapid.SliceOfNDistinct(condition, least, 3, func(c rule.Condition) rule.Condition { return c }).Draw(rt, name)
		}
		var rules []rule.Rule
		for range rapid.IntRange(1, 4).Draw(rt, "rules") {
			r := rule.Rule{Name: "Loans", Conditions: rule.Conditions{All: distinct("all", 1), None: distinct("none", 0)}, Stop: rapid.Bool().Draw(rt, "stop"), Off: rapid.Bool().Draw(rt, "off"), People: true}
			if any := distinct("any", 0); len(any) > 1 {
				r.Any = any
			}
			r.Steps = rapid.SliceOfN(rapid.SampledFrom([]routine.Step{{Do: routine.Star}, {Do: routine.Label, Text: "to read"}, {Do: routine.Forward, To: "x@y.example"}}), 1, 3).Draw(rt, "steps")
			if rapid.Bool().Draw(rt, "decides") {
				r.Steps = append(r.Steps, rapid.SampledFrom([]routine.Step{{Do: routine.Decide, Decision: decide.Done}, {Do: routine.Decide, Decision: decide.ToJunk}, {Do: routine.SortOut, Text: "notices"}}).Draw(rt, "decision"))
			}
			for i := range r.All { // domains are such
				if r.All[i].Of == rule.Domain {
					r.All[i].Is = "a.example"
				}
			}
			rules = append(rules, r)
		}
		script := sieve.Script(rules)
		read, err := sieve.Rules(script)
		require.NoError(rt, err, script)
		require.Len(rt, read, len(rules), script)
		for i, r := range read {
			assert.Empty(rt, r.Left, script)
			assert.ElementsMatch(rt, rules[i].All, r.All, script)
			assert.ElementsMatch(rt, rules[i].Any, r.Any, script)
			assert.ElementsMatch(rt, rules[i].None, r.None, script)
			assert.Equal(rt, rules[i].Steps, r.Steps, script)
			assert.Equal(rt, []bool{rules[i].Stop, rules[i].Off}, []bool{r.Stop, r.Off}, script)
		}
	})
}

func FuzzRules(f *testing.F) {
	for _, s := range []string{"if true { keep; }", "if anyof (not size :over 1K, header [\"a\"] text:\nx\n.\n) {stop;}", "/* # */ set \"a\" \"b\";", "elsif else \"\\"} {
		f.Add(s)
	}
	f.Fuzz(func(t *testing.T, script string) {
		list, err := sieve.Rules(script)
		if err == nil {
			for _, r := range list {
				_ = routine.CheckRule(r.Steps)
				_ = r.Check()
			}
		}
	})
}
