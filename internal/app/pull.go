package app

import (
	"context"
	"slices"
	"strings"
	"time"

	"ebbe.example/ebbe/internal/core/remote"
	"ebbe.example/ebbe/internal/core/sorting"
	"ebbe.example/ebbe/internal/post"
	"ebbe.example/ebbe/internal/store"
)

// What is on the server is looked at folder by folder, compared with what both sides
// last agreed on, and taken in: first the letters that are new, then what was done with
// those that are known.

// seenFolder is a folder with what has changed in it since both sides last agreed.
type seenFolder struct {
	store.RemoteFolder
	// fresh are UIDs that aren't known, the newest first; gone those that are and
	// have left.
	fresh, gone []uint32
	// marks are those of letters of which they are others than they were.
	marks map[uint32]marks
}

// marks are the flags of a letter, and the keywords that stand for labels, in order, with
// spaces between.
type marks struct {
	flags    remote.Flags
	keywords string
}

// copyAt names a letter on the server.
type copyAt struct {
	folder int64
	uid    uint32
}

// pull takes in what has happened on the server.
func (y *syncer) pull(ctx context.Context, box post.Mailbox) error {
	folders, err := y.folders(ctx, box)
	if err != nil {
		return err
	}
	whole := time.Since(y.whole) >= wholeAgain
	y.unseen = false
	var seen []seenFolder
	var drafts []store.RemoteFolder
	for _, f := range folders {
		if f.Role == remote.Drafts { // what is being written there has not come
			drafts = append(drafts, f)
		}
		if f.Role == remote.Hidden || f.Role == remote.Drafts {
			continue
		}
		s, err := y.compare(ctx, box, f, whole)
		if err != nil {
			return err
		}
		if s != nil {
			seen = append(seen, *s)
		}
	}
	if whole {
		y.whole = time.Now()
	}
	// The inbox first, so that work can begin.
	slices.SortStableFunc(seen, func(a, b seenFolder) int { return rank(a) - rank(b) })
	added := map[copyAt]bool{}
	for i := range seen {
		if err := y.takeFresh(ctx, box, &seen[i], added); err != nil {
			return err
		}
	}
	y.app.At("sync.after-store")
	if err := y.elsewhere(ctx, seen, added); err != nil {
		return err
	}
	for _, f := range drafts {
		if err := y.pullDrafts(ctx, box, f); err != nil {
			return err
		}
	}
	return nil
}

// rank is in which order folders are taken in: inbox, archive, what is known besides, and
// views of all last, so that letters are where they were put.
func rank(f seenFolder) int {
	return slices.Index([]remote.Role{remote.Inbox, remote.Held, remote.Later, remote.Deciding, remote.Track, remote.Shallows, remote.Drafts, remote.Sent, remote.Junk, remote.Bin, remote.Archive, remote.Other, remote.All}, f.Role)
}

// folders brings what is known of the folders up to what the server lists, and makes
// those that decide.
func (y *syncer) folders(ctx context.Context, box post.Mailbox) ([]store.RemoteFolder, error) {
	var r store.Remote
	var sorts sorting.Sorted
	err := y.app.Store.Read(ctx, y.who, func(tx *store.Tx) (err error) {
		p, err := tx.Person()
		if err != nil {
			return err
		}
		sorts = p.Sorts()
		if r, err = tx.Remote(y.account); err != nil {
			return err
		}
		known, err := tx.RemoteFolders(y.account)
		y.holds = r.Holds
		for _, f := range known {
			if f.Role == remote.Held && !y.holds { // until it is empty
				left, err := tx.RemoteCopies(f.ID)
				if err != nil {
					return err
				}
				y.holds = len(left) > 0
			}
		}
		return err
	})
	if err != nil {
		return nil, err
	}
	list, err := listed(box, y.holds)
	if err != nil {
		return nil, err
	}
	if list, err = y.makeFolders(box, list, r.Holds, sorts); err != nil {
		return nil, err
	}
	var out []store.RemoteFolder
	return out, y.app.Store.Write(ctx, y.who, func(tx *store.Tx) error {
		known, err := tx.RemoteFolders(y.account)
		if err != nil {
			return err
		}
		for _, f := range list {
			i := slices.IndexFunc(known, func(k store.RemoteFolder) bool { return k.Name == f.Name })
			k := store.RemoteFolder{AccountID: y.account, Name: f.Name}
			if i >= 0 {
				k = known[i]
				known = slices.Delete(known, i, i+1)
			}
			if k.ID == 0 || k.Role != f.Role || k.Label != f.Label || k.Phrase != f.Phrase {
				k.Role, k.Label, k.Phrase = f.Role, f.Label, f.Phrase
				if k.ID, err = tx.SaveRemoteFolder(k); err != nil {
					return err
				}
			}
			out = append(out, k)
		}
		for _, gone := range known { // its letters stay where they are
			if err := tx.DropRemoteFolder(gone.ID); err != nil {
				return err
			}
		}
		return nil
	})
}

