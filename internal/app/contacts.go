package app

import (
	"context"
	"slices"

	"ebbe.example/ebbe/internal/core/change"
	"ebbe.example/ebbe/internal/core/contact"
	"ebbe.example/ebbe/internal/core/kinds"
	"ebbe.example/ebbe/internal/say"
	"ebbe.example/ebbe/internal/store"
	"ebbe.example/ebbe/internal/work"
)

// MaxContacts bounds how many correspondents are written down, and how many a file brings.
const MaxContacts = 20_000

// WroteContact is what became of writing somebody down.
type WroteContact struct {
	Decided
	ID      int64  `json:"id"`
	Address string `json:"address,omitempty" doc:"By which they are opened"`
}

// WriteContact writes down who a correspondent is; id is 0 for somebody who was not written down before.
func (a *App) WriteContact(ctx context.Context, who store.Who, command string, id int64, c contact.Contact) (WroteContact, error) {
	cmd := work.Command{ID: command, Who: who, Actor: work.ByPerson, Kind: "contact"}
	return run(ctx, a, cmd, func(s *step) (WroteContact, error) {
		c, err := contact.Clean(c)
		if err != nil {
			return WroteContact{}, work.Invalid("contact", "%s", say.Sentence(err))
		}
		list, err := s.Contacts()
		if err != nil {
			return WroteContact{}, err
		}
		book := contactBook(slices.DeleteFunc(slices.Clone(list), func(o store.Contact) bool { return o.ID == id }))
		for _, e := range c.Emails {
			if _, taken := book[e]; taken {
				return WroteContact{}, work.Invalid("emails", "%s is written down for somebody else.", e)
			}
		}
		s.Title = "Wrote down who " + say.Shorten(c.Name, 60) + " is"
		var changes change.List
		if id == 0 {
			if len(list) >= MaxContacts {
				return WroteContact{}, work.Refuse("%d correspondents are written down at most.", MaxContacts)
			}
			if id, err = s.newContact(c, &changes); err != nil {
				return WroteContact{}, err
			}
		} else {
			was, err := contactOf(list, id)
			if err != nil {
				return WroteContact{}, err
			}
			become(was, c, &changes)
		}
		out := WroteContact{Decided: Decided{Entry: s.ID, Title: s.Title}, ID: id}
		if len(c.Emails) > 0 {
			out.Address = c.Emails[0]
		}
		return out, s.Change(changes)
	})
}

// DropContact forgets what was written down of somebody. Their letters stay.
func (a *App) DropContact(ctx context.Context, who store.Who, command string, id int64) (Decided, error) {
	cmd := work.Command{ID: command, Who: who, Actor: work.ByPerson, Kind: "contact"}
	return run(ctx, a, cmd, func(s *step) (Decided, error) {
		list, err := s.Contacts()
		if err != nil {
			return Decided{}, err
		}
		was, err := contactOf(list, id)
		if err != nil {
			return Decided{}, err
		}
		s.Title = "Forgot what was written down of " + say.Shorten(was.Name, 60)
		var changes change.List
		kinds.Contact.Alive.Set(&changes, id, true, false)
		return Decided{Entry: s.ID, Title: s.Title}, s.Change(changes)
	})
}

// TookContacts is what became of a file of vCards.
type TookContacts struct {
	Decided
	Added  int              `json:"added"`
	Joined int              `json:"joined" doc:"Were there, and have something more now"`
	Unread []contact.Unread `json:"unread" doc:"Cards that could not be read"`
}

// TakeContacts writes down whom a file of vCards names. Whoever was there keeps what was written down, and
// gets what is new.
func (a *App) TakeContacts(ctx context.Context, who store.Who, command string, file []byte) (TookContacts, error) {
	read, troubles := contact.Read(file)
	cmd := work.Command{ID: command, Who: who, Actor: work.ByPerson, Kind: "contact"}
	return run(ctx, a, cmd, func(s *step) (TookContacts, error) {
		out := TookContacts{Unread: troubles}
		if len(read) == 0 && len(troubles) == 0 {
			return out, work.Invalid("file", "There is no vCard in that file.")
		}
		list, err := s.Contacts()
		if err != nil {
			return out, err
		}
		if len(list)+len(read) > MaxContacts {
			return out, work.Refuse("%d correspondents are written down at most.", MaxContacts)
		}
		known := contactBook(list)
		var changes change.List
		for _, c := range read {
			i, ok := known.Of(c)
			if !ok {
				if _, err := s.newContact(c, &changes); err != nil {
					return out, err
				}
				out.Added++
				continue
			}
			c.Emails = slices.DeleteFunc(c.Emails, func(e string) bool { at, ok := known[e]; return ok && at != i })
			both, err := contact.Joined(list[i].Contact, c)
			if err != nil {
				out.Unread = append(out.Unread, contact.Unread{Name: c.Name, What: err.Error()})
				continue
			}
			before := len(changes)
			become(list[i], both, &changes)
			if len(changes) > before {
				out.Joined++
			}
		}
		s.Title = "Wrote down " + say.Count(out.Added, "correspondent") + " of a file"
		out.Decided = Decided{Entry: s.ID, Title: s.Title}
		return out, s.Change(changes)
	})
}

func (s *step) newContact(c contact.Contact, changes *change.List) (int64, error) {
	id, err := s.AddContact(c)
	kinds.Contact.Alive.Set(changes, id, false, true)
	return id, err
}

func contactBook(list []store.Contact) contact.Book {
	out := contact.Book{}
	for i, c := range list {
		out.Put(i, c.Contact)
	}
	return out
}

func contactOf(list []store.Contact, id int64) (store.Contact, error) {
	i := slices.IndexFunc(list, func(c store.Contact) bool { return c.ID == id })
	if i < 0 {
		return store.Contact{}, work.Gone("Nothing is written down of them any more.")
	}
	return list[i], nil
}

// become changes what is written down of somebody.
func become(was store.Contact, now contact.Contact, changes *change.List) {
	kinds.Contact.Name.Set(changes, was.ID, was.Name, now.Name)
	kinds.Contact.Emails.Set(changes, was.ID, was.Emails, now.Emails)
	kinds.Contact.Phones.Set(changes, was.ID, was.Phones, now.Phones)
	kinds.Contact.Org.Set(changes, was.ID, was.Org, now.Org)
	kinds.Contact.Note.Set(changes, was.ID, was.Note, now.Note)
}
