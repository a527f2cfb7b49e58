// Package meeting reads and writes appointments as calendars do (RFC 5545),
// and as invitations and their answers go by mail (iTIP, RFC 5546; iMIP, RFC
// 6047).
package meeting

import (
	"cmp"
	"errors"
	"fmt"
	"slices"
	"strconv"
	"strings"
	"time"

	ics "github.com/arran4/golang-ical"

	"ebbe.example/ebbe/internal/core/exchange"
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

// Event is an appointment.
type Event struct {
	UID      string
	Sequence int
	Start    when.Moment // of day precision if it takes whole days
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
}

// The methods of iTIP that are understood.
const (
	Request = "REQUEST"
	Answer  = "REPLY"
	Counter = "COUNTER"
	Cancel  = "CANCEL"
	Publish = "PUBLISH"
)

// ErrNothing is returned for a calendar without an appointment that can be read.
var ErrNothing = errors.New("there is no appointment in it")

// maxEvents bounds how many appointments a file is read for.
const maxEvents = 20_000

// Parse reads a calendar: its method ("" if it has none) and its appointments.
// Those that can't be read are counted in bad.
func Parse(data string, c when.Calendar) (method string, events []Event, bad int, err error) {
	cal, err := ics.ParseCalendar(strings.NewReader(data))
	if err != nil {
		return "", nil, 0, fmt.Errorf("the calendar can't be read: %w", err)
	}
	for _, p := range cal.CalendarProperties {
		if strings.EqualFold(p.IANAToken, "METHOD") {
			method = strings.ToUpper(strings.TrimSpace(p.Value))
		}
	}
	for _, v := range cal.Events() {
		if len(events) >= maxEvents {
			break
		}
		e, err := read(v, c)
		if err != nil {
			bad++
			continue
		}
		events = append(events, e)
	}
	if len(events) == 0 {
		return method, nil, bad, ErrNothing
	}
	return method, events, bad, nil
}

func value(v *ics.VEvent, p ics.ComponentProperty) string {
	if x := v.GetProperty(p); x != nil {
		return strings.TrimSpace(x.Value)
	}
	return ""
}

func read(v *ics.VEvent, c when.Calendar) (Event, error) {
	e := Event{
		UID: v.Id(), Title: cmp.Or(value(v, ics.ComponentPropertySummary), "Appointment"), Place: value(v, ics.ComponentPropertyLocation), Notes: value(v, ics.ComponentPropertyDescription),
		Cancelled: strings.EqualFold(value(v, ics.ComponentPropertyStatus), "CANCELLED"), Free: strings.EqualFold(value(v, ics.ComponentPropertyTransp), "TRANSPARENT"),
		Comment: value(v, ics.ComponentPropertyComment),
	}
	if e.UID == "" {
		return e, errors.New("it has no id")
	}
	e.Sequence, _ = strconv.Atoi(value(v, ics.ComponentPropertySequence))
	start := v.GetProperty(ics.ComponentPropertyDtStart)
	if start == nil {
		return e, errors.New("it has no start")
	}
	m, err := exchange.ICalTime(start.Value, start.ICalParameters, c)
	if err != nil {
		return e, err
	}
	e.Start = *m
	if e.Start.Precision == when.ToDay { // a whole day, from its midnight
		day := e.Start.Day(c)
		e.Start.Wall = day.String() + "T00:00"
		e.Start = e.Start.In(c)
	}
	if e.End, err = endOf(v, e.Start, c); err != nil {
		return e, err
	}
	if o := v.GetProperty(ics.ComponentPropertyOrganizer); o != nil {
		e.Organizer = address(o.Value, o.ICalParameters)
	}
	for _, a := range v.Attendees() {
		e.Attendees = append(e.Attendees, Attendee{Address: address(a.Value, a.ICalParameters), Reply: replyOf(first(a.ICalParameters["PARTSTAT"]))})
	}
	return e, nil
}

func endOf(v *ics.VEvent, start when.Moment, c when.Calendar) (time.Time, error) {
	if p := v.GetProperty(ics.ComponentPropertyDtEnd); p != nil {
		m, err := exchange.ICalTime(p.Value, p.ICalParameters, c)
		if err != nil {
			return time.Time{}, err
		}
		end := m.UTC
		if m.Precision == when.ToDay {
			end = c.Instant(m.Day(c), 0)
		}
		if !end.After(start.UTC) {
			return time.Time{}, errors.New("it ends before it starts")
		}
		return end, nil
	}
	if p := v.GetProperty(ics.ComponentPropertyDuration); p != nil {
		if d, ok := exchange.Duration(p.Value); ok && d > 0 {
			return start.UTC.Add(d), nil
		}
	}
	if start.Precision == when.ToDay {
		return c.Instant(start.Day(c).Add(1), 0), nil
	}
	return start.UTC.Add(time.Hour), nil
}

func first(list []string) string {
	if len(list) == 0 {
		return ""
	}
	return list[0]
}

func replyOf(partstat string) Reply {
	r := Reply(strings.ToLower(partstat))
	if r == Accepted || r == Declined || r == Tentative {
		return r
	}
	return NoReply
}

func address(uri string, params map[string][]string) letter.Address {
	email := uri
	if len(uri) > 7 && strings.EqualFold(uri[:7], "mailto:") {
		email = uri[7:]
	}
	return letter.Address{Name: strings.Trim(first(params["CN"]), `"`), Email: strings.TrimSpace(email)}
}

// Write writes appointments as a calendar; method may be "".
func Write(method string, events []Event, c when.Calendar, now time.Time) string {
	cal := ics.NewCalendar()
	cal.SetProductId("-//Ebbe//Appointments//EN")
	if method != "" {
		cal.SetMethod(ics.Method(method))
	}
	for _, e := range events {
		e.into(cal.AddEvent(e.UID), method, c, now)
	}
	return cal.Serialize()
}

const (
	stamp = "20060102T150405Z"
	local = "20060102T150405"
)

func (e Event) into(v *ics.VEvent, method string, c when.Calendar, now time.Time) {
	v.SetDtStampTime(now)
	v.SetSummary(e.Title)
	if e.Place != "" {
		v.SetLocation(e.Place)
	}
	if e.Notes != "" {
		v.SetDescription(e.Notes)
	}
	if e.Comment != "" {
		v.SetProperty(ics.ComponentPropertyComment, e.Comment)
	}
	v.SetSequence(e.Sequence)
	switch {
	case e.Start.Precision == when.ToDay:
		date := &ics.KeyValues{Key: "VALUE", Value: []string{"DATE"}}
		v.SetProperty(ics.ComponentPropertyDtStart, e.Start.UTC.In(c.Zone).Format("20060102"), date)
		v.SetProperty(ics.ComponentPropertyDtEnd, e.End.In(c.Zone).Format("20060102"), date)
	case method == "" && c.Zone != time.UTC: // our own file: it keeps its wall-clock time
		zone := &ics.KeyValues{Key: "TZID", Value: []string{c.Zone.String()}}
		v.SetProperty(ics.ComponentPropertyDtStart, e.Start.UTC.In(c.Zone).Format(local), zone)
		v.SetProperty(ics.ComponentPropertyDtEnd, e.End.In(c.Zone).Format(local), zone)
	default:
		v.SetProperty(ics.ComponentPropertyDtStart, e.Start.UTC.UTC().Format(stamp))
		v.SetProperty(ics.ComponentPropertyDtEnd, e.End.UTC().Format(stamp))
	}
	status := "CONFIRMED"
	if e.Cancelled || method == Cancel {
		status = "CANCELLED"
	}
	v.SetProperty(ics.ComponentPropertyStatus, status)
	if e.Free {
		v.SetProperty(ics.ComponentPropertyTransp, "TRANSPARENT")
	}
	if e.Organizer.Email != "" {
		v.SetOrganizer("mailto:"+e.Organizer.Email, named(e.Organizer)...)
	}
	for _, a := range e.Attendees {
		params := append(named(a.Address), &ics.KeyValues{Key: "PARTSTAT", Value: []string{strings.ToUpper(string(cmp.Or(a.Reply, NoReply)))}})
		if method == Request {
			params = append(params, &ics.KeyValues{Key: "RSVP", Value: []string{"TRUE"}})
		}
		v.AddProperty(ics.ComponentPropertyAttendee, "mailto:"+a.Email, params...)
	}
}

func named(a letter.Address) []ics.PropertyParameter {
	if a.Name == "" {
		return nil
	}
	return []ics.PropertyParameter{&ics.KeyValues{Key: "CN", Value: []string{strings.NewReplacer(`"`, "", "\n", " ", "\r", "").Replace(a.Name)}}}
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
