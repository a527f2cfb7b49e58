package app

import (
	"context"
	"errors"
	"fmt"
	"slices"
	"strings"
	"sync"
	"time"

	"ebbe.example/ebbe/internal/core/change"
	"ebbe.example/ebbe/internal/core/decide"
	"ebbe.example/ebbe/internal/core/letter"
	"ebbe.example/ebbe/internal/core/remote"
	"ebbe.example/ebbe/internal/core/sorting"
	"ebbe.example/ebbe/internal/post"
	"ebbe.example/ebbe/internal/store"
	"ebbe.example/ebbe/internal/work"
)

// Letters of a folder that are not known are taken in: what came to the inbox after the
// folder was first seen arrives, the rest was there.

const (
	// fetchedAtOnce is how many letters are asked for at a time at first: those that are
	// there can be worked with while the rest comes. Beyond usableAfter it is more, for
	// much of what is done is done once for all of them.
	fetchedAtOnce = 100
	usableAfter   = 500
	thenAtOnce    = 500
	// heldAtOnce bounds the bytes of letters that wait to be stored.
	heldAtOnce = 16 << 20
)

// takeFresh takes in the letters of a folder that aren't known, the newest first.
func (y *syncer) takeFresh(ctx context.Context, box post.Mailbox, s *seenFolder, added map[copyAt]bool) (err error) {
	if len(s.fresh) > 0 {
		if _, err := box.Open(s.Name); err != nil {
			return err
		}
	}
	in := intake{syncer: y, folder: s, added: added}
	chunks, given := y.app.syncers.chunks(s)
	for _, uid := range given {
		f := fetched{uid: uid}
		f.trouble = errCutsOff
		in.waiting = append(in.waiting, f)
	}
	if err := in.flush(ctx); err != nil {
		return err
	}
	defer func() { err = errors.Join(err, in.settled()) }()
	for _, uids := range chunks {
		if err := ctx.Err(); err != nil {
			return err
		}
		y.app.At("sync.before-fetch")
		in.came, in.last = map[uint32]bool{}, 0
		if err := box.Fetch(uids, func(m post.Message) error { return in.take(ctx, m) }); err != nil {
			if ctx.Err() == nil && in.failed == nil {
				y.app.syncers.blame(s, uids, in.came)
			}
			return errors.Join(in.failed, err)
		}
		if err := in.flush(ctx); err != nil {
			return err
		}
		if !s.AllIn {
			y.publish()
		}
	}
	if err := in.settled(); err != nil {
		return err
	}
	return y.app.Store.Write(ctx, y.who, func(tx *store.Tx) error {
		s.AllIn = true
		_, err := tx.SaveRemoteFolder(s.RemoteFolder)
		return err
	})
}

// intake takes letters of a folder in.
type intake struct {
	*syncer
	folder  *seenFolder
	added   map[copyAt]bool
	waiting []fetched
	size    int
	// came are the letters of a chunk that have, but for the last one; failed is why they
	// could not be kept.
	came   map[uint32]bool
	last   uint32
	failed error
	// keeping ends with what came of keeping letters, while others are fetched.
	keeping chan error
}

// fetched is a letter with what the server says of it.
type fetched struct {
	parsed
	raw   []byte
	uid   uint32
	marks marks
	at    time.Time
}

func (in *intake) take(ctx context.Context, m post.Message) error {
	f := fetched{uid: m.UID, marks: marksOf(m.Flags), raw: m.Raw, at: m.At}
	f.name = fmt.Sprintf("%s, %d", in.folder.Name, m.UID)
	if m.Err != nil {
		f.trouble = m.Err
	}
	// What follows a letter shows that it was whole: the last one is not kept yet.
	if in.size >= heldAtOnce {
		in.failed = in.flush(ctx)
	}
	if in.last != 0 {
		in.came[in.last] = true
	}
	in.waiting, in.size, in.last = append(in.waiting, f), in.size+len(m.Raw), m.UID
	return in.failed
}

