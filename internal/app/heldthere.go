package app

import (
	"context"
	"slices"

	"ebbe.example/ebbe/internal/core/remote"
	"ebbe.example/ebbe/internal/say"
	"ebbe.example/ebbe/internal/store"
)

// What the gate holds lies on the server all the while: in its inbox, or in a folder of its
// own where the account says so.

// letInElsewhere lets in what the gate holds and somebody has found and moved or starred in
// another program: whoever did that knows of it.
func (y *syncer) letInElsewhere(ctx context.Context, seen []seenFolder) error {
	var held []int64
	var own []string
	err := y.app.Store.Read(ctx, y.who, func(tx *store.Tx) error {
		found, err := handledElsewhere(tx, y.account, seen)
		if err != nil || len(found) == 0 {
			return err
		}
		if held, err = tx.HeldOf(found); err != nil {
			return err
		}
		addresses, err := tx.OwnAddresses()
		own = ownKeys(addresses)
		return err
	})
	if err != nil {
		return err
	}
	for _, id := range held {
		_, err := run(ctx, y.app, y.command("elsewhere:let-in"), func(s *step) (bool, error) {
			s.Final = true
			l, err := s.Letter(id)
			if err != nil {
				return false, err
			}
			s.Title = "Let in, for it was found elsewhere: “" + say.Shorten(l.Subject, 60) + "”"
			s.Stale(atTheGate...)
			return true, s.letInOne(id, own)
		})
		if err != nil {
			return err
		}
	}
	return nil
}

// handledElsewhere are letters that were moved, taken away or starred there.
func handledElsewhere(tx *store.Tx, account int64, seen []seenFolder) (letters []int64, err error) {
	left, away := map[copyAt]bool{}, []int64(nil)
	for _, f := range seen {
		copies, err := tx.RemoteCopies(f.ID)
		if err != nil {
			return nil, err
		}
		gone := setOf(f.gone)
		for _, c := range copies {
			m, marked := f.marks[c.UID]
			switch {
			case c.Letter == 0:
			case gone[c.UID]:
				left[copyAt{c.Folder, c.UID}] = true
				away = append(away, c.Letter)
			case marked && m.flags.Has(remote.Flagged) && !c.Flags.Has(remote.Flagged):
				letters = append(letters, c.Letter)
			}
		}
	}
	if len(away) == 0 {
		return letters, nil
	}
	// One that is nowhere may be on its way, and is believed gone the second time.
	copies, err := tx.RemoteCopiesOf(account, away)
	for _, c := range copies {
		if !left[copyAt{c.Folder, c.UID}] || c.Missing {
			letters = append(letters, c.Letter)
		}
	}
	return slices.Compact(letters), err
}

// hold moves what the gate holds to the folder that is for it there, or back to the inbox
// where the account no longer says so.
func (p *pusher) hold(ctx context.Context) error {
	var copies []store.RemoteCopy
	to := remote.Inbox
	err := p.app.Store.Read(ctx, p.who, func(tx *store.Tx) error {
		r, err := tx.Remote(p.account)
		if err != nil {
			return err
		}
		from := remote.Held
		if r.Holds {
			from, to = remote.Inbox, remote.Held
		}
		copies, err = tx.HeldCopies(p.account, from)
		return err
	})
	if err != nil {
		return err
	}
	return p.eachFolder(ctx, copies, func(folder int64, list []copyAt) error {
		return p.carryOut(ctx, batch{folder: folder, moves: true, to: to}, list)
	})
}

// purge takes away there what the bin has let go of here, where the account says so.
func (p *pusher) purge(ctx context.Context) error {
	copies, err := read(ctx, p.app, p.who, func(tx *store.Tx) ([]store.RemoteCopy, error) { return tx.PurgedCopies(p.account) })
	if err != nil {
		return err
	}
	return p.eachFolder(ctx, copies, func(folder int64, list []copyAt) error {
		if err := p.choose(folder); err != nil {
			return err
		}
		uids := uidsOf(list)
		if err := p.box.Purge(uids); err != nil {
			return err
		}
		p.left(folder, len(uids))
		return p.app.Store.Write(ctx, p.who, func(tx *store.Tx) error { return tx.DropRemoteCopies(folder, uids) })
	})
}

// eachFolder does something with copies, folder by folder. What the server refuses is said,
// and tried again later.
func (p *pusher) eachFolder(ctx context.Context, copies []store.RemoteCopy, do func(folder int64, list []copyAt) error) error {
	for len(copies) > 0 {
		folder := copies[0].Folder
		n := slices.IndexFunc(copies, func(c store.RemoteCopy) bool { return c.Folder != folder })
		if n < 0 {
			n = len(copies)
		}
		list := make([]copyAt, n)
		for i, c := range copies[:n] {
			list[i] = copyAt{c.Folder, c.UID}
		}
		copies = copies[n:]
		p.app.At("push.before")
		err := do(folder, list)
		p.app.At("push.after")
		if err := p.refusal(ctx, err); err != nil {
			return err
		}
	}
	return nil
}

// refusal keeps for a while that the server refused something that is tried with every look;
// what is no answer ends the connection.
func (p *pusher) refusal(ctx context.Context, err error) error {
	words, refused := p.box.Refused(err)
	if !refused {
		return err
	}
	return p.app.Store.Write(ctx, p.who, func(tx *store.Tx) error { return tx.NoteRefusal(p.account, words, p.app.Now().Add(refusedAgain)) })
}
