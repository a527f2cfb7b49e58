package store

import (
	"gorm.io/gorm"

	"ebbe.example/ebbe/internal/core/attached"
	"ebbe.example/ebbe/internal/core/letter"
)

// AttachedFiles are the files of the latest letters that have any, at most of so many letters; those at the gate
// are not among them.
func (tx *Tx) AttachedFiles(most int) ([]attached.File, error) {
	rows, err := gorm.G[letterRow](tx.db).Select("id, conversation_id, own, from_name, from_email, subject, received_at, parts").
		Where("attachments > 0 AND (own = 1 OR in_at IS NOT NULL)").Order("received_at DESC, id DESC").Limit(most).Find(tx.ctx())
	var out []attached.File
	for _, r := range rows {
		for i, p := range r.Parts.V { // of one that can't be read there are none
			if p.Inline {
				continue
			}
			out = append(out, attached.File{
				Letter: r.ID, Conversation: int64(r.ConversationID), Part: i, Name: p.Name, Sort: attached.SortOf(p.Name, p.Type), Size: p.Size,
				From: letter.Address{Name: r.FromName, Email: r.FromEmail}, Own: r.Own, Subject: r.Subject, At: r.ReceivedAt.Time,
			})
		}
	}
	return out, err
}
