package app

import (
	"context"

	"ebbe.example/ebbe/internal/store"
)

// TryAgain lets something that is stuck be tried at once.
func (a *App) TryAgain(ctx context.Context, who store.Who, id int64) error {
	err := a.Store.Write(ctx, who, func(tx *store.Tx) error { return tx.RetryStuck(id, a.Now()) })
	a.Wake()
	return err
}
