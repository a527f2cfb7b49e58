package store

import (
	"cmp"
	"context"
	"slices"
	"time"

	"gorm.io/gorm"
	"gorm.io/gorm/clause"

	"ebbe.example/ebbe/internal/core/decide"
	"ebbe.example/ebbe/internal/core/kinds"
	"ebbe.example/ebbe/internal/core/remote"
)

// Remote is the mail server of an account.
type Remote struct {
	AccountID int64
	// Person is who connected it.
	Person             int64
	Login              string
	Incoming, Outgoing remote.Server
	Paused             bool
	// Trouble is why it can't be used just now, in words.
	Trouble string
	// KeepsSent tells that it keeps what is sent over it by itself.
	KeepsSent bool
	// SignIn is where the person signs in instead of with a password; "" for nowhere.
	SignIn string
	// Holds lets letters that the gate holds wait in a folder of their own, Purges takes
	// away there what the bin lets go of here.
	Holds, Purges bool
	MadeAt        time.Time
	// SyncedAt is when both sides last agreed; zero for never.
	SyncedAt time.Time
	// ReadTo is the last change of the Journal that was looked at for what the
	// server is to be told.
	ReadTo int64
}

func (r remoteRow) value() (Remote, error) {
	out := Remote{
		AccountID: r.AccountID, Person: r.Person, Login: r.Login, Incoming: r.Incoming.V, Outgoing: r.Outgoing.V, Paused: r.Paused, Trouble: r.Trouble,
		KeepsSent: r.KeepsSent, SignIn: r.SignIn, Holds: r.Holds, Purges: r.Purges, MadeAt: r.MadeAt.Time, SyncedAt: r.SyncedAt.Time, ReadTo: r.ReadTo,
	}
	if r.Incoming.Err != nil {
		return out, r.Incoming.Err
	}
	return out, r.Outgoing.Err
}

// SaveRemote keeps the mail server of an account.
func (tx *Tx) SaveRemote(r Remote) error {
	return gorm.G[remoteRow](tx.db, clause.OnConflict{UpdateAll: true}).Create(tx.ctx(), &remoteRow{
		AccountID: r.AccountID, Person: r.Person, Login: r.Login, Incoming: keep(r.Incoming), Outgoing: keep(r.Outgoing), Paused: r.Paused, Trouble: r.Trouble,
		KeepsSent: r.KeepsSent, SignIn: r.SignIn, Holds: r.Holds, Purges: r.Purges, MadeAt: at(r.MadeAt), SyncedAt: maybeAt(r.SyncedAt), ReadTo: r.ReadTo,
	})
}

// Remote is the mail server of an account.
func (tx *Tx) Remote(account int64) (Remote, error) {
	r, err := gorm.G[remoteRow](tx.db).Where("account_id = ?", account).Take(tx.ctx())
	if err != nil {
		return Remote{}, err
	}
	return r.value()
}

// Remotes are the mail servers of the accounts of the inbox.
func (tx *Tx) Remotes() ([]Remote, error) {
	rows, err := gorm.G[remoteRow](tx.db).Order("account_id").Find(tx.ctx())
	return readable(tx, "mail server", rows, func(r remoteRow) int64 { return r.AccountID }, remoteRow.value), err
}

// Connected lists the accounts that have a mail server, each with whom it is for. A
// system query.
func (s *Store) Connected(ctx context.Context) (map[int64]Who, error) {
	rows, err := gorm.G[remoteRow](everybody(s.reader)).Order("account_id").Find(ctx)
	out := make(map[int64]Who, len(rows))
	for _, r := range rows {
		out[r.AccountID] = Who{Person: r.Person, Inbox: int64(r.Owner)}
	}
	return out, err
}

