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
	archiveFormat = "ebbe archive 1"
	manifestEntry = "archive.json"
	tablesFolder  = "tables/"
	lettersFolder = "letters/"
)

// Archive writes everything that is the owner's, as a zip: the letters byte
// for byte, and all of Ebbe's own state as JSON, all of one moment.
func (a *App) Archive(ctx context.Context, owner int64, w io.Writer) error {
	z := zip.NewWriter(w)
	_, err := read(ctx, a, owner, func(tx *store.Tx) (none, error) {
		person, err := tx.Person()
		if err != nil {
			return none{}, err
		}
		manifest, err := json.MarshalIndent(Manifest{archiveFormat, store.Schema(), owner, person.Name, a.Now()}, "", "  ")
		if err != nil {
			return none{}, err
		}
		folder := Zipped{z}
		if err := folder.Write(manifestEntry, a.Now(), manifest); err != nil {
			return none{}, err
		}
		for _, table := range store.ArchivedTables {
			entry, err := z.Create(tablesFolder + table + ".jsonl")
			if err != nil {
				return none{}, err
			}
			if err := tx.Dump(table, func(line json.RawMessage) error {
				_, err := entry.Write(append(line, '\n'))
				return err
			}); err != nil {
				return none{}, fmt.Errorf("write %s: %w", table, err)
			}
		}
		return none{}, tx.Originals(func(sha []byte) error {
			raw, err := tx.Bytes(sha)
			if err != nil {
				return err
			}
			return folder.Write(lettersFolder+hex.EncodeToString(sha)+".eml", a.Now(), raw)
		})
	})
	if err != nil {
		return fmt.Errorf("write the archive: %w", err)
	}
	return z.Close()
}

type none struct{}

// ErrNoArchive is returned for a file that is no archive of Ebbe's.
var ErrNoArchive = errors.New("this is no archive of Ebbe's")

// restoreBatch is how many rows or letters one transaction restores.
const restoreBatch = 1000

// Restore fills a new database with an archive. On an error the database is
// of no use and can be thrown away.
func Restore(ctx context.Context, archive *zip.Reader, file string) (Manifest, error) {
	var m Manifest
	text, err := entryOf(archive, manifestEntry)
	if err != nil || json.Unmarshal(text, &m) != nil || m.Format != archiveFormat {
		return m, ErrNoArchive
	}
	s, err := store.OpenEmpty(file, m.Schema)
	if err != nil {
		return m, err
	}
	return m, errors.Join(restore(ctx, s, archive, m.Owner), s.Close())
}

func entryOf(archive *zip.Reader, name string) ([]byte, error) {
	f, err := archive.Open(name)
	if err != nil {
		return nil, err
	}
	defer f.Close()
	return io.ReadAll(io.LimitReader(f, 1<<20))
}

func restore(ctx context.Context, s *store.Store, archive *zip.Reader, owner int64) error {
	if err := s.Relax(ctx); err != nil {
		return err
	}
	if err := restoreLetters(ctx, s, archive, owner); err != nil {
		return err
	}
	for _, table := range store.ArchivedTables {
		if err := restoreTable(ctx, s, archive, owner, table); err != nil {
			return fmt.Errorf("restore %s: %w", table, err)
		}
	}
	if err := s.Upgrade(); err != nil {
		return err
	}
	return s.Reindex(ctx, owner)
}

func restoreLetters(ctx context.Context, s *store.Store, archive *zip.Reader, owner int64) error {
	var files []*zip.File
	for _, f := range archive.File {
		if strings.HasPrefix(f.Name, lettersFolder) {
			files = append(files, f)
		}
	}
	for batch := range slices.Chunk(files, restoreBatch) {
		err := s.Write(ctx, owner, func(tx *store.Tx) error {
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
			return err
		}
	}
	return nil
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

func restoreTable(ctx context.Context, s *store.Store, archive *zip.Reader, owner int64, table string) error {
	f, err := archive.Open(tablesFolder + table + ".jsonl")
	if err != nil {
		return nil //nolint:nilerr // an older Ebbe did not know this table
	}
	defer f.Close()
	lines := bufio.NewReaderSize(f, 1<<20)
	for done := false; !done; {
		err := s.Write(ctx, owner, func(tx *store.Tx) error {
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
			}
			return nil
		})
		if err != nil {
			return err
		}
	}
	return nil
}
