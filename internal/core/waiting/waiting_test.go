package waiting_test

import (
	"testing"
	"time"

	"github.com/stretchr/testify/assert"

	"ebbe.example/ebbe/internal/core/letter"
	"ebbe.example/ebbe/internal/core/waiting"
)

var noon = time.Date(2026, 11, 24, 12, 0, 0, 0, time.UTC) // a Tuesday

func TestExpectationsAreMetByTheRightLetter(t *testing.T) {
	e := waiting.Expectation{Conversation: 3, Persons: []string{"bram@x"}, StartID: "start@n", Since: noon}
	two := e
	two.Persons, two.All = []string{"bram@x", "eva@x"}, true
	later := noon.Add(time.Hour)
	cases := []struct {
		name string
		e    waiting.Expectation
		a    waiting.Arrival
		want waiting.Verdict
	}{
		{"in the conversation", e, waiting.Arrival{From: "bram@x", Received: later, Conversation: 3}, waiting.Meets},
		{"answering the letter", e, waiting.Arrival{From: "bram@x", Received: later, Answers: []string{"start@n"}}, waiting.Meets},
		{"elsewhere", e, waiting.Arrival{From: "bram@x", Received: later, Conversation: 4}, waiting.Nothing},
		{"before it began", e, waiting.Arrival{From: "bram@x", Received: noon, Conversation: 3}, waiting.Nothing},
		{"somebody else", e, waiting.Arrival{From: "eva@x", Received: later, Conversation: 3}, waiting.Offers},
		{"out of office", e, waiting.Arrival{From: "bram@x", Received: later, Conversation: 3, Automatic: letter.AutoReply}, waiting.Away},
		{"a list", e, waiting.Arrival{From: "list@x", Received: later, Conversation: 3, Automatic: letter.List}, waiting.Nothing},
		{"one of two", two, waiting.Arrival{From: "bram@x", Received: later, Conversation: 3}, waiting.Partly},
	}
	for _, c := range cases {
		assert.Equal(t, c.want, waiting.Judge(c.e, c.a), c.name)
	}
	two.Answered = []string{"eva@x"}
	assert.Equal(t, waiting.Meets, waiting.Judge(two, cases[7].a))
}
