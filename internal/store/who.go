package store

import "cmp"

// Who says for whom something is read or done: the person who acts and reads,
// and the inbox that is acted on, which is a person's own or one that several
// share. Persons and shared inboxes have ids of one space; rows belong to an
// inbox (their owner), marks such as stars to a person.
type Who struct {
	// Person is 0 for what runs by itself: the clock, a letter that arrives.
	Person int64
	Inbox  int64
}

// Own is a person at their own inbox.
func Own(person int64) Who { return Who{Person: person, Inbox: person} }

// Nobody is what runs by itself on an inbox.
func Nobody(inbox int64) Who { return Who{Inbox: inbox} }

// Settings is whose days, weeks and words apply: the person's, or where nobody
// acts those of the inbox.
func (w Who) Settings() int64 { return cmp.Or(w.Person, w.Inbox) }