// flush lets the letters that wait be kept, while others are fetched, once those before them
// have been.
func (in *intake) flush(ctx context.Context) error {
	list := in.waiting
	in.waiting, in.size = nil, 0
	if err := in.settled(); err != nil || len(list) == 0 {
		return err
	}
	in.keeping = make(chan error, 1)
	go func(ended chan<- error) {
		var err error
		defer func() { ended <- err }()
		defer in.app.Caught("keeping letters of a mail server", &err)
		err = in.keep(ctx, list)
	}(in.keeping)
	return nil
}

// settled waits until letters have been kept.
func (in *intake) settled() error {
	if in.keeping == nil {
		return nil
	}
	err := <-in.keeping
	in.keeping = nil
	return err
}

// keep stores letters. What came to the inbox after the folder was first seen arrives; the
// rest was there.
func (in *intake) keep(ctx context.Context, list []fetched) error {
	account, own, err := in.own(ctx)
	if err != nil {
		return err
	}
	var reading sync.WaitGroup
	for i := range list {
		reading.Go(func() {
			defer in.app.Caught("reading a letter", &list[i].trouble)
			list[i].read(own, in.app.Now())
		})
	}
	reading.Wait()
	var quiet []fetched
	for _, f := range list {
		if in.folder.Role == remote.Inbox && f.uid >= in.folder.Arrivals && f.trouble == nil {
			if err := in.arrive(ctx, f, account); err != nil {
				return err
			}
			continue
		}
		quiet = append(quiet, f)
	}
	return in.settle(ctx, quiet, account)
}

// own is the account, and the own addresses of the inbox.
func (in *intake) own(ctx context.Context) (a store.Account, own []string, err error) {
	err = in.app.Store.Read(ctx, in.who, func(tx *store.Tx) error {
		if a, _, err = tx.Account(in.account); err != nil {
			return err
		}
		addresses, err := tx.OwnAddresses()
		own = ownKeys(addresses)
		return err
	})
	return a, own, err
}

// read parses the letter.
func (f *fetched) read(own []string, now time.Time) {
	if f.trouble != nil {
		return
	}
	l := letter.Parse(f.raw)
	f.stored = describe(l, own, l.ReceivedAt(f.at, now))
	f.packed = store.Pack(f.raw)
}

// copyOf is how a letter that was taken in stands, with flags that say nothing yet: what
// they are is then a change like others.
func (in *intake) copyOf(f fetched, id int64) store.RemoteCopy {
	c := store.RemoteCopy{Folder: in.folder.ID, UID: f.uid, Letter: id}
	in.added[copyAt{in.folder.ID, f.uid}] = true
	if f.marks != (marks{}) {
		in.folder.marks[f.uid] = f.marks
	}
	return c
}

// arrive lets a letter arrive as from the post, once.
func (in *intake) arrive(ctx context.Context, f fetched, account store.Account) error {
	cmd := work.Command{
		ID: fmt.Sprintf("remote:%d:%d:%d", in.folder.ID, in.folder.Validity, f.uid), Who: store.Nobody(in.who.Inbox), Actor: work.ByPost,
		Kind: "arrive", Title: "Letter from " + f.l.From.Display(), At: in.app.Now(),
	}
	found := in.app.signed(f.l, f.raw)
	_, err := run(ctx, in.app, cmd, func(s *step) (int64, error) {
		s.Final = true
		known, err := s.knownLetter(f.stored)
		if err == nil && known == 0 {
			err = s.notErased(f.stored)
		}
		if errors.Is(err, errErased) { // moved there by another program: it stays there alone
			s.Title = "A letter on the mail server was erased here, and stays there alone"
			return 0, s.SaveRemoteCopies([]store.RemoteCopy{in.copyOf(f, 0)})
		}
		if err == nil && known == 0 {
			known, err = s.receive(Incoming{Inbox: in.who.Inbox, To: account.Address, Source: "remote", Raw: f.raw, At: s.At, traits: found}, f.l)
		}
		if err != nil {
			return 0, err
		}
		return known, s.SaveRemoteCopies([]store.RemoteCopy{in.copyOf(f, known)})
	})
	return err
}

// placeOf is where a letter of a folder goes that was there before.
func placeOf(role remote.Role) decide.Place {
	switch role {
	case remote.Inbox, remote.Held:
		return decide.Inbox
	case remote.Bin:
		return decide.Bin
	case remote.Junk:
		return decide.Junk
	case remote.Shallows:
		return decide.Shallows
	}
	return decide.Archive
}

