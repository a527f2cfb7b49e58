package store

import "gorm.io/gorm"

// starField marks conversations for one person.
//
// By hand: a value goes into thousands of rows at once.
func starField(w setting) error {
	return w.tx.exec(`INSERT INTO personal_marks (conversation_id, person, owner, star)
		SELECT value, ?1, ?2, json_extract(?3, '$') FROM json_each(?4) WHERE EXISTS (SELECT 1 FROM conversations c WHERE c.id = value AND c.owner = ?2)
		ON CONFLICT DO UPDATE SET star = excluded.star`, w.person, w.tx.who.Inbox, w.now, w.ids)
}

// StarredBy lists the persons who have starred a conversation.
func (tx *Tx) StarredBy(conversation int64) ([]int64, error) {
	return pluck[int64](tx.ctx(), gorm.G[personalMarkRow](tx.few()).Where("conversation_id = ? AND star = 1", conversation).Order("person"), "person")
}

// MarkSeen remembers that the person has looked at the letters up to last. It
// is not a decision, so the Journal does not hold it.
//
// By hand: never beyond the newest letter, in one statement.
func (tx *Tx) MarkSeen(conversation, last int64) error {
	return tx.exec(`INSERT INTO personal_marks (conversation_id, person, owner, seen)
		SELECT id, ?1, owner, min(last_letter, ?2) FROM conversations WHERE owner = ?3 AND id = ?4
		ON CONFLICT DO UPDATE SET seen = min((SELECT last_letter FROM conversations c WHERE c.id = conversation_id), max(seen, excluded.seen))`, tx.who.Person, last, tx.who.Inbox, conversation)
}

// MarkUnseen lets the letters after last be unread for the person again.
//
// By hand: no further than they were, in one statement.
func (tx *Tx) MarkUnseen(conversation, last int64) error {
	return tx.exec("UPDATE personal_marks SET seen = min(seen, ?1) WHERE owner = ?2 AND person = ?3 AND conversation_id = ?4", last, tx.who.Inbox, tx.who.Person, conversation)
}

// seenStaysSeen lets those who have seen all of a conversation have seen its
// newest letter too, which is from the inbox itself; where it is the first, the
// one whose inbox it is. It is asked before the row knows that letter.
//
// By hand: it is called with every own letter, and compares with the row of the time.
func (tx *Tx) seenStaysSeen(conversation, newest int64) error {
	if err := tx.exec(`INSERT INTO personal_marks (conversation_id, person, owner)
		SELECT id, owner, owner FROM conversations WHERE owner = ? AND id = ? AND last_letter = 0 ON CONFLICT DO NOTHING`, tx.who.Inbox, conversation); err != nil {
		return err
	}
	return tx.exec(`UPDATE personal_marks SET seen = ? WHERE owner = ? AND conversation_id = ?
		AND seen >= (SELECT last_letter FROM conversations c WHERE c.id = conversation_id)`, newest, tx.who.Inbox, conversation)
}
