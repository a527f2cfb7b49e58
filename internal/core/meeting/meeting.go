// Package meeting reads and writes appointments as calendars do (RFC 5545),
// and as invitations and their answers go by mail (iTIP, RFC 5546; iMIP, RFC
// 6047).
package meeting

import (
	"cmp"
	"crypto/sha256"
	"encoding/hex"
	"errors"
	"fmt"
	"slices"
	"strconv"
	"strings"
	"time"

	"ebbe.example/ebbe/internal/core/ical"
	"ebbe.example/ebbe/internal/core/letter"
	"ebbe.example/ebbe/internal/core/when"
)

// Reply is what somebody says to an invitation.
type Reply string

// The replies.
const (
	NoReply   Reply = "needs-action"
	Accepted  Reply = "accepted"
	Declined  Reply = "declined"
	Tentative Reply = "tentative"
)

// Attendee is somebody who is invited.
type Attendee struct {
	letter.Address
	Reply Reply `json:"reply" enum:"needs-action,accepted,declined,tentative"`
	// Comment is what was said with the reply.
	Comment string `json:"comment,omitempty"`
}

// Event is an appointment, or one of a series.
type Event struct {
	UID      string
	Sequence int
	Start    when.Moment // of day precision if it takes whole days; zero where a message names none
	End      time.Time
	Title    string
	Place    string
	Notes    string
	// Organizer is who invites; empty where nobody is invited.
	Organizer letter.Address
	Attendees []Attendee
	Cancelled bool
	Free      bool // takes no time
	Comment   string
	// Series is how it recurs; nil for once.
	Series *Series
	// Recurrence is when the one of a series that is meant would have started by
	// its rules; zero for all of it. With Following, all that come after it are
	// meant too.
	Recurrence time.Time
	Following  bool
	// UnknownZone is the name of a zone that nobody knows: its times were read as
	// the person's own.
	UnknownZone string
}

// Stands tells whether it is at its time for somebody who replied so, "" for who
// was not asked: another one at that time clashes with it.
func (e Event) Stands(reply Reply) bool { return !e.Free && !e.Cancelled && reply != Declined }

// TakesTime tells whether the time of somebody who replied so is spent on it: of
// those that stand, what was not answered yet takes none.
func (e Event) TakesTime(reply Reply) bool { return e.Stands(reply) && reply != NoReply }

// The methods of iTIP that are understood.
const (
	Request = "REQUEST"
	Answer  = "REPLY"
	Counter = "COUNTER"
	Cancel  = "CANCEL"
	Publish = "PUBLISH"
	Add     = "ADD"
)

// ErrNothing is returned for a calendar without an appointment that can be read.
var ErrNothing = errors.New("there is no appointment in it")

// maxEvents bounds how many appointments a file is read for.
const maxEvents = 20_000

// stamp is the form of an instant.
const stamp = "20060102T150405Z"

// Parse reads a file of calendars: its method ("" if it has none) and its
// appointments. What can't be read is named in troubles; the rest is read.
func Parse(data string, c when.Calendar) (method string, events []Event, troubles []string, err error) {
	top, troubles := ical.Read(data)
	calendars := top.Named("VCALENDAR")
	if len(calendars) == 0 {
		return "", nil, troubles, errors.New("the calendar can't be read: it holds none")
	}
	for _, cal := range calendars {
		m := strings.ToUpper(cal.Text("METHOD"))
		method = cmp.Or(method, m)
		own := map[string]zone{}
		defs := map[string]*ical.Component{}
		for _, z := range cal.Named("VTIMEZONE") {
			if d := define(z); d != nil {
				own[z.Text("TZID")], defs[z.Text("TZID")] = d, z
			} else {
				troubles = append(troubles, fmt.Sprintf("the zone “%s” can’t be read as the file defines it", ical.Shorten(z.Text("TZID"))))
			}
		}
		for _, v := range cal.Named("VEVENT") {
			if len(events) >= maxEvents {
				return method, events, append(troubles, fmt.Sprintf("it holds more than %d appointments: the rest was left out", maxEvents)), nil
			}
			r := reader{c: c, own: own, defs: defs, method: m}
			e, err := r.event(v)
			troubles = append(troubles, r.troubles...)
			if err != nil {
				troubles = append(troubles, fmt.Sprintf("“%s” can’t be read: %v", ical.Shorten(cmp.Or(v.Text("SUMMARY"), v.Text("UID"), "an appointment")), err))
				continue
			}
			events = append(events, e)
		}
	}
	if len(events) == 0 {
		return method, nil, troubles, ErrNothing
	}
	return method, events, troubles, nil
}

