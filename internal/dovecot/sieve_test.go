package dovecot_test

import (
	"fmt"
	"math/rand/v2"
	"mime"
	"net/mail"
	"os"
	"os/exec"
	"path/filepath"
	"slices"
	"strings"
	"sync"
	"syscall"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"ebbe.example/ebbe/internal/core/decide"
	"ebbe.example/ebbe/internal/core/letter"
	"ebbe.example/ebbe/internal/core/remote"
	"ebbe.example/ebbe/internal/core/routine"
	"ebbe.example/ebbe/internal/core/rule"
	"ebbe.example/ebbe/internal/core/sieve"
	"ebbe.example/ebbe/internal/core/sorting"
)

const (
	scripts, lettersEach = 40, 250
	nobody, nogroup      = 65534, 65534
	// kept is the folder of what a script takes nowhere; the test adds it to be told of its flags.
	kept = "Kept"
)

const filterSettings = `
protocols =
base_dir = %[1]s/run
log_path = %[1]s/log
mail_location = maildir:%[1]s/mail
mail_uid = nobody
mail_gid = nogroup
first_valid_uid = 1
first_valid_gid = 1
default_internal_user = nobody
default_login_user = nobody
default_internal_group = nogroup
lda_mailbox_autocreate = yes
namespace inbox {
  inbox = yes
  separator = /
}
`

// filtered runs a script on letters by an interpreter that nobody here wrote, and gives for each where
// it is and what marks it has.
func filtered(t *testing.T, script string, letters [][]byte) []string {
	t.Helper()
	dir, err := os.MkdirTemp("", "ebbe-sieve")
	require.NoError(t, err)
	t.Cleanup(func() { assert.NoError(t, os.RemoveAll(dir)) })
	for _, folder := range []string{"", "." + kept, "." + sieve.Archive, "." + sieve.Bin, "." + sieve.Junk, ".Shallows.Reading"} {
		for _, part := range []string{"new", "cur", "tmp"} {
			require.NoError(t, os.MkdirAll(filepath.Join(dir, "mail", folder, part), 0o755))
		}
	}
	for i, raw := range letters {
		require.NoError(t, os.WriteFile(filepath.Join(dir, "mail", "cur", fmt.Sprintf("%d.x:2,", i)), raw, 0o644))
	}
	require.NoError(t, os.WriteFile(filepath.Join(dir, "dovecot.conf"), fmt.Appendf(nil, filterSettings, dir), 0o644))
	require.NoError(t, os.WriteFile(filepath.Join(dir, "rules.sieve"), []byte(script), 0o644))
	require.NoError(t, filepath.WalkDir(dir, func(path string, _ os.DirEntry, err error) error {
		if err != nil {
			return err
		}
		return os.Chown(path, nobody, nogroup)
	}))
	cmd := exec.Command("sieve-filter", "-c", filepath.Join(dir, "dovecot.conf"), "-e", "-W", filepath.Join(dir, "rules.sieve"), "INBOX")
	cmd.Dir, cmd.Env = dir, append(os.Environ(), "HOME="+dir)
	cmd.SysProcAttr = &syscall.SysProcAttr{Credential: &syscall.Credential{Uid: nobody, Gid: nogroup}}
	said, err := cmd.CombinedOutput()
	require.NoError(t, err, "%s\n%s", said, script)

	out := make([]string, len(letters))
	folders, err := filepath.Glob(filepath.Join(dir, "mail", ".*"))
	require.NoError(t, err)
	for _, folder := range append(folders, filepath.Join(dir, "mail")) {
		keywords := map[byte]string{}
		if list, err := os.ReadFile(filepath.Join(folder, "dovecot-keywords")); err == nil {
			for line := range strings.Lines(string(list)) {
				var n int
				var word string
				if _, err := fmt.Sscan(line, &n, &word); err == nil {
					keywords['a'+byte(n)] = word
				}
			}
		}
		for _, part := range []string{"cur", "new"} {
			files, err := os.ReadDir(filepath.Join(folder, part))
			require.NoError(t, err)
			for _, f := range files {
				raw, err := os.ReadFile(filepath.Join(folder, part, f.Name()))
				require.NoError(t, err)
				var n int
				_, err = fmt.Sscanf(letter.Parse(raw).MessageID, "n%d@x.example", &n)
				require.NoError(t, err)
				var marks []string
				_, flags, _ := strings.Cut(f.Name(), ":2,")
				for _, c := range []byte(flags) {
					if word := keywords[c]; word != "" {
						marks = append(marks, strings.ToLower(word))
					} else if c == 'F' {
						marks = append(marks, `\flagged`)
					}
				}
				out[n] = result(strings.TrimPrefix(filepath.Base(folder), "."), marks)
			}
		}
	}
	return out
}

