package app

import (
	"context"
	"errors"
	"slices"
	"strings"
	"sync"

	"ebbe.example/ebbe/internal/core/change"
	"ebbe.example/ebbe/internal/core/junk"
	"ebbe.example/ebbe/internal/core/kinds"
	"ebbe.example/ebbe/internal/core/letter"
	"ebbe.example/ebbe/internal/store"
	"ebbe.example/ebbe/internal/work"
)

const (
	junkKind = "junk-settings"
	// mostExamples is of how many letters of each side junk is learned, readAtOnce how many are read
	// at a time.
	mostExamples = 1500
	readAtOnce   = 50
)

// junkLearned is what was learned of junk, for each inbox whose owner wishes it. It is learned beside
// all else: until that is done, nothing is like junk.
type junkLearned struct {
	mu sync.Mutex
	of map[int64]*junkOf
}

type junkOf struct {
	model    *junk.Model
	from     []store.JunkExample
	features map[int64][]string
}

// why says what makes a letter like the junk of an inbox; "" where it is not sure.
func (j *junkLearned) why(inbox int64, l letter.Letter) string {
	j.mu.Lock()
	of := j.of[inbox]
	j.mu.Unlock()
	if of == nil || of.model == nil {
		return ""
	}
	p, because := of.model.Of(junk.Features(l))
	if p < junk.Takes {
		return ""
	}
	return strings.Join(because, ", ")
}

// known is what was learned of an inbox; nil for nothing.
func (j *junkLearned) known(inbox int64) *junkOf {
	j.mu.Lock()
	defer j.mu.Unlock()
	return j.of[inbox]
}

func (j *junkLearned) keep(of map[int64]*junkOf) {
	j.mu.Lock()
	defer j.mu.Unlock()
	j.of = of
}

// LearnJunk learns anew what is junk, where its owner wishes that and what lies there is not as it was.
// An inbox of which that fails keeps what was learned before.
func (a *App) LearnJunk(ctx context.Context) error {
	a.learning.Lock()
	defer a.learning.Unlock()
	inboxes, err := a.Store.JunkLearners(ctx)
	if err != nil {
		return err
	}
	now := map[int64]*junkOf{}
	var failed error
	for _, inbox := range inboxes {
		before := a.junk.known(inbox)
		of, err := a.learnJunk(ctx, inbox, before)
		if now[inbox] = of; err != nil {
			now[inbox], failed = before, errors.Join(failed, err)
		} else if of != before {
			a.Publish(inbox, work.News{Stale: []work.Reading{work.ReadJunk}})
		}
	}
	a.junk.keep(now)
	return failed
}

func (a *App) learnJunk(ctx context.Context, inbox int64, before *junkOf) (*junkOf, error) {
	list, err := read(ctx, a, store.Nobody(inbox), func(tx *store.Tx) ([]store.JunkExample, error) { return tx.JunkExamples(mostExamples) })
	if err != nil {
		return nil, err
	}
	if before == nil {
		before = &junkOf{}
	} else if slices.Equal(before.from, list) {
		return before, nil
	}
	out := &junkOf{from: list, features: make(map[int64][]string, len(list))}
	for some := range slices.Chunk(list, readAtOnce) {
		_, err := read(ctx, a, store.Nobody(inbox), func(tx *store.Tx) (struct{}, error) {
			for _, e := range some {
				features, ok := before.features[e.Letter]
				if raw, err := []byte(nil), error(nil); !ok {
					if raw, err = tx.Original(e.Letter); err != nil {
						if store.Unavailable(err) != "" || ctx.Err() != nil {
							return struct{}{}, err
						}
						a.Log.Warn("a letter can't be learned from", "letter", e.Letter, "reason", err)
						continue // a damaged one teaches nothing
					}
					features = junk.Features(letter.Parse(raw))
				}
				out.features[e.Letter] = features
			}
			return struct{}{}, nil
		})
		if err != nil {
			return nil, err
		}
	}
	examples := make([]junk.Example, 0, len(list))
	for _, e := range list {
		if features, ok := out.features[e.Letter]; ok {
			examples = append(examples, junk.Example{Features: features, Junk: e.Junk})
		}
	}
	out.model = junk.Learn(examples)
	return out, nil
}

// JunkView is how junk is learned.
type JunkView struct {
	Learn bool `json:"learn" doc:"What is like what lies in Junk is put there"`
	// Junk and Fine are how many letters it was learned from.
	Junk   int `json:"junk"`
	Fine   int `json:"fine"`
	Fewest int `json:"fewest" doc:"So many of each it takes to say anything"`
	Since  int `json:"since" doc:"Conversations that came into Junk since the letter that was asked for"`
}

// Junk tells how junk is learned, and how much came since a letter.
func (a *App) Junk(ctx context.Context, who store.Who, since int64) (JunkView, error) {
	return read(ctx, a, who, func(tx *store.Tx) (JunkView, error) {
		p, err := tx.InboxSettings()
		if err != nil {
			return JunkView{}, err
		}
		out := JunkView{Learn: p.LearnJunk, Fewest: junk.Fewest}
		if of := a.junk.known(who.Inbox); of != nil && p.LearnJunk {
			for _, e := range of.from {
				if e.Junk {
					out.Junk++
				} else {
					out.Fine++
				}
			}
		}
		n, err := tx.JunkSince(since)
		out.Since = int(n)
		return out, err
	})
}

// SetJunk settles whether letters are put into Junk that are like what lies there, from now on.
func (a *App) SetJunk(ctx context.Context, who store.Who, command string, learn bool) (Decided, error) {
	cmd := work.Command{ID: command, Who: who, Actor: work.ByPerson, Kind: junkKind, Title: "Junk is no longer learned"}
	if learn {
		cmd.Title = "Junk is learned from what you put there"
	}
	return run(ctx, a, cmd, func(s *step) (Decided, error) {
		p, err := s.InboxSettings()
		if err != nil {
			return Decided{}, err
		}
		var changes change.List
		kinds.Person.LearnJunk.Set(&changes, p.ID, p.LearnJunk, learn)
		return Decided{Entry: s.ID, Title: s.Title}, s.Change(changes)
	})
}
