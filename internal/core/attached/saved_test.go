package attached_test

import (
	"path"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"ebbe.example/ebbe/internal/core/attached"
	"ebbe.example/ebbe/internal/core/letter"
)

func TestPath(t *testing.T) {
	bill := attached.File{Name: "bill.PDF", From: letter.Address{Name: "Bram / Sons", Email: "Bram@Freight.example"}, Subject: "Invoice: 1187?", At: time.Date(2026, 11, 4, 8, 20, 0, 0, time.UTC)}
	named := func(name string) attached.File { f := bill; f.Name = name; return f }
	for _, c := range []struct {
		f             attached.File
		pattern, want string
	}{
		{bill, "", "2026-11-04 bill.PDF"},
		{bill, "{year}/{month} {sender}/{name}", "2026/2026-11 Bram - Sons/bill.PDF"},
		{bill, "{subject}", "Invoice- 1187-.PDF"},
		{bill, "{address}", "bram@freight.example.PDF"},
		{bill, "../../{name}", "bill.PDF"},
		{bill, "/etc//{name}/", "etc/bill.PDF"},
		{bill, "a.pdf", "a.pdf"},
		{named("../../etc/passwd"), "{name}", "-..-etc-passwd"},
		{named("..\\con.txt"), "{name}", "-con.txt"},
		{named("CON.txt"), "{name}", "_CON.txt"},
		{named("photo\u202egpj.exe"), "{name}", "photogpj.exe"},
		{named(" .hidden. "), "{name}", "hidden"},
		{named(""), "{name}", "file"},
		{named("a\x00b\nc.txt"), "{name}", "abc.txt"},
		{named(strings.Repeat("ø", 200) + ".tar"), "{name}", strings.Repeat("ø", 73) + ".tar"},
	} {
		assert.Equal(t, c.want, c.f.Path(c.pattern), "%q by %q", c.f.Name, c.pattern)
	}
}

func TestCheckPattern(t *testing.T) {
	for pattern, ok := range map[string]bool{"": true, "{name}": true, "Bills/{month} {name}": true, "{nme}": false, "{name": false, "name}": false, "{{name}}": false, strings.Repeat("x", 201): false} {
		assert.Equal(t, ok, attached.CheckPattern(pattern) == nil, pattern)
	}
	for _, f := range attached.Fields {
		assert.NoError(t, attached.CheckPattern("{"+f.Name+"}"))
	}
}

// Whatever a letter says, its files stay within the folder, and have names that can be written.
func TestPathsLeadNowhereElse(t *testing.T) {
	text := rapid.StringMatching(`[a-z./\\:*{} \x00\n\x{202e}日CON-]{0,40}`)
	rapid.Check(t, func(t *rapid.T) {
		f := attached.File{Name: text.Draw(t, "name"), Subject: text.Draw(t, "subject"), From: letter.Address{Name: text.Draw(t, "sender")}}
		p := f.Path(rapid.SampledFrom([]string{"", "{name}", "{subject}/{sender}/{name}", "{sender}{subject}"}).Draw(t, "pattern") + text.Draw(t, "more"))
		require.Equal(t, path.Clean(p), p)
		require.False(t, path.IsAbs(p) || p == "." || strings.HasPrefix(p, ".."), p)
		for part := range strings.SplitSeq(p, "/") {
			require.NotContains(t, []string{"", ".", ".."}, part)
			require.LessOrEqual(t, len(part), 255)
			require.NotContains(t, part, "\x00")
		}
	})
}
