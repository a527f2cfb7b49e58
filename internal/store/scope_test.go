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

// unscoped are the functions that see whoever's rows: system queries, and
// statements by hand that go by keys which a scoped query has given.
var unscoped = map[string]string{
	"Savings":      "files are saved for all inboxes in turn",
	"MailboxOf":    "a system query: incoming mail finds its owner",
	"AddressTaken": "an address belongs to one owner",
	"EntryOf":      "a command id of somebody else is refused",
	"CutOff":       "a system query: imports go on after a stop",
	"Teach":        "a system query: lessons are made of the Journal of everybody",
	"Waits":        "a system query: whoever runs Ebbe is told what waits",
	"Connected":    "a system query: accounts are kept like their mail servers after a start",
	"StuckOf":      "a system query of the scheduler",
	"NextStuck":    "a system query of the scheduler",
	"FreeStuck":    "a system query of the scheduler",
	"JunkLearners": "a system query: junk is learned for whoever wishes it",
	"grouping":     "its callers say whose",
	"stranded":     "its callers say whose, or look through the whole file",
	"seatRows":     "of the letters that were just seated, in a table of their own",
}

// overall are the files that go over all of the database.
var overall = []string{"check.go", "derived.go", "reread.go", "migrate.go", "neveragain.go", "tables.go", "due.go", "kinds.go"}

// named finds the tables that a statement reads or writes.
var named = regexp.MustCompile(`(?i)\b(?:FROM|JOIN|UPDATE|INTO)\s+(\w+)`)

// byHand are the functions by which a statement goes past the models, and those
// that make them.
var (
	byHand  = []string{"exec", "execAll", "query", "ids", "firstID", "eachPair", "eachRow", "numbers", "insertReturning", "Raw", "Exec"}
	theHand = []string{"execAll", "insertReturning", "ids", "firstID", "eachPair", "eachRow", "numbers"}
)

// source are the functions of the package, with their files.
func source(t *testing.T, each func(name string, file *ast.File, fn *ast.FuncDecl)) {
	files := token.NewFileSet()
	names, err := filepath.Glob("*.go")
	require.NoError(t, err)
	for _, name := range names {
		if strings.HasSuffix(name, "_test.go") {
			continue
		}
		file, err := parser.ParseFile(files, name, nil, parser.ParseComments)
		require.NoError(t, err)
		for _, d := range file.Decls {
			if fn, ok := d.(*ast.FuncDecl); ok {
				each(name, file, fn)
			}
		}
	}
}

// No statement names rows that belong to somebody without saying whose, but for
// those that are listed with the reason. What goes by a model is limited by itself.
func TestStatementsSayWhose(t *testing.T) {
	owned := map[string]bool{}
	for _, k := range tables {
		owned[k.name] = k.owner == "owner"
	}
	found := map[string]bool{}
	statements := 0
	source(t, func(name string, _ *ast.File, fn *ast.FuncDecl) {
		if slices.Contains(overall, name) {
			return
		}
		whole := &strings.Builder{}
		ast.Inspect(fn, func(n ast.Node) bool {
			switch n := n.(type) {
			case *ast.BasicLit:
				if n.Kind == token.STRING {
					text, _ := strconv.Unquote(n.Value)
					whole.WriteString(text + " ")
				}
			case *ast.Ident:
				if n.Name == "mine" {
					whole.WriteString("owner ")
				}
				if n.Name == "everybody" && name != "scope.go" {
					found[fn.Name.Name] = true
				}
			}
			return true
		})
		for _, m := range named.FindAllStringSubmatch(whole.String(), -1) {
			if owned[m[1]] {
				statements++
				if !strings.Contains(whole.String(), "owner") {
					found[fn.Name.Name] = true
				}
			}
		}
	})
	assert.Greater(t, statements, 80)
	for name := range found {
		assert.NotEmpty(t, unscoped[name], "%s sees rows without saying whose", name)
	}
	for name := range unscoped {
		assert.True(t, found[name], "%s is listed for nothing", name)
	}
}

// What is asked in SQL by hand, past the models, says why: at the function, or for
// a whole file above its package.
func TestStatementsByHandSayWhy(t *testing.T) {
	const why = "By hand"
	source(t, func(name string, file *ast.File, fn *ast.FuncDecl) {
		said := slices.Contains(theHand, fn.Name.Name) || fn.Doc != nil && strings.Contains(fn.Doc.Text(), why)
		for _, c := range file.Comments {
			said = said || c.Pos() < file.Package && strings.Contains(c.Text(), why)
		}
		ast.Inspect(fn.Body, func(n ast.Node) bool {
			call, ok := n.(*ast.CallExpr)
			if !ok || said {
				return true
			}
			if s, ok := call.Fun.(*ast.SelectorExpr); ok && slices.Contains(byHand, s.Sel.Name) {
				t.Errorf("%s of %s goes past the models and doesn't say why", fn.Name.Name, name)
				said = true
			}
			return true
		})
	})
}
