package app

import (
	"context"
	"strings"
	"time"

	"ebbe.example/ebbe/internal/core/filetext"
	"ebbe.example/ebbe/internal/core/letter"
	"ebbe.example/ebbe/internal/store"
)

// FileTexts read the text of files that are attached.
type FileTexts interface {
	// Read gives the text of a file; what was read beside an error, which says in words what keeps the
	// rest from being read.
	Read(ctx context.Context, name, contentType string, data []byte) (string, error)
	// Rest gives free what reading takes, until it is wanted again.
	Rest()
}

const (
	// filesAtOnce are how many letters are looked up at a time whose files are to be read.
	filesAtOnce = 20
	// mostFileText is how much text is found of all files of a letter.
	mostFileText = 2 * filetext.MaxText
	// longestRest is the longest rest after a letter's files.
	longestRest = time.Second / 4
	// filesAgain is how long after the last look is looked again where nothing tells.
	filesAgain = time.Minute
)

// ReadFiles makes letters findable by the text of their files, where that was not done yet. A letter with
// which it fails is left until Ebbe begins anew; the others go on.
func (a *App) ReadFiles(ctx context.Context) error {
	for ctx.Err() == nil {
		list, err := a.Store.FilesToRead(ctx, filesAtOnce+len(a.unreadable))
		if err != nil {
			return err
		}
		read := 0
		for _, f := range list {
			if a.unreadable[f.Letter] {
				continue
			}
			read++
			began := time.Now()
			if err := a.readFilesOf(ctx, f); err != nil {
				if ctx.Err() != nil {
					return nil
				}
				a.unreadable[f.Letter] = true
				a.Log.Error("the files of a letter are not read", "owner", f.Owner, "letter", f.Letter, "reason", err)
			}
			makeWay(ctx, time.Since(began))
		}
		if read == 0 {
			return nil
		}
	}
	return nil
}

func (a *App) readFilesOf(ctx context.Context, f store.FilesOf) error {
	who := store.Nobody(f.Owner)
	raw, err := read(ctx, a, who, func(tx *store.Tx) ([]byte, error) { return tx.Original(f.Letter) })
	if err != nil {
		return err
	}
	l := letter.Parse(raw)
	var texts []string
	var unread []store.FileUnread
	left := mostFileText
	for i, p := range l.Parts {
		if p.Inline || !filetext.Readable(p.Name, p.ContentType) {
			continue
		}
		text, err := a.Texts.Read(ctx, p.Name, p.ContentType, p.Content)
		if ctx.Err() != nil {
			return ctx.Err()
		}
		if err != nil {
			unread = append(unread, store.FileUnread{Part: i, Says: err.Error()})
		}
		text = text[:min(left, len(text))]
		left -= len(text)
		texts = append(texts, strings.ToValidUTF8(text, ""))
	}
	return a.Store.Write(ctx, who, func(tx *store.Tx) error {
		return tx.KeepFiles(f.Letter, l, strings.Join(texts, "\n"), unread)
	})
}

// makeWay rests for as long as a piece of work took that is done beside all else: half of the time at
// least is left to whoever decides meanwhile.
func makeWay(ctx context.Context, took time.Duration) {
	select {
	case <-ctx.Done():
	case <-time.After(min(took, longestRest)):
	}
}

// KeepReadingFiles reads files, beside all else, until ctx ends.
func (a *App) KeepReadingFiles(ctx context.Context) {
	defer a.Texts.Rest()
	for {
		if err := a.ReadFiles(ctx); err != nil && ctx.Err() == nil {
			a.Log.Error("files are not read", "reason", err)
		}
		a.Texts.Rest()
		select {
		case <-ctx.Done():
			return
		case <-a.filed:
		case <-a.Clock.After(filesAgain):
		}
	}
}

// files tells whoever reads files that there may be some.
func (a *App) files() {
	select {
	case a.filed <- struct{}{}:
	default: // it is told already
	}
}
