package app

import (
	"context"
	"fmt"
	"slices"
	"strings"
	"time"

	"ebbe.example/ebbe/internal/core/change"
	"ebbe.example/ebbe/internal/core/kinds"
	"ebbe.example/ebbe/internal/core/writing"
	"ebbe.example/ebbe/internal/say"
	"ebbe.example/ebbe/internal/show"
	"ebbe.example/ebbe/internal/store"
	"ebbe.example/ebbe/internal/work"
)

// TemplateFields are the fields of a template that can be set; nil leaves one.
type TemplateFields struct {
	Name     *string `json:"name,omitempty" maxLength:"200"`
	Subject  *string `json:"subject,omitempty" maxLength:"2000"`
	Text     *string `json:"text,omitempty" maxLength:"1000000"`
	Markdown *bool   `json:"markdown,omitempty"`
	// Files are attachments that go along with it from now on.
	Files  []string `json:"files,omitempty" maxItems:"300" doc:"Uploaded files that go along from now on"`
	Remove bool     `json:"remove,omitempty"`
	// Drop are those of its files that no longer do.
	Drop []int64 `json:"drop,omitempty" maxItems:"300" doc:"Its files that no longer go along"`
}

// Made is a step that made something, and what.
type Made struct {
	Decided
	ID int64 `json:"id"`
}

// NewTemplate makes a template.
func (a *App) NewTemplate(ctx context.Context, who store.Who, command string, f TemplateFields) (Made, error) {
	cmd := work.Command{ID: command, Who: who, Actor: work.ByPerson, Kind: "template"}
	return run(ctx, a, cmd, func(s *step) (Made, error) {
		if f.Name == nil {
			return Made{}, work.Invalid("name", "A template needs a name.")
		}
		if _, err := s.templateName(*f.Name, 0); err != nil {
			return Made{}, err
		}
		id, err := s.AddTemplate(store.Template{})
		if err != nil {
			return Made{}, err
		}
		var changes change.List
		kinds.Template.Alive.Set(&changes, id, false, true)
		if err := s.Change(changes); err != nil {
			return Made{}, err
		}
		err = s.editTemplate(store.Template{ID: id}, f)
		s.Title = "New template “" + strings.TrimSpace(*f.Name) + "”"
		return Made{Decided{Entry: s.ID, Title: s.Title}, id}, err
	})
}

// EditTemplate changes a template, or takes it away.
func (a *App) EditTemplate(ctx context.Context, who store.Who, command string, id int64, f TemplateFields) (Decided, error) {
	cmd := work.Command{ID: command, Who: who, Actor: work.ByPerson, Kind: "template"}
	return run(ctx, a, cmd, func(s *step) (Decided, error) {
		all, err := s.Templates()
		if err != nil {
			return Decided{}, err
		}
		i := slices.IndexFunc(all, func(t store.Template) bool { return t.ID == id })
		if i < 0 {
			return Decided{}, work.Gone("That template is no longer there.")
		}
		s.Title = "Changed the template “" + all[i].Name + "”"
		err = s.editTemplate(all[i], f)
		return Decided{Entry: s.ID, Title: s.Title}, err
	})
}

func (s *step) editTemplate(t store.Template, f TemplateFields) error {
	var changes change.List
	if f.Remove {
		kinds.Template.Alive.Set(&changes, t.ID, true, false)
		s.Title = "Took the template “" + t.Name + "” away"
	}
	if f.Name != nil {
		name, err := s.templateName(*f.Name, t.ID)
		if err != nil {
			return err
		}
		kinds.Template.Name.Set(&changes, t.ID, t.Name, name)
	}
	if f.Subject != nil {
		kinds.Template.Subject.Set(&changes, t.ID, t.Subject, strings.Join(strings.Fields(*f.Subject), " "))
	}
	if f.Text != nil {
		kinds.Template.Text.Set(&changes, t.ID, t.Text, strings.TrimRight(*f.Text, " \t\n"))
	}
	if f.Markdown != nil {
		kinds.Template.Markdown.Set(&changes, t.ID, t.Markdown, *f.Markdown)
	}
	if err := s.Change(changes); err != nil {
		return err
	}
	for _, id := range f.Drop {
		if err := s.dropKept(id); err != nil {
			return err
		}
	}
	for _, id := range f.Files {
		if _, err := s.keepFile(id, store.KeptFile{Template: t.ID}); err != nil {
			return err
		}
	}
	return nil
}

