package post

import (
	"bytes"
	"errors"
	"fmt"
	"io"
	"strings"
	"testing"
	"testing/iotest"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"
)

func read(text string, quoting ...Quoting) (out []string, last error) {
	for e, err := range Mbox(strings.NewReader(text), append(quoting, QuotedRD)[0]) {
		if err != nil {
			last = err
			continue
		}
		out = append(out, string(e.Raw))
	}
	return out, last
}

func TestTheOlderQuotingLeavesWhatItNeverMade(t *testing.T) {
	got, err := read("From a\n\n>From b\n>>From c\n", QuotedO)
	assert.NoError(t, err)
	assert.Equal(t, []string{"\nFrom b\n>>From c\n"}, got)
}

func TestMbox(t *testing.T) {
	cases := []struct {
		name, text string
		want       []string
	}{
		{"empty", "", nil},
		{"no letter in it", "hello\nworld\n", nil},
		{"one", "From a@b\nSubject: x\n\nbody\n", []string{"Subject: x\n\nbody\n"}},
		{"two", "From a\nA: 1\n\none\n\nFrom b\nB: 2\n\ntwo\n", []string{"A: 1\n\none\n", "B: 2\n\ntwo\n"}},
		{"carriage returns", "From a\r\nA: 1\r\n\r\none\r\n\r\nFrom b\r\nB: 2\r\n\r\ntwo\r\n", []string{"A: 1\r\n\r\none\r\n", "B: 2\r\n\r\ntwo\r\n"}},
		{"From inside a paragraph", "From a\nA: 1\n\nand\nFrom here on\n", []string{"A: 1\n\nand\nFrom here on\n"}},
		{"quoted From", "From a\nA: 1\n\n>From b\n>>From c\n> From d\n", []string{"A: 1\n\nFrom b\n>From c\n> From d\n"}},
		{"no last line end", "From a\nA: 1\n\nend", []string{"A: 1\n\nend"}},
		{"trailing empty line", "From a\nA: 1\n\nend\n\n", []string{"A: 1\n\nend\n"}},
	}
	for _, c := range cases {
		got, err := read(c.text)
		assert.NoError(t, err, c.name)
		assert.Equal(t, c.want, got, c.name)
	}
}

func TestMboxTellsOfABrokenFile(t *testing.T) {
	broken := iotest.TimeoutReader(iotest.OneByteReader(strings.NewReader("From a\nA: 1\n\nx\n")))
	var last error
	for _, err := range Mbox(broken, QuotedRD) {
		last = err
	}
	assert.ErrorIs(t, last, iotest.ErrTimeout)
	assert.False(t, errors.Is(last, ErrTooLarge))
}

// Written as mboxrd and read again, letters are the same bytes; and written
// once more, the files are.
func TestMboxRoundTrip(t *testing.T) {
	line := rapid.SampledFrom([]string{"", "x", "From here", ">From", ">From x", ">>From y", "Subject: z", "end ", "carriage\r", "\r"})
	rapid.Check(t, func(rt *rapid.T) {
		var want []string
		var file, again bytes.Buffer
		at := time.Date(2026, 11, 24, 7, 0, 0, 0, time.UTC)
		for range rapid.IntRange(1, 4).Draw(rt, "letters") {
			text := "Subject: a\n\n" + strings.Join(rapid.SliceOfN(line, 0, 6).Draw(rt, "lines"), "\n") + "\n"
			want = append(want, text)
			if err := WriteMbox(&file, []byte(text), "a@b.example", at); err != nil {
				rt.Fatal(err)
			}
		}
		got, err := read(file.String())
		if err != nil {
			rt.Fatal(err)
		}
		if strings.Join(got, "\x00") != strings.Join(want, "\x00") {
			rt.Fatalf("got %q, want %q", got, want)
		}
		for _, text := range got {
			if err := WriteMbox(&again, []byte(text), "a@b.example", at); err != nil {
				rt.Fatal(err)
			}
		}
		if again.String() != file.String() {
			rt.Fatalf("got %q, want %q", again.String(), file.String())
		}
	})
}

func FuzzMbox(f *testing.F) {
	f.Add("From a\nA: 1\n\n>From b\n")
	f.Fuzz(func(_ *testing.T, text string) { _, _ = read(text) })
}

