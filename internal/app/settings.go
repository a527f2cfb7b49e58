package app

import (
	"context"
	"encoding/json"
	"slices"
	"strings"
	"time"

	"ebbe.example/ebbe/internal/core/change"
	"ebbe.example/ebbe/internal/core/kinds"
	"ebbe.example/ebbe/internal/core/sending"
	"ebbe.example/ebbe/internal/core/when"
	"ebbe.example/ebbe/internal/say"
	"ebbe.example/ebbe/internal/show"
	"ebbe.example/ebbe/internal/store"
	"ebbe.example/ebbe/internal/work"
)

// SettingsFields are the settings that can be changed; nil leaves one. Times
// of day are written 15:04.
type SettingsFields struct {
	Zone                               *string
	DayTurn, DayStart, DayEnd, Evening *string
	WeekStart, Share, SendDelay        *int
	LookDay, LookCount                 *int
	Workdays                           *[]int
	MonthFirst                         *bool
	Times                              *[]when.Named
}

// EditSettings changes how the person's days run. Times that were set before
// keep their wall-clock time.
func (a *App) EditSettings(ctx context.Context, who store.Who, command string, f SettingsFields) (Decided, error) {
	cmd := work.Command{ID: command, Who: who, Actor: work.ByPerson, Kind: "settings", Title: "Changed settings"}
	return run(ctx, a, cmd, func(s *step) (Decided, error) {
		p, err := s.Person()
		if err != nil {
			return Decided{}, err
		}
		changes, err := settingChanges(p, f, s.At)
		if err != nil {
			return Decided{}, err
		}
		s.Stale(work.ReadSettings, work.ReadPhrase)
		return Decided{Entry: s.ID, Title: s.Title}, s.Change(changes)
	})
}

func settingChanges(p store.Person, f SettingsFields, now time.Time) (change.List, error) {
	var changes change.List
	if f.Zone != nil {
		if _, err := time.LoadLocation(*f.Zone); err != nil || *f.Zone == "" || *f.Zone == "Local" {
			return nil, work.Invalid("zone", "“%s” is not a time zone. Try one such as Europe/Oslo.", *f.Zone)
		}
		kinds.Person.Zone.Set(&changes, p.ID, p.Zone, *f.Zone)
	}
	start, end := p.DayStart, p.DayEnd
	for _, m := range []struct {
		typed *string
		field change.Field[int]
		was   int
		into  *int
	}{{f.DayTurn, kinds.Person.DayTurn, p.DayTurn, nil}, {f.DayStart, kinds.Person.DayStart, p.DayStart, &start}, {f.DayEnd, kinds.Person.DayEnd, p.DayEnd, &end}, {f.Evening, kinds.Person.Evening, p.Evening, nil}} {
		if m.typed == nil {
			continue
		}
		t, err := time.Parse("15:04", *m.typed)
		if err != nil {
			return nil, work.Invalid("times", "“%s” is not a time of day. Write it as 08:30.", *m.typed)
		}
		minutes := t.Hour()*60 + t.Minute()
		if m.into != nil {
			*m.into = minutes
		}
		m.field.Set(&changes, p.ID, m.was, minutes)
	}
	if start >= end {
		return nil, work.Invalid("dayEnd", "The working day must begin before it ends.")
	}
	if f.DayTurn != nil && *f.DayTurn > "12:00" {
		return nil, work.Invalid("dayTurn", "The day can turn at noon at the latest.")
	}
	if f.WeekStart != nil {
		if *f.WeekStart < 0 || *f.WeekStart > 6 {
			return nil, work.Invalid("workdays", "A week begins on one of seven days.")
		}
		kinds.Person.WeekStart.Set(&changes, p.ID, p.WeekStart, *f.WeekStart)
	}
	if f.LookDay != nil {
		if *f.LookDay < 0 || *f.LookDay > 6 {
			return nil, work.Invalid("lookDay", "Someday letters come up on one of seven days.")
		}
		kinds.Person.LookDay.Set(&changes, p.ID, p.LookDay, *f.LookDay)
	}
	if f.LookCount != nil {
		if *f.LookCount < 0 || *f.LookCount > 50 {
			return nil, work.Invalid("lookCount", "Up to 50 someday letters can come up at a time.")
		}
		kinds.Person.LookCount.Set(&changes, p.ID, p.LookCount, *f.LookCount)
	}
	if f.Share != nil {
		if *f.Share < 5 || *f.Share > 100 {
			return nil, work.Invalid("share", "Plan with 5 to 100 percent of the free time.")
		}
		kinds.Person.Share.Set(&changes, p.ID, p.Share, *f.Share)
	}
	if f.SendDelay != nil {
		if err := sending.CheckDelay(time.Duration(*f.SendDelay) * time.Second); err != nil {
			return nil, work.Invalid("sendDelay", "%s", say.Sentence(err))
		}
		kinds.Person.SendDelay.Set(&changes, p.ID, p.SendDelay, *f.SendDelay)
	}
	if f.Workdays != nil {
		bits := 0
		for _, d := range *f.Workdays {
			if d < 0 || d > 6 {
				return nil, work.Invalid("workdays", "A week has seven days.")
			}
			bits |= 1 << d
		}
		kinds.Person.Workdays.Set(&changes, p.ID, p.Workdays, bits)
	}
	if f.MonthFirst != nil {
		kinds.Person.MonthFirst.Set(&changes, p.ID, p.MonthFirst, *f.MonthFirst)
	}
	if f.Times != nil {
		text, err := namedTimes(*f.Times, p.Calendar(), now)
		if err != nil {
			return nil, err
		}
		kinds.Person.NamedTimes.Set(&changes, p.ID, p.NamedTimes, text)
	}
	return changes, nil
}

