package app

import (
	"fmt"
	"slices"
	"strings"

	"ebbe.example/ebbe/internal/core/change"
	"ebbe.example/ebbe/internal/core/decide"
	"ebbe.example/ebbe/internal/core/kinds"
	"ebbe.example/ebbe/internal/core/waiting"
	"ebbe.example/ebbe/internal/core/when"
	"ebbe.example/ebbe/internal/say"
	"ebbe.example/ebbe/internal/show"
	"ebbe.example/ebbe/internal/store"
	"ebbe.example/ebbe/internal/work"
)

// wish understands when letters are to come back, at the step's time.
func (s *step) wish(phrase string) (when.Wish, int64, error) {
	p, err := s.Person()
	if err != nil {
		return when.Wish{}, 0, err
	}
	spots, err := s.Spots()
	if err != nil {
		return when.Wish{}, 0, err
	}
	w, err := when.ReadWish(phrase, s.At, p.Calendar(), show.SpotNames(spots))
	if err != nil {
		return when.Wish{}, 0, work.Invalid("when", "%s", err)
	}
	i := slices.IndexFunc(spots, func(o store.Spot) bool { return w.Spot != "" && o.Name == w.Spot })
	if i < 0 {
		return w, 0, nil
	}
	if spots[i].ID == p.SpotID {
		return w, 0, work.Invalid("when", "You are at “%s” now. Name another place, or a time.", w.Spot)
	}
	return w, spots[i].ID, nil
}

// await begins to wait for the answer without which, or with which, a put-off
// conversation comes back.
func (s *step) await(row store.Row, w when.Wish) error {
	person, err := s.whom(row, w.Who)
	if err != nil {
		return err
	}
	e := store.Expectation{Expectation: waiting.Expectation{Conversation: row.ID, Since: s.At, Persons: []string{person}}, ForReturn: true}
	if w.Timed() {
		e.Until = &w.Moment
	}
	id, err := s.AddExpectation(e)
	if err != nil {
		return err
	}
	var changes change.List
	kinds.Expectation.Alive.Set(&changes, id, false, true)
	return s.Change(changes)
}

// whom finds the person of a conversation whose answer is meant: the one
// named, or who wrote last.
func (s *step) whom(row store.Row, name string) (string, error) {
	if name == "" {
		if row.From.Email == "" {
			return "", work.Invalid("when", "Nobody else is in “%s”. Name a time.", say.Shorten(row.Title(), 40))
		}
		return row.From.Key(), nil
	}
	persons, err := s.Persons(row.ID)
	if err != nil {
		return "", err
	}
	for _, email := range persons {
		called := strings.ToLower(s.nameOf(email) + " " + email)
		if slices.ContainsFunc(strings.Fields(called), func(w string) bool { return strings.HasPrefix(w, name) }) || strings.Contains(called, name) {
			return email, nil
		}
	}
	return "", work.Invalid("when", "Nobody called “%s” is in “%s”.", name, say.Shorten(row.Title(), 40))
}

// release ends the waiting that earlier put-offs of the conversations began:
// whatever is decided now takes its place.
func (s *step) release(rows []seenRow) (change.List, error) {
	var ids []int64
	for _, r := range rows {
		if r.Return != nil || r.Back != nil {
			ids = append(ids, r.ID)
		}
	}
	if len(ids) == 0 {
		return nil, nil
	}
	open, err := s.ForReturns(ids)
	var changes change.List
	for _, e := range open {
		kinds.Expectation.State.Set(&changes, e.ID, e.State, waiting.Dropped)
	}
	return changes, err
}

// wishes are the times at which the conversations of one decision come back.
type wishes struct {
	all  *wished
	each map[int64]wished
}

type wished struct {
	when.Wish
	spot int64
}

func (s *step) wishesFor(d Deciding) (wishes, error) {
	out := wishes{each: map[int64]wished{}}
	if d.When == "" && len(d.Each) == 0 {
		if d.Kind == decide.PutOff {
			return out, work.Invalid("when", "Later needs a time.")
		}
		return out, nil
	}
	if d.When != "" {
		w, spot, err := s.wish(d.When)
		if err != nil {
			return out, err
		}
		out.all = &wished{w, spot}
	}
	for id, phrase := range d.Each {
		w, spot, err := s.wish(phrase)
		if err != nil {
			return out, err
		}
		out.each[id] = wished{w, spot}
	}
	return out, nil
}

// put fills in when a conversation comes back, and begins to wait for what
// that depends on.
func (ws wishes) put(s *step, row store.Row, d *decide.Decision) error {
	w, ok := ws.each[row.ID]
	if !ok {
		if ws.all == nil {
			if d.Kind == decide.PutOff {
				return work.Invalid("when", "Later needs a time for “%s”.", say.Shorten(row.Title(), 40))
			}
			return nil
		}
		w = *ws.all
	}
	moment := w.Moment
	d.When, d.If, d.Spot, d.Who = &moment, w.If, w.spot, w.Who
	if w.If.Awaits() {
		return s.await(row, w.Wish)
	}
	return nil
}

// inWords says when the conversations come back, for the Journal.
func (ws wishes) inWords(s *step) string {
	if ws.all == nil {
		return fmt.Sprintf("over %d days", len(ws.days(s)))
	}
	return s.untilWords(ws.all.Moment, ws.all.If, ws.all.Spot, ws.all.Who)
}

func (ws wishes) days(s *step) map[string]bool {
	days := map[string]bool{}
	for _, w := range ws.each {
		days[s.speak(w.Moment)] = true
	}
	return days
}

// untilWords says until when, or until what, something is put off.
func (s *step) untilWords(m when.Moment, on when.Condition, spot, who string) string {
	return say.Until(s.speak(m), m.Precision != when.Open, on, spot, who)
}