// Files as the world writes them: no empty line between letters, lengths, marks
// before the first one.
func TestMboxOfTheWorld(t *testing.T) {
	const from = "From a@x.example Tue Nov 24 08:00:00 2026\n"
	body := "one\n\nFrom here on it is text\n\nFrom b@x.example Tue Nov 24 08:00:00 2026\nX: not a letter\n\nlast\n"
	counted := func(n int) string { return fmt.Sprintf("A: 1\nContent-Length: %d\n\n", n) }
	cases := []struct {
		name, text string
		want       []string
	}{
		{"no empty line between", from + "A: 1\n\none\n" + from + "B: 2\n\ntwo\n" + from + "C: 3\n\nthree\n", []string{"A: 1\n\none\n", "B: 2\n\ntwo\n", "C: 3\n\nthree\n"}},
		{"no empty line, other line ends", strings.ReplaceAll(from+"A: 1\n\none\n"+from+"B: 2\n\ntwo\n", "\n", "\r\n"), []string{"A: 1\r\n\r\none\r\n", "B: 2\r\n\r\ntwo\r\n"}},
		{"a date, but no header", from + "A: 1\n\nyou wrote\n" + from + "nothing\n", []string{"A: 1\n\nyou wrote\n" + from + "nothing\n"}},
		{"a header, but no date", from + "A: 1\n\nsee\nFrom the garden\nNote: this\n", []string{"A: 1\n\nsee\nFrom the garden\nNote: this\n"}},
		{"a byte order mark", "\ufeff" + from + "A: 1\n\none\n", []string{"A: 1\n\none\n"}},
		{"empty lines first", "\n\r\n \n" + from + "A: 1\n\none\n", []string{"A: 1\n\none\n"}},
		{"lengths", from + counted(len(body)) + body + "\n" + from + "B: 2\n\ntwo\n", []string{counted(len(body)) + body, "B: 2\n\ntwo\n"}},
		{"lengths without an empty line", from + counted(len(body)) + body + from + "B: 2\n\ntwo\n", []string{counted(len(body)) + body, "B: 2\n\ntwo\n"}},
		{"the last one, by length", from + counted(len(body)) + body, []string{counted(len(body)) + body}},
		{"quoted, by length", from + counted(len(">From x\nend\n")) + ">From x\nend\n\n" + from + "B: 2\n\ntwo\n", []string{counted(12) + "From x\nend\n", "B: 2\n\ntwo\n"}},
		{"a length that is wrong", from + counted(3) + "one\ntwo\n\n" + from + "B: 2\n\ntwo\n", []string{counted(3) + "one\ntwo\n", "B: 2\n\ntwo\n"}},
		{"a length beyond the end", from + counted(9999) + "one\n\n" + from + "B: 2\n\ntwo\n", []string{counted(9999) + "one\n", "B: 2\n\ntwo\n"}},
		{"a length of nothing", from + counted(0) + "\n" + from + "B: 2\n\ntwo\n", []string{counted(0), "B: 2\n\ntwo\n"}},
	}
	for _, c := range cases {
		for _, r := range []io.Reader{strings.NewReader(c.text), iotest.OneByteReader(strings.NewReader(c.text))} {
			var got []string
			for e, err := range Mbox(r, QuotedRD) {
				assert.NoError(t, err, c.name)
				got = append(got, string(e.Raw))
				assert.Equal(t, c.name == "a date, but no header", e.Doubt != "", c.name)
			}
			assert.Equal(t, c.want, got, c.name)
		}
	}
}

// However many letters have a length that does not fit, none costs more than
// its own bytes; and large ones come whole.
func TestLargeAndManyLetters(t *testing.T) {
	var file bytes.Buffer
	for range 3000 {
		file.WriteString("From a Tue Nov 24 08:00:00 2026\nA: 1\nContent-Length: 70000\n\nshort\n\n")
	}
	large := "B: 2\n\n" + strings.Repeat(strings.Repeat("x", 999)+"\n", 12_000)
	file.WriteString("From b Tue Nov 24 08:00:00 2026\n" + large)
	got, err := read(file.String())
	require.NoError(t, err)
	require.Len(t, got, 3001)
	assert.Equal(t, large, got[3000])
	raw, err := Gather(strings.NewReader(large))
	require.NoError(t, err)
	assert.Equal(t, large, string(raw))
}