// DropRemote forgets the mail server of an account, and all that was known of it; the
// letters stay.
func (tx *Tx) DropRemote(account int64) error {
	if _, err := gorm.G[remoteTaskRow](tx.db).Where("account_id = ?", account).Delete(tx.ctx()); err != nil {
		return err
	}
	if _, err := gorm.G[remoteKeywordRow](tx.db).Where("account_id = ?", account).Delete(tx.ctx()); err != nil {
		return err
	}
	if _, err := gorm.G[remoteFolderRow](tx.db).Where("account_id = ?", account).Delete(tx.ctx()); err != nil {
		return err
	}
	_, err := gorm.G[remoteRow](tx.db).Where("account_id = ?", account).Delete(tx.ctx())
	return err
}

// RemoteFolder is a folder of a mail server.
type RemoteFolder struct {
	ID, AccountID int64
	Name          string
	Role          remote.Role
	Label, Phrase string
	// Validity tells whether UIDs mean what they did, ModSeq up to which change the
	// flags of the letters are known.
	Validity uint32
	ModSeq   uint64
	// Arrivals is the first UID that came after the folder was first seen, Total how
	// many letters it has, AllIn that those before have all been taken in.
	Arrivals uint32
	Total    int
	AllIn    bool
	// Keeps are the flags that it keeps for good.
	Keeps remote.Flags
}

// RemoteFolders are the folders of the mail server of an account.
func (tx *Tx) RemoteFolders(account int64) ([]RemoteFolder, error) {
	rows, err := gorm.G[remoteFolderRow](tx.db).Where("account_id = ?", account).Order("id").Find(tx.ctx())
	out := make([]RemoteFolder, len(rows))
	for i, r := range rows {
		out[i] = RemoteFolder{r.ID, r.AccountID, r.Name, r.Role, r.Label, r.Phrase, uint32(r.Validity), uint64(r.ModSeq), uint32(r.Arrivals), r.Total, r.AllIn, remote.Flags(r.Keeps)}
	}
	return out, err
}

// SaveRemoteFolder keeps what is known of a folder and gives its id.
func (tx *Tx) SaveRemoteFolder(f RemoteFolder) (int64, error) {
	row := remoteFolderRow{
		ID: f.ID, AccountID: f.AccountID, Name: f.Name, Role: f.Role, Label: f.Label, Phrase: f.Phrase, Validity: int64(f.Validity), ModSeq: int64(f.ModSeq),
		Arrivals: int64(f.Arrivals), Total: f.Total, AllIn: f.AllIn, Keeps: int(f.Keeps),
	}
	err := gorm.G[remoteFolderRow](tx.db, clause.OnConflict{UpdateAll: true}).Create(tx.ctx(), &row)
	return row.ID, err
}

// DropRemoteFolder forgets a folder that is no longer there, and what was in it.
func (tx *Tx) DropRemoteFolder(id int64) error {
	_, err := gorm.G[remoteFolderRow](tx.db).Where("id = ?", id).Delete(tx.ctx())
	return err
}

// RemoteCopy is a letter in a folder of a mail server, as both sides last agreed on it.
type RemoteCopy struct {
	Folder int64
	UID    uint32
	Letter int64 // 0 for one that is gone here
	Flags  remote.Flags
	// Keywords are those that stand for labels, in order, with spaces between.
	Keywords string
	// Missing tells that it was in no folder when it was last looked for, Purged that
	// it is to be taken away.
	Missing, Purged bool
}

// RemoteCopies are the letters of a folder.
func (tx *Tx) RemoteCopies(folder int64) ([]RemoteCopy, error) {
	rows, err := gorm.G[remoteLetterRow](tx.db).Where("folder_id = ?", folder).Order("uid").Find(tx.ctx())
	return remoteCopies(rows), err
}

// CountRemoteCopies counts the letters of a folder.
func (tx *Tx) CountRemoteCopies(folder int64) (int, error) {
	n, err := gorm.G[remoteLetterRow](tx.db).Where("folder_id = ?", folder).Count(tx.ctx(), "*")
	return int(n), err
}

