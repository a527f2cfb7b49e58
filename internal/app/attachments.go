package app

import (
	"context"
	"errors"
	"fmt"
	"io"
	"strings"
	"time"

	"ebbe.example/ebbe/internal/core/letter"
	"ebbe.example/ebbe/internal/core/writing"
	"ebbe.example/ebbe/internal/post"
	"ebbe.example/ebbe/internal/show"
	"ebbe.example/ebbe/internal/store"
	"ebbe.example/ebbe/internal/work"
)

// FileView is a file that goes along with a letter, and how much of it has come.
type FileView struct {
	show.AttachedFile
	Came int64 `json:"came" doc:"How many bytes have come; it is whole once that is its size"`
}

func fileView(a store.Attachment) FileView {
	return FileView{AttachedFile: show.AttachedFile{ID: a.ID, Name: a.Name, Size: a.Size, ContentType: a.ContentType}, Came: a.Came}
}

// keepsFiles is how long the files of a letter are kept that was sent or thrown away: as
// long as that can be undone.
const keepsFiles = 30 * 24 * time.Hour

// BeginFile makes room for a file of a letter that is being written. One that was begun
// before goes on where it broke off.
func (a *App) BeginFile(ctx context.Context, who store.Who, draft string, f show.AttachedFile) (out FileView, err error) {
	now := a.Now()
	f.Name = post.FileName(f.Name)
	err = a.Store.Write(ctx, who, func(tx *store.Tx) error {
		was, err := tx.Attachment(f.ID)
		if err == nil {
			if was.Size != f.Size {
				return work.Refuse("“%s” is another file than the one that broke off.", was.Name)
			}
			out = fileView(was)
			return nil
		}
		if !errors.Is(err, store.ErrNotFound) {
			return err
		}
		others, err := tx.AttachmentsOf(draft)
		if err != nil {
			return err
		}
		if len(others) >= 2*writing.MostFiles {
			return work.Refuse("A letter takes up to %d files. “%s” was not attached.", writing.MostFiles, f.Name)
		}
		if err := smallEnough(tx, f); err != nil {
			return err
		}
		stale, err := tx.StaleAttachments(now.Add(-keepsFiles))
		if err != nil {
			return err
		}
		for _, id := range stale {
			if err := tx.DropAttachment(id); err != nil {
				return err
			}
		}
		kind := strings.TrimSpace(f.ContentType)
		if kind == "" {
			kind = "application/octet-stream"
		}
		begun := store.Attachment{ID: f.ID, Draft: draft, Name: f.Name, ContentType: kind, Size: f.Size, MadeAt: now}
		out = fileView(begun)
		return tx.AddAttachment(begun)
	})
	return out, err
}

// smallEnough tells whether a file could go from any of the accounts.
func smallEnough(tx *store.Tx, f show.AttachedFile) error {
	accounts, err := tx.Accounts()
	if err != nil {
		return err
	}
	var most int64
	for _, a := range accounts {
		most = max(most, a.SizeLimit)
	}
	if writing.Sent(f.Size) > most {
		return work.Invalid("files", "“%s” is too large for a letter: it has %s, and your accounts send up to %s in all.", f.Name, megabytes(f.Size), megabytes(most/4*3))
	}
	return nil
}

func megabytes(bytes int64) string { return fmt.Sprintf("%.1f MB", float64(bytes)/(1<<20)) }

// uploadPiece is how much of a file is written at once, in bytes.
const uploadPiece = 4 << 20

