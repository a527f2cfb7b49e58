package store

import (
	"errors"
	"slices"
	"strings"
	"time"

	"gorm.io/gorm"

	"ebbe.example/ebbe/internal/core/change"
	"ebbe.example/ebbe/internal/core/contact"
	"ebbe.example/ebbe/internal/core/kinds"
	"ebbe.example/ebbe/internal/core/letter"
	"ebbe.example/ebbe/internal/core/review"
)

// Contact is what is written down of a correspondent.
type Contact struct {
	ID int64
	contact.Contact
}

// Object names the contact in changes.
func (c Contact) Object() change.Object { return kinds.Contact.Of(c.ID) }

// Contacts lists who is written down, by name.
func (tx *Tx) Contacts() ([]Contact, error) {
	rows, err := gorm.G[contactRow](tx.db).Where("alive").Order("name COLLATE NOCASE, id").Find(tx.ctx())
	if err != nil {
		return nil, err
	}
	return readable(tx, "contact", rows, func(r contactRow) int64 { return r.ID }, func(r contactRow) (Contact, error) {
		c := contact.Contact{Name: r.Name, Emails: r.Emails.V, Phones: r.Phones.V, Org: r.Org, Note: r.Note}
		return Contact{r.ID, c}, errors.Join(r.Emails.Err, r.Phones.Err)
	}), nil
}

// AddContact writes a contact that is not alive yet.
func (tx *Tx) AddContact(c contact.Contact) (int64, error) {
	row := contactRow{Name: c.Name, Emails: keep(c.Emails), Phones: keep(c.Phones), Org: c.Org, Note: c.Note}
	err := gorm.G[contactRow](tx.db).Create(tx.ctx(), &row)
	return row.ID, err
}

// Correspondent is somebody the owner has written with, by one address.
type Correspondent struct {
	KnownPerson
	Sent, Received int
	LastAt         time.Time
}

// Correspondents lists those with whom the owner has written, the latest first.
func (tx *Tx) Correspondents(most int) ([]Correspondent, error) {
	return correspondents(gorm.G[knownPersonRow](tx.db).Where("email NOT IN (?)", gorm.G[ownAddressRow](tx.db).Select("address")).
		Order("last_at DESC, email").Limit(most).Find(tx.ctx()))
}

// CorrespondentsAt gives those that are known of some addresses.
func (tx *Tx) CorrespondentsAt(emails []string) ([]Correspondent, error) {
	return correspondents(gorm.G[knownPersonRow](tx.db).Where("email IN ?", emails).Order("last_at DESC, email").Find(tx.ctx()))
}

func correspondents(rows []knownPersonRow, err error) ([]Correspondent, error) {
	out := make([]Correspondent, len(rows))
	for i, r := range rows {
		out[i] = Correspondent{KnownPerson{Name: r.Name, Email: r.Email}, r.Sent, r.Received, r.LastAt.Time}
	}
	return out, err
}

// LetterWith is a letter from or to somebody, beside the one before it.
type LetterWith struct {
	ID, Conversation int64
	Subject          string
	Attachments      int
	// At is when it was received or sent, Exchange how it follows on another; nil for one that none came
	// before.
	At       time.Time
	Own      bool
	Exchange *review.Exchange
}

// LettersWith are the latest letters from and to some addresses, the newest first; those at the gate are not
// among them.
//
// By hand: from who stands in conversations to their letters, each with the one before it, by indexes in that
// order.
func (tx *Tx) LettersWith(emails []string, most int) ([]LetterWith, error) {
	rows, err := all[struct {
		ID, ConversationID         int64
		Subject, FromEmail         string
		Recipients                 kept[Recipients]
		Attachments                int
		ReceivedAt, BeforeAt       stamp
		Own, Before, BeforeOwn     bool
		Automatic, BeforeAutomatic letter.Automatic
		BeforeFrom                 string
	}](tx.db.Raw(`SELECT l.id, l.conversation_id, l.subject, l.from_email, l.recipients, l.attachments, l.received_at, l.own, l.automatic,
			p.id IS NOT NULL AS before, coalesce(p.received_at, 0) AS before_at, coalesce(p.own, 0) AS before_own, coalesce(p.automatic, '') AS before_automatic, coalesce(p.from_email, '') AS before_from
		FROM (SELECT DISTINCT conversation_id FROM conversation_persons WHERE owner = ?1 AND person IN (SELECT value FROM json_each(?2))) t
			JOIN letters l ON l.conversation_id = t.conversation_id AND (l.own = 1 OR l.in_at IS NOT NULL)
			LEFT JOIN letters p ON p.id = (SELECT q.id FROM letters q WHERE q.conversation_id = l.conversation_id AND (q.received_at, q.id) < (l.received_at, l.id)
				ORDER BY q.received_at DESC, q.id DESC LIMIT 1)
		ORDER BY l.received_at DESC, l.id DESC LIMIT ?3`, tx.who.Inbox, keep(emails), most))
	out := []LetterWith{}
	for _, r := range rows {
		to := slices.Concat(r.Recipients.V.To, r.Recipients.V.Cc)
		theirs := !r.Own && slices.Contains(emails, strings.ToLower(r.FromEmail))
		mine := r.Own && slices.ContainsFunc(to, func(a letter.Address) bool { return slices.Contains(emails, a.Key()) })
		if !theirs && !mine {
			continue
		}
		l := LetterWith{ID: r.ID, Conversation: r.ConversationID, Subject: r.Subject, Attachments: r.Attachments, At: r.ReceivedAt.Time, Own: r.Own}
		if r.Before && (r.BeforeOwn || theirs || slices.Contains(emails, strings.ToLower(r.BeforeFrom))) {
			l.Exchange = &review.Exchange{At: r.ReceivedAt.Time, Wait: r.ReceivedAt.Sub(r.BeforeAt.Time), Own: r.Own, BeforeOwn: r.BeforeOwn, Machine: r.Automatic.Is() || r.BeforeAutomatic.Is()}
		}
		out = append(out, l)
	}
	return out, err
}

// ConversationsOfPeople are the latest conversations in which some addresses stand, the newest first.
func (tx *Tx) ConversationsOfPeople(emails []string, most int) ([]int64, error) {
	with := gorm.G[conversationPersonRow](tx.db).Select("conversation_id").Where("person IN ?", emails)
	return pluck[int64](tx.ctx(), gorm.G[conversationRow](tx.db).Where("id IN (?)", with).Order("last_at DESC, id DESC").Limit(most), "id")
}
