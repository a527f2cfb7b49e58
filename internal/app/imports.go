package app

import (
	"context"
	"errors"
	"fmt"
	"io"
	"maps"
	"os"
	"path/filepath"
	"slices"
	"sync"
	"time"

	"ebbe.example/ebbe/internal/post"
	"ebbe.example/ebbe/internal/store"
	"ebbe.example/ebbe/internal/work"
)

// Importing says what to import and where it goes.
type Importing struct {
	Command string
	// Name is what the person calls it: the file's name.
	Name string
	// Path is the file or folder; "" for one whose files are uploaded first.
	Path string
	// OldQuoting reads mbox files of the mboxo kind.
	OldQuoting bool
	// InboxDays sends letters newer than this many days to the inbox; 0 sends
	// all to the archive.
	InboxDays int
}

// ImportView is an import as it is shown.
type ImportView struct {
	ID       int64           `json:"id"`
	Name     string          `json:"name"`
	State    string          `json:"state" enum:"filling,running,done,stopped,failed"`
	Done     int64           `json:"done" doc:"Bytes read so far"`
	Size     int64           `json:"size"`
	Read     int             `json:"read"`
	New      int             `json:"new"`
	Known    int             `json:"known"`
	Passed   int             `json:"passed" doc:"Files that are no letters"`
	Damaged  int             `json:"damaged"`
	MadeAt   time.Time       `json:"madeAt"`
	EndedAt  *time.Time      `json:"endedAt,omitempty"`
	Trouble  string          `json:"trouble,omitempty"`
	Entry    int64           `json:"entry,omitempty" doc:"Its step in the Journal"`
	Undone   bool            `json:"undone,omitempty"`
	Troubles []ImportTrouble `json:"troubles"`
}

// ImportTrouble is a damaged letter, or one that was left out.
type ImportTrouble struct {
	Name         string `json:"name"`
	Subject      string `json:"subject,omitempty"`
	What         string `json:"what"`
	Letter       int64  `json:"letter,omitempty"`
	Conversation int64  `json:"conversation,omitempty"`
}

// shownTroubles bounds how many damaged letters are listed.
const shownTroubles = 500

func importView(tx *store.Tx, im store.Import) (ImportView, error) {
	v := ImportView{
		ID: im.ID, Name: im.Name, State: im.State, Done: im.Done, Size: im.Size, Read: im.Account.Items - im.Account.Passed, New: im.Account.Added,
		Known: im.Account.Known, Passed: im.Account.Passed, Damaged: im.Account.Damaged, MadeAt: im.MadeAt, Trouble: im.Trouble, Entry: im.Journal, Troubles: []ImportTrouble{},
	}
	if !im.EndedAt.IsZero() {
		v.EndedAt = &im.EndedAt
	}
	if im.Journal != 0 {
		e, err := tx.Entry(im.Journal)
		if err != nil {
			return v, err
		}
		v.Undone = e.UndoneBy != 0
	}
	troubles, err := tx.ImportTroubles(im.ID, shownTroubles)
	for _, t := range troubles {
		v.Troubles = append(v.Troubles, ImportTrouble{t.Name, t.Subject, t.What, t.LetterID, t.Conversation})
	}
	return v, err
}

// imports are those at work in this process.
type imports struct {
	mu      sync.Mutex
	running map[int64]*runningImport
}

type runningImport struct {
	cancel  context.CancelFunc
	stopped bool // by the person, for good
	ended   chan struct{}
}

// spool is the folder of an import's uploaded files.
func (a *App) spool(id int64) string {
	return filepath.Join(a.Store.Path()+".imports", fmt.Sprint(id))
}

// NewImport begins an import. One without a path waits for its files; the
// others run at once, in the background.
func (a *App) NewImport(ctx context.Context, who store.Who, in Importing) (ImportView, error) {
	im := store.Import{Command: in.Command, Name: in.Name, Path: in.Path, State: "filling", MadeAt: a.Now()}
	if in.OldQuoting {
		im.Quoting = int(post.QuotedO)
	}
	if in.InboxDays > 0 {
		im.InboxSince = im.MadeAt.AddDate(0, 0, -in.InboxDays)
	}
	err := a.Store.Write(ctx, who, func(tx *store.Tx) error {
		id, err := tx.AddImport(im)
		if err != nil {
			return err
		}
		if im, err = tx.Import(id); err != nil || im.Path != "" {
			return err
		}
		im.Path, im.Spooled = a.spool(im.ID), true
		if err := os.MkdirAll(im.Path, 0o700); err != nil {
			return err
		}
		return tx.SaveImport(im)
	})
	if err != nil {
		return ImportView{}, err
	}
	if in.Path != "" {
		return a.StartImport(ctx, who, im.ID)
	}
	return a.ImportOf(ctx, who, im.ID)
}

