package post

import (
	"path/filepath"
	"strings"
	"testing"
	"time"

	"pgregory.net/rapid"
)

// A name of a letter is a name in every file system, whatever the subject is: it stays
// in its folder, hides nothing, and is the same once it was made so.
func TestNamesStayInTheirFolder(t *testing.T) {
	at := time.Date(2026, 11, 24, 7, 0, 0, 0, time.UTC)
	rapid.Check(t, func(rt *rapid.T) {
		subject := rapid.OneOf(rapid.String(), rapid.SampledFrom([]string{"..", "../../etc/passwd", "C:\\x", ".hidden", "con", "a/b", "\x00", "  ", "end. . ", strings.Repeat("../", 90)})).Draw(rt, "subject")
		name := FileName(subject)
		switch {
		case name == "" || name == "." || name == "..":
			rt.Fatalf("%q is no name", name)
		case strings.ContainsAny(name, "/\\:*?\"<>|\x00") || filepath.Base(name) != name:
			rt.Fatalf("%q leaves its folder", name)
		case strings.HasPrefix(name, ".") || strings.HasSuffix(name, ".") || strings.HasSuffix(name, " "):
			rt.Fatalf("%q is hidden, or cut by some file systems", name)
		case FileName(name) != name:
			rt.Fatalf("%q becomes %q", name, FileName(name))
		}
		if l := LetterName(7, 0, at, subject); filepath.Dir(l) != "." || !strings.HasSuffix(l, ".eml") {
			rt.Fatalf("%q is no name of a letter", l)
		}
	})
}
