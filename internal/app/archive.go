package app

import (
	"archive/zip"
	"bufio"
	"context"
	"encoding/hex"
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"slices"
	"strings"
	"time"

	"ebbe.example/ebbe/internal/post"
	"ebbe.example/ebbe/internal/store"
)

// Manifest is the first entry of an archive (see docs/formats.md).
type Manifest struct {
	Format string    `json:"format"` // archiveFormat
	Schema string    `json:"schema"` // of the tables
	Owner  int64     `json:"owner"`
	Name   string    `json:"name"`
	MadeAt time.Time `json:"madeAt"`
}

const (
	archiveFormat = "ebbe archive 2"
	// oldFormat had no last entry.
	oldFormat     = "ebbe archive 1"
	manifestEntry = "archive.json"
	endEntry      = "end.json"
	missingEntry  = "NOT IN THIS ARCHIVE.txt"
	tablesFolder  = "tables/"
	lettersFolder = "letters/"
)

// End is the last entry of an archive: one without it broke off. What it
// counts is what has to be there.
type End struct {
	Letters int            `json:"letters"`
	Rows    map[string]int `json:"rows"` // by table
	// Missing are the originals that could not be read.
	Missing []Missing `json:"missing"`
}

// Missing is an original that an archive had to leave out.
type Missing struct {
	SHA     string   `json:"sha"` // hex
	Letters []string `json:"letters"`
	Reason  string   `json:"reason"`
}

// Archive writes everything that is the owner's, as a zip: the letters byte
// for byte, and all of Ebbe's own state as JSON, all of one moment. An
// original that can't be read is left out and named.
func (a *App) Archive(ctx context.Context, who store.Who, w io.Writer) (End, error) {
	z := zip.NewWriter(w)
	folder := Zipped{z}
	end, err := read(ctx, a, who, func(tx *store.Tx) (End, error) {
		end := End{Rows: map[string]int{}, Missing: []Missing{}}
		person, err := tx.Person()
		if err != nil {
			return end, err
		}
		if err := writeJSON(folder, manifestEntry, a.Now(), Manifest{archiveFormat, store.Schema(), who.Inbox, person.Name, a.Now()}); err != nil {
			return end, err
		}
		for _, table := range store.ArchivedTables() {
			entry, err := z.Create(tablesFolder + table + ".jsonl")
			if err != nil {
				return end, err
			}
			if err := tx.Dump(table, func(line json.RawMessage) error {
				end.Rows[table]++
				_, err := entry.Write(append(line, '\n'))
				return err
			}); err != nil {
				return end, fmt.Errorf("write %s: %w", table, err)
			}
		}
		return end, tx.Originals(func(sha []byte) error {
			raw, why := tx.Bytes(sha)
			if why == nil {
				end.Letters++
				return folder.Write(lettersFolder+hex.EncodeToString(sha)+".eml", a.Now(), raw)
			}
			if store.Unavailable(why) != "" || ctx.Err() != nil {
				return why
			}
			titles, err := tx.TitlesOf(sha)
			end.Missing = append(end.Missing, Missing{hex.EncodeToString(sha), titles, why.Error()})
			return err
		})
	})
	if err == nil && len(end.Missing) > 0 {
		err = folder.Write(missingEntry, a.Now(), []byte(end.missing()))
	}
	if err == nil {
		err = writeJSON(folder, endEntry, a.Now(), end)
	}
	if err != nil {
		return end, fmt.Errorf("write the archive: %w", err)
	}
	return end, z.Close()
}

// missing says for people what an archive had to leave out.
func (e End) missing() string {
	var b strings.Builder
	b.WriteString("The originals of these letters could not be read and are not in this archive:\n\n")
	for _, m := range e.Missing {
		fmt.Fprintf(&b, "%s\n  %s\n  %s\n\n", strings.Join(m.Letters, "\n"), m.Reason, m.SHA)
	}
	return b.String()
}

func writeJSON(folder Zipped, name string, at time.Time, value any) error {
	text, err := json.MarshalIndent(value, "", "  ")
	if err != nil {
		return err
	}
	return folder.Write(name, at, text)
}

// ErrNoArchive is returned for a file that is no archive of Ebbe's.
var ErrNoArchive = errors.New("this is no archive of Ebbe's")

// restoreBatch is how many rows or letters one transaction restores.
const restoreBatch = 1000

// Restore fills a new database with an archive, and checks it. On an error the
// database is of no use and can be thrown away.
func Restore(ctx context.Context, archive *zip.Reader, file string) (Manifest, End, error) {
	var m Manifest
	var end End
	text, err := entryOf(archive, manifestEntry)
	if err != nil || json.Unmarshal(text, &m) != nil || m.Format != archiveFormat && m.Format != oldFormat {
		return m, end, ErrNoArchive
	}
	if m.Format == archiveFormat {
		text, err := entryOf(archive, endEntry)
		if err != nil || json.Unmarshal(text, &end) != nil {
			return m, end, errors.New("the archive broke off before its end; nothing was restored")
		}
	}
	s, err := store.OpenEmpty(file, m.Schema)
	if err != nil {
		return m, end, err
	}
	return m, end, errors.Join(restore(ctx, s, archive, m, end), s.Close())
}

