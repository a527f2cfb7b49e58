package app

import (
	"context"
	"crypto/sha256"
	"encoding/hex"
	"encoding/json"
	"errors"
	"fmt"
	"slices"
	"strings"

	"ebbe.example/ebbe/internal/core/change"
	"ebbe.example/ebbe/internal/core/decide"
	"ebbe.example/ebbe/internal/core/erasing"
	"ebbe.example/ebbe/internal/core/learning"
	"ebbe.example/ebbe/internal/core/letter"
	"ebbe.example/ebbe/internal/core/waiting"
	"ebbe.example/ebbe/internal/say"
	"ebbe.example/ebbe/internal/show"
	"ebbe.example/ebbe/internal/store"
	"ebbe.example/ebbe/internal/work"
)

// ErasingView says what erasing a correspondent takes away, and what it leaves.
type ErasingView struct {
	Name    string   `json:"name"`
	Address string   `json:"address" doc:"To be typed by whoever erases them"`
	Goes    []string `json:"goes"`
	Stays   []string `json:"stays"`
	// Copies on mail servers are taken away too where that is asked for.
	Copies int    `json:"copies,omitempty"`
	Seal   string `json:"seal" doc:"Of what was said: it is erased only while nothing else would be"`
}

// Erasing says what would go if a correspondent was erased.
func (a *App) Erasing(ctx context.Context, who store.Who, address string) (ErasingView, error) {
	if address == "" {
		return ErasingView{Goes: []string{}, Stays: []string{}}, nil
	}
	return read(ctx, a, who, func(tx *store.Tx) (ErasingView, error) {
		e, err := erasingOf(tx, address)
		if err != nil {
			return ErasingView{}, err
		}
		return e.view, nil
	})
}

// Erase erases a correspondent: their letters, addresses and lessons. It can't be undone. The seal is that of what
// was said before; servers takes the copies on mail servers away too.
func (a *App) Erase(ctx context.Context, who store.Who, command, address, seal string, servers bool) (Decided, error) {
	cmd := work.Command{ID: command, Who: who, Actor: work.ByPerson, Kind: "erase", Title: "Erased a correspondent"}
	done, err := run(ctx, a, cmd, func(s *step) (Decided, error) {
		s.Final = true
		e, err := erasingOf(s.Tx, address)
		if err != nil {
			return Decided{}, err
		}
		if e.view.Seal != seal {
			return Decided{}, work.Refuse("Something has come or changed since: look again at what goes.")
		}
		e.Servers = servers
		s.Title = "Erased a correspondent, " + say.Count(len(e.Letters), "letter")
		if err := s.erase(e); err != nil {
			return Decided{}, err
		}
		s.Stale(work.Readings...)
		return Decided{Entry: s.ID, Title: s.Title, Final: true}, nil
	})
	if err != nil {
		return done, err
	}
	if err := a.Store.Settle(); err != nil { // the next one does
		a.Log.Warn("the log beside the database was not emptied", "reason", err)
	}
	if err := a.unlearned(ctx, who); err != nil { // the next decision that is learned from does
		a.Log.Error("what is left is not learned from anew", "reason", err)
	}
	return done, nil
}

// unlearned learns anew from what is left.
func (a *App) unlearned(ctx context.Context, who store.Who) error {
	a.learning.Lock()
	defer a.learning.Unlock()
	lessons, err := read(ctx, a, who, func(tx *store.Tx) ([]learning.Lesson, error) { return tx.Lessons() })
	if err == nil {
		a.Learned.Renew(who.Inbox, lessons)
	}
	return err
}

// erasure is what goes of somebody, with what is said of it.
type erasure struct {
	store.Erasing
	// mine are the parts in which only the owner's letters are left, over what is no longer waited for, and others
	// what is waited for from somebody else too.
	mine   []int64
	over   []store.Expectation
	others []store.Expectation
	begun  int // drafts that are still written on
	view   ErasingView
}

// erasingOf gathers what goes of somebody by one of their addresses.
func erasingOf(tx *store.Tx, address string) (e erasure, err error) {
	address = strings.ToLower(strings.TrimSpace(address))
	if _, err := letter.CheckAddress(address); err != nil {
		return e, work.Invalid("address", "%s", say.Sentence(err))
	}
	own, err := tx.OwnAddresses()
	if err != nil {
		return e, err
	}
	if e.People, e.Names, err = calledBy(tx, address); err != nil {
		return e, err
	}
	for _, p := range e.People {
		if _, mine := own[p]; mine {
			return e, work.Refuse("%s is your own address.", p)
		}
	}
	letters, err := tx.ErasableLetters(e.People, ownKeys(own))
	if err != nil {
		return e, err
	}
	e.view = ErasingView{Name: address, Address: address, Goes: []string{}, Stays: []string{}}
	if len(e.Names) > 0 {
		e.view.Name = e.Names[0]
	}
	shares := e.part(letters)
	for _, gather := range []func(*store.Tx) error{e.waitings, e.outgoing, e.drafts} {
		if err := gather(tx); err != nil {
			return e, err
		}
	}
	if err := e.say(tx, letters, shares); err != nil {
		return e, err
	}
	e.seal()
	return e, nil
}