func (s *step) templateName(typed string, id int64) (string, error) {
	all, err := s.Templates()
	if err != nil {
		return "", err
	}
	return newName("template", typed, func(name string) bool {
		return slices.ContainsFunc(all, func(t store.Template) bool { return t.ID != id && strings.EqualFold(t.Name, name) })
	})
}

// newName checks the name of something that the person names.
func newName(what, typed string, taken func(name string) bool) (string, error) {
	const most = 80
	name := strings.Join(strings.Fields(typed), " ")
	switch {
	case name == "":
		return "", work.Invalid("name", "A %s needs a name.", what)
	case len([]rune(name)) > most:
		return "", work.Invalid("name", "The name is longer than %d characters.", most)
	case taken(name):
		return "", work.Invalid("name", "There is a %s “%s” already.", what, name)
	}
	return name, nil
}

// PutIn fills a template in for a letter that is being written: its text above the signature,
// its subject where there is none, copies of its files. What has no value stays as a field,
// which stops sending.
func (a *App) PutIn(ctx context.Context, who store.Who, draft string, id int64, w show.Writing) (out show.Writing, err error) {
	now := a.Now()
	err = a.Store.Write(ctx, who, func(tx *store.Tx) error {
		all, err := tx.Templates()
		if err != nil {
			return err
		}
		i := slices.IndexFunc(all, func(t store.Template) bool { return t.ID == id })
		if i < 0 {
			return work.Gone("That template is no longer there.")
		}
		if out, err = filledIn(tx, all[i], w, now); err != nil {
			return err
		}
		files, err := tx.FilesOfTemplate(id)
		if err != nil {
			return err
		}
		for _, f := range files {
			if len(out.Files) >= writing.MostFiles {
				break
			}
			copied := show.AttachedFile{ID: a.NewID(), Name: f.Name, Size: f.Size, ContentType: f.ContentType}
			if err := tx.CopyAttachment(f.Attachment, copied.ID, draft, now); err != nil {
				return err
			}
			out.Files = append(out.Files, copied)
		}
		return nil
	})
	return out, err
}

// GroupFields are the fields of a group of receivers that can be set; nil leaves one.
type GroupFields struct {
	Name *string `json:"name,omitempty" maxLength:"200"`
	// Members are addresses in any form in which lists of them are written.
	Members *string `json:"members,omitempty" maxLength:"200000" doc:"Addresses in any form"`
	Remove  bool    `json:"remove,omitempty"`
}

// NewGroup makes a group of receivers.
func (a *App) NewGroup(ctx context.Context, who store.Who, command string, f GroupFields) (Made, error) {
	cmd := work.Command{ID: command, Who: who, Actor: work.ByPerson, Kind: "receivers"}
	return run(ctx, a, cmd, func(s *step) (Made, error) {
		if f.Name == nil || f.Members == nil {
			return Made{}, work.Invalid("name", "A group needs a name and members.")
		}
		id, err := s.AddReceiverGroup(store.ReceiverGroup{Members: []string{}})
		if err != nil {
			return Made{}, err
		}
		if err := s.editGroup(store.ReceiverGroup{ID: id, Members: []string{}}, f); err != nil {
			return Made{}, err
		}
		var changes change.List
		kinds.ReceiverGroup.Alive.Set(&changes, id, false, true)
		s.Title = "New group “" + strings.TrimSpace(*f.Name) + "”"
		return Made{Decided{Entry: s.ID, Title: s.Title}, id}, s.Change(changes)
	})
}

