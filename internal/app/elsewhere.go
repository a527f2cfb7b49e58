package app

import (
	"context"
	"errors"
	"fmt"
	"slices"
	"strings"

	"ebbe.example/ebbe/internal/core/decide"
	"ebbe.example/ebbe/internal/core/remote"
	"ebbe.example/ebbe/internal/core/sorting"
	"ebbe.example/ebbe/internal/say"
	"ebbe.example/ebbe/internal/store"
	"ebbe.example/ebbe/internal/work"
)

// What was done with letters in other programs is decided on here: conversation by
// conversation, by what both sides last agreed on, how it is there now, and how it
// stands here (see core/remote).

// doneElsewhere is what another program did with a conversation.
type doneElsewhere struct {
	row  store.Row
	what remote.Decision
	star *bool
	seen int64
	// unseen tells that letters were marked as unread, but for those up to still.
	unseen bool
	still  int64
	// label and unlabel are labels that were put on and taken off, told are letters of which
	// the sender was told elsewhere that they were read.
	label, unlabel []string
	told           []int64
	// missing are letters that are in no folder now, and were the last time. They may be
	// on their way from one folder to another, so that is not taken for anything yet.
	missing []copyAt
	// changed and gone are its copies as both sides agree on them from now on. They are
	// written down with what is decided, so that a crash lets nothing be decided twice.
	changed []store.RemoteCopy
	gone    []copyAt
}

// agree keeps how the letters of the conversation stand now.
func (d doneElsewhere) agree(tx *store.Tx) error {
	if err := tx.SaveRemoteCopies(d.changed); err != nil {
		return err
	}
	for _, c := range d.gone {
		if err := tx.DropRemoteCopies(c.folder, []uint32{c.uid}); err != nil {
			return err
		}
	}
	return nil
}

// elsewhere decides on what was done with known letters, and keeps how they stand now.
func (y *syncer) elsewhere(ctx context.Context, seen []seenFolder, added map[copyAt]bool) error {
	if len(seen) == 0 {
		return nil
	}
	if err := y.letInElsewhere(ctx, seen); err != nil {
		return err
	}
	var done []doneElsewhere
	err := y.app.Store.Read(ctx, y.who, func(tx *store.Tx) (err error) {
		done, err = y.lookElsewhere(tx, seen, added)
		return err
	})
	if err != nil {
		return err
	}
	// Where letters were moved is agreed on with its step; what else was done is taken over
	// before, so that a crash in between loses none of it.
	if err := errors.Join(y.starElsewhere(ctx, done), y.labelElsewhere(ctx, done), y.toldElsewhere(ctx, done)); err != nil {
		return err
	}
	groups, order := map[remote.Decision][]doneElsewhere{}, []remote.Decision{}
	for _, d := range done {
		key := d.what
		if len(groups[key]) == 0 {
			order = append(order, key)
		}
		groups[key] = append(groups[key], d)
	}
	for _, what := range order {
		if what.Kind == "" && what.Sort == "" && !what.Lost {
			continue
		}
		if err := y.takeOver(ctx, what, groups[what]); err != nil {
			return err
		}
	}
	return y.agree(ctx, seen, done)
}

// changedLetters are the known letters of which something has changed.
func changedLetters(tx *store.Tx, seen []seenFolder) (letters []int64, err error) {
	for _, f := range seen {
		copies, err := tx.RemoteCopies(f.ID)
		if err != nil {
			return nil, err
		}
		gone := setOf(f.gone)
		for _, c := range copies {
			_, marked := f.marks[c.UID]
			if c.Letter != 0 && (marked || gone[c.UID]) {
				letters = append(letters, c.Letter)
			}
		}
	}
	return letters, nil
}

func setOf(uids []uint32) map[uint32]bool {
	out := make(map[uint32]bool, len(uids))
	for _, uid := range uids {
		out[uid] = true
	}
	return out
}

