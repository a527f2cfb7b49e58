package store

import (
	"errors"
	"fmt"
	"slices"
	"strings"
	"time"

	"gorm.io/gorm"
	"gorm.io/gorm/clause"

	"ebbe.example/ebbe/internal/core/findings"
	"ebbe.example/ebbe/internal/core/learning"
	"ebbe.example/ebbe/internal/core/letter"
	"ebbe.example/ebbe/internal/core/sorting"
)

// PartInfo describes a part of a letter in lists; its content is read from
// the original when it is opened.
type PartInfo struct {
	Name   string `json:"name"`
	Type   string `json:"type"`
	Size   int    `json:"size"`
	Inline bool   `json:"inline,omitempty"`
}

// Recipients are who a letter went to.
type Recipients struct {
	To      []letter.Address `json:"to"`
	Cc      []letter.Address `json:"cc,omitempty"`
	ReplyTo []letter.Address `json:"replyTo,omitempty"`
}

// Letter is a stored letter, as lists and conversations show it.
type Letter struct {
	ID           int64
	Conversation int64
	Identity     string
	MessageID    string
	Own          bool
	Automatic    letter.Automatic
	From         letter.Address
	Recipients   Recipients
	Subject      string
	Date         time.Time
	ReceivedAt   time.Time
	InAt         time.Time // zero while held
	Ask          string
	Asks         bool
	Parts        []PartInfo
	HTML         bool
	Damage       string
	Twin         bool
	Report       *letter.Reported
	ReadReceipt  string // "", "asked", "sent" or "declined"
	// BareSubject is what it joins others by, if Joins is set.
	BareSubject string
	Joins       bool
	// ListID and Traits are what it says of its kind. Sort is how it was sorted when it was
	// let in; nothing of one that is held, one's own or imported.
	ListID string
	Traits sorting.Traits
	Sort   sorting.Verdict
	// Words are how many its new text has.
	Words int
	// Due is the day by which something in it is to be done, as 2006-01-02; "" for none.
	Due string
	// Junk says what makes it like what its owner puts into Junk; "" where nothing does.
	Junk string
	// Quietly tells that it was there before, as one of an import was, and did not come.
	Quietly bool
	// Unread are the files in it of which the text could not be read.
	Unread []FileUnread
}

// Files tells whether files are attached to it.
func (l Letter) Files() bool { return l.attachments() > 0 }

// LetterOf is what is kept of a letter, as far as the letter itself says it. One
// without a date has none here.
func LetterOf(l letter.Letter) Letter {
	out := Letter{
		Identity: l.Identity(), MessageID: l.MessageID, Automatic: l.Automatic, From: l.From, Recipients: Recipients{To: l.To, Cc: l.Cc, ReplyTo: l.ReplyTo},
		Subject: l.Subject, Date: l.Date, Parts: partInfos(l.Parts), HTML: l.HTML != "", Damage: l.Damage, Report: l.Report,
		BareSubject: letter.BareSubject(l.Subject), Joins: l.JoinsBySubject(), ListID: l.ListID, Traits: sorting.TraitsOf(l), Words: len(strings.Fields(letter.Unquoted(l.Text))),
	}
	out.Ask, out.Asks = findings.AskOf(l)
	return out
}

// Learns are the facts of the letter from which is learned. Named tells that it speaks to the
// owner by name.
func (l Letter) Learns(named bool) learning.Facts {
	return letterRow{FromEmail: l.From.Email, ListID: l.ListID, Traits: l.Traits, Words: l.Words, Asks: l.Asks, Mentions: named, Attachments: l.attachments(), Joins: l.Joins}.learns()
}

// partInfos describes the parts of a letter.
func partInfos(parts []letter.Part) []PartInfo {
	out := make([]PartInfo, len(parts))
	for i, p := range parts {
		out[i] = PartInfo{Name: p.Name, Type: p.ContentType, Size: p.Size, Inline: p.Inline}
	}
	return out
}

func (l Letter) attachments() int {
	n := 0
	for _, p := range l.Parts {
		if !p.Inline {
			n++
		}
	}
	return n
}

