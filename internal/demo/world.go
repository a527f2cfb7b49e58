package demo

import (
	"context"
	"fmt"
	"io"
	"log/slog"
	"math/rand/v2"
	"os"
	"slices"
	"strings"
	"time"

	"github.com/jonboulle/clockwork"

	"ebbe.example/ebbe/internal/app"
	"ebbe.example/ebbe/internal/core/decide"
	"ebbe.example/ebbe/internal/core/followup"
	"ebbe.example/ebbe/internal/core/letter"
	"ebbe.example/ebbe/internal/core/waiting"
	"ebbe.example/ebbe/internal/core/when"
	"ebbe.example/ebbe/internal/store"
)

// Fill makes the demo world in the file, unless one is there. The world is
// lived through: letters arrive and are decided on a clock of their own, so
// that history, Journal and places are as if it had happened. It is made under
// another name first; half a world is never left behind.
func Fill(ctx context.Context, file string, out io.Writer) error {
	if _, err := os.Stat(file); err == nil {
		return nil
	}
	fmt.Fprintln(out, "Making the demo world …")
	began := time.Now()
	part := file + ".part"
	for _, end := range []string{"", "-wal", "-shm"} {
		_ = os.Remove(part + end) // what an attempt that was cut off has left
	}
	s, err := store.Open(part)
	if err != nil {
		return err
	}
	if err := s.Relax(ctx); err != nil {
		return err
	}
	n, err := Live(ctx, s)
	if err != nil {
		_ = s.Close()
		return err
	}
	if err := s.SetClockOffset(ctx, time.Until(calendar().Instant(today, when.At(8, 20)))); err != nil {
		return err
	}
	if err := s.Close(); err != nil {
		return err
	}
	fmt.Fprintf(out, "%d letters in %.1f s.\n", n, time.Since(began).Seconds())
	return os.Rename(part, file)
}

// Live fills an empty store with the demo world and returns the number of
// letters. The same store content comes out each time.
func Live(ctx context.Context, s *store.Store) (int, error) {
	c := calendar()
	first := today.Add(-22) // three weeks before, a Monday
	clock := clockwork.NewFakeClockAt(c.Instant(first, when.At(6, 0)))
	owner, err := s.AddPerson(ctx, store.Person{Name: ines.Name, SignIn: ines.Email, Zone: zoneName}, accounts, clock.Now())
	if err != nil {
		return 0, err
	}
	w := &world{
		ctx: ctx, app: app.New(s, clock, slog.New(slog.DiscardHandler)), clock: clock, owner: owner, cal: c,
		// A fixed seed: the world is the same each time.
		rand: rand.New(rand.NewPCG(7, 11)), //nolint:gosec
	}
	w.app.Sender = nowhere{}
	for day := first; !today.Before(day); day = day.Add(1) {
		if err := w.live(day); err != nil {
			return w.letters, err
		}
	}
	return w.letters, w.finish()
}

// nowhere takes letters while the world is made; nobody answers them.
type nowhere struct{}

func (nowhere) Send(context.Context, string, []string, []byte) error { return nil }

type world struct {
	ctx     context.Context
	app     *app.App
	clock   *clockwork.FakeClock
	cal     when.Calendar
	owner   int64
	rand    *rand.Rand
	letters int
	steps   int
	fates   map[string]fate // by Message-ID, for the next sitting
}

// fate is what Ines does with a letter.
type fate struct {
	kind    byte
	replies string
}

// until moves the clock and lets happen what falls due.
func (w *world) until(d when.Date, m int) error {
	t := w.cal.Instant(d, when.Minute(m))
	if t.After(w.clock.Now()) {
		w.clock.Advance(t.Sub(w.clock.Now()))
	}
	_, err := w.app.RunDue(w.ctx)
	return err
}

// command makes ids that are the same each time.
func (w *world) command() string {
	w.steps++
	return fmt.Sprintf("demo-command-%d", w.steps)
}

type arrival struct {
	message
	minute int
	fate   fate
	latin  bool
}

// live lets one day pass: letters come with the rhythm of an office, and are
// decided in three sittings.
func (w *world) live(d when.Date) error {
	w.fates = map[string]fate{}
	letters := w.lettersOf(d)
	sittings := []int{8*60 + 45, 13*60 + 5, 16*60 + 40}
	if d == today {
		sittings = nil
	}
	for _, sit := range append(sittings, 24*60) {
		for len(letters) > 0 && letters[0].minute < sit {
			if err := w.arrive(d, letters[0]); err != nil {
				return err
			}
			letters = letters[1:]
		}
		if sit == 24*60 || d.Weekday() == time.Saturday || d.Weekday() == time.Sunday {
			continue
		}
		if err := w.sit(d, sit); err != nil {
			return err
		}
	}
	return w.evening(d)
}

// evening holds delivery for the last night, so that the demo begins with
// letters at the gate.
func (w *world) evening(d when.Date) error {
	if d != today.Add(-1) {
		return nil
	}
	if err := w.until(d, 23*60); err != nil {
		return err
	}
	_, err := w.app.Hold(w.ctx, w.owner, w.command(), "tomorrow 08:30")
	return err
}

