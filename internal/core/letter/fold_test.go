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
		"ÅRSMØTE":               {"arsmote"},
		"Straße, Łódź, Œuvre":   {"strasse", "lodz", "oeuvre"},
		"ﬁne ½ ①":               {"fine", "1", "2", "1"},
		"東京都 2026年":             {"東京", "京都", "都", "2026", "年"},
		"カタカナabc":               {"カタ", "タカ", "カナ", "ナ", "abc"},
		"שָׁלוֹם":               {"שלום"},
		"한국어":                   Words("한국어"),
		"встреча завтра":        {"встреча", "завтра"},
		" \n ":                  nil,
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
