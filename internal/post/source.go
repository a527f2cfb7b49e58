package post

import (
	"archive/zip"
	"bufio"
	"bytes"
	"errors"
	"fmt"
	"io"
	"io/fs"
	"iter"
	"os"
	"path"
	"path/filepath"
	"slices"
	"strings"
	"sync/atomic"
	"time"
)

// Item is a letter of a source, or what was wrong with it.
type Item struct {
	Enveloped
	// Name says where in the source it stands, for the person.
	Name string
	// Err is why it could not be taken; then there is no letter.
	Err error
}

// The reasons for which an entry of a source is left out.
var (
	ErrNoLetter  = errors.New("it is no letter")
	ErrClimbs    = errors.New("its path leads out of the archive")
	ErrEncrypted = errors.New("it is locked with a password")
	ErrNested    = errors.New("an archive within an archive is not opened")
	ErrBomb      = errors.New("it unpacks to far more than it should")
)

// Source is a file or a folder of letters: a letter, an mbox, a Maildir, a
// folder of any of them, or a zip of any of them.
type Source struct {
	// Quoting says how its mbox files are quoted.
	Quoting Quoting
	path    string
	size    int64
	done    atomic.Int64
}

// Open looks at a file or a folder without reading its letters.
func Open(path string, quoting Quoting) (*Source, error) {
	s := &Source{Quoting: quoting, path: path}
	info, err := os.Stat(path)
	if err != nil {
		return nil, err
	}
	if !info.IsDir() {
		s.size = info.Size()
		return s, nil
	}
	err = filepath.WalkDir(path, func(_ string, d fs.DirEntry, err error) error {
		if err != nil || !d.Type().IsRegular() {
			return err
		}
		info, err := d.Info()
		if err == nil {
			s.size += info.Size()
		}
		return err
	})
	return s, err
}

// Progress is how many bytes of how many have been read.
func (s *Source) Progress() (done, of int64) { return s.done.Load(), s.size }

// Letters reads the source from its beginning, one letter at a time, in an
// order that is the same each time.
func (s *Source) Letters() iter.Seq[Item] {
	return func(yield func(Item) bool) {
		s.done.Store(0)
		info, err := os.Stat(s.path)
		switch {
		case err != nil:
			yield(Item{Name: filepath.Base(s.path), Err: err})
		case info.IsDir():
			s.folder(yield)
		default:
			s.file(s.path, filepath.Base(s.path), info.ModTime(), yield)
		}
	}
}

// folder reads all files below a folder in the order of their names; links
// are not followed. Of a Maildir the letters under way (tmp) are left out.
func (s *Source) folder(yield func(Item) bool) {
	_ = filepath.WalkDir(s.path, func(file string, d fs.DirEntry, err error) error {
		name, relErr := filepath.Rel(s.path, file)
		if relErr != nil {
			name = file
		}
		switch {
		case err != nil:
			if !yield(Item{Name: name, Err: err}) {
				return fs.SkipAll
			}
			return nil
		case d.IsDir() && d.Name() == "tmp" && isMaildir(filepath.Dir(file)):
			return fs.SkipDir
		case !d.Type().IsRegular():
			return nil
		}
		modified := time.Time{}
		if info, err := d.Info(); err == nil {
			modified = info.ModTime()
		}
		if !s.file(file, name, modified, yield) {
			return fs.SkipAll
		}
		return nil
	})
}

func isMaildir(dir string) bool {
	for _, sub := range []string{"cur", "new"} {
		if info, err := os.Stat(filepath.Join(dir, sub)); err != nil || !info.IsDir() {
			return false
		}
	}
	return true
}

func (s *Source) file(file, name string, modified time.Time, yield func(Item) bool) bool {
	f, err := os.Open(file)
	if err != nil {
		return yield(Item{Name: name, Err: err})
	}
	defer f.Close()
	head := make([]byte, 4)
	if n, _ := io.ReadFull(f, head); n == 4 && bytes.Equal(head, []byte("PK\x03\x04")) {
		return s.zip(file, yield)
	}
	if _, err := f.Seek(0, io.SeekStart); err != nil {
		return yield(Item{Name: name, Err: err})
	}
	return s.stream(&counting{f, &s.done}, name, modified, yield)
}

