package show

import (
	"cmp"
	"context"
	"strings"
	"sync"

	"ebbe.example/ebbe/internal/core/decide"
	"ebbe.example/ebbe/internal/core/learning"
	"ebbe.example/ebbe/internal/core/when"
	"ebbe.example/ebbe/internal/store"
	"ebbe.example/ebbe/internal/work"
)

// Learned keeps what was learned for each inbox, so that no list waits for it.
type Learned struct {
	mu     sync.Mutex
	models map[int64]*learning.Model
}

// Of is what was learned for the inbox of a transaction. The first time it is learned on the
// spot; from then on Renew keeps it.
func (l *Learned) Of(tx *store.Tx) (*learning.Model, error) {
	l.mu.Lock()
	defer l.mu.Unlock()
	if m := l.models[tx.Who().Inbox]; m != nil {
		return m, nil
	}
	lessons, err := tx.Lessons()
	if err != nil {
		return nil, err
	}
	m := learning.Learn(lessons)
	l.put(tx.Who().Inbox, m)
	return m, nil
}

// Renew learns anew from the lessons of an inbox. What was learned before serves meanwhile.
func (l *Learned) Renew(inbox int64, lessons []learning.Lesson) {
	m := learning.Learn(lessons)
	l.mu.Lock()
	defer l.mu.Unlock()
	l.put(inbox, m)
}

func (l *Learned) put(inbox int64, m *learning.Model) {
	if l.models == nil {
		l.models = map[int64]*learning.Model{}
	}
	l.models[inbox] = m
}

// chances are how likely some conversations matter.
func (a *Show) chances(tx *store.Tx, v Viewer, ids []int64) (map[int64]learning.Chance, error) {
	m, err := a.Learned.Of(tx)
	if err != nil || m.Lessons() == 0 {
		return nil, err
	}
	letters, err := tx.Learns(ids)
	out := make(map[int64]learning.Chance, len(letters))
	for id, l := range letters {
		if c, ok := m.Of(l.Letter, l.Facts, v.Now); ok {
			out[id] = c
		}
	}
	return out, err
}

// rank says on undecided rows that they are ranked high, and why.
func (a *Show) rank(tx *store.Tx, v Viewer, rows []Row) error {
	var ids []int64
	for _, r := range rows {
		if decide.Place(r.Place).Undecided() {
			ids = append(ids, r.ID)
		}
	}
	if len(ids) == 0 {
		return nil
	}
	chances, err := a.chances(tx, v, ids)
	for i, r := range rows {
		if c, ok := chances[r.ID]; ok && c.High() {
			rows[i].High = rankedWords(c)
		}
	}
	return err
}

// Foretold is the decision that is likely taken on a letter.
type Foretold struct {
	Kind decide.Kind `json:"kind" enum:"answer,done,later,follow-up,hand-on,file,bin"`
	// Label, When and To are with what it is taken; empty where that is not sure.
	Label string `json:"label,omitempty"`
	When  string `json:"when,omitempty" doc:"A phrase"`
	To    string `json:"to,omitempty" doc:"An address"`
	// Words say the particulars, Reason what it was learned from.
	Words  string `json:"words,omitempty"`
	Reason string `json:"reason"`
	Taken  bool   `json:"taken,omitempty" doc:"It is so sure that one key takes it"`
}

// judge says of a conversation that is undecided how likely it matters, and what is likely decided.
func (a *Show) judge(tx *store.Tx, v Viewer, c *Conversation) error {
	if !decide.Place(c.Place).Undecided() {
		return nil
	}
	m, err := a.Learned.Of(tx)
	if err != nil || m.Lessons() == 0 {
		return err
	}
	letters, err := tx.Learns([]int64{c.ID})
	l, ok := letters[c.ID]
	if err != nil || !ok {
		return err
	}
	if chance, ok := m.Of(l.Letter, l.Facts, v.Now); ok && chance.High() {
		c.High = rankedWords(chance)
	}
	f := m.Foretell(l.Facts, v.Now)
	if !f.Marked() {
		return nil
	}
	out := &Foretold{Kind: f.Decision, Reason: f.Reason, Taken: f.Taken()}
	switch {
	case f.Particulars == "":
	case f.Decision == decide.File:
		out.Label, out.Words = f.Particulars, "under "+f.Particulars
	case f.Decision == decide.PutOff:
		moment, err := when.Read(f.Particulars, v.Now, v.Cal)
		if err != nil { // it was no time but a condition, or is none any more
			out.Taken = false
			break
		}
		out.When, out.Words = f.Particulars, "until "+when.Speak(moment.Moment, v.Now, v.Cal)
	case f.Decision == decide.HandOn:
		out.To, out.Words = f.Particulars, "to "+f.Particulars
	}
	c.Foretold = out
	return nil
}

// rankedWords say why a letter is ranked high.
func rankedWords(c learning.Chance) string {
	return cmp.Or(strings.Join(c.Reasons, "; "), "as letters like it mattered")
}

// LearnedView is what was learned of a sender.
type LearnedView struct {
	Sender  string `json:"sender"`
	Letters int    `json:"letters" doc:"Of so many letters it was decided, …"`
	Acted   int    `json:"acted" doc:"… and so many were answered, followed up or handed on"`
	// Facts say the same of letters that are alike.
	Facts []string `json:"facts"`
}

// LearnedOf gives what was learned of who wrote in a conversation.
func (a *Show) LearnedOf(ctx context.Context, who store.Who, conversation int64) (LearnedView, error) {
	return read(ctx, a, who, func(tx *store.Tx) (LearnedView, error) {
		out := LearnedView{Facts: []string{}}
		m, err := a.Learned.Of(tx)
		if err != nil {
			return out, err
		}
		letters, err := tx.Learns([]int64{conversation})
		if err != nil {
			return out, err
		}
		l, ok := letters[conversation]
		if !ok {
			return out, work.Gone("Nobody else has written there.")
		}
		out.Sender = l.Sender
		s := m.Sender(l.Sender)
		out.Letters, out.Acted = s.Letters, s.Acted
		out.Facts = append(out.Facts, s.Facts...)
		return out, nil
	})
}
