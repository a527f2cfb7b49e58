package app

import (
	"context"
	"time"

	"ebbe.example/ebbe/internal/show"
	"ebbe.example/ebbe/internal/store"
)

// lookedBack are the months of a year's charts and of the year beside it.
const lookedBack = 24

// LookBack reads what the days of everybody's last two years came to, a month at a time, so that
// the charts of a year are there at once when they are first looked at after a start. Where it
// fails, they are read once they are looked at.
func (a *App) LookBack(ctx context.Context) {
	people, err := a.Store.People(ctx)
	if err != nil && ctx.Err() == nil {
		a.Log.Error("days that are over are not read ahead", "reason", err)
	}
	for _, p := range people {
		date := ""
		for range lookedBack {
			began := time.Now()
			days, err := a.Days(ctx, store.Own(p.ID), show.AMonth, date)
			if ctx.Err() != nil {
				return
			}
			if err != nil {
				a.Log.Error("days that are over are not read ahead", "person", p.ID, "reason", err)
				break
			}
			date = days.Before
			makeWay(ctx, time.Since(began))
		}
	}
}
