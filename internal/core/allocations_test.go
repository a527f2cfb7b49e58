package core_test

import (
	"fmt"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"ebbe.example/ebbe/internal/core/decide"
	"ebbe.example/ebbe/internal/core/delivery"
	"ebbe.example/ebbe/internal/core/find"
	"ebbe.example/ebbe/internal/core/findings"
	"ebbe.example/ebbe/internal/core/followup"
	"ebbe.example/ebbe/internal/core/letter"
	"ebbe.example/ebbe/internal/core/review"
	"ebbe.example/ebbe/internal/core/thread"
	"ebbe.example/ebbe/internal/core/when"
)

// What is computed for each letter, each row and each key stays as cheap as it is:
// by how much it allocates, which a clock that swings can't say. Whoever needs more
// says so here.
func TestHotPathsAllocateLittle(t *testing.T) {
	zone, err := time.LoadLocation("Europe/Oslo")
	require.NoError(t, err)
	cal := when.Standard(zone)
	now := time.Date(2026, 11, 24, 9, 0, 0, 0, time.UTC)
	limit := when.Exact(now.Add(3*time.Hour), cal)
	state := decide.State{ID: 1, Place: decide.Inbox, Last: 7, Version: 3}

	body := strings.Repeat("The panes for house four came on Monday, and two of them are cracked at the edge.\r\n", 40) + "Can you call the glazier before Friday?\r\n"
	raw := []byte("From: Eva Lind <eva@x.example>\r\nTo: Ines <ines@norrholm.example>\r\nSubject: Panes\r\nDate: Tue, 24 Nov 2026 09:00:00 +0100\r\n" +
		"Message-ID: <panes@x.example>\r\nContent-Type: text/plain; charset=utf-8\r\n\r\n" + body)
	read := letter.Parse(raw)

	var plan delivery.Plan
	for d := range plan.Days {
		plan.Days[d].Rounds = []when.Minute{when.At(8, 30), when.At(11, 30), when.At(15, 30)}
		plan.Days[d].Quiet = []delivery.Span{{From: when.At(18, 0), To: when.At(23, 0)}}
	}
	gate := delivery.NewGate(plan, cal)

	members := make([]thread.Member, 100)
	for i := range members {
		members[i] = thread.Member{ID: int64(i + 1), ReceivedAt: now.Add(time.Duration(i) * time.Minute), Own: i%3 == 0, Subject: "Panes"}
	}
	facts := make([]thread.Facts, 100)
	for i := range facts {
		facts[i] = thread.Facts{Key: fmt.Sprint(i), IDs: []string{fmt.Sprintf("<%d@x.example>", i), fmt.Sprintf("<%d@x.example>", i/2)}, At: now.Add(time.Duration(i) * time.Minute)}
	}
	minutes := make([]review.Minute, 600)
	for i := range minutes {
		minutes[i].Add(now.Add(time.Duration(i)*time.Minute), 1-i%3)
	}
	cards := make([]followup.Card, 1000)
	for i := range cards {
		due := when.Exact(now.Add(time.Duration(i)*time.Hour), cal)
		cards[i] = followup.Card{ID: int64(i), Title: "Call", Due: &due, Priority: "should", MadeAt: now}
	}

	for _, hot := range []struct {
		what string
		most float64
		run  func()
	}{
		{"a decision", 16, func() { decide.Decide(state, decide.Decision{Kind: decide.Done, At: now, Saw: 7}) }},
		{"putting off", 22, func() { decide.Decide(state, decide.Decision{Kind: decide.PutOff, At: now, Saw: 7, When: &limit}) }},
		{"a letter that comes", 12, func() { decide.Arrive(state, decide.Came{At: now, From: "eva@x.example"}) }},
		{"a phrase of time", 105, func() { _, _ = when.Read("fri 2pm", now, cal) }},
		{"the phrases foreseen", 24000, func() { when.Foreseen(now, cal) }},
		{"a search read", 30, func() { find.Read("from:eva panes after:monday", now, cal) }},
		{"a letter parsed", 250, func() { letter.Parse(raw) }},
		{"its asks", 380, func() { findings.AskOf(read) }},
		{"its facts for a conversation", 26, func() { thread.FactsOf(read, []string{"ines@norrholm.example"}, now) }},
		{"the row of a hundred letters", 0, func() { thread.RowOf(members) }},
		{"the conversations of a hundred letters", 32, func() { thread.Group(facts) }},
		{"the state of the gate", 0, func() { gate.State(now, delivery.OneOff{}) }},
		{"the next twenty deliveries", 6, func() { gate.Deliveries(now, delivery.OneOff{}, 20) }},
		{"a day's tide of 600 minutes", 12, func() { review.TideOf(now, now.Add(11*time.Hour), 40, minutes) }},
		{"a thousand follow-ups laid out", 45, func() { followup.LayOut(cards, followup.ByDue, nil, now, cal) }},
		{"a follow-up typed", 1000, func() { followup.Capture("Call the glazier fri 2pm !must #panes", now, cal, followup.Known{}) }},
	} {
		got := testing.AllocsPerRun(20, hot.run)
		assert.LessOrEqual(t, got, hot.most, hot.what)
	}
}
