package writing

import (
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"pgregory.net/rapid"

	"ebbe.example/ebbe/internal/core/letter"
)

func TestFillIn(t *testing.T) {
	v := Values{FirstName: "Bram", MyName: "Ines\r\nBcc: all@x.example", Ask: "Is the lift\nwide enough?", Date: func(phrase string) (string, bool) {
		return "Friday 27 November", phrase == "fri"
	}}
	for text, want := range map[string]string{
		"Dear {first name},":              "Dear Bram,",
		"Dear { First  Name },":           "Dear { First  Name },", // no field: it begins with a space
		"Dear {First  Name},":             "Dear Bram,",
		"You ask: {ask}":                  "You ask: Is the lift wide enough?",
		"By {date: fri}, or {date: soon}": "By Friday 27 November, or {date: soon}",
		"{Amount} kroner":                 "{amount} kroner",
		"{my name}":                       "Ines Bcc: all@x.example",
		"if (a) { return }":               "if (a) { return }",
		"{}":                              "{}",
	} {
		assert.Equal(t, want, FillIn(text, v), text)
	}
	assert.Equal(t, []string{"first name", "amount", "date: fri"}, Fields("Dear {first name}: {Amount}, {amount}, {date: fri} {\n} {}"))
	assert.Equal(t, "Dear {first name},", FillIn("Dear {first name},", Values{}))
}

func TestUnfilled(t *testing.T) {
	assert.Equal(t, []string{"amount"}, Unfilled("Bill", "{amount} by {day}", []string{"Amount", "gone"}))
	assert.Empty(t, Unfilled("Bill", "func f() {return}", nil))
}

func TestGreeted(t *testing.T) {
	to := letter.Address{Name: "Åse Berg", Email: "ase@x.example"}
	for text, want := range map[string]string{
		"Dear Åse,\n\nyes.\n\n-- \nInes\n":              "Dear {first name},\n\nyes.",
		"Hi Åse, Åsebu is closed.":                      "Hi {first name}, Åsebu is closed.",
		"Yes.\n\nOn Monday Åse wrote:\n> Is it open?\n": "Yes.",
	} {
		assert.Equal(t, want, Greeted(text, to))
	}
	assert.Equal(t, "Hi you", Greeted("Hi you", letter.Address{Email: "a@x.example"}))
}

// What is filled in never breaks a line, and what has no value stays.
func TestFieldsOfAnyText(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		value := rapid.String().Draw(t, "value")
		text := rapid.StringMatching(`([a-z ]|\{first name\}|\{own\}|[{}]){0,20}`).Draw(t, "text")
		filled := FillIn(text, Values{FirstName: value})
		assert.NotContains(t, strings.ReplaceAll(filled, text, ""), "\n")
		assert.Equal(t, strings.Count(text, "{own}"), strings.Count(filled, "{own}")-strings.Count(text, "{first name}")*strings.Count(oneLine(value), "{own}"))
		for _, name := range Unfilled("", text, Fields(text)) {
			assert.Contains(t, Fields(text), name)
		}
	})
}
