package work

import (
	"context"
	"maps"
	"slices"
	"sync"

	"ebbe.example/ebbe/internal/core/change"
	"ebbe.example/ebbe/internal/core/decide"
	"ebbe.example/ebbe/internal/store"
)

// News tells an open page what has changed.
type News struct {
	// Everything tells that all of what the page reads may be stale; Stale what is.
	Everything bool      `json:"everything,omitempty"`
	Stale      []Reading `json:"stale"`
	// Conversations names the ones touched, unless there are many.
	Conversations []int64 `json:"conversations,omitempty"`
	// Command is the one that changed it; the page that sent it knows already.
	Command string `json:"command,omitempty"`
	// Person is whom alone it is about; 0 for everybody at the inbox.
	Person int64 `json:"-"`
}

// news collects what a step touches.
type news struct {
	kinds         []change.Kind
	also          []Reading
	conversations []int64
	many          bool
}

// Named is how many things are named one by one, at most.
const Named = 50

// add notes an object that is touched.
func (n *news) add(o change.Object) {
	if !slices.Contains(n.kinds, o.Kind) {
		n.kinds = append(n.kinds, o.Kind)
	}
	if o.Kind != decide.Conversation.Kind || n.many || slices.Contains(n.conversations, o.ID) {
		return
	}
	n.conversations = append(n.conversations, o.ID)
	if len(n.conversations) > Named {
		n.many, n.conversations = true, nil
	}
}

// join adds what another step has collected.
func (n *news) join(o news) {
	for _, k := range o.kinds {
		if !slices.Contains(n.kinds, k) {
			n.kinds = append(n.kinds, k)
		}
	}
	n.also, n.many = append(n.also, o.also...), n.many || o.many
	for _, c := range o.conversations {
		n.add(decide.Conversation.Of(c))
	}
	if n.many {
		n.conversations = nil
	}
}

// touched tells whether an object of one of the kinds was touched.
func (n *news) touched(kinds []change.Kind) bool {
	return slices.ContainsFunc(n.kinds, func(k change.Kind) bool { return slices.Contains(kinds, k) })
}

// stale is all that a step makes stale.
func (n *news) stale() []Reading {
	out := []Reading{}
	add := func(list []Reading) {
		for _, r := range list {
			if !slices.Contains(out, r) {
				out = append(out, r)
			}
		}
	}
	for _, k := range n.kinds {
		add(stale[k])
	}
	add(n.also)
	if len(out) > 0 {
		add(bySteps)
	}
	return out
}

// Made is what a command has made stale, for whoever gave it.
type Made struct {
	// Everything is said where it isn't known: the command was carried out before.
	Everything bool
	Stale      []Reading
}

type madeKey struct{}

// Watch lets whoever gives commands learn what they have made stale.
func Watch(ctx context.Context) (context.Context, *Made) {
	m := &Made{}
	return context.WithValue(ctx, madeKey{}, m), m
}

// made notes for whoever watches what has become stale.
func made(ctx context.Context, everything bool, stale []Reading) {
	if m, ok := ctx.Value(madeKey{}).(*Made); ok {
		m.Everything = m.Everything || everything
		m.Stale = append(m.Stale, stale...)
	}
}

// hub passes news on to the open pages of each inbox.
type hub struct {
	mu    sync.Mutex
	pages map[int64]map[chan News]int64 // whose page each is
}

// Listen gives a channel of news of an inbox, and what ends it. A page that
// does not keep up is told once that everything may have changed.
func (w *Work) Listen(who store.Who) (<-chan News, func()) {
	h := &w.hub
	ch := make(chan News, 32)
	h.mu.Lock()
	defer h.mu.Unlock()
	if h.pages == nil {
		h.pages = map[int64]map[chan News]int64{}
	}
	if h.pages[who.Inbox] == nil {
		h.pages[who.Inbox] = map[chan News]int64{}
	}
	h.pages[who.Inbox][ch] = who.Person
	return ch, func() {
		h.mu.Lock()
		defer h.mu.Unlock()
		delete(h.pages[who.Inbox], ch)
	}
}

// tell passes news on and lets the scheduler look again.
func (w *Work) tell(who store.Who, n news, command string) {
	made := n.stale()
	if len(made) == 0 {
		return
	}
	w.Publish(who.Inbox, News{Stale: made, Conversations: n.conversations, Command: command})
	w.Wake()
}

// Publish passes news on to the pages of an inbox, or only to those of the person
// whom they are about.
func (w *Work) Publish(inbox int64, told News) {
	w.hub.mu.Lock()
	defer w.hub.mu.Unlock()
	for ch, person := range w.hub.pages[inbox] {
		if told.Person != 0 && told.Person != person {
			continue
		}
		select {
		case ch <- told:
		default:
			// The buffer is full of older news; one that says "everything"
			// replaces the oldest.
			select {
			case <-ch:
			default:
			}
			select {
			case ch <- News{Everything: true, Stale: []Reading{}}:
			default:
			}
		}
	}
}

// Wake lets the scheduler look again: something changed, or the clock did.
func (w *Work) Wake() {
	select {
	case w.wake <- struct{}{}:
	default:
	}
}

// TellAll tells every open page that everything may have changed.
func (w *Work) TellAll() {
	w.hub.mu.Lock()
	inboxes := slices.Collect(maps.Keys(w.hub.pages))
	w.hub.mu.Unlock()
	for _, inbox := range inboxes {
		w.Publish(inbox, News{Everything: true, Stale: []Reading{}})
	}
}