// reader reads the appointments of one calendar.
type reader struct {
	c        when.Calendar
	own      map[string]zone
	defs     map[string]*ical.Component
	method   string
	unknown  string
	troubles []string
}

// moment reads a DATE or DATE-TIME with its parameters (RFC 5545, 3.3.4 and
// 3.3.5).
func (r *reader) moment(p ical.Property) (m when.Moment, wall time.Time, z zone, err error) {
	value := strings.TrimSpace(p.Value)
	if t, err := time.Parse("20060102", value); err == nil {
		m = when.OnDay(when.Date{Year: t.Year(), Month: t.Month(), Day: t.Day()}, r.c)
		m.Wall = t.Format("2006-01-02") + "T00:00" // a whole day, from its midnight
		return m.In(r.c), t, place{r.c.Zone}, nil
	}
	if t, err := time.Parse(stamp, value); err == nil {
		return when.Exact(t, r.c), t, place{time.UTC}, nil
	}
	t, err := time.Parse(wallForm, value)
	if err != nil {
		return m, t, nil, fmt.Errorf("“%s” is not a time", ical.Shorten(value))
	}
	z = place{r.c.Zone}
	if name := p.Param("TZID"); name != "" {
		if known := zoneOf(name, r.own); known != nil {
			z = known
		} else {
			r.unknown = name
		}
	}
	return when.Exact(z.instant(t), r.c), t, z, nil
}

func (r *reader) instants(props []ical.Property) (out []int64) {
	for _, p := range props {
		for text := range strings.SplitSeq(p.Value, ",") {
			text, _, _ = strings.Cut(text, "/") // of a period only its start
			m, _, _, err := r.moment(ical.Property{Value: text, Params: p.Params})
			if err != nil {
				r.troubles = append(r.troubles, fmt.Sprintf("a date of a series can’t be read: %v", err))
				continue
			}
			out = append(out, m.UTC.UnixMilli())
		}
	}
	return out
}

func (r *reader) event(v *ical.Component) (Event, error) {
	e := Event{
		UID: strings.TrimSpace(v.Text("UID")), Title: cmp.Or(v.Text("SUMMARY"), "Appointment"), Place: v.Text("LOCATION"), Notes: v.Text("DESCRIPTION"),
		Cancelled: strings.EqualFold(v.Text("STATUS"), "CANCELLED"), Free: strings.EqualFold(v.Text("TRANSP"), "TRANSPARENT"), Comment: v.Text("COMMENT"),
	}
	if e.UID == "" { // known again by what it says
		sum := sha256.Sum256([]byte(v.Text("DTSTART") + "\n" + v.Text("RECURRENCE-ID") + "\n" + v.Text("SUMMARY") + "\n" + v.Text("ORGANIZER")))
		e.UID = "no-uid-" + hex.EncodeToString(sum[:8])
	}
	e.Sequence, _ = strconv.Atoi(v.Text("SEQUENCE"))
	if p, ok := v.Get("RECURRENCE-ID"); ok {
		m, _, _, err := r.moment(p)
		if err != nil {
			return e, err
		}
		e.Recurrence, e.Following = m.UTC, strings.EqualFold(p.Param("RANGE"), "THISANDFUTURE")
	}
	if p, ok := v.Get("ORGANIZER"); ok {
		e.Organizer = address(p)
	}
	for _, p := range v.All("ATTENDEE") {
		a := Attendee{Address: address(p), Reply: replyOf(p.Param("PARTSTAT"))}
		if !strings.Contains(a.Email, "@") {
			r.troubles = append(r.troubles, fmt.Sprintf("somebody who is invited to “%s” can’t be read: “%s”", ical.Shorten(e.Title), ical.Shorten(p.Value)))
			continue
		}
		e.Attendees = append(e.Attendees, a)
	}
	start, ok := v.Get("DTSTART")
	if !ok {
		if r.method == Cancel || r.method == Answer { // RFC 5546, 3.2.3 and 3.2.5
			return e, nil
		}
		return e, errors.New("it has no start")
	}
	m, wall, z, err := r.moment(start)
	if err != nil {
		return e, err
	}
	e.Start = m
	if e.End, err = r.end(v, m, wall, z); err != nil {
		return e, err
	}
	if e.Recurrence.IsZero() {
		e.Series = r.series(v, start, m, wall)
	}
	e.UnknownZone = r.unknown
	return e, nil
}

