// Package dovecot runs a mail server that nobody here wrote, where the machine has it, for
// tests and benches: it keeps the letters of anybody in Maildirs, behind one password, and
// has what the stand-in lacks (CONDSTORE).
package dovecot

import (
	"context"
	"errors"
	"fmt"
	"net"
	"os"
	"os/exec"
	"path/filepath"
	"time"
)

const settings = `
protocols = imap
listen = 127.0.0.1
base_dir = %[1]s/run
state_dir = %[1]s/run
log_path = %[1]s/log
ssl = no
disable_plaintext_auth = no
mail_location = maildir:%[1]s/mail/%%u
first_valid_uid = 1
first_valid_gid = 1
mail_max_userip_connections = 100
default_internal_user = nobody
default_login_user = nobody
default_internal_group = nogroup
passdb {
  driver = static
  args = password=sesame
}
userdb {
  driver = static
  args = uid=nobody gid=nogroup home=%[1]s/mail/%%u
}
service imap-login {
  chroot =
  inet_listener imap {
    port = %[2]d
  }
  inet_listener imaps {
    port = 0
  }
}
service anvil {
  chroot =
}
namespace inbox {
  inbox = yes
  separator = /
  mailbox Archive {
    auto = create
    special_use = \Archive
  }
  mailbox Trash {
    auto = create
    special_use = \Trash
  }
  mailbox Junk {
    auto = create
    special_use = \Junk
  }
  mailbox Sent {
    auto = create
    special_use = \Sent
  }
}
`

// ErrNone is returned where there is no such server, or only its owner may run it.
var ErrNone = errors.New("there is no dovecot that could be run here")

// Server is one that runs. Port is that of its IMAP at 127.0.0.1, Folder where it keeps its
// letters: a Maildir for each user.
type Server struct {
	Port   int
	Folder string

	config string
	cmd    *exec.Cmd
	all    string
}

// Password is that of everybody.
const Password = "sesame"

// patience is how long it may take to answer at first.
const patience = 20 * time.Second

// Start starts one; Stop ends it.
func Start(ctx context.Context) (_ *Server, err error) {
	program, err := exec.LookPath("dovecot")
	if err != nil || os.Getuid() != 0 {
		return nil, ErrNone
	}
	all, err := os.MkdirTemp("", "ebbe-dovecot-") // others must be able to go there
	if err != nil {
		return nil, err
	}
	s := &Server{all: all, Folder: filepath.Join(all, "mail"), config: filepath.Join(all, "dovecot.conf")}
	defer func() {
		if err != nil {
			err = errors.Join(err, s.Stop())
		}
	}()
	if err := errors.Join(os.Chmod(all, 0o755), os.MkdirAll(s.Folder, 0o777), os.Chmod(s.Folder, 0o777)); err != nil { //nolint:gosec // made-up letters
		return nil, err
	}
	free, err := net.Listen("tcp", "127.0.0.1:0")
	if err != nil {
		return nil, err
	}
	s.Port = free.Addr().(*net.TCPAddr).Port //nolint:forcetypeassert // it listens over TCP
	if err := free.Close(); err != nil {
		return nil, err
	}
	if err := os.WriteFile(s.config, fmt.Appendf(nil, settings, all, s.Port), 0o644); err != nil { //nolint:gosec // no secrets
		return nil, err
	}
	s.cmd = exec.CommandContext(ctx, program, "-F", "-c", s.config) //nolint:gosec // the server that is tried
	if err := s.cmd.Start(); err != nil {
		return nil, err
	}
	ctx, cancel := context.WithTimeout(ctx, patience)
	defer cancel()
	for {
		conn, err := net.Dial("tcp", fmt.Sprintf("127.0.0.1:%d", s.Port))
		if err == nil {
			return s, conn.Close()
		}
		select {
		case <-ctx.Done():
			text, _ := os.ReadFile(filepath.Join(all, "log"))
			return nil, fmt.Errorf("dovecot does not answer: %s", text)
		case <-time.After(20 * time.Millisecond): // it is another process
		}
	}
}

// Stop ends it and removes what it kept.
func (s *Server) Stop() error {
	if s.cmd != nil && s.cmd.Process != nil {
		_ = exec.Command("doveadm", "-c", s.config, "stop").Run() //nolint:gosec // the same
		_ = s.cmd.Wait()
	}
	return os.RemoveAll(s.all)
}
