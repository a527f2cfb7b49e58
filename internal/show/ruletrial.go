package show

import (
	"context"
	"fmt"
	"slices"
	"strings"
	"time"

	"ebbe.example/ebbe/internal/core/decide"
	"ebbe.example/ebbe/internal/core/learning"
	"ebbe.example/ebbe/internal/core/routine"
	"ebbe.example/ebbe/internal/core/rule"
	"ebbe.example/ebbe/internal/say"
	"ebbe.example/ebbe/internal/store"
)

const (
	// DryDays is how many days of what came a rule is tried on, MostTried how many letters of them.
	DryDays   = 60
	MostTried = 50_000
	// shownTaken is how many of the letters that it would take are shown.
	shownTaken = 50
)

// DryRun is what a rule would have done.
type DryRun struct {
	// Off is what is wrong with it; the rest is empty then.
	Off   string `json:"off,omitempty"`
	Words string `json:"words" doc:"What it would do"`
	N     int    `json:"n" doc:"How many letters of the last 60 days it would have taken"`
	Of    int    `json:"of" doc:"Of how many"`
	// Here is how many of what waits for a decision it would take.
	Here    int     `json:"here" doc:"How many of those in the inbox and the Shallows it would take"`
	Letters []Taken `json:"letters" doc:"The newest of them"`
	// Against is what speaks against it: what was done otherwise with these letters.
	Against []string `json:"against"`
	// People is how many of them people wrote whom it would take out of sight.
	People int `json:"people,omitempty" doc:"How many that people wrote it would take out of sight"`
}

// Taken is a letter that a rule would have taken.
type Taken struct {
	Conversation int64     `json:"conversation"`
	From         string    `json:"from"`
	Subject      string    `json:"subject"`
	At           time.Time `json:"at"`
	Did          string    `json:"did,omitempty" doc:"What was decided on it, in words"`
	Otherwise    bool      `json:"otherwise,omitempty" doc:"That was something else than the rule would do"`
}

// TryRule says what a rule would have done with what came in the last days, and what speaks against it.
func (a *Show) TryRule(ctx context.Context, who store.Who, c rule.Conditions, steps []routine.Step) (DryRun, error) {
	return read(ctx, a, who, func(tx *store.Tx) (DryRun, error) {
		out := DryRun{Letters: []Taken{}, Against: []string{}}
		v, err := a.Viewer(tx)
		if err != nil {
			return out, err
		}
		r := rule.Rule{Conditions: c, Steps: steps}
		if err := c.Check(); err != nil {
			out.Off = say.Sentence(err)
			if err == rule.ErrUnconditional { //nolint:errorlint // it is given as it is
				all, err := tx.RuledSince(v.Now.Add(-DryDays*24*time.Hour), MostTried, r.Needs)
				out.N, out.Of = len(all), len(all)
				return out, err
			}
			return out, nil
		}
		if err := routine.CheckRule(steps); err != nil {
			out.Off = say.Sentence(err)
		} else {
			about, err := v.with(tx, store.Row{})
			if err != nil {
				return out, err
			}
			words, trouble := routine.InWords(steps, about.About)
			if out.Words = words; trouble != nil {
				out.Off = say.Sentence(trouble)
			}
		}
		on, err := trialOf(tx, v, r)
		if err != nil {
			return out, err
		}
		all, taken, err := on.lately(tx)
		if err != nil {
			return out, err
		}
		out.N, out.Of = len(taken), len(all)
		if err := out.compare(tx, r, taken); err != nil {
			return out, err
		}
		out.Here, err = on.here(tx, all, taken)
		return out, err
	})
}

// trial is a rule that is tried on letters.
type trial struct {
	Viewer
	rule.Rule
	set *rule.Set
	may map[int64]bool // the letters that may say what it looks for; nil for any
	tx  *store.Tx
}

func trialOf(tx *store.Tx, v Viewer, r rule.Rule) (trial, error) {
	r.ID, r.Off, r.Until = 1, false, time.Time{}
	if len(r.Steps) == 0 {
		r.Steps = []routine.Step{{Do: routine.Star}}
	}
	may, err := tx.MaySay(r.Texts())
	return trial{v, r, rule.Of([]rule.Rule{r}), may, tx}, err
}

// takes are those of some letters that the rule takes.
func (t trial) takes(letters []store.Ruled) (taken []store.Ruled) {
	for _, l := range letters {
		l.At = l.At.In(t.Cal.Zone)
		// Most letters need not be read for what they don't say.
		if t.may == nil && len(t.Texts()) > 0 || t.may[l.Letter] || t.Has(rule.Amount) && l.Amount {
			l.Text = func() string { return t.tx.ReadText(l.Letter) }
		}
		if len(t.set.Judge(l.Facts, t.Now)) > 0 {
			taken = append(taken, l)
		}
	}
	return taken
}

