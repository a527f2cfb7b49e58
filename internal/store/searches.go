package store

import "gorm.io/gorm"

// KeptSearch is a search under a name.
type KeptSearch struct {
	ID            int64
	Name          string
	Query, Within string
}

// KeptSearches lists the searches that were kept, by name.
func (tx *Tx) KeptSearches() ([]KeptSearch, error) {
	rows, err := gorm.G[keptSearchRow](tx.db).Where("alive").Order("name COLLATE NOCASE, id").Find(tx.ctx())
	out := make([]KeptSearch, len(rows))
	for i, r := range rows {
		out[i] = r.KeptSearch
	}
	return out, err
}

// AddKeptSearch writes a search that is not alive yet.
func (tx *Tx) AddKeptSearch(s KeptSearch) (int64, error) {
	row := keptSearchRow{KeptSearch: s}
	err := gorm.G[keptSearchRow](tx.db).Create(tx.ctx(), &row)
	return row.ID, err
}
