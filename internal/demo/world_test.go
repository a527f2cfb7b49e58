package demo

import (
	"context"
	"io"
	"log/slog"
	"os"
	"path/filepath"
	"regexp"
	"slices"
	"strconv"
	"sync"
	"testing"
	"time"

	"github.com/jonboulle/clockwork"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"ebbe.example/ebbe/internal/app"
	"ebbe.example/ebbe/internal/core/findings"
	"ebbe.example/ebbe/internal/core/letter"
	"ebbe.example/ebbe/internal/core/when"
	"ebbe.example/ebbe/internal/show"
	"ebbe.example/ebbe/internal/store"
	"ebbe.example/ebbe/internal/work"
)

var (
	folder string
	once   sync.Once
	made   error
)

func TestMain(m *testing.M) {
	var err error
	if folder, err = os.MkdirTemp("", "demo"); err != nil {
		panic(err)
	}
	code := m.Run()
	_ = os.RemoveAll(folder)
	os.Exit(code)
}

// filled is a demo world that the tests share; none writes to it.
func filled(t *testing.T) string {
	t.Helper()
	file := filepath.Join(folder, "demo.db")
	once.Do(func() { made = Fill(context.Background(), file, io.Discard) })
	require.NoError(t, made)
	return file
}

// letters are all that Ines has received, and when.
func letters(t *testing.T) (out []letter.Letter, at []time.Time) {
	t.Helper()
	s, err := store.Open(filled(t))
	require.NoError(t, err)
	defer s.Close()
	require.NoError(t, s.Read(t.Context(), store.Own(1), func(tx *store.Tx) error {
		list, err := tx.Exported(nil, "", false)
		if err != nil {
			return err
		}
		for _, e := range list {
			raw, err := tx.Original(e.ID)
			if err != nil {
				return err
			}
			l := letter.Parse(raw)
			if slices.ContainsFunc(accounts, func(a store.Account) bool { return a.Address == l.From.Key() }) {
				continue
			}
			out, at = append(out, l), append(at, l.ReceivedAt(e.ReceivedAt, e.ReceivedAt))
		}
		return nil
	}))
	return out, at
}

func TestTheWorldIsLivedInAsAnOfficeIs(t *testing.T) {
	all, at := letters(t)
	assert.InDelta(t, 4000, len(all), 200)
	byDay := map[when.Date]int{}
	office, weekend := 0, 0
	c := calendar()
	for _, a := range at {
		local := a.In(c.Zone)
		byDay[c.Today(a)]++
		if local.Hour() >= 7 && local.Hour() < 18 {
			office++
		}
		if d := local.Weekday(); d == time.Saturday || d == time.Sunday {
			weekend++
		}
	}
	assert.GreaterOrEqual(t, len(byDay), 54, "letters come nearly every day of eight weeks")
	assert.Greater(t, office*10, len(all)*7, "most come by day")
	assert.Less(t, weekend*10, len(all)*2, "few at weekends")
	least, most := len(all), 0
	for d, n := range byDay {
		if w := d.Weekday(); w != time.Saturday && w != time.Sunday && d != today {
			least, most = min(least, n), max(most, n)
		}
	}
	assert.Greater(t, most, least*2, "there are odd days")
}

func TestTheWorldsLettersAreAsVariedAsRealOnes(t *testing.T) {
	all, _ := letters(t)
	have := map[string]int{}
	for _, l := range all {
		for _, p := range l.Parts {
			have[p.ContentType]++
		}
		have["seal:"+l.Seal.Kind]++
		have["automatic:"+string(l.Automatic)]++
		if l.Report != nil {
			have["report:"+string(l.Report.Kind)]++
		}
		for name, is := range map[string]bool{
			"html": l.HTML != "", "no message-id": l.MessageID == "", "no date": l.Date.IsZero(), "damaged": l.Damage != "",
			"receipt": len(l.ReadReceiptTo) > 0, "long thread": len(l.References) > 3,
		} {
			if is {
				have[name]++
			}
		}
		for _, r := range l.Text {
			switch {
			case r >= 0x400 && r < 0x500:
				have["cyrillic"]++
			case r >= 0x3040 && r < 0x3100:
				have["japanese"]++
			case r == '\uFFFD':
				have["unreadable"]++
			}
		}
	}
	for _, want := range []string{
		"html", "cyrillic", "japanese", "long thread", "receipt", "no message-id", "image/png", "application/pdf", "text/calendar", "text/csv", "message/rfc822",
		"seal:signed", "automatic:list", "automatic:auto-reply", "automatic:meeting-answer", "automatic:generated", "report:failed",
	} {
		assert.Positive(t, have[want], want)
	}
	assert.Zero(t, have["unreadable"], "every charset is read")
}

func TestLettersKeepComing(t *testing.T) {
	s, err := store.Open(filepath.Join(t.TempDir(), "ahead.db"))
	require.NoError(t, err)
	defer s.Close()
	morning := calendar().Instant(today, when.At(8, 20))
	bag := func(now, until time.Time) int {
		require.NoError(t, Foresee(t.Context(), s, now))
		n := 0
		for id := int64(1); ; id++ {
			b, err := s.Bagged(t.Context(), id)
			if err != nil || len(b.Data) == 0 {
				return n
			}
			if b.Due.Before(until) {
				n++
			}
		}
	}
	week := bag(morning, morning.AddDate(0, 0, 7))
	assert.Greater(t, week, 100)
	assert.Equal(t, week, bag(morning, morning.AddDate(0, 0, 7)), "none twice")
	assert.Greater(t, bag(morning.AddDate(0, 0, 7), morning.AddDate(0, 0, 14)), week+100, "as the clock moves, more")
}

// People write as people do: hardly a sentence twice, days and weeks that fit
// the calendar; and of the demo's day only the post has something to tell.
func TestTheWorldIsTrueToLife(t *testing.T) {
	all, at := letters(t)
	c := calendar()
	subjects, said, machines := map[string]int{}, map[string]int{}, map[string]bool{}
	people := 0
	inWeek := regexp.MustCompile(`\bweek (\d+)\b`)
	for i, l := range all {
		if l.Automatic.Is() {
			machines[l.From.Email] = true
			continue
		}
		people++
		subjects[l.From.Email+": "+letter.BareSubject(l.Subject)]++
		ask, _ := findings.Ask(l.Text)
		said[l.From.Email+": "+ask]++
		for _, m := range inWeek.FindAllStringSubmatch(l.Subject, -1) {
			_, week := at[i].In(c.Zone).ISOWeek()
			n, _ := strconv.Atoi(m[1])
			assert.InDelta(t, week, n, 5, "%s of %s", l.Subject, at[i])
		}
	}
	assert.GreaterOrEqual(t, len(machines), 35)
	for what, n := range said {
		assert.LessOrEqual(t, n*50, people, "%q", what)
	}
	for what, n := range subjects {
		assert.LessOrEqual(t, n*50, people, "%q", what)
	}
	s, err := store.Open(filled(t))
	require.NoError(t, err)
	defer s.Close()
	a := app.New(s, clockwork.NewFakeClockAt(c.Instant(today, when.At(8, 20))), slog.New(slog.DiscardHandler))
	journal, err := a.Journal(t.Context(), store.Own(1), show.JournalAsk{})
	require.NoError(t, err)
	require.NotEmpty(t, journal)
	for _, e := range journal {
		if e.Day == today.String() {
			assert.NotEqual(t, work.ByPerson, e.Actor, e.Title)
		}
	}
}
