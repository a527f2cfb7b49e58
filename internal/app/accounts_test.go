package app_test

import (
	"crypto/rand"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"ebbe.example/ebbe/internal/app"
	"ebbe.example/ebbe/internal/core/decide"
	"ebbe.example/ebbe/internal/core/letter"
	"ebbe.example/ebbe/internal/show"
)

func (w *world) accounts() []show.AccountView {
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

// An account has several signatures and addresses to send as; answers go from the one that was
// written to.
func TestSignaturesAndAddressesToSendAs(t *testing.T) {
	w := newWorld(t)
	id := w.accounts()[0].ID
	require.NoError(t, w.edit(id, app.AccountFields{More: &[]letter.Signature{{Name: "Short", Text: "I.\n"}}, SendAs: &[]string{"Programme office <programme@norrholm.example>"}}))
	got := w.accounts()[0]
	assert.Equal(t, []letter.Signature{{Name: "Short", Text: "I.", Block: letter.SignatureBlock("I.")}}, got.More)
	for _, bad := range []app.AccountFields{
		{More: &[]letter.Signature{{Name: "a"}, {Name: "A"}}}, {More: &[]letter.Signature{{Name: " "}}},
		{SendAs: &[]string{"nobody"}}, {SendAs: &[]string{"walks@norrholm.example"}}, {SendAs: &[]string{"INES@norrholm.example"}},
	} {
		assert.Error(t, w.edit(id, bad))
	}
	w.receive(mail{id: "p@school.example", from: "Oda <oda@school.example>", to: "ines@norrholm.example, programme@norrholm.example", subject: "To both"})
	w.receive(mail{id: "q@school.example", from: "Oda <oda@school.example>", to: "programme@norrholm.example", subject: "To the office"})
	row := w.titled(decide.Inbox, "To the office")
	assert.Equal(t, "programme@norrholm.example", w.open(row.ID).Answer.From)
	w.send(&row, func(s *app.Sending) { s.From = "programme@norrholm.example" })
	l := w.left()
	assert.Equal(t, letter.Address{Name: "Programme office", Email: "programme@norrholm.example"}, l.From)
	w.undo()
	w.undo()
	assert.Empty(t, w.accounts()[0].SendAs)
}

// While an account is away whoever writes to it is told so, once a week, and machines are not.
func TestAwayFromAnAccount(t *testing.T) {
	w := newWorld(t)
	id := w.accounts()[0].ID
	away := func(a app.Absence) error {
		_, err := w.app.SetAbsence(w.ctx, w.who, rand.Text(), id, a)
		return err
	}
	for _, bad := range []app.Absence{{Back: "30 nov"}, {Back: "yesterday", Text: "x"}, {Text: "x"}, {Back: "30 nov", Text: "{other contact}"}} {
		assert.Error(t, away(bad))
	}
	require.NoError(t, away(app.Absence{Back: "30 nov", Text: "Back on {back}; ask {other contact}.", Contact: "Tove"}))
	assert.True(t, w.accounts()[0].Away.On)
	w.receive(bramAsks)
	l := w.left()
	assert.Equal(t, "Back on Monday 30 November; ask Tove.", strings.TrimSpace(l.Text))
	assert.Equal(t, "Auto: Crates", l.Subject)
	assert.Len(t, w.open(w.row(decide.Inbox).ID).LetterList, 1, "it is no part of the conversation")
	w.receive(bramAnswers)
	w.receive(mail{id: "four@list.example", from: "List <list@list.example>", subject: "Swap", extra: "List-Id: <seeds.list.example>\r\n"})
	w.receive(mail{id: "w@school.example", from: "Oda <oda@school.example>", to: "walks@norrholm.example", subject: "Walk"})
	w.pass(time.Hour)
	assert.Len(t, w.post.sent, 1)
	w.undo()
	assert.False(t, w.accounts()[0].Away.On)
	require.NoError(t, away(app.Absence{Back: "30 nov", Text: "Away."}))
	w.pass(7 * 24 * time.Hour)
	assert.False(t, w.accounts()[0].Away.Set, "it ends by itself")
	w.receive(mail{id: "late@new.example", from: "New <new@new.example>", subject: "Late"})
	w.pass(time.Hour)
	assert.Len(t, w.post.sent, 1)
}