// lookElsewhere compares, conversation by conversation.
func (y *syncer) lookElsewhere(tx *store.Tx, seen []seenFolder, added map[copyAt]bool) (done []doneElsewhere, err error) {
	letters, err := changedLetters(tx, seen)
	if err != nil || len(letters) == 0 {
		return nil, err
	}
	conversations, err := tx.ConversationsWith(letters)
	if err != nil {
		return nil, err
	}
	views, err := y.views(tx, conversations)
	if err != nil {
		return nil, err
	}
	is := map[copyAt]marks{}
	gone := map[copyAt]bool{}
	for _, f := range seen {
		for uid, m := range f.marks {
			is[copyAt{f.ID, uid}] = m
		}
		for _, uid := range f.gone {
			gone[copyAt{f.ID, uid}] = true
		}
	}
	for _, v := range views {
		d := doneElsewhere{row: v.row}
		var before, now []remote.Copy
		left := map[int64]bool{}
		for i, c := range v.copies {
			if !gone[v.at(i)] {
				left[c.Letter] = true
			}
		}
		for i, c := range v.copies {
			at := v.at(i)
			if !added[at] {
				before = append(before, c)
			}
			if m, ok := is[at]; ok {
				if m.flags.Has(remote.ReceiptSent) && !c.Flags.Has(remote.ReceiptSent) && v.asked[c.Letter] {
					d.told = append(d.told, c.Letter)
				}
				kept := v.kept[i]
				kept.Flags, kept.Keywords = m.flags, m.keywords
				d.changed = append(d.changed, kept)
				c.Flags, c.Labels = m.flags, v.labels(m.keywords)
			}
			if gone[at] && !left[c.Letter] && (y.unseen || !v.kept[i].Missing) {
				d.missing = append(d.missing, at)
			} else if gone[at] {
				d.gone = append(d.gone, at)
				continue
			}
			now = append(now, c)
		}
		d.what, d.seen = remote.Elsewhere(remote.Here{Place: v.row.Place, Kind: v.row.Kind}, before, now), remote.SeenElsewhere(before, now)
		if star, changed := remote.StarElsewhere(v.row.Star, before, now); changed {
			d.star = &star
		}
		d.still, d.unseen = remote.UnseenElsewhere(before, now)
		d.label, d.unlabel = remote.LabelsElsewhere(v.row.Labels, before, now)
		done = append(done, d)
	}
	return done, nil
}

// view is a conversation with its copies on the server, and where each of them is.
type view struct {
	row    store.Row
	copies []remote.Copy
	kept   []store.RemoteCopy
	// asked are the letters whose sender wishes to be told that they were read, told
	// those whose sender was.
	asked, told map[int64]bool
	words       map[string]string // labels that their keywords don't tell
}

// at is where a copy is.
func (v view) at(i int) copyAt { return copyAt{v.kept[i].Folder, v.kept[i].UID} }

// keywords are those of a copy that stand for labels, with spaces between.
func (v view) keywords(i int, labels []string) string {
	var out []string
	for _, k := range strings.Fields(v.kept[i].Keywords) {
		if stands := v.labels(k); len(stands) > 0 && slices.Contains(labels, stands[0]) {
			out = append(out, k)
		}
	}
	return strings.Join(out, " ")
}

// labels are those that keywords stand for.
func (v view) labels(keywords string) (out []string) {
	for _, k := range strings.Fields(keywords) {
		label, ok := v.words[k]
		if !ok {
			label, ok = remote.LabelOf(k)
		}
		if ok {
			out = append(out, label)
		}
	}
	return out
}

