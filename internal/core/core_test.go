package core_test

import (
	"go/build"
	"io/fs"
	"path/filepath"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// helpers are the helpers that the core may use: they parse, and solve equations.
var helpers = []string{
	"github.com/jhillyerd/enmime/v2", "github.com/emersion/go-message", "github.com/emersion/go-vcard", "github.com/microcosm-cc/bluemonday", "golang.org/x/net/html", "golang.org/x/text",
	"github.com/inbucket/html2text", "github.com/teambition/rrule-go", "github.com/cention-sany/utf7", "github.com/arran4/golang-ical", "github.com/yuin/goldmark", "github.com/ledongthuc/pdf", "github.com/xuri/excelize/v2", "github.com/emersion/go-msgauth/authres", "gonum.org/v1/gonum/mat", "gonum.org/v1/gonum/stat", "gonum.org/v1/gonum/stat/distuv",
}

// The core knows nobody: it imports itself, the standard library without
// network, files or a database, and helpers that parse.
func TestTheCoreImportsNobody(t *testing.T) {
	err := filepath.WalkDir(".", func(path string, d fs.DirEntry, err error) error {
		if err != nil || !d.IsDir() || path == "." || d.Name() == "testdata" {
			return err
		}
		if strings.Contains(path, "testdata") {
			return nil
		}
		pkg, err := build.ImportDir(path, 0)
		require.NoError(t, err, path)
		for _, name := range pkg.Imports {
			own := strings.HasPrefix(name, "ebbe.example/ebbe/internal/core/")
			helper := false
			for _, h := range helpers {
				helper = helper || strings.HasPrefix(name, h)
			}
			standard := !strings.Contains(strings.Split(name, "/")[0], ".")
			forbidden := name == "os" || name == "net" || name == "net/http" || name == "database/sql" || name == "log"
			assert.True(t, (own || helper || standard) && !forbidden, "%s imports %s", path, name)
		}
		return nil
	})
	require.NoError(t, err)
}
