package findings_test

import (
	"testing"

	"github.com/stretchr/testify/assert"

	"ebbe.example/ebbe/internal/core/findings"
)

func TestWhatIsFound(t *testing.T) {
	for _, c := range []struct {
		subject, text string
		files         int
		want          []findings.Found
	}{
		{"", "Call me on 22 85 50 50, or +47 913 22 118.", 0, []findings.Found{
			{Kind: findings.Phone, Quote: "22 85 50 50", From: 11, To: 22, Value: "22855050"},
			{Kind: findings.Phone, Quote: "+47 913 22 118", From: 27, To: 41, Value: "+4791322118"},
		}},
		{"", "Tlf. nr: 73 55 12 34\nMobil: 73551234", 0, []findings.Found{{Kind: findings.Phone, Quote: "73 55 12 34", From: 9, To: 20, Value: "73551234"}}},
		{"", "Order 22855050 came on 2026-11-24 at 10:45.", 0, nil},
		{"", "+1 is a lot. Call the house 4 alarm.", 0, nil},
		{"", "I have attached the list.", 0, []findings.Found{{Kind: findings.NoFile, Quote: "attached", From: 7, To: 15}}},
		{"", "I have attached the list.", 1, nil},
		{"Your code", "Use 481 922 to sign in. It holds for ten minutes.", 0, []findings.Found{{Kind: findings.Code, Quote: "481 922", From: 4, To: 11, Value: "481922", Until: "for ten minutes"}}},
		{"Sign in", "Click this link to sign in: https://desk.example/a (valid until 14:00)", 0, []findings.Found{
			{Kind: findings.Link, Quote: "https://desk.example/a", From: 28, To: 50, Value: "https://desk.example/a", Until: "until 14:00"},
		}},
		{"", "", 0, nil},
	} {
		assert.Equal(t, c.want, findings.Finds(c.subject, c.text, c.files), c.text)
	}
}

func FuzzFinds(f *testing.F) {
	f.Add("Your code", "Call +47 913 22 118, attached, 481 922 to sign in", 0)
	f.Fuzz(func(t *testing.T, subject, text string, files int) {
		for _, one := range findings.Finds(subject, text, files) {
			assert.Equal(t, one.Quote, text[one.From:one.To])
		}
	})
}