// RemoteCopiesAt are those of some UIDs.
func (tx *Tx) RemoteCopiesAt(folder int64, uids []uint32) ([]RemoteCopy, error) {
	numbers := make([]int64, len(uids))
	for i, uid := range uids {
		numbers[i] = int64(uid)
	}
	rows, err := gorm.G[remoteLetterRow](tx.db).Where("folder_id = ?", folder).Where(inNumbers("uid", numbers)).Order("uid").Find(tx.ctx())
	return remoteCopies(rows), err
}

// RemoteCopiesOf are the copies of letters in the folders of an account. They are found by
// the letters, however many a folder has.
func (tx *Tx) RemoteCopiesOf(account int64, letters []int64) ([]RemoteCopy, error) {
	rows, err := gorm.G[remoteLetterRow](tx.few()).Where(inNumbers("letter_id", letters)).
		Where("+folder_id IN (SELECT id FROM remote_folders WHERE owner = ? AND account_id = ?)", tx.who.Inbox, account).Find(tx.ctx())
	out := remoteCopies(rows)
	slices.SortFunc(out, func(a, b RemoteCopy) int { return cmp.Or(cmp.Compare(a.Folder, b.Folder), cmp.Compare(a.UID, b.UID)) })
	return out, err
}

// Standing is what of a letter is to be known to compare it with its copies elsewhere.
type Standing struct {
	ID, Conversation int64
	ReceivedAt       time.Time
	Own              bool
	ReadReceipt      string
}

// StandingIn are the letters of conversations.
func (tx *Tx) StandingIn(conversations []int64) ([]Standing, error) {
	rows, err := gorm.G[letterRow](tx.few()).Select("id", "conversation_id", "received_at", "own", "receipt").Where(inNumbers("conversation_id", conversations)).Order("received_at, id").Find(tx.ctx())
	out := make([]Standing, len(rows))
	for i, r := range rows {
		out[i] = Standing{r.ID, int64(r.ConversationID), r.ReceivedAt.Time, r.Own, r.ReadReceipt}
	}
	return out, err
}

func remoteCopies(rows []remoteLetterRow) []RemoteCopy {
	out := make([]RemoteCopy, len(rows))
	for i, r := range rows {
		out[i] = RemoteCopy{r.FolderID, uint32(r.UID), int64(r.LetterID), remote.Flags(r.Flags), r.Keywords, r.Missing, r.Purged}
	}
	return out
}

// SaveRemoteCopies keeps how letters stand on the server.
func (tx *Tx) SaveRemoteCopies(copies []RemoteCopy) error {
	if len(copies) == 0 {
		return nil
	}
	rows := make([]remoteLetterRow, len(copies))
	for i, c := range copies {
		rows[i] = remoteLetterRow{FolderID: c.Folder, UID: int64(c.UID), LetterID: maybeID(c.Letter), Flags: int(c.Flags), Keywords: c.Keywords, Missing: c.Missing, Purged: c.Purged}
	}
	return gorm.G[remoteLetterRow](tx.db, clause.OnConflict{UpdateAll: true}).CreateInBatches(tx.ctx(), &rows, 200)
}

// DropRemoteCopies forgets letters that are no longer in a folder.
func (tx *Tx) DropRemoteCopies(folder int64, uids []uint32) error {
	numbers := make([]int64, len(uids))
	for i, uid := range uids {
		numbers[i] = int64(uid)
	}
	_, err := gorm.G[remoteLetterRow](tx.db).Where("folder_id = ?", folder).Where(inNumbers("uid", numbers)).Delete(tx.ctx())
	return err
}

// HeldCopies are the copies of letters that the gate holds, in folders of a role.
func (tx *Tx) HeldCopies(account int64, role remote.Role) ([]RemoteCopy, error) {
	rows, err := gorm.G[remoteLetterRow](tx.few()).
		Where("letter_id IN (SELECT a.letter_id FROM arrivals a JOIN letters l ON l.id = a.letter_id AND l.in_at IS NULL WHERE a.owner = ? AND a.state = 'held')", tx.who.Inbox).
		Where("+folder_id IN (SELECT id FROM remote_folders WHERE owner = ? AND account_id = ? AND role = ?)", tx.who.Inbox, account, role).
		Order("folder_id, uid").Find(tx.ctx())
	return remoteCopies(rows), err
}

