package meeting

import (
	"fmt"
	"regexp"
	"slices"
	"strconv"
	"strings"
	"time"

	"github.com/teambition/rrule-go"

	"ebbe.example/ebbe/internal/core/ical"
)

// zone turns a wall-clock time (given as if it were UTC) into an instant.
type zone interface {
	instant(wall time.Time) time.Time
}

// place is a zone of the IANA database.
type place struct{ *time.Location }

func (p place) instant(w time.Time) time.Time {
	t := time.Date(w.Year(), w.Month(), w.Day(), w.Hour(), w.Minute(), w.Second(), 0, p.Location)
	if t.Hour() != w.Hour() || t.Minute() != w.Minute() { // the clock jumps over it: by the offset before (RFC 5545, 3.3.5)
		_, before := t.Add(-24 * time.Hour).Zone()
		return w.Add(-time.Duration(before) * time.Second)
	}
	for _, d := range []time.Duration{30 * time.Minute, time.Hour, 2 * time.Hour} { // it comes twice: the first
		if e := t.Add(-d); e.Hour() == t.Hour() && e.Minute() == t.Minute() && e.Day() == t.Day() {
			return e.UTC()
		}
	}
	return t.UTC()
}

// observance is a part of a zone that a file defines itself: from its onsets on
// the clock goes by an offset (RFC 5545, 3.6.5).
type observance struct {
	start    time.Time // the first onset, by the clock before it
	rules    []*rrule.RRule
	dates    []time.Time
	from, to time.Duration
}

// defined is a zone that a file defines.
type defined []observance

// last is the latest onset up to a wall-clock time.
func (o observance) last(wall time.Time) (onset time.Time, ok bool) {
	if wall.Before(o.start) {
		return onset, false
	}
	onset = o.start
	for _, r := range o.rules {
		if t := r.Before(wall, true); t.After(onset) {
			onset = t
		}
	}
	for _, d := range o.dates {
		if !d.After(wall) && d.After(onset) {
			onset = d
		}
	}
	return onset, true
}

func (d defined) instant(wall time.Time) time.Time {
	var at time.Time
	var in *observance
	for i, o := range d {
		if onset, ok := o.last(wall); ok && (in == nil || onset.After(at)) {
			at, in = onset, &d[i]
		}
	}
	if in == nil { // before all that it defines
		first := slices.MinFunc(d, func(a, b observance) int { return a.start.Compare(b.start) })
		return wall.Add(-first.from)
	}
	if jump := in.to - in.from; jump > 0 && wall.Before(at.Add(jump)) {
		return wall.Add(-in.from) // the clock jumps over it
	}
	return wall.Add(-in.to)
}

var offsetForm = regexp.MustCompile(`^([+-])(\d{2}):?(\d{2})(\d{2})?$`)

func offset(text string) (time.Duration, bool) {
	m := offsetForm.FindStringSubmatch(strings.TrimSpace(text))
	if m == nil {
		return 0, false
	}
	n := func(s string) time.Duration {
		v, _ := strconv.Atoi(s) // digits only, or nothing
		return time.Duration(v)
	}
	d := n(m[2])*time.Hour + n(m[3])*time.Minute + n(m[4])*time.Second
	if m[1] == "-" {
		d = -d
	}
	return d, true
}

// define reads a VTIMEZONE; nil if it says nothing.
func define(c *ical.Component) zone {
	var out defined
	for _, part := range c.Children {
		if part.Name != "STANDARD" && part.Name != "DAYLIGHT" {
			continue
		}
		from, ok1 := offset(part.Text("TZOFFSETFROM"))
		to, ok2 := offset(part.Text("TZOFFSETTO"))
		start, err := time.Parse(wallForm, strings.TrimSuffix(part.Text("DTSTART"), "Z"))
		if !ok2 || err != nil {
			continue
		}
		if !ok1 {
			from = to
		}
		o := observance{start: start, from: from, to: to}
		for _, r := range part.All("RRULE") {
			// Zones are defined from 1601 on; the library reckons no 300 years ahead.
			begin := start
			if begin.Year() < 1970 && !strings.Contains(strings.ToUpper(r.Value), "COUNT=") {
				begin = time.Date(1970, begin.Month(), begin.Day(), begin.Hour(), begin.Minute(), begin.Second(), 0, time.UTC)
			}
			if rule, err := floating(r.Value, begin, from); err == nil {
				o.rules = append(o.rules, rule)
			}
		}
		for _, r := range part.All("RDATE") {
			for text := range strings.SplitSeq(r.Value, ",") {
				if t, err := time.Parse(wallForm, strings.TrimSuffix(strings.TrimSpace(text), "Z")); err == nil {
					o.dates = append(o.dates, t)
				}
			}
		}
		out = append(out, o)
	}
	if len(out) == 0 {
		return nil
	}
	return out
}

const wallForm = "20060102T150405"

// floating makes a rule of wall-clock times. An UNTIL in UTC is moved onto the
// clock by its offset.
func floating(text string, start time.Time, ahead time.Duration) (*rrule.RRule, error) {
	if err := sane(text); err != nil {
		return nil, err
	}
	o, err := rrule.StrToROption(text)
	if err != nil {
		return nil, err
	}
	o.Dtstart = start
	if !o.Until.IsZero() {
		o.Until = o.Until.Add(ahead)
	}
	return rrule.NewRRule(*o)
}

