package app

import (
	"context"
	"crypto/sha256"
	"encoding/hex"
	"errors"
	"slices"
	"strings"
	"time"

	"ebbe.example/ebbe/internal/core/decide"
	"ebbe.example/ebbe/internal/core/delivery"
	"ebbe.example/ebbe/internal/core/findings"
	"ebbe.example/ebbe/internal/core/letter"
	"ebbe.example/ebbe/internal/core/sorting"
	"ebbe.example/ebbe/internal/core/thread"
	"ebbe.example/ebbe/internal/gate"
	"ebbe.example/ebbe/internal/show"
	"ebbe.example/ebbe/internal/store"
	"ebbe.example/ebbe/internal/work"
)

// Incoming is a letter as the mail service hands it over.
type Incoming struct {
	Inbox int64
	// To is the own address at which it arrived.
	To     string
	Source string
	Raw    []byte
	// Read is the letter, where it was parsed already; nil elsewhere.
	Read *letter.Letter
	At   time.Time
	// Pass lets it through any hold.
	Pass bool
	// ReturnPath is the sender of its envelope, "" for an empty one; nil where
	// that is not known.
	ReturnPath *string

	// traits are what was found out of it before it was taken in.
	traits sorting.Traits
}

// Receive takes a letter in, once: the same bytes for the same account again
// change nothing. When it returns without error the letter is safe.
func (a *App) Receive(ctx context.Context, in Incoming) error {
	if in.Read == nil {
		l := letter.Parse(in.Raw)
		in.Read = &l
	}
	l := *in.Read
	if in.ReturnPath != nil {
		l = l.Under(*in.ReturnPath)
	}
	in.traits = a.signed(l, in.Raw)
	sum := sha256.Sum256(in.Raw)
	cmd := work.Command{
		ID:  "arrival:" + in.Source + ":" + hex.EncodeToString(sum[:12]) + ":" + strings.ToLower(in.To),
		Who: store.Nobody(in.Inbox), Actor: work.ByPost, Kind: "arrive", Title: "Letter from " + l.From.Display(), At: in.At,
	}
	_, err := run(ctx, a, cmd, func(s *step) (int64, error) {
		s.Final = true
		p, err := s.Person()
		if err != nil {
			return 0, err
		}
		if local, ok := intakePart(p, in.To); ok {
			return s.takeIntake(in, l, local)
		}
		return s.receive(in, l)
	})
	a.At("receive.after-commit")
	return err
}

// ownID lets a letter be found by its own Message-ID only if that is its own: an
// id that somebody else has used already ties it to nothing of theirs.
func (s *step) ownID(st *stored) error {
	taken, err := s.TakenBySomebodyElse(st.row.MessageID, st.row.From)
	if taken {
		st.facts.IDs = slices.DeleteFunc(slices.Clone(st.facts.IDs), func(id string) bool { return id == st.row.MessageID })
	}
	return err
}

// stored is a parsed letter with what the store keeps of it.
type stored struct {
	id    int64
	l     letter.Letter
	row   store.Letter
	facts thread.Facts
	// fresh tells that it was stored in this step and never held; accounts are
	// then those at which it arrived.
	fresh    bool
	accounts []int64
	// through is what let it through a closed gate, in words.
	through string
}

// describe works out what is stored of a letter.
func describe(l letter.Letter, own []string, receivedAt time.Time) stored {
	receipt := ""
	if len(l.ReadReceiptTo) > 0 && !l.Automatic.Is() && !isOwn(l, own) {
		receipt = ReadReceiptAsked
	}
	row := store.LetterOf(l)
	row.Own, row.ReceivedAt, row.ReadReceipt = isOwn(l, own), receivedAt, receipt
	row.Traits |= copiedTo(l, own)
	if row.Date.IsZero() {
		row.Date = receivedAt
	}
	return stored{l: l, row: row, facts: thread.FactsOf(l, own, receivedAt)}
}

// isOwn tells whether the letter is mine to somebody else; one from me to me
// alone is incoming, a note to self.
func isOwn(l letter.Letter, own []string) bool {
	mine := func(a letter.Address) bool { return slices.Contains(own, a.Key()) }
	return mine(l.From) && slices.ContainsFunc(l.Recipients(), func(a letter.Address) bool { return !mine(a) })
}

