package app_test

import (
	"fmt"
	"net"
	"os"
	"os/exec"
	"path/filepath"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// dovecotSettings are those of a server for one test: any name with one password, letters in
// Maildirs.
const dovecotSettings = `
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

// dovecot runs a server that nobody here wrote, which has CONDSTORE, and gives its port. The
// test is passed over where there is none, or only its owner may run it.
func dovecot(t *testing.T) int {
	t.Helper()
	program, err := exec.LookPath("dovecot")
	if err != nil || os.Getuid() != 0 {
		t.Skip("there is no dovecot that could be run here")
	}
	folder, err := os.MkdirTemp("", "ebbe-dovecot-") // others must be able to go there
	require.NoError(t, err)
	t.Cleanup(func() { assert.NoError(t, os.RemoveAll(folder)) })
	require.NoError(t, os.Chmod(folder, 0o755)) //nolint:gosec // as said
	require.NoError(t, os.MkdirAll(filepath.Join(folder, "mail"), 0o777))
	require.NoError(t, os.Chmod(filepath.Join(folder, "mail"), 0o777)) //nolint:gosec // made-up letters
	free, err := net.Listen("tcp", "127.0.0.1:0")
	require.NoError(t, err)
	port := free.Addr().(*net.TCPAddr).Port
	require.NoError(t, free.Close())
	settings := filepath.Join(folder, "dovecot.conf")
	require.NoError(t, os.WriteFile(settings, fmt.Appendf(nil, dovecotSettings, folder, port), 0o644)) //nolint:gosec // no secrets
	cmd := exec.CommandContext(t.Context(), program, "-F", "-c", settings)                             //nolint:gosec // the server that is tried
	require.NoError(t, cmd.Start())
	t.Cleanup(func() {
		_ = exec.Command("doveadm", "-c", settings, "stop").Run() //nolint:gosec // the same
		_ = cmd.Wait()
	})
	limit := time.After(20 * time.Second)
	for {
		conn, err := net.Dial("tcp", fmt.Sprintf("127.0.0.1:%d", port))
		if err == nil {
			require.NoError(t, conn.Close())
			break
		}
		select {
		case <-limit:
			text, _ := os.ReadFile(filepath.Join(folder, "log"))
			require.Fail(t, "dovecot does not answer", "%s", text)
		case <-time.After(20 * time.Millisecond): // it is another process
		}
	}
	return port
}

// All is so with a server that nobody here wrote.
func TestBothSidesWithAnotherServer(t *testing.T) {
	port := dovecot(t)
	for name, so := range alike {
		if name == "in the end" {
			continue // a hundred times over is for our own
		}
		t.Run(name, func(t *testing.T) {
			w := &twoSides{world: newWorld(t), login: strings.ReplaceAll(name, " ", "-")}
			t.Cleanup(w.app.StopSyncing)
			w.reachedAt(port)
			so(t, w)
		})
	}
}
