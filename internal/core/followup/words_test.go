package followup

import (
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"ebbe.example/ebbe/internal/core/when"
)

func TestRulesInWords(t *testing.T) {
	for rule, words := range map[string]string{
		"FREQ=DAILY":                             "every day",
		"FREQ=WEEKLY;INTERVAL=2":                 "every 2 weeks",
		"FREQ=WEEKLY;BYDAY=TU;COUNT=10":          "every tuesday, 10 times",
		"FREQ=WEEKLY;BYDAY=MO,WE,FR":             "every monday, wednesday and friday",
		"FREQ=WEEKLY;BYDAY=FR,MO,TU,WE,TH":       "every workday",
		"FREQ=WEEKLY;INTERVAL=2;BYDAY=SU":        "every 2 weeks on sunday",
		"FREQ=MONTHLY;BYDAY=1MO":                 "every first monday",
		"FREQ=MONTHLY;BYDAY=FR;BYSETPOS=-1":      "every last friday",
		"FREQ=MONTHLY;BYMONTHDAY=3":              "every month on the 3rd",
		"FREQ=MONTHLY;BYMONTHDAY=-1":             "every month on the last day",
		"FREQ=MONTHLY;INTERVAL=3;BYMONTHDAY=12":  "every 3 months on the 12th",
		"FREQ=YEARLY;BYMONTH=3;BYMONTHDAY=21":    "every year on 21 march",
		"FREQ=DAILY;UNTIL=20270304T000000Z":      "every day until 4 Mar 2027",
		"FREQ=MONTHLY;BYDAY=MO":                  "every month (FREQ=MONTHLY;BYDAY=MO)",
		"FREQ=YEARLY;BYDAY=20MO":                 "every year (FREQ=YEARLY;BYDAY=20MO)",
		"FREQ=MONTHLY;BYDAY=MO,TU;BYSETPOS=2":    "every month (FREQ=MONTHLY;BYDAY=MO,TU;BYSETPOS=2)",
		"FREQ=MONTHLY;BYMONTHDAY=13;BYDAY=FR":    "every month (FREQ=MONTHLY;BYMONTHDAY=13;BYDAY=FR)",
		"FREQ=HOURLY;INTERVAL=4":                 "FREQ=HOURLY;INTERVAL=4",
		"FREQ=WEEKLY;BYDAY=TU;BYHOUR=9,12":       "every week (FREQ=WEEKLY;BYDAY=TU;BYHOUR=9,12)",
		"FREQ=MONTHLY;BYDAY=2WE;COUNT=4":         "every second wednesday, 4 times",
		"FREQ=WEEKLY;BYDAY=MO;UNTIL=20261231T0Z": "FREQ=WEEKLY;BYDAY=MO;UNTIL=20261231T0Z",
	} {
		assert.Equal(t, words, Recurrence{Rule: rule}.String(), rule)
	}
	assert.Equal(t, "2 weeks after done", Recurrence{Rule: "FREQ=WEEKLY;INTERVAL=2", AfterDone: true}.String())
}

// What a rule is called can be typed, and means the same.
func TestWordsOfRulesAreRead(t *testing.T) {
	c := when.Calendar{Zone: time.UTC}
	now := time.Date(2026, 11, 24, 9, 0, 0, 0, time.UTC)
	for _, rule := range []string{"FREQ=DAILY;INTERVAL=1", "FREQ=WEEKLY;INTERVAL=3", "FREQ=WEEKLY;BYDAY=TU", "FREQ=WEEKLY;BYDAY=MO,WE,FR", "FREQ=MONTHLY;BYDAY=-1FR", "FREQ=MONTHLY;BYMONTHDAY=-1", "FREQ=YEARLY;BYMONTH=3;BYMONTHDAY=21"} {
		read, err := ReadRecurrence(Recurrence{Rule: rule}.String(), now, c)
		require.NoError(t, err, rule)
		assert.Equal(t, rule, read.Rule)
	}
}
