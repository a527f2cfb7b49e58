package show

import (
	"context"
	"errors"
	"time"

	"ebbe.example/ebbe/internal/core/delivery"
	"ebbe.example/ebbe/internal/core/followup"
	"ebbe.example/ebbe/internal/core/load"
	"ebbe.example/ebbe/internal/core/when"
	"ebbe.example/ebbe/internal/gate"
	"ebbe.example/ebbe/internal/say"
	"ebbe.example/ebbe/internal/store"
	"ebbe.example/ebbe/internal/work"
)

// Asking is a phrase as it is typed, and what it is for.
type Asking struct {
	Phrase string
	// Conversation is the one to be put off, 0 for none; Count is how many
	// letters are.
	Conversation int64
	Count        int
	// Plain leaves out conditions and load, where only a time is asked for.
	Plain bool
	// As says what else than a time may be typed: "span" for a start too,
	// "appointment" for when one is to be,
	// "times" for reminders besides, "remind" for a reminder, "recurs" for how
	// it comes again.
	As string
	// Due is what a reminder may be reckoned from.
	Due string
}

// PhraseView is a phrase as understood, and what else could be meant.
type PhraseView struct {
	Reading   *Proposal  `json:"reading,omitempty"`
	Trouble   string     `json:"trouble,omitempty"`
	Proposals []Proposal `json:"proposals"`
	Days      []DayLoad  `json:"days" doc:"The days to come, with what stands on them"`
}

// DayLoad is what stands on a day, in minutes.
type DayLoad struct {
	Date    string `json:"date" doc:"2006-01-02"`
	Weekday string `json:"weekday"`
	Number  int    `json:"number" doc:"Day of the month"`
	Planned int    `json:"planned"`
	Free    int    `json:"free" doc:"0: no time that day"`
	Tasks   int    `json:"tasks"`
	Returns int    `json:"returns"`
	Over    bool   `json:"over"`
}

// stripDays is how many days the load strip shows.
const stripDays = 14

// ReadPhrase understands a phrase for the owner, puts it into words, and
// offers other times, with what stands on the days to come.
func (a *Show) ReadPhrase(ctx context.Context, who store.Who, q Asking) (PhraseView, error) {
	return read(ctx, a, who, func(tx *store.Tx) (PhraseView, error) {
		v, err := a.Viewer(tx)
		if err != nil {
			return PhraseView{}, err
		}
		p := picker{Viewer: v, tx: tx, ask: q}
		if !q.Plain {
			if p.pace, err = v.pace(tx); err == nil {
				p.days, err = v.load(tx, stripDays, p.pace)
			}
			if err != nil {
				return PhraseView{}, err
			}
		}
		out := PhraseView{Days: make([]DayLoad, len(p.days))}
		for i, d := range p.days {
			out.Days[i] = dayLoad(d)
		}
		if out.Proposals, err = p.proposals(); err != nil || q.Phrase == "" {
			return out, err
		}
		if q.As != "" {
			if out.Reading, err = p.readAs(); err != nil {
				out.Trouble = say.Sentence(err)
			}
			return out, nil
		}
		w, err := p.read(q.Phrase)
		makes := ""
		if unknown := (*when.Error)(nil); errors.As(err, &unknown) && unknown.Spot != "" && len([]rune(unknown.Spot)) <= MaxSpot {
			makes = unknown.Spot
			p.Spots = append(p.Spots, store.Spot{Name: makes})
			w, err = p.read(q.Phrase)
		}
		if err != nil {
			out.Trouble = err.Error()
			return out, nil
		}
		reading := p.proposal(w, q.Phrase, v.far(w.Reading))
		if reading.Makes = makes; makes != "" {
			reading.Why = join("a new place, named with this", reading.Why)
		}
		out.Reading = &reading
		return out, nil
	})
}

// ReadyPhrase is a phrase that was read before anybody typed it.
type ReadyPhrase struct {
	Typed string     `json:"typed" doc:"The phrase as somebody would type it"`
	Until *time.Time `json:"until,omitempty" doc:"From when on it would mean another time"`
	Proposal
}

// ReadyPhrases reads what the owner may type while the page has no server to
// read it.
func (a *Show) ReadyPhrases(ctx context.Context, who store.Who) ([]ReadyPhrase, error) {
	return read(ctx, a, who, func(tx *store.Tx) ([]ReadyPhrase, error) {
		v, err := a.Viewer(tx)
		if err != nil {
			return nil, err
		}
		p := picker{Viewer: v, tx: tx, ask: Asking{Plain: true}}
		out := []ReadyPhrase{}
		for _, phrase := range when.Foreseen(v.Now, v.Cal) {
			w, err := p.read(phrase.Text)
			if err != nil {
				return nil, err
			}
			ready := ReadyPhrase{Typed: phrase.Text, Proposal: p.proposal(w, phrase.Text, v.far(w.Reading))}
			if !phrase.Until.IsZero() {
				ready.Until = &phrase.Until
			}
			out = append(out, ready)
		}
		return out, nil
	})
}

