package app

import (
	"maps"
	"slices"
	"sync"

	"ebbe.example/ebbe/internal/store"
)

// News tells an open page what has changed. Kinds are the kinds of objects;
// Conversations names the ones touched, unless there are many.
type News struct {
	Kinds         []string `json:"kinds"`
	Conversations []int64  `json:"conversations,omitempty"`
	// Command is the one that changed it; the page that sent it knows already.
	Command string `json:"command,omitempty"`
	// person is whom alone it is about; 0 for everybody at the inbox.
	person int64
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

// hub passes news on to the open pages of each inbox.
type hub struct {
	mu    sync.Mutex
	pages map[int64]map[chan News]int64 // whose page each is
}

// Listen gives a channel of news of an inbox, and what ends it. A page that
// does not keep up is told once that everything may have changed.
func (a *App) Listen(who store.Who) (<-chan News, func()) {
	h := &a.hub
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
func (a *App) tell(who store.Who, n news, command string) {
	if len(n.kinds) == 0 {
		return
	}
	a.publish(who.Inbox, News{Kinds: n.kinds, Conversations: n.conversations, Command: command})
	a.Wake()
}

// publish passes news on to the pages of an inbox, or only to those of the person
// whom they are about.
func (a *App) publish(inbox int64, told News) {
	a.hub.mu.Lock()
	defer a.hub.mu.Unlock()
	for ch, person := range a.hub.pages[inbox] {
		if told.person != 0 && told.person != person {
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
	inboxes := slices.Collect(maps.Keys(a.hub.pages))
	a.hub.mu.Unlock()
	for _, inbox := range inboxes {
		a.publish(inbox, News{Kinds: []string{"everything"}})
	}
}