// HeldOf are those of letters that the gate holds.
func (tx *Tx) HeldOf(letters []int64) ([]int64, error) {
	return pluck[int64](tx.ctx(), gorm.G[letterRow](tx.few()).Where(inNumbers("id", letters)).
		Where("in_at IS NULL AND id IN (SELECT letter_id FROM arrivals WHERE owner = ? AND state = 'held')", tx.who.Inbox).Order("id"), "id")
}

// PurgedCopies are the copies that are to be taken away.
func (tx *Tx) PurgedCopies(account int64) ([]RemoteCopy, error) {
	rows, err := gorm.G[remoteLetterRow](tx.db).Where("purged = 1 AND folder_id IN (SELECT id FROM remote_folders WHERE owner = ? AND account_id = ?)", tx.who.Inbox, account).Order("folder_id, uid").Find(tx.ctx())
	return remoteCopies(rows), err
}

// PurgeCopies lets the letters of a conversation that lie in a bin be taken away from the
// servers whose accounts say so.
func (tx *Tx) PurgeCopies(conversation int64) error {
	_, err := gorm.G[remoteLetterRow](tx.few()).Where("letter_id IN (SELECT id FROM letters WHERE owner = ? AND conversation_id = ?)", tx.who.Inbox, conversation).
		Where("folder_id IN (SELECT f.id FROM remote_folders f JOIN remotes r ON r.account_id = f.account_id AND r.purges = 1 WHERE f.owner = ? AND f.role = ?)", tx.who.Inbox, remote.Bin).
		Update(tx.ctx(), "purged", true)
	return err
}

// RemoteKeywords are the labels of an account whose keywords don't tell them.
func (tx *Tx) RemoteKeywords(account int64) (map[string]string, error) {
	rows, err := gorm.G[remoteKeywordRow](tx.db).Where("account_id = ?", account).Find(tx.ctx())
	out := make(map[string]string, len(rows))
	for _, r := range rows {
		out[r.Keyword] = r.Label
	}
	return out, err
}

// SaveRemoteKeyword keeps for which label a keyword stands.
func (tx *Tx) SaveRemoteKeyword(account int64, keyword, label string) error {
	return gorm.G[remoteKeywordRow](tx.db, clause.OnConflict{UpdateAll: true}).Create(tx.ctx(), &remoteKeywordRow{AccountID: account, Keyword: keyword, Label: label})
}

// RemoteProgress is how many letters an account has on its server, and how many of
// them are here.
func (tx *Tx) RemoteProgress(account int64) (here, there int, err error) {
	folders, err := tx.RemoteFolders(account)
	if err != nil {
		return 0, 0, err
	}
	for _, f := range folders {
		n, err := tx.CountRemoteCopies(f.ID)
		if err != nil {
			return 0, 0, err
		}
		here += n
		there += max(f.Total, n)
	}
	return here, there, nil
}

// RemoteTask is what a mail server is still to be told.
type RemoteTask struct {
	ID, AccountID, Conversation int64
	// Letter is one of the person's own that the server is to keep; 0 for how the
	// conversation stands.
	Letter  int64
	Tries   int
	AgainAt time.Time
	Trouble string
}

// AddRemoteTask notes that the server of an account is to be told of a conversation, or
// is to keep a letter.
func (tx *Tx) AddRemoteTask(account, conversation, letter int64) error {
	return gorm.G[remoteTaskRow](tx.db, clause.OnConflict{DoNothing: true}).Create(tx.ctx(), &remoteTaskRow{AccountID: account, ConversationID: conversation, LetterID: letter})
}

