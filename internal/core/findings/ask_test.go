package findings

import (
	"regexp"
	"strings"
	"testing"
	"time"
	"unicode/utf8"

	"github.com/stretchr/testify/assert"

	"ebbe.example/ebbe/internal/core/letter"
	"ebbe.example/ebbe/internal/core/when"
)

func TestAsk(t *testing.T) {
	cases := []struct {
		text, want string
		asks       bool
	}{
		{"Dear Ines,\n\nThe van is booked. Can you confirm the four crate sizes\nand the courier? Collection is Monday.\n\nBram", "Can you confirm the four crate sizes and the courier?", true},
		{"Hi,\n\nplease send the list by Friday.\n\nTove", "please send the list by Friday.", true},
		{"Hello Ines,\n\nthe parcel has left. Thank you for your order.\n\nLund", "the parcel has left.", false},
		{"Please find the bill attached.", "Please find the bill attached.", false},
		{"If you have any questions, please ask. Sign form 7 and return it by 1 Dec. please.", "Sign form 7 and return it by 1 Dec. please.", true},
		{"Dr. Lie wrote to Mr. Aas. Would you call him?", "Would you call him?", true},
		{"", "", false},
		{"Kind regards\nBram", "", false},
		{"Ines,\n\nthe vents close at eight.\n\nHenrik", "the vents close at eight.", false},
		{"\n\n***\n\n", "", false},
		{"We need your answer today", "We need your answer today", true},
	}
	for _, c := range cases {
		got, asks := Ask(c.text)
		assert.Equal(t, c.want, got, c.text)
		assert.Equal(t, c.asks, asks, c.text)
	}
	long, _ := Ask(strings.Repeat("word ", 200))
	assert.LessOrEqual(t, len([]rune(long)), maxSentence+1)
	assert.True(t, strings.HasSuffix(long, "…"))
}

func TestAction(t *testing.T) {
	cases := []struct {
		ask     string
		asks    bool
		subject string
		want    string
	}{
		{"Can you confirm the four crate sizes?", true, "Crates", "Confirm the four crate sizes"},
		{"So could you please send the list?", true, "", "Send the list"},
		{"Ines, could you tell me how many labels we need?", true, "", "Tell them how many labels we need"},
		{"Please sign both copies.", true, "", "Sign both copies"},
		{"Let me know which day suits you.", true, "", "Tell them which day suits you"},
		{"Is the fern house open?", true, "", "Answer: Is the fern house open"},
		{"The parcel has left.", false, "Order 5520", "See to: Order 5520"},
		{"", false, "", "Answer this letter"},
	}
	for _, c := range cases {
		assert.Equal(t, c.want, Action(c.ask, c.asks, c.subject))
	}
	assert.LessOrEqual(t, len([]rune(Action("Please "+strings.Repeat("write ", 60), true, ""))), 100)
}

func FuzzAsk(f *testing.F) {
	f.Add("Dear Ines,\n\nCan you?")
	f.Fuzz(func(t *testing.T, text string) {
		ask, asks := Ask(text)
		if Action(ask, asks, "s") == "" {
			t.Fatal("an action is never empty")
		}
	})
}

// What says nothing by itself is no title, and a day that an ask names is by
// when it is wanted.
func TestTitlesAndDuesOfAsks(t *testing.T) {
	assert.Equal(t, "See to: Form 7", Action("Please do.", true, "Form 7"))
	assert.Equal(t, "Send the form", Action("Please send the form by Friday.", true, "Form 7")[:len("Send the form")])
	_, asks := AskOf(letter.Letter{Text: "I am away until Monday. For urgent matters please ask Lise.", Automatic: letter.AutoReply})
	assert.False(t, asks)
	c := when.Standard(time.UTC)
	now := time.Date(2026, 11, 24, 9, 0, 0, 0, time.UTC) // a Tuesday
	due, ok := Due("Could you send the form by Friday?", now, now, c)
	assert.True(t, ok)
	assert.Equal(t, time.Friday, due.UTC.Weekday())
	_, ok = Due("Could you send the form?", now, now, c)
	assert.False(t, ok)
}

// slowAbbreviation is the rule as a regular expression.
var slowAbbreviation = regexp.MustCompile(`(?i)\b(dr|mr|mrs|ms|prof|st|no|nr|ca|approx|e\.g|i\.e|etc|vs|fig|vol|inc|ltd|jan|feb|mar|apr|jun|jul|aug|sept?|oct|nov|dec)\.$|\b[A-Z]\.$`)

// What is looked for before regular expressions are asked leaves out nothing that
// they would find.
func FuzzQuickAsLongWay(f *testing.F) {
	for _, s := range []string{"Dr.", "e.g.", "see fig.", "house-no.", "J.", "x1.", "äb.", "1.", "_a.", "ſt.", "Would YOU know", "by return", "I need it", "RSVP", "K.", "_dr.", "don't forget", "asks you"} {
		f.Add(s)
	}
	f.Fuzz(func(t *testing.T, s string) {
		if strings.ContainsFunc(s, func(r rune) bool { return r == 'ſ' || r == '\u212a' }) || !utf8.ValidString(s) {
			return // which regular expressions take for s and k
		}
		if bare, ok := strings.CutSuffix(s, "."); ok {
			assert.Equal(t, slowAbbreviation.MatchString(s), isAbbreviation(bare), "%q", s)
		}
		assert.Equal(t, requests.MatchString(s), isRequest(s), "%q", s)
	})
}
