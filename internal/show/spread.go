package show

import (
	"context"
	"time"

	"ebbe.example/ebbe/internal/core/load"
	"ebbe.example/ebbe/internal/core/when"
	"ebbe.example/ebbe/internal/store"
	"ebbe.example/ebbe/internal/work"
)

// SpreadView is how several letters would be put off over several days.
type SpreadView struct {
	Days []SpreadDay  `json:"days"`
	Each []SpreadTime `json:"each"`
}

// SpreadDay is a day, and how many letters would come back on it.
type SpreadDay struct {
	DayLoad
	Label string `json:"label"`
	Count int    `json:"count"`
}

// SpreadTime is when one conversation would come back.
type SpreadTime struct {
	ID     int64  `json:"id"`
	Phrase string `json:"phrase"`
}

// spans are the stretches over which letters can be spread.
var spans = map[string]func(c when.Calendar, today when.Date) (from, to when.Date){
	"week": func(c when.Calendar, today when.Date) (from, to when.Date) { return today.Add(1), c.WeekEnd(today) },
	"next-week": func(c when.Calendar, today when.Date) (from, to when.Date) {
		end := c.WeekEnd(today)
		return end.Add(1), end.Add(7)
	},
	"two-weeks": func(_ when.Calendar, today when.Date) (from, to when.Date) {
		return today.Add(1), today.Add(stripDays - 1)
	},
}

// Spread proposes when conversations come back, in their order, so that each
// day stays as far from full as can be. Nothing is changed.
func (a *Show) Spread(ctx context.Context, who store.Who, on []int64, over string) (SpreadView, error) {
	return read(ctx, a, who, func(tx *store.Tx) (SpreadView, error) {
		out := SpreadView{Days: []SpreadDay{}, Each: []SpreadTime{}}
		span, ok := spans[over]
		if !ok {
			return out, work.Invalid("over", "Spread over this week, next week or two weeks.")
		}
		v, err := a.Viewer(tx)
		if err != nil {
			return out, err
		}
		pace, err := v.pace(tx)
		if err != nil {
			return out, err
		}
		today := v.Cal.Today(v.Now)
		from, to := span(v.Cal, today)
		days, err := v.load(tx, today.DaysUntil(to)+1, pace)
		if err != nil {
			return out, err
		}
		days = workdays(days[today.DaysUntil(from):], v.Cal)
		if len(days) == 0 {
			return out, work.Refuse("There is no working day left this week.")
		}
		for _, d := range days {
			out.Days = append(out.Days, SpreadDay{DayLoad: dayLoad(d), Label: v.Cal.Instant(d.Date, when.At(12, 0)).Format("Mon 2 Jan")})
		}
		for i, at := range load.Spread(days, len(on), pace) {
			m := when.OnDay(days[at].Date, v.Cal)
			out.Each = append(out.Each, SpreadTime{ID: on[i], Phrase: m.Canonical(v.Cal)})
			out.Days[at].Count++
		}
		for i := range out.Days {
			out.Days[i].Over = days[i].Over(time.Duration(out.Days[i].Count) * pace)
		}
		return out, nil
	})
}

func workdays(days []load.Day, c when.Calendar) []load.Day {
	var out []load.Day
	for _, d := range days {
		if c.Works(d.Date) {
			out = append(out, d)
		}
	}
	return out
}