// maxTimes bounds how many named times a person has.
const maxTimes = 30

// namedTimes checks the person's names for times, and writes them down.
func namedTimes(list []when.Named, c when.Calendar, now time.Time) (string, error) {
	if len(list) > maxTimes {
		return "", work.Invalid("times", "That is more than %d named times.", maxTimes)
	}
	bare := c
	bare.Named = nil
	seen := map[string]bool{}
	for i := range list {
		n := &list[i]
		n.Name, n.Phrase, n.Key = strings.Join(strings.Fields(n.Name), " "), strings.TrimSpace(n.Phrase), strings.ToLower(strings.TrimSpace(n.Key))
		low := strings.ToLower(n.Name)
		usual := slices.ContainsFunc(when.UsualTimes, func(u when.Named) bool { return u.Name == low })
		switch {
		case n.Name == "" || len(n.Name) > show.MaxSpot:
			return "", work.Invalid("times", "A named time needs a name of at most %d characters.", show.MaxSpot)
		case seen[low] || n.Key != "" && seen["key:"+n.Key]:
			return "", work.Invalid("times", "Two named times are called “%s”, or have one key.", n.Name)
		case len([]rune(n.Key)) > 1:
			return "", work.Invalid("times", "The key of “%s” is one letter or digit.", n.Name)
		}
		seen[low], seen["key:"+n.Key] = true, true
		if _, err := when.Read(n.Name, now, bare); err == nil && !usual {
			return "", work.Invalid("times", "“%s” means a time already. Choose another name.", n.Name)
		}
		if _, err := readable(n.Phrase, c, bare, now); err != nil {
			return "", work.Invalid("times", "“%s”: %v", n.Name, err)
		}
	}
	text, err := json.Marshal(list)
	return string(text), err
}

// readable reads a phrase as on the morning of a day, when nothing has passed.
func readable(phrase string, c, bare when.Calendar, now time.Time) (when.Reading, error) {
	return when.Read(phrase, c.Instant(c.Today(now), c.DayTurn), bare)
}
