package app

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"slices"
	"strings"
	"time"

	"ebbe.example/ebbe/internal/core/remote"
	"ebbe.example/ebbe/internal/core/sorting"
	"ebbe.example/ebbe/internal/post"
	"ebbe.example/ebbe/internal/show"
	"ebbe.example/ebbe/internal/store"
)

// What happened here is told to the server: for each conversation that has changed, how
// its letters stand there is compared with how it stands here, and made alike. That can
// be repeated any number of times, so nothing is lost or done twice if Ebbe dies in
// between.

const (
	// toldAtOnce is how many conversations are told of at a time.
	toldAtOnce = 200
	// saidForNothing is how often a server may say yes and do nothing before that
	// is named.
	saidForNothing = 3
	// refusedAgain is after what time it is no longer said that something was refused
	// that is tried with every look.
	refusedAgain = 10 * time.Minute
)

// push tells the server what has happened here; blind tells that it is to be looked at once
// more, for what was moved without anybody knowing where to.
func (y *syncer) push(ctx context.Context, box post.Mailbox) (blind bool, err error) {
	if err := y.note(ctx); err != nil {
		return false, err
	}
	p := pusher{syncer: y, box: box, hashed: map[string]string{}}
	if err := p.load(ctx); err != nil {
		return false, err
	}
	if err := errors.Join(p.hold(ctx), p.purge(ctx), p.refusal(ctx, p.writings(ctx))); err != nil || p.blind {
		return p.blind, err
	}
	for {
		if err := ctx.Err(); err != nil {
			return false, err
		}
		tasks, err := read(ctx, y.app, y.who, func(tx *store.Tx) ([]store.RemoteTask, error) {
			return tx.RemoteTasks(y.account, y.app.Now(), toldAtOnce)
		})
		if err != nil || len(tasks) == 0 {
			return false, err
		}
		if err := p.load(ctx); err != nil {
			return false, err
		}
		err = p.tell(ctx, tasks)
		y.publish()
		if err != nil || p.blind {
			return p.blind, err
		}
	}
}

// note notes what has changed here since it was last looked at.
func (y *syncer) note(ctx context.Context) error {
	return y.app.Store.Write(ctx, y.who, func(tx *store.Tx) error {
		r, err := tx.Remote(y.account)
		if err != nil {
			return err
		}
		last, err := tx.NoteRemoteTasks(y.account, r.ReadTo)
		if err != nil || last == r.ReadTo {
			return err
		}
		r.ReadTo = last
		return tx.SaveRemote(r)
	})
}

type pusher struct {
	*syncer
	box     post.Mailbox
	folders []store.RemoteFolder
	open    int64 // the folder that is open
	// hashed are labels, by the keywords that don't tell them, to be kept.
	hashed map[string]string
	// blind tells that letters were moved and nobody knows to which UIDs: they are to
	// be looked for before anything else is told of them.
	blind bool
}

func (p *pusher) load(ctx context.Context) (err error) {
	p.folders, err = read(ctx, p.app, p.who, func(tx *store.Tx) ([]store.RemoteFolder, error) { return tx.RemoteFolders(p.account) })
	return err
}

// batch is what a folder is told of letters at once.
type batch struct {
	folder     int64
	moves      bool
	to         remote.Role
	phrase     string // see remote.Act
	set, clear remote.Flags
	// label and unlabel are keywords, with spaces between.
	label, unlabel string
}

