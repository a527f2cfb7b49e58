package show

import (
	"context"

	"ebbe.example/ebbe/internal/core/when"
	"ebbe.example/ebbe/internal/store"
)

// SettingsView is how the person's days run, and what they call times.
type SettingsView struct {
	Zone       string      `json:"zone" doc:"IANA name"`
	WeekStart  int         `json:"weekStart" doc:"0 is Sunday"`
	DayTurn    string      `json:"dayTurn" doc:"15:04"`
	DayStart   string      `json:"dayStart"`
	DayEnd     string      `json:"dayEnd"`
	Evening    string      `json:"evening"`
	Workdays   []int       `json:"workdays" doc:"0 is Sunday"`
	MonthFirst bool        `json:"monthFirst" doc:"3/4 is 4 March"`
	Share      int         `json:"share" doc:"How much of the free time is planned with, in percent"`
	Times      []NamedTime `json:"times"`
	SendDelay  int         `json:"sendDelay" doc:"How long a letter waits before it leaves, in seconds"`
	LookDay    int         `json:"lookDay" doc:"On which day someday letters are looked through; 0 is Sunday"`
	LookCount  int         `json:"lookCount" doc:"How many at a time; 0 for none"`
}

// NamedTime is a time that the person has a name for.
type NamedTime struct {
	when.Named
	Reads string `json:"reads" doc:"What it means now; empty when it has passed"`
}

// Settings gives the person's settings.
func (a *Show) Settings(ctx context.Context, who store.Who) (SettingsView, error) {
	return read(ctx, a, who, func(tx *store.Tx) (SettingsView, error) {
		v, err := a.Viewer(tx)
		if err != nil {
			return SettingsView{}, err
		}
		c := v.Cal
		evening := c.Evening
		if evening == 0 {
			evening = max(when.At(18, 0), c.DayEnd)
		}
		out := SettingsView{
			Zone: v.Person.Zone, WeekStart: v.Person.WeekStart, DayTurn: c.DayTurn.String(), DayStart: c.DayStart.String(), DayEnd: c.DayEnd.String(),
			Evening: evening.String(), Workdays: []int{}, MonthFirst: c.MonthFirst, Share: v.Person.Share, Times: []NamedTime{},
			SendDelay: v.Person.SendDelay, LookDay: v.Person.LookDay, LookCount: v.Person.LookCount,
		}
		for d, works := range c.Workdays {
			if works {
				out.Workdays = append(out.Workdays, d)
			}
		}
		for _, n := range c.Named {
			t := NamedTime{Named: n}
			if r, err := when.Read(n.Name, v.Now, c); err == nil {
				t.Reads = v.speak(r.Moment)
			}
			out.Times = append(out.Times, t)
		}
		return out, nil
	})
}
