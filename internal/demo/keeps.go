package demo

import (
	"fmt"
	"time"

	"ebbe.example/ebbe/internal/app"
	"ebbe.example/ebbe/internal/core/followup"
	"ebbe.example/ebbe/internal/core/waiting"
	"ebbe.example/ebbe/internal/core/when"
)

// finish brings the clock to the demo's morning. Nothing is done there: of the
// day itself the Journal has only what comes by itself.
func (w *world) finish() error {
	w.nothing = time.Time{}
	return w.until(today, 8*60+20)
}

// noted is what she has noted for herself, by how many working days ago.
var noted = map[int][]string{
	30: {"Ideas for a night-scented border, someday, low", "Guides' rota, every first monday, 45 min, for Winter walks", "Water the ferns in house 2, every fri, 15 min, at the orangery"},
	12: {"Ask for the old glasshouse plans, someday, low, 15 min, for Orangery"},
	4:  {"Renew the seed-bank agreement, 30 nov, 60 min, for Seed exchange, stage With somebody, owner Henrik Aas", "Read the pollinator study, 27 nov, low, 40 min, for Reading"},
	2:  {"Two pages on the seed exchange, 25 nov to 26 nov, high, 90 min, for Board, stage To draft, remind 1 day before at 14:00"},
	1: {
		"Send the lift height to Bram, tomorrow 12:00, urgent, 10 min, for Bromeliad loan, by phone, remind tomorrow 11:30",
		"Sign form 7 and send it back, tomorrow 15:00, high, 20 min, for Permits",
		"Print the final list of walks, tomorrow 17:00, 10 min, for Winter walks, stage To print, at the office",
	},
}

// meetings are in her calendar, by how many working days ago she put them there.
var meetings = map[int][]struct{ title, when, place string }{
	6: {{"Seed exchange, with the board", "26 nov 13 to 14:30", "Main house"}, {"Delivery of the crates", "27 nov 10 to 12", "East gate"}},
	3: {{"Orangery: walk round the panes", "24 nov 11:00 to 11:45", "Orangery"}, {"Guides' rota", "24 nov 17:30 to 18:15", "Tea room"}},
}

// keep is what she does for herself at the end of a working day.
func (w *world) keep(d when.Date) error {
	w.nothing = time.Time{}
	if d == first {
		for _, name := range stages {
			if _, err := w.app.NewStage(w.ctx, w.who, w.command(), app.StageFields{Name: &name}); err != nil {
				return fmt.Errorf("%q: %w", name, err)
			}
		}
		for _, name := range places {
			if _, err := w.app.NewSpot(w.ctx, w.who, w.command(), name); err != nil {
				return fmt.Errorf("%q: %w", name, err)
			}
		}
		if err := w.prepare(); err != nil {
			return err
		}
	}
	if err := w.makeRules(d); err != nil {
		return err
	}
	for ago, lines := range noted {
		for _, line := range lines {
			if d != w.workday(ago) {
				break
			}
			if _, err := w.app.Capture(w.ctx, w.who, w.command(), line); err != nil {
				return fmt.Errorf("%q: %w", line, err)
			}
		}
	}
	for ago, some := range meetings {
		for _, one := range some {
			if d != w.workday(ago) {
				break
			}
			if _, err := w.app.NewAppointment(w.ctx, w.who, w.command(), app.AppointmentFields{Title: &one.title, When: &one.when, Place: &one.place}, 0); err != nil {
				return fmt.Errorf("%q: %w", one.title, err)
			}
		}
	}
	if d != w.workday(1) {
		return nil
	}
	if err := w.write(); err != nil {
		return err
	}
	return w.tidy()
}

// tidy leaves one follow-up and one answer late; Ines keeps her lists short.
func (w *world) tidy() error {
	followUps, err := w.app.FollowUps(w.ctx, w.who, false)
	if err != nil {
		return err
	}
	latest := -1 // the one that is late the least
	for i, f := range followUps {
		if f.Late && (latest < 0 || f.DueAt.After(*followUps[latest].DueAt)) {
			latest = i
		}
	}
	for i, f := range followUps {
		if f.Late && i != latest {
			done := followup.Done
			if _, err := w.app.EditFollowUp(w.ctx, w.who, w.command(), f.ID, app.FollowUpFields{Status: &done}, 0); err != nil {
				return err
			}
		}
	}
	expected, err := w.app.WaitingList(w.ctx, w.who, false)
	if err != nil {
		return err
	}
	latest = -1
	for i, e := range expected {
		if e.Late && (latest < 0 || e.Since.After(expected[latest].Since)) {
			latest = i
		}
	}
	for i, e := range expected {
		if e.Late && i != latest {
			met := waiting.Met
			if _, err := w.app.EditWaiting(w.ctx, w.who, w.command(), e.ID, &met, nil, false); err != nil {
				return err
			}
		}
	}
	return nil
}