// EditGroup changes a group of receivers, or takes it away.
func (a *App) EditGroup(ctx context.Context, who store.Who, command string, id int64, f GroupFields) (Decided, error) {
	cmd := work.Command{ID: command, Who: who, Actor: work.ByPerson, Kind: "receivers"}
	return run(ctx, a, cmd, func(s *step) (Decided, error) {
		g, err := s.group(id)
		if err != nil {
			return Decided{}, err
		}
		s.Title = "Changed the group “" + g.Name + "”"
		err = s.editGroup(g, f)
		return Decided{Entry: s.ID, Title: s.Title}, err
	})
}

// group is one of the groups of receivers.
func (s *step) group(id int64) (store.ReceiverGroup, error) {
	all, err := s.ReceiverGroups()
	if err != nil {
		return store.ReceiverGroup{}, err
	}
	i := slices.IndexFunc(all, func(g store.ReceiverGroup) bool { return g.ID == id })
	if i < 0 {
		return store.ReceiverGroup{}, work.Gone("That group is no longer there.")
	}
	return all[i], nil
}

func (s *step) editGroup(g store.ReceiverGroup, f GroupFields) error {
	var changes change.List
	if f.Remove {
		kinds.ReceiverGroup.Alive.Set(&changes, g.ID, true, false)
		s.Title = "Took the group “" + g.Name + "” away"
	}
	if f.Name != nil {
		all, err := s.ReceiverGroups()
		if err != nil {
			return err
		}
		name, err := newName("group", *f.Name, func(name string) bool {
			return slices.ContainsFunc(all, func(o store.ReceiverGroup) bool { return o.ID != g.ID && strings.EqualFold(o.Name, name) })
		})
		if err != nil {
			return err
		}
		kinds.ReceiverGroup.Name.Set(&changes, g.ID, g.Name, name)
	}
	if f.Members != nil {
		members, err := writing.Members(*f.Members)
		if err != nil {
			return work.Invalid("members", "%s The group was not changed.", say.Sentence(err))
		}
		kinds.ReceiverGroup.Members.Set(&changes, g.ID, g.Members, members)
	}
	return s.Change(changes)
}

// keepFile keeps an uploaded file beyond its draft.
func (s *step) keepFile(id string, f store.KeptFile) (store.KeptFile, error) {
	uploaded, err := s.Attachment(id)
	if err != nil || !uploaded.Whole() {
		return f, work.Invalid("files", "That file is not here whole yet. Nothing was changed.")
	}
	f.Attachment, f.AddedAt = uploaded, s.At
	if f.ID, err = s.AddKeptFile(f); err != nil {
		return f, err
	}
	var changes change.List
	kinds.KeptFile.Alive.Set(&changes, f.ID, false, true)
	return f, s.Change(changes)
}

func (s *step) dropKept(id int64) error {
	f, err := s.KeptFile(id)
	if err != nil {
		return work.Gone("That file is no longer there.")
	}
	var changes change.List
	kinds.KeptFile.Alive.Set(&changes, f.ID, f.Alive, false)
	if s.Title == "" {
		s.Title = fmt.Sprintf("Took the file “%s” away", f.Name)
	}
	return s.Change(changes)
}

// filledIn puts the text of a template above what is written, filled in as far as that is known.
func filledIn(tx *store.Tx, t store.Template, w show.Writing, now time.Time) (show.Writing, error) {
	values, err := show.ValuesFor(tx, w, now)
	if err != nil {
		return w, err
	}
	text := writing.FillIn(t.Text, values)
	w.Text = writing.Above(w.Text, text)
	if t.Subject != "" && (strings.TrimSpace(w.Subject) == "" || w.Kind == "new") {
		w.Subject = writing.FillIn(t.Subject, values)
	}
	w.Markdown = w.Markdown || t.Markdown
	for _, name := range writing.Fields(w.Subject + "\n" + text) {
		if !slices.Contains(w.Fields, name) {
			w.Fields = append(w.Fields, name)
		}
	}
	return w, nil
}
