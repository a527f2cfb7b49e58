package demo

import (
	"fmt"
	"hash/fnv"
	"slices"
	"strings"
	"time"

	"ebbe.example/ebbe/internal/app"
	"ebbe.example/ebbe/internal/core/decide"
	"ebbe.example/ebbe/internal/core/followup"
	"ebbe.example/ebbe/internal/core/letter"
	"ebbe.example/ebbe/internal/core/when"
	"ebbe.example/ebbe/internal/show"
	"ebbe.example/ebbe/internal/store"
)

// sit decides what stands in the inbox, most of it.
func (w *world) sit(d when.Date, minute int) error {
	if err := w.until(d, minute); err != nil {
		return err
	}
	page, err := w.app.List(w.ctx, w.who, decide.Inbox, true, 0, "")
	if err != nil {
		return err
	}
	lying, err := w.app.List(w.ctx, w.who, decide.Shallows, false, 0, "")
	if err != nil {
		return err
	}
	last := w.workday(1)
	together := map[byte][]store.Seen{} // what machines write goes at once
	for i, row := range append(page.Rows, lying.Rows...) {
		if err := w.until(d, minute+i/2); err != nil {
			return err
		}
		f, ok := w.fates[row.Title+row.From.Email]
		if ok && f.machine && opens(row) {
			if err := w.app.See(w.ctx, w.who, row.ID, row.Last); err != nil {
				return err
			}
		}
		switch {
		case ok && f.machine && (f.kind == 'd' || f.kind == 'b') && d != last:
			together[f.kind] = append(together[f.kind], store.Seen{ID: row.ID, Last: row.Last})
			continue
		case w.isCurrent(row): // stands undecided when the demo begins
			continue
		case !ok:
			f = fate{kind: 'd'}
		case d == last && w.rand.IntN(4) == 0, !last.Before(d) && w.rand.IntN(25) == 0:
			continue // left for another sitting
		}
		if w.rand.IntN(80) == 0 {
			if err := w.regret(row); err != nil {
				return fmt.Errorf("%q: %w", row.Title, err)
			}
		}
		if err := w.decide(row, f); err != nil {
			return fmt.Errorf("%q: %w", row.Title, err)
		}
	}
	for _, kind := range []byte{'b', 'd'} {
		decision := map[byte]decide.Kind{'d': decide.Done, 'b': decide.ToBin}[kind]
		if len(together[kind]) == 0 {
			continue
		}
		id := fmt.Sprintf("demo-together-%s-%d-%c", d, minute, kind)
		if _, err := w.app.Decide(w.ctx, w.who, app.Deciding{Command: id, Kind: decision, On: together[kind]}); err != nil {
			return err
		}
	}
	return nil
}

// opens tells whether Ines looks at what a machine or a list has sent: at some hardly ever, at some
// nearly always.
func opens(row show.Row) bool {
	of := func(text string) uint32 {
		sum := fnv.New32a()
		_, _ = sum.Write([]byte(text))
		return sum.Sum32()
	}
	share := []uint32{0, 12, 45, 90}[of(row.From.Email)%4]
	return of(fmt.Sprint(row.Title, row.At.Unix()))%100 < share
}

// regret is a decision too quick, taken back at once.
func (w *world) regret(row show.Row) error {
	if err := w.decide(row, fate{kind: "dbl"[w.rand.IntN(3)]}); err != nil {
		return err
	}
	w.nothing = time.Time{}
	_, err := w.app.Undo(w.ctx, w.who, w.command(), 0, true)
	return err
}

func (w *world) isCurrent(row show.Row) bool {
	return slices.ContainsFunc(currents, func(c current) bool { return c.subject == row.Title && c.from.Email == row.From.Email })
}

// decide carries out a fate: a answer, d done, l later, u follow up, w hand on
// and wait, f file, b bin, j junk.
func (w *world) decide(row show.Row, f fate) error {
	on := []store.Seen{{ID: row.ID, Last: row.Last}}
	d := app.Deciding{Command: w.command(), On: on}
	if strings.IndexByte("awlu", f.kind) >= 0 {
		w.nothing = time.Time{} // something else may fall due first
	}
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
		d.Kind, d.Labels = decide.File, []string{"receipts"}
		if f.label != "" {
			d.Labels[0] = f.label
		}
	case 'b':
		d.Kind = decide.ToBin
	case 'j':
		d.Kind = decide.ToJunk
	default:
		d.Kind = decide.Done
	}
	decided, err := w.app.Decide(w.ctx, w.who, d)
	if err == nil && f.kind == 'u' && w.rand.IntN(10) < 9 {
		done := followup.Done
		_, err = w.app.EditFollowUp(w.ctx, w.who, w.command(), decided.FollowUp, app.FollowUpFields{Status: &done}, 0)
	}
	return err
}

func (w *world) send(row show.Row, f fate) error {
	s := app.Sending{
		Command: w.command(), Conversation: row.ID, Saw: row.Last,
		Writing: show.Writing{Kind: "answer", From: f.at, To: []string{row.From.String()}, Subject: letter.WithPrefix("Re: ", row.Title), Text: f.replies + "\n\nInes\n", Letter: row.Last},
	}
	if f.kind == 'w' {
		s.Kind, s.To, s.Subject, s.Text, s.Wait = "hand-on", []string{henrik.String()}, letter.WithPrefix("Fwd: ", row.Title), "Henrik, can you see to this?\n\nInes\n", "1w"
	} else if w.rand.IntN(14) == 0 {
		s.Wait = []string{"3d", "1w", "2w"}[w.rand.IntN(3)]
	}
	_, err := w.app.Send(w.ctx, w.who, s)
	return err
}