func listed(box post.Mailbox, holds bool) ([]remote.Folder, error) {
	list, err := box.Folders()
	out := make([]remote.Listed, len(list))
	for i, l := range list {
		out[i] = remote.Listed(l)
	}
	return remote.Sort(out, holds), err
}

// makeFolders makes the folders by which letters are decided on and sorted from other programs, where
// they are missing. A server that won't have them goes without.
func (y *syncer) makeFolders(box post.Mailbox, list []remote.Folder, holds bool, sorts sorting.Sorted) ([]remote.Folder, error) {
	has := func(role remote.Role, phrase string) bool {
		return slices.ContainsFunc(list, func(f remote.Folder) bool { return f.Role == role && f.Phrase == phrase })
	}
	var missing []string
	roles := []remote.Role{remote.Later, remote.Track}
	if holds {
		roles = append(roles, remote.Held)
	}
	for _, role := range roles {
		if !has(role, "") {
			missing = append(missing, remote.NameFor(role, list))
		}
	}
	for _, phrase := range remote.Phrases {
		if !has(remote.Deciding, phrase) {
			missing = append(missing, remote.NameOfPhrase(phrase, list))
		}
	}
	for _, kind := range sorts {
		if !has(remote.Shallows, string(kind)) {
			missing = append(missing, remote.NameOfKind(kind, list))
		}
	}
	made := false
	for _, name := range missing {
		err := box.Create(name)
		if _, refused := box.Refused(err); err != nil && !refused {
			return nil, err
		}
		made = made || err == nil
	}
	if !made {
		return list, nil
	}
	return listed(box, y.holds)
}

// compare opens a folder and tells what has changed in it; nil for nothing. If not whole,
// it is enough that nothing speaks for a change.
func (y *syncer) compare(ctx context.Context, box post.Mailbox, f store.RemoteFolder, whole bool) (*seenFolder, error) {
	opened, err := box.Open(f.Name)
	if _, refused := box.Refused(err); refused { // gone meanwhile, or nobody's to see
		y.unseen = true
		return nil, nil
	}
	if err != nil {
		return nil, err
	}
	if last, ok := y.looked[f.ID]; ok && !whole && last == opened && f.AllIn && f.Role != remote.Inbox {
		return nil, nil
	}
	kept := f.Keeps
	f.Keeps = keepsOf(opened.Keeps)
	if f.Validity != opened.Validity {
		if err := y.anew(ctx, &f, opened); err != nil {
			return nil, err
		}
	}
	if f.ModSeq != 0 && f.ModSeq == opened.ModSeq && f.AllIn && f.Total == opened.Count && f.Keeps == kept {
		n, err := read(ctx, y.app, y.who, func(tx *store.Tx) (int, error) { return tx.CountRemoteCopies(f.ID) })
		if err != nil || n == opened.Count { // nothing has changed: it isn't gone through
			y.looked[f.ID] = opened
			return nil, err
		}
	}
	known, err := read(ctx, y.app, y.who, func(tx *store.Tx) ([]store.RemoteCopy, error) { return tx.RemoteCopies(f.ID) })
	if err != nil {
		return nil, err
	}
	s := &seenFolder{RemoteFolder: f, marks: map[uint32]marks{}}
	there, standings, err := standing(box, f, opened, len(known))
	if err != nil {
		return nil, err
	}
	was := make(map[uint32]store.RemoteCopy, len(known))
	for _, c := range known {
		was[c.UID] = c
	}
	is := make(map[uint32]bool, len(there))
	for _, uid := range there {
		is[uid] = true
		if _, ok := was[uid]; !ok {
			s.fresh = append(s.fresh, uid)
		}
	}
	for _, st := range standings {
		if c, ok := was[st.UID]; ok && marksOf(st.Flags) != (marks{c.Flags, c.Keywords}) {
			s.marks[st.UID] = marksOf(st.Flags)
		}
	}
	if there != nil {
		for _, c := range known {
			if !is[c.UID] {
				s.gone = append(s.gone, c.UID)
			}
		}
	}
	slices.SortFunc(s.fresh, func(a, b uint32) int { return int(b) - int(a) })
	s.fresh = slices.Compact(s.fresh) // a server may say one twice
	y.looked[f.ID] = opened
	s.Total, s.ModSeq = opened.Count, opened.ModSeq
	if len(s.fresh)+len(s.gone)+len(s.marks) == 0 && s.Total == f.Total && s.ModSeq == f.ModSeq && f.AllIn && f.Keeps == kept {
		return nil, nil
	}
	return s, nil
}