func ownKeys(own map[string]int64) []string {
	keys := make([]string, 0, len(own))
	for k := range own {
		keys = append(keys, k)
	}
	slices.Sort(keys)
	return keys
}

func (s *step) receive(in Incoming, l letter.Letter) (int64, error) {
	addresses, err := s.addresses()
	if err != nil {
		return 0, err
	}
	received := l.ReceivedAt(in.At, in.At)
	if in.Source == "smtp" || in.Source == "sent" {
		received = in.At // we took it ourselves, just now
	}
	account := addresses[strings.ToLower(in.To)]
	st := describe(l, ownKeys(addresses), received)
	st.row.Traits |= in.traits
	if st.row.Due, err = s.dueIn(st); err != nil {
		return 0, err
	}
	if !st.row.Own {
		st.row.Junk = s.app.junk.why(s.Who().Inbox, l)
	}
	known, err := s.knownLetter(st)
	if err != nil {
		return 0, err
	}
	if err := s.ownID(&st); err != nil {
		return 0, err
	}
	arrival := store.Arrival{LetterID: known, AccountID: account, Source: in.Source, ReceivedAt: received, InAt: in.At, ReturnPath: in.ReturnPath}
	p := store.Pack(in.Raw)
	if known != 0 {
		before, err := s.Letter(known)
		if err != nil {
			return 0, err
		}
		if !before.InAt.IsZero() {
			return known, s.anotherCopy(before, arrival, p, in)
		}
		st.id = known
	} else {
		if err := s.ofMine(&st); err != nil {
			return 0, err
		}
		if st.id, err = s.AddLetter(st.row, st.facts.IDs, p); err != nil {
			return 0, err
		}
		p = p.Kept()
		if err := s.mention(st); err != nil {
			return 0, err
		}
	}
	convs, err := s.ConversationsByID(st.facts.IDs)
	if err != nil {
		return 0, err
	}
	answers, err := s.judge(st, convs)
	if err != nil {
		return 0, err
	}
	unwanted, err := s.refuses(st)
	if err != nil {
		return 0, err
	}
	in.Pass = in.Pass || unwanted
	state, err := s.gate(&st, in, account, answers)
	if err != nil {
		return 0, err
	}
	arrival.LetterID, arrival.Held = st.id, !state.Open
	if st.fresh = known == 0 && state.Open; account != 0 {
		st.accounts = []int64{account}
	}
	if _, err := s.AddArrival(arrival, p); err != nil {
		return 0, err
	}
	s.Work.At("receive.before-commit")
	if home, err := s.writtenIn(st); err != nil || home.ID != 0 {
		if err == nil {
			err = s.joinOwn(st, home, account)
		}
		return st.id, err
	}
	away := false
	if known == 0 && !unwanted {
		if away, err = s.absent(st, account, convs); err != nil {
			return 0, err
		}
	}
	if state.Open {
		return st.id, s.letIn(st, time.Time{})
	}
	s.Stale(atTheGate...)
	if known != 0 { // a second copy is no second letter
		return st.id, nil
	}
	if err := s.prepare(st); err != nil {
		return 0, err
	}
	if away { // one answer is enough
		return st.id, nil
	}
	return st.id, s.note(st, account, state, convs)
}

// anotherCopy keeps one more arrival of a letter that was let in before. At an
// account whose mail is held it waits, and marks nothing until it is let in.
func (s *step) anotherCopy(l store.Letter, arrival store.Arrival, p store.Packed, in Incoming) error {
	g, err := gate.Of(s.Tx)
	if err != nil {
		return err
	}
	arrival.Held = !in.Pass && !l.Own && !g.State(arrival.AccountID, in.At).Open
	if _, err := s.AddArrival(arrival, p); err != nil || arrival.Held {
		return err
	}
	return s.noteAccount(l, arrival.AccountID)
}

