package post

import (
	"bytes"
	"errors"
	"strings"
	"testing"
	"testing/iotest"
	"time"

	"github.com/stretchr/testify/assert"
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