// RemoteTasks lists what a server is to be told by a time, the oldest first.
func (tx *Tx) RemoteTasks(account int64, by time.Time, most int) ([]RemoteTask, error) {
	rows, err := gorm.G[remoteTaskRow](tx.db).Where("account_id = ? AND again_at <= ?", account, at(by)).Order("id").Limit(most).Find(tx.ctx())
	return remoteTasks(rows), err
}

// FailedRemoteTasks lists what a server did not do, the oldest first.
func (tx *Tx) FailedRemoteTasks(account int64, most int) ([]RemoteTask, error) {
	rows, err := gorm.G[remoteTaskRow](tx.db).Where("account_id = ? AND trouble <> ''", account).Order("id").Limit(most).Find(tx.ctx())
	return remoteTasks(rows), err
}

func remoteTasks(rows []remoteTaskRow) []RemoteTask {
	out := make([]RemoteTask, len(rows))
	for i, r := range rows {
		out[i] = RemoteTask{r.ID, r.AccountID, r.ConversationID, r.LetterID, r.Tries, r.AgainAt.Time, r.Trouble}
	}
	return out
}

// DropRemoteTasks forgets what the server has been told.
func (tx *Tx) DropRemoteTasks(ids []int64) error {
	_, err := gorm.G[remoteTaskRow](tx.db).Where(inNumbers("id", ids)).Delete(tx.ctx())
	return err
}

// PutOffRemoteTask keeps why a server did not do something, and when it is asked again.
func (tx *Tx) PutOffRemoteTask(id int64, again time.Time, trouble string) error {
	_, err := gorm.G[remoteTaskRow](tx.db).Where("id = ?", id).
		Set(to("tries", gorm.Expr("tries + 1")), to("again_at", at(again)), to("trouble", trouble)).Update(tx.ctx())
	return err
}

// NoteRefusal keeps for a while what a server refused that is no matter of one
// conversation.
func (tx *Tx) NoteRefusal(account int64, words string, until time.Time) error {
	return gorm.G[remoteTaskRow](tx.db, clause.OnConflict{Columns: []clause.Column{{Name: "account_id"}, {Name: "conversation_id"}, {Name: "letter_id"}}, UpdateAll: true}).
		Create(tx.ctx(), &remoteTaskRow{AccountID: account, Tries: 1, AgainAt: at(until), Trouble: words})
}

// LastChangeOfAll is the newest change of the inbox.
//
// By hand: the top of the table's own order.
func (tx *Tx) LastChangeOfAll() (int64, error) {
	return tx.firstID("SELECT id FROM changes WHERE owner = ? ORDER BY id DESC LIMIT 1", tx.who.Inbox)
}

// NoteRemoteTasks notes for the server of an account which conversations have been
// changed since a change of the Journal and have letters there, and gives the last
// change that was looked at.
//
// By hand: from many changes to few conversations, in one statement.
func (tx *Tx) NoteRemoteTasks(account, since int64) (last int64, err error) {
	last, err = tx.LastChangeOfAll()
	if err != nil || last <= since {
		return max(last, since), err
	}
	const there = `EXISTS (SELECT 1 FROM letters l JOIN remote_letters r ON r.letter_id = l.id JOIN remote_folders f ON f.id = r.folder_id AND f.account_id = ?1
		WHERE l.conversation_id = x.conversation)`
	err = tx.exec(`INSERT INTO remote_tasks (owner, account_id, conversation_id) SELECT ?2, ?1, x.conversation FROM (
			SELECT object_id AS conversation FROM changes WHERE owner = ?2 AND id > ?3 AND id <= ?4 AND object = ?5 AND (field IN (?6, ?7) OR field GLOB ?10)
			UNION SELECT l.conversation_id FROM changes c JOIN letters l ON l.id = c.object_id
				WHERE c.owner = ?2 AND c.id > ?3 AND c.id <= ?4 AND c.object = ?8 AND c.field IN (?9, ?11, ?12) AND l.conversation_id IS NOT NULL) x
		WHERE `+there+` ON CONFLICT DO UPDATE SET tries = 0, again_at = 0, trouble = ''`,
		account, tx.who.Inbox, since, last, string(decide.Conversation.Kind), decide.Conversation.Place.Name, decide.Conversation.Star.Name, string(kinds.Letter.Kind), kinds.Letter.Conversation.Name,
		decide.Conversation.Labels.Name+"*", kinds.Letter.ReadReceipt.Name, kinds.Letter.Sort.Name)
	return last, err
}