func entryOf(archive *zip.Reader, name string) ([]byte, error) {
	f, err := archive.Open(name)
	if err != nil {
		return nil, err
	}
	defer f.Close()
	return io.ReadAll(io.LimitReader(f, 1<<20))
}

func restore(ctx context.Context, s *store.Store, archive *zip.Reader, m Manifest, end End) error {
	if err := s.Relax(ctx); err != nil {
		return err
	}
	who := store.Own(m.Owner)
	letters, err := restoreLetters(ctx, s, archive, who)
	if err != nil {
		return err
	}
	whole := m.Format == archiveFormat
	if whole && letters != end.Letters {
		return fmt.Errorf("the archive holds %d letters and should hold %d; nothing was restored", letters, end.Letters)
	}
	for _, table := range store.ArchivedTables() {
		rows, err := restoreTable(ctx, s, archive, who, table)
		if err != nil {
			return fmt.Errorf("restore %s: %w", table, err)
		}
		if whole && rows != end.Rows[table] {
			return fmt.Errorf("%s has %d rows and should have %d; nothing was restored", table, rows, end.Rows[table])
		}
	}
	if err := restoreMissing(ctx, s, who, end.Missing); err != nil {
		return err
	}
	if err := s.Upgrade(); err != nil {
		return err
	}
	if err := s.Reindex(ctx, who); err != nil {
		return err
	}
	problems, err := s.Check(ctx)
	if err == nil && len(problems) > 0 {
		err = fmt.Errorf("what the archive holds does not fit together; nothing was restored:\n- %s", strings.Join(problems, "\n- "))
	}
	return err
}

// restoreMissing puts a few words in the place of originals that the archive
// does not have, so that all that hangs on their letters can be kept.
func restoreMissing(ctx context.Context, s *store.Store, who store.Who, missing []Missing) error {
	return s.Write(ctx, who, func(tx *store.Tx) error {
		for _, m := range missing {
			sha, err := hex.DecodeString(m.SHA)
			if err != nil {
				return err
			}
			stand := fmt.Sprintf("Subject: %s\r\n\r\nThe original of this letter could not be read when the archive was written: %s\r\n%s\r\n",
				strings.Join(m.Letters, "; "), m.Reason, m.SHA)
			if err := tx.Replace(sha, store.Pack([]byte(stand))); err != nil {
				return err
			}
		}
		return nil
	})
}

func restoreLetters(ctx context.Context, s *store.Store, archive *zip.Reader, who store.Who) (int, error) {
	var files []*zip.File
	for _, f := range archive.File {
		if strings.HasPrefix(f.Name, lettersFolder) {
			files = append(files, f)
		}
	}
	for batch := range slices.Chunk(files, restoreBatch) {
		err := s.Write(ctx, who, func(tx *store.Tx) error {
			for _, f := range batch {
				raw, err := readEntry(f)
				if err != nil {
					return fmt.Errorf("%s: %w", f.Name, err)
				}
				p := store.Pack(raw)
				if lettersFolder+hex.EncodeToString(p.SHA)+".eml" != f.Name {
					return fmt.Errorf("%s was changed since it was archived", f.Name)
				}
				if err := tx.Keep(p); err != nil {
					return err
				}
			}
			return nil
		})
		if err != nil {
			return 0, err
		}
	}
	return len(files), nil
}

func readEntry(f *zip.File) ([]byte, error) {
	r, err := f.Open()
	if err != nil {
		return nil, err
	}
	defer r.Close()
	raw, err := io.ReadAll(io.LimitReader(r, post.MaxLetter+1))
	if err == nil && len(raw) > post.MaxLetter {
		err = post.ErrTooLarge
	}
	return raw, err
}

func restoreTable(ctx context.Context, s *store.Store, archive *zip.Reader, who store.Who, table string) (rows int, err error) {
	f, err := archive.Open(tablesFolder + table + ".jsonl")
	if err != nil {
		return 0, nil //nolint:nilerr // an older Ebbe did not know this table
	}
	defer f.Close()
	lines := bufio.NewReaderSize(f, 1<<20)
	for done := false; !done; {
		err := s.Write(ctx, who, func(tx *store.Tx) error {
			for range restoreBatch {
				line, err := lines.ReadBytes('\n')
				if errors.Is(err, io.EOF) {
					done = true
					return nil
				}
				if err != nil {
					return err
				}
				if err := tx.Load(table, line); err != nil {
					return err
				}
				rows++
			}
			return nil
		})
		if err != nil {
			return rows, err
		}
	}
	return rows, nil
}
