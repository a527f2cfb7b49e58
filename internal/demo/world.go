package demo

import (
	"context"
	"fmt"
	"io"
	"log/slog"
	"math/rand/v2"
	"os"
	"slices"
	"time"

	"github.com/jonboulle/clockwork"

	"ebbe.example/ebbe/internal/app"
	"ebbe.example/ebbe/internal/core/delivery"
	"ebbe.example/ebbe/internal/core/letter"
	"ebbe.example/ebbe/internal/core/when"
	"ebbe.example/ebbe/internal/post"
	"ebbe.example/ebbe/internal/show"
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
	if err := Foresee(ctx, s, Begins()); err != nil {
		return err
	}
	if err := s.SetClockOffset(ctx, time.Until(Begins())); err != nil {
		return err
	}
	if err := s.Close(); err != nil {
		return err
	}
	fmt.Fprintf(out, "%d letters in %.1f s.\n", n, time.Since(began).Seconds())
	return os.Rename(part, file)
}

// Begins is when the demo begins for who opens it.
func Begins() time.Time { return calendar().Instant(today, when.At(8, 20)) }

// Live fills an empty store with the demo world and returns the number of
// letters. The same store content comes out each time.
func Live(ctx context.Context, s *store.Store) (int, error) {
	c := calendar()
	clock := clockwork.NewFakeClockAt(c.Instant(first, when.At(6, 0)))
	who, err := s.AddPerson(ctx, store.Person{Name: ines.Name, SignIn: ines.Email, Zone: zoneName}, accounts, clock.Now())
	if err != nil {
		return 0, err
	}
	w := &world{ctx: ctx, app: app.New(s, clock, slog.New(slog.DiscardHandler)), clock: clock, who: who, cal: c, rand: dice(seed, first, "life")}
	w.app.Sender = w
	w.app.NewID = w.newID
	for day := first; !today.Before(day); day = day.Add(1) {
		if err := w.live(day); err != nil {
			return w.letters, fmt.Errorf("%s: %w", day, err)
		}
	}
	if err := w.finish(); err != nil {
		return w.letters, err
	}
	return w.letters, w.app.Learn(ctx)
}

type world struct {
	ctx     context.Context
	app     *app.App
	clock   *clockwork.FakeClock
	cal     when.Calendar
	who     store.Who
	rand    *rand.Rand
	letters int
	steps   int
	fates   map[string]fate // by Message-ID, for the next sitting
	coming  []coming        // answers under way, in the order in which they come
	nothing time.Time       // until then nothing falls due
	ruleIDs [3]int64        // by their place among rules
}

// coming is an answer of a correspondent that is under way.
type coming struct {
	at       time.Time
	from, to string
	raw      []byte
}

// Send takes what Ines writes; her correspondents answer it.
func (w *world) Send(_ context.Context, e post.Envelope, raw []byte) ([]post.Outcome, error) {
	var out []post.Outcome
	for _, recipient := range e.To {
		out = append(out, post.Outcome{Recipient: recipient, Accepted: true})
		for _, c := range (Correspondents{}).Answer(recipient, letter.Parse(raw), w.clock.Now()) {
			w.coming = append(w.coming, coming{w.clock.Now().Add(c.After), c.From, c.To, c.Raw})
		}
	}
	slices.SortStableFunc(w.coming, func(a, b coming) int { return a.at.Compare(b.at) })
	return out, nil
}

// newID makes ids that are the same each time.
func (w *world) newID() string {
	w.steps++
	return fmt.Sprintf("demo%08d", w.steps)
}

// until moves the clock and lets happen what falls due.
func (w *world) until(d when.Date, m int) error {
	t := w.cal.Instant(d, when.Minute(m))
	for len(w.coming) > 0 && !w.coming[0].at.After(t) {
		c := w.coming[0]
		w.coming = w.coming[1:]
		if err := w.at(c.at); err != nil {
			return err
		}
		w.letters++
		if err := w.app.Receive(w.ctx, app.Incoming{Inbox: w.who.Inbox, To: c.to, Source: "smtp", Raw: c.raw, At: w.clock.Now(), ReturnPath: &c.from}); err != nil {
			return err
		}
	}
	return w.at(t)
}

