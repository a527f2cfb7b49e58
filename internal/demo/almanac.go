package demo

import (
	"cmp"
	"fmt"
	"hash/fnv"
	"math/rand/v2"
	"slices"
	"strings"
	"time"

	"ebbe.example/ebbe/internal/core/letter"
	"ebbe.example/ebbe/internal/core/sorting"
	"ebbe.example/ebbe/internal/core/when"
)

// arrival is a letter that comes at a minute of a day, and what Ines does with
// it at her next sitting.
type arrival struct {
	message
	minute int
	fate   fate
	kind   sorting.Kind // of what kind it is, as its sender's are
	fates  string       // what is done with such letters
	hard   bool         // one of those that are hard to sort
	ready  chan ready   // gives the letter when it is written
}

// ready is a letter as it was written, and as it is read.
type ready struct {
	raw  []byte
	read letter.Letter
	err  error
}

// fate is what Ines does with a letter; see world.decide.
type fate struct {
	kind    byte
	replies string
	label   string // under which it is filed
	machine bool   // written by one
	at      string // the own address that it came to
}

// first is the day on which the world begins, a Monday eight weeks before.
var first = today.Add(-57)

// seed is the one of the demo's world.
const seed = 11

// dice are the same for the same day, whatever came before.
func dice(seed uint64, d when.Date, what string) *rand.Rand {
	h := fnv.New64a()
	fmt.Fprint(h, d, what)
	return rand.New(rand.NewPCG(h.Sum64(), seed)) //nolint:gosec // nothing is to be kept secret
}

// perDay is about how many letters a working day brings; busy says how the
// days of the week differ.
const perDay = 74

var busy = map[time.Weekday]float64{
	time.Monday: 1.2, time.Tuesday: 1.05, time.Wednesday: 1, time.Thursday: 0.98, time.Friday: 0.8, time.Saturday: 0.16, time.Sunday: 0.13,
}

// oddDays are those that were not like the others: a public holiday, a storm
// that rang every alarm, the morning after it, and the day of the plant fair.
var oddDays = map[when.Date]float64{
	{Year: 2026, Month: time.October, Day: 16}: 0.15, {Year: 2026, Month: time.October, Day: 29}: 1.9,
	{Year: 2026, Month: time.October, Day: 30}: 1.4, {Year: 2026, Month: time.November, Day: 12}: 0.5,
}

// storm is the day of the alarms.
var storm = when.Date{Year: 2026, Month: time.October, Day: 29}

// everyday are the letters that a day brings by its nature, in their order.
func everyday(seed uint64, d when.Date) []arrival {
	r := dice(seed, d, "everyday")
	count := perDay * busy[d.Weekday()] * (0.9 + 0.2*r.Float64())
	if odd, ok := oddDays[d]; ok {
		count *= odd
	}
	out := byTheClock(seed, d)
	for i := len(out); i < int(count); i++ {
		out = append(out, draw(r, d, i))
	}
	out = append(out, ongoing(seed, d)...)
	slices.SortStableFunc(out, func(a, b arrival) int { return a.minute - b.minute })
	return out
}

// byTheClock are the letters of those that write at fixed times.
func byTheClock(seed uint64, d when.Date) (out []arrival) {
	_, week := date(d).ISOWeek()
	for i, s := range cast.senders {
		for _, c := range s.Every {
			if !c.on(d) || s.Alternate && week%2 == 1 {
				continue
			}
			r := dice(seed, d, s.From+s.Colour)
			a := arrive(s, s.topic(r), r, fill(r, d))
			a.id, a.minute = fmt.Sprintf("%s-every-%d", d, i), c.minute+r.IntN(4)
			out = append(out, a)
		}
	}
	return out
}

// draw makes one everyday letter.
func draw(r *rand.Rand, d when.Date, i int) arrival {
	f := fill(r, d)
	s, t := cast.pick(r, f)
	if d == storm && r.IntN(2) == 0 {
		s = cast.senders[slices.IndexFunc(cast.senders, func(s sender) bool { return s.Storm })]
		t = s.topic(r)
	}
	a := arrive(s, t, r, f)
	a.id, a.minute = fmt.Sprintf("%s-%d", d, i), minuteOf(r, a.fate.machine)
	if r.IntN(12) == 0 && a.to == ines && !a.fate.machine {
		a.cc = copies
	}
	return a
}

// arrive writes a letter of a sender, and says what becomes of it.
func arrive(s sender, t topic, r *rand.Rand, f *filling) arrival {
	return arrival{message: s.compose(t, f), kind: cmp.Or(s.Kind, sorting.Person), fates: t.Fates, fate: fate{kind: t.Fates[r.IntN(len(t.Fates))], replies: f.say(t.Reply), label: t.Label, machine: s.machine()}}
}

// minuteOf is when in a day a letter comes: from people most in the morning
// and after lunch, from machines at any hour.
func minuteOf(r *rand.Rand, machine bool) int {
	minute := 7*60 + int(180*(r.NormFloat64()+1.2))
	switch {
	case machine:
		minute = r.IntN(22 * 60)
	case r.IntN(3) == 0:
		minute = 14*60 + int(70*r.NormFloat64())
	}
	return min(max(minute, 10), 23*60)
}

// thread is a conversation of many letters over days.
type thread struct {
	Subject string     `yaml:"subject"`
	To      string     `yaml:"to"`
	Days    int        `yaml:"days"`
	Lines   [][]string `yaml:"lines"` // who, and what
}

// writers are who writes in the long conversations.
var writers = map[string]letter.Address{
	"tove": tove, "lise": lise, "henrik": henrik, "maren": maren, "bram": bram, "oda": oda, "vera": vera, "signe": signe, "anton": anton, "kestrel": kestrel, "health": health,
}

// ongoing are the letters of long conversations that come on a day.
func ongoing(seed uint64, d when.Date) []arrival {
	var out []arrival
	for t, th := range cast.threads {
		r := dice(seed, first, th.Subject)
		day := working(today.Add(-th.Days), 1)
		var refs []string
		before := ""
		for n, line := range th.Lines {
			from, said := writers[line[0]], line[1]
			m := message{
				id: fmt.Sprintf("thread-%d-%d", t, n), from: from, to: addressed(th.To), subject: th.Subject,
				text: said + "\n\n" + strings.Fields(from.Name)[0], refs: slices.Clone(refs), style: []string{"", "flowed", ""}[n%3],
			}
			if th.To == "" {
				m.cc = copies
			}
			if n > 0 {
				m.subject = "Re: " + th.Subject
				m.text += "\n\n" + before
			}
			refs = append(refs, messageID(m.id, m.from))
			before = fmt.Sprintf("On %d %s %s wrote:\n> %s", day.Day, day.Month, from.Name, strings.ReplaceAll(said, "\n", "\n> "))
			minute := 8*60 + r.IntN(8*60)
			if day == d {
				out = append(out, arrival{message: m, kind: sorting.Person, minute: minute, fates: "d", fate: fate{kind: 'd'}})
			}
			if r.IntN(3) > 0 {
				day = working(day.Add(1+r.IntN(2)), 1)
			}
		}
	}
	return out
}