// ErrTooMuch is returned for an upload that is larger than there is room for.
var ErrTooMuch = errors.New("the file is larger than can be taken")

// MaxUpload is the largest file taken by upload, in bytes.
const MaxUpload = 8 << 30

// FillImport takes an uploaded file of an import that waits for its files.
// number keeps the files in order and apart.
func (a *App) FillImport(ctx context.Context, who store.Who, id int64, number int, name string, content io.Reader) error {
	im, err := read(ctx, a, who, func(tx *store.Tx) (store.Import, error) { return tx.Import(id) })
	if err != nil {
		return err
	}
	if im.State != "filling" {
		return work.Refuse("That import has begun already.")
	}
	path := filepath.Join(a.spool(id), fmt.Sprintf("%06d %s", number, post.FileName(name)))
	f, err := os.OpenFile(path+".part", os.O_CREATE|os.O_WRONLY|os.O_TRUNC, 0o600)
	if err != nil {
		return err
	}
	n, err := io.Copy(f, io.LimitReader(content, MaxUpload+1))
	if err == nil && n > MaxUpload {
		err = ErrTooMuch
	}
	if err = errors.Join(err, f.Close()); err != nil {
		return errors.Join(err, os.Remove(path+".part"))
	}
	return os.Rename(path+".part", path)
}

// StartImport lets an import run in the background. One that runs or has run
// is left as it is.
func (a *App) StartImport(ctx context.Context, who store.Who, id int64) (ImportView, error) {
	im, err := read(ctx, a, who, func(tx *store.Tx) (store.Import, error) { return tx.Import(id) })
	if err != nil {
		return ImportView{}, err
	}
	if im.State == "filling" {
		cmd := work.Command{ID: "import:" + im.Command, Who: who, Actor: work.ByImport, Kind: importKind, Title: importTitle(im)}
		im, err = run(ctx, a, cmd, func(s *step) (store.Import, error) {
			im.State, im.Journal = "running", s.ID
			return im, s.SaveImport(im)
		})
		if err != nil {
			return ImportView{}, err
		}
		a.launch(who, im)
	}
	return a.ImportOf(ctx, who, id)
}

// launch runs an import in the background.
func (a *App) launch(who store.Who, im store.Import) {
	ctx, cancel := context.WithCancel(context.Background())
	a.imports.mu.Lock()
	defer a.imports.mu.Unlock()
	if a.imports.running == nil {
		a.imports.running = map[int64]*runningImport{}
	}
	if a.imports.running[im.ID] != nil {
		cancel()
		return
	}
	r := &runningImport{cancel: cancel, ended: make(chan struct{})}
	a.imports.running[im.ID] = r
	go func() {
		defer close(r.ended)
		defer cancel()
		err := a.takeIn(ctx, who, im)
		a.imports.mu.Lock()
		stopped := r.stopped
		a.imports.mu.Unlock()
		if ctx.Err() == nil || stopped { // else Ebbe stops; it goes on when Ebbe is back
			if err := a.endImport(who, im.ID, stopped, err); err != nil {
				a.Log.Error("the end of an import could not be kept", "import", im.ID, "reason", err)
			}
		}
		a.imports.mu.Lock()
		delete(a.imports.running, im.ID)
		a.imports.mu.Unlock()
	}()
}

// endImport keeps how an import ended, and removes its uploaded files.
func (a *App) endImport(who store.Who, id int64, stopped bool, why error) error {
	err := a.Store.Write(context.Background(), who, func(tx *store.Tx) error {
		im, err := tx.Import(id)
		if err != nil {
			return err
		}
		im.State, im.EndedAt = "done", a.Now()
		switch {
		case stopped:
			im.State = "stopped"
		case why != nil:
			im.State, im.Trouble = "failed", why.Error()
		default:
			im.Done = im.Size
		}
		return tx.SaveImport(im)
	})
	a.Publish(who.Inbox, work.News{Everything: true, Stale: []work.Reading{}})
	return errors.Join(err, os.RemoveAll(a.spool(id)))
}

