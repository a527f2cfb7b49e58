package autoanswer

import (
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"ebbe.example/ebbe/internal/core/when"
)

func TestAbsence(t *testing.T) {
	oslo, err := time.LoadLocation("Europe/Oslo")
	require.NoError(t, err)
	cal, now := when.Standard(oslo), time.Date(2026, 11, 24, 9, 0, 0, 0, oslo)
	read := func(phrase string) when.Moment {
		r, err := when.Read(phrase, now, cal)
		require.NoError(t, err)
		return r.Moment
	}
	a := Absence{From: read("wed 12:00"), Back: read("30 nov"), Text: "Back on {back}. {other contact}", Contact: " Tove "}
	require.NoError(t, a.Check(now))
	assert.Equal(t, "Back on Monday 30 November. Tove\n", a.Fill(now, cal))
	for at, away := range map[time.Time]bool{
		now: false,
		time.Date(2026, 11, 25, 11, 59, 0, 0, oslo): false,
		time.Date(2026, 11, 25, 12, 0, 0, 0, oslo):  true,
		time.Date(2026, 11, 29, 23, 0, 0, 0, oslo):  true,
		time.Date(2026, 11, 30, 12, 0, 0, 0, oslo):  false,
	} {
		assert.Equal(t, away, a.On(at, cal), at)
	}
	for _, change := range []func(*Absence){
		func(a *Absence) { a.Text = " " },
		func(a *Absence) { a.Contact = "" },
		func(a *Absence) { a.From, a.Back = a.Back, a.From },
		func(a *Absence) { a.Back = when.Moment{Precision: when.Open} },
	} {
		bad := a
		change(&bad)
		assert.Error(t, bad.Check(now))
	}
	assert.Error(t, a.Check(a.Back.UTC))
}