func (r letterRow) letter() (Letter, error) {
	return Letter{
		ID: r.ID, Conversation: int64(r.ConversationID), Identity: r.Identity, MessageID: r.MessageID, Own: r.Own, Automatic: r.Automatic,
		From: letter.Address{Name: r.FromName, Email: r.FromEmail}, Recipients: r.Recipients.V, Subject: r.Subject, Date: r.Date.Time, ReceivedAt: r.ReceivedAt.Time,
		InAt: r.InAt.Time, Ask: r.Ask, Asks: r.Asks, Parts: r.Parts.V, HTML: r.HTML, Damage: r.Damage, Twin: r.Twin, Report: r.Report.V, ReadReceipt: r.ReadReceipt,
		BareSubject: r.BareSubject, Joins: r.Joins, ListID: r.ListID, Traits: r.Traits, Sort: sorting.Verdict{Kind: r.Kind, Why: r.KindWhy, Out: r.SortedOut}, Words: r.Words, Due: r.Due, Junk: r.Junk, Quietly: r.Quietly, Unread: filesUnread(r.FilesRead),
	}, errors.Join(r.Recipients.Err, r.Parts.Err, r.Report.Err)
}

// lettersOf reads a list: a letter of which something can't be read stands in
// it with the rest.
func lettersOf(rows []letterRow) []Letter {
	out := make([]Letter, len(rows))
	for i, r := range rows {
		l, err := r.letter()
		if err != nil {
			l.Damage = strings.TrimSpace(l.Damage + " Part of what is kept of it can’t be read: " + err.Error())
		}
		out[i] = l
	}
	return out
}

// Letters are some letters by their ids, in no order; without those that are not there.
func (tx *Tx) Letters(ids []int64) ([]Letter, error) {
	rows, err := gorm.G[letterRow](tx.few()).Where(inNumbers("id", ids)).Find(tx.ctx())
	return lettersOf(rows), err
}

// Letter is one letter by its id.
func (tx *Tx) Letter(id int64) (Letter, error) {
	r, err := gorm.G[letterRow](tx.db).Where("id = ?", id).Take(tx.ctx())
	if err != nil {
		return Letter{}, err
	}
	return r.letter()
}

// SendersOf gives who wrote those of the letters that were let in.
func (tx *Tx) SendersOf(letters []int64) (map[int64]letter.Address, error) {
	rows, err := gorm.G[letterRow](tx.few()).Select("id, from_name, from_email").Where(inNumbers("id", letters)).Where("in_at IS NOT NULL").Find(tx.ctx())
	out := make(map[int64]letter.Address, len(rows))
	for _, r := range rows {
		out[r.ID] = letter.Address{Name: r.FromName, Email: r.FromEmail}
	}
	return out, err
}

// LettersIn lists the letters of a conversation that were let in, oldest first.
func (tx *Tx) LettersIn(conversation int64) ([]Letter, error) {
	rows, err := gorm.G[letterRow](tx.few()).Where("conversation_id = ? AND in_at IS NOT NULL", conversation).Order("received_at, id").Find(tx.ctx())
	return lettersOf(rows), err
}

// LetterByIdentity finds a letter by what it is known by; 0 if there is none.
//
// By hand: it is asked with every letter that comes.
func (tx *Tx) LetterByIdentity(identity string) (int64, error) {
	return tx.firstID("SELECT id FROM letters WHERE owner = ? AND identity = ?", tx.who.Inbox, identity)
}