// sane refuses rules that come every 0th time, or 0 times.
func sane(rule string) error {
	for part := range strings.SplitSeq(strings.ToUpper(rule), ";") {
		name, value, _ := strings.Cut(strings.TrimSpace(part), "=")
		if n, err := strconv.Atoi(value); (name == "INTERVAL" || name == "COUNT") && (err != nil || n < 1) {
			return fmt.Errorf("%s is 1 or more", name)
		}
	}
	return nil
}

// zoneOf finds the zone of a name: as the file defines it; of the IANA
// database, also within a longer name; by the names of one operating system.
// nil for one that is not known.
func zoneOf(name string, own map[string]zone) zone {
	if z := own[name]; z != nil {
		return z
	}
	if l := located(name); l != nil {
		return place{l}
	}
	parts := strings.Split(strings.Trim(name, "/"), "/")
	for i := range parts { // "/freeassociation.example/Tzfile/America/New_York"
		if l := located(strings.Join(parts[i:], "/")); l != nil && i > 0 {
			return place{l}
		}
	}
	if l := located(otherNames[strings.ToLower(name)]); l != nil {
		return place{l}
	}
	return nil
}

func located(name string) *time.Location {
	if name == "" || strings.EqualFold(name, "local") {
		return nil
	}
	l, err := time.LoadLocation(name)
	if err != nil {
		return nil
	}
	return l
}

// otherNames are the names that Windows gives to zones, in lower case, with one
// place of the IANA database for each (by Unicode CLDR, windowsZones).
var otherNames = map[string]string{
	"dateline standard time": "Etc/GMT+12", "hawaiian standard time": "Pacific/Honolulu", "alaskan standard time": "America/Anchorage", "pacific standard time": "America/Los_Angeles",
	"us mountain standard time": "America/Phoenix", "mountain standard time": "America/Denver", "central standard time": "America/Chicago", "canada central standard time": "America/Regina",
	"central america standard time": "America/Guatemala", "central standard time (mexico)": "America/Mexico_City", "eastern standard time": "America/New_York", "us eastern standard time": "America/Indianapolis",
	"sa pacific standard time": "America/Bogota", "atlantic standard time": "America/Halifax", "venezuela standard time": "America/Caracas", "newfoundland standard time": "America/St_Johns",
	"e. south america standard time": "America/Sao_Paulo", "argentina standard time": "America/Buenos_Aires", "sa eastern standard time": "America/Cayenne", "greenland standard time": "America/Godthab",
	"azores standard time": "Atlantic/Azores", "cape verde standard time": "Atlantic/Cape_Verde", "utc": "Etc/UTC", "gmt standard time": "Europe/London", "greenwich standard time": "Atlantic/Reykjavik",
	"morocco standard time": "Africa/Casablanca", "w. europe standard time": "Europe/Berlin", "central europe standard time": "Europe/Budapest", "romance standard time": "Europe/Paris",
	"central european standard time": "Europe/Warsaw", "w. central africa standard time": "Africa/Lagos", "gtb standard time": "Europe/Bucharest", "e. europe standard time": "Europe/Chisinau",
	"fle standard time": "Europe/Kiev", "egypt standard time": "Africa/Cairo", "south africa standard time": "Africa/Johannesburg", "israel standard time": "Asia/Jerusalem", "middle east standard time": "Asia/Beirut",
	"turkey standard time": "Europe/Istanbul", "jordan standard time": "Asia/Amman", "arabic standard time": "Asia/Baghdad", "arab standard time": "Asia/Riyadh", "russian standard time": "Europe/Moscow",
	"e. africa standard time": "Africa/Nairobi", "iran standard time": "Asia/Tehran", "arabian standard time": "Asia/Dubai", "azerbaijan standard time": "Asia/Baku", "georgian standard time": "Asia/Tbilisi",
	"afghanistan standard time": "Asia/Kabul", "west asia standard time": "Asia/Tashkent", "pakistan standard time": "Asia/Karachi", "india standard time": "Asia/Calcutta", "sri lanka standard time": "Asia/Colombo",
	"nepal standard time": "Asia/Katmandu", "central asia standard time": "Asia/Almaty", "bangladesh standard time": "Asia/Dhaka", "myanmar standard time": "Asia/Rangoon", "se asia standard time": "Asia/Bangkok",
	"china standard time": "Asia/Shanghai", "singapore standard time": "Asia/Singapore", "w. australia standard time": "Australia/Perth", "taipei standard time": "Asia/Taipei", "tokyo standard time": "Asia/Tokyo",
	"korea standard time": "Asia/Seoul", "cen. australia standard time": "Australia/Adelaide", "aus central standard time": "Australia/Darwin", "e. australia standard time": "Australia/Brisbane",
	"aus eastern standard time": "Australia/Sydney", "west pacific standard time": "Pacific/Port_Moresby", "tasmania standard time": "Australia/Hobart", "new zealand standard time": "Pacific/Auckland",
	"fiji standard time": "Pacific/Fiji", "tonga standard time": "Pacific/Tongatapu",
}
