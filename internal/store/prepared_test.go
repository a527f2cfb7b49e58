package store

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// A statement that the driver keeps prepared stays so, whatever is bound to it. SQLite
// is built like that through the Makefile; without, all is right and a half slower.
func TestStatementsStayPrepared(t *testing.T) {
	s, who := open(t)
	require.NoError(t, s.Read(t.Context(), who, func(tx *Tx) error {
		options, err := all[string](tx.db.Raw("SELECT compile_options FROM pragma_compile_options"))
		assert.Contains(t, options, "ENABLE_QPSG", "build and test through make")
		return err
	}))
}
