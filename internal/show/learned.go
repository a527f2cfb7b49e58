package show

import (
	"cmp"
	"context"
	"strings"
	"sync"

	"ebbe.example/ebbe/internal/core/decide"
	"ebbe.example/ebbe/internal/core/learning"
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
