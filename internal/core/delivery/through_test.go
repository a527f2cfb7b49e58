package delivery

import (
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"
)

func TestWhatAnEntryMatches(t *testing.T) {
	now := time.Date(2026, 11, 24, 9, 0, 0, 0, time.UTC)
	f := Facts{
		From: "office@port.garden.example", Subject: "Re: House 4", Text: "A frost\nalarm, and the vents are stuck.", To: []string{"ines@norrholm.example"},
		Labels: []string{"Loans"}, Projects: []string{"Bromeliad loan"}, Answers: true,
	}
	for name, c := range map[string]struct {
		kind  ThroughKind
		value string
		match bool
	}{
		"the sender":                  {BySender, "Office@port.garden.example", true},
		"another sender":              {BySender, "me@port.garden.example", false},
		"the domain":                  {ByDomain, "@port.garden.example", true},
		"a domain above":              {ByDomain, "garden.example", true},
		"a domain that ends alike":    {ByDomain, "den.example", false},
		"words over a line":           {ByWords, "Frost  alarm", true},
		"words of the subject":        {ByWords, "house 4", true},
		"words in another order":      {ByWords, "alarm frost", false},
		"a part of a word":            {ByWords, "vent", false},
		"words of subject and text":   {ByWords, "4 a frost", false},
		"the project":                 {ByProject, "bromeliad Loan", true},
		"another project":             {ByProject, "loan", false},
		"the label":                   {ByLabel, "loans", true},
		"an answer":                   {ByAnswer, "", true},
		"to the address":              {ByAddress, "ines@norrholm.example", true},
		"to an address it is not for": {ByAddress, "walks@norrholm.example", false},
	} {
		e, err := Through{Kind: c.kind, Value: c.value}.Check()
		require.NoError(t, err, name)
		assert.Equal(t, c.match, e.Match(f, now), name)
		e.Until = now
		assert.False(t, e.Match(f, now), "%s, run out", name)
		assert.NotEmpty(t, e.String(), name)
	}
	for kind, value := range map[ThroughKind]string{BySender: "eva", ByDomain: "*", ByWords: "...", ByProject: " ", ByAddress: "@x.example", "colour": "red"} {
		_, err := Through{Kind: kind, Value: value}.Check()
		assert.Error(t, err, "%s %q", kind, value)
	}
}

// A replay lets every letter in once: as it came, let through, or by the first
// delivery after it.
func TestAReplayLosesNothing(t *testing.T) {
	c := calendar(t, "Europe/Oslo")
	rapid.Check(t, func(rt *rapid.T) {
		p := drawPlan(rt, c.Today(at(c, "2026-11-24 12:00")))
		if p.Check(c) != nil {
			return
		}
		g, when := NewGate(p, c), at(c, "2026-11-16 00:00")
		var letters []Sample
		for range rapid.IntRange(0, 60).Draw(rt, "letters") {
			when = when.Add(time.Duration(rapid.IntRange(0, 600).Draw(rt, "later")) * time.Minute)
			from := rapid.SampledFrom([]string{"eva@x.example", "per@x.example"}).Draw(rt, "from")
			letters = append(letters, Sample{At: when, Facts: Facts{From: from}})
		}
		r := Run(g, []Through{{ID: 3, Kind: BySender, Value: "eva@x.example"}}, letters)
		sum, last := r.AtOnce+r.Through[3], time.Time{}
		for _, d := range r.Deliveries {
			if !d.At.After(last) {
				rt.Fatalf("the delivery at %s comes after that of %s", d.At, last)
			}
			sum, last = sum+d.Letters, d.At
		}
		if sum != len(letters) {
			rt.Fatalf("%d of %d letters", sum, len(letters))
		}
	})
}

func TestExamplesFitTheMail(t *testing.T) {
	c := calendar(t, "Europe/Oslo")
	var arrivals []time.Time
	for day := range 28 {
		for hour := range 9 {
			arrivals = append(arrivals, at(c, "2026-10-26 08:40").AddDate(0, 0, day).Add(time.Duration(hour*hour)*10*time.Minute))
		}
	}
	for _, list := range [][]time.Time{arrivals, nil} {
		examples := Examples(list, c)
		require.Len(t, examples, 3)
		for _, e := range examples {
			assert.NoError(t, e.Plan.Check(c), e.Name)
			assert.Empty(t, e.Plan.MovedRounds(), "%s: no round lies in held time", e.Name)
		}
	}
	assert.Contains(t, Examples(arrivals, c)[0].Why, "Half of your mail comes before 11:20")
}

func TestTheNote(t *testing.T) {
	n := UsualNote
	assert.NoError(t, n.Check(), "it is off")
	n.Causes = []Cause{Quiet}
	assert.ErrorContains(t, n.Check(), "contact")
	n.Contact = "the gate"
	assert.NoError(t, n.Check())
	assert.Contains(t, n.Fill("on Tuesday at 13:00"), "next on Tuesday at 13:00.")
	assert.Contains(t, n.Fill(""), "as soon as I can")
	assert.NotContains(t, n.Fill(""), "{")
	for says, bad := range map[string]Note{
		"no text": {Causes: n.Causes, Text: " ", Days: 1}, "1 to 60": {Causes: n.Causes, Text: "x", Days: 0}, "quiet hours": {Causes: []Cause{Flowing}, Text: "x", Days: 1},
	} {
		assert.ErrorContains(t, bad.Check(), says)
	}
	on := Notification{Browser: true}
	assert.Equal(t, Notification{}, on.In(State{Cause: Quiet}, false))
	assert.Equal(t, on, on.In(State{Cause: Quiet}, true))
	assert.Equal(t, on, on.In(State{Cause: Closed}, false))
}