// tell carries out tasks. One that the server refuses is put off, with its words.
func (p *pusher) tell(ctx context.Context, tasks []store.RemoteTask) error {
	acts, whose := map[batch][]copyAt{}, map[copyAt]store.RemoteTask{}
	var about []store.RemoteTask
	for _, t := range tasks {
		if t.Letter == 0 {
			about = append(about, t)
			continue
		}
		if err := p.keep(ctx, t); err != nil {
			return err
		}
		p.blind = true // where it lies now is to be seen
	}
	done, err := p.wanted(ctx, about, acts, whose)
	if err != nil {
		return err
	}
	if err := p.keepHashed(ctx); err != nil {
		return err
	}
	failed := map[int64]string{}
	for b, list := range acts {
		p.app.At("push.before")
		err := p.carryOut(ctx, b, list)
		p.app.At("push.after")
		if err == nil {
			continue
		}
		words, refused := p.box.Refused(err)
		if !refused {
			return err
		}
		for _, c := range list {
			failed[whose[c].ID] = words
		}
	}
	return p.app.Store.Write(ctx, p.who, func(tx *store.Tx) error {
		if err := tx.DropRemoteTasks(done); err != nil {
			return err
		}
		for _, t := range tasks {
			if t.Letter != 0 || slices.Contains(done, t.ID) {
				continue
			}
			words := failed[t.ID]
			if words == "" && t.Tries >= saidForNothing {
				words = "The server said that it did it, and did nothing."
			}
			again := p.app.Now().Add(pauseAfter(t.Tries, words != ""))
			if err := tx.PutOffRemoteTask(t.ID, again, words); err != nil {
				return err
			}
		}
		return nil
	})
}

// pauseAfter is how long it takes until a task is looked at again: at once after the
// first time, to see whether it was done, then longer and longer.
func pauseAfter(tries int, refused bool) time.Duration {
	if tries == 0 && !refused {
		return 0
	}
	return min(6*time.Hour, 10*time.Second<<min(tries, 12))
}

// wanted collects what the server is to be told of conversations, and gives the tasks of
// those of which there is nothing to tell.
func (p *pusher) wanted(ctx context.Context, tasks []store.RemoteTask, acts map[batch][]copyAt, whose map[copyAt]store.RemoteTask) (done []int64, err error) {
	byConversation := make(map[int64]store.RemoteTask, len(tasks))
	ids := make([]int64, len(tasks))
	for i, t := range tasks {
		byConversation[t.Conversation], ids[i] = t, t.Conversation
	}
	return done, p.app.Store.Read(ctx, p.who, func(tx *store.Tx) error {
		views, err := p.views(tx, ids)
		if err != nil {
			return err
		}
		became, err := marksHere(tx, ids)
		if err != nil {
			return err
		}
		seen, err := tx.SeenUpTo(ids)
		if err != nil {
			return err
		}
		wanted := map[int64]bool{}
		for _, v := range views {
			last := seen[v.row.ID]
			here := remote.Here{
				Place: v.row.Place, Kind: v.row.Kind, Star: v.row.Star, Labels: v.row.Labels,
				Seen: func(c remote.Copy) bool { return c.At.Before(last.At) || c.At.Equal(last.At) && c.Letter <= last.ID },
				Marks: func(letter int64) remote.Flags {
					if v.told[letter] {
						return became[letter] | remote.ReceiptSent
					}
					return became[letter]
				},
			}
			for _, a := range remote.Push(here, v.copies) {
				at := v.at(a.Copy)
				b := batch{at.folder, a.Moves, a.To, a.Phrase, a.Set, a.Clear, p.keywords(a.Label), v.keywords(a.Copy, a.Unlabel)}
				acts[b] = append(acts[b], at)
				whose[at] = byConversation[v.row.ID]
				wanted[v.row.ID] = true
			}
		}
		for _, t := range tasks {
			if !wanted[t.Conversation] {
				done = append(done, t.ID)
			}
		}
		return nil
	})
}

// marksHere are what became of letters of conversations that were answered or handed on
// from here.
func marksHere(tx *store.Tx, conversations []int64) (map[int64]remote.Flags, error) {
	sent, err := tx.DraftsSentIn(conversations)
	out := map[int64]remote.Flags{}
	for _, d := range sent {
		var w show.Writing
		if json.Unmarshal(d.Value, &w) != nil {
			continue // who can't be read answers nothing
		}
		switch w.Kind {
		case "answer":
			out[w.Letter] |= remote.Answered
		case "hand-on":
			out[w.Letter] |= remote.Forwarded
		}
	}
	return out, err
}

