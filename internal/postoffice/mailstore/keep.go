package mailstore

import (
	"crypto/sha256"
	"encoding/hex"
	"encoding/json"
	"errors"
	"fmt"
	"io/fs"
	"os"
	"path/filepath"
	"time"

	"github.com/emersion/go-imap/v2"
	"github.com/emersion/go-imap/v2/imapserver"
)

// What somebody has is kept as a list of letters, and each letter once in a file of its
// own.
type keptUser struct {
	Validity uint32       `json:"validity"`
	Folders  []keptFolder `json:"folders"`
}

type keptFolder struct {
	Name     string        `json:"name"`
	Use      string        `json:"use,omitempty"`
	Validity uint32        `json:"validity"`
	Next     imap.UID      `json:"next"`
	Letters  []keptMessage `json:"letters"`
}

type keptMessage struct {
	UID   imap.UID    `json:"uid"`
	At    time.Time   `json:"at"`
	Flags []imap.Flag `json:"flags"`
	SHA   string      `json:"sha"`
}

func (s *Server) path(u *user, name string) string {
	return filepath.Join(s.Folder, hex.EncodeToString([]byte(u.name)), name)
}

// load reads what is kept of somebody; fresh tells that nothing is.
func (s *Server) load(u *user) (fresh bool, err error) {
	if s.Folder == "" {
		return true, nil
	}
	text, err := os.ReadFile(s.path(u, "folders.json"))
	if errors.Is(err, fs.ErrNotExist) {
		return true, nil
	}
	if err != nil {
		return false, err
	}
	var kept keptUser
	if err := json.Unmarshal(text, &kept); err != nil {
		return false, fmt.Errorf("what the stand-in mail server keeps can’t be read: %w", err)
	}
	u.validity = kept.Validity
	for _, k := range kept.Folders {
		f := &folder{name: k.Name, use: imap.MailboxAttr(k.Use), validity: k.Validity, next: k.Next}
		for _, l := range k.Letters {
			raw, err := os.ReadFile(s.path(u, l.SHA))
			if err != nil {
				return false, err
			}
			f.letters = append(f.letters, &message{l.UID, l.At, l.Flags, l.SHA, raw})
		}
		f.tracker = imapserver.NewMailboxTracker(uint32(len(f.letters)))
		u.folders = append(u.folders, f)
	}
	return false, nil
}

// save keeps all that somebody has.
func (s *Server) save(u *user) error {
	if s.Folder == "" {
		return nil
	}
	if err := os.MkdirAll(s.path(u, ""), 0o700); err != nil {
		return err
	}
	kept := keptUser{Validity: u.validity}
	for _, f := range u.folders {
		k := keptFolder{Name: f.name, Use: string(f.use), Validity: f.validity, Next: f.next}
		for _, m := range f.letters {
			k.Letters = append(k.Letters, keptMessage{m.uid, m.at, m.flags, m.sha})
			path := s.path(u, m.sha)
			if _, err := os.Stat(path); err == nil {
				continue
			}
			if err := write(path, m.raw); err != nil {
				return err
			}
		}
		kept.Folders = append(kept.Folders, k)
	}
	text, err := json.Marshal(kept)
	if err != nil {
		return err
	}
	return write(s.path(u, "folders.json"), text)
}

func write(path string, text []byte) error {
	if err := os.WriteFile(path+".part", text, 0o600); err != nil {
		return err
	}
	return os.Rename(path+".part", path)
}

// sum names a letter by its bytes.
func sum(raw []byte) string {
	s := sha256.Sum256(raw)
	return hex.EncodeToString(s[:])
}
