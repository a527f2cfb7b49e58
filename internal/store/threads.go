package store

import (
	"encoding/json"
	"time"

	"ebbe.example/ebbe/internal/core/letter"
	"ebbe.example/ebbe/internal/core/thread"
)

// ConversationsByID finds the conversations that hold a letter with one of
// these ids, or one that refers to one of them.
func (tx *Tx) ConversationsByID(ids []string) ([]int64, error) {
	if len(ids) == 0 {
		return nil, nil
	}
	list, err := json.Marshal(ids)
	if err != nil {
		return nil, err
	}
	return tx.ids(`SELECT DISTINCT l.conversation_id FROM letter_ids i JOIN letters l ON l.id = i.letter_id
		WHERE i.owner = ? AND i.ref IN (SELECT value FROM json_each(?)) AND l.conversation_id IS NOT NULL ORDER BY 1`, tx.owner, string(list))
}

// ConversationsBySubject finds conversations with the bare subject whose last
// letter lies in the window before at.
func (tx *Tx) ConversationsBySubject(bare string, at time.Time) ([]thread.BySubject, error) {
	rows, err := all[struct{ ID, LastAt int64 }](tx.db.Raw(`SELECT id, last_at FROM conversations
		WHERE owner = ? AND bare_subject = ? AND last_at BETWEEN ? AND ? ORDER BY last_at DESC LIMIT 20`,
		tx.owner, bare, millis(at.Add(-thread.SubjectWindow)), millis(at)))
	out := make([]thread.BySubject, 0, len(rows))
	for _, r := range rows {
		if err != nil {
			return nil, err
		}
		var persons []string
		persons, err = tx.Persons(r.ID)
		out = append(out, thread.BySubject{ID: r.ID, Last: fromMillis(r.LastAt), Persons: persons})
	}
	return out, err
}

// Persons are the keys of everybody in a conversation besides the owner.
func (tx *Tx) Persons(conversation int64) ([]string, error) {
	return all[string](tx.db.Raw("SELECT person FROM conversation_persons WHERE owner = ? AND conversation_id = ? ORDER BY person", tx.owner, conversation))
}

// AddConversation makes an empty conversation, in no place yet.
func (tx *Tx) AddConversation(bare string) (int64, error) {
	return tx.insertReturning("INSERT INTO conversations (owner, bare_subject) VALUES (?, ?)", tx.owner, bare)
}

// Joined is a letter that joins a conversation.
type Joined struct {
	Conversation int64
	Letter       Letter
	LetterID     int64
	Accounts     []int64
	Persons      []string
	InAt         time.Time
	// Round is when it was let in by a delivery; zero where mail flows.
	Round time.Time
}

// Join brings a conversation's row up to date with a letter that joined it.
// Own letters count, but don't speak for it.
func (tx *Tx) Join(j Joined) error {
	l := j.Letter
	err := tx.exec(`UPDATE conversations SET letters = letters + 1, attachments = attachments + ?1,
		subject = CASE WHEN subject = '' THEN ?2 ELSE subject END,
		last_letter = max(last_letter, ?3), seen = CASE WHEN ?4 AND seen >= last_letter THEN ?3 ELSE seen END
		WHERE owner = ?5 AND id = ?6`, l.attachments(), l.Subject, j.LetterID, l.Own, tx.owner, j.Conversation)
	if err != nil {
		return err
	}
	// The newest letter from somebody else speaks for the conversation; until
	// there is one, the first of my own does.
	err = tx.exec(`UPDATE conversations SET from_name = ?1, from_email = ?2, ask = ?3, asks = ?4, last_at = max(last_at, ?5), round_at = CASE WHEN ?6 THEN round_at ELSE ?7 END,
		queue_at = CASE WHEN ?6 THEN queue_at ELSE ?10 END
		WHERE owner = ?8 AND id = ?9 AND (from_email = '' OR NOT ?6 AND ?5 >= last_at)`,
		l.From.Name, l.From.Email, l.Ask, l.Asks, millis(l.ReceivedAt), l.Own, millis(j.Round), tx.owner, j.Conversation, millis(j.InAt))
	if err != nil {
		return err
	}
	if err := tx.exec("UPDATE conversations SET last_at = max(last_at, ?) WHERE owner = ? AND id = ?", millis(l.ReceivedAt), tx.owner, j.Conversation); err != nil {
		return err
	}
	accounts, persons := tx.bulk(), tx.bulk()
	for _, a := range j.Accounts {
		accounts.add(j.Conversation, a, tx.owner)
	}
	for _, p := range j.Persons {
		persons.add(j.Conversation, p, tx.owner)
	}
	if err := accounts.flush("INSERT INTO conversation_accounts (conversation_id, account_id, owner) VALUES ", " ON CONFLICT DO NOTHING"); err != nil {
		return err
	}
	return persons.flush("INSERT INTO conversation_persons (conversation_id, person, owner) VALUES ", " ON CONFLICT DO NOTHING")
}

