// Package internal_test holds the whole to its structure: who may know whom.
package internal_test

import (
	"go/build"
	"io/fs"
	"os"
	"path"
	"path/filepath"
	"regexp"
	"slices"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// knows says which packages of this module each may import; “core” stands for all
// of it. Whoever is not named here imports what it likes: the program, demos and
// benches put everything together.
var knows = map[string][]string{
	"store":      {"core"},
	"work":       {"core", "store"},
	"post":       {},
	"gate":       {"core", "store", "work"},
	"say":        {"core"},
	"show":       {"core", "store", "work", "gate", "say", "post"},
	"app":        {"core", "store", "work", "gate", "say", "show", "post"},
	"api":        {"core", "store", "work", "say", "show", "app", "post", "webui"},
	"postoffice": {"core", "store", "work", "app", "post"},
	"webui":      {},
}

func TestPackagesKnowOnlyThoseBelow(t *testing.T) {
	const module = "ebbe.example/ebbe/internal/"
	for name, may := range knows {
		pkg, err := build.ImportDir(name, 0)
		require.NoError(t, err)
		for _, i := range pkg.Imports {
			if to, ok := strings.CutPrefix(i, module); ok {
				to, _, _ = strings.Cut(to, "/")
				assert.Contains(t, may, to, "%s imports %s", name, i)
			}
			if i == "gorm.io/gorm" || i == "database/sql" {
				assert.Equal(t, "store", name, "%s imports %s", name, i)
			}
		}
	}
}

// pages says which folders of the page each may import.
var pages = map[string][]string{
	"api":       {},
	"state":     {"api"},
	"kit":       {"api", "state"},
	"days":      {"api", "state", "kit"},
	"delivery":  {"api", "state", "kit", "days"},
	"letters":   {"api", "state", "kit", "days"},
	"shallows":  {"api", "state", "kit", "letters"},
	"followups": {"api", "state", "kit", "days", "letters"},
	"deciding":  {"api", "state", "kit", "days", "letters", "followups"},
	"sitting":   {"api", "state", "kit"},
	"rules":     {"api", "state", "kit"},
	"people":    {"api", "state", "kit"},
	"attached":  {"api", "kit"},
	"sheet":     {"api", "state", "kit", "rules"},
	"shell":     {"api", "state", "kit", "days", "delivery", "letters", "followups", "sitting"},
	"views":     {"api", "state", "kit", "days", "delivery", "letters", "followups", "deciding", "shallows", "sitting", "rules", "sheet", "people", "attached"},
}

// imported finds what is imported at once, later what is only when it is shown.
var (
	imported = regexp.MustCompile(`(?m)^import\s+(type\s)?([^'"]*?)(?:from\s+)?'(\.[^']+)'`)
	later    = regexp.MustCompile(`(?m)()()import\('(\.[^']+)'\)`)
)

// The folders of the page know only those below them, and no file leads back to
// itself.
func TestThePageHasNoCircles(t *testing.T) {
	const root = "../ui/src"
	leads := map[string][]string{}
	require.NoError(t, filepath.WalkDir(root, func(file string, d fs.DirEntry, err error) error {
		if err != nil || d.IsDir() || !strings.Contains(path.Ext(file), "ts") {
			return err
		}
		text, err := os.ReadFile(file)
		require.NoError(t, err)
		from := strings.TrimPrefix(filepath.ToSlash(file), root+"/")
		folder, _, inFolder := strings.Cut(from, "/")
		for _, m := range append(imported.FindAllStringSubmatch(string(text), -1), later.FindAllStringSubmatch(string(text), -1)...) {
			to := path.Join(path.Dir(from), m[3])
			if other, _, ok := strings.Cut(to, "/"); ok && inFolder && other != folder {
				assert.Contains(t, pages[folder], other, "%s imports %s", from, to)
			}
			if m[1] == "" && !onlyTypes(m[2]) {
				leads[strings.TrimSuffix(strings.TrimSuffix(from, "x"), ".ts")] = append(leads[strings.TrimSuffix(strings.TrimSuffix(from, "x"), ".ts")], to)
			}
		}
		return nil
	}))
	assert.Greater(t, len(leads), 50)
	done := map[string]bool{}
	var walk func(file string, way []string)
	walk = func(file string, way []string) {
		if i := slices.Index(way, file); i >= 0 {
			assert.Fail(t, "a circle", "%s", strings.Join(append(way[i:], file), " → "))
			return
		}
		if done[file] {
			return
		}
		for _, to := range leads[file] {
			walk(to, append(slices.Clip(way), file))
		}
		done[file] = true
	}
	for file := range leads {
		walk(file, nil)
	}
}

// onlyTypes tells whether all names of an import are types, which leave no trace
// in what runs.
func onlyTypes(names string) bool {
	names = strings.Trim(strings.TrimSpace(names), "{}")
	if strings.TrimSpace(names) == "" {
		return false
	}
	for _, n := range strings.Split(names, ",") {
		if n = strings.TrimSpace(n); n != "" && !strings.HasPrefix(n, "type ") {
			return false
		}
	}
	return true
}