// StopImport ends an import before its end. What it has taken in stays, and
// can be undone as one.
func (a *App) StopImport(ctx context.Context, who store.Who, id int64) (ImportView, error) {
	im, err := read(ctx, a, who, func(tx *store.Tx) (store.Import, error) { return tx.Import(id) })
	if err != nil {
		return ImportView{}, err
	}
	a.imports.mu.Lock()
	r := a.imports.running[id]
	if r != nil {
		r.stopped = true
	}
	a.imports.mu.Unlock()
	switch {
	case r != nil:
		r.cancel()
		<-r.ended
	case im.State == "filling":
		if err := a.endImport(who, id, true, nil); err != nil {
			return ImportView{}, err
		}
	}
	return a.ImportOf(ctx, who, id)
}

// ImportOf shows one import.
func (a *App) ImportOf(ctx context.Context, who store.Who, id int64) (ImportView, error) {
	return read(ctx, a, who, func(tx *store.Tx) (ImportView, error) {
		im, err := tx.Import(id)
		if err != nil {
			return ImportView{}, err
		}
		return importView(tx, im)
	})
}

// Imports shows the latest imports.
func (a *App) Imports(ctx context.Context, who store.Who) ([]ImportView, error) {
	return read(ctx, a, who, func(tx *store.Tx) ([]ImportView, error) {
		list, err := tx.Imports(20)
		out := []ImportView{}
		for _, im := range list {
			if err != nil {
				return out, err
			}
			var v ImportView
			v, err = importView(tx, im)
			out = append(out, v)
		}
		return out, err
	})
}

// ResumeImports goes on with uploads that a stop or a crash has cut off. An
// import whose files had not all come is ended: nothing of it was taken in.
func (a *App) ResumeImports(ctx context.Context) error {
	cut, err := a.Store.CutOff(ctx)
	if err != nil {
		return err
	}
	for who, list := range cut {
		for _, im := range list {
			switch {
			case im.State == "filling":
				err = errors.Join(err, a.endImport(who, im.ID, false, errors.New("the upload was cut off; nothing was taken in")))
			case !im.Spooled: // it goes on when the same file is imported again
			default:
				a.launch(who, im)
			}
		}
	}
	return err
}

// WaitForImports waits until those that run now have ended.
func (a *App) WaitForImports() {
	for _, r := range a.runningImports() {
		<-r.ended
	}
}

// StopImports ends those that run in this process; they go on when Ebbe is
// back.
func (a *App) StopImports() {
	for _, r := range a.runningImports() {
		r.cancel()
		<-r.ended
	}
}

func (a *App) runningImports() []*runningImport {
	a.imports.mu.Lock()
	defer a.imports.mu.Unlock()
	return slices.Collect(maps.Values(a.imports.running))
}

// ImportNow imports a file or a folder and returns when that is done. One that
// was cut off goes on where it was. progress is told now and then; stopped
// early, it can be run again.
func (a *App) ImportNow(ctx context.Context, who store.Who, in Importing, progress func(ImportView)) (ImportView, error) {
	before, err := a.cutOff(ctx, who, in.Path)
	if err != nil {
		return ImportView{}, err
	}
	if before.ID != 0 {
		a.launch(who, before)
	} else {
		v, err := a.NewImport(ctx, who, in)
		if err != nil {
			return v, err
		}
		before.ID = v.ID
	}
	news, stop := a.Listen(who)
	defer stop()
	ended := make(chan struct{})
	go func() {
		a.WaitForImports()
		close(ended)
	}()
	for {
		select {
		case <-ctx.Done():
			a.StopImports()
			return ImportView{}, fmt.Errorf("stopped early; run it again to go on: %w", ctx.Err())
		case <-news:
			if v, err := a.ImportOf(ctx, who, before.ID); err == nil && progress != nil {
				progress(v)
			}
		case <-ended:
			v, err := a.ImportOf(ctx, who, before.ID)
			if err == nil && v.Trouble != "" {
				err = errors.New(v.Trouble)
			}
			return v, err
		}
	}
}

// cutOff finds an import of this path that has not ended.
func (a *App) cutOff(ctx context.Context, who store.Who, path string) (store.Import, error) {
	cut, err := a.Store.CutOff(ctx)
	for _, im := range cut[who] {
		if im.Path == path && im.State == "running" {
			return im, err
		}
	}
	return store.Import{}, err
}