// views are conversations as they stand on the server by what both sides agreed on.
func (y *syncer) views(tx *store.Tx, conversations []int64) ([]view, error) {
	folders, err := tx.RemoteFolders(y.account)
	if err != nil {
		return nil, err
	}
	byID := make(map[int64]store.RemoteFolder, len(folders))
	for _, f := range folders {
		byID[f.ID] = f
	}
	rows, err := tx.Conversations(conversations)
	if err != nil {
		return nil, err
	}
	letters, err := tx.StandingIn(conversations)
	if err != nil {
		return nil, err
	}
	byLetter := make(map[int64]store.Standing, len(letters))
	ids := make([]int64, len(letters))
	for i, l := range letters {
		byLetter[l.ID], ids[i] = l, l.ID
	}
	copies, err := tx.RemoteCopiesOf(y.account, ids)
	if err != nil {
		return nil, err
	}
	words, err := tx.RemoteKeywords(y.account)
	if err != nil {
		return nil, err
	}
	out := make([]view, len(rows))
	at := make(map[int64]*view, len(rows))
	for i, row := range rows {
		out[i] = view{row: row, words: words, asked: map[int64]bool{}, told: map[int64]bool{}}
		at[row.ID] = &out[i]
	}
	for _, c := range copies {
		l, f := byLetter[c.Letter], byID[c.Folder]
		v := at[l.Conversation]
		if v == nil {
			continue
		}
		v.copies = append(v.copies, remote.Copy{
			Letter: c.Letter, At: l.ReceivedAt, Own: l.Own, Role: f.Role, Flags: c.Flags, Keeps: f.Keeps, Labels: v.labels(c.Keywords), Filed: f.Label, Phrase: f.Phrase,
		})
		v.kept = append(v.kept, c)
		v.asked[c.Letter], v.told[c.Letter] = l.ReadReceipt == ReadReceiptAsked, l.ReadReceipt == ReadReceiptSent
	}
	return out, nil
}

// elsewhereTitles say what was done, before the names of the letters.
var elsewhereTitles = map[decide.Kind]string{
	decide.Done: "Archived elsewhere: ", decide.ToBin: "Binned elsewhere: ", decide.ToJunk: "To junk elsewhere: ", decide.ToInbox: "Back to the inbox elsewhere: ",
	decide.PutOff: "Put off elsewhere: ", decide.FollowUp: "Followed up elsewhere: ",
}

// elsewhereTitle says what was done. Who is put among letters of another kind stays there from now
// on, as if it was moved here.
func elsewhereTitle(what remote.Decision) string {
	if what.Sort == sorting.Person {
		return "To the inbox elsewhere, from now on: "
	}
	if what.Sort != "" {
		return "To " + string(what.Sort) + " elsewhere, from now on: "
	}
	return elsewhereTitles[what.Kind]
}

// takeOver takes over what was done with conversations. Where that is refused for one of
// them, the others go alone; that one stays as it is here, and both sides learn of it.
func (y *syncer) takeOver(ctx context.Context, what remote.Decision, list []doneElsewhere) error {
	err := y.decideElsewhere(ctx, what, list)
	var refused *work.Problem
	if !errors.As(err, &refused) {
		return err
	}
	if len(list) > 1 {
		for _, d := range list {
			if err := y.takeOver(ctx, what, []doneElsewhere{d}); err != nil {
				return err
			}
		}
		return nil
	}
	_, err = run(ctx, y.app, y.command("elsewhere"), func(s *step) (bool, error) {
		s.Final = true
		s.Title = fmt.Sprintf("%s“%s”, but not here: %s", elsewhereTitle(what), say.Shorten(list[0].row.Title(), 60), refused.Reason)
		if err := list[0].agree(s.Tx); err != nil {
			return false, err
		}
		return true, s.AddRemoteTask(y.account, list[0].row.ID, 0)
	})
	return err
}

