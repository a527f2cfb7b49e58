package app

import (
	"context"
	"errors"
	"fmt"
	"path"
	"time"

	"ebbe.example/ebbe/internal/core/attached"
	"ebbe.example/ebbe/internal/core/change"
	"ebbe.example/ebbe/internal/core/kinds"
	"ebbe.example/ebbe/internal/core/letter"
	"ebbe.example/ebbe/internal/core/routine"
	"ebbe.example/ebbe/internal/say"
	"ebbe.example/ebbe/internal/store"
	"ebbe.example/ebbe/internal/work"
)

// Folder takes files that rules save.
type Folder interface {
	// Put puts a file at a path below the folder and gives the path that it got: nothing is overwritten.
	Put(path string, content []byte) (string, error)
}

// noFolder is said where a rule would save files and can't.
const noFolder = "Whoever runs this Ebbe has named no folder for files (--save-to)."

// savesAtOnce are how many files are looked up at a time that are to be saved, savesAgain how long after the last
// look is looked again where nothing tells, and mostSaves how often one is tried.
const (
	savesAtOnce = 50
	savesAgain  = time.Minute
	mostSaves   = 12
)

// saveByRule has what is attached to a letter saved, once the rule's step is kept.
func (s *step) saveByRule(r store.Rule, st routine.Step, h hit) error {
	if s.app.Folder == nil {
		return work.Refuse(noFolder)
	}
	row, err := s.Letter(h.Letter)
	if err != nil {
		return err
	}
	p, err := s.InboxSettings()
	if err != nil {
		return err
	}
	own := attached.File{Name: p.SignIn}
	if p.SignIn == "" {
		own.Name = p.Name
	}
	var changes change.List
	for i, part := range row.Parts {
		if part.Inline {
			continue
		}
		f := attached.File{Name: part.Name, From: row.From, Subject: row.Subject, At: row.ReceivedAt.In(s.calendar().Zone)}
		id, err := s.AddSaving(store.Saving{Rule: r.ID, Letter: h.Letter, Part: i, Path: path.Join(own.Path("{name}"), f.Path(st.Text))}, s.At)
		if err != nil {
			return err
		}
		kinds.Saving.Alive.Set(&changes, id, false, true)
	}
	return s.Change(changes)
}

// SaveFiles saves the files that rules have found, each by itself: one that can't be is told in the Journal, and
// tried again later.
func (a *App) SaveFiles(ctx context.Context) error {
	failed := map[int64]bool{} // what can't even be told stops none of the others
	for ctx.Err() == nil {
		list, err := a.Store.Savings(ctx, a.Now(), savesAtOnce+len(failed))
		if err != nil {
			return err
		}
		some := false
		for _, f := range list {
			if failed[f.ID] {
				continue
			}
			some = true
			if err := a.saveFile(ctx, f); err != nil {
				failed[f.ID] = true
				a.Log.Error("a file is not saved", "owner", f.Owner, "saving", f.ID, "reason", err)
			}
		}
		if !some {
			return nil
		}
	}
	return nil
}

func (a *App) saveFile(ctx context.Context, f store.Saving) error {
	who := store.Nobody(f.Owner)
	as, trouble := a.putFile(ctx, who, f)
	if ctx.Err() != nil {
		return ctx.Err()
	}
	tries := f.Tries + 1
	cmd := work.Command{ID: fmt.Sprintf("saving:%d:%d", f.ID, tries), Who: who, Actor: work.ByRule, Cause: store.RuleCause(f.Rule), Kind: "saving"}
	_, err := run(ctx, a, cmd, func(s *step) (struct{}, error) {
		if trouble == nil {
			s.Title = "Saved “" + say.Shorten(as, 150) + "”"
			return struct{}{}, s.Saved(f.ID, as)
		}
		next := time.Time{}
		s.Title = fmt.Sprintf("“%s” could not be saved: %s", say.Shorten(f.Path, 100), say.Sentence(trouble))
		if tries < mostSaves && !errors.Is(trouble, store.ErrNotFound) {
			next = s.At.Add(min(time.Minute<<tries, 12*time.Hour))
		} else {
			s.Title += " It is not tried again."
		}
		return struct{}{}, s.SaveLater(f.ID, tries, next)
	})
	return err
}

// putFile puts a file into the folder.
func (a *App) putFile(ctx context.Context, who store.Who, f store.Saving) (string, error) {
	raw, err := read(ctx, a, who, func(tx *store.Tx) ([]byte, error) { return tx.Original(f.Letter) })
	if err != nil {
		return "", err
	}
	part, ok := letter.PartOf(raw, f.Part)
	if !ok {
		return "", store.ErrNotFound
	}
	a.Work.At("saving.put")
	as, err := a.Folder.Put(f.Path, part.Content)
	if err == nil {
		a.Work.At("saving.mark")
	}
	return as, err
}

// KeepSaving saves files, beside all else, until ctx ends.
func (a *App) KeepSaving(ctx context.Context) {
	for {
		if err := a.SaveFiles(ctx); err != nil && ctx.Err() == nil {
			a.Log.Error("files are not saved", "reason", err)
		}
		select {
		case <-ctx.Done():
			return
		case <-a.saved:
		case <-a.Clock.After(savesAgain):
		}
	}
}

// saves tells whoever saves files that there may be some.
func (a *App) saves() {
	select {
	case a.saved <- struct{}{}:
	default: // it is told already
	}
}
