package store

import (
	"time"

	"gorm.io/gorm"

	"ebbe.example/ebbe/internal/core/change"
	"ebbe.example/ebbe/internal/core/kinds"
)

// KeptFile is a file that stays: it was added to a conversation, or goes along with a
// template.
type KeptFile struct {
	ID           int64
	Alive        bool
	Conversation int64 // 0 for none
	Template     int64 // 0 for none
	AddedAt      time.Time
	Attachment
}

// Object names the file in changes.
func (f KeptFile) Object() change.Object { return kinds.KeptFile.Of(f.ID) }

// keeping is the draft of which an attachment is once it is kept.
const keeping = "kept"

// AddKeptFile keeps an attachment; it is not alive yet.
func (tx *Tx) AddKeptFile(f KeptFile) (int64, error) {
	if _, err := gorm.G[attachmentRow](tx.db).Where("id = ?", f.Attachment.ID).Update(tx.ctx(), "draft", keeping); err != nil {
		return 0, err
	}
	row := keptFileRow{Attachment: f.Attachment.ID, ConversationID: f.Conversation, TemplateID: f.Template, AddedAt: stamp{f.AddedAt}}
	err := gorm.G[keptFileRow](tx.db).Create(tx.ctx(), &row)
	return row.ID, err
}

// KeptFile is one such file by its id, alive or not.
func (tx *Tx) KeptFile(id int64) (KeptFile, error) {
	all, err := tx.keptFiles("id = ?", id)
	if err == nil && len(all) == 0 {
		err = ErrNotFound
	}
	if err != nil {
		return KeptFile{}, err
	}
	return all[0], nil
}

// FilesAddedTo lists the files that were added to a conversation, the first first.
func (tx *Tx) FilesAddedTo(conversation int64) ([]KeptFile, error) {
	return tx.keptFiles("alive AND conversation_id = ?", conversation)
}

// FilesOfTemplate lists the files that go along with a template.
func (tx *Tx) FilesOfTemplate(template int64) ([]KeptFile, error) {
	return tx.keptFiles("alive AND template_id = ?", template)
}

// FilesOfTemplates lists the files of all templates, by template.
func (tx *Tx) FilesOfTemplates() (map[int64][]KeptFile, error) {
	list, err := tx.keptFiles("alive AND template_id <> ?", 0)
	out := map[int64][]KeptFile{}
	for _, f := range list {
		out[f.Template] = append(out[f.Template], f)
	}
	return out, err
}

func (tx *Tx) keptFiles(where string, id int64) ([]KeptFile, error) {
	rows, err := gorm.G[keptFileRow](tx.db).Where(where, id).Order("added_at, id").Find(tx.ctx())
	if err != nil || len(rows) == 0 {
		return nil, err
	}
	names := make([]string, len(rows))
	for i, r := range rows {
		names[i] = r.Attachment
	}
	found, err := gorm.G[attachmentRow](tx.db).Where("id IN ?", names).Find(tx.ctx())
	if err != nil {
		return nil, err
	}
	by := map[string]attachmentRow{}
	for _, a := range found {
		by[a.ID] = a
	}
	out := make([]KeptFile, 0, len(rows))
	for _, r := range rows {
		out = append(out, KeptFile{ID: r.ID, Alive: r.Alive, Conversation: r.ConversationID, Template: r.TemplateID, AddedAt: r.AddedAt.Time, Attachment: by[r.Attachment].attachment()})
	}
	return out, nil
}

// CopyAttachment makes a copy of a file for a draft.
func (tx *Tx) CopyAttachment(a Attachment, id, draft string, at time.Time) error {
	content, err := tx.ContentOf(a)
	if err != nil {
		return err
	}
	made := a
	made.ID, made.Draft, made.Came, made.MadeAt = id, draft, 0, at
	if err := tx.AddAttachment(made); err != nil {
		return err
	}
	const piece = 4 << 20
	for len(content) > 0 {
		n := min(piece, len(content))
		if err := tx.AddPiece(made, content[:n]); err != nil {
			return err
		}
		made.Came += int64(n)
		content = content[n:]
	}
	return nil
}
