package main

import (
	"context"
	"fmt"
	"os"
	"os/exec"
	"path/filepath"
	"strconv"
	"strings"
	"time"

	"ebbe.example/ebbe/internal/app"
	"ebbe.example/ebbe/internal/core/decide"
	"ebbe.example/ebbe/internal/core/remote"
	"ebbe.example/ebbe/internal/dovecot"
	"ebbe.example/ebbe/internal/post"
	"ebbe.example/ebbe/internal/post/imap"
	"ebbe.example/ebbe/internal/store"
	"ebbe.example/ebbe/internal/vault"
)

// maildir lets a user of the server have n letters.
func maildir(server *dovecot.Server, user string, n int) error {
	folder := filepath.Join(server.Folder, user)
	for _, sub := range []string{"cur", "new", "tmp"} {
		if err := os.MkdirAll(filepath.Join(folder, sub), 0o777); err != nil { //nolint:gosec // made-up letters
			return err
		}
	}
	i := 0
	for raw, err := range letters(n) {
		if err != nil {
			return err
		}
		if err := os.WriteFile(filepath.Join(folder, "cur", fmt.Sprintf("%d.bench:2,", began.Unix()+int64(i))), raw, 0o666); err != nil { //nolint:gosec // the same
			return err
		}
		i++
	}
	return exec.Command("chown", "-R", "nobody:nogroup", folder).Run() //nolint:gosec // the same
}

// connect connects the accounts of a database with users of the server.
func (r *run) connect(file string, server *dovecot.Server, users ...string) (*app.App, error) {
	a, err := openAt(r.ctx, file)
	if err != nil {
		return nil, err
	}
	a.Reach = func(ctx context.Context, server post.Server, login post.Login) (post.Mailbox, error) {
		return imap.Dial(ctx, server, login, nil)
	}
	a.Submit = func(post.Server, post.Login) app.Sender { return nil }
	if a.Secrets, err = vault.Open(file, ""); err != nil {
		return nil, err
	}
	at := remote.Server{Host: "127.0.0.1", Port: server.Port, Security: post.Plain}
	accounts, err := a.Accounts(r.ctx, who)
	if err != nil {
		return nil, err
	}
	for i, user := range users {
		if i >= len(accounts) {
			_, err := a.NewAccount(r.ctx, who, "bench account "+user, user+"@norrholm.example", app.AccountFields{})
			if err != nil {
				return nil, err
			}
			if accounts, err = a.Accounts(r.ctx, who); err != nil {
				return nil, err
			}
		}
		_, err := a.Connect(r.ctx, who, "bench connect "+user, app.Connecting{Account: accounts[i].ID, Login: user, Password: dovecot.Password, Incoming: at, Outgoing: at})
		if err != nil {
			return nil, err
		}
	}
	a.StopSyncing()
	return a, nil
}

// syncing measures the first sync against an import of the same letters, what is done
// elsewhere with many, and what an Ebbe holds and spends that is only kept alike.
func (r *run) syncing() error {
	server, err := dovecot.Start(r.ctx)
	if err != nil {
		return err
	}
	defer server.Stop() //nolint:errcheck // it ends with us
	if err := r.firstSync(server, r.letters/5); err != nil {
		return err
	}
	if err := r.syncedAndAtRest(server, r.letters); err != nil {
		return err
	}
	return r.idle(server, 10)
}

const flagged = 10_000

func (r *run) firstSync(server *dovecot.Server, n int) error {
	source := filepath.Join(r.folder, "sync.mbox")
	if err := mbox(source, n, 0); err != nil {
		return err
	}
	if err := maildir(server, "first", n); err != nil {
		return err
	}
	imported, err := r.importInto(filepath.Join(r.folder, "sync-import.db"), source, n)
	if err != nil {
		return err
	}
	a, err := r.connect(filepath.Join(r.folder, "sync.db"), server, "first")
	if err != nil {
		return err
	}
	defer a.Store.Close()
	took, err := timed(func() error { return a.SyncOnce(r.ctx, who, 1) })
	if err != nil {
		return err
	}
	rate := float64(n) / took.Seconds()
	r.add(fmt.Sprintf("first sync of %d letters", n), fmt.Sprintf("%.0f a second, %.2f of the import", rate, rate/imported), fmt.Sprintf("%.0f a second: import of the same", imported), "at least 0.7 of the import")

	box, err := a.Reach(r.ctx, post.Server{Host: "127.0.0.1", Port: server.Port, Security: post.Plain}, post.Login{User: "first", Password: dovecot.Password})
	if err != nil {
		return err
	}
	defer box.Close()
	if _, err := box.Open("INBOX"); err != nil {
		return err
	}
	uids, err := box.UIDs()
	if err != nil {
		return err
	}
	if err := box.Flag(uids[:min(flagged, len(uids))], []string{`\Flagged`}, nil); err != nil {
		return err
	}
	listed, err := timed(func() error {
		_, err := box.Standings(1)
		return err
	})
	if err != nil {
		return err
	}
	taken, err := timed(func() error { return a.SyncOnce(r.ctx, who, 1) })
	if err != nil {
		return err
	}
	r.add(fmt.Sprintf("%d flags changed elsewhere", flagged), ms(taken), ms(listed)+": the server lists them", "2 s")
	all, err := a.Everything(r.ctx, who, decide.Inbox, 0)
	if err != nil {
		return err
	}
	if _, err := a.Decide(r.ctx, who, app.Deciding{Command: "bench done", Kind: decide.Done, On: all[:min(flagged, len(all))]}); err != nil {
		return err
	}
	told, err := timed(func() error { return a.SyncOnce(r.ctx, who, 1) })
	r.add(fmt.Sprintf("%d decisions told", min(flagged, len(all))), ms(told), "", "")
	return err
}

