package imap

import (
	"errors"
	"fmt"
	"io"
	"slices"
	"strings"
	"time"

	"github.com/emersion/go-imap/v2"
	"github.com/emersion/go-imap/v2/imapclient"

	"ebbe.example/ebbe/internal/post"
)

// Open opens a folder, which the methods below work on.
func (s *Session) Open(name string) (post.Opened, error) {
	data, err := s.client.Select(name, &imap.SelectOptions{CondStore: s.client.Caps().Has(imap.CapCondStore)}).Wait()
	if err != nil {
		return post.Opened{}, fmt.Errorf("open the folder %s: %w", name, err)
	}
	keeps := data.PermanentFlags
	if len(keeps) == 0 { // then all that it has are kept (RFC 9051, 7.1)
		keeps = data.Flags
	}
	return post.Opened{
		Validity: data.UIDValidity, Next: uint32(data.UIDNext), Count: int(data.NumMessages), ModSeq: data.HighestModSeq, Keeps: strings.Join(texts(keeps), " "),
	}, nil
}

// Standings lists the letters of the open folder, those that the server marks as deleted
// left out; since a ModSeq only those that have changed, where that is not 0.
func (s *Session) Standings(since uint64) ([]post.Standing, error) {
	every := imap.UIDSet{imap.UIDRange{Start: 1, Stop: 0}}
	cmd := s.client.Fetch(every, &imap.FetchOptions{UID: true, Flags: true, ChangedSince: since})
	var out []post.Standing
	for {
		m := cmd.Next()
		if m == nil {
			break
		}
		data, err := m.Collect()
		if err != nil {
			return nil, errors.Join(err, cmd.Close())
		}
		if data.UID == 0 || slices.Contains(data.Flags, imap.FlagDeleted) {
			continue
		}
		out = append(out, post.Standing{UID: uint32(data.UID), Flags: texts(data.Flags)})
	}
	return out, cmd.Close()
}

// UIDs lists the letters of the open folder; those marked as deleted are left out.
func (s *Session) UIDs() ([]uint32, error) {
	return s.search(&imap.SearchCriteria{NotFlag: []imap.Flag{imap.FlagDeleted}})
}

// Find lists the letters of the open folder with a Message-ID.
func (s *Session) Find(messageID string) ([]uint32, error) {
	return s.search(&imap.SearchCriteria{Header: []imap.SearchCriteriaHeaderField{{Key: "Message-ID", Value: messageID}}, NotFlag: []imap.Flag{imap.FlagDeleted}})
}

func (s *Session) search(what *imap.SearchCriteria) ([]uint32, error) {
	data, err := s.client.UIDSearch(what, nil).Wait()
	if err != nil {
		return nil, err
	}
	uids := data.AllUIDs()
	out := make([]uint32, len(uids))
	for i, uid := range uids {
		out[i] = uint32(uid)
	}
	return out, nil
}

// Fetch gives letters of the open folder, one after the other as the server sends
// them, until each fails. Those that are gone are left out.
func (s *Session) Fetch(uids []uint32, each func(post.Message) error) error {
	if len(uids) == 0 {
		return nil
	}
	whole := &imap.FetchItemBodySection{Peek: true}
	cmd := s.client.Fetch(setOf(uids), &imap.FetchOptions{UID: true, Flags: true, InternalDate: true, BodySection: []*imap.FetchItemBodySection{whole}})
	for {
		data := cmd.Next()
		if data == nil {
			return cmd.Close()
		}
		m, err := message(data)
		if err == nil && m.UID != 0 && (m.Raw != nil || m.Err != nil) {
			err = each(m)
		}
		if err != nil { // what is under way can't be called off: the connection goes
			return errors.Join(err, s.client.Close())
		}
	}
}

func message(data *imapclient.FetchMessageData) (m post.Message, err error) {
	for {
		switch item := data.Next().(type) {
		case nil:
			return m, nil
		case imapclient.FetchItemDataUID:
			m.UID = uint32(item.UID)
		case imapclient.FetchItemDataFlags:
			m.Flags = texts(item.Flags)
		case imapclient.FetchItemDataInternalDate:
			m.At = item.Time.UTC()
		case imapclient.FetchItemDataBodySection:
			if item.Literal == nil {
				continue
			}
			if m.Raw, m.Err = post.Gather(item.Literal); m.Err != nil {
				if _, err := io.Copy(io.Discard, item.Literal); err != nil {
					return m, err
				}
				if !errors.Is(m.Err, post.ErrTooLarge) {
					return m, m.Err
				}
			}
			if m.Raw == nil {
				m.Raw = []byte{}
			}
		}
	}
}

