package work

import (
	"testing"

	"github.com/stretchr/testify/assert"

	"ebbe.example/ebbe/internal/core/change"
	_ "ebbe.example/ebbe/internal/core/kinds"
)

// Each kind of object that changes makes something stale that pages read, and
// only what there is.
func TestEveryKindMakesSomethingStale(t *testing.T) {
	for _, d := range change.All() {
		assert.NotEmpty(t, stale[d.Kind], d.Kind)
		assert.Subset(t, Readings, stale[d.Kind], d.Kind)
	}
	assert.Len(t, stale, len(change.All()))
}