func (w *world) lettersOf(d when.Date) []arrival {
	var out []arrival
	count := 36 + w.rand.IntN(12)
	if day := d.Weekday(); day == time.Saturday || day == time.Sunday {
		count = 6
	}
	if d == today {
		count = 0
	}
	for i := range count {
		out = append(out, w.draw(d, i))
	}
	for i, c := range currents {
		if d == w.workday(c.days) {
			m := c.message
			m.id = fmt.Sprintf("current-%d", i)
			out = append(out, arrival{message: m, minute: c.minute})
		}
	}
	slices.SortStableFunc(out, func(a, b arrival) int { return a.minute - b.minute })
	return out
}

// workday is the n-th working day before the demo's day.
func (w *world) workday(n int) when.Date {
	d := today
	for n > 0 {
		d = d.Add(-1)
		if day := d.Weekday(); day != time.Saturday && day != time.Sunday {
			n--
		}
	}
	return d
}

// draw makes one everyday letter.
func (w *world) draw(d when.Date, i int) arrival {
	total := 0
	for _, p := range patterns {
		total += p.per
	}
	at := w.rand.IntN(total)
	p := patterns[0]
	for _, p = range patterns {
		if at -= p.per; at < 0 {
			break
		}
	}
	fill := strings.NewReplacer("{n}", fmt.Sprint(20+w.rand.IntN(80)), "{k}", fmt.Sprint(1+w.rand.IntN(6)), "{t}", fmt.Sprintf("%.1f", 7+3*w.rand.Float64()),
		"{day}", dayNames[w.rand.IntN(len(dayNames))], "{plant}", plants[w.rand.IntN(len(plants))])
	m := message{
		id: fmt.Sprintf("%s-%d", d, i), from: p.from, to: p.to, subject: fill.Replace(p.subject), text: fill.Replace(p.texts[w.rand.IntN(len(p.texts))]),
		list: p.list, html: p.html, remote: p.remote, auto: p.auto,
	}
	if len(p.files) > 0 && strings.Contains(m.text, "ttached") {
		m.attach = p.files
	}
	if w.rand.IntN(12) == 0 {
		m.cc = []letter.Address{tove, henrik}
	}
	// Most letters come in the morning and after lunch.
	minute := 7*60 + int(180*(w.rand.NormFloat64()+1.2))
	if w.rand.IntN(3) == 0 {
		minute = 14*60 + int(70*w.rand.NormFloat64())
	}
	minute = min(max(minute, 10), 23*60)
	if p.auto != "" || p.list {
		minute = w.rand.IntN(22 * 60)
	}
	return arrival{message: m, minute: minute, fate: fate{p.fates[w.rand.IntN(len(p.fates))], fill.Replace(p.replies)}, latin: p.oldStyle}
}

func (w *world) arrive(d when.Date, a arrival) error {
	if err := w.until(d, a.minute); err != nil {
		return err
	}
	a.at = w.clock.Now()
	var raw []byte
	var err error
	if a.latin {
		raw = latin(a.message)
	} else if raw, err = a.bytes(int64(w.letters)); err != nil {
		return err
	}
	w.letters++
	if a.fate.kind != 0 {
		w.fates[a.subject+a.from.Email] = a.fate
	}
	return w.app.Receive(w.ctx, app.Incoming{Owner: w.owner, To: a.to.Email, Source: "smtp", Raw: raw, At: w.clock.Now()})
}

// sit decides what stands in the inbox, most of it.
func (w *world) sit(d when.Date, minute int) error {
	if err := w.until(d, minute); err != nil {
		return err
	}
	page, err := w.app.List(w.ctx, w.owner, decide.Inbox, true, 0, "")
	if err != nil {
		return err
	}
	last := w.workday(1)
	for i, row := range page.Rows {
		if err := w.until(d, minute+i/2); err != nil {
			return err
		}
		f, ok := w.fates[row.Title+row.From.Email]
		switch {
		case w.isCurrent(row): // stands undecided when the demo begins
			continue
		case !ok:
			f = fate{kind: 'd'}
		case d == last && w.rand.IntN(4) == 0, !last.Before(d) && w.rand.IntN(25) == 0:
			continue // left for another sitting
		}
		if err := w.decide(row, f); err != nil {
			return fmt.Errorf("%q: %w", row.Title, err)
		}
	}
	return nil
}

func (w *world) isCurrent(row app.Row) bool {
	return slices.ContainsFunc(currents, func(c current) bool { return c.subject == row.Title && c.from.Email == row.From.Email })
}