// sorted is of what kind a letter of the folder is: none but in one of the Shallows.
func (in *intake) sorted() sorting.Verdict {
	if in.folder.Role != remote.Shallows {
		return sorting.Verdict{}
	}
	return sorting.Verdict{Kind: remote.KindOf(in.folder.Phrase), Why: "it lay there on the mail server", Out: true}
}

// settle stores letters that were there before, in one transaction. One that can't be
// stored is left out; the others are taken.
func (in *intake) settle(ctx context.Context, list []fetched, account store.Account) error {
	if len(list) == 0 {
		return nil
	}
	entry, err := in.entry(ctx, account)
	if err != nil {
		return err
	}
	var left []error
	err = in.app.Store.Write(ctx, in.who, func(tx *store.Tx) error {
		left = nil
		s := in.app.on(&work.Step{Tx: tx, Work: in.app.Work, ID: entry, At: in.app.Now()})
		s.importing = true
		awaited, err := tx.AnyAwaited()
		if err != nil {
			return err
		}
		var copies []store.RemoteCopy
		for _, f := range list {
			var id int64
			why, err := s.alone(func() (err error) {
				id, err = in.settleOne(s, f, account, awaited)
				return err
			})
			if err != nil {
				return err
			}
			if why != nil {
				id = 0
				left = append(left, why)
				in.app.Log.Warn("a letter on a mail server could not be taken in", "folder", in.folder.ID, "uid", f.uid, "reason", why)
			}
			copies = append(copies, in.copyOf(f, id))
		}
		return tx.SaveRemoteCopies(copies)
	})
	if err == nil {
		in.app.Publish(in.who.Inbox, work.News{Everything: true, Stale: []work.Reading{}})
	}
	return errors.Join(err, in.tell(ctx, account, left))
}

// tell says in the Journal which letters stay on the server alone, and why.
func (in *intake) tell(ctx context.Context, account store.Account, left []error) error {
	for _, why := range left {
		cmd := in.command("connect")
		_, err := run(ctx, in.app, cmd, func(s *step) (int64, error) {
			s.Final = true
			s.Title = fmt.Sprintf("A letter in “%s” of %s could not be taken in and stays there alone: %v", in.folder.Name, account.Address, why)
			return s.ID, nil
		})
		if err != nil {
			return err
		}
	}
	return nil
}

func (in *intake) settleOne(s *step, f fetched, account store.Account, awaited bool) (int64, error) {
	if f.trouble != nil {
		return 0, f.trouble
	}
	known, err := s.knownLetter(f.stored)
	if err != nil || known != 0 {
		return known, err
	}
	arrival := store.Arrival{AccountID: account.ID, Source: "remote", ReceivedAt: f.row.ReceivedAt, InAt: s.At}
	f.row.ReadReceipt = "" // nobody waits for a receipt of an old letter
	id, added, err := s.takeQuietly(f.parsed, arrival, "remote", awaited, placeOf(in.folder.Role), in.sorted())
	if errors.Is(err, errErased) {
		return 0, nil
	}
	if err != nil || !added || in.folder.Label == "" {
		return id, err
	}
	l, err := s.Letter(id)
	if err != nil {
		return id, err
	}
	labels, err := cleanLabels([]string{strings.TrimSpace(in.folder.Label)})
	if err != nil || len(labels) == 0 { // a path that is too long is no label
		return id, nil
	}
	row, err := s.Conversation(l.Conversation)
	if err != nil {
		return id, err
	}
	var changes change.List
	decide.Conversation.Labels.Field(labels[0]).Set(&changes, l.Conversation, slices.Contains(row.Labels, labels[0]), true)
	return id, s.Change(changes)
}

// entry is the entry of the Journal under which the letters of an account that were there
// before have come.
func (in *intake) entry(ctx context.Context, account store.Account) (int64, error) {
	cmd := work.Command{
		ID: fmt.Sprintf("remote:%d", account.ID), Who: store.Nobody(in.who.Inbox), Actor: work.ByImport, Kind: "connect",
		Title: "Letters of " + account.Address + " that were on the server before",
	}
	return run(ctx, in.app, cmd, func(s *step) (int64, error) {
		s.Final = true
		return s.ID, nil
	})
}
