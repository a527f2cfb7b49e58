package app

import (
	"context"
	"crypto/sha256"
	"encoding/hex"
	"encoding/json"
	"errors"
	"fmt"
	"maps"
	"slices"
	"strconv"
	"strings"
	"time"

	"ebbe.example/ebbe/internal/core/change"
	"ebbe.example/ebbe/internal/core/kinds"
	"ebbe.example/ebbe/internal/core/letter"
	"ebbe.example/ebbe/internal/core/remote"
	"ebbe.example/ebbe/internal/post"
	"ebbe.example/ebbe/internal/say"
	"ebbe.example/ebbe/internal/show"
	"ebbe.example/ebbe/internal/store"
	"ebbe.example/ebbe/internal/work"
)

// What is being written is in the drafts of both sides. A draft there is replaced, not
// changed: another has come and the old one is gone. So each version that is told has a
// Message-ID that says which it is, by which it is found again after a crash.

// draftRests is how long nothing is typed in a draft before it is told.
const draftRests = 5 * time.Second

const draftMark = "draft."

// draftID is the Message-ID of a version of a draft, without angle brackets. The name of
// the draft is nobody else's, so that of two Ebbes on an account each knows its own.
func draftID(d store.Draft, address string) string {
	_, domain, _ := strings.Cut(address, "@")
	return fmt.Sprintf("%s%x.%d@%s", draftMark, d.ID, d.UpdatedAt.UnixMilli(), domain)
}

// toldDraft is which version of which draft has a Message-ID.
func toldDraft(messageID string) (id string, at time.Time, ok bool) {
	local, _, _ := strings.Cut(messageID, "@")
	rest, ok := strings.CutPrefix(local, draftMark)
	first, last, split := strings.Cut(rest, ".")
	name, err := hex.DecodeString(first)
	ms, err2 := strconv.ParseInt(last, 10, 64)
	return string(name), time.UnixMilli(ms).UTC(), ok && split && err == nil && err2 == nil
}

// pullDrafts takes over what was written, sent and thrown away elsewhere.
func (y *syncer) pullDrafts(ctx context.Context, box post.Mailbox, f store.RemoteFolder) error {
	opened, err := box.Open(f.Name)
	if _, refused := box.Refused(err); refused {
		return nil
	}
	if err != nil || y.looked[f.ID] == opened {
		return err
	}
	uids, err := box.UIDs()
	if err != nil {
		return err
	}
	var known []store.RemoteDraft
	err = y.app.Store.Write(ctx, y.who, func(tx *store.Tx) (err error) {
		if f.Validity != opened.Validity {
			f.Validity = opened.Validity
			if _, err := tx.SaveRemoteFolder(f); err != nil {
				return err
			}
			return tx.DropRemoteDrafts(f.ID, nil)
		}
		known, err = tx.RemoteDrafts(f.ID)
		return err
	})
	if err != nil {
		return err
	}
	fresh := slices.DeleteFunc(slices.Clone(uids), func(uid uint32) bool {
		return slices.ContainsFunc(known, func(k store.RemoteDraft) bool { return k.UID == uid })
	})
	for part := range slices.Chunk(fresh, fetchedAtOnce) {
		err := box.Fetch(part, func(m post.Message) error { return y.takeDraft(ctx, f, m) })
		if err != nil {
			return err
		}
	}
	for _, k := range known {
		if !slices.Contains(uids, k.UID) {
			if err := y.draftGone(ctx, k); err != nil {
				return err
			}
		}
	}
	y.looked[f.ID] = opened
	return nil
}

