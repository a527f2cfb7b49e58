package app

import (
	"context"
	"crypto/rand"
	"fmt"
	"iter"
	"runtime"
	"time"

	"ebbe.example/ebbe/internal/core/change"
	"ebbe.example/ebbe/internal/core/decide"
	"ebbe.example/ebbe/internal/core/letter"
	"ebbe.example/ebbe/internal/store"
)

// Importing says what to import and where it goes.
type Importing struct {
	Owner  int64
	Source string // the file's name, for the Journal
	// FileTime stands in for letters without any date.
	FileTime time.Time
	// InboxSince sends letters received after it to the inbox; zero sends all
	// to the archive.
	InboxSince time.Time
	// Progress is told after each batch.
	Progress func(Account)
}

// Account is the account of an import.
type Account struct {
	Read    int      `json:"read"`
	New     int      `json:"new"`
	Known   int      `json:"known"`
	Damaged []string `json:"damaged,omitempty"`
}

// importKind marks the Journal step of an import, whose undo is its own.
const importKind = "import"

// importBatch is how many letters one transaction takes in. Between two, the
// rest of Ebbe gets its turn.
const importBatch = 400

// Import takes in letters from a file. It bypasses gate, notifications,
// expectations and bringing back. Letters that are known add nothing, so an
// import that was cut off can be run again. A letter that can't be read whole
// is kept and listed.
func (a *App) Import(ctx context.Context, in Importing, letters iter.Seq2[[]byte, error]) (Account, error) {
	var own []string
	err := a.Store.Read(ctx, in.Owner, func(tx *store.Tx) error {
		addresses, err := tx.OwnAddresses()
		own = ownKeys(addresses)
		return err
	})
	if err != nil {
		return Account{}, err
	}
	cmd := Command{ID: "import:" + rand.Text(), Owner: in.Owner, Actor: ByImport, Kind: importKind, Title: "Import of " + in.Source}
	entry, err := run(ctx, a, cmd, func(s *step) (int64, error) {
		s.final = true
		return s.id, nil
	})
	if err != nil {
		return Account{}, err
	}
	im := &importer{app: a, in: in, entry: entry, now: a.Now()}
	ctx, cancel := context.WithCancel(ctx)
	defer cancel()
	var batch []parsed
	for p := range im.parse(ctx, own, letters) {
		batch = append(batch, p)
		if len(batch) == importBatch {
			if err := im.take(ctx, batch); err != nil {
				return im.account, err
			}
			batch = batch[:0]
		}
	}
	if err := im.take(ctx, batch); err != nil {
		return im.account, err
	}
	if ctx.Err() != nil {
		return im.account, ctx.Err()
	}
	a.publish(in.Owner, News{Kinds: []string{"everything"}})
	return im.account, a.Store.Write(ctx, in.Owner, func(tx *store.Tx) error {
		title := fmt.Sprintf("Import of %s: %d new letters", in.Source, im.account.New)
		return tx.SetResult(entry, title, im.account.New > 0, []byte("null"))
	})
}

type importer struct {
	app     *App
	in      Importing
	entry   int64
	now     time.Time
	account Account
}

// parsed is a letter ready to be stored, or what was wrong with it.
type parsed struct {
	stored
	packed  store.Packed
	trouble error
}

