package main

import (
	"bytes"
	"crypto/sha256"
	"database/sql"
	"encoding/hex"
	"errors"
	"fmt"
	"os"
	"os/exec"
	"path/filepath"
	"time"

	"github.com/jhillyerd/enmime/v2"
	"github.com/klauspost/compress/zstd"

	"ebbe.example/ebbe/internal/app"
	"ebbe.example/ebbe/internal/post"
)

// partly is the code of a command that could not take all in whole.
const partly = 5

// importMemory gives the most memory, in MB, that the import command holds:
// SQLite's and Go's together.
func (r *run) importMemory(file, source string) (int, error) {
	a, err := openAt(r.ctx, file)
	if err != nil {
		return 0, err
	}
	if err := a.Store.Close(); err != nil {
		return 0, err
	}
	cmd := exec.Command("bin/ebbe", "--db", file, "import", source) //nolint:gosec // our own program
	if err := cmd.Start(); err != nil {
		return 0, err
	}
	done := make(chan error, 1)
	go func() { done <- cmd.Wait() }()
	most := 0
	for {
		most = max(most, residentMB(cmd.Process.Pid))
		select {
		case err := <-done:
			if left := (*exec.ExitError)(nil); errors.As(err, &left) && left.ExitCode() == partly {
				err = nil // the huge letter is shown in part
			}
			return most, err
		case <-time.After(10 * time.Millisecond):
		}
	}
}

// importing measures the import of half the letters against its floor, the
// rate at a tenth and at all of them, and the memory with a huge letter.
func (r *run) importing() error {
	half := r.letters / 2
	files := map[int]string{}
	for _, n := range []int{r.letters / 10, half, r.letters} {
		files[n] = filepath.Join(r.folder, fmt.Sprint(n, ".mbox"))
		if err := mbox(files[n], n, 0); err != nil {
			return err
		}
	}
	floor, err := r.importFloor(files[half], half, true)
	if err != nil {
		return err
	}
	kept, err := r.importFloor(files[half], half, false)
	if err != nil {
		return err
	}
	small, err := r.importInto(filepath.Join(r.folder, "small.db"), files[r.letters/10], r.letters/10)
	if err != nil {
		return err
	}
	mid, err := r.importInto(filepath.Join(r.folder, "mid.db"), files[half], half)
	if err != nil {
		return err
	}
	r.add(fmt.Sprintf("import of %d letters", half), fmt.Sprintf("%.0f a second, %.2f of the floor", mid, mid/floor), fmt.Sprintf("%.0f a second: parse and bare inserts; %.0f: read, packed and inserted, no MIME", floor, kept), "at least 1 of the floor")
	all, err := r.importInto(r.big(), files[r.letters], r.letters)
	if err != nil {
		return err
	}
	r.add(fmt.Sprintf("import rate at %d against %d", r.letters, r.letters/10), fmt.Sprintf("%.2f: %.0f a second", all/small, all), fmt.Sprintf("%.0f a second: the fewer", small), "0.8")
	single, huge := filepath.Join(r.folder, "single.mbox"), filepath.Join(r.folder, "huge.mbox")
	if err := mbox(single, 1, 0); err != nil {
		return err
	}
	least, err := r.importMemory(filepath.Join(r.folder, "least.db"), single)
	if err != nil {
		return err
	}
	if err := mbox(huge, 2000, 100<<20); err != nil {
		return err
	}
	peak, err := r.importMemory(filepath.Join(r.folder, "peak.db"), files[r.letters/10])
	if err != nil {
		return err
	}
	with, err := r.importMemory(filepath.Join(r.folder, "huge.db"), huge)
	r.add("memory of an import", fmt.Sprintf("%d MB; %d MB with a 100 MB letter among them", peak, with), fmt.Sprintf("%d MB: of one letter", least), "under 300 MB")
	return err
}

// everyDay sends all letters to the inbox.
const everyDay = 40_000

func (r *run) importInto(file, source string, n int) (float64, error) {
	a, err := openAt(r.ctx, file)
	if err != nil {
		return 0, err
	}
	began := time.Now()
	account, err := a.ImportNow(r.ctx, who, app.Importing{Command: "bench import", Name: "bench", Path: source, InboxDays: everyDay}, nil)
	took := time.Since(began)
	if err == nil && account.New != n {
		err = fmt.Errorf("%d of %d letters are new", account.New, n)
	}
	if closed := a.Store.Close(); err == nil {
		err = closed
	}
	return float64(n) / took.Seconds(), err
}

// importFloor inserts the same letters with nothing of Ebbe: taken apart, with their
// texts in an index, or just named by their digest and packed.
func (r *run) importFloor(source string, n int, parse bool) (float64, error) {
	f, err := os.Open(source)
	if err != nil {
		return 0, err
	}
	defer f.Close()
	db, err := sql.Open("sqlite3", "file:"+filepath.Join(r.folder, fmt.Sprintf("floor-%t.db", parse))+"?_journal_mode=WAL&_synchronous=FULL&_txlock=immediate")
	if err != nil {
		return 0, err
	}
	defer db.Close()
	for _, q := range []string{"CREATE TABLE l (id INTEGER PRIMARY KEY, message_id TEXT, subject TEXT, sender TEXT, date INTEGER, raw BLOB)",
		"CREATE VIRTUAL TABLE t USING fts5(subject, sender, body, content='', contentless_delete=1)"} {
		if _, err := db.Exec(q); err != nil {
			return 0, err
		}
	}
	packer, err := zstd.NewWriter(nil, zstd.WithEncoderLevel(zstd.SpeedFastest))
	if err != nil {
		return 0, err
	}
	start := time.Now()
	tx, err := db.Begin()
	if err != nil {
		return 0, err
	}
	i := 0
	for e, err := range post.Mbox(f, post.QuotedRD) {
		raw := e.Raw
		if err != nil {
			return 0, err
		}
		if parse {
			err = insertParsed(tx, i, raw)
		} else {
			digest := sha256.Sum256(raw)
			_, err = tx.Exec("INSERT INTO l (message_id, date, raw) VALUES (?, ?, ?)", hex.EncodeToString(digest[:]), i, packer.EncodeAll(raw, nil))
		}
		if err != nil {
			return 0, err
		}
		if i++; i%400 == 0 {
			if err := tx.Commit(); err != nil {
				return 0, err
			}
			if tx, err = db.Begin(); err != nil {
				return 0, err
			}
		}
	}
	if err := tx.Commit(); err != nil {
		return 0, err
	}
	return float64(n) / time.Since(start).Seconds(), nil
}

// insertParsed takes a letter apart and inserts it.
func insertParsed(tx *sql.Tx, i int, raw []byte) error {
	env, err := enmime.ReadEnvelope(bytes.NewReader(raw))
	if err != nil {
		return err
	}
	if _, err := tx.Exec("INSERT INTO l (message_id, subject, sender, date, raw) VALUES (?, ?, ?, ?, ?)", env.GetHeader("Message-Id"), env.GetHeader("Subject"), env.GetHeader("From"), i, raw); err != nil {
		return err
	}
	_, err = tx.Exec("INSERT INTO t (rowid, subject, sender, body) VALUES (?, ?, ?, ?)", i+1, env.GetHeader("Subject"), env.GetHeader("From"), env.Text)
	return err
}