// series is how an appointment recurs; nil if it does not.
func (r *reader) series(v *ical.Component, start ical.Property, m when.Moment, wall time.Time) *Series {
	s := Series{Wall: wall.Format(wallForm), Days: m.Precision == when.ToDay, Dates: r.instants(v.All("RDATE")), Except: r.instants(v.All("EXDATE"))}
	for _, p := range v.All("RRULE") {
		rule := strings.ToUpper(strings.TrimSpace(p.Value))
		plain, _ := withoutUntil(rule)
		if _, err := floating(plain, wall, 0); err != nil {
			r.troubles = append(r.troubles, fmt.Sprintf("how “%s” recurs can’t be read: %v", ical.Shorten(v.Text("SUMMARY")), err))
			continue
		}
		s.Rules = append(s.Rules, rule)
	}
	if len(s.Rules)+len(s.Dates) == 0 {
		return nil
	}
	switch name := start.Param("TZID"); {
	case s.Days || strings.HasSuffix(strings.TrimSpace(start.Value), "Z"):
	case name == "" || r.unknown == name:
		s.Zone = r.c.Zone.String()
	default:
		s.Zone = name
		if def := r.defs[name]; def != nil {
			s.Definition = def.String()
		}
	}
	return &s
}

func (r *reader) end(v *ical.Component, start when.Moment, wall time.Time, z zone) (time.Time, error) {
	if p, ok := v.Get("DTEND"); ok {
		m, _, _, err := r.moment(p)
		if err != nil {
			return time.Time{}, err
		}
		end := m.UTC
		if m.Precision == when.ToDay {
			end = r.c.Instant(m.Day(r.c), 0)
		}
		if end.Equal(start.UTC) && start.Precision == when.ToMinute {
			return end.Add(time.Minute), nil // a moment
		}
		if !end.After(start.UTC) {
			return time.Time{}, errors.New("it ends before it starts")
		}
		return end, nil
	}
	if p, ok := v.Get("DURATION"); ok {
		if d, ok := ical.Duration(strings.TrimSpace(p.Value)); ok && d > 0 {
			if d%(24*time.Hour) == 0 { // days are days of the calendar, however long
				return z.instant(wall.Add(d)), nil
			}
			return start.UTC.Add(d), nil
		}
	}
	if start.Precision == when.ToDay {
		return r.c.Instant(start.Day(r.c).Add(1), 0), nil
	}
	return start.UTC.Add(time.Hour), nil
}

func replyOf(partstat string) Reply {
	r := Reply(strings.ToLower(partstat))
	if r == Accepted || r == Declined || r == Tentative {
		return r
	}
	return NoReply
}

func address(p ical.Property) letter.Address {
	email := strings.TrimSpace(p.Value)
	if len(email) > 7 && strings.EqualFold(email[:7], "mailto:") {
		email = email[7:]
	}
	if !strings.Contains(email, "@") && strings.Contains(p.Param("EMAIL"), "@") { // RFC 7986, 6.2
		email = p.Param("EMAIL")
	}
	return letter.Address{Name: p.Param("CN"), Email: strings.TrimSpace(email)}
}

// Replied is the event as an answer carries it: with the one attendee who
// answers (RFC 5546, 3.2.3).
func (e Event) Replied(me letter.Address, r Reply, comment string) Event {
	e.Attendees = []Attendee{{Address: me, Reply: r}}
	e.Comment = comment
	return e
}

// Take notes an answer: who gave it, and what they say. ok is false for
// somebody who was not invited, or an answer to an older invitation.
func (e Event) Take(answer Event) (Event, bool) {
	if len(answer.Attendees) != 1 || answer.Sequence < e.Sequence {
		return e, false
	}
	a := answer.Attendees[0]
	e.Attendees = slices.Clone(e.Attendees)
	i := slices.IndexFunc(e.Attendees, func(x Attendee) bool { return x.Key() == a.Key() })
	if i < 0 {
		return e, false
	}
	e.Attendees[i].Reply, e.Attendees[i].Comment = a.Reply, answer.Comment
	return e, true
}

// Count counts the attendees by what they say.
func (e Event) Count() map[Reply]int {
	out := map[Reply]int{}
	for _, a := range e.Attendees {
		out[a.Reply]++
	}
	return out
}
