package store

import (
	"bytes"
	"time"

	"gorm.io/gorm"

	"ebbe.example/ebbe/internal/core/sending"
)

// Attachment is a file that goes along with a letter that is being written.
type Attachment struct {
	ID          string
	Draft       string
	Name        string
	ContentType string
	Size, Came  int64 // in bytes
	MadeAt      time.Time
}

// Whole tells that all of it has come.
func (a Attachment) Whole() bool { return a.Came == a.Size }

func (r attachmentRow) attachment() Attachment {
	return Attachment{ID: r.ID, Draft: r.Draft, Name: r.Name, ContentType: r.ContentType, Size: r.Size, Came: r.Came, MadeAt: r.MadeAt.Time}
}

// AddAttachment makes room for a file; nothing has come of it yet.
func (tx *Tx) AddAttachment(a Attachment) error {
	return gorm.G[attachmentRow](tx.db).Create(tx.ctx(), &attachmentRow{
		ID: a.ID, Draft: a.Draft, Name: a.Name, ContentType: a.ContentType, Size: a.Size, MadeAt: stamp{a.MadeAt},
	})
}

// Attachment is one file by its id.
func (tx *Tx) Attachment(id string) (Attachment, error) {
	r, err := gorm.G[attachmentRow](tx.db).Where("id = ?", id).Take(tx.ctx())
	return r.attachment(), err
}

// AttachmentsOf lists the files of a draft, in the order in which they were begun.
func (tx *Tx) AttachmentsOf(draft string) ([]Attachment, error) {
	rows, err := gorm.G[attachmentRow](tx.db).Where("draft = ?", draft).Order("made_at, id").Find(tx.ctx())
	out := make([]Attachment, len(rows))
	for i, r := range rows {
		out[i] = r.attachment()
	}
	return out, err
}

// AddPiece adds what has come of a file to what had come before.
func (tx *Tx) AddPiece(a Attachment, content []byte) error {
	if err := gorm.G[attachmentPieceRow](tx.db).Create(tx.ctx(), &attachmentPieceRow{Attachment: a.ID, First: a.Came, Content: content}); err != nil {
		return err
	}
	_, err := gorm.G[attachmentRow](tx.db).Where("id = ?", a.ID).Update(tx.ctx(), "came", a.Came+int64(len(content)))
	return err
}

// ContentOf gives what has come of a file.
func (tx *Tx) ContentOf(a Attachment) ([]byte, error) {
	rows, err := gorm.G[attachmentPieceRow](tx.db).Select("content").Where("attachment = ?", a.ID).Order("first").Rows(tx.ctx()) // one piece in memory at a time
	if err != nil {
		return nil, err
	}
	defer rows.Close()
	out := bytes.NewBuffer(make([]byte, 0, a.Came))
	for rows.Next() {
		var piece []byte
		if err := rows.Scan(&piece); err != nil {
			return nil, err
		}
		out.Write(piece)
	}
	return out.Bytes(), rows.Err()
}

// GiveAttachments makes files those of another draft.
func (tx *Tx) GiveAttachments(from, to string) error {
	_, err := gorm.G[attachmentRow](tx.db).Where("draft = ?", from).Update(tx.ctx(), "draft", to)
	return err
}

// DropAttachment lets go of a file.
func (tx *Tx) DropAttachment(id string) error {
	if _, err := gorm.G[attachmentPieceRow](tx.db).Where("attachment = ?", id).Delete(tx.ctx()); err != nil {
		return err
	}
	_, err := gorm.G[attachmentRow](tx.db).Where("id = ?", id).Delete(tx.ctx())
	return err
}

// StaleAttachments are the files that were begun before a moment and whose draft has been
// over, or not touched at all, since then. A letter that is still to leave may be a draft again.
func (tx *Tx) StaleAttachments(before time.Time) ([]string, error) {
	living := gorm.G[draftRow](tx.db).Select("id").Where("alive = 1 OR updated_at >= ?", stamp{before})
	leaving := gorm.G[outgoingRow](tx.db).Select("draft").Where("state IN ?", sending.UnderWay)
	return pluck[string](tx.ctx(), gorm.G[attachmentRow](tx.db).Where("made_at < ? AND draft <> ? AND draft NOT IN (?) AND draft NOT IN (?)", stamp{before}, keeping, living, leaving).Limit(1000), "id")
}
