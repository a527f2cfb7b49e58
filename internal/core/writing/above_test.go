package writing

import (
	"testing"

	"github.com/stretchr/testify/assert"
)

func TestAbove(t *testing.T) {
	for _, c := range []struct{ text, want string }{
		{"", "Yes.\n"},
		{"\n\n-- \nInes\n", "Yes.\n\n-- \nInes\n"},
		{"Dear Bo,\n\n-- \nInes\n", "Dear Bo,\n\nYes.\n\n-- \nInes\n"},
		{"Dear Bo,", "Dear Bo,\n\nYes.\n"},
	} {
		assert.Equal(t, c.want, Above(c.text, "Yes."), c.text)
	}
}

func TestMembers(t *testing.T) {
	got, err := Members("Bo Berg <bo@x.example>; lise@y.example\nBO@x.example")
	assert.NoError(t, err)
	assert.Equal(t, []string{"Bo Berg <bo@x.example>", "lise@y.example"}, got)
	_, err = Members("bo")
	assert.Error(t, err)
	_, err = Members(" \n")
	assert.Error(t, err)
}
