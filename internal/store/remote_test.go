package store

import (
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"ebbe.example/ebbe/internal/core/change"
	"ebbe.example/ebbe/internal/core/decide"
	"ebbe.example/ebbe/internal/core/remote"
)

// mailServer is an account with a server that has an inbox and a bin.
func mailServer(t *testing.T, tx *Tx) (account, inbox, bin int64) {
	t.Helper()
	accounts, err := tx.Accounts()
	require.NoError(t, err)
	account = accounts[0].ID
	require.NoError(t, tx.SaveRemote(Remote{
		AccountID: account, Person: tx.Who().Person, Login: "ines", Incoming: remote.Server{Host: "imap.n.example", Port: 993, Security: "tls"},
		Outgoing: remote.Server{Host: "smtp.n.example", Port: 465, Security: "tls"}, MadeAt: morning,
	}))
	inbox, err = tx.SaveRemoteFolder(RemoteFolder{AccountID: account, Name: "INBOX", Role: remote.Inbox, Validity: 1 << 31, ModSeq: 1 << 40, Total: 3, Keeps: remote.Seen | remote.Flagged})
	require.NoError(t, err)
	bin, err = tx.SaveRemoteFolder(RemoteFolder{AccountID: account, Name: "Deleted", Role: remote.Bin})
	require.NoError(t, err)
	return account, inbox, bin
}

// What is known of a mail server is kept as it was given, is one inbox's own, and is gone with
// it.
func TestAMailServerIsKept(t *testing.T) {
	s, who := open(t)
	var account int64
	writes(t, s, who, func(tx *Tx) {
		var inbox int64
		account, inbox, _ = mailServer(t, tx)
		r, err := tx.Remote(account)
		require.NoError(t, err)
		assert.Equal(t, []any{"ines", "imap.n.example", 465, morning}, []any{r.Login, r.Incoming.Host, r.Outgoing.Port, r.MadeAt})
		assert.Zero(t, r.SyncedAt)
		r.SyncedAt, r.Paused, r.Trouble = morning.Add(time.Hour), true, "nobody answers"
		require.NoError(t, tx.SaveRemote(r))
		again, err := tx.Remotes()
		require.NoError(t, err)
		assert.Equal(t, []Remote{r}, again)

		folders, err := tx.RemoteFolders(account)
		require.NoError(t, err)
		require.Len(t, folders, 2)
		assert.Equal(t, []any{uint32(1 << 31), uint64(1 << 40), remote.Seen | remote.Flagged}, []any{folders[0].Validity, folders[0].ModSeq, folders[0].Keeps})
		folders[0].Name = "Inbox"
		id, err := tx.SaveRemoteFolder(folders[0])
		require.NoError(t, err)
		assert.Equal(t, inbox, id, "the same one")
		require.NoError(t, tx.SaveRemoteKeyword(account, "kw1", "garden"))
		require.NoError(t, tx.SaveRemoteKeyword(account, "kw1", "orchids"))
		words, err := tx.RemoteKeywords(account)
		require.NoError(t, err)
		assert.Equal(t, map[string]string{"kw1": "orchids"}, words)
	})
	connected, err := s.Connected(t.Context())
	require.NoError(t, err)
	assert.Equal(t, map[int64]Who{account: who}, connected)
	writes(t, s, another(t, s), func(tx *Tx) {
		_, err := tx.Remote(account)
		assert.ErrorIs(t, err, ErrNotFound)
		require.NoError(t, tx.DropRemote(account))
	})
	writes(t, s, who, func(tx *Tx) {
		folders, err := tx.RemoteFolders(account)
		require.NoError(t, err)
		assert.Len(t, folders, 2, "nobody else drops them")
		require.NoError(t, tx.DropRemote(account))
		folders, err = tx.RemoteFolders(account)
		require.NoError(t, err)
		assert.Empty(t, folders)
		_, err = tx.Remote(account)
		assert.ErrorIs(t, err, ErrNotFound)
	})
}

