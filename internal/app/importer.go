package app

import (
	"context"
	"errors"
	"fmt"
	"runtime"
	"runtime/debug"
	"slices"
	"time"

	"golang.org/x/sync/semaphore"

	"ebbe.example/ebbe/internal/core/change"
	"ebbe.example/ebbe/internal/core/decide"
	"ebbe.example/ebbe/internal/core/letter"
	"ebbe.example/ebbe/internal/core/sorting"
	"ebbe.example/ebbe/internal/post"
	"ebbe.example/ebbe/internal/say"
	"ebbe.example/ebbe/internal/store"
	"ebbe.example/ebbe/internal/work"
)

// importKind marks the Journal step of an import, whose undo is its own.
const importKind = "import"

const (
	// importBatch is how many letters one transaction takes in. Between two,
	// the rest of Ebbe gets its turn.
	importBatch = 1000
	// importAhead bounds the bytes of letters that are read ahead of the
	// database.
	importAhead = 48 << 20
)

// takeIn takes in the letters of an import, from where it was cut off if it
// was. It bypasses gate, notifications, expectations and bringing back.
// Letters that are known add nothing. A letter that can't be read whole is
// kept and listed.
func (a *App) takeIn(ctx context.Context, who store.Who, im store.Import) (err error) {
	defer a.Caught("an import", &err)
	source, err := post.Open(im.Path, post.Quoting(im.Quoting))
	if err != nil {
		return err
	}
	run := &importer{app: a, who: who, job: im, now: a.Now(), source: source}
	err = a.Store.Read(ctx, who, func(tx *store.Tx) error {
		addresses, err := tx.OwnAddresses()
		run.addresses, run.own = addresses, ownKeys(addresses)
		return err
	})
	if err != nil {
		return err
	}
	defer a.Store.Loading()()
	ctx, cancel := context.WithCancel(ctx)
	defer cancel()
	var batch []parsed
	size := 0
	for p := range run.parse(ctx) {
		batch = append(batch, p)
		size += p.packed.Size
		if len(batch) == importBatch || size > importAhead {
			if err := run.take(ctx, batch); err != nil {
				return err
			}
			batch, size = batch[:0], 0
		}
	}
	if ctx.Err() != nil {
		return ctx.Err()
	}
	if err := run.take(ctx, batch); err != nil {
		return err
	}
	return run.broke
}

type importer struct {
	app       *App
	who       store.Who
	job       store.Import
	source    *post.Source
	now       time.Time
	addresses map[string]int64
	own       []string
	// awaited tells that follow-ups wait for letters, which may be among these.
	awaited bool
	// broke is why the source could not be read to its end; set before the last
	// letter is given.
	broke error
}

// parsed is a letter ready to be stored, or what was wrong with it.
type parsed struct {
	stored
	packed  store.Packed
	name    string
	doubt   string
	trouble error
}

// parse reads and parses ahead on all processors, and gives the letters in
// their order. Those that an earlier run has taken are passed over.
func (im *importer) parse(ctx context.Context) func(func(parsed) bool) {
	type job struct {
		item   post.Item
		weight int64
		done   chan parsed
	}
	queue, work := make(chan *job, importBatch/2), make(chan *job)
	budget := semaphore.NewWeighted(importAhead)
	weight := func(item post.Item) int64 { return min(int64(len(item.Raw)), importAhead) }
	go func() {
		defer close(queue)
		defer close(work)
		defer im.app.Caught("reading an import", &im.broke)
		skip := im.job.Account.Items
		for item := range im.source.Letters() {
			if skip > 0 {
				skip--
				continue
			}
			j := &job{item, weight(item), make(chan parsed, 1)}
			if budget.Acquire(ctx, j.weight) != nil {
				return
			}
			select {
			case queue <- j:
			case <-ctx.Done():
				return
			}
			select {
			case work <- j:
			case <-ctx.Done():
				return
			}
		}
	}()
	for range max(1, runtime.NumCPU()-1) { // one is left to the database
		go func() {
			for j := range work {
				p := im.parseOne(j.item)
				if j.item = (post.Item{}); j.weight > importAhead/2 {
					debug.FreeOSMemory() // its bytes are packed, and were many
				}
				j.done <- p
				budget.Release(j.weight)
			}
		}()
	}
	return func(yield func(parsed) bool) {
		for j := range queue {
			select {
			case p := <-j.done:
				if !yield(p) {
					return
				}
			case <-ctx.Done():
				return
			}
		}
	}
}

