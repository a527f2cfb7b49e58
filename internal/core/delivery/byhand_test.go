package delivery

import (
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
)

func TestInForce(t *testing.T) {
	c := calendar(t, "Europe/Oslo")
	nine, ten := at(c, "2026-11-24 09:00"), at(c, "2026-11-24 10:00")
	hold := func(account int64) ByHand { return ByHand{Account: account, Hold: Hold{From: nine, All: true}} }
	opening := func(account int64) ByHand { return ByHand{Account: account, Opens: true, Hold: Hold{From: ten}} }
	for name, c := range map[string]struct {
		list []ByHand
		want OneOff
	}{
		"nothing":                    {nil, OneOff{}},
		"a hold of all":              {[]ByHand{hold(0)}, OneOff{Hold: &Hold{From: nine, All: true}}},
		"one of the account":         {[]ByHand{hold(1)}, OneOff{Hold: &Hold{From: nine, All: true}}},
		"one of another":             {[]ByHand{hold(2)}, OneOff{}},
		"the latest counts":          {[]ByHand{opening(0), hold(1)}, OneOff{Opened: ten}},
		"what concerns it":           {[]ByHand{opening(2), hold(1)}, OneOff{Hold: &Hold{From: nine, All: true}}},
		"an opening of this account": {[]ByHand{opening(1), hold(0)}, OneOff{Opened: ten}},
	} {
		assert.Equal(t, c.want, InForce(c.list, 1), name)
	}
}

func TestBandsOfDaysThatHavePassed(t *testing.T) {
	c := calendar(t, "Europe/Oslo")
	day := func(clock string) time.Time { return at(c, "2026-11-24 "+clock) }
	first, second := NewGate(plan(t, "daily 8; closed 9-11; quiet 17-22"), c), NewGate(plan(t, "daily closed 10-12"), c)
	band := func(from, to string, cause Cause) Band { return Band{day(from), day(to), cause} }
	from, to := day("06:00"), day("20:00")
	for name, c := range map[string]struct {
		plans []Since
		want  []Band
	}{
		"no plan":                      {nil, nil},
		"one from before":              {[]Since{{day("00:00"), first}}, []Band{band("09:00", "11:00", Closed), band("17:00", "20:00", Quiet)}},
		"one that came in its middle":  {[]Since{{day("10:00"), first}}, []Band{band("10:00", "11:00", Closed), band("17:00", "20:00", Quiet)}},
		"another from ten on":          {[]Since{{day("00:00"), first}, {day("10:00"), second}}, []Band{band("09:00", "10:00", Closed), band("10:00", "12:00", Closed)}},
		"taken away and put back":      {[]Since{{day("00:00"), first}, {day("09:30"), NewGate(Plan{}, c)}, {day("18:00"), first}}, []Band{band("09:00", "09:30", Closed), band("18:00", "20:00", Quiet)}},
		"one that comes the day after": {[]Since{{day("00:00"), second}, {day("23:00"), first}}, []Band{band("10:00", "12:00", Closed)}},
	} {
		assert.Equal(t, c.want, BandsSince(c.plans, from, to), name)
	}
	overlap := NewGate(plan(t, "daily quiet 6-12; closed 8-9, 10-14"), c)
	assert.Equal(t, []Band{band("06:00", "08:00", Quiet), band("08:00", "09:00", Closed), band("09:00", "10:00", Quiet), band("10:00", "14:00", Closed)}, overlap.Bands(from, to), "a closed block is stronger")
	holds := []Hold{{From: day("05:00"), Until: ptr(day("07:00"))}, {From: day("08:00"), Until: ptr(day("08:00"))}, {From: day("19:00")}}
	assert.Equal(t, []Band{band("06:00", "07:00", Held), band("19:00", "20:00", Held)}, HoldBands(holds, from, to))
}

func TestNoticesInQuietHours(t *testing.T) {
	all := Notification{Browser: true, Sound: true, Count: true}
	for _, c := range []struct {
		cause   Cause
		precise bool
		want    bool
	}{{Quiet, false, false}, {Quiet, true, true}, {Closed, false, true}, {Held, false, true}, {Flowing, false, true}} {
		assert.Equal(t, c.want, all.In(State{Cause: c.cause}, c.precise).Any(), "%s, precise: %v", c.cause, c.precise)
	}
	assert.False(t, Notification{}.In(State{Open: true, Cause: Flowing}, true).Any(), "off")
}
