package writing

import (
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"ebbe.example/ebbe/internal/core/letter"
)

var lately = time.Date(2025, 11, 3, 9, 0, 0, 0, time.UTC)

func texts(all []Suggestion) (out []string) {
	for _, s := range all {
		out = append(out, s.Text)
	}
	return out
}

func TestSuggestYesOrNo(t *testing.T) {
	for ask, want := range map[string][]string{
		"Could you please send me your lift height?": {"Yes, I will send you my lift height.", "I’m afraid I can’t send you my lift height."},
		"Is the lift wide enough?":                   {"Yes.", "No, I’m afraid not."},
		"Isn't the lift wide enough?":                {"Yes.", "No, I’m afraid not."},
		"Shall we meet on Monday or on Tuesday?":     nil,
		"Would you like to write for us?":            {"Yes.", "No, I’m afraid not."},
		"When does it open?":                         nil,
		"Please send the list.":                      nil,
	} {
		assert.Equal(t, want, texts(Suggest(Asking{Text: ask, Asks: []string{ask}}, nil)), ask)
	}
}

func TestSuggestDates(t *testing.T) {
	free := Suggest(Asking{Dates: []Offered{{Words: "Friday 27 November, 10:00"}}}, nil)
	assert.Equal(t, []string{"Friday 27 November, 10:00 suits me."}, texts(free))
	assert.Empty(t, free[0].Fields)
	busy := Suggest(Asking{Dates: []Offered{{Words: "Friday 27 November", Busy: true}}}, nil)
	assert.Equal(t, []string{"date"}, busy[0].Fields)
	assert.Contains(t, busy[0].Text, "{date}")
}

// An answer to a letter like this one comes again without what it told of its own.
func TestSuggestFromPast(t *testing.T) {
	now := Asking{
		Text: "Dear Ines, we would like to book the orangery for a school class of 24 children. Is a guided walk possible?",
		From: letter.Address{Name: "Lars Nordby", Email: "lars@school.example"}, Mine: letter.Address{Name: "Ines Halvorsen"},
	}
	past := []Past{
		{Asked: "We want to book the orangery for our class, 18 children. Is a guided walk possible for a school?", To: letter.Address{Name: "Mette Dahl", Email: "mette@dahl.example"}, At: lately, Letter: 7,
			Text: "Dear Mette,\n\nA guided walk for a class is possible. Jonas takes you on Thursday 6 November at 10:30. See https://norrholm.example/walks.\n\nBest, Ines\n\n-- \nInes Halvorsen\n\nOn Monday Mette Dahl wrote:\n> We want to book\n"},
		{Asked: "The invoice for the pump is overdue, please pay", To: letter.Address{Name: "Bill Ing"}, At: lately, Text: "Paid."},
	}
	out := Suggest(now, past)
	require.Len(t, out, 1)
	assert.Equal(t, "Dear Lars,\n\nA guided walk for a class is possible. {name} takes you on {date} at {time}. See {link}.\n\nBest, Ines", out[0].Text)
	assert.Equal(t, []string{"name", "date", "time", "link"}, out[0].Fields)
	assert.Equal(t, int64(7), out[0].Letter)
	assert.Equal(t, "Your answer to Mette Dahl of 3 November 2025", out[0].From)

	past[0].Text += " Bills 1, 22 and 333."
	assert.Empty(t, Suggest(now, past[:1])[1:], "it needs too much to be filled in")
	past[0].Text = strings.Repeat("Long. ", 200)
	assert.Equal(t, SuggestYes, Suggest(Asking{Text: now.Text, Asks: []string{"Is a guided walk possible?"}}, past)[0].Kind)
}

func TestOffers(t *testing.T) {
	for ask, offers := range map[string]bool{
		"May we come on Friday at 10:00?":                true,
		"Could you accept it before Friday?":             false,
		"Please return it by 1 December.":                false,
		"Would you have time in the week of 7 December?": false,
		"May we come at 10:00?":                          false,
		"Would 8 December do?":                           true,
		"See you on Friday.":                             false,
	} {
		assert.Equal(t, offers, Offers(ask), ask)
	}
}

func TestSuggestTemplates(t *testing.T) {
	template := Past{Asked: "Booking a guided walk for a school class in the orangery", Text: "Dear {first name}, {day} is free.", Template: 3, Name: "Walk"}
	out := Suggest(Asking{Text: "Can our school class book a guided walk in the orangery?"}, []Past{template})
	require.Len(t, out, 1)
	assert.Equal(t, Suggestion{Kind: SuggestTemplate, Text: template.Text, Fields: []string{"first name", "day"}, From: "Your template “Walk”", Template: 3}, out[0])
}

// Nothing of another letter is told to somebody else: no number, link, address or date.
func TestSuggestionsTellNothingOfOthers(t *testing.T) {
	secret := rapid.SampledFrom([]string{"4711", "+47 22 00 11 00", "https://a.example/secret?x=1", "bo@other.example", "3 May", "2026-01-05", "17:45", "Monday 4 May", "4pm", "1.250,00", "Zebulon"})
	rapid.Check(t, func(t *rapid.T) {
		told := rapid.SliceOfN(secret, 1, 4).Draw(t, "told")
		text := "Thank you, this goes to "
		for _, s := range told {
			text += s + rapid.SampledFrom([]string{", ", " and ", "\n", ". Then to "}).Draw(t, "between")
		}
		asked := "Where does the old pump of the garden go?"
		for _, s := range Suggest(Asking{Text: asked}, []Past{{Asked: asked, Text: text, To: letter.Address{Name: "Bo Berg"}}}) {
			for _, told := range told {
				assert.NotContains(t, s.Text, told)
			}
			assert.Equal(t, s.Fields, Fields(s.Text))
		}
	})
}
