package store

import (
	"go/ast"
	"regexp"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// What may be taken away for good has an id that is never given again.
func TestIDsAreNeverGivenAgain(t *testing.T) {
	gone := map[string]bool{}
	deletes := regexp.MustCompile(`DELETE FROM (\w+)`)
	source(t, func(_ string, _ *ast.File, fn *ast.FuncDecl) {
		ast.Inspect(fn.Body, func(n ast.Node) bool {
			if text, ok := n.(*ast.BasicLit); ok {
				for _, m := range deletes.FindAllStringSubmatch(text.Value, -1) {
					gone[m[1]] = true
				}
			}
			return true
		})
	})
	s, who := open(t)
	taken := 0
	require.NoError(t, s.Read(t.Context(), who, func(tx *Tx) error {
		for _, o := range objects {
			if !gone[o.table] || o.key() != "id" {
				continue
			}
			taken++
			assert.Contains(t, numbered, o.Kind)
			made, err := all[string](tx.db.Raw("SELECT sql FROM sqlite_schema WHERE name = ?", o.table))
			require.NoError(t, err)
			assert.Contains(t, strings.Join(made, ""), "AUTOINCREMENT", o.table)
		}
		return nil
	}))
	assert.Len(t, numbered, taken)
}
