package followup

import (
	"cmp"
	"fmt"
	"math"
	"slices"
	"time"

	"ebbe.example/ebbe/internal/core/load"
	"ebbe.example/ebbe/internal/core/when"
)

// Weights say how much each reason moves a follow-up to the front. They are
// settings of the person's; only their proportions matter.
type Weights struct {
	Due      float64 `json:"due" minimum:"0" maximum:"10"`
	Priority float64 `json:"priority" minimum:"0" maximum:"10"`
	Waits    float64 `json:"waits" minimum:"0" maximum:"10" doc:"Somebody waits for it"`
	Age      float64 `json:"age" minimum:"0" maximum:"10"`
	Fits     float64 `json:"fits" minimum:"0" maximum:"10" doc:"It fits into what is left of the day"`
}

// UsualWeights are those that a new person starts with.
var UsualWeights = Weights{Due: 5, Priority: 4, Waits: 2, Age: 1, Fits: 0.5}

// Check tells what is wrong with weights, for the person.
func (w Weights) Check() error {
	sum := 0.0
	for _, x := range []float64{w.Due, w.Priority, w.Waits, w.Age, w.Fits} {
		if math.IsNaN(x) || x < 0 || x > 10 {
			return fmt.Errorf("a weight goes from 0 to 10")
		}
		sum += x
	}
	if sum == 0 {
		return fmt.Errorf("at least one weight must be more than 0")
	}
	return nil
}

// Standing is what a follow-up's place in the order follows from.
type Standing struct {
	ID       int64
	Due      *when.Moment
	Priority Priority
	MadeAt   time.Time
	Estimate time.Duration // 0 where none is set
	// Waiter is who waits for it, and Since when; "" for nobody. Key tells that
	// it is a key person.
	Waiter string
	Since  time.Time
	Key    bool
}

// Now is the time and the day at which an order is computed.
type Now struct {
	At       time.Time
	Calendar when.Calendar
	// Free is what is left of today's time.
	Free time.Duration
}

// Ranked is a follow-up in its place.
type Ranked struct {
	ID    int64
	Score float64
}

// Score is the weighted sum of five terms, each between 0 and 1:
//
//	due       late: 1 - 1/(4 + 2·days late); ahead: 3/4 · 2^(-hours ahead/36); 0 without one
//	priority  urgent 1, high 2/3, normal 1/3, low 0
//	waits     1 - 2^(-days waiting/3), halfway nearer to 1 for a key person; 0 if nobody waits
//	age       1 - 2^(-days since it was made/14)
//	fits      1 if its estimate (15 min without one) fits into what is left of today
//
// Each rises, or stays, with an earlier due, a higher priority, a longer wait
// and a greater age, and so does the sum.
func (s Standing) Score(w Weights, n Now) float64 {
	score := 0.0
	for _, p := range s.points(w, n) {
		score += p
	}
	return score
}

func days(d time.Duration) float64 { return max(0, d.Hours()/24) }

// points are the weighted terms: due, priority, waits, age, fits.
func (s Standing) points(w Weights, n Now) [5]float64 {
	due := 0.0
	if at, ok := s.dueAt(n.Calendar); ok {
		if late := n.At.Sub(at); late >= 0 {
			due = 1 - 1/(4+2*days(late))
		} else {
			due = 0.75 * math.Exp2(late.Hours()/36)
		}
	}
	waits := 0.0
	if s.Waiter != "" {
		waits = 1 - math.Exp2(-days(n.At.Sub(s.Since))/3)
		if s.Key {
			waits = (1 + waits) / 2
		}
	}
	estimate := s.Estimate
	if estimate == 0 {
		estimate = load.UsualEstimate
	}
	fits := 0.0
	if n.Free > 0 && estimate <= n.Free {
		fits = 1
	}
	return [5]float64{
		w.Due * due, w.Priority * float64(3-s.Priority.Rank()) / 3, w.Waits * waits, w.Age * (1 - math.Exp2(-days(n.At.Sub(s.MadeAt))/14)), w.Fits * fits,
	}
}

// words say what each of the terms comes from; "" for what needs no words.
func (s Standing) words(n Now) [5]string {
	out := [5]string{0: s.dueInWords(n)}
	if n.Free <= littleTime { // of a whole day everything is a part
		out[4] = fmt.Sprintf("fits into the %d min left", int(n.Free.Minutes()))
	}
	if s.Priority == Urgent || s.Priority == High {
		out[1] = string(s.Priority)
	}
	out[2] = s.Waiter + " waits"
	if s.Key {
		out[2] = s.Waiter + ", a key person, waits"
	}
	if d := int(days(n.At.Sub(s.Since))); d > 0 {
		out[2] += " " + counted(d, "day")
	}
	if d := int(days(n.At.Sub(s.MadeAt))); d >= 7 {
		out[3] = "here for " + counted(d, "day")
	}
	return out
}

// littleTime is when it begins to count what still fits.
const littleTime = 90 * time.Minute

// dueAt is the instant after which it is late: for a day its end.
func (s Standing) dueAt(c when.Calendar) (time.Time, bool) {
	if s.Due == nil || s.Due.Precision == when.Open {
		return time.Time{}, false
	}
	if s.Due.Precision == when.ToDay {
		return c.Begins(s.Due.Day(c).Add(1)), true
	}
	return s.Due.UTC, true
}

func (s Standing) dueInWords(n Now) string {
	at, ok := s.dueAt(n.Calendar)
	if !ok {
		return ""
	}
	if late := n.At.Sub(at); late >= 0 {
		if late < 24*time.Hour {
			return "late since " + at.In(n.Calendar.Zone).Format("15:04")
		}
		return "late by " + counted(int(days(late)), "day")
	}
	away := n.Calendar.Today(n.At).DaysUntil(s.Due.Day(n.Calendar))
	switch {
	case s.Due.Precision == when.ToMinute && at.Sub(n.At) < 3*time.Hour:
		return "due in " + short(at.Sub(n.At))
	case away <= 0:
		return "due today"
	case away == 1:
		return "due tomorrow"
	}
	return "due in " + counted(away, "day")
}

func short(d time.Duration) string {
	if m := int(d.Minutes()); m < 60 {
		return fmt.Sprintf("%d min", m)
	}
	return fmt.Sprintf("%d h %02d min", int(d.Hours()), int(d.Minutes())%60)
}

func counted(n int, what string) string {
	if n == 1 {
		return "1 " + what
	}
	return fmt.Sprintf("%d %ss", n, what)
}

// Order ranks follow-ups, the one to do first in front; ties go by id.
func Order(list []Standing, w Weights, n Now) []Ranked {
	out := make([]Ranked, len(list))
	for i, s := range list {
		out[i] = Ranked{ID: s.ID, Score: s.Score(w, n)}
	}
	slices.SortFunc(out, func(a, b Ranked) int { return cmp.Or(cmp.Compare(b.Score, a.Score), cmp.Compare(a.ID, b.ID)) })
	return out
}

// Explain says why a follow-up stands where it stands, the strongest reason
// first, three at most.
func Explain(s Standing, w Weights, n Now) []string {
	points, words := s.points(w, n), s.words(n)
	reasons := []int{0, 1, 2, 3, 4}
	slices.SortStableFunc(reasons, func(a, b int) int { return cmp.Compare(points[b], points[a]) })
	out := []string{}
	for _, i := range reasons {
		if points[i] > 0 && words[i] != "" && len(out) < 3 {
			out = append(out, words[i])
		}
	}
	return out
}
