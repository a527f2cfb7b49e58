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
	"time"

	"github.com/jonboulle/clockwork"

	"ebbe.example/ebbe/internal/app"
	"ebbe.example/ebbe/internal/core/when"
	"ebbe.example/ebbe/internal/store"
)

// nils has been away for a year, and has not looked at a letter since.
var nils = person("Nils Aamodt", "nils@norrholm.example")

const (
	// undecided is how many letters wait for him, away for how many days they came.
	undecided, away = 6400, 400
	lateSeed        = 11
	// farewells is how many he wrote to before.
	farewells = 30
)

// FillLate adds somebody to a demo world who begins with thousands of undecided letters, unless he is
// there.
func FillLate(ctx context.Context, file string, out io.Writer) error {
	s, err := store.Open(file)
	if err != nil {
		return err
	}
	defer func() { _ = s.Close() }()
	people, err := s.People(ctx)
	if err != nil || slices.ContainsFunc(people, func(p store.Person) bool { return p.SignIn == nils.Email }) {
		return err
	}
	fmt.Fprintf(out, "Bringing %s’s %d letters …\n", nils.Name, undecided)
	folder, err := os.MkdirTemp("", "ebbe-late")
	if err != nil {
		return err
	}
	defer func() { _ = os.RemoveAll(folder) }()
	if err := writeLate(folder); err != nil {
		return err
	}
	who, err := s.AddPerson(ctx, store.Person{Name: nils.Name, SignIn: nils.Email, Zone: zoneName}, []store.Account{{Address: nils.Email, Name: nils.Name, Label: "Work"}}, Begins())
	if err != nil {
		return err
	}
	a := app.New(s, clockwork.NewFakeClockAt(Begins()), slog.New(slog.DiscardHandler))
	if _, err := a.ImportNow(ctx, who, app.Importing{Command: "demo-late-import", Name: "A year of letters", Path: folder, InboxDays: away + 1}, nil); err != nil {
		return err
	}
	return s.Relax(ctx)
}

// writeLate writes his letters into a folder, the same ones each time.
func writeLate(folder string) error {
	r := dice(lateSeed, today, "late")
	c := calendar()
	write := func(n int, m message) error {
		raw, err := m.bytes(int64(n))
		if err != nil {
			return fmt.Errorf("%q: %w", m.subject, err)
		}
		return os.WriteFile(filepath.Join(folder, fmt.Sprintf("%05d.eml", n)), raw, 0o600)
	}
	for n := range farewells { // before he went, he wrote to some of them
		s := cast.senders[n%len(cast.senders)]
		day := today.Add(-away - 10 - n)
		if s.machine() {
			continue
		}
		if err := write(undecided+n, message{id: fmt.Sprint("late-own-", n), from: nils, to: s.from, subject: "I am away for a year", text: "From next week on I am away. Please ask Ines in the meantime.\n\nNils", at: c.Instant(day, when.At(9, n))}); err != nil {
			return err
		}
	}
	for n := range undecided {
		s := cast.senders[r.IntN(len(cast.senders))]
		day := today.Add(-1 - n*away/undecided)
		m := s.compose(s.topic(r), fill(r, day))
		if m.attach = nil; m.style == "future" || m.style == "bare" { // files would take a minute, and what has no date came today
			m.style = ""
		}
		m.id, m.to, m.at = fmt.Sprint("late-", n), nils, c.Instant(day, when.At(6+r.IntN(14), r.IntN(60))).Add(time.Duration(n)*time.Millisecond)
		m.text = strings.ReplaceAll(m.text, ines.FirstName(), nils.FirstName())
		if err := write(n, m); err != nil {
			return err
		}
	}
	return nil
}
