package app

import (
	"context"
	"errors"

	"ebbe.example/ebbe/internal/post"
	"ebbe.example/ebbe/internal/store"
)

// senderOf is by whom letters of an account leave: its own mail server, or the one of
// this Ebbe.
func (a *App) senderOf(ctx context.Context, who store.Who, account int64) (Sender, error) {
	r, err := read(ctx, a, who, func(tx *store.Tx) (store.Remote, error) { return tx.Remote(account) })
	if errors.Is(err, store.ErrNotFound) || a.Submit == nil {
		return a.Sender, nil
	}
	if err != nil {
		return nil, err
	}
	login, err := a.login(ctx, r, false)
	if err != nil {
		return nil, err
	}
	return a.Submit(post.Server(r.Outgoing), login), nil
}

// keepThere lets the mail server of an account keep a letter that has left over it.
func (s *step) keepThere(o store.Outgoing, letter int64) error {
	_, err := s.Remote(o.AccountID)
	if errors.Is(err, store.ErrNotFound) {
		return nil
	}
	if err != nil {
		return err
	}
	return s.AddRemoteTask(o.AccountID, o.Conversation, letter)
}