func dayLoad(d load.Day) DayLoad {
	return DayLoad{
		Date: d.Date.String(), Weekday: d.Date.Weekday().String()[:3], Number: d.Date.Day, Planned: int(d.Planned.Minutes()), Free: int(d.Free.Minutes()),
		Tasks: d.Tasks, Returns: d.Returns, Over: d.Over(0),
	}
}

// pace is how long a decision takes the person.
func (v Viewer) pace(tx *store.Tx) (time.Duration, error) {
	at, err := tx.DecisionTimes(v.Now.AddDate(0, 0, -load.PaceDays))
	return load.Pace(at), err
}

// load weighs the days to come.
func (v Viewer) load(tx *store.Tx, days int, pace time.Duration) ([]load.Day, error) {
	tasks, err := tx.Tasks(v.Cal.Begins(v.Cal.Today(v.Now).Add(days)), v.Cal)
	if err != nil {
		return nil, err
	}
	end := v.Cal.Begins(v.Cal.Today(v.Now).Add(days))
	appointments, err := tx.AppointmentsBetween(v.Now, end, maxListed)
	if err != nil {
		return nil, err
	}
	var busy []load.Busy
	for _, a := range appointments {
		if a.TakesTime(a.Reply) {
			busy = append(busy, load.Busy{From: a.Start.UTC, To: a.End})
		}
	}
	g, err := gate.Of(tx)
	if err != nil {
		return nil, err
	}
	for _, b := range g.Common.Bands(v.Now, end) {
		if b.Cause == delivery.Closed {
			busy = append(busy, load.Busy{From: b.From, To: b.To})
		}
	}
	return load.Days(days, v.Now, v.Cal, tasks, tx.CountReturnsBetween, pace, busy, float64(v.Person.Share)/100)
}

// picker offers times for one asking.
type picker struct {
	Viewer
	tx   *store.Tx
	ask  Asking
	days []load.Day
	pace time.Duration
}

// extra is the work that the letters in question add to a day.
func (p picker) extra() time.Duration { return time.Duration(max(p.ask.Count, 1)) * p.pace }

func (p picker) read(phrase string) (when.Wish, error) {
	if p.ask.Plain {
		r, err := when.Read(phrase, p.Now, p.Cal)
		return when.Wish{Reading: r}, err
	}
	return when.ReadWish(phrase, p.Now, p.Cal, SpotNames(p.Spots))
}

// readAs reads what is more than a time.
func (p picker) readAs() (*Proposal, error) {
	switch p.ask.As {
	case "span":
		s, err := when.ReadSpan(p.ask.Phrase, p.Now, p.Cal)
		if err != nil {
			return nil, err
		}
		return &Proposal{Phrase: s.Canonical(), Words: followup.SpeakSpan(s, p.Now, p.Cal), Why: p.far(s.Due), At: timeOf(s.Due.Moment)}, nil
	case "appointment":
		return p.readAppointment()
	case "times":
		t, err := followup.ReadTimes(p.ask.Phrase, p.Now, p.Cal)
		if err != nil {
			return nil, err
		}
		return &Proposal{Phrase: t.Phrase, Words: t.Words}, nil
	case "remind":
		r, words, err := followup.ReadReminding(p.ask.Phrase, p.Now, p.Cal)
		if err != nil {
			return nil, err
		}
		out := &Proposal{Phrase: r.Phrase(p.Cal), Words: words}
		if due, err := when.Read(p.ask.Due, p.Now, p.Cal); r.Relative != nil && err == nil {
			at := followup.RemindAt(r, nil, &due.Moment, p.Cal)
			out.Why, out.At = p.speak(at), timeOf(at)
		}
		return out, nil
	case "recurs":
		r, err := followup.ReadRecurrence(p.ask.Phrase, p.Now, p.Cal)
		if err != nil {
			return nil, err
		}
		out := &Proposal{Phrase: p.ask.Phrase, Words: r.String()}
		today := p.Cal.Today(p.Now)
		if next, ok, err := r.Next(today, today, today); err == nil && ok {
			out.Why = "then " + say.TrimClock(p.speak(when.OnDay(next, p.Cal)))
		}
		return out, nil
	}
	return nil, work.Invalid("kind", "Nothing is known of “%s”.", p.ask.As)
}
