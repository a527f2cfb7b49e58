package findings_test

import (
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"

	"ebbe.example/ebbe/internal/core/findings"
)

func TestWhatSignsIn(t *testing.T) {
	for _, c := range []struct{ subject, text, code, link string }{
		{"Your sign-in code", "Your code is 481 922. It holds for ten minutes.", "481922", ""},
		{"481922 is your code", "Use 481922 to sign in.\nDon't share this code.", "481922", ""},
		{"Verify", "Enter this security code: G-120934", "120934", ""},
		{"Pålogging", "Engangskoden din er 7731.", "7731", ""},
		{"Confirm", "To confirm, type the one-time password 90210 within the hour.", "90210", ""},
		{"Sign in", "Click this link to sign in: https://desk.example/in?t=ab12. It holds for an hour.", "", "https://desk.example/in?t=ab12"},
		{"Reset your password", "Somebody asked for this.\n<https://desk.example/new>", "", "https://desk.example/new"},
		{"Bekreft adressen", "Velkommen. https://desk.example/b/1", "", "https://desk.example/b/1"},

		{"Dress code", "The dress code for the 2026 dinner is festive.", "", ""},
		{"Code of the gate", "The code of the gate is 4471.", "", ""}, // nothing to sign in to
		{"Log", "Log in to see invoice code 2231: 1250 EUR. Sum 1400 NOK.", "2231", ""},
		{"Sign-in from a new place", "You signed in from Lomvik at 10:45 on 24.11.2026.", "", ""},
		{"Source", "I confirm: the code is in house 4, see https://git.example/x", "", ""},
		{"Prices", "To verify: code A costs 1250 EUR, 1400.50 NOK or 12/2026.", "", ""},
		{"", "", "", ""},
	} {
		found, ok := findings.SignsIn(c.subject, c.text)
		assert.Equal(t, c.code != "" || c.link != "", ok, c.text)
		assert.Equal(t, c.code, found.Code, c.text)
		assert.Equal(t, c.link, found.Link, c.text)
		if ok {
			assert.Equal(t, c.code+c.link, strings.TrimRight(strings.NewReplacer(" ", "", "-", "").Replace(c.text[found.From:found.To]), "."), c.text)
		}
	}
}

func FuzzSignsIn(f *testing.F) {
	f.Add("Your code", "is 481 922, sign in")
	f.Add("kode", strings.Repeat("ø", 1999)+" 1234")
	f.Fuzz(func(t *testing.T, subject, text string) {
		if found, ok := findings.SignsIn(subject, text); ok {
			assert.True(t, 0 <= found.From && found.From < found.To && found.To <= len(text))
		}
	})
}