// AddLetter stores a letter that belongs to no conversation yet.
//
// By hand: it is called with every letter that comes.
func (tx *Tx) AddLetter(l Letter, refs []string, p Packed) (int64, error) {
	if err := tx.putBlob(p); err != nil {
		return 0, err
	}
	id, err := tx.insertReturning(`INSERT INTO letters (owner, identity, message_id, own, automatic, from_name, from_email, recipients, subject,
		date, received_at, ask, asks, parts, html, attachments, sha, damage, twin, report, receipt, bare_subject, joins, list_id, traits, words, due, junk, quietly, row_key)
		VALUES (?1, ?2, ?3, ?4, ?5, ?6, ?7, ?8, ?9, ?10, ?11, ?12, ?13, ?14, ?15, ?16, ?17, ?18, ?3 <> '' AND EXISTS (SELECT 1 FROM letters WHERE owner = ?1 AND message_id = ?3),
		?, ?, ?, ?, ?, ?, ?, ?, ?, ?,
		(SELECT coalesce(max(row_key), ?) + 1 FROM letters WHERE row_key BETWEEN ? AND ?))`,
		tx.who.Inbox, l.Identity, l.MessageID, l.Own, string(l.Automatic), l.From.Name, l.From.Email, keep(l.Recipients), l.Subject,
		millis(l.Date), millis(l.ReceivedAt), l.Ask, l.Asks, keep(l.Parts), l.HTML, l.attachments(), p.SHA, l.Damage, maybe(l.Report), l.ReadReceipt, l.BareSubject, l.Joins, l.ListID, l.Traits, l.Words, l.Due, l.Junk, l.Quietly,
		rowKey(l.ReceivedAt)-1, rowKey(l.ReceivedAt), rowKey(l.ReceivedAt.Add(time.Second))-1)
	if err != nil {
		return 0, err
	}
	tx.ending.touch(tx.who.Inbox, millis(l.ReceivedAt))
	if !l.Own {
		tx.ending.countLetter(tx.who.Inbox, l.ReceivedAt)
	}
	ids := tx.bulk()
	for _, ref := range refs {
		ids.add(tx.who.Inbox, ref, id)
	}
	return id, ids.flush("INSERT INTO letter_ids (owner, ref, letter_id) VALUES ", " ON CONFLICT DO NOTHING")
}

// rowKey is the lowest full-text row of letters received in that second. Rows
// of the index are numbered by time, so that walking it backwards gives the
// newest finds first without sorting all of them.
func rowKey(t time.Time) int64 { return max(t.Unix(), 0) << 20 }

// Arrival is how a copy of a letter reached us.
type Arrival struct {
	ID         int64
	LetterID   int64
	AccountID  int64
	Source     string
	ReceivedAt time.Time
	Held       bool
	InAt       time.Time
	SHA        []byte
	// ReturnPath is the sender of its envelope, "" for an empty one; nil where
	// that is not known.
	ReturnPath *string
}

// AddArrival keeps an arrival. added is false for one that is known: the same
// bytes from the same source.
//
// By hand: it is called with every letter that comes.
func (tx *Tx) AddArrival(a Arrival, p Packed) (added bool, err error) {
	if err := tx.putBlob(p); err != nil {
		return false, err
	}
	state, inAt := "in", any(millis(a.InAt))
	if a.Held {
		state, inAt = "held", nil
	}
	var account any
	if a.AccountID != 0 {
		account = a.AccountID
	}
	_, err = tx.insertReturning(`INSERT INTO arrivals (owner, letter_id, account_id, source, received_at, state, in_at, sha, return_path)
		VALUES (?, ?, ?, ?, ?, ?, ?, ?, ?) ON CONFLICT DO NOTHING`, tx.who.Inbox, a.LetterID, account, a.Source, millis(a.ReceivedAt), state, inAt, p.SHA, a.ReturnPath)
	if isNoRows(err) {
		return false, nil
	}
	return err == nil, err
}

// LetIn marks a letter as let in and puts it into a conversation. round is the
// delivery that brought it, zero where mail flows; through is what let it
// through a closed gate, in words.
//
// By hand: it is called with every letter that comes.
func (tx *Tx) LetIn(letterID, conversation int64, at, round time.Time, through string, sort Sorted) error {
	received, err := tx.firstID("UPDATE letters SET conversation_id = ?, in_at = ?, round_at = ?, through = ?, kind = ?, kind_why = ?, sorted_out = ?, sorted_in = ? WHERE owner = ? AND id = ? RETURNING received_at",
		conversation, millis(at), millis(round), through, sort.Kind, sort.Why, sort.Out, maybeID(sort.In), tx.who.Inbox, letterID)
	tx.ending.touch(tx.who.Inbox, received)
	return err
}

// LetArrivalsIn marks the held arrivals of a letter as let in.
func (tx *Tx) LetArrivalsIn(letterID int64, at time.Time) error {
	_, err := gorm.G[arrivalRow](tx.few()).Where("letter_id = ? AND state = 'held'", letterID).Set(to("state", "in"), to("in_at", stamp{at})).Update(tx.ctx())
	return err
}