// standing lists the letters of the open folder: all UIDs, nil where none can have left or
// come, and the flags of those that may have changed.
func standing(box post.Mailbox, f store.RemoteFolder, opened post.Opened, known int) (uids []uint32, changed []post.Standing, err error) {
	if f.ModSeq == 0 || opened.ModSeq == 0 || !f.AllIn {
		changed, err = box.Standings(0)
		uids = []uint32{}
		for _, s := range changed {
			uids = append(uids, s.UID)
		}
		return uids, changed, err
	}
	if opened.ModSeq != f.ModSeq {
		if changed, err = box.Standings(f.ModSeq); err != nil {
			return nil, nil, err
		}
	}
	if opened.ModSeq != f.ModSeq || opened.Count != known {
		if uids, err = box.UIDs(); uids == nil && err == nil {
			uids = []uint32{}
		}
	}
	return uids, changed, err
}

// anew begins a folder from nothing: it is seen for the first time, or its UIDs mean
// something else now. Its letters are found again by what they are; nothing was done
// with them.
func (y *syncer) anew(ctx context.Context, f *store.RemoteFolder, opened post.Opened) error {
	return y.app.Store.Write(ctx, y.who, func(tx *store.Tx) error {
		copies, err := tx.RemoteCopies(f.ID)
		if err != nil {
			return err
		}
		uids := make([]uint32, len(copies))
		for i, c := range copies {
			uids[i] = c.UID
		}
		if err := tx.DropRemoteCopies(f.ID, uids); err != nil {
			return err
		}
		f.Validity, f.ModSeq, f.Arrivals, f.AllIn, f.Total = opened.Validity, 0, opened.Next, false, opened.Count
		_, err = tx.SaveRemoteFolder(*f)
		return err
	})
}

// The flags that both sides keep alike, as servers write them.
var flagNames = []struct {
	flag remote.Flags
	name string
}{
	{remote.Seen, `\Seen`}, {remote.Flagged, `\Flagged`}, {remote.Answered, `\Answered`}, {remote.Forwarded, "$Forwarded"}, {remote.ReceiptSent, "$MDNSent"},
	{remote.Labels, `\*`}, // a folder's
}

func flagsOf(names []string) (out remote.Flags) {
	for _, f := range flagNames {
		if slices.ContainsFunc(names, func(n string) bool { return strings.EqualFold(n, f.name) }) {
			out |= f.flag
		}
	}
	return out
}

// keepsOf are the flags that a folder keeps for good, as the server lists them.
func keepsOf(names string) remote.Flags {
	out := flagsOf(strings.Fields(names))
	if out.Has(remote.Labels) {
		out |= remote.Forwarded | remote.ReceiptSent
	}
	return out
}

// marksOf are the flags of a letter, and what of them stands for labels.
func marksOf(names []string) marks {
	var words []string
	for _, n := range names {
		if _, ok := remote.LabelOf(n); ok || strings.HasPrefix(n, remote.HashedKeyword) {
			words = append(words, n)
		}
	}
	slices.Sort(words)
	return marks{flagsOf(names), strings.Join(slices.Compact(words), " ")}
}

func namesOf(flags remote.Flags) (out []string) {
	for _, f := range flagNames {
		if flags.Has(f.flag) {
			out = append(out, f.name)
		}
	}
	return out
}