// decideElsewhere takes over what was done with conversations, as one step. A time that
// can't be read is tomorrow: the letters were put off, whatever the folder is called.
func (y *syncer) decideElsewhere(ctx context.Context, what remote.Decision, list []doneElsewhere) error {
	cmd := y.command("elsewhere")
	_, err := run(ctx, y.app, cmd, func(s *step) (Decided, error) {
		on := make([]store.Seen, len(list))
		var rows []seenRow
		for i, d := range list {
			on[i] = store.Seen{ID: d.row.ID, Last: d.row.LastLetter}
			rows = append(rows, seenRow{Row: d.row})
			if err := d.agree(s.Tx); err != nil {
				return Decided{}, err
			}
			// What was put into a folder that decides does not stay there.
			if err := s.AddRemoteTask(y.account, d.row.ID, 0); err != nil {
				return Decided{}, err
			}
		}
		s.Title = elsewhereTitle(what) + namedTitle(rows)
		if what.Lost {
			s.Final = true
			s.Title = fmt.Sprintf("Binned elsewhere, but decided here since: %s. It stays as it is here", namedTitle(rows))
			return Decided{}, nil
		}
		title := s.Title
		var out Decided
		var err error
		switch {
		case what.Sort != "":
			out, err = s.sort(Sorting{Kind: what.Sort, Scope: sorting.ByAddress, On: on, Sure: true}, "")
		case what.Kind == decide.FollowUp:
			err = s.trackElsewhere(on)
		default:
			deciding := Deciding{Kind: what.Kind, On: on, When: what.When, Sure: true}
			if _, unread := s.read(what.When); what.Kind == decide.PutOff && unread != nil {
				deciding.When = remote.UsualPhrase
			}
			out, err = s.decide(deciding)
		}
		s.Title = title
		return out, err
	})
	return err
}

// trackElsewhere makes a follow-up of each, due today.
func (s *step) trackElsewhere(on []store.Seen) error {
	today := "today"
	for _, o := range on {
		if _, err := s.decide(Deciding{Kind: decide.FollowUp, On: []store.Seen{o}, FollowUp: &FollowUpFields{Due: &today}, Sure: true}); err != nil {
			return err
		}
	}
	return nil
}

// command is one of what was done elsewhere.
func (y *syncer) command(kind string) work.Command {
	return work.Command{ID: "elsewhere:" + y.app.NewID(), Who: y.who, Actor: work.ByElsewhere, Kind: kind}
}

// agree keeps how the letters stand now, and what was read.
func (y *syncer) agree(ctx context.Context, seen []seenFolder, done []doneElsewhere) error {
	missing := map[copyAt]bool{}
	for _, d := range done {
		for _, c := range d.missing {
			missing[c] = true
		}
	}
	err := y.app.Store.Write(ctx, y.who, func(tx *store.Tx) error {
		for _, d := range done {
			if d.unseen {
				if err := tx.MarkUnseen(d.row.ID, d.still); err != nil {
					return err
				}
			}
			if d.seen == 0 {
				continue
			}
			if err := tx.MarkSeen(d.row.ID, d.seen); err != nil {
				return err
			}
		}
		for _, f := range seen {
			copies, err := tx.RemoteCopies(f.ID)
			if err != nil {
				return err
			}
			var changed []store.RemoteCopy
			for _, c := range copies {
				was := c
				if m, ok := f.marks[c.UID]; ok {
					c.Flags, c.Keywords = m.flags, m.keywords
				}
				if c.Missing = missing[copyAt{f.ID, c.UID}]; c != was {
					changed = append(changed, c)
				}
			}
			if err := tx.SaveRemoteCopies(changed); err != nil {
				return err
			}
			gone := slices.DeleteFunc(slices.Clone(f.gone), func(uid uint32) bool { return missing[copyAt{f.ID, uid}] })
			if err := tx.DropRemoteCopies(f.ID, gone); err != nil {
				return err
			}
			if len(gone) < len(f.gone) {
				f.ModSeq = 0 // what is missing is looked for the next time
			}
			if _, err := tx.SaveRemoteFolder(f.RemoteFolder); err != nil {
				return err
			}
		}
		r, err := tx.Remote(y.account)
		if err != nil {
			return err
		}
		r.SyncedAt = y.app.Now()
		return tx.SaveRemote(r)
	})
	if err != nil {
		return err
	}
	for _, d := range done {
		if d.seen != 0 || d.unseen {
			y.app.Publish(y.who.Inbox, work.News{Everything: true, Stale: []work.Reading{}, Person: y.who.Person})
			break
		}
	}
	y.publish()
	return nil
}
