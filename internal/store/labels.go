package store

import (
	"gorm.io/gorm"

	"ebbe.example/ebbe/internal/core/decide"
)

// LabelLook is how a label looks: a colour with a shape (Colours, Shapes).
type LabelLook struct {
	ID                  int64
	Name, Colour, Shape string
}

// LabelCount is how much stands under a label: conversations, and those of them that are undecided.
type LabelCount struct {
	Label        string
	N, Undecided int
}

// LabelCounts counts what stands under each label, by name.
//
// By hand: it goes once along the index of labels.
func (tx *Tx) LabelCounts() ([]LabelCount, error) {
	return all[LabelCount](tx.db.Raw(`SELECT x.label, count(*) AS n, coalesce(sum(c.place IN (?, ?)), 0) AS undecided
		FROM conversation_labels x JOIN conversations c ON c.id = x.conversation_id WHERE x.owner = ? GROUP BY x.label ORDER BY x.label`,
		decide.Inbox, decide.Shallows, tx.who.Inbox))
}

// LabelLooks lists how labels look.
func (tx *Tx) LabelLooks() ([]LabelLook, error) {
	rows, err := gorm.G[labelRow](tx.db).Where("alive").Order("name, id").Find(tx.ctx())
	out := make([]LabelLook, len(rows))
	for i, r := range rows {
		out[i] = r.LabelLook
	}
	return out, err
}

// AddLabelLook writes how a label looks; it is not alive yet.
func (tx *Tx) AddLabelLook(l LabelLook) (int64, error) {
	row := labelRow{LabelLook: l}
	err := gorm.G[labelRow](tx.db).Create(tx.ctx(), &row)
	return row.ID, err
}

// Labelled gives for conversations that stand under one of some labels all of their labels.
func (tx *Tx) Labelled(labels []string) (map[int64][]string, error) {
	under := gorm.G[conversationLabelRow](tx.db).Select("conversation_id").Where("label IN ?", labels)
	rows, err := gorm.G[conversationLabelRow](tx.db).Where("conversation_id IN (?)", under).Order("conversation_id, label").Find(tx.ctx())
	out := map[int64][]string{}
	for _, r := range rows {
		out[r.ConversationID] = append(out[r.ConversationID], r.Label)
	}
	return out, err
}
