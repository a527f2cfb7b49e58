package store

import "gorm.io/gorm"

// MadeUp is the source of the letters of the small made-up world.
const MadeUp = "made-up"

// AnyLetters tells whether there are any letters.
func (tx *Tx) AnyLetters() (bool, error) {
	rows, err := gorm.G[letterRow](tx.db).Select("id").Limit(1).Find(tx.ctx())
	return len(rows) > 0, err
}

// AnyDecided tells whether a person has ever decided on anything.
func (tx *Tx) AnyDecided() (bool, error) {
	rows, err := gorm.G[entryRow](tx.db).Select("id").Where("actor = 'person' AND kind LIKE 'decide:%'").Limit(1).Find(tx.ctx())
	return len(rows) > 0, err
}

// OnlyOf are the conversations of which every letter that isn't the person's own came from
// a source.
//
// By hand: letters beside how they came.
func (tx *Tx) OnlyOf(source string) ([]int64, error) {
	return tx.ids(`SELECT DISTINCT l.conversation_id FROM arrivals a JOIN letters l ON l.id = a.letter_id
		WHERE a.owner = ?1 AND a.source = ?2 AND l.conversation_id IS NOT NULL AND NOT EXISTS (SELECT 1 FROM letters o JOIN arrivals x ON x.letter_id = o.id
			WHERE o.conversation_id = l.conversation_id AND o.own = 0 AND x.source <> ?2)
		ORDER BY l.conversation_id`, tx.who.Inbox, source)
}
