package mailstore

import (
	"bufio"
	"bytes"
	"errors"
	"io"
	"slices"
	"strings"
	"time"

	"github.com/emersion/go-imap/v2"
	"github.com/emersion/go-imap/v2/imapserver"
	"github.com/emersion/go-message/textproto"
	"github.com/emersion/go-sasl"
)

// session is a conversation with a client (a backend of go-imap).
type session struct {
	server *Server
	user   *user
	open   *folder
	view   *imapserver.SessionTracker
}

var (
	_ imapserver.SessionNamespace = (*session)(nil)
	_ imapserver.SessionMove      = (*session)(nil)
	_ imapserver.SessionSASL      = (*session)(nil)
)

func refuse(code imap.ResponseCode, text string) error {
	return &imap.Error{Type: imap.StatusResponseTypeNo, Code: code, Text: text}
}

// do carries out a command; one that changes something is kept.
func (s *session) do(command string, changes bool, fn func() error) error {
	s.server.mu.Lock()
	defer s.server.mu.Unlock()
	if s.server.Before != nil {
		if err := s.server.Before(command); err != nil {
			if errors.Is(err, ErrPretend) {
				return nil
			}
			return err
		}
	}
	if err := fn(); err != nil || !changes {
		return err
	}
	return s.server.save(s.user)
}

func (s *session) Close() error { return s.Unselect() }

func (s *session) Login(name, password string) error {
	return s.do("LOGIN", false, func() error {
		u := s.server.users[strings.ToLower(name)]
		if u == nil || u.password != password {
			return imapserver.ErrAuthFailed
		}
		s.user = u
		return nil
	})
}

// AuthenticateMechanisms are the ways to sign in beside LOGIN.
func (s *session) AuthenticateMechanisms() []string {
	if s.server.Allows == nil {
		return []string{sasl.Plain}
	}
	return []string{sasl.Plain, sasl.OAuthBearer}
}

func (s *session) Authenticate(way string) (sasl.Server, error) {
	switch {
	case way == sasl.Plain:
		return sasl.NewPlainServer(func(_, name, password string) error { return s.Login(name, password) }), nil
	case way == sasl.OAuthBearer && s.server.Allows != nil:
		return sasl.NewOAuthBearerServer(func(o sasl.OAuthBearerOptions) *sasl.OAuthBearerError {
			err := s.do("AUTHENTICATE", false, func() error {
				u := s.server.users[strings.ToLower(o.Username)]
				if u == nil || !s.server.Allows(u.name, o.Token) {
					return imapserver.ErrAuthFailed
				}
				s.user = u
				return nil
			})
			if err != nil {
				return &sasl.OAuthBearerError{Status: "invalid_token", Schemes: "bearer"}
			}
			return nil
		}), nil
	}
	return nil, refuse("", "There is no such way to sign in")
}

// folder is one of the user's by its name.
func (s *session) folder(name string, code imap.ResponseCode) (*folder, error) {
	if f := s.user.folder(name); f != nil {
		return f, nil
	}
	return nil, refuse(code, "There is no such folder")
}

func (s *session) Select(name string, _ *imap.SelectOptions) (data *imap.SelectData, err error) {
	return data, s.do("SELECT", false, func() error {
		f, err := s.folder(name, imap.ResponseCodeNonExistent)
		if err != nil {
			return err
		}
		s.leave()
		s.open, s.view = f, f.tracker.NewSession()
		flags := []imap.Flag{imap.FlagSeen, imap.FlagFlagged, imap.FlagAnswered, imap.FlagDeleted, imap.FlagDraft}
		data = &imap.SelectData{Flags: flags, PermanentFlags: append(flags, imap.FlagWildcard), NumMessages: uint32(len(f.letters)), UIDNext: f.next, UIDValidity: f.validity}
		return nil
	})
}

func (s *session) leave() {
	if s.view != nil {
		s.view.Close()
	}
	s.open, s.view = nil, nil
}

func (s *session) Unselect() error {
	s.server.mu.Lock()
	defer s.server.mu.Unlock()
	s.leave()
	return nil
}

func (s *session) Create(name string, _ *imap.CreateOptions) error {
	return s.do("CREATE", true, func() error {
		name = strings.TrimSuffix(name, "/")
		if s.user.folder(name) != nil {
			return refuse(imap.ResponseCodeAlreadyExists, "There is such a folder already")
		}
		s.user.add(name)
		return nil
	})
}

func (s *session) Delete(name string) error {
	return s.do("DELETE", true, func() error {
		f, err := s.folder(name, imap.ResponseCodeNonExistent)
		if err == nil {
			s.user.folders = slices.DeleteFunc(s.user.folders, func(x *folder) bool { return x == f })
		}
		return err
	})
}