// indexed is what of a letter is put into the full-text index, folded.
type indexed struct {
	owner, letter                                     int64
	subject, sender, recipients, copies, texts, files string
}

// indexedOf folds what is looked for in a letter.
func indexedOf(owner, id int64, l letter.Letter) indexed {
	text, files := l.Searched()
	return indexed{owner, id, letter.Folded(l.Subject), letter.Folded(l.From.Name + " " + l.From.Email), addressed(l.To), addressed(l.Cc, l.Bcc), letter.Folded(text), letter.Folded(files)}
}

// addressed are names and addresses, folded.
func addressed(lists ...[]letter.Address) string {
	var out []string
	for _, list := range lists {
		for _, a := range list {
			out = append(out, a.Name, a.Email)
		}
	}
	return letter.Folded(strings.Join(out, " "))
}

// Index makes a let-in letter findable once the transaction is done.
func (tx *Tx) Index(id int64, l letter.Letter) {
	tx.ending.texts = append(tx.ending.texts, indexedOf(tx.who.Inbox, id, l))
}

// keepIndex puts texts into the index, one after the other and with plain values: any
// other statement between them, and one that selects, would let SQLite write out a
// segment of the index for each letter.
//
// By hand: full text.
func (tx *Tx) keepIndex(texts []indexed) error {
	ids := map[int64][]int64{}
	for _, t := range texts {
		ids[t.owner] = append(ids[t.owner], t.letter)
	}
	keys := make(map[int64]int64, len(texts))
	for owner, list := range ids {
		if err := eachPair(tx, func(id, key int64) { keys[id] = key },
			"SELECT id, row_key FROM letters WHERE +owner = ? AND id IN (SELECT value FROM json_each(?))", owner, jsonIDs(list)); err != nil {
			return err
		}
	}
	for _, t := range texts {
		key, ok := keys[t.letter]
		if !ok {
			continue // it was taken away again
		}
		if err := tx.putIndex(key, t); err != nil {
			return err
		}
	}
	return nil
}

// putIndex puts a letter's texts into the index.
//
// By hand: full text.
func (tx *Tx) putIndex(key int64, t indexed) error {
	return tx.exec("INSERT INTO letters_text (rowid, subject, sender, recipients, copies, body, files) VALUES (?, ?, ?, ?, ?, ?, ?)",
		key, t.subject, t.sender, t.recipients, t.copies, t.texts, t.files)
}

// ReturnPath is the sender of the envelope in which a letter first arrived; nil
// where that is not known.
func (tx *Tx) ReturnPath(letterID int64) (*string, error) {
	first, err := orNone(gorm.G[arrivalRow](tx.few()).Where("letter_id = ? AND return_path IS NOT NULL", letterID).Order("id").Take(tx.ctx()))
	return first.ReturnPath, err
}

// ArrivalAccounts gives the accounts at which a letter arrived.
func (tx *Tx) ArrivalAccounts(letterID int64) ([]int64, error) {
	return pluck[int64](tx.ctx(), gorm.G[arrivalRow](tx.few()).Where("letter_id = ? AND account_id IS NOT NULL", letterID), "DISTINCT account_id")
}

// Held lists letters with held arrivals at some accounts (0 stands for none),
// received up to the given time, in the
// order in which they came.
func (tx *Tx) Held(upTo time.Time, accounts []int64) ([]int64, error) {
	return pluck[int64](tx.ctx(), gorm.G[arrivalRow](tx.db).Where("state = 'held' AND received_at <= ?", at(upTo)).Where(inNumbers("coalesce(account_id, 0)", accounts)).
		Group("letter_id").Order("min(received_at), letter_id"), "letter_id")
}

// toAccounts is the condition that an arrival is to one of some accounts (0
// stands for none), or to any if they are nil.
func toAccounts(accounts []int64) (condition string, args []any) {
	if accounts == nil {
		return "true", nil // GORM takes “1” for an id
	}
	return "coalesce(account_id, 0) IN (SELECT value FROM json_each(?))", []any{jsonIDs(accounts)}
}

