package app

import (
	"slices"
	"sync"
)

// News tells an open page what has changed. Kinds are the kinds of objects;
// Conversations names the ones touched, unless there are many.
type News struct {
	Kinds         []string `json:"kinds"`
	Conversations []int64  `json:"conversations,omitempty"`
	// Command is the one that changed it; the page that sent it knows already.
	Command string `json:"command,omitempty"`
}

// news collects what a step touches.
type news struct {
	kinds         []string
	conversations []int64
	many          bool
}

const named = 50

func (n *news) add(kind string, id int64) {
	if !slices.Contains(n.kinds, kind) {
		n.kinds = append(n.kinds, kind)
	}
	if kind != "conversation" || n.many || slices.Contains(n.conversations, id) {
		return
	}
	n.conversations = append(n.conversations, id)
	if len(n.conversations) > named {
		n.many, n.conversations = true, nil
	}
}

// hub passes news on to the open pages of each owner.
type hub struct {
	mu    sync.Mutex
	pages map[int64]map[chan News]bool
}

// Listen gives a channel of news for an owner, and what ends it. A page that
// does not keep up is told once that everything may have changed.
func (a *App) Listen(owner int64) (<-chan News, func()) {
	h := &a.hub
	ch := make(chan News, 32)
	h.mu.Lock()
	defer h.mu.Unlock()
	if h.pages == nil {
		h.pages = map[int64]map[chan News]bool{}
	}
	if h.pages[owner] == nil {
		h.pages[owner] = map[chan News]bool{}
	}
	h.pages[owner][ch] = true
	return ch, func() {
		h.mu.Lock()
		defer h.mu.Unlock()
		delete(h.pages[owner], ch)
	}
}

// tell passes news on and lets the scheduler look again.
func (a *App) tell(owner int64, n news, command string) {
	if len(n.kinds) == 0 {
		return
	}
	a.publish(owner, News{Kinds: n.kinds, Conversations: n.conversations, Command: command})
	a.Wake()
}

func (a *App) publish(owner int64, told News) {
	a.hub.mu.Lock()
	defer a.hub.mu.Unlock()
	for ch := range a.hub.pages[owner] {
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
			case ch <- News{Kinds: []string{"everything"}}:
			default:
			}
		}
	}
}

// Wake lets the scheduler look again: something changed, or the clock did.
func (a *App) Wake() {
	select {
	case a.wake <- struct{}{}:
	default:
	}
}

// TellAll tells every open page that everything may have changed.
func (a *App) TellAll() {
	a.hub.mu.Lock()
	owners := make([]int64, 0, len(a.hub.pages))
	for owner := range a.hub.pages {
		owners = append(owners, owner)
	}
	a.hub.mu.Unlock()
	for _, owner := range owners {
		a.publish(owner, News{Kinds: []string{"everything"}})
	}
}