// FillFile adds what comes of a file from a byte on. What had come before is left out; what
// would leave a gap is refused. It answers with how much has come, also where the rest did
// not.
func (a *App) FillFile(ctx context.Context, who store.Who, id string, from int64, content io.Reader) (FileView, error) {
	var out FileView
	piece := make([]byte, uploadPiece)
	for {
		n, err := io.ReadFull(content, piece)
		over := errors.Is(err, io.EOF) || errors.Is(err, io.ErrUnexpectedEOF)
		if n == 0 && err != nil && !over {
			return out, err
		}
		// What has come is kept, also where the connection went meanwhile.
		bad := a.Store.Write(context.WithoutCancel(ctx), who, func(tx *store.Tx) error {
			f, err := tx.Attachment(id)
			if errors.Is(err, store.ErrNotFound) {
				return work.Gone("That file is no longer there. Attach it once more.")
			}
			if err != nil {
				return err
			}
			fresh := piece[:n]
			switch skip := f.Came - from; {
			case skip < 0:
				return work.Refuse("Something of “%s” is missing before that.", f.Name)
			case skip >= int64(n):
				fresh = nil
			default:
				fresh = fresh[skip:]
			}
			if f.Came+int64(len(fresh)) > f.Size {
				return work.Refuse("“%s” is longer than it was said to be. It has changed; attach it once more.", f.Name)
			}
			if len(fresh) > 0 {
				if err := tx.AddPiece(f, fresh); err != nil {
					return err
				}
				f.Came += int64(len(fresh))
			}
			out = fileView(f)
			a.At("file.before-commit")
			return nil
		})
		if bad != nil {
			return out, bad
		}
		a.At("file.after-commit")
		from += int64(n)
		if err != nil {
			if over {
				err = nil
			}
			return out, err
		}
	}
}

// Files lists the files of a letter that is being written.
func (a *App) Files(ctx context.Context, who store.Who, draft string) ([]FileView, error) {
	return read(ctx, a, who, func(tx *store.Tx) ([]FileView, error) {
		list, err := tx.AttachmentsOf(draft)
		out := make([]FileView, len(list))
		for i, f := range list {
			out[i] = fileView(f)
		}
		return out, err
	})
}

// File gives a file of a letter that is being written.
func (a *App) File(ctx context.Context, who store.Who, id string) (f FileView, content []byte, err error) {
	err = a.Store.Read(ctx, who, func(tx *store.Tx) error {
		found, err := tx.Attachment(id)
		if err != nil {
			return err
		}
		f = fileView(found)
		content, err = tx.ContentOf(found)
		return err
	})
	return f, content, err
}

// attach puts the files of what was written into the letter: those that its text shows as
// pictures into the page, all others beside it.
func (s *step) attach(out *letter.Outgoing, w show.Writing, domain string) error {
	if len(w.Files) > writing.MostFiles {
		return work.Invalid("files", "A letter takes up to %d files; this one has %d. It was not sent; the draft is kept.", writing.MostFiles, len(w.Files))
	}
	text := w.Text
	for _, f := range w.Files {
		kept, err := s.Attachment(f.ID)
		if errors.Is(err, store.ErrNotFound) || err == nil && !kept.Whole() {
			return work.Invalid("files", "“%s” is not here whole yet. The letter was not sent; the draft is kept.", f.Name)
		}
		if err != nil {
			return err
		}
		content, err := s.ContentOf(kept)
		if err != nil {
			return err
		}
		part := letter.Part{Name: kept.Name, ContentType: kept.ContentType, Content: content, Size: len(content)}
		if w.Markdown && writing.Shows(text, f.ID) {
			part.ContentID, part.Inline = f.ID+"@"+domain, true
			text = strings.ReplaceAll(text, "cid:"+f.ID, "cid:"+part.ContentID)
			out.Inline = append(out.Inline, part)
			continue
		}
		out.Parts = append(out.Parts, part)
	}
	if w.Markdown {
		out.HTML = writing.Page(text, w.Quoted)
	}
	return nil
}

// fits tells whether an account sends a letter of that size.
func fits(out letter.Outgoing, account store.Account) error {
	var sizes []int64
	for _, parts := range [][]letter.Part{out.Inline, out.Parts} {
		for _, p := range parts {
			sizes = append(sizes, int64(len(p.Content)))
		}
	}
	if words, ok := writing.Fits(sizes, account.SizeLimit); !ok {
		return work.Invalid("files", "%s It was not sent; the draft is kept.", words)
	}
	return nil
}
