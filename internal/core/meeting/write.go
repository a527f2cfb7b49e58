package meeting

import (
	"cmp"
	"fmt"
	"slices"
	"strings"
	"time"
	"unicode/utf8"

	"ebbe.example/ebbe/internal/core/letter"
	"ebbe.example/ebbe/internal/core/when"
)

// Write writes appointments as a calendar (RFC 5545); method may be "".
func Write(method string, events []Event, c when.Calendar, now time.Time) string {
	w := &writer{c: c, now: now}
	w.line("BEGIN", "VCALENDAR")
	w.line("VERSION", "2.0")
	w.line("PRODID", "-//Ebbe//Appointments//EN")
	w.line("CALSCALE", "GREGORIAN")
	if method != "" {
		w.line("METHOD", method)
	}
	w.zones(method, events)
	for _, e := range events {
		w.event(e, method)
	}
	w.line("END", "VCALENDAR")
	return w.out.String()
}

type writer struct {
	out strings.Builder
	c   when.Calendar
	now time.Time
}

// mostOctets is how long a line may be, without its end (RFC 5545, 3.1).
const mostOctets = 75

// line writes a content line, folded. The value is written as it is.
func (w *writer) line(name, value string, params ...string) {
	text := name + strings.Join(params, "") + ":" + value
	for first := true; text != ""; first = false {
		most := mostOctets
		if !first {
			w.out.WriteByte(' ')
			most--
		}
		n := min(most, len(text))
		for n < len(text) && n > 0 && !utf8.RuneStart(text[n]) {
			n--
		}
		w.out.WriteString(text[:n])
		w.out.WriteString("\r\n")
		text = text[n:]
	}
}