// CountHeld counts letters that wait at the gate for some accounts, or for all
// (nil). Another copy of a letter that is in is none.
func (tx *Tx) CountHeld(accounts []int64) (int, error) {
	to, args := toAccounts(accounts)
	came := gorm.G[arrivalRow](tx.db).Select("letter_id").Where("state = 'held'").Where(to, args...)
	n, err := gorm.G[letterRow](tx.few()).Where("in_at IS NULL AND id IN (?)", came).Count(tx.ctx(), "*")
	return int(n), err
}

// HoldsCodes tells whether a letter is held with which one signs in somewhere.
//
// By hand: it goes along the index of what is held.
func (tx *Tx) HoldsCodes() (codes bool, err error) {
	query := fmt.Sprintf("SELECT EXISTS (SELECT 1 FROM letters WHERE owner = ? AND in_at IS NULL AND traits & %d <> 0)", sorting.SignsIn) // as its index says it
	return codes, tx.db.Raw(query, tx.who.Inbox).Scan(&codes).Error
}

// ShareOf is which part of what arrived since then came to some accounts, 0 to
// 1; 1 for all (nil) and where nothing came.
func (tx *Tx) ShareOf(accounts []int64, since time.Time) (share float64, err error) {
	if accounts == nil {
		return 1, nil
	}
	to, args := toAccounts(accounts)
	return share, gorm.G[arrivalRow](tx.db).Where("received_at >= ?", at(since)).Select("coalesce(avg("+to+"), 1)", args...).Scan(tx.ctx(), &share)
}

// OwnLetterByMessageID finds an own letter by its Message-ID; 0 if there is
// none.
//
// By hand: it is asked with every letter that comes.
func (tx *Tx) OwnLetterByMessageID(messageID string) (int64, error) {
	return tx.firstID("SELECT id FROM letters WHERE owner = ? AND message_id = ? AND message_id <> '' AND own = 1 LIMIT 1", tx.who.Inbox, messageID)
}

// AnyOwn tells whether one of some Message-IDs is that of a letter of the owner's.
//
// By hand: it is asked with every letter that comes and refers to others.
func (tx *Tx) AnyOwn(ids []string) (bool, error) {
	own, err := tx.firstID("SELECT l.id FROM json_each(?) j CROSS JOIN letters l ON l.owner = ? AND l.message_id = j.value WHERE l.own = 1 AND l.message_id <> '' LIMIT 1", keep(ids), tx.who.Inbox)
	return own != 0, err
}

// TakenBySomebodyElse tells whether a Message-ID is that of letters which are
// all from somebody else.
func (tx *Tx) TakenBySomebodyElse(messageID string, from letter.Address) (bool, error) {
	if messageID == "" {
		return false, nil
	}
	senders, err := pluck[string](tx.ctx(), gorm.G[letterRow](tx.db).Where("message_id = ?", messageID), "DISTINCT lower(from_email)")
	return len(senders) > 0 && !slices.Contains(senders, from.Key()), err
}

// NoteAccount marks a conversation as having reached an account.
func (tx *Tx) NoteAccount(conversation, account int64) error {
	return gorm.G[conversationAccountRow](tx.db, clause.OnConflict{DoNothing: true}).
		Create(tx.ctx(), &conversationAccountRow{ConversationID: conversation, AccountID: account})
}

// HasArrival tells whether these bytes of a letter have arrived before.
//
// By hand: it is asked with every letter that comes.
func (tx *Tx) HasArrival(letterID int64, sha []byte) bool {
	n, err := tx.firstID("SELECT count(*) FROM arrivals WHERE +owner = ? AND letter_id = ? AND sha = ?", tx.who.Inbox, letterID, sha)
	return err == nil && n > 0
}

// LetterByMessageID finds a letter, whoever wrote it; 0 if there is none that
// was let in.
func (tx *Tx) LetterByMessageID(messageID string) (int64, error) {
	l, err := orNone(gorm.G[letterRow](tx.db).Where("message_id = ? AND message_id <> '' AND in_at IS NOT NULL", messageID).Order("id").Take(tx.ctx()))
	return l.ID, err
}
