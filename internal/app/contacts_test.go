package app_test

import (
	"crypto/rand"
	"fmt"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"ebbe.example/ebbe/internal/app"
	"ebbe.example/ebbe/internal/core/contact"
	"ebbe.example/ebbe/internal/core/decide"
	"ebbe.example/ebbe/internal/show"
)

func (w *world) correspondent(address string) show.CorrespondentView {
	w.t.Helper()
	out, err := w.app.Correspondent(w.ctx, w.who, address)
	require.NoError(w.t, err)
	return out
}

func (w *world) writeDown(id int64, c contact.Contact) app.WroteContact {
	w.t.Helper()
	out, err := w.app.WriteContact(w.ctx, w.who, rand.Text(), id, c)
	require.NoError(w.t, err)
	return out
}

// known are those one writes with, each with how many letters.
func (w *world) known(near string) (out []string) {
	w.t.Helper()
	list, err := w.app.Correspondents(w.ctx, w.who, near)
	require.NoError(w.t, err)
	for _, r := range list.Rows {
		out = append(out, fmt.Sprintf("%s, %s, %d", r.Name, r.Says, r.Letters))
	}
	return out
}

// Both ways' letters, what waits, how long answers took: of all addresses that are written down for somebody,
// and nothing of what the gate still holds.
func TestAllThatIsKnownOfSomebody(t *testing.T) {
	w := newWorld(t)
	w.receive(bramAsks)
	w.pass(2 * time.Hour)
	row := w.titled(decide.Inbox, "Crates")
	w.send(&row, nil)
	w.pass(time.Minute)
	w.pass(time.Hour)
	w.receive(mail{id: "home@freight.example", from: "Bram at home <Bram@Home.example>", subject: "From home"})
	w.receive(mail{id: "oda@school.example", from: "Oda <oda@school.example>", subject: "Class 4", extra: "Cc: bram@freight.example\r\n"})
	w.receive(mail{id: "late@freight.example", from: "Bram <bram@freight.example>", subject: "Dated ahead", extra: "X-A: b\r\n"})

	p := w.correspondent("bram@freight.example")
	assert.Equal(t, "Bram", p.Name)
	assert.Equal(t, "2 h 01, of 1 answer", p.Mine)
	assert.Empty(t, p.Theirs)
	subjects := func(p show.CorrespondentView) (out []string) {
		for _, l := range p.Letters {
			out = append(out, fmt.Sprint(l.Subject, l.Own))
		}
		return out
	}
	assert.ElementsMatch(t, []string{"Cratesfalse", "Re: Cratestrue", "Dated aheadfalse"}, subjects(p), "Oda’s letter is not his, though he got a copy")
	var open []string
	for _, x := range p.Waits {
		open = append(open, x.Kind+" "+x.Title)
	}
	assert.ElementsMatch(t, []string{"undecided Dated ahead", "undecided Class 4"}, open)

	w.writeDown(0, contact.Contact{Name: "Bram Oosterhuis", Emails: []string{"bram@freight.example", "bram@home.example"}, Org: "Freight"})
	p = w.correspondent("BRAM@home.example")
	assert.Equal(t, "Bram Oosterhuis", p.Name)
	assert.Len(t, p.Addresses, 2)
	assert.ElementsMatch(t, []string{"Cratesfalse", "Re: Cratestrue", "Dated aheadfalse", "From homefalse"}, subjects(p))
	assert.Equal(t, []string{"Bram Oosterhuis, bram@freight.example · Freight, 4"}, w.known("oost frei"), "he is one")

	_, err := w.app.Hold(w.ctx, w.who, rand.Text(), app.Holding{})
	require.NoError(t, err)
	w.receive(mail{id: "held@freight.example", from: "Bram <bram@freight.example>", subject: "Held"})
	assert.NotContains(t, subjects(w.correspondent("bram@freight.example")), "Heldfalse")

	nobody := w.correspondent("nobody@x.example")
	assert.Empty(t, nobody.Letters)
	assert.True(t, w.correspondent("ines@norrholm.example").You)
	w.sound()
}

// A file brings whom it names; who was there keeps what stood there; all of it is one step, and undone.
func TestVCardsComeInAndGoOut(t *testing.T) {
	w := newWorld(t)
	bram := w.writeDown(0, contact.Contact{Name: "Bram", Emails: []string{"bram@freight.example"}, Note: "mornings"})
	before, err := w.app.ContactsFile(w.ctx, w.who, 0)
	require.NoError(t, err)
	took, err := w.app.TakeContacts(w.ctx, w.who, rand.Text(), []byte("BEGIN:VCARD\nVERSION:3.0\nFN:Bram Oosterhuis\nEMAIL:bram@freight.example\nTEL:1\nEND:VCARD\n"+
		"BEGIN:VCARD\nFN:Oda\nEMAIL:oda@school.example\nEND:VCARD\nBEGIN:VCARD\nNOTE:x\nEND:VCARD\n"))
	require.NoError(t, err)
	assert.Equal(t, []int{1, 1, 1}, []int{took.Added, took.Joined, len(took.Unread)})
	file, err := w.app.ContactsFile(w.ctx, w.who, bram.ID)
	require.NoError(t, err)
	assert.Equal(t, "BEGIN:VCARD\r\nVERSION:4.0\r\nEMAIL:bram@freight.example\r\nFN:Bram\r\nNOTE:mornings\r\nTEL:1\r\nEND:VCARD\r\n", file)
	again, err := w.app.TakeContacts(w.ctx, w.who, rand.Text(), []byte(file))
	require.NoError(t, err)
	assert.Equal(t, []int{0, 0}, []int{again.Added, again.Joined}, "what is there already changes nothing")
	w.undo()
	after, err := w.app.ContactsFile(w.ctx, w.who, 0)
	require.NoError(t, err)
	assert.Equal(t, before, after)

	for _, wrong := range []contact.Contact{{}, {Name: "x", Emails: []string{"x"}}, {Name: "Twice", Emails: []string{"bram@freight.example"}}} {
		_, err := w.app.WriteContact(w.ctx, w.who, rand.Text(), 0, wrong)
		assert.Error(t, err)
	}
	_, err = w.app.TakeContacts(w.ctx, w.who, rand.Text(), []byte(strings.Repeat("no card\n", 10)))
	require.Error(t, err)
	_, err = w.app.DropContact(w.ctx, w.who, rand.Text(), bram.ID)
	require.NoError(t, err)
	_, err = w.app.DropContact(w.ctx, w.who, rand.Text(), bram.ID)
	require.Error(t, err)
}
