package writing

import (
	"errors"
	"fmt"
	"strings"

	"ebbe.example/ebbe/internal/core/letter"
)

// MostMembers is how many people a group of receivers has.
const MostMembers = 500

// Members reads the members of a group of receivers from a list of addresses in any form.
// Its errors say what is wrong with it.
func Members(text string) ([]string, error) {
	out := []string{}
	for _, a := range letter.Addresses(text) {
		if a.Trouble != "" {
			return nil, errors.New(a.Trouble)
		}
		out = append(out, a.Text)
	}
	switch {
	case len(out) == 0:
		return nil, errors.New("a group needs somebody in it")
	case len(out) > MostMembers:
		return nil, fmt.Errorf("a group has up to %d people; this one would have %d", MostMembers, len(out))
	}
	return out, nil
}

// Named tells whether a name, or one of its words, begins with what was typed, however cased
// and accented.
func Named(name, typed string) bool {
	want, have := strings.Join(letter.WholeWords(typed), " "), letter.WholeWords(name)
	for i := range have {
		if want != "" && strings.HasPrefix(strings.Join(have[i:], " "), want) {
			return true
		}
	}
	return false
}