// writtenIn is the conversation in which an own letter was written that comes
// back, by a list or as a copy to myself, before Ebbe knows that it has left.
// It is there even if nothing in it says so yet.
func (s *step) writtenIn(st stored) (store.Row, error) {
	if !st.row.Own {
		return store.Row{}, nil
	}
	o, err := s.OutgoingByMessageID(st.l.MessageID)
	if errors.Is(err, store.ErrNotFound) || o.Conversation == 0 {
		return store.Row{}, nil
	}
	if err != nil {
		return store.Row{}, err
	}
	row, err := s.Conversation(o.Conversation)
	if errors.Is(err, store.ErrNotFound) {
		return store.Row{}, nil
	}
	return row, err
}

// mention marks a letter from somebody else that names the person.
func (s *step) mention(st stored) error {
	if st.row.Own || st.l.Automatic.Is() && st.l.Automatic != letter.List {
		return nil
	}
	addresses, err := s.addresses()
	if err != nil {
		return err
	}
	person, err := s.Person()
	if err != nil {
		return err
	}
	addressed := slices.ContainsFunc(st.l.To, func(a letter.Address) bool { _, own := addresses[a.Key()]; return own })
	if !findings.Mentions(letter.Unquoted(st.l.Text), []string{person.Name}, addressed) {
		return nil
	}
	return s.MarkMention(st.id)
}

// prepare does for a held letter what can be done before it is let in, if it
// will begin or join a conversation and do nothing else.
func (s *step) prepare(st stored) error {
	if st.row.Own || st.row.Joins || st.l.Report != nil || st.l.Calendar() != "" {
		return nil
	}
	sender := ""
	if !st.l.Automatic.Is() {
		sender = st.l.From.Key()
	}
	s.Index(st.id, st.l)
	return s.Prepare(st.id, st.facts.Persons, sender)
}

// gate tells whether a letter is let in on its arrival. One that a closed gate
// lets through is marked with what let it.
func (s *step) gate(st *stored, in Incoming, account int64, answers bool) (delivery.State, error) {
	g, err := gate.Of(s.Tx)
	if err != nil {
		return delivery.State{}, err
	}
	state := g.State(account, in.At)
	if state.Open || st.row.Own || in.Pass {
		state.Open = true
		return state, nil
	}
	if failed, err := s.failure(*st); err != nil || failed {
		state.Open = true
		return state, err
	}
	if _, o := g.Of(account); o.Hold.Covers(in.At) && o.Hold.All {
		return state, nil
	}
	list, err := show.Throughs(s.Tx, in.At)
	if err != nil || len(list) == 0 {
		return state, err
	}
	facts, err := s.factsOf(*st)
	if err != nil {
		return state, err
	}
	facts.Answers = answers
	if by, ok := delivery.LetsThrough(list, facts, in.At); ok {
		st.through, state.Open = by.String(), true
	}
	return state, nil
}

// addresses are the own addresses with their accounts, read once in a step.
func (s *step) addresses() (map[string]int64, error) {
	if s.own == nil {
		var err error
		if s.own, err = s.OwnAddresses(); err != nil {
			return nil, err
		}
	}
	return s.own, nil
}

// knownLetter finds the letter of which this is another copy: by identity, or
// for an own letter that comes back by list or bcc, by its Message-ID.
func (s *step) knownLetter(st stored) (int64, error) {
	id, err := s.LetterByIdentity(st.row.Identity)
	if err != nil || id != 0 || !st.row.Own {
		return id, err
	}
	return s.OwnLetterByMessageID(st.l.MessageID)
}

func (s *step) noteAccount(l store.Letter, account int64) error {
	if account == 0 {
		return nil
	}
	s.Touch(decide.Conversation.Of(l.Conversation))
	return s.NoteAccount(l.Conversation, account)
}

// letIn puts a letter into its conversation and lets it do there what an
// arrival does. round is the delivery that brought it, zero where mail flows.
// answered brings back what was put off until an answer came that went into
// another conversation.
// alone tells that a letter is to its owner and nobody else.
// failure tells whether a letter reports that one of mine could not be
// delivered, for good. It passes any hold.
// meet remembers who was written with, for completing addresses.
// judge tells the open expectations of a letter that was received, and
// whether it met one, in whole or part.
// first is id if the list holds it, else 0.
// reopen parses a stored letter again.
// arrived reads a stored letter as it arrived, its envelope included.
