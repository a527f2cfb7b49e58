package app_test

import (
	"crypto/rand"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"ebbe.example/ebbe/internal/app"
	"ebbe.example/ebbe/internal/core/decide"
	"ebbe.example/ebbe/internal/store"
)

func (w *world) accounts() []store.Account {
	w.t.Helper()
	list, err := w.app.Accounts(w.ctx, w.who)
	require.NoError(w.t, err)
	return list
}

func (w *world) edit(id int64, f app.AccountFields) error {
	_, err := w.app.EditAccount(w.ctx, w.who, rand.Text(), id, f)
	return err
}

func TestAccountsAreAddedChangedAndOrdered(t *testing.T) {
	w := newWorld(t)
	made := func(address string) error {
		_, err := w.app.NewAccount(w.ctx, w.who, rand.Text(), address, app.AccountFields{})
		return err
	}
	require.ErrorContains(t, made("no address"), "No account was made")
	require.ErrorContains(t, made("INES@norrholm.example"), "one of your accounts already")
	require.NoError(t, made("ines@choir.example"))
	list := w.accounts()
	require.Len(t, list, 3)
	assert.Equal(t, "Ines", list[2].Name, "it is signed like the first")
	assert.NotEqual(t, list[0].Shape, list[2].Shape, "told apart by shape, not by colour alone")

	first, choir := 0, list[2].ID
	name, none, colour, long := "Ines Holm", " ", "no colour", strings.Repeat("x", 5000)
	require.NoError(t, w.edit(choir, app.AccountFields{Name: &name, Signature: &name, Position: &first}))
	assert.Equal(t, choir, w.accounts()[0].ID)
	require.ErrorContains(t, w.edit(choir, app.AccountFields{Name: &none}), "needs a name")
	require.ErrorContains(t, w.edit(choir, app.AccountFields{Colour: &colour}), "no such colour")
	require.ErrorContains(t, w.edit(choir, app.AccountFields{Signature: &long}), "longer than")
	assert.Equal(t, "Ines Holm", w.accounts()[0].Name, "what was refused changed nothing")
	w.undo()
	assert.Equal(t, choir, w.accounts()[2].ID, "its place, name and signature are undone as one")
	assert.Equal(t, "Ines", w.accounts()[2].Name)
	w.undo()
	assert.Len(t, w.accounts(), 2)
}

func TestAnAccountIsLaidAsideAndItsLettersStay(t *testing.T) {
	w := newWorld(t)
	aside := false
	w.receive(mail{id: "a@b.example", from: "a@b.example", to: "walks@norrholm.example", subject: "Walk"})
	walks, rest := w.accounts()[1], w.accounts()[0]
	page, err := w.app.List(w.ctx, w.who, decide.Inbox, false, rest.ID, "")
	require.NoError(t, err)
	assert.Empty(t, page.Rows, "narrowed to the other account")
	c, err := w.app.Open(w.ctx, w.who, w.row(decide.Inbox).ID)
	require.NoError(t, err)
	assert.Equal(t, walks.Address, c.Answer.From, "an answer leaves from where the letter came")

	require.NoError(t, w.edit(walks.ID, app.AccountFields{Alive: &aside}))
	assert.Len(t, w.accounts(), 1)
	w.row(decide.Inbox)
	c, err = w.app.Open(w.ctx, w.who, w.row(decide.Inbox).ID)
	require.NoError(t, err)
	assert.Equal(t, rest.Address, c.Answer.From)
	require.ErrorContains(t, w.edit(rest.ID, app.AccountFields{Alive: &aside}), "last account")
	w.undo()
	assert.Len(t, w.accounts(), 2)
}