// keywords are those of labels, with spaces between.
func (p *pusher) keywords(labels []string) string {
	out := make([]string, len(labels))
	for i, l := range labels {
		out[i] = remote.Keyword(l)
		if told, ok := remote.LabelOf(out[i]); !ok || told != l {
			p.hashed[out[i]] = l
		}
	}
	return strings.Join(out, " ")
}

// keepHashed keeps for which labels keywords stand that don't tell it.
func (p *pusher) keepHashed(ctx context.Context) error {
	if len(p.hashed) == 0 {
		return nil
	}
	return p.app.Store.Write(ctx, p.who, func(tx *store.Tx) error {
		for keyword, label := range p.hashed {
			if err := tx.SaveRemoteKeyword(p.account, keyword, label); err != nil {
				return err
			}
		}
		return nil
	})
}

// folderFor is the folder of a role, of the Shallows that of a kind; made where there is none. What is archived where
// all is shown needs no folder of its own.
func (p *pusher) folderFor(role remote.Role, phrase string) (store.RemoteFolder, error) {
	find := func(role remote.Role) (store.RemoteFolder, bool) {
		i := slices.IndexFunc(p.folders, func(f store.RemoteFolder) bool { return f.Role == role && f.Phrase == phrase })
		if i < 0 {
			return store.RemoteFolder{}, false
		}
		return p.folders[i], true
	}
	f, ok := find(role)
	if !ok && role == remote.Archive {
		f, ok = find(remote.All)
	}
	if ok {
		return f, nil
	}
	list, err := listed(p.box, p.holds)
	if err != nil {
		return f, err
	}
	f = store.RemoteFolder{AccountID: p.account, Name: remote.NameFor(role, list), Role: role, Phrase: phrase}
	if role == remote.Shallows {
		f.Name = remote.NameOfKind(sorting.Kind(phrase), list)
	}
	if err := p.box.Create(f.Name); err != nil {
		return f, err
	}
	p.folders = append(p.folders, f)
	return f, nil
}

// select opens a folder, if its UIDs still mean what they did.
func (p *pusher) choose(folder int64) error {
	if p.open == folder {
		return nil
	}
	i := slices.IndexFunc(p.folders, func(f store.RemoteFolder) bool { return f.ID == folder })
	if i < 0 {
		return fmt.Errorf("the folder %d is gone", folder)
	}
	p.open = 0
	opened, err := p.box.Open(p.folders[i].Name)
	if err != nil {
		return err
	}
	if opened.Validity != p.folders[i].Validity {
		return fmt.Errorf("the UIDs of the folder %s mean something else now", p.folders[i].Name)
	}
	p.open = folder
	return nil
}

func uidsOf(list []copyAt) []uint32 {
	out := make([]uint32, len(list))
	for i, c := range list {
		out[i] = c.uid
	}
	return out
}

// chooseByName opens a folder in which nothing is counted.
func (p *pusher) chooseByName(f store.RemoteFolder) error {
	if p.open == f.ID {
		return nil
	}
	p.open = 0
	_, err := p.box.Open(f.Name)
	if err == nil {
		p.open = f.ID
	}
	return err
}

// left notes that letters have left a folder: that they are gone is no news.
func (p *pusher) left(folder int64, n int) {
	if last, ok := p.looked[folder]; ok {
		last.Count -= n
		p.looked[folder] = last
	}
}

