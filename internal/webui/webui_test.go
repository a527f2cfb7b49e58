package webui_test

import (
	"io/fs"
	"regexp"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"ebbe.example/ebbe/internal/webui"
)

// mostScript is how much packed script the page may need before it can be drawn.
const mostScript = 160 << 10

var (
	scripts = regexp.MustCompile(`assets/[\w.-]+\.js`)
	imports = regexp.MustCompile(`(?:from|import)\s*"\./([\w.-]+\.js)"`)
)

// What the page needs at first stays small, with all that it imports; the rest is
// fetched once it is drawn.
func TestThePageIsSmall(t *testing.T) {
	page, err := fs.ReadFile(webui.Files(), "index.html")
	require.NoError(t, err)
	needed := map[string]bool{}
	var need func(name string)
	need = func(name string) {
		if needed[name] {
			return
		}
		needed[name] = true
		text, err := fs.ReadFile(webui.Files(), name)
		require.NoError(t, err)
		for _, found := range imports.FindAllStringSubmatch(string(text), -1) {
			need("assets/" + found[1])
		}
	}
	for _, name := range scripts.FindAllString(string(page), -1) {
		need(name)
	}
	require.NotEmpty(t, needed)
	var size int64
	for name := range needed {
		info, err := fs.Stat(webui.Files(), name+".br")
		require.NoError(t, err, "it is packed ready-made")
		size += info.Size()
	}
	assert.LessOrEqual(t, size, int64(mostScript))
}

// What is kept for good under its name has a name that its contents give it, so that
// a changed one arrives.
func TestWhatIsKeptForGoodIsNamedByItsContents(t *testing.T) {
	hashed := regexp.MustCompile(`-[\w-]{8}\.\w+(\.br|\.gz)?$`)
	entries, err := fs.ReadDir(webui.Files(), "assets")
	require.NoError(t, err)
	for _, e := range entries {
		assert.Regexp(t, hashed, e.Name())
		if strings.HasSuffix(e.Name(), ".js") || strings.HasSuffix(e.Name(), ".css") {
			for _, packed := range []string{".br", ".gz"} {
				_, err := fs.Stat(webui.Files(), "assets/"+e.Name()+packed)
				assert.NoError(t, err)
			}
		}
	}
}
