package delivery

import (
	"reflect"
	"testing"

	"github.com/stretchr/testify/assert"
)

// Whatever happened since keeps a letter where it is.
func TestHeldAgain(t *testing.T) {
	assert.True(t, Released{}.HeldAgain())
	for i := range reflect.TypeFor[Released]().NumField() {
		var r Released
		reflect.ValueOf(&r).Elem().Field(i).SetBool(true)
		assert.False(t, r.HeldAgain(), reflect.TypeFor[Released]().Field(i).Name)
	}
}

func TestWaits(t *testing.T) {
	assert.True(t, Waits(true, false))
	assert.False(t, Waits(true, true))
	assert.False(t, Waits(false, false), "at its minute")
}