func result(place string, marks []string) string {
	slices.Sort(marks)
	return place + " " + strings.Join(slices.Compact(marks), ",")
}

// judged is the same by the rules themselves.
func judged(set *rule.Set, raw []byte) string {
	l := letter.Parse(raw)
	f := rule.Facts{From: l.From, To: l.To, Cc: l.Cc, List: l.ListID, Subject: l.Subject, Kind: sorting.Notices, Size: len(raw), At: time.Now(), Text: func() string { return l.Text }}
	for _, p := range l.Attachments() {
		f.Files = append(f.Files, rule.File{Name: p.Name, Type: p.ContentType})
	}
	place, marks := kept, []string{}
	for _, a := range set.Judge(f, f.At) {
		for _, s := range a.Steps {
			switch {
			case s.Do == routine.Star:
				marks = append(marks, `\flagged`)
			case s.Do == routine.SortOut:
				place = "Shallows.Reading"
			case s.Do == routine.Decide:
				place = map[decide.Kind]string{decide.Done: sieve.Archive, decide.File: sieve.Archive, decide.ToBin: sieve.Bin, decide.ToJunk: sieve.Junk}[s.Decision]
			}
		}
		for _, label := range routine.Labels(a.Steps) {
			marks = append(marks, strings.ToLower(remote.Keyword(label)))
		}
	}
	return result(place, marks)
}

// Rules and the script that is written of them do the same with ten thousand letters.
func TestRulesAndTheirScriptsAgree(t *testing.T) {
	if _, err := exec.LookPath("sieve-filter"); err != nil || os.Getuid() != 0 {
		t.Skip("there is no interpreter here, or only its owner may run it")
	}
	var mu sync.Mutex
	outcomes := map[string]int{}
	t.Cleanup(func() { assert.Greater(t, len(outcomes), 30, "%v", outcomes) })
	for n := range scripts {
		t.Run(fmt.Sprint(n), func(t *testing.T) {
			t.Parallel()
			r := rand.New(rand.NewPCG(uint64(n), 7)) //nolint:gosec // the same each time
			rules := someRules(r)
			letters := make([][]byte, lettersEach)
			for i := range letters {
				letters[i] = someLetter(r, i)
			}
			script := sieve.Script(rules) + "\nif string :is \"${place}\" \"\" {\n\tfileinto \"" + kept + "\";\n}\n"
			script = strings.Replace(script, "require [", `require ["fileinto", "variables", "imap4flags", `, 1)
			got := filtered(t, script, letters)
			set := rule.Of(rules)
			mu.Lock()
			defer mu.Unlock()
			for i, raw := range letters {
				want := judged(set, raw)
				outcomes[want]++
				if want != got[i] {
					assert.Equal(t, want, got[i], "%s\n%s", raw, script)
					return
				}
			}
		})
	}
}

func pick[T any](r *rand.Rand, list ...T) T { return list[r.IntN(len(list))] }

var (
	people = []string{"bram@hexa.example", "Tove@post.hexa.example", "oda@school.example", "x@y.hexa.example", "ines@norrholm.example"}
	names  = []string{"Bram Oosterhuis", "Tove Lund", "Lund, Oda", "Østby Åse", "News & More", ""}
	words  = []string{"loan", "Agreement", "ferns", "årsmøte", "crate sizes", "ORCHID", "plan", "a.b"}
)