func (im *importer) parseOne(item post.Item) (p parsed) {
	var broke error
	defer func() {
		if broke != nil {
			p = parsed{name: item.Name, trouble: broke}
		}
	}()
	defer im.app.Caught("reading a letter", &broke)
	if item.Err != nil {
		return parsed{name: item.Name, trouble: item.Err}
	}
	l := letter.Parse(item.Raw)
	st := describe(l, im.own, l.ReceivedAt(item.Time, im.now))
	st.l.Parts, st.row.ReadReceipt = withoutContent(l.Parts), "" // nobody waits for a receipt of an old letter
	return parsed{stored: st, packed: store.Pack(item.Raw), name: item.Name, doubt: item.Doubt}
}

// withoutContent lets go of what is not needed to store a letter.
func withoutContent(parts []letter.Part) []letter.Part {
	out := slices.Clone(parts)
	for i := range out {
		out[i].Content = nil
	}
	return out
}

// roomAgain is how long an import of uploaded letters waits for a database that
// can't be used, before it tries again.
const roomAgain = 2 * time.Second

// take stores a batch in one transaction, with how far the import has come. A
// letter that can't be stored is left out and listed; the others are taken. An
// upload was accepted: where the disk is full it waits for space.
func (im *importer) take(ctx context.Context, batch []parsed) error {
	err := im.store(ctx, batch, false)
	if err != nil && ctx.Err() == nil && store.Unavailable(err) == "" {
		err = im.store(ctx, batch, true)
	}
	for im.job.Spooled && ctx.Err() == nil && store.Unavailable(err) != "" {
		im.app.Log.Warn("an import waits for the database", "import", im.job.ID, "reason", err)
		select {
		case <-ctx.Done():
		case <-time.After(roomAgain):
		}
		err = im.store(ctx, batch, false)
	}
	return err
}

// store writes a batch; carefully so that what one letter has written is taken
// back if it fails, and the rest goes on.
func (im *importer) store(ctx context.Context, batch []parsed, carefully bool) error {
	next := im.job
	next.Done, next.Size = im.source.Progress()
	err := im.app.Store.Write(ctx, im.who, func(tx *store.Tx) error {
		s := im.app.on(&work.Step{Tx: tx, Work: im.app.Work, ID: im.job.Journal, At: im.now})
		s.importing = true
		var err error
		if im.awaited, err = tx.AnyAwaited(); err != nil {
			return err
		}
		for _, p := range batch {
			if !carefully {
				if err := im.takeOne(s, &next.Account, p); err != nil {
					return fmt.Errorf("%s: %w", p.name, err)
				}
				continue
			}
			before := next.Account
			why, err := s.alone(func() error { return im.takeOne(s, &next.Account, p) })
			if err == nil && why != nil {
				next.Account = before
				p.trouble = fmt.Errorf("it could not be stored: %w", why)
				err = im.takeOne(s, &next.Account, p)
			}
			if err != nil {
				return fmt.Errorf("%s: %w", p.name, err)
			}
		}
		im.app.At("import.before-commit")
		if err := tx.SetResult(next.Journal, importKind, importTitle(next), next.Account.Added > 0, []byte("null")); err != nil {
			return err
		}
		return tx.SaveImport(next)
	})
	if err != nil {
		return err
	}
	im.job = next
	im.app.files()
	im.app.At("import.after-commit")
	im.app.Publish(im.who.Inbox, work.News{Stale: []work.Reading{work.ReadImports}})
	return nil
}

func importTitle(im store.Import) string {
	return fmt.Sprintf("Import of %s: %s", im.Name, say.Count(im.Account.Added, "new letter"))
}

func (im *importer) takeOne(s *step, account *store.ImportAccount, p parsed) error {
	account.Items++
	trouble := store.ImportTrouble{Name: p.name, Subject: say.Shorten(p.row.Subject, 80)}
	switch {
	case errors.Is(p.trouble, post.ErrNoLetter):
		account.Passed++
		return nil
	case p.trouble != nil:
		account.Damaged++
		trouble.What = p.trouble.Error() + "; it was left out"
		return s.AddImportTrouble(im.job.ID, trouble)
	}
	id, added, err := im.add(s, p)
	if errors.Is(err, errErased) {
		account.Passed++
		return s.AddImportTrouble(im.job.ID, store.ImportTrouble{Name: p.name, What: err.Error() + "; it was left out"})
	}
	if err != nil {
		return err
	}
	if !added {
		account.Known++
		return nil
	}
	account.Added++
	damage := p.l.Damage
	if damage == "" {
		damage = p.doubt
	}
	if damage == "" {
		return nil
	}
	account.Damaged++
	trouble.What, trouble.LetterID = damage+"; it was kept", id
	return s.AddImportTrouble(im.job.ID, trouble)
}

