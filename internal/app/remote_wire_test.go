package app_test

import (
	"bufio"
	"bytes"
	"context"
	"crypto/rand"
	"crypto/tls"
	"crypto/x509"
	"fmt"
	"io"
	"net"
	"regexp"
	"strconv"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"ebbe.example/ebbe/internal/app"
	"ebbe.example/ebbe/internal/core/decide"
	"ebbe.example/ebbe/internal/post"
	reach "ebbe.example/ebbe/internal/post/imap"
	"ebbe.example/ebbe/internal/postoffice/mailstore"
	"ebbe.example/ebbe/internal/show"
)

// meddles lets what the server says be changed on its way, line by line.
func (w *twoSides) meddles(change func(line []byte) []byte) {
	w.t.Helper()
	to := net.JoinHostPort(w.server.Host, strconv.Itoa(w.server.Port))
	l, err := net.Listen("tcp", "127.0.0.1:0")
	require.NoError(w.t, err)
	w.t.Cleanup(func() { assert.NoError(w.t, l.Close()) })
	go func() {
		for {
			client, err := l.Accept()
			if err != nil {
				return
			}
			server, err := net.Dial("tcp", to)
			if err != nil {
				_ = client.Close()
				return
			}
			go func() {
				_, _ = io.Copy(server, client)
				_ = server.Close()
			}()
			go func() {
				defer client.Close()
				lines := bufio.NewReader(server)
				for {
					line, err := lines.ReadBytes('\n')
					if err != nil {
						return
					}
					if _, err := client.Write(change(line)); err != nil {
						return
					}
				}
			}()
		}
	}()
	w.server.Port = l.Addr().(*net.TCPAddr).Port
}

// A letter with which the server breaks off each time stays there alone, and it is said so;
// all others come.
func TestALetterThatBreaksOff(t *testing.T) {
	w := onAServer(t)
	for n := range 150 {
		w.comes("INBOX", load(n))
	}
	w.comes("Archive", load(200))
	size := regexp.MustCompile(`\{(\d+)\}\r\n$`)
	w.meddles(func(line []byte) []byte {
		if !bytes.Contains(line, []byte("UID 120 ")) {
			return line
		}
		return size.ReplaceAllFunc(line, func(m []byte) []byte { // it is shorter than it says
			n, err := strconv.Atoi(string(bytes.Trim(m, "{}\r\n")))
			require.NoError(t, err)
			return fmt.Appendf(nil, "{%d}\r\n", n-60)
		})
	})
	_, err := w.app.Connect(w.ctx, w.who, rand.Text(), app.Connecting{Account: w.account, Login: w.login, Password: sesame, Incoming: w.server, Outgoing: w.server})
	require.NoError(t, err)
	w.app.StopSyncing()
	tries := 0
	for ; w.app.SyncOnce(w.ctx, w.who, w.account) != nil; tries++ {
		require.Less(t, tries, 10)
	}
	assert.Equal(t, 3, tries)
	inbox, err := w.app.Everything(w.ctx, w.who, decide.Inbox, 0)
	require.NoError(t, err)
	assert.Len(t, inbox, 149)
	assert.Equal(t, []string{"Load 200"}, w.titles(decide.Archive))
	entries, err := w.app.Journal(w.ctx, w.who, show.JournalAsk{Words: "stays there alone"})
	require.NoError(t, err)
	require.Len(t, entries, 1)
	assert.Contains(t, entries[0].Title, "INBOX")
}

// A letter that is larger than any may be stays there alone, and it is said so.
func TestALetterThatIsTooLarge(t *testing.T) {
	w := onAServer(t)
	require.NoError(t, w.there.Put(walks, "INBOX",
		mailstore.Letter{At: start, Raw: load(1).sentTo(walks).bytes(start)},
		mailstore.Letter{At: start, Raw: append(load(2).sentTo(walks).bytes(start), bytes.Repeat([]byte("x"), post.MaxLetter)...)}))
	w.connect()
	assert.Equal(t, []string{"Load 1"}, w.titles(decide.Inbox))
	entries, err := w.app.Journal(w.ctx, w.who, show.JournalAsk{Words: "stays there alone"})
	require.NoError(t, err)
	require.Len(t, entries, 1)
}

// A line that has no end is not waited for.
func TestALineWithoutEnd(t *testing.T) {
	w := onAServer(t)
	w.comes("INBOX", load(1))
	w.connect()
	w.meddles(func(line []byte) []byte {
		if bytes.Contains(line, []byte("UIDVALIDITY")) {
			return bytes.Repeat([]byte("x"), 2*post.MaxLetter)
		}
		return line
	})
	_, err := w.app.Connect(w.ctx, w.who, rand.Text(), app.Connecting{Account: w.account, Login: w.login, Password: sesame, Incoming: w.server, Outgoing: w.server})
	require.Error(t, err)
}

// Who can't show that they are the server gets no password, also after STARTTLS.
func TestCertificates(t *testing.T) {
	now := time.Now()
	good := [2]time.Time{now.Add(-time.Hour), now.Add(time.Hour)}
	cases := []struct {
		name    string
		lasts   [2]time.Time
		host    string
		trusted bool
		reason  string
	}{
		{"as it should be", good, "localhost", true, ""},
		{"signed by itself", good, "localhost", false, "was not made by anybody whom this machine trusts"},
		{"expired", [2]time.Time{now.AddDate(-2, 0, 0), now.AddDate(-1, 0, 0)}, "localhost", true, "has expired, or the clock of this machine is wrong"},
		{"from the time after ten years", [2]time.Time{now.AddDate(10, 0, 0), now.AddDate(11, 0, 0)}, "localhost", true, "has expired, or the clock of this machine is wrong"},
		{"for another name", good, "mail.elsewhere.example", true, "has a certificate for another name"},
	}
	for _, c := range cases {
		t.Run(c.name, func(t *testing.T) {
			config, roots, err := mailstore.CertifyFor(c.lasts[0], c.lasts[1], c.host)
			require.NoError(t, err)
			if !c.trusted {
				roots = x509.NewCertPool()
			}
			plain, err := net.Listen("tcp", "127.0.0.1:0")
			require.NoError(t, err)
			secure, err := tls.Listen("tcp", "127.0.0.1:0", config)
			require.NoError(t, err)
			var said strings.Builder
			there := &mailstore.Server{TLS: config, Before: func(command string) error { said.WriteString(command); return nil }}
			_, err = there.AddUser(walks, sesame)
			require.NoError(t, err)
			for _, l := range []net.Listener{plain, secure} {
				go func() { _ = there.Serve(l) }()
			}
			t.Cleanup(func() { assert.NoError(t, plain.Close()); assert.NoError(t, secure.Close()) })
			for way, l := range map[string]net.Listener{post.StartTLS: plain, post.TLS: secure} {
				at := post.Server{Host: "localhost", Port: l.Addr().(*net.TCPAddr).Port, Security: way}
				box, err := reach.Dial(context.Background(), at, post.Login{User: walks, Password: sesame}, roots)
				if c.reason == "" {
					require.NoError(t, err, way)
					require.NoError(t, box.Close())
					continue
				}
				var f *post.Fault
				require.ErrorAs(t, err, &f, way)
				assert.Equal(t, post.AtTLS, f.Step, way)
				assert.Contains(t, f.Reason, c.reason, way)
				assert.Empty(t, said.String(), "nothing was said")
			}
		})
	}
}