// takeDraft takes over a draft that was written elsewhere. One with files stays there alone,
// for it would lose them here.
func (y *syncer) takeDraft(ctx context.Context, f store.RemoteFolder, m post.Message) error {
	there := store.RemoteDraft{Folder: f.ID, UID: m.UID}
	l := letter.Parse(m.Raw)
	err := y.app.Store.Write(ctx, y.who, func(tx *store.Tx) error {
		if id, at, ok := toldDraft(l.MessageID); ok {
			d, err := tx.Draft(id)
			if err == nil { // ours, of before a crash
				there.Draft, there.ToldAt = d.Number, at
				return tx.SaveRemoteDraft(there)
			}
			if !errors.Is(err, store.ErrNotFound) {
				return err
			}
		}
		if m.Err != nil || len(l.Attachments()) > 0 {
			return tx.SaveRemoteDraft(there)
		}
		d, err := y.draftOf(tx, l, m.Raw)
		if err != nil {
			return err
		}
		// One that is over here and was written on there is another.
		if was, err := tx.Draft(d.ID); err == nil && !was.Alive {
			d.ID = fmt.Sprintf("%s-%d-%d", d.ID, f.Validity, m.UID)
		}
		if err := tx.SaveDraft(d); err != nil {
			return err
		}
		if d, err = tx.Draft(d.ID); err != nil {
			return err
		}
		there.Draft, there.ToldAt = d.Number, d.UpdatedAt
		return tx.SaveRemoteDraft(there)
	})
	y.app.Publish(y.who.Inbox, work.News{Stale: work.StaleBy(kinds.Draft.Kind)})
	return err
}

// draftOf is what was written elsewhere. All versions of it are the same draft, where the
// program that wrote them says so by one Message-ID.
func (y *syncer) draftOf(tx *store.Tx, l letter.Letter, raw []byte) (store.Draft, error) {
	account, _, err := tx.Account(y.account)
	if err != nil {
		return store.Draft{}, err
	}
	w := show.Writing{Kind: "new", From: strings.ToLower(account.Address), To: written(l.To), Cc: written(l.Cc), Subject: l.Subject, Text: l.Text}
	sum := sha256.Sum256(raw)
	if l.MessageID != "" {
		sum = sha256.Sum256([]byte(l.MessageID))
	}
	d := store.Draft{ID: "there-" + hex.EncodeToString(sum[:12]), UpdatedAt: y.app.Now()}
	if len(l.InReplyTo) > 0 {
		id, err := tx.LetterByMessageID(l.InReplyTo[0])
		if err != nil {
			return d, err
		}
		if answered, err := tx.Letter(id); err == nil && answered.Conversation != 0 {
			w.Kind, w.Letter, d.Conversation = "answer", id, answered.Conversation
			w.Quoted = " " // what they wrote has what is quoted in it
		}
	}
	d.Kind = w.Kind
	d.Value, err = json.Marshal(w)
	return d, err
}

func written(list []letter.Address) []string {
	out := make([]string, len(list))
	for i, a := range list {
		out[i] = a.String()
	}
	return out
}

// draftGone throws away here what is no longer there: it was sent, thrown away or replaced.
// What was changed here since stays, and is told anew.
func (y *syncer) draftGone(ctx context.Context, k store.RemoteDraft) error {
	_, err := run(ctx, y.app, y.command("elsewhere:draft"), func(s *step) (bool, error) {
		if err := s.DropRemoteDrafts(k.Folder, []uint32{k.UID}); err != nil {
			return false, err
		}
		again, err := s.RemoteDrafts(k.Folder)
		if err != nil {
			return false, err
		}
		replaced := slices.ContainsFunc(again, func(x store.RemoteDraft) bool { return x.Draft == k.Draft })
		id, err := s.DraftByNumber(k.Draft)
		if errors.Is(err, store.ErrNotFound) || replaced {
			return false, nil
		}
		if err != nil {
			return false, err
		}
		d, err := s.Draft(id)
		if err != nil || !d.Alive || d.UpdatedAt.After(k.ToldAt) {
			return false, err
		}
		var w show.Writing
		_ = json.Unmarshal(d.Value, &w) // one that can't be read has no subject
		s.Title = "Draft sent or thrown away elsewhere: “" + say.Shorten(w.Subject, 60) + "”"
		var changes change.List
		kinds.Draft.Alive.Set(&changes, d.Number, true, false)
		return true, s.Change(changes)
	})
	return err
}