// account is the own account that a letter has to do with: the one it was
// sent from, or the first that it went to; 0 for none.
func (im *importer) account(p parsed) int64 {
	for _, list := range [][]letter.Address{{p.l.From}, p.l.To, p.l.Cc} {
		for _, a := range list {
			if id := im.addresses[a.Key()]; id != 0 {
				return id
			}
		}
	}
	return 0
}

// add stores one letter, unless it is known.
func (im *importer) add(s *step, p parsed) (id int64, added bool, err error) {
	place := decide.Archive
	if since := im.job.InboxSince; !since.IsZero() && p.row.ReceivedAt.After(since) && !p.row.Own {
		place = decide.Inbox
	}
	arrival := store.Arrival{AccountID: im.account(p), Source: store.ImportSource(s.ID), ReceivedAt: p.row.ReceivedAt, InAt: s.At}
	return s.takeQuietly(p, arrival, "import", im.awaited, place, sorting.Verdict{})
}

// takeQuietly stores a letter that is no arrival, unless it is known: it was there
// before. The conversation that it begins gets a place, and nothing else happens.
// awaited tells that follow-ups may wait for it. again is the source of another copy: it
// does not make the letter this one's.
func (s *step) takeQuietly(p parsed, arrival store.Arrival, again string, awaited bool, place decide.Place, sort sorting.Verdict) (id int64, added bool, err error) {
	if arrival.LetterID, err = s.LetterByIdentity(p.row.Identity); err != nil {
		return 0, false, err
	}
	if arrival.LetterID != 0 {
		if s.HasArrival(arrival.LetterID, p.packed.SHA) {
			return arrival.LetterID, false, nil
		}
		arrival.Source = again
		_, err := s.AddArrival(arrival, p.packed)
		return arrival.LetterID, false, err
	}
	if err := s.notErased(p.stored); err != nil {
		return 0, false, err
	}
	p.row.Quietly = true
	if p.id, err = s.AddLetter(p.row, p.facts.IDs, p.packed); err != nil {
		return 0, false, err
	}
	arrival.LetterID = p.id
	if _, err := s.AddArrival(arrival, p.packed.Kept()); err != nil {
		return 0, false, err
	}
	s.begun = 0
	conversation, _, err := s.place(p.stored)
	if err != nil {
		return 0, false, err
	}
	if err := s.LetIn(p.id, conversation, s.At, time.Time{}, "", store.Sorted{Verdict: sort}); err != nil {
		return 0, false, err
	}
	var accounts []int64
	if arrival.AccountID != 0 {
		accounts = []int64{arrival.AccountID}
	}
	if err := s.Join(store.Joined{
		Conversation: conversation, Letter: p.row, LetterID: p.id, Accounts: accounts, Persons: p.facts.Persons, InAt: p.row.ReceivedAt, Fresh: s.begun == conversation, Sort: sort,
	}); err != nil {
		return 0, false, err
	}
	s.Index(p.id, p.l)
	s.meet(p.stored)
	if awaited {
		if err := s.linkWaiting(p.stored); err != nil {
			return 0, false, err
		}
	}
	return p.id, true, s.Settle(conversation, place, s.ID, s.At)
}

// takeBack bins the letters that an import added, except in conversations that
// were used since. It returns how many conversations that were, and names those
// that stay.
func (s *step) takeBack(entry int64) (binned int, left []string, err error) {
	rows, used, err := s.Imported(entry)
	if err != nil {
		return 0, nil, err
	}
	var changes change.List
	for _, r := range rows {
		changes = append(changes, decide.Decide(r.State(), decide.Decision{Kind: decide.ToBin, At: s.At, Saw: r.LastLetter})...)
	}
	for _, title := range used[:min(len(used), namedLeft)] {
		left = append(left, "Left as it is: “"+say.Shorten(title, 60)+"”, used since or tied to other letters.")
	}
	if n := len(used) - namedLeft; n > 0 {
		left = append(left, fmt.Sprintf("Left as they are: %d more.", n))
	}
	return len(rows), left, s.Change(changes)
}