// lately are the letters of the last days, and those of them that the rule would have taken.
func (t trial) lately(tx *store.Tx) (all, taken []store.Ruled, err error) {
	all, err = tx.RuledSince(t.Now.Add(-DryDays*24*time.Hour), MostTried, t.Needs)
	return all, t.takes(all), err
}

// here counts what of the inbox and the Shallows it would take. Some letters have been tried before.
func (t trial) here(tx *store.Tx, tried, taken []store.Ruled) (n int, err error) {
	newest, err := tx.NewestIn([]decide.Place{decide.Inbox, decide.Shallows})
	if err != nil {
		return 0, err
	}
	known := make(map[int64]bool, len(tried))
	for _, l := range tried {
		known[l.Letter] = false
	}
	for _, l := range taken {
		known[l.Letter] = true
	}
	var others []int64
	for _, id := range newest {
		if takes, ok := known[id]; !ok {
			others = append(others, id)
		} else if takes {
			n++
		}
	}
	rest, err := tx.RuledLetters(others, t.Needs)
	return n + len(t.takes(rest)), err
}

// TakenOfPeople counts the letters of the last days that people wrote and that a rule would have
// taken out of sight.
func (a *Show) TakenOfPeople(tx *store.Tx, r rule.Rule, now time.Time) (int, error) {
	v, err := a.Viewer(tx)
	if err != nil || !rule.Away(r.Steps) {
		return 0, err
	}
	v.Now = now
	on, err := trialOf(tx, v, r)
	if err != nil {
		return 0, err
	}
	_, taken, err := on.lately(tx)
	return ofPeople(taken), err
}

func ofPeople(taken []store.Ruled) (n int) {
	for _, l := range taken {
		if rule.OfPerson(l.Kind) {
			n++
		}
	}
	return n
}

// compare fills in what was done with the letters that a rule would have taken.
func (out *DryRun) compare(tx *store.Tx, r rule.Rule, taken []store.Ruled) error {
	if rule.Away(r.Steps) {
		out.People = ofPeople(taken)
	}
	lessons, err := tx.Lessons()
	if err != nil {
		return err
	}
	did := make(map[int64]learning.Outcome, len(lessons))
	for _, l := range lessons {
		if l.Outcome.Decided() != "" {
			did[l.Letter] = l.Outcome
		}
	}
	var done []rule.Done
	for _, l := range taken {
		done = append(done, rule.Done{Letter: l.Letter, Kind: did[l.Letter].Decided()})
	}
	otherwise := rule.Otherwise(r.Steps, done)
	counts := map[decide.Kind]int{}
	for i := range taken {
		if otherwise[i] {
			counts[done[i].Kind]++
		}
	}
	newest := max(0, len(taken)-shownTaken)
	if err := out.list(tx, done[newest:], otherwise[newest:]); err != nil {
		return err
	}
	for _, about := range decide.Kinds {
		if n := counts[about.Kind]; n > 0 {
			out.Against = append(out.Against, fmt.Sprintf("%s %d of these %d yourself", strings.ToLower(about.Did), n, len(taken)))
		}
	}
	if out.People > 0 {
		out.Against = append(out.Against, fmt.Sprintf("people wrote %d of these %d", out.People, len(taken)))
	}
	return nil
}

// list fills in the letters that are shown, of which done and otherwise tell the oldest first.
func (out *DryRun) list(tx *store.Tx, done []rule.Done, otherwise []bool) error {
	ids := make([]int64, len(done))
	for i, d := range done {
		ids[i] = d.Letter
	}
	letters, err := tx.RuledLetters(ids, shownOfTaken)
	of := make(map[int64]store.Ruled, len(letters))
	for _, l := range letters {
		of[l.Letter] = l
	}
	for i, d := range slices.Backward(done) {
		l, ok := of[d.Letter]
		if !ok {
			continue
		}
		t := Taken{Conversation: l.Conversation, From: l.From.Display(), Subject: l.Subject, At: l.At, Otherwise: otherwise[i]}
		if d.Kind != "" {
			t.Did = d.Kind.About().Did
		}
		out.Letters = append(out.Letters, t)
	}
	return err
}

// shownOfTaken are the fields that are shown of a letter that a rule would have taken.
func shownOfTaken(f rule.Field) bool { return f == rule.From || f == rule.Subject || f == rule.Hours }
