package store

import (
	"go/ast"
	"go/parser"
	"go/token"
	"path/filepath"
	"regexp"
	"slices"
	"strconv"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// unscoped are the functions whose statements may name owned rows without the
// owner: system queries, checks of the whole file, and those that go by keys which a
// scoped query has given.
var unscoped = map[string]string{
	"EntryOf":   "a command id of somebody else is refused",
	"StuckOf":   "a system query of the scheduler",
	"NextStuck": "a system query of the scheduler",
	"FreeStuck": "a system query of the scheduler",
	"seatRows":  "of the letters that were just seated, in a table of their own",
}

// named finds the tables that a statement reads or writes.
var named = regexp.MustCompile(`(?i)\b(?:FROM|JOIN|UPDATE|INTO)\s+(\w+)`)

// No statement names rows that belong to somebody without saying whose, but for
// those that are listed with the reason.
func TestStatementsSayWhose(t *testing.T) {
	owned := map[string]bool{}
	for _, k := range tables {
		owned[k.name] = k.owner == "owner"
	}
	files := token.NewFileSet()
	names, err := filepath.Glob("*.go")
	require.NoError(t, err)
	found := map[string]bool{}
	statements := 0
	for _, name := range names {
		if strings.HasSuffix(name, "_test.go") || slices.Contains([]string{"check.go", "derived.go", "reread.go", "migrate.go", "tables.go", "due.go", "kinds.go"}, name) {
			continue // they go over all of the file
		}
		file, err := parser.ParseFile(files, name, nil, 0)
		require.NoError(t, err)
		for _, d := range file.Decls {
			fn, ok := d.(*ast.FuncDecl)
			if !ok {
				continue
			}
			whole := &strings.Builder{}
			ast.Inspect(fn, func(n ast.Node) bool {
				if lit, ok := n.(*ast.BasicLit); ok && lit.Kind == token.STRING {
					text, _ := strconv.Unquote(lit.Value)
					whole.WriteString(text + " ")
				}
				if id, ok := n.(*ast.Ident); ok && id.Name == "mine" {
					whole.WriteString("owner ")
				}
				return true
			})
			for _, m := range named.FindAllStringSubmatch(whole.String(), -1) {
				if !owned[m[1]] {
					continue
				}
				statements++
				if !strings.Contains(whole.String(), "owner") {
					found[fn.Name.Name] = true
				}
			}
		}
	}
	assert.Greater(t, statements, 150)
	for name := range found {
		assert.NotEmpty(t, unscoped[name], "%s names rows without saying whose", name)
	}
	for name := range unscoped {
		assert.True(t, found[name], "%s is listed for nothing", name)
	}
}
