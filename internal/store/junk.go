package store

import (
	"context"

	"gorm.io/gorm"
)

// JunkExample is a letter from somebody else, with whether its owner says that it is junk.
type JunkExample struct {
	Letter int64
	Junk   bool
}

// JunkExamples are the newest letters that the owner has put into Junk, or by a rule of theirs, and the
// newest that they have let stand elsewhere, at most so many of each. What was put there for being like
// others teaches nothing until it is taken out.
//
// By hand: three lists, each along an index.
func (tx *Tx) JunkExamples(most int) ([]JunkExample, error) {
	return all[JunkExample](tx.db.Raw(`SELECT letter, junk FROM (
		SELECT * FROM (SELECT l.id AS letter, 1 AS junk FROM conversations c JOIN letters l ON l.conversation_id = c.id
			WHERE c.owner = ?1 AND c.place = 'junk' AND l.own = 0 AND l.junk = '' ORDER BY c.last_at DESC, l.id DESC LIMIT ?2)
		UNION ALL SELECT * FROM (SELECT l.id AS letter, 0 AS junk FROM conversations c JOIN letters l ON l.conversation_id = c.id
			WHERE c.owner = ?1 AND c.place = 'archive' AND l.own = 0 AND l.junk = '' ORDER BY c.last_at DESC, l.id DESC LIMIT ?2)
		UNION ALL SELECT * FROM (SELECT l.id AS letter, 0 AS junk FROM letters l JOIN conversations c ON c.id = l.conversation_id
			WHERE l.owner = ?1 AND l.junk <> '' AND c.place NOT IN ('junk', 'bin') ORDER BY l.id DESC LIMIT ?2)
		) ORDER BY letter`, tx.who.Inbox, most))
}

// JunkLearners are the inboxes whose owners wish junk to be learned. A system query.
func (s *Store) JunkLearners(ctx context.Context) ([]int64, error) {
	return pluck[int64](ctx, gorm.G[personRow](everybody(s.reader)).Where("learn_junk"), "id")
}

// JunkSince counts the conversations in Junk with a letter newer than one.
//
// By hand: it only counts.
func (tx *Tx) JunkSince(letter int64) (n int64, err error) {
	return n, tx.db.Raw("SELECT count(*) FROM conversations WHERE owner = ? AND place = 'junk' AND last_letter > ?", tx.who.Inbox, letter).Scan(&n).Error
}