// calledBy are the addresses of somebody and what they are called, as it is written down before as they write it.
func calledBy(tx *store.Tx, address string) (people, names []string, err error) {
	contacts, err := tx.Contacts()
	if err != nil {
		return nil, nil, err
	}
	people = []string{address}
	if i := slices.IndexFunc(contacts, func(c store.Contact) bool { return slices.Contains(c.Emails, address) }); i >= 0 {
		people = contacts[i].Emails
		names = append(names, contacts[i].Name)
	}
	known, err := tx.CorrespondentsAt(people)
	for _, k := range known {
		if k.Name != "" && !slices.Contains(names, k.Name) {
			names = append(names, k.Name)
		}
	}
	return people, names, err
}

// part tells which letters go, and what is left of each conversation.
func (e *erasure) part(letters []store.ErasableLetter) (all erasing.Share) {
	by := map[int64][]erasing.Letter{}
	var order []int64
	for _, l := range letters {
		if _, ok := by[l.Conversation]; !ok {
			order = append(order, l.Conversation)
		}
		by[l.Conversation] = append(by[l.Conversation], l.Letter)
	}
	for _, id := range order {
		share := erasing.Of(by[id], e.People)
		if len(share.Goes()) == 0 {
			continue
		}
		e.Letters = append(e.Letters, share.Goes()...)
		all.Theirs, all.Mine = append(all.Theirs, share.Theirs...), append(all.Mine, share.Mine...)
		switch {
		case id == 0: // held
		case share.Whole():
			e.Conversations = append(e.Conversations, id)
		default:
			e.Parts = append(e.Parts, id)
			all.Others, all.Shared = append(all.Others, share.Others...), append(all.Shared, share.Shared...)
			if share.Answered() {
				e.mine = append(e.mine, id)
			}
		}
	}
	return all
}

func (e *erasure) waitings(tx *store.Tx) error {
	list, err := tx.ExpectationsOf(e.People)
	for _, w := range list {
		switch _, _, over := erasing.Without(w.Expectation, e.People); {
		case slices.Contains(e.Conversations, w.Conversation):
		case over:
			e.over = append(e.over, w)
			e.Expectations = append(e.Expectations, w.ID)
		default:
			e.others = append(e.others, w)
		}
	}
	return err
}

func (e *erasure) outgoing(tx *store.Tx) error {
	ids, underWay, err := tx.OutgoingTo(e.People)
	if err == nil && underWay {
		return work.Refuse("A letter to them is still to leave: stop it or let it go first.")
	}
	e.Outgoing = ids
	return err
}

// drafts gathers those to nobody else.
func (e *erasure) drafts(tx *store.Tx) error {
	list, err := tx.EveryDraft()
	for _, d := range list {
		var w show.Writing
		if json.Unmarshal(d.Value, &w) != nil {
			continue // who it is to isn't known
		}
		to := slices.Concat(w.To, w.Cc, w.Bcc)
		for i, text := range to {
			if at, err := letter.CheckAddress(text); err == nil {
				to[i] = at.Key()
			}
		}
		if erasing.Alone(to, e.People) {
			if e.Drafts = append(e.Drafts, d.Number); d.Alive {
				e.begun++
			}
		}
	}
	return err
}

// seal marks what was said: what goes by itself, and in words what it takes along.
func (e *erasure) seal() {
	h := sha256.New()
	fmt.Fprint(h, e.Letters, e.Conversations, e.Parts, e.Drafts, e.Outgoing, e.Expectations, e.People, e.view.Goes)
	e.view.Seal = hex.EncodeToString(h.Sum(nil)[:12])
}

// erase lets the conversations that go leave first as any do, so that counts and what waits for them hold; then all
// of it is taken away.
func (s *step) erase(e erasure) error {
	if err := s.setWaiting(e.over, waiting.Dropped); err != nil {
		return err
	}
	for _, w := range e.others {
		persons, answered, _ := erasing.Without(w.Expectation, e.People)
		if err := s.SetWaitedFor(w.ID, persons, answered); err != nil {
			return err
		}
	}
	for _, leave := range []struct {
		ids []int64
		to  decide.Kind
	}{{e.Conversations, decide.ToBin}, {e.mine, decide.Done}} {
		rows, err := s.Conversations(leave.ids)
		if err != nil {
			return err
		}
		var changes change.List
		for _, r := range rows {
			if r.Place.Undecided() || r.Place == decide.Later {
				changes = append(changes, s.decideOn(r, decide.Decision{Kind: leave.to, At: s.At, Saw: r.LastLetter})...)
			}
		}
		if err := s.Change(changes); err != nil {
			return err
		}
	}
	return s.Erase(e.Erasing)
}

// errErased is why a letter that lay somewhere is not taken in.
var errErased = errors.New("it was erased here, on request")

// notErased refuses a letter of somebody who was erased: what lies on a mail server or in a file doesn't bring them
// back. What is sent to the owner anew is another letter.
func (s *step) notErased(st stored) error {
	was, err := s.WasErased(st.row.Identity)
	if err == nil && was {
		return errErased
	}
	return err
}