// Copies are found by folder, by UID and by letter; what one folder forgets another keeps.
func TestCopiesOnAServer(t *testing.T) {
	s, who := open(t)
	writes(t, s, who, func(tx *Tx) {
		account, inbox, bin := mailServer(t, tx)
		letters := []int64{sample(t, tx, "letters", who.Inbox)}
		require.NoError(t, tx.exec("UPDATE letters SET identity = 'first', row_key = 1"))
		letters = append(letters, sample(t, tx, "letters", who.Inbox))
		copies := []RemoteCopy{
			{Folder: inbox, UID: 4_000_000_000, Letter: letters[0], Flags: remote.Seen}, {Folder: inbox, UID: 2, Letter: letters[1], Keywords: "a b"}, {Folder: inbox, UID: 3},
			{Folder: bin, UID: 2, Letter: letters[0], Missing: true},
		}
		require.NoError(t, tx.SaveRemoteCopies(copies))
		require.NoError(t, tx.SaveRemoteCopies(nil))
		all, err := tx.RemoteCopies(inbox)
		require.NoError(t, err)
		assert.Equal(t, []RemoteCopy{copies[1], copies[2], copies[0]}, all, "in the order of their UIDs")
		n, err := tx.CountRemoteCopies(inbox)
		require.NoError(t, err)
		assert.Equal(t, 3, n)
		some, err := tx.RemoteCopiesAt(inbox, []uint32{4_000_000_000, 9})
		require.NoError(t, err)
		assert.Equal(t, copies[:1], some)
		of, err := tx.RemoteCopiesOf(account, letters[:1])
		require.NoError(t, err)
		assert.Equal(t, []RemoteCopy{copies[0], copies[3]}, of)

		copies[0].Flags, copies[0].Purged = remote.Flagged, true
		require.NoError(t, tx.SaveRemoteCopies(copies[:1]))
		purged, err := tx.PurgedCopies(account)
		require.NoError(t, err)
		assert.Equal(t, copies[:1], purged)
		here, there, err := tx.RemoteProgress(account)
		require.NoError(t, err)
		assert.Equal(t, []int{4, 4}, []int{here, there})
		require.NoError(t, tx.DropRemoteCopies(inbox, []uint32{2, 3}))
		all, err = tx.RemoteCopies(bin)
		require.NoError(t, err)
		assert.Len(t, all, 1)
		here, there, err = tx.RemoteProgress(account)
		require.NoError(t, err)
		assert.Equal(t, []int{2, 4}, []int{here, there}, "two are to be fetched again")
		require.NoError(t, tx.DropRemoteFolder(bin))
		all, err = tx.RemoteCopies(bin)
		require.NoError(t, err)
		assert.Empty(t, all)
	})
}

// What a server is to be told is noted once, the oldest first; what it refuses waits, and is
// told anew once the conversation changes again.
func TestWhatAServerIsToBeTold(t *testing.T) {
	s, who := open(t)
	writes(t, s, who, func(tx *Tx) {
		account, inbox, _ := mailServer(t, tx)
		there, here := sample(t, tx, "conversations", who.Inbox), sample(t, tx, "conversations", who.Inbox)
		l := sample(t, tx, "letters", who.Inbox)
		require.NoError(t, tx.exec("UPDATE letters SET conversation_id = ? WHERE id = ?", there, l))
		require.NoError(t, tx.SaveRemoteCopies([]RemoteCopy{{Folder: inbox, UID: 1, Letter: l}}))
		move := func(c int64, was, now decide.Place) {
			var changes change.List
			decide.Conversation.Place.Set(&changes, c, was, now)
			tx.step(t, changes)
		}
		move(there, "", decide.Archive)
		move(here, "", decide.Archive)
		last, err := tx.NoteRemoteTasks(account, 0)
		require.NoError(t, err)
		newest, err := tx.LastChangeOfAll()
		require.NoError(t, err)
		assert.Equal(t, newest, last)
		tasks := func(by time.Time) []RemoteTask {
			found, err := tx.RemoteTasks(account, by, 9)
			require.NoError(t, err)
			return found
		}
		require.Len(t, tasks(morning), 1, "the other has no letter there")
		assert.Equal(t, there, tasks(morning)[0].Conversation)
		same, err := tx.NoteRemoteTasks(account, last)
		require.NoError(t, err)
		assert.Equal(t, last, same)

		require.NoError(t, tx.PutOffRemoteTask(tasks(morning)[0].ID, morning.Add(time.Hour), "it has no such folder"))
		assert.Empty(t, tasks(morning))
		failed, err := tx.FailedRemoteTasks(account, 9)
		require.NoError(t, err)
		require.Len(t, failed, 1)
		assert.Equal(t, []any{1, "it has no such folder"}, []any{failed[0].Tries, failed[0].Trouble})
		move(there, decide.Archive, decide.Bin)
		_, err = tx.NoteRemoteTasks(account, last)
		require.NoError(t, err)
		require.Len(t, tasks(morning), 1)
		assert.Equal(t, []any{0, ""}, []any{tasks(morning)[0].Tries, tasks(morning)[0].Trouble})

		require.NoError(t, tx.AddRemoteTask(account, there, 0))
		require.NoError(t, tx.AddRemoteTask(account, 0, l))
		require.NoError(t, tx.AddRemoteTask(account, 0, l))
		require.Len(t, tasks(morning), 2, "each once")
		require.NoError(t, tx.DropRemoteTasks([]int64{tasks(morning)[0].ID, tasks(morning)[1].ID}))
		require.NoError(t, tx.NoteRemoteSeen(here))
		assert.Empty(t, tasks(morning))
		require.NoError(t, tx.NoteRemoteSeen(there))
		assert.Len(t, tasks(morning), 1)

		require.NoError(t, tx.NoteRefusal(account, "it is full", morning.Add(time.Hour)))
		require.NoError(t, tx.NoteRefusal(account, "it is still full", morning.Add(2*time.Hour)))
		failed, err = tx.FailedRemoteTasks(account, 9)
		require.NoError(t, err)
		require.Len(t, failed, 1)
		assert.Equal(t, "it is still full", failed[0].Trouble)
	})
}
