package findings_test

import (
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"pgregory.net/rapid"

	"ebbe.example/ebbe/internal/core/findings"
)

func TestAmounts(t *testing.T) {
	for text, want := range map[string][]string{
		"Total: 1,420.00 EUR":               {"1,420.00 EUR"},
		"Å betale: kr 1 420,50":             {"1,420.50 NOK"},
		"€184.5, or else €184,50":           {"184.50 EUR", "184.50 EUR"},
		"1.420,00 EUR and $96":              {"1,420.00 EUR", "96.00 USD"},
		"38,- kr":                           {"38.00 NOK"},
		"EUR 612.33, of it 20.00 EUR tax":   {"612.33 EUR", "20.00 EUR"},
		"an amount of 1e400 EUR":            nil,
		"room 4 in 2026, 12 kroner":         {"12.00 NOK"},
		"99999999999999999999 EUR":          nil,
		"1 EUR 2 USD 3 GBP 4 NOK 5 SEK":     {"1.00 EUR", "2.00 USD", "3.00 GBP", "4.00 NOK", "5.00 SEK"},
		"crates of 60kr":                    {"60.00 NOK"},
		"a European price, 12 European men": nil,
		"":                                  nil,
	} {
		var got []string
		for _, a := range findings.SumsIn(text) {
			got = append(got, a.String())
		}
		assert.Equal(t, want, got, text)
	}
}

func TestTotal(t *testing.T) {
	for text, want := range map[string]string{
		"Glass 1,200.00 EUR\nPutty 220.00 EUR\nTotal 1,420.00 EUR\nOf it tax 284.00 EUR": "1,420.00 EUR",
		"It is 12.00 EUR, and again 12.00 EUR":                                           "12.00 EUR",
		"Order 5520 | 1,240.50\nDue | 3 December":                                        "1,240.50",
		"Invoice 1\nTotal\n\n96.00\nThank you":                                           "96.00",
		"Subtotal 10.00 EUR\nAmount due: 12.00 EUR":                                      "12.00 EUR",
	} {
		got, ok := findings.Total(text)
		assert.True(t, ok, text)
		assert.Equal(t, want, got.String(), text)
	}
	for _, text := range []string{
		"No sum at all, in 2026.", "One 12.00 EUR, another 18.50 EUR", "Energy | 1,980.00\nGrid | 214.00", "It is 9.42 °C, and 12.50 % of it", "version 1.10.20 and 3.14159",
	} {
		_, ok := findings.Total(text)
		assert.False(t, ok, text)
	}
}

// Whatever a letter says, sums are found within bounds, and stand there as they are quoted.
func TestAmountsOfAnyText(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		text := rapid.StringMatching(`([0-9.,€$ ]|EUR|kr|a){0,60}`).Draw(t, "text")
		for _, a := range findings.SumsIn(text) {
			assert.Contains(t, text, a.Quote)
			assert.GreaterOrEqual(t, a.Cents, int64(0))
			assert.NotEmpty(t, a.Currency)
		}
	})
}

// A letter that is about a sum with its currency names one: a rule by amount looks at those only that do.
func TestWhatATotalIsOfIsNamed(t *testing.T) {
	parts := rapid.SampledFrom([]string{"Total", "12", "96.00", "1,420.00", "EUR", "€", "kr", "kr.", "NOK", "$", " ", " ", "\n", ":", "|", "*", "disk", "12,-", "a", "=", "(", ")", "euros", "\u00a0", "."})
	found := 0
	rapid.Check(t, func(t *rapid.T) {
		text := strings.Join(rapid.SliceOfN(parts, 0, 12).Draw(t, "text"), "")
		if a, ok := findings.Total(text); ok && a.Currency != "" {
			found++
			assert.True(t, findings.NamesSum(text), "%q", text)
		}
	})
	assert.Greater(t, found, 5)
}
