package demo

import (
	"context"
	"fmt"
	"io"
	"log/slog"
	"os"
	"path/filepath"
	"slices"
	"strings"
	"testing"
	"time"

	"github.com/jonboulle/clockwork"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"ebbe.example/ebbe/internal/app"
	"ebbe.example/ebbe/internal/core/decide"
	"ebbe.example/ebbe/internal/core/letter"
	"ebbe.example/ebbe/internal/store"
)

// summary says what a world holds: every row of every place.
func summary(t *testing.T, file string) (lines []string, s *store.Store) {
	t.Helper()
	s, err := store.Open(file)
	require.NoError(t, err)
	a := app.New(s, clockwork.NewFakeClockAt(calendar().Instant(today, 8*60+20)), slog.New(slog.DiscardHandler))
	for _, place := range []decide.Place{decide.Inbox, decide.Later, decide.Archive, decide.Bin, decide.Junk} {
		for cursor := ""; ; {
			page, err := a.List(t.Context(), store.Own(1), place, false, 0, cursor)
			require.NoError(t, err)
			for _, r := range page.Rows {
				lines = append(lines, fmt.Sprint(place, r.ID, r.Title, r.From, r.Ask, r.Letters, r.At, r.Back, r.Return, r.Labels))
			}
			if cursor = page.Next; cursor == "" {
				break
			}
		}
	}
	return lines, s
}

func TestTheWorldIsTheSameEachTimeAndSound(t *testing.T) {
	var worlds [2][]string
	for i, file := range []string{filled(t), filepath.Join(t.TempDir(), "demo.db")} {
		require.NoError(t, Fill(context.Background(), file, io.Discard))
		lines, s := summary(t, file)
		worlds[i] = lines
		problems, err := s.Check(t.Context())
		require.NoError(t, err)
		assert.Empty(t, problems)
		require.NoError(t, s.Close())
		if i == 0 {
			// A world that is there is left alone.
			before, err := os.Stat(file)
			require.NoError(t, err)
			require.NoError(t, Fill(context.Background(), file, io.Discard))
			after, err := os.Stat(file)
			require.NoError(t, err)
			assert.Equal(t, before.ModTime(), after.ModTime())
			left, err := filepath.Glob(file + ".part*")
			require.NoError(t, err)
			assert.Empty(t, left, "no half world is left")
		}
	}
	assert.Equal(t, worlds[0], worlds[1])
	assert.Greater(t, len(worlds[0]), 500)
	inbox := slices.IndexFunc(worlds[0], func(l string) bool { return !strings.HasPrefix(l, "inbox") })
	assert.InDelta(t, 30, inbox, 15, "a morning's inbox")
}

func TestEveryAddressIsMadeUp(t *testing.T) {
	check := func(a letter.Address) {
		assert.True(t, strings.HasSuffix(a.Email, ".example"), a.Email)
	}
	for _, c := range currents {
		check(c.from)
		check(c.to)
	}
	for _, s := range cast.senders {
		check(s.from)
	}
	for _, host := range mailHosts {
		assert.True(t, strings.HasSuffix(host, ".example"), host)
	}
	for kind, some := range walkIns {
		for _, m := range some {
			if kind != "failure" && kind != "answer" {
				check(m.from)
				check(m.to)
			}
		}
	}
}

func TestTheWorldsLettersAreOfManyKinds(t *testing.T) {
	kinds := map[string]bool{}
	for i, c := range currents {
		m := c.message
		m.id, m.at = fmt.Sprint(i), time.Date(2026, 11, 24, 8, 0, 0, 0, time.UTC)
		raw, err := m.bytes(int64(i))
		require.NoError(t, err)
		again, err := m.bytes(int64(i))
		require.NoError(t, err)
		assert.Equal(t, raw, again, "the same bytes each time")
		l := letter.Parse(raw)
		assert.Empty(t, l.Damage, m.subject)
		kinds["html"] = kinds["html"] || l.HTML != ""
		kinds["plain"] = kinds["plain"] || l.HTML == ""
		kinds["automatic"] = kinds["automatic"] || l.Automatic.Is()
		for _, p := range l.Parts {
			kinds[p.ContentType] = true
			kinds["inline"] = kinds["inline"] || p.Inline
		}
	}
	for _, want := range []string{"html", "plain", "automatic", "application/pdf", "image/png", "inline"} {
		assert.True(t, kinds[want], want)
	}
}

// What is sent in by hand can be read, whatever its kind.
func TestWalkInsCanBeRead(t *testing.T) {
	for kind, some := range walkIns {
		for i, m := range some {
			if m.from.Email == "" {
				continue // made from what waits
			}
			m.id, m.at = fmt.Sprint(kind, i), time.Date(2026, 11, 24, 9, 0, 0, 0, time.UTC)
			raw, err := m.bytes(int64(i))
			require.NoError(t, err)
			l := letter.Parse(raw)
			assert.Empty(t, l.Damage, m.subject)
			assert.Equal(t, m.subject, l.Subject)
		}
	}
}

func TestCorrespondentsAnswerPeopleOnly(t *testing.T) {
	sent := time.Date(2026, 11, 24, 9, 0, 0, 0, time.UTC)
	l := letter.Letter{MessageID: "m@norrholm.example", From: ines, Subject: "Crates"}
	answers := Correspondents{}.Answer(bram.Email, l, sent)
	require.Len(t, answers, 1)
	got := letter.Parse(answers[0].Raw)
	assert.Equal(t, []string{"m@norrholm.example"}, got.InReplyTo)
	assert.Equal(t, "Re: Crates", got.Subject)
	assert.Equal(t, got.MessageID, letter.Parse(Correspondents{}.Answer(bram.Email, l, sent)[0].Raw).MessageID, "a repeat is the same letter")
	assert.Equal(t, letter.AutoReply, letter.Parse(Correspondents{}.Answer(henrik.Email, l, sent)[0].Raw).Automatic)
	assert.Empty(t, Correspondents{}.Answer(kestrel.Email, l, sent), "some never answer")
	l.Automatic = letter.AutoReply
	assert.Empty(t, Correspondents{}.Answer(bram.Email, l, sent), "a machine gets no answer")
}