// at moves the clock forward and lets happen what falls due. Where nothing
// can have fallen due, nothing is asked.
func (w *world) at(t time.Time) error {
	if t.After(w.clock.Now()) {
		w.clock.Advance(t.Sub(w.clock.Now()))
	}
	if t.Before(w.nothing) {
		return nil
	}
	next, err := w.app.RunDue(w.ctx)
	w.nothing = next
	return err
}

// command makes ids that are the same each time.
func (w *world) command() string { return "demo-command-" + w.newID() }

// live lets one day pass: letters come with the rhythm of an office, and are
// decided in three sittings.
func (w *world) live(d when.Date) error {
	w.fates = map[string]fate{}
	letters := write(d, w.lettersOf(d))
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
		if sit == sittings[2] {
			if err := w.keep(d); err != nil {
				return err
			}
		}
	}
	return w.evening(d)
}

// lastLetters are what Ines writes before she goes home: one that will not
// arrive, and one to somebody who is away.
var lastLetters = []show.Writing{
	{To: []string{lars.String()}, Subject: "Worksheet for the 8th", ReadReceipt: true, Text: "Dear Lars,\n\nOda tells me that you teach the class now. Shall I send the worksheet to you?\n\nInes\n"},
	{To: []string{henrik.String()}, Subject: "Ladder for the lamps", Text: "Henrik,\n\nwho has the long ladder? The electrician asks for it on Thursday.\n\nInes\n"},
}

func (w *world) write() error {
	for _, l := range lastLetters {
		l.Kind, l.From = "new", ines.Email
		if _, err := w.app.Send(w.ctx, w.who, app.Sending{Command: w.command(), Writing: l}); err != nil {
			return err
		}
	}
	w.nothing = time.Time{}
	return nil
}

// plan is the week's plan that Ines has put in force the evening before.
const plan = `mon-thu 8:30, 13:00, 16:30; closed 9-11:30; quiet 17:30-8:30
fri 8:30, 12, 15:30; quiet 17:30-24
sat, sun quiet
mon quiet 0-8:30`

// through is what she lets through at any time.
var through = []app.ThroughFields{
	{Kind: delivery.BySender, Value: director.Email, Key: true}, {Kind: delivery.ByWords, Value: "alarm house"}, {Kind: delivery.ByDomain, Value: "porthealth.example"},
	{Kind: delivery.ByProject, Value: "Bromeliad loan", Until: "18 dec"}, {Kind: delivery.ByAnswer},
}

// evening puts the plan in force for the last night, so that the demo begins
// with letters at the gate.
func (w *world) evening(d when.Date) error {
	if d != today.Add(-1) {
		return nil
	}
	if err := w.until(d, 23*60); err != nil {
		return err
	}
	for _, t := range through {
		if _, err := w.app.AddThrough(w.ctx, w.who, w.command(), t); err != nil {
			return err
		}
	}
	text := plan
	_, err := w.app.PutPlan(w.ctx, w.who, w.command(), 0, &show.PlanDraft{Text: &text})
	return err
}

func (w *world) lettersOf(d when.Date) []arrival {
	var out []arrival
	if d != today {
		out = everyday(seed, d)
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

func (w *world) arrive(d when.Date, a arrival) error {
	if err := w.until(d, a.minute); err != nil {
		return err
	}
	ready := <-a.ready
	if ready.err != nil {
		return ready.err
	}
	w.letters++
	if a.fate.kind != 0 {
		a.fate.at = a.to.Email
		w.fates[a.subject+a.from.Email] = a.fate
	}
	return w.app.Receive(w.ctx, app.Incoming{Inbox: w.who.Inbox, To: a.to.Email, Source: "smtp", Raw: ready.raw, Read: &ready.read, At: w.clock.Now()})
}

// write writes a day's letters, while the day goes by.
func write(d when.Date, letters []arrival) []arrival {
	for i := range letters {
		letters[i].ready = make(chan ready, 1)
	}
	go func() {
		for i, a := range letters {
			a.at = calendar().Instant(d, when.Minute(a.minute))
			raw, err := a.bytes(int64(a.minute + i))
			a.ready <- ready{raw, letter.Parse(raw), err}
		}
	}()
	return letters
}

// stages and places are what Ines has named in her first week.
var (
	stages = []string{"To draft", "With somebody", "To print"}
	places = []string{"the orangery", "the office", "home"}
)
