package say

import (
	"errors"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"

	"ebbe.example/ebbe/internal/core/decide"
	"ebbe.example/ebbe/internal/core/letter"
	"ebbe.example/ebbe/internal/core/meeting"
	"ebbe.example/ebbe/internal/core/when"
)

func TestUntil(t *testing.T) {
	for _, c := range []struct {
		words     string
		timed     bool
		on        when.Condition
		spot, who string
		want      string
	}{
		{"Fri 27 Nov, 14:00", true, when.Always, "", "", "until Fri 27 Nov, 14:00"},
		{"", false, when.IfAnswered, "", "", "until they answer"},
		{"", false, when.IfAnswered, "", "Henrik Aas", "until Henrik Aas answers"},
		{"Fri 27 Nov", true, when.IfSilent, "", "", "until Fri 27 Nov unless somebody answers"},
		{"Fri 27 Nov", true, when.IfSilent, "", "Henrik Aas", "until Fri 27 Nov unless Henrik Aas answers"},
		{"", false, when.AtSpot, "the office", "", "until you are at the office"},
		{"Fri 27 Nov", true, when.AtSpot, "the office", "", "until you are at the office, or Fri 27 Nov"},
	} {
		assert.Equal(t, c.want, Until(c.words, c.timed, c.on, c.spot, c.who))
	}
}

func TestShorten(t *testing.T) {
	assert.Equal(t, "short", Shorten("short", 5))
	assert.Equal(t, "shor…", Shorten("shorter", 5))
	assert.Equal(t, "Ærø…", Shorten("Ærøskøbing", 4), "by characters, not bytes")
	assert.Equal(t, "", Shorten("", 3))
}

func TestCount(t *testing.T) {
	assert.Equal(t, "0 letters", Count(0, "letter"))
	assert.Equal(t, "1 letter", Count(1, "letter"))
	assert.Equal(t, "10000 letters", Count(10_000, "letter"))
}

func TestSentence(t *testing.T) {
	assert.Equal(t, "The disk is full.", Sentence(errors.New("the disk is full")))
	assert.Equal(t, "The disk is full.", Sentence(errors.New("The disk is full.")))
}

func TestTheNextDeliveryForAStranger(t *testing.T) {
	oslo, err := time.LoadLocation("Europe/Oslo")
	assert.NoError(t, err)
	c := when.Standard(oslo)
	assert.Equal(t, "", NextInWords(time.Time{}, c))
	assert.Equal(t, "on Sunday 29 March at 03:30", NextInWords(time.Date(2026, 3, 29, 1, 30, 0, 0, time.UTC), c), "the hour that is left out is left out")
}

// Every reason has its words, but for those that a head above the row says.
func TestBackBriefly(t *testing.T) {
	for reason, want := range map[decide.BackReason]string{
		decide.BackAnswer: "answered", decide.BackNoAnswer: "no answer", decide.BackFailed: "not delivered", decide.BackLook: "someday",
		decide.BackSpot: "you are there", decide.BackNoSpot: "place is gone", decide.BackTime: "", decide.BackFetched: "", decide.BackNew: "",
	} {
		assert.Equal(t, want, BackBriefly(decide.Back{Reason: reason}), reason)
	}
	assert.Equal(t, "3× put off", BackBriefly(decide.Back{Reason: decide.BackTime, Times: 3}))
	assert.Equal(t, "", BackBriefly(decide.Back{Reason: decide.BackTime, Times: 1}))
}

func TestAnswersInWords(t *testing.T) {
	invited := func(replies ...meeting.Reply) (e meeting.Event) {
		for _, r := range replies {
			e.Attendees = append(e.Attendees, meeting.Attendee{Address: letter.Address{Email: "a@b.example"}, Reply: r})
		}
		return e
	}
	assert.Equal(t, "", AnswersInWords(invited()))
	assert.Equal(t, "1 not yet", AnswersInWords(invited(meeting.NoReply)))
	assert.Equal(t, "2 accepted, 1 declined, 1 not yet", AnswersInWords(invited(meeting.Accepted, meeting.NoReply, meeting.Declined, meeting.Accepted)))
}

func TestReplySubject(t *testing.T) {
	assert.Equal(t, "Re: Pump in house 2", ReplySubject("Pump in house 2"))
	assert.Equal(t, "Re: Pump in house 2", ReplySubject("Re: Pump in house 2"))
	assert.Equal(t, "SV: Pumpe", ReplySubject("SV: Pumpe"), "also in other languages")
}

func TestTrimClock(t *testing.T) {
	assert.Equal(t, "Fri 27 Nov", TrimClock("Fri 27 Nov, 14:00"))
	assert.Equal(t, "", TrimClock("14:00"))
}

func TestLength(t *testing.T) {
	for d, want := range map[time.Duration]string{
		0: "0 s", 38 * time.Second: "38 s", 90 * time.Second: "1 min", 59*time.Minute + 59*time.Second: "59 min", time.Hour: "1 h",
		2*time.Hour + 10*time.Minute: "2 h 10", 2*time.Hour + 5*time.Minute: "2 h 05", 11*time.Hour + 40*time.Minute: "11 h", 47 * time.Hour: "47 h", 48 * time.Hour: "2 d", 13 * 24 * time.Hour: "13 d",
	} {
		assert.Equal(t, want, Length(d))
	}
}