// parse reads and parses ahead on all processors, and gives the letters in
// their order.
func (im *importer) parse(ctx context.Context, own []string, letters iter.Seq2[[]byte, error]) iter.Seq[parsed] {
	type job struct {
		raw     []byte
		trouble error
		done    chan parsed
	}
	// At most this many letters are in memory at once.
	ahead := runtime.NumCPU() * 8
	queue, work := make(chan job, ahead), make(chan job)
	go func() {
		defer close(queue)
		defer close(work)
		for raw, err := range letters {
			j := job{raw, err, make(chan parsed, 1)}
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
	for range runtime.NumCPU() {
		go func() {
			for j := range work {
				j.done <- im.parseOne(j.raw, j.trouble, own)
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

func (im *importer) parseOne(raw []byte, trouble error, own []string) parsed {
	if trouble != nil {
		return parsed{trouble: trouble}
	}
	l := letter.Parse(raw)
	return parsed{stored: describe(l, own, l.ReceivedAt(im.in.FileTime, im.now)), packed: store.Pack(raw)}
}

// take stores a batch in one transaction.
func (im *importer) take(ctx context.Context, batch []parsed) error {
	account := im.account
	err := im.app.Store.Write(ctx, im.in.Owner, func(tx *store.Tx) error {
		s := &step{Tx: tx, app: im.app, id: im.entry, at: im.now}
		for _, p := range batch {
			account.Read++
			if p.trouble != nil {
				account.Damaged = append(account.Damaged, fmt.Sprintf("letter %d: %v; it was left out", account.Read, p.trouble))
				continue
			}
			added, err := im.add(s, p)
			if err != nil {
				return fmt.Errorf("letter %d of %s: %w", account.Read, im.in.Source, err)
			}
			if !added {
				account.Known++
				continue
			}
			account.New++
			if p.l.Damage != "" {
				account.Damaged = append(account.Damaged, fmt.Sprintf("letter %d (%s): %s; it was kept", account.Read, describeShort(p.l), p.l.Damage))
			}
		}
		im.app.hook("import.before-commit")
		return nil
	})
	if err != nil {
		return err
	}
	im.account = account
	if im.in.Progress != nil {
		im.in.Progress(account)
	}
	return nil
}

func describeShort(l letter.Letter) string {
	switch {
	case l.Subject != "":
		return "“" + shorten(l.Subject, 50) + "”"
	case l.From.Email != "":
		return "from " + l.From.Display()
	}
	return "no subject"
}

// add stores one letter, unless it is known.
func (im *importer) add(s *step, p parsed) (bool, error) {
	known, err := s.LetterByIdentity(p.row.Identity)
	if err != nil {
		return false, err
	}
	if known != 0 {
		if s.HasArrival(known, p.packed.SHA) {
			return false, nil
		}
		_, err := s.AddArrival(store.Arrival{LetterID: known, Source: "import", ReceivedAt: p.row.ReceivedAt, InAt: s.at}, p.packed)
		return false, err
	}
	if p.id, err = s.AddLetter(p.row, p.facts.IDs, p.packed); err != nil {
		return false, err
	}
	if _, err := s.AddArrival(store.Arrival{
		LetterID: p.id, Source: fmt.Sprintf("import:%d", im.entry), ReceivedAt: p.row.ReceivedAt, InAt: s.at,
	}, p.packed); err != nil {
		return false, err
	}
	conversation, err := s.place(p.stored)
	if err != nil {
		return false, err
	}
	if err := s.LetIn(p.id, conversation, s.at); err != nil {
		return false, err
	}
	if err := s.Join(store.Joined{Conversation: conversation, Letter: p.row, LetterID: p.id, Persons: p.facts.Persons, InAt: p.row.ReceivedAt}); err != nil {
		return false, err
	}
	if err := s.Index(p.id, p.l); err != nil {
		return false, err
	}
	if err := s.meet(p.stored); err != nil {
		return false, err
	}
	place := decide.Archive
	if !im.in.InboxSince.IsZero() && p.row.ReceivedAt.After(im.in.InboxSince) && !p.row.Own {
		place = decide.Inbox
	}
	return true, s.Settle(conversation, place, s.id, s.at)
}

// takeBack bins the letters that an import added, except in conversations that
// were used since. It returns how many conversations that were.
func (s *step) takeBack(entry int64) (int, error) {
	rows, err := s.Imported(entry)
	if err != nil {
		return 0, err
	}
	var changes change.List
	for _, r := range rows {
		changes = append(changes, decide.Decide(r.State(), decide.Decision{Kind: decide.ToBin, At: s.at, Saw: r.LastLetter})...)
	}
	return len(rows), s.apply(changes)
}
