package main

import (
	"crypto/rand"
	"database/sql"
	"fmt"
	"path/filepath"
	"time"

	"ebbe.example/ebbe/internal/app"
	"ebbe.example/ebbe/internal/core/routine"
	"ebbe.example/ebbe/internal/core/rule"
)

const (
	ruled = 200
	tried = 20_000
)

// conditions are those of the i-th of many rules: of every kind that a text decides on, and hitting next
// to nothing, as most rules of a long list do.
func conditions(i int) rule.Conditions {
	value := fmt.Sprintf("nothing%d", i)
	of := []rule.Field{rule.From, rule.Domain, rule.To, rule.List, rule.Subject, rule.Text}[i%6]
	return rule.Conditions{All: []rule.Condition{{Of: of, Is: value}, {Of: rule.Subject, Is: "letter"}}}
}

// ruling measures what rules add to a round, and a rule tried on twenty thousand letters.
func (r *run) ruling() error {
	plain, err := r.roundOf("unruled.db", 0)
	if err != nil {
		return err
	}
	all, err := r.roundOf("ruled.db", ruled)
	if err != nil {
		return err
	}
	r.add(fmt.Sprintf("what %d rules add to a letter that is let in, a round of %d", ruled, held), fmt.Sprintf("%.0f µs", float64((all-plain).Microseconds())/held), fmt.Sprintf("%.0f µs: the same letter without", float64(plain.Microseconds())/held), "under 800 µs")
	return r.trying()
}

// roundOf gives the median time of a round of many letters with so many rules.
func (r *run) roundOf(file string, rules int) (time.Duration, error) {
	a, err := openAt(r.ctx, filepath.Join(r.folder, file))
	if err != nil {
		return 0, err
	}
	defer a.Store.Close()
	for i := range rules {
		name, of, steps := fmt.Sprint("Rule ", i), conditions(i), []routine.Step{{Do: routine.Star}}
		if _, err := a.NewRule(r.ctx, who, rand.Text(), app.RuleFields{Name: &name, Conditions: &of, Steps: &steps}); err != nil {
			return 0, err
		}
	}
	in, _, err := r.heldRounds(a, "Subject: Letter %[3]d\r\nMessage-ID: <held-%[3]d@people.example>")
	if err != nil {
		return 0, err
	}
	return median(in), nil
}

// trying measures rules on letters of the last 60 days.
func (r *run) trying() error {
	file, source := filepath.Join(r.folder, "tried.db"), filepath.Join(r.folder, "tried.mbox")
	if err := mbox(source, tried, 0); err != nil {
		return err
	}
	if _, err := r.importInto(file, source, tried); err != nil {
		return err
	}
	if err := r.in(file, "UPDATE letters SET received_at = ? - id * 200000", time.Now().UnixMilli()); err != nil {
		return err
	}
	a, err := openAt(r.ctx, file)
	if err != nil {
		return err
	}
	defer a.Store.Close()
	db, err := sql.Open("sqlite3", "file:"+file+"?_query_only=1")
	if err != nil {
		return err
	}
	defer db.Close()
	floor, err := times(10, scanned(db, "SELECT from_name, from_email, recipients, list_id, subject, kind, parts, received_at FROM letters WHERE own = 0"))
	if err != nil {
		return err
	}
	for _, c := range []struct {
		by string
		is rule.Condition
	}{
		{"subject", rule.Condition{Of: rule.Subject, Is: "ferry"}}, {"a receiver", rule.Condition{Of: rule.To, Is: "ines"}},
		{"rare words of the text", rule.Condition{Of: rule.Text, Is: "zyzzyva"}}, {"an amount", rule.Condition{Of: rule.Amount, Is: "100 EUR"}},
	} {
		n := 0
		got, err := times(10, func() error {
			run, err := a.TryRule(r.ctx, who, rule.Conditions{All: []rule.Condition{c.is}}, []routine.Step{{Do: routine.Star}})
			n = run.N
			return err
		})
		if err != nil {
			return err
		}
		r.add(fmt.Sprintf("a rule by %s tried on %d letters, of which it takes %d", c.by, tried, n), "median "+ms(median(got)), "median "+ms(median(floor))+": a bare scan of their facts", "under 300 ms")
	}
	return nil
}