// counting counts what is read.
type counting struct {
	io.Reader
	n *atomic.Int64
}

func (c *counting) Read(p []byte) (int, error) {
	n, err := c.Reader.Read(p)
	c.n.Add(int64(n))
	return n, err
}

// stream reads one file: an mbox, or a letter.
func (s *Source) stream(r io.Reader, name string, modified time.Time, yield func(Item) bool) bool {
	in := bufio.NewReaderSize(r, 4<<10)
	head, err := in.Peek(2 << 10)
	if err != nil && !errors.Is(err, io.EOF) {
		return yield(Item{Name: name, Err: err})
	}
	if IsMbox(head) {
		n := 0
		for e, err := range Mbox(in, s.Quoting) {
			n++
			if e.Time.IsZero() {
				e.Time = modified
			}
			if !yield(Item{e, fmt.Sprintf("%s, letter %d", name, n), err}) {
				return false
			}
		}
		return true
	}
	if !looksLikeLetter(head) && !strings.EqualFold(path.Ext(name), ".eml") {
		return yield(Item{Name: name, Err: ErrNoLetter})
	}
	raw, err := Gather(in)
	if err == nil && len(raw) == 0 {
		err = ErrNoLetter
	}
	if err != nil {
		return yield(Item{Name: name, Err: err})
	}
	return yield(Item{Enveloped{Raw: raw, Time: modified}, name, nil})
}

// looksLikeLetter tells whether a file begins with header fields.
func looksLikeLetter(head []byte) bool {
	line, _, _ := bytes.Cut(begun(head), []byte("\n"))
	name, _, ok := bytes.Cut(line, []byte(":"))
	return ok && len(name) > 0 && len(name) < 80 && !bytes.ContainsFunc(name, func(r rune) bool { return r <= ' ' || r > '~' })
}

const (
	// maxEntries bounds the entries of a zip.
	maxEntries = 500_000
	// A zip entry that is larger than bombSize may not unpack to more than
	// bombRatio times its packed size; text packs at most at about a fifth of that.
	bombSize  = 64 << 20
	bombRatio = 150
)

// zip reads the entries of a zip in the order of their names.
func (s *Source) zip(file string, yield func(Item) bool) bool {
	z, err := zip.OpenReader(file)
	if z != nil {
		defer z.Close()
	}
	name := filepath.Base(file)
	switch {
	case errors.Is(err, zip.ErrInsecurePath): // each such entry is named below
	case err != nil:
		return yield(Item{Name: name, Err: fmt.Errorf("the archive could not be opened: %w", err)})
	case len(z.File) > maxEntries:
		return yield(Item{Name: name, Err: fmt.Errorf("the archive has %d entries: %w", len(z.File), ErrBomb)})
	}
	entries := slices.Clone(z.File)
	slices.SortStableFunc(entries, func(a, b *zip.File) int { return strings.Compare(a.Name, b.Name) })
	for _, e := range entries {
		if e.FileInfo().IsDir() || !e.Mode().IsRegular() {
			continue
		}
		if !s.zipEntry(e, yield) {
			return false
		}
		s.done.Add(int64(e.CompressedSize64))
	}
	return true
}

func (s *Source) zipEntry(e *zip.File, yield func(Item) bool) bool {
	shown := strings.ToValidUTF8(e.Name, "?")
	leave := func(err error) bool { return yield(Item{Name: shown, Err: err}) }
	switch {
	case !filepath.IsLocal(filepath.FromSlash(strings.ReplaceAll(e.Name, `\`, "/"))):
		return leave(ErrClimbs)
	case e.Flags&1 != 0:
		return leave(ErrEncrypted)
	case e.UncompressedSize64 > bombSize && e.UncompressedSize64/bombRatio > e.CompressedSize64:
		return leave(ErrBomb)
	case strings.EqualFold(path.Ext(e.Name), ".zip"):
		return leave(ErrNested)
	}
	if dir, base := path.Split(e.Name); base == "" || path.Base(dir) == "tmp" || strings.HasPrefix(e.Name, "__MACOSX/") {
		return true
	}
	r, err := e.Open()
	if err != nil {
		return leave(err)
	}
	defer r.Close()
	// The reader of the standard library stops at the declared size.
	return s.stream(r, shown, e.Modified, yield)
}
