package letter_test

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"pgregory.net/rapid"

	"ebbe.example/ebbe/internal/core/letter"
)

func TestPastedAddresses(t *testing.T) {
	for text, want := range map[string][]letter.Typed{
		"":                                 {},
		"bram@x.example":                   {{Text: "bram@x.example"}},
		"bram@x.example, lise@x.example":   {{Text: "bram@x.example"}, {Text: "lise@x.example"}},
		"bram@x.example;lise@x.example;":   {{Text: "bram@x.example"}, {Text: "lise@x.example"}},
		"bram@x.example lise@x.example":    {{Text: "bram@x.example"}, {Text: "lise@x.example"}},
		"bram@x.example\r\nlise@x.example": {{Text: "bram@x.example"}, {Text: "lise@x.example"}},
		"• Bram <bram@x.example>\n• Lise <lise@x.example>":   {{Text: "Bram <bram@x.example>"}, {Text: "Lise <lise@x.example>"}},
		`"Bo, Lise" <lise@x.example>, Bram <bram@x.example>`: {{Text: `"Bo, Lise" <lise@x.example>`}, {Text: "Bram <bram@x.example>"}},
		"Bo, Lise <lise@x.example>, Bram <bram@x.example>":   {{Text: `"Bo, Lise" <lise@x.example>`}, {Text: "Bram <bram@x.example>"}},
		"mailto:bram@x.example":                              {{Text: "bram@x.example"}},
		"bram@x.example, BRAM@X.example":                     {{Text: "bram@x.example"}},
		"bram@x.example, nobody":                             {{Text: "bram@x.example"}, {Text: "nobody", Trouble: "“nobody” is not an address"}},
		"Åse <åse@x.example>":                                {{Text: "Åse <åse@x.example>"}},
		"Name\tbram@x.example":                               {{Text: "Name", Trouble: "“Name” is not an address"}, {Text: "bram@x.example"}},
		"a@x.example\x00\nBcc: b@y.example":                  {{Text: "a@x.example\x00", Trouble: "“a@x.example\x00” has a line break in it"}, {Text: "Bcc: b@y.example", Trouble: "“Bcc: b@y.example” is not an address"}},
	} {
		assert.Equal(t, want, letter.Addresses(text), "%q", text)
	}
}

// However addresses are put into a list, the same come out of it.
func TestEveryFormOfAList(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		list := rapid.SliceOfNDistinct(rapid.SampledFrom([]string{"bram@x.example", "Lise <lise@x.example>", `"Bo, Åse" <ase@x.example>`, `"Ann; B" <ann@x.example>`}), 1, 4, rapid.ID).Draw(t, "list")
		text := ""
		for _, one := range list {
			text += rapid.SampledFrom([]string{"", " ", "• ", "\n"}).Draw(t, "before") + one + rapid.SampledFrom([]string{",", ";", "\n", "\r\n", ", ", "\t"}).Draw(t, "after")
		}
		var got []string
		for _, a := range letter.Addresses(text) {
			assert.Empty(t, a.Trouble, "%q", text)
			got = append(got, a.Text)
		}
		assert.Equal(t, list, got, "%q", text)
	})
}