func (s *session) Rename(from, to string, _ *imap.RenameOptions) error {
	return s.do("RENAME", true, func() error {
		f, err := s.folder(from, imap.ResponseCodeNonExistent)
		if err == nil {
			f.name = to
		}
		return err
	})
}

func (s *session) Subscribe(string) error   { return nil }
func (s *session) Unsubscribe(string) error { return nil }

func (s *session) Namespace() (*imap.NamespaceData, error) {
	return &imap.NamespaceData{Personal: []imap.NamespaceDescriptor{{Delim: '/'}}}, nil
}

func (s *session) List(w *imapserver.ListWriter, ref string, patterns []string, _ *imap.ListOptions) error {
	return s.do("LIST", false, func() error {
		for _, f := range s.user.folders {
			if !slices.ContainsFunc(patterns, func(p string) bool { return imapserver.MatchList(f.name, '/', ref, p) }) {
				continue
			}
			data := &imap.ListData{Mailbox: f.name, Delim: '/'}
			if f.use != "" && !slices.Contains(s.server.Without, imap.CapSpecialUse) {
				data.Attrs = []imap.MailboxAttr{f.use}
			}
			if err := w.WriteList(data); err != nil {
				return err
			}
		}
		return nil
	})
}

func (s *session) Status(name string, _ *imap.StatusOptions) (data *imap.StatusData, err error) {
	return data, s.do("STATUS", false, func() error {
		f, err := s.folder(name, imap.ResponseCodeNonExistent)
		if err != nil {
			return err
		}
		n := uint32(len(f.letters))
		data = &imap.StatusData{Mailbox: f.name, NumMessages: &n, UIDNext: f.next, UIDValidity: f.validity}
		return nil
	})
}

func (s *session) Append(name string, r imap.LiteralReader, options *imap.AppendOptions) (data *imap.AppendData, err error) {
	raw, err := io.ReadAll(r)
	if err != nil {
		return nil, err
	}
	return data, s.do("APPEND", true, func() error {
		f, err := s.folder(name, imap.ResponseCodeTryCreate)
		if err != nil {
			return err
		}
		at := options.Time
		if at.IsZero() {
			at = time.Now()
		}
		data = &imap.AppendData{UIDValidity: f.validity, UID: f.put(raw, options.Flags, at).uid}
		return nil
	})
}

func (s *session) Poll(w *imapserver.UpdateWriter, allowExpunge bool) error {
	if s.view == nil {
		return nil
	}
	return s.view.Poll(w, allowExpunge)
}

func (s *session) Idle(w *imapserver.UpdateWriter, stop <-chan struct{}) error {
	if s.view == nil {
		<-stop
		return nil
	}
	return s.view.Idle(w, stop)
}

// each gives the letters of the open folder that a set names, with their numbers as the
// client knows them.
func (s *session) each(set imap.NumSet, fn func(number uint32, m *message) error) error {
	set = s.bounded(set)
	for i, m := range slices.Clone(s.open.letters) {
		number := s.view.EncodeSeqNum(uint32(i) + 1)
		var named bool
		switch set := set.(type) {
		case imap.SeqSet:
			named = number != 0 && set.Contains(number)
		case imap.UIDSet:
			named = set.Contains(m.uid)
		}
		if !named {
			continue
		}
		if err := fn(number, m); err != nil {
			return err
		}
	}
	return nil
}

// bounded is a set in which “*” is the last letter (RFC 9051, 9).
func (s *session) bounded(set imap.NumSet) imap.NumSet {
	bound := func(from, to, last uint32) (uint32, uint32) {
		if from == 0 {
			from = last
		}
		if to == 0 {
			to = last
		}
		return min(from, to), max(from, to)
	}
	switch set := set.(type) {
	case imap.SeqSet:
		out := slices.Clone(set)
		for i, r := range out {
			out[i].Start, out[i].Stop = bound(r.Start, r.Stop, uint32(len(s.open.letters)))
		}
		return out
	case imap.UIDSet:
		out := slices.Clone(set)
		for i, r := range out {
			from, to := bound(uint32(r.Start), uint32(r.Stop), uint32(s.open.next-1))
			out[i] = imap.UIDRange{Start: imap.UID(from), Stop: imap.UID(to)}
		}
		return out
	}
	return set
}

func (s *session) Expunge(_ *imapserver.ExpungeWriter, uids *imap.UIDSet) error {
	return s.do("EXPUNGE", true, func() error {
		s.open.take(func(m *message) bool { return m.has(imap.FlagDeleted) && (uids == nil || uids.Contains(m.uid)) })
		return nil
	})
}

