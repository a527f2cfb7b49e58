package findings

import (
	"strings"

	"ebbe.example/ebbe/internal/core/letter"
)

// Posing is the person of the same name whom a letter may pretend to be from: its sender has
// the name of one who matters, and an address that nobody has used with the person before. ok
// is false where there is none. known tells of an address in lower case that it is known.
func Posing(from letter.Address, matter []letter.Address, known func(email string) bool) (letter.Address, bool) {
	name := sameName(from.Name)
	if name == "" || known(from.Key()) {
		return letter.Address{}, false
	}
	for _, one := range matter {
		if sameName(one.Name) == name && one.Key() != from.Key() {
			return one, true
		}
	}
	return letter.Address{}, false
}

// sameName is a name by which it is compared: without case, and in any order of its words.
func sameName(name string) string {
	first, last, turned := strings.Cut(strings.ToLower(name), ",")
	if turned {
		first, last = last, first
	}
	return strings.Join(strings.Fields(first+" "+last), " ")
}