func timed(fn func() error) (time.Duration, error) {
	began := time.Now()
	err := fn()
	return time.Since(began), err
}

// syncedAndAtRest lets the program itself sync many letters, and measures its memory on the
// way and when it has nothing to do.
func (r *run) syncedAndAtRest(server *dovecot.Server, n int) error {
	if err := maildir(server, "many", n); err != nil {
		return err
	}
	file := filepath.Join(r.folder, "many.db")
	a, err := r.connect(file, server, "many")
	if err != nil {
		return err
	}
	defer a.Store.Close()
	ebbe, err := start(file, "127.0.0.1:8677", "127.0.0.1:8678")
	if err != nil {
		return err
	}
	defer func() { _ = ebbe.Process.Kill(); _ = ebbe.Wait() }()
	began, most := time.Now(), 0
	for {
		most = max(most, residentMB(ebbe.Process.Pid))
		here := 0
		err := a.Store.Read(r.ctx, who, func(tx *store.Tx) (err error) {
			here, _, err = tx.RemoteProgress(1)
			return err
		})
		if err != nil {
			return err
		}
		if here >= n {
			break
		}
		if time.Since(began) > 10*time.Minute {
			return fmt.Errorf("only %d of %d letters came", here, n)
		}
		time.Sleep(200 * time.Millisecond)
	}
	synced := time.Since(began)
	time.Sleep(time.Minute) // it comes to rest
	r.add(fmt.Sprintf("%d letters synced", n), fmt.Sprintf("%.0f s; %d MB at most, %d MB at rest", synced.Seconds(), most, residentMB(ebbe.Process.Pid)), "", "under 120 MB at rest")
	return nil
}

// idle measures what accounts cost in which nothing happens.
func (r *run) idle(server *dovecot.Server, accounts int) error {
	users := make([]string, accounts)
	for i := range users {
		users[i] = fmt.Sprint("idle", i)
		if err := maildir(server, users[i], 1000); err != nil {
			return err
		}
	}
	file := filepath.Join(r.folder, "idle.db")
	a, err := r.connect(file, server, users...)
	if err != nil {
		return err
	}
	defer a.Store.Close()
	list, err := a.Accounts(r.ctx, who)
	if err != nil {
		return err
	}
	for _, account := range list {
		if err := a.SyncOnce(r.ctx, who, account.ID); err != nil {
			return err
		}
	}
	ebbe, err := start(file, "127.0.0.1:8679", "127.0.0.1:8680")
	if err != nil {
		return err
	}
	defer func() { _ = ebbe.Process.Kill(); _ = ebbe.Wait() }()
	time.Sleep(20 * time.Second) // all are signed in
	const while = 3 * time.Minute
	before := spent(ebbe.Process.Pid)
	time.Sleep(while)
	part := (spent(ebbe.Process.Pid) - before).Seconds() / while.Seconds()
	r.add(fmt.Sprintf("%d accounts in which nothing happens", accounts), fmt.Sprintf("%.2f %% of a core", 100*part), "", "under 1 %")
	return nil
}

// spent is the processor time of a process (proc(5): utime and stime, in ticks of 10 ms).
func spent(pid int) time.Duration {
	text, _ := os.ReadFile(fmt.Sprintf("/proc/%d/stat", pid))
	_, rest, _ := strings.Cut(string(text), ") ")
	fields := strings.Fields(rest)
	if len(fields) < 13 {
		return 0
	}
	ticks := 0
	for _, f := range fields[11:13] {
		n, _ := strconv.Atoi(f)
		ticks += n
	}
	return time.Duration(ticks) * 10 * time.Millisecond
}