// writings tells the server of what is being written here, once it rests.
func (p *pusher) writings(ctx context.Context) error {
	i := slices.IndexFunc(p.folders, func(f store.RemoteFolder) bool { return f.Role == remote.Drafts })
	if i < 0 {
		return nil // nobody there would find them
	}
	folder := p.folders[i]
	var account store.Account
	var drafts []store.Draft
	var there []store.RemoteDraft
	err := p.app.Store.Read(ctx, p.who, func(tx *store.Tx) (err error) {
		if account, _, err = tx.Account(p.account); err != nil {
			return err
		}
		if there, err = tx.RemoteDrafts(folder.ID); err != nil {
			return err
		}
		drafts, err = tx.Drafts()
		return err
	})
	if err != nil {
		return err
	}
	newest := map[int64]store.RemoteDraft{} // of each there
	left := map[uint32]bool{}               // what is to go
	for _, t := range there {
		if t.Draft == 0 {
			continue
		}
		left[t.UID] = true
		if last, ok := newest[t.Draft]; !ok || !t.ToldAt.Before(last.ToldAt) {
			newest[t.Draft] = t
		}
	}
	for _, d := range drafts {
		var w show.Writing
		// One with files stays here alone: they are not all there yet, and would go there anew
		// with each change.
		ours := json.Unmarshal(d.Value, &w) == nil && strings.EqualFold(w.From, account.Address) && len(w.Files) == 0
		if !ours {
			continue
		}
		last, ok := newest[d.Number]
		if ok && !d.UpdatedAt.After(last.ToldAt) || p.app.Now().Sub(d.UpdatedAt) < draftRests {
			delete(left, last.UID)
			continue
		}
		uid, err := p.tellDraft(ctx, folder, account, d, w)
		if err != nil || uid == 0 {
			return err
		}
		delete(left, uid)
	}
	if len(left) == 0 {
		return nil
	}
	old := slices.Sorted(maps.Keys(left))
	if err := p.chooseByName(folder); err != nil {
		return err
	}
	if err := p.box.Purge(old); err != nil {
		return err
	}
	p.left(folder.ID, len(old))
	return p.app.Store.Write(ctx, p.who, func(tx *store.Tx) error { return tx.DropRemoteDrafts(folder.ID, old) })
}

// tellDraft puts a draft into the folder there, once, and gives its UID.
func (p *pusher) tellDraft(ctx context.Context, folder store.RemoteFolder, account store.Account, d store.Draft, w show.Writing) (uint32, error) {
	out := letter.Outgoing{
		MessageID: draftID(d, account.Address), From: letter.Address{Name: account.Name, Email: account.Address}, To: addressesIn(w.To), Cc: addressesIn(w.Cc),
		Subject: w.Subject, Date: d.UpdatedAt, Text: w.Text,
	}
	if strings.TrimSpace(w.Quoted) != "" {
		out.Text = strings.TrimRight(w.Text, "\n") + "\n\n" + w.Quoted
	}
	if w.Letter != 0 {
		err := p.app.Store.Read(ctx, p.who, func(tx *store.Tx) error {
			l, err := tx.Letter(w.Letter)
			out.InReplyTo = l.MessageID
			return err
		})
		if err != nil && !errors.Is(err, store.ErrNotFound) {
			return 0, err
		}
	}
	raw, err := out.Draft()
	if err != nil {
		return 0, err
	}
	if err := p.chooseByName(folder); err != nil {
		return 0, err
	}
	p.app.At("push.before")
	defer p.app.At("push.after")
	found, err := p.box.Find("<" + out.MessageID + ">")
	if err != nil {
		return 0, err
	}
	if len(found) == 0 {
		uid, err := p.box.Append(folder.Name, raw, []string{`\Draft`, `\Seen`}, d.UpdatedAt)
		if err != nil {
			return 0, err
		}
		if found = []uint32{uid}; uid == 0 {
			if found, err = p.box.Find("<" + out.MessageID + ">"); err != nil || len(found) == 0 {
				return 0, err
			}
		}
		p.left(folder.ID, -1)
	}
	return found[0], p.app.Store.Write(ctx, p.who, func(tx *store.Tx) error {
		return tx.SaveRemoteDraft(store.RemoteDraft{Folder: folder.ID, UID: found[0], Draft: d.Number, ToldAt: d.UpdatedAt})
	})
}

// addressesIn are those of typed addresses that are some.
func addressesIn(typed []string) (out []letter.Address) {
	for _, t := range typed {
		if a, err := letter.CheckAddress(t); err == nil {
			out = append(out, a)
		}
	}
	return out
}