// NoteRemoteSeen notes for the servers that hold letters of a conversation that the
// person has looked at it.
//
// By hand: from a conversation to the accounts of its letters, in one statement.
func (tx *Tx) NoteRemoteSeen(conversation int64) error {
	return tx.exec(`INSERT INTO remote_tasks (owner, account_id, conversation_id)
		SELECT DISTINCT ?1, f.account_id, l.conversation_id FROM letters l JOIN remote_letters r ON r.letter_id = l.id JOIN remote_folders f ON f.id = r.folder_id
		WHERE l.owner = ?1 AND l.conversation_id = ?2 ON CONFLICT DO UPDATE SET tries = 0, again_at = 0, trouble = ''`, tx.who.Inbox, conversation)
}

// ConversationsWith are the conversations of letters, each once.
func (tx *Tx) ConversationsWith(letters []int64) ([]int64, error) {
	return pluck[int64](tx.ctx(), gorm.G[letterRow](tx.few()).Where(inNumbers("id", letters)).Where("conversation_id IS NOT NULL").Distinct().Order("conversation_id"), "conversation_id")
}

// DraftsSentIn are the drafts of the letters that the person has sent from here in
// conversations.
//
// By hand: from own letters to what was sent and what that was a draft of, by indexes in
// that order.
func (tx *Tx) DraftsSentIn(conversations []int64) ([]Draft, error) {
	ids, err := tx.ids(`SELECT d.number FROM letters o JOIN outbox b ON b.owner = ?1 AND b.message_id = o.message_id JOIN drafts d ON d.owner = ?1 AND d.id = b.draft
		WHERE +o.owner = ?1 AND o.conversation_id IN (SELECT value FROM json_each(?2)) AND +o.own = 1`, tx.who.Inbox, jsonIDs(conversations))
	if err != nil || len(ids) == 0 {
		return nil, err
	}
	return drafts(gorm.G[draftRow](tx.db).Where(inNumbers("number", ids)).Order("number").Find(tx.ctx()))
}

// SeenLetter is the newest letter of a conversation that the person has looked at or decided
// on, and when it was received.
type SeenLetter struct {
	ID int64
	At time.Time
}

// SeenUpTo is up to which letter the person has looked at conversations, or decided on them;
// those of which nothing was are left out.
//
// By hand: of two marks the later one.
func (tx *Tx) SeenUpTo(conversations []int64) (map[int64]SeenLetter, error) {
	rows, err := tx.query(`SELECT c.id, l.id, l.received_at FROM conversations c LEFT JOIN personal_marks m ON m.conversation_id = c.id AND m.person = ?1
		JOIN letters l ON l.id = max(coalesce(m.seen, 0), c.decided) WHERE +c.owner = ?2 AND c.id IN (SELECT value FROM json_each(?3)) AND +l.conversation_id = c.id`,
		tx.who.Person, tx.who.Inbox, jsonIDs(conversations))
	if err != nil {
		return nil, err
	}
	defer rows.Close()
	out := map[int64]SeenLetter{}
	for rows.Next() {
		var conversation, ms int64
		var l SeenLetter
		if err := rows.Scan(&conversation, &l.ID, &ms); err != nil {
			return nil, err
		}
		l.At = fromMillis(ms)
		out[conversation] = l
	}
	return out, rows.Err()
}