// decide carries out a fate: a answer, d done, l later, u follow up, w hand on
// and wait, f file, b bin, j junk.
func (w *world) decide(row app.Row, f fate) error {
	on := []store.Seen{{ID: row.ID, Last: row.Last}}
	d := app.Deciding{Command: w.command(), On: on}
	switch f.kind {
	case 'a', 'w':
		return w.send(row, f)
	case 'l':
		d.Kind, d.When = decide.PutOff, []string{"3d", "next week", "mon 10:00", "in 2 weeks", "fri 14:00", "wed", "thu 09:30"}[w.rand.IntN(7)]
	case 'u':
		d.Kind = decide.FollowUp
		due, priority := []string{"3d", "next week", "fri", "thu 15:00", "tue 12:00", "end of month"}[w.rand.IntN(6)], []followup.Priority{followup.High, followup.Normal, followup.Normal, followup.Low}[w.rand.IntN(4)]
		estimate := []int{10, 15, 30, 45}[w.rand.IntN(4)]
		d.FollowUp = &app.FollowUpFields{Due: &due, Priority: &priority, Estimate: &estimate}
	case 'f':
		d.Kind, d.Labels = decide.File, []string{[]string{"loans", "orangery", "walks", "seeds", "receipts"}[w.rand.IntN(5)]}
	case 'b':
		d.Kind = decide.ToBin
	case 'j':
		d.Kind = decide.ToJunk
	default:
		d.Kind = decide.Done
	}
	decided, err := w.app.Decide(w.ctx, w.owner, d)
	if err == nil && f.kind == 'u' && w.rand.IntN(10) < 6 {
		done := followup.Done
		_, err = w.app.EditFollowUp(w.ctx, w.owner, w.command(), decided.FollowUp, app.FollowUpFields{Status: &done})
	}
	return err
}

func (w *world) send(row app.Row, f fate) error {
	c, err := w.app.Open(w.ctx, w.owner, row.ID)
	if err != nil || len(c.Answer.To) == 0 {
		return err
	}
	s := app.Sending{
		Command: w.command(), Conversation: row.ID, Saw: row.Last,
		Writing: app.Writing{Kind: "answer", From: c.Answer.From, To: c.Answer.To, Subject: c.Answer.Subject, Text: f.replies + "\n\nInes\n", Letter: c.Answer.Letter},
	}
	if f.kind == 'w' {
		s.Kind, s.To, s.Subject, s.Text, s.Wait = "hand-on", []string{henrik.String()}, c.Answer.Forward, "Henrik, can you see to this?\n\nInes\n", "1w"
	} else if w.rand.IntN(14) == 0 {
		s.Wait = []string{"3d", "1w", "2w"}[w.rand.IntN(3)]
	}
	_, err = w.app.Send(w.ctx, w.owner, s)
	return err
}

type ownTask struct {
	title, due, remind string
	priority           followup.Priority
	minutes            int
}

// finish brings the clock to the demo's morning and adds what Ines has noted
// for herself.
func (w *world) finish() error {
	if err := w.until(today, 8*60+20); err != nil {
		return err
	}
	if err := w.tidy(); err != nil {
		return err
	}
	for _, t := range []ownTask{
		{"Send the lift height to Bram", "today 12:00", "today 11:30", followup.Urgent, 10},
		{"Sign form 7 and send it back", "today 15:00", "", followup.High, 20},
		{"Print the final list of walks", "today 17:00", "", followup.Normal, 10},
		{"Two pages on the seed exchange", "thu", "wed 14:00", followup.High, 90},
		{"Read the pollinator study", "fri", "", followup.Low, 40},
		{"Renew the seed-bank agreement", "mon", "", followup.Normal, 60},
		{"Ask for the old glasshouse plans", "someday", "", followup.Low, 15},
		{"Ideas for a night-scented border", "someday", "", followup.Low, 0},
	} {
		if _, err := w.app.NewFollowUp(w.ctx, w.owner, w.command(), app.FollowUpFields{
			Title: &t.title, Due: &t.due, Remind: &t.remind, Priority: &t.priority, Estimate: &t.minutes,
		}); err != nil {
			return fmt.Errorf("%q: %w", t.title, err)
		}
	}
	return nil
}

// tidy leaves one follow-up and one answer late; Ines keeps her lists short.
func (w *world) tidy() error {
	followUps, err := w.app.FollowUps(w.ctx, w.owner, false)
	if err != nil {
		return err
	}
	titles := map[string]bool{}
	late := 0
	for _, f := range followUps {
		if f.Late {
			late++
		}
		if f.Late && late > 1 || titles[f.Title] {
			done := followup.Done
			if _, err := w.app.EditFollowUp(w.ctx, w.owner, w.command(), f.ID, app.FollowUpFields{Status: &done}); err != nil {
				return err
			}
		}
		titles[f.Title] = true
	}
	expected, err := w.app.WaitingList(w.ctx, w.owner)
	if err != nil {
		return err
	}
	late = 0
	for _, e := range expected {
		if !e.Late {
			continue
		}
		if late++; late > 1 {
			met := waiting.Met
			if _, err := w.app.EditWaiting(w.ctx, w.owner, w.command(), e.ID, &met, nil); err != nil {
				return err
			}
		}
	}
	return nil
}
