package demo

import (
	"fmt"
	"hash/fnv"
	"math/rand/v2"
	"slices"
	"strings"
	"time"

	"ebbe.example/ebbe/internal/core/letter"
	"ebbe.example/ebbe/internal/core/when"
)

// arrival is a letter that comes at a minute of a day, and what Ines does with
// it at her next sitting.
type arrival struct {
	message
	minute int
	fate   fate
	ready  chan ready // gives the letter when it is written
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
	var out []arrival
	for i := range int(count) {
		out = append(out, draw(r, d, i))
	}
	out = append(out, ongoing(seed, d)...)
	slices.SortStableFunc(out, func(a, b arrival) int { return a.minute - b.minute })
	return out
}

// draw makes one everyday letter.
func draw(r *rand.Rand, d when.Date, i int) arrival {
	p := pick(r)
	if d == storm && r.IntN(2) == 0 {
		p = patterns[slices.IndexFunc(patterns, func(p pattern) bool { return p.from == climate })]
	}
	fill := strings.NewReplacer("{n}", fmt.Sprint(20+r.IntN(80)), "{k}", fmt.Sprint(1+r.IntN(6)), "{t}", fmt.Sprintf("%.1f", 7+3*r.Float64()),
		"{day}", dayNames[r.IntN(len(dayNames))], "{plant}", plants[r.IntN(len(plants))])
	m := message{
		id: fmt.Sprintf("%s-%d", d, i), from: p.from, to: p.to, subject: fill.Replace(p.subject), text: fill.Replace(p.texts[r.IntN(len(p.texts))]),
		list: p.list, html: p.html, remote: p.remote, auto: p.auto, style: p.style,
	}
	if len(p.files) > 0 && strings.Contains(m.text, "ttached") {
		m.attach = p.files
	}
	if r.IntN(12) == 0 && m.to == ines {
		m.cc = copies
	}
	a := arrival{message: m, minute: minuteOf(r, p.auto != "" || p.list), fate: fate{kind: p.fates[r.IntN(len(p.fates))], replies: fill.Replace(p.replies), machine: p.auto != "" || p.list || p.style == "tracked" || p.style == "accept"}}
	return a
}

func pick(r *rand.Rand) pattern {
	total := 0
	for _, p := range patterns {
		total += p.per
	}
	at := r.IntN(total)
	for _, p := range patterns {
		if at -= p.per; at < 0 {
			return p
		}
	}
	return patterns[0]
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
	subject string
	who     []string // initials of whoever writes, in turn
	lines   []string
	days    int // how many days before today it begins
	length  int
}

// ongoing are the letters of long conversations that come on a day.
func ongoing(seed uint64, d when.Date) []arrival {
	var out []arrival
	for t, th := range threads {
		r := dice(seed, first, th.subject)
		day := today.Add(-th.days)
		var refs []string
		before := ""
		for n := range th.length {
			from := writers[th.who[n%len(th.who)]]
			m := message{
				id: fmt.Sprintf("thread-%d-%d", t, n), from: from, to: ines, cc: copies, subject: th.subject,
				text: th.lines[n%len(th.lines)] + "\n\n" + strings.Fields(from.Name)[0], refs: slices.Clone(refs), style: []string{"", "flowed", ""}[n%3],
			}
			if n > 0 {
				m.subject = "Re: " + th.subject
				m.text += "\n\n" + before
			}
			refs = append(refs, messageID(m.id, m.from))
			before = fmt.Sprintf("On %d %s %s wrote:\n> %s", day.Day, day.Month, from.Name, strings.ReplaceAll(th.lines[n%len(th.lines)], "\n", "\n> "))
			minute := 8*60 + r.IntN(8*60)
			if day == d {
				f := fate{kind: "ddda"[r.IntN(4)], replies: "Good, let us do it that way."}
				if n+1 < th.length && r.IntN(3) > 0 {
					f = fate{kind: 'd'}
				}
				out = append(out, arrival{message: m, minute: minute, fate: f})
			}
			if r.IntN(3) > 0 {
				day = day.Add(1 + r.IntN(2))
			}
			for day.Weekday() == time.Saturday || day.Weekday() == time.Sunday {
				day = day.Add(1)
			}
		}
	}
	return out
}