func escaped(text string) string {
	text = strings.NewReplacer("\r\n", "\n", "\r", "\n").Replace(text)
	return strings.NewReplacer(`\`, `\\`, "\n", `\n`, ";", `\;`, ",", `\,`).Replace(strings.Map(func(r rune) rune {
		if r < 0x20 && r != '\n' && r != '\t' {
			return -1
		}
		return r
	}, text))
}

// param writes a parameter, quoted; what can't stand within quotes is written
// as RFC 6868 says.
func param(name, value string) string {
	value = strings.NewReplacer("^", "^^", "\r\n", "^n", "\n", "^n", "\r", "", `"`, "^'").Replace(value)
	return ";" + name + `="` + value + `"`
}

func (w *writer) text(name, value string) {
	if value != "" {
		w.line(name, escaped(value))
	}
}

// inZone tells that the times of an event are written by the clock of a zone
// rather than as instants: where they recur, and in one's own file.
func (w *writer) inZone(e Event, method string) string {
	switch {
	case e.Start.Precision == when.ToDay:
		return ""
	case e.Series != nil && e.Series.Definition == "":
		return e.Series.Zone
	case method == "" && w.c.Zone != time.UTC:
		return w.c.Zone.String()
	}
	return ""
}

func (w *writer) time(name string, at time.Time, days bool, zone string) {
	switch l := located(zone); {
	case days:
		w.line(name, at.In(w.c.Zone).Format("20060102"), ";VALUE=DATE")
	case l != nil && zone != "UTC":
		w.line(name, at.In(l).Format(wallForm), param("TZID", zone))
	default:
		w.line(name, at.UTC().Format(stamp))
	}
}

func (w *writer) event(e Event, method string) {
	days, zone := e.Start.Precision == when.ToDay, w.inZone(e, method)
	w.line("BEGIN", "VEVENT")
	w.line("UID", e.UID)
	w.line("DTSTAMP", w.now.UTC().Format(stamp))
	w.line("SEQUENCE", fmt.Sprint(e.Sequence))
	if !e.Recurrence.IsZero() {
		w.time("RECURRENCE-ID", e.Recurrence, days, "")
	}
	if !e.Start.UTC.IsZero() {
		w.time("DTSTART", e.Start.UTC, days, zone)
		w.time("DTEND", e.End, days, zone)
	}
	if s := e.Series; s != nil {
		for _, rule := range s.Rules {
			w.line("RRULE", rule)
		}
		for _, list := range []struct {
			name string
			at   []int64
		}{{"RDATE", s.Dates}, {"EXDATE", s.Except}} {
			for _, ms := range list.at {
				w.time(list.name, time.UnixMilli(ms), days, zone)
			}
		}
	}
	w.text("SUMMARY", e.Title)
	w.text("LOCATION", e.Place)
	w.text("DESCRIPTION", e.Notes)
	w.text("COMMENT", e.Comment)
	status := "CONFIRMED"
	if e.Cancelled || method == Cancel {
		status = "CANCELLED"
	}
	w.line("STATUS", status)
	if e.Free {
		w.line("TRANSP", "TRANSPARENT")
	}
	if e.Organizer.Email != "" {
		w.line("ORGANIZER", "mailto:"+e.Organizer.Email, named(e.Organizer))
	}
	for _, a := range e.Attendees {
		params := []string{named(a.Address), ";PARTSTAT=" + strings.ToUpper(string(cmp.Or(a.Reply, NoReply)))}
		if method == Request {
			params = append(params, ";RSVP=TRUE")
		}
		w.line("ATTENDEE", "mailto:"+a.Email, params...)
	}
	w.line("END", "VEVENT")
}

func named(a letter.Address) string {
	if a.Name == "" {
		return ""
	}
	return param("CN", a.Name)
}

// zones writes a VTIMEZONE for each zone that is named, with the changes of its
// clock around the times of the events (RFC 5545, 3.6.5).
func (w *writer) zones(method string, events []Event) {
	type span struct{ from, to time.Time }
	spans := map[string]span{}
	for _, e := range events {
		zone := w.inZone(e, method)
		if l := located(zone); l == nil || zone == "UTC" {
			continue
		}
		s, ok := spans[zone]
		if !ok || e.Start.UTC.Before(s.from) {
			s.from = e.Start.UTC
		}
		to := e.End
		if e.Series != nil {
			to = to.AddDate(seriesYears, 0, 0)
		}
		if to.After(s.to) {
			s.to = to
		}
		spans[zone] = s
	}
	var names []string
	for name := range spans {
		names = append(names, name)
	}
	slices.Sort(names)
	for _, name := range names {
		w.zone(name, located(name), spans[name].from.AddDate(-1, 0, 0), spans[name].to.AddDate(1, 0, 0))
	}
}

// seriesYears is how far the changes of the clock are written for a series.
const seriesYears = 10

func (w *writer) zone(name string, l *time.Location, from, to time.Time) {
	w.line("BEGIN", "VTIMEZONE")
	w.line("TZID", name)
	_, before := from.In(l).Zone()
	w.observance("STANDARD", before, before, from.In(l))
	for t := from; t.Before(to); {
		next, changes := when.ChangeAfter(t.In(l))
		if !changes || !next.Before(to) {
			break
		}
		_, was := next.Add(-time.Second).In(l).Zone()
		_, is := next.In(l).Zone()
		kind := "STANDARD"
		if next.In(l).IsDST() {
			kind = "DAYLIGHT"
		}
		w.observance(kind, was, is, next.UTC().Add(time.Duration(was)*time.Second))
		t = next
	}
	w.line("END", "VTIMEZONE")
}

func (w *writer) observance(kind string, was, is int, onset time.Time) {
	w.line("BEGIN", kind)
	w.line("DTSTART", onset.Format(wallForm))
	w.line("TZOFFSETFROM", offsetText(was))
	w.line("TZOFFSETTO", offsetText(is))
	w.line("END", kind)
}

func offsetText(seconds int) string {
	sign := "+"
	if seconds < 0 {
		sign, seconds = "-", -seconds
	}
	return fmt.Sprintf("%s%02d%02d", sign, seconds/3600, seconds/60%60)
}
