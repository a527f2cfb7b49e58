package store

import (
	"time"

	"gorm.io/gorm"
	"gorm.io/gorm/clause"
)

// RemoteDraft is a draft in a folder of a mail server, as both sides last agreed on it.
type RemoteDraft struct {
	Folder int64
	UID    uint32
	// Draft is the number of that of here; 0 for one that stays there alone.
	Draft int64
	// ToldAt is when that of here was last changed before they agreed.
	ToldAt time.Time
}

// RemoteDrafts are the drafts of a folder.
func (tx *Tx) RemoteDrafts(folder int64) ([]RemoteDraft, error) {
	rows, err := gorm.G[remoteDraftRow](tx.db).Where("folder_id = ?", folder).Order("uid").Find(tx.ctx())
	out := make([]RemoteDraft, len(rows))
	for i, r := range rows {
		out[i] = RemoteDraft{r.FolderID, uint32(r.UID), r.Draft, r.ToldAt.Time}
	}
	return out, err
}

// SaveRemoteDraft keeps how a draft stands on both sides.
func (tx *Tx) SaveRemoteDraft(d RemoteDraft) error {
	return gorm.G[remoteDraftRow](tx.db, clause.OnConflict{UpdateAll: true}).Create(tx.ctx(), &remoteDraftRow{FolderID: d.Folder, UID: int64(d.UID), Draft: d.Draft, ToldAt: at(d.ToldAt)})
}

// DropRemoteDrafts forgets drafts that are no longer in a folder; all of them for nil.
func (tx *Tx) DropRemoteDrafts(folder int64, uids []uint32) error {
	in := gorm.G[remoteDraftRow](tx.db).Where("folder_id = ?", folder)
	if uids != nil {
		numbers := make([]int64, len(uids))
		for i, uid := range uids {
			numbers[i] = int64(uid)
		}
		in = in.Where(inNumbers("uid", numbers))
	}
	_, err := in.Delete(tx.ctx())
	return err
}
