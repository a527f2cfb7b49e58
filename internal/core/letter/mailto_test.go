package letter_test

import (
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"

	"ebbe.example/ebbe/internal/core/letter"
)

func TestMailto(t *testing.T) {
	none := []string{}
	for link, want := range map[string]letter.Link{
		"mailto:bram@x.example": {To: []string{"bram@x.example"}, Cc: none, Bcc: none},
		"MAILTO:bram@x.example,lise@x.example?cc=tove@x.example&bcc=bo@x.example&subject=Crates%20of%20the%20loan&body=Dear%20Bram,%0D%0A%0D%0Ayes": {
			To: []string{"bram@x.example", "lise@x.example"}, Cc: []string{"tove@x.example"}, Bcc: []string{"bo@x.example"}, Subject: "Crates of the loan", Body: "Dear Bram,\n\nyes",
		},
		"mailto:?to=bram@x.example":                        {To: []string{"bram@x.example"}, Cc: none, Bcc: none},
		"mailto:gorby%25kremvax@x.example":                 {To: []string{"gorby%kremvax@x.example"}, Cc: none, Bcc: none},
		"mailto:%22Bo%2C%20Lise%22%20%3Clise@x.example%3E": {To: []string{`"Bo, Lise" <lise@x.example>`}, Cc: none, Bcc: none},
		"mailto:a+b@x.example?subject=1+1":                 {To: []string{"a+b@x.example"}, Cc: none, Bcc: none, Subject: "1+1"},
		"mailto:a@x.example?subject=Hi%0D%0ABcc:%20b@y.example&X-Evil=1&attach=/etc/passwd&from=b@y.example": {To: []string{"a@x.example"}, Cc: none, Bcc: none, Subject: "Hi Bcc: b@y.example"},
		"mailto:a@x.example%0D%0ABcc:b@y.example":                                                            {To: []string{"a@x.example Bcc:b@y.example"}, Cc: none, Bcc: none},
		"mailto:": {To: none, Cc: none, Bcc: none},
		"mailto:a@x.example?subject=%C3%A5%20%zz": {To: []string{"a@x.example"}, Cc: none, Bcc: none, Subject: "%C3%A5%20%zz"},
		"mailto:a@x.example?subject=%C3%A5#top":   {To: []string{"a@x.example"}, Cc: none, Bcc: none, Subject: "å"},
	} {
		got, err := letter.Mailto(link)
		assert.NoError(t, err, link)
		assert.Equal(t, want, got, link)
	}
	for _, link := range []string{"", "bram@x.example", "https://x.example", "javascript:alert(1)"} {
		_, err := letter.Mailto(link)
		assert.ErrorIs(t, err, letter.ErrNoLink, link)
	}
}

// Whatever a link says, no field of what comes of it has a line break.
func FuzzMailto(f *testing.F) {
	f.Add("mailto:a@x.example?subject=a%0Ab&cc=c%0D%0Ad")
	f.Fuzz(func(t *testing.T, link string) {
		got, err := letter.Mailto(link)
		if err != nil {
			return
		}
		for _, field := range append(append(append([]string{got.Subject}, got.To...), got.Cc...), got.Bcc...) {
			assert.False(t, strings.ContainsAny(field, "\r\n\x00"), "%q", field)
		}
	})
}
