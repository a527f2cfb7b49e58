package letter

import (
	"testing"

	"github.com/stretchr/testify/assert"
)

func TestWords(t *testing.T) {
	for text, want := range map[string][]string{
		"Frost-alarm, House 4!": {"frost", "alarm", "house", "4"},
		"Crème brûlée":          {"creme", "brulee"},
		"Cre\u0300me":           {"creme"},
		"ÅRSMØTE":               {"arsmøte"},
		"встреча завтра":        {"встреча", "завтра"},
		" \n ":                  {},
	} {
		assert.Equal(t, want, Words(text), text)
	}
}

func TestCapital(t *testing.T) {
	for text, want := range map[string]string{
		"":        "",
		"send it": "Send it",
		"øl":      "Øl",
		"“mon”":   "“mon”",
		"\xff a":  "\xff a",
	} {
		assert.Equal(t, want, Capital(text), text)
	}
}