// recompute reads the rows of conversations off their letters again, after
// letters have moved between them.
func (tx *Tx) recompute(ids string) error {
	return tx.exec(`UPDATE conversations SET
		letters = (SELECT count(*) FROM letters l WHERE l.conversation_id = conversations.id AND l.in_at IS NOT NULL),
		attachments = (SELECT coalesce(sum(l.attachments), 0) FROM letters l WHERE l.conversation_id = conversations.id AND l.in_at IS NOT NULL),
		last_letter = (SELECT coalesce(max(l.id), 0) FROM letters l WHERE l.conversation_id = conversations.id AND l.in_at IS NOT NULL),
		last_at = (SELECT coalesce(max(l.received_at), 0) FROM letters l WHERE l.conversation_id = conversations.id AND l.in_at IS NOT NULL),
		subject = coalesce((SELECT l.subject FROM letters l WHERE l.conversation_id = conversations.id AND l.in_at IS NOT NULL ORDER BY l.received_at, l.id LIMIT 1), subject),
		(from_name, from_email, ask, asks) = (SELECT l.from_name, l.from_email, l.ask, l.asks FROM letters l
			WHERE l.conversation_id = conversations.id AND l.in_at IS NOT NULL ORDER BY l.own, l.received_at DESC, l.id DESC LIMIT 1)
		WHERE +owner = ?1 AND id IN (SELECT value FROM json_each(?2))
		  AND EXISTS (SELECT 1 FROM letters l WHERE l.conversation_id = conversations.id AND l.in_at IS NOT NULL)`, tx.owner, ids)
}

// Absorb lets a conversation take over the accounts and persons of another,
// of which letters have joined it.
func (tx *Tx) Absorb(into, from int64) error {
	err := tx.exec(`INSERT INTO conversation_accounts SELECT ?1, account_id, owner FROM conversation_accounts
		WHERE conversation_id = ?2 AND owner = ?3 ON CONFLICT DO NOTHING`, into, from, tx.owner)
	if err != nil {
		return err
	}
	return tx.exec(`INSERT INTO conversation_persons SELECT ?1, person, owner FROM conversation_persons
		WHERE conversation_id = ?2 AND owner = ?3 ON CONFLICT DO NOTHING`, into, from, tx.owner)
}

// Follow gives the conversation that an id leads to today.
func (tx *Tx) Follow(id int64) (int64, error) {
	to, err := tx.firstID("SELECT to_id FROM conversation_redirects WHERE owner = ? AND from_id = ?", tx.owner, id)
	if to == 0 {
		return id, err
	}
	return to, err
}

// Meet remembers people the owner has written with.
func (tx *Tx) Meet(people []letter.Address, sent bool, at time.Time) error {
	sentBy, receivedBy := 0, 1
	if sent {
		sentBy, receivedBy = 1, 0
	}
	for _, a := range people {
		err := tx.exec(`INSERT INTO known_people (owner, email, name, sent, received, last_at) VALUES (?1, ?2, ?3, ?4, ?5, ?6)
			ON CONFLICT DO UPDATE SET name = CASE WHEN excluded.name <> '' THEN excluded.name ELSE name END,
			sent = sent + ?4, received = received + ?5, last_at = max(last_at, ?6)`, tx.owner, a.Key(), a.Name, sentBy, receivedBy, millis(at))
		if err != nil {
			return err
		}
	}
	return nil
}
