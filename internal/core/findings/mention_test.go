package findings

import (
	"testing"

	"github.com/stretchr/testify/assert"
)

func TestMentions(t *testing.T) {
	for _, c := range []struct {
		text      string
		addressed bool
		want      bool
	}{
		{"Can @Ines bring the keys?", true, true},
		{"Can @ines bring the keys?", true, true},
		{"(@Inés)", true, true},
		{"Write to office@ines.example.", false, false},
		{"@Inesita has them.", true, false},
		{"@ Ines", true, false},
		{"Dear Ines, thank you.", true, false},
		{"I think Ines has the keys.", false, true},
		{"Ask Inés about it.", false, true},
		{"Lines and ines of code.", false, false},
		{"INES OKAFOR signs.", false, true},
		{"Nobody here.", false, false},
		{"", false, false},
		{"@", false, false},
	} {
		assert.Equal(t, c.want, Mentions(c.text, []string{"Ines Okafor", "", "-"}, c.addressed), "%q, addressed: %v", c.text, c.addressed)
	}
	assert.True(t, Mentions("我们问了李。", []string{"我们问了李"}, false), "scripts without capitals")
	assert.False(t, Mentions("I, for one", []string{"I"}, false), "one letter is no name")
}
