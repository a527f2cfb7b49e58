package findings_test

import (
	"testing"

	"github.com/stretchr/testify/assert"

	"ebbe.example/ebbe/internal/core/findings"
	"ebbe.example/ebbe/internal/core/letter"
)

func TestPosing(t *testing.T) {
	key := []letter.Address{{Name: "Henrik Aas", Email: "henrik@norrholm.example"}, {Email: "tove@norrholm.example"}}
	known := func(email string) bool { return email == "henrik@aas.example" || email == "henrik@norrholm.example" }
	for from, posing := range map[letter.Address]bool{
		{Name: "Henrik Aas", Email: "henrik@pay-now.example"}:  true,
		{Name: "AAS, Henrik", Email: "henrik@pay-now.example"}: true,
		{Name: "Henrik Aas", Email: "Henrik@Norrholm.example"}: false,
		{Name: "Henrik Aas", Email: "henrik@aas.example"}:      false, // his own, at home
		{Name: "Henrik", Email: "henrik@pay-now.example"}:      false,
		{Name: "", Email: "x@pay-now.example"}:                 false,
	} {
		real, ok := findings.Posing(from, key, known)
		assert.Equal(t, posing, ok, from)
		if ok {
			assert.Equal(t, key[0], real)
		}
	}
}
