package show

import (
	"context"
	"fmt"
	"io"
	"time"

	"ebbe.example/ebbe/internal/post"
	"ebbe.example/ebbe/internal/store"
)

// Exporting says which letters are written out: those of conversations, of a
// label, those that a search finds, or all.
type Exporting struct {
	Conversations []int64
	Label         string
	Search        string
	// Within is what else must be met by what a search finds.
	Within string
	// Copies takes every copy of a letter as it came; without it each letter is
	// written once, as it came first.
	Copies bool
}

// Export is what is to be written out, in the order in which the letters came.
type Export struct {
	app     *Show
	who     store.Who
	Letters []store.Export
}

// PrepareExport finds the letters to be written out. Held ones are not to be
// seen yet and are left out.
func (a *Show) PrepareExport(ctx context.Context, who store.Who, what Exporting) (Export, error) {
	if what.Search != "" {
		var err error
		if what.Conversations, err = a.findAll(ctx, who, Asked{Q: what.Search, Within: what.Within}); err != nil {
			return Export{}, err
		}
	}
	return read(ctx, a, who, func(tx *store.Tx) (Export, error) {
		letters, err := tx.Exported(what.Conversations, what.Label, what.Copies)
		return Export{app: a, who: who, Letters: letters}, err
	})
}

// findAll gives all conversations that a search finds.
func (a *Show) findAll(ctx context.Context, who store.Who, ask Asked) ([]int64, error) {
	out := []int64{}
	for {
		page, err := a.Search(ctx, who, ask)
		if err != nil {
			return nil, err
		}
		for _, r := range page.Rows {
			out = append(out, r.ID)
		}
		if ask.Cursor = page.Next; ask.Cursor == "" {
			return out, nil
		}
	}
}

// each gives the bytes of the letters, one at a time.
func (e Export) each(ctx context.Context, write func(l store.Export, raw []byte) error) error {
	for _, l := range e.Letters {
		raw, err := read(ctx, e.app, e.who, func(tx *store.Tx) ([]byte, error) { return tx.Bytes(l.SHA) })
		if err != nil {
			return fmt.Errorf("letter %d: %w", l.ID, err)
		}
		if err := write(l, raw); err != nil {
			return err
		}
	}
	return nil
}

// Mbox writes an mbox file of the mboxrd kind. Imported into an empty Ebbe and
// written out again it is the same bytes.
func (e Export) Mbox(ctx context.Context, w io.Writer) error {
	return e.each(ctx, func(l store.Export, raw []byte) error { return post.WriteMbox(w, raw, l.Sender, l.ReceivedAt) })
}

// Folder is where the files of a Maildir, or of single letters, go.
type Folder interface {
	// Make makes a folder, Write a file in one.
	Make(name string) error
	Write(name string, at time.Time, content []byte) error
}

// Maildir writes a Maildir.
func (e Export) Maildir(ctx context.Context, f Folder) error {
	for _, name := range post.MaildirFolders {
		if err := f.Make(name); err != nil {
			return err
		}
	}
	return e.each(ctx, func(l store.Export, raw []byte) error {
		return f.Write(post.MaildirName(l.ID, l.Copy, l.ReceivedAt, l.Starred), l.ReceivedAt, raw)
	})
}

// Files writes each letter as a file of its own (.eml).
func (e Export) Files(ctx context.Context, f Folder) error {
	return e.each(ctx, func(l store.Export, raw []byte) error {
		return f.Write(post.LetterName(l.ID, l.Copy, l.ReceivedAt, l.Subject), l.ReceivedAt, raw)
	})
}

// LeftOut counts the copies of letters that are not written out.
func (e Export) LeftOut() (n int) {
	for _, l := range e.Letters {
		n += l.Copies
	}
	return n
}