// Search finds by UIDs, flags and header fields, which is what Ebbe asks for.
func (s *session) Search(kind imapserver.NumKind, criteria *imap.SearchCriteria, _ *imap.SearchOptions) (data *imap.SearchData, err error) {
	return data, s.do("SEARCH", false, func() error {
		var uids imap.UIDSet
		var numbers imap.SeqSet
		for i, m := range s.open.letters {
			if m.meets(criteria) {
				uids.AddNum(m.uid)
				if n := s.view.EncodeSeqNum(uint32(i) + 1); n != 0 {
					numbers.AddNum(n)
				}
			}
		}
		data = &imap.SearchData{All: uids}
		if kind == imapserver.NumKindSeq {
			data.All = numbers
		}
		return nil
	})
}

func (m *message) meets(c *imap.SearchCriteria) bool {
	for _, set := range c.UID {
		if !set.Contains(m.uid) {
			return false
		}
	}
	for _, f := range c.Flag {
		if !m.has(f) {
			return false
		}
	}
	for _, f := range c.NotFlag {
		if m.has(f) {
			return false
		}
	}
	if len(c.Header) == 0 {
		return true
	}
	header, err := textproto.ReadHeader(bufio.NewReader(bytes.NewReader(m.raw)))
	if err != nil {
		return false
	}
	for _, h := range c.Header {
		if !strings.Contains(strings.ToLower(header.Get(h.Key)), strings.ToLower(h.Value)) {
			return false
		}
	}
	return true
}

func (s *session) Fetch(w *imapserver.FetchWriter, set imap.NumSet, options *imap.FetchOptions) error {
	return s.do("FETCH", false, func() error {
		return s.each(set, func(number uint32, m *message) error { return m.fetch(w.CreateMessage(number), options) })
	})
}

func (m *message) fetch(w *imapserver.FetchResponseWriter, options *imap.FetchOptions) error {
	w.WriteUID(m.uid)
	if options.Flags {
		w.WriteFlags(m.flags)
	}
	if options.InternalDate {
		w.WriteInternalDate(m.at)
	}
	if options.RFC822Size {
		w.WriteRFC822Size(int64(len(m.raw)))
	}
	if options.Envelope {
		header, _ := textproto.ReadHeader(bufio.NewReader(bytes.NewReader(m.raw)))
		w.WriteEnvelope(imapserver.ExtractEnvelope(header))
	}
	if options.BodyStructure != nil {
		w.WriteBodyStructure(imapserver.ExtractBodyStructure(bytes.NewReader(m.raw)))
	}
	for _, part := range options.BodySection {
		text := m.raw
		if part.Specifier != imap.PartSpecifierNone || len(part.Part) > 0 || part.Partial != nil {
			text = imapserver.ExtractBodySection(bytes.NewReader(m.raw), part)
		}
		out := w.WriteBodySection(part, int64(len(text)))
		if _, err := out.Write(text); err != nil {
			return err
		}
		if err := out.Close(); err != nil {
			return err
		}
	}
	return w.Close()
}

func (s *session) Store(w *imapserver.FetchWriter, set imap.NumSet, flags *imap.StoreFlags, _ *imap.StoreOptions) error {
	return s.do("STORE", true, func() error {
		return s.each(set, func(number uint32, m *message) error {
			if flags.Op == imap.StoreFlagsSet {
				m.flags = nil
			}
			for _, f := range flags.Flags {
				if flags.Op == imap.StoreFlagsDel {
					m.unset(f)
				} else {
					m.set(f)
				}
			}
			at := slices.Index(s.open.letters, m)
			s.open.tracker.QueueMessageFlags(uint32(at)+1, m.uid, m.flags, s.view)
			if flags.Silent {
				return nil
			}
			return m.fetch(w.CreateMessage(number), &imap.FetchOptions{Flags: true})
		})
	})
}

// copyTo copies letters of the open folder to another.
func (s *session) copyTo(set imap.NumSet, name string) (data *imap.CopyData, copied map[*message]bool, err error) {
	to, err := s.folder(name, imap.ResponseCodeTryCreate)
	if err != nil {
		return nil, nil, err
	}
	var from, dest imap.UIDSet
	copied = map[*message]bool{}
	err = s.each(set, func(_ uint32, m *message) error {
		from.AddNum(m.uid)
		dest.AddNum(to.put(m.raw, m.flags, m.at).uid)
		copied[m] = true
		return nil
	})
	return &imap.CopyData{UIDValidity: to.validity, SourceUIDs: from, DestUIDs: dest}, copied, err
}

func (s *session) Copy(set imap.NumSet, name string) (data *imap.CopyData, err error) {
	return data, s.do("COPY", true, func() error {
		data, _, err = s.copyTo(set, name)
		return err
	})
}

func (s *session) Move(w *imapserver.MoveWriter, set imap.NumSet, name string) error {
	return s.do("MOVE", true, func() error {
		data, copied, err := s.copyTo(set, name)
		if err != nil {
			return err
		}
		if err := w.WriteCopyData(data); err != nil {
			return err
		}
		s.open.take(func(m *message) bool { return copied[m] }) // the client learns of it as of any other
		return nil
	})
}