func someRules(r *rand.Rand) []rule.Rule {
	condition := func() rule.Condition {
		c := rule.Condition{Of: pick(r, rule.From, rule.From, rule.Domain, rule.To, rule.Cc, rule.List, rule.Subject, rule.Subject, rule.Text, rule.Text, rule.Size, rule.Attached, rule.Label)}
		switch c.Of {
		case rule.From, rule.To, rule.Cc:
			c.Is = pick(r, pick(r, people...), "lund", "hexa", "ØSTBY", "@school")
		case rule.Domain:
			c.Is = pick(r, "hexa.example", "post.hexa.example", "example", "exa.example")
		case rule.List:
			c.Is = pick(r, "news.hexa.example", "hexa.example")
		case rule.Size:
			c.Is = pick(r, "300", "500", "1k")
		case rule.Attached:
			c.Is = pick(r, ".pdf", "plan", "image/", "PDF")
		case rule.Label:
			c.Is = pick(r, "loans", "to read")
		default:
			c.Is = pick(r, words...)
		}
		return c
	}
	list := func(most int) (out []rule.Condition) {
		for range r.IntN(most + 1) {
			out = append(out, condition())
		}
		return out
	}
	var out []rule.Rule
	for i := range 2 + r.IntN(6) {
		one := rule.Rule{ID: int64(i + 1), Name: fmt.Sprint("Rule ", i), Conditions: rule.Conditions{All: list(2), Any: list(3), None: list(1)}, Stop: r.IntN(5) == 0, Off: r.IntN(12) == 0, People: true}
		if len(one.All)+len(one.Any) == 0 {
			one.Any = []rule.Condition{condition(), condition()}
		}
		if r.IntN(2) == 0 {
			one.Steps = append(one.Steps, routine.Step{Do: routine.Label, Text: pick(r, "loans", "to read", "årsmøte")})
		}
		if r.IntN(3) == 0 {
			one.Steps = append(one.Steps, routine.Step{Do: routine.Star})
		}
		if len(one.Steps) == 0 || r.IntN(3) > 0 {
			one.Steps = append(one.Steps, pick(r,
				routine.Step{Do: routine.Decide, Decision: decide.Done}, routine.Step{Do: routine.Decide, Decision: decide.ToBin}, routine.Step{Do: routine.Decide, Decision: decide.ToJunk},
				routine.Step{Do: routine.Decide, Decision: decide.File, Text: "papers"}, routine.Step{Do: routine.SortOut, Text: "reading"}))
		}
		out = append(out, one)
	}
	return out
}

func someLetter(r *rand.Rand, n int) []byte {
	address := func() string {
		a := letter.Address{Name: pick(r, names...), Email: pick(r, people...)}
		return (&mail.Address{Name: a.Name, Address: a.Email}).String()
	}
	text := func(n int) string {
		var out []string
		for range r.IntN(n) {
			out = append(out, pick(r, pick(r, words...), pick(r, "the", "and then", "Crate\r\nsizes", "of it")))
		}
		return strings.Join(out, pick(r, " ", "\r\n"))
	}
	subject := strings.ReplaceAll(text(4), "\r\n", " ")
	o := fmt.Sprintf("Message-ID: <n%d@x.example>\r\nDate: Tue, 24 Nov 2026 08:20:00 +0100\r\nFrom: %s\r\nTo: %s\r\nSubject: %s\r\n", n, address(), address(), mime.QEncoding.Encode("utf-8", subject))
	if r.IntN(2) == 0 {
		o += "Cc: " + address() + ",\r\n\t" + address() + "\r\n"
	}
	if r.IntN(3) == 0 {
		o += "List-Id: News <" + pick(r, "news.hexa.example", "News.Hexa.example", "other.example") + ">\r\n"
	}
	body := "Content-Type: text/plain; charset=utf-8\r\nContent-Transfer-Encoding: 8bit\r\n\r\n" + text(30) + "\r\n"
	if r.IntN(3) > 0 {
		return []byte(o + "MIME-Version: 1.0\r\n" + body)
	}
	name := pick(r, "Plan.pdf", "garden.PNG", "notes.txt")
	return []byte(o + "MIME-Version: 1.0\r\nContent-Type: multipart/mixed; boundary=b\r\n\r\n--b\r\n" + body + "--b\r\nContent-Type: " +
		pick(r, "application/pdf", "image/png") + pick(r, "", "; name=\""+name+"\"") + "\r\nContent-Disposition: attachment; filename=\"" + name + "\"\r\n\r\nx\r\n--b--\r\n")
}