// carryOut tells the server, and keeps what both sides agree on then.
func (p *pusher) carryOut(ctx context.Context, b batch, list []copyAt) error {
	if err := p.choose(b.folder); err != nil {
		return err
	}
	uids := uidsOf(list)
	set, clear := append(namesOf(b.set), strings.Fields(b.label)...), append(namesOf(b.clear), strings.Fields(b.unlabel)...)
	if err := p.box.Flag(uids, set, clear); err != nil {
		return err
	}
	var moved map[uint32]uint32
	var to store.RemoteFolder
	if b.moves {
		var err error
		if to, err = p.folderFor(b.to, b.phrase); err != nil {
			return err
		}
		if moved, err = p.box.Move(uids, to.Name); err != nil {
			return err
		}
		p.blind = p.blind || to.ID == 0 || len(moved) < len(uids)
		p.left(b.folder, len(moved))
	}
	return p.app.Store.Write(ctx, p.who, func(tx *store.Tx) error {
		copies, err := tx.RemoteCopiesAt(b.folder, uids)
		if err != nil {
			return err
		}
		var left []uint32
		var now []store.RemoteCopy
		for _, c := range copies {
			c.Flags = c.Flags&^b.clear | b.set
			c.Keywords = marksOf(slices.DeleteFunc(append(strings.Fields(c.Keywords), strings.Fields(b.label)...), func(k string) bool {
				return slices.Contains(strings.Fields(b.unlabel), k)
			})).keywords
			if uid, ok := moved[c.UID]; ok && to.ID != 0 {
				left = append(left, c.UID)
				c.Folder, c.UID = to.ID, uid
			}
			now = append(now, c)
		}
		if err := tx.DropRemoteCopies(b.folder, left); err != nil {
			return err
		}
		return tx.SaveRemoteCopies(now)
	})
}

// keep lets the server keep a letter of the person's own among what was sent, unless it
// does so by itself.
func (p *pusher) keep(ctx context.Context, t store.RemoteTask) error {
	drop := func(tx *store.Tx) error { return tx.DropRemoteTasks([]int64{t.ID}) }
	var l store.Letter
	var raw []byte
	var r store.Remote
	known := false
	err := p.app.Store.Read(ctx, p.who, func(tx *store.Tx) (err error) {
		if r, err = tx.Remote(p.account); err != nil {
			return err
		}
		if l, err = tx.Letter(t.Letter); err != nil {
			return err
		}
		copies, err := tx.RemoteCopiesOf(p.account, []int64{t.Letter})
		if known = len(copies) > 0; err != nil || known {
			return err
		}
		raw, err = tx.Original(t.Letter)
		return err
	})
	if err != nil || known || r.KeepsSent { // gone here, or there already
		return p.app.Store.Write(ctx, p.who, drop)
	}
	sent, err := p.folderFor(remote.Sent, "")
	if err != nil {
		return p.refusedTask(ctx, t, err)
	}
	if _, err := p.box.Open(sent.Name); err != nil {
		return p.refusedTask(ctx, t, err)
	}
	p.open = sent.ID
	found, err := p.box.Find("<" + l.MessageID + ">")
	if err != nil {
		return p.refusedTask(ctx, t, err)
	}
	if len(found) == 0 {
		// Whoever finds it there after a crash knows by this who put it there.
		if err := p.app.Store.Write(ctx, p.who, func(tx *store.Tx) error { return tx.PutOffRemoteTask(t.ID, p.app.Now(), "") }); err != nil {
			return err
		}
		if _, err := p.box.Append(sent.Name, raw, []string{`\Seen`}, l.ReceivedAt); err != nil {
			return p.refusedTask(ctx, t, err)
		}
	}
	return p.app.Store.Write(ctx, p.who, func(tx *store.Tx) error {
		if len(found) > 0 && t.Tries == 0 { // we have put nothing there yet
			r, err := tx.Remote(p.account)
			if err != nil {
				return err
			}
			r.KeepsSent = true
			if err := tx.SaveRemote(r); err != nil {
				return err
			}
		}
		return drop(tx)
	})
}

// refusedTask puts a task off that the server refused; what is no answer ends the
// connection.
func (p *pusher) refusedTask(ctx context.Context, t store.RemoteTask, err error) error {
	words, refused := p.box.Refused(err)
	if !refused {
		return err
	}
	return p.app.Store.Write(ctx, p.who, func(tx *store.Tx) error {
		return tx.PutOffRemoteTask(t.ID, p.app.Now().Add(pauseAfter(t.Tries, true)), words)
	})
}
