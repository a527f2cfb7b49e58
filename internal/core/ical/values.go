package ical

import (
	"cmp"
	"fmt"
	"regexp"
	"strconv"
	"strings"
	"time"

	"ebbe.example/ebbe/internal/core/when"
)

// Stamp is the form of an instant (RFC 5545, 3.3.5, form 2), for package time.
const Stamp = "20060102T150405Z"

// Time reads a DATE or DATE-TIME with its parameters (RFC 5545, 3.3.4 and
// 3.3.5). A floating time, or one of a zone that is not known, is the person's
// own wall-clock time.
func Time(text string, params map[string][]string, c when.Calendar) (*when.Moment, error) {
	if t, err := time.Parse("20060102", text); err == nil {
		m := when.OnDay(when.Date{Year: t.Year(), Month: t.Month(), Day: t.Day()}, c)
		return &m, nil
	}
	if t, err := time.Parse(Stamp, text); err == nil {
		m := when.Exact(t, c)
		return &m, nil
	}
	t, err := time.Parse("20060102T150405", text)
	if err != nil {
		return nil, fmt.Errorf("“%s” is not a time", text)
	}
	zone := c
	if id := params["TZID"]; len(id) > 0 {
		if loaded, err := time.LoadLocation(strings.Trim(id[0], `"`)); err == nil && id[0] != "" && id[0] != "Local" {
			zone.Zone = loaded
		}
	}
	y, m, d := t.Date()
	exact := when.Exact(zone.Instant(when.Date{Year: y, Month: m, Day: d}, when.At(t.Hour(), t.Minute())), c)
	return &exact, nil
}

var before = regexp.MustCompile(`^([+-]?)P(?:(\d+)W)?(?:(\d+)D)?(?:T(?:(\d+)H)?(?:(\d+)M)?(?:\d+S)?)?$`)

// longest bounds the durations that are read.
const longest = 100 * 365 * 24 * time.Hour

// Duration reads a DURATION (RFC 5545, 3.3.6), negative ones too; ok is false for
// one that is none, or beyond a hundred years.
func Duration(text string) (d time.Duration, ok bool) {
	m := before.FindStringSubmatch(text)
	if m == nil {
		return 0, false
	}
	for i, unit := range []time.Duration{7 * 24 * time.Hour, 24 * time.Hour, time.Hour, time.Minute} {
		n, err := strconv.Atoi(cmp.Or(m[i+2], "0"))
		if err != nil || n > int(longest/unit) {
			return 0, false
		}
		d += time.Duration(n) * unit
	}
	if d > longest {
		return 0, false
	}
	if m[1] == "-" {
		d = -d
	}
	return d, true
}