// Move moves letters of the open folder to another, and gives their new UIDs where
// the server says them. Without MOVE they are copied and marked as deleted; they are
// taken away only where that can be said of them alone (UIDPLUS, RFC 4315).
func (s *Session) Move(uids []uint32, to string) (map[uint32]uint32, error) {
	set := setOf(uids)
	if s.client.Caps().Has(imap.CapMove) {
		data, err := s.client.Move(set, to).Wait()
		if err != nil {
			return nil, err
		}
		return pairs(data.SourceUIDs, data.DestUIDs), nil
	}
	data, err := s.client.Copy(set, to).Wait()
	if err != nil {
		return nil, err
	}
	if err := s.Purge(uids); err != nil {
		return nil, err
	}
	return pairs(data.SourceUIDs, data.DestUIDs), nil
}

// Purge takes letters of the open folder away, where that can be said of them alone
// (UIDPLUS, RFC 4315); else they stay marked as deleted.
func (s *Session) Purge(uids []uint32) error {
	set := setOf(uids)
	deleted := &imap.StoreFlags{Op: imap.StoreFlagsAdd, Silent: true, Flags: []imap.Flag{imap.FlagDeleted}}
	if err := s.client.Store(set, deleted, nil).Close(); err != nil || !s.client.Caps().Has(imap.CapUIDPlus) {
		return err
	}
	return s.client.UIDExpunge(set).Close()
}

func pairs(from, to imap.NumSet) map[uint32]uint32 {
	out := map[uint32]uint32{}
	source, ok := from.(imap.UIDSet)
	dest, ok2 := to.(imap.UIDSet)
	if !ok || !ok2 {
		return out
	}
	old, _ := source.Nums()
	now, _ := dest.Nums()
	if len(old) != len(now) {
		return out
	}
	for i := range old {
		out[uint32(old[i])] = uint32(now[i])
	}
	return out
}

// Flag sets and clears flags of letters of the open folder.
func (s *Session) Flag(uids []uint32, set, clear []string) error {
	for _, x := range []struct {
		op    imap.StoreFlagsOp
		flags []string
	}{{imap.StoreFlagsAdd, set}, {imap.StoreFlagsDel, clear}} {
		if len(x.flags) == 0 || len(uids) == 0 {
			continue
		}
		flags := make([]imap.Flag, len(x.flags))
		for i, f := range x.flags {
			flags[i] = imap.Flag(f)
		}
		if err := s.client.Store(setOf(uids), &imap.StoreFlags{Op: x.op, Silent: true, Flags: flags}, nil).Close(); err != nil {
			return err
		}
	}
	return nil
}

// Append puts a letter into a folder and gives its UID, 0 where the server does not say.
func (s *Session) Append(folder string, raw []byte, flags []string, at time.Time) (uint32, error) {
	options := &imap.AppendOptions{Time: at}
	for _, f := range flags {
		options.Flags = append(options.Flags, imap.Flag(f))
	}
	cmd := s.client.Append(folder, int64(len(raw)), options)
	if _, err := cmd.Write(raw); err != nil {
		return 0, errors.Join(err, cmd.Close())
	}
	if err := cmd.Close(); err != nil {
		return 0, err
	}
	data, err := cmd.Wait()
	if err != nil {
		return 0, err
	}
	return uint32(data.UID), nil
}

// poll is how often a server without IDLE is asked.
const poll = 30 * time.Second

// Wait waits until something happens in the open folder, until woken, or for a while, and
// tells whether it was woken. A connection that has gone is an error.
func (s *Session) Wait(wake <-chan struct{}, atMost time.Duration) (woken bool, err error) {
	idle := (*imapclient.IdleCommand)(nil)
	if s.client.Caps().Has(imap.CapIdle) {
		if idle, err = s.client.Idle(); err != nil {
			return false, err
		}
	} else {
		atMost = min(atMost, poll)
	}
	timer := time.NewTimer(atMost)
	defer timer.Stop()
	select {
	case <-wake:
		woken = true
	case <-s.news:
	case <-timer.C:
	case <-s.client.Closed():
	}
	if idle == nil {
		err = s.client.Noop().Wait()
	} else {
		err = errors.Join(idle.Close(), idle.Wait())
	}
	select {
	case <-s.news: // it came along
		woken = false
	default:
	}
	return woken, err
}

func setOf(uids []uint32) imap.UIDSet {
	var set imap.UIDSet
	for _, uid := range uids {
		set.AddNum(imap.UID(uid))
	}
	return set
}

func texts(flags []imap.Flag) []string {
	out := make([]string, len(flags))
	for i, f := range flags {
		out[i] = string(f)
	}
	return out
}
