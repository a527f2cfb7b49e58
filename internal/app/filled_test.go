package app_test

import (
	"bytes"
	"context"
	"crypto/rand"
	"flag"
	"os"
	"path/filepath"
	"testing"
	"time"

	"github.com/klauspost/compress/zstd"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"ebbe.example/ebbe/internal/app"
	"ebbe.example/ebbe/internal/core/contact"
	"ebbe.example/ebbe/internal/core/decide"
	"ebbe.example/ebbe/internal/core/delivery"
	"ebbe.example/ebbe/internal/core/followup"
	"ebbe.example/ebbe/internal/core/letter"
	"ebbe.example/ebbe/internal/core/routine"
	"ebbe.example/ebbe/internal/core/sitting"
	"ebbe.example/ebbe/internal/core/sorting"
	"ebbe.example/ebbe/internal/filled"
	"ebbe.example/ebbe/internal/folder"
	"ebbe.example/ebbe/internal/show"
	"ebbe.example/ebbe/internal/store"
)

// fill names a new database, to keep how today's Ebbe leaves one:
// go test ./internal/app -run Filled -fill 0003-name
var fill = flag.String("fill", "", "keep the filled database under this name")

// fillWorld does a little of everything, so that every table has rows.
func fillWorld(w *world) {
	w.receive(mail{id: "none@prize.example", from: "Prize <prize@prize.example>", subject: "Long gone"})
	w.decide(decide.ToBin, w.titled(decide.Inbox, "Long gone"))
	w.pass(31 * 24 * time.Hour) // the bin has let it go
	w.upload("a-draft-with-a-file", "plan.pdf", "application/pdf", random(100))
	later := func(phrase string) func(*app.Deciding) { return until(phrase) }
	for _, m := range []mail{
		bramAsks,
		{id: "two@glazing.example", from: "Maren <maren@glazing.example>", subject: "Quote", text: "Could you accept it before Friday?"},
		{id: "three@school.example", from: "Oda <oda@school.example>", subject: "Class 4", text: "May we come on the 8th?"},
		{id: "four@list.example", from: "List <list@list.example>", subject: "[seeds] Swap", extra: "List-Id: <seeds.list.example>\r\n"},
		{id: "five@school.example", from: "Oda <oda@school.example>", subject: "Other", answers: "missing@school.example"},
		{id: "six@school.example", from: "Oda <oda@school.example>", subject: "Another", answers: "missing@school.example"},
		{id: "seven@audit.example", from: "Anton <anton@audit.example>", subject: "Invoice", to: "walks@norrholm.example"},
		{id: "eight@prize.example", from: "Prize <prize@prize.example>", subject: "You won"},
	} {
		w.receive(m)
	}
	rows := map[string]show.Row{}
	for _, r := range append(w.rows(decide.Inbox), w.rows(decide.Shallows)...) {
		rows[r.Title] = r
	}
	w.send(ref(rows["Crates"]), func(s *app.Sending) { s.Wait = "2d" })
	w.send(nil, func(s *app.Sending) { rota(s); s.Later = "fri 9:00" })
	w.template("Thanks", "", "Thank you, {first name}.", w.upload(rand.Text(), "terms.pdf", "application/pdf", random(50)).ID)
	_, err := w.app.NewGroup(w.ctx, w.who, rand.Text(), app.GroupFields{Name: ref("Guides"), Members: ref("tove@norrholm.example")})
	require.NoError(w.t, err)
	w.annotate(rows["Quote"].ID, app.Notes{Note: ref("Ask Tove."), Title: ref("Class 4, again"), Files: []string{w.upload(rand.Text(), "sketch.png", "image/png", random(50)).ID}})
	require.NoError(w.t, w.edit(w.accounts()[1].ID, app.AccountFields{More: &[]letter.Signature{{Name: "Short", Text: "I."}}, SendAs: &[]string{"guides@norrholm.example"}}))
	_, err = w.app.SetAbsence(w.ctx, w.who, rand.Text(), w.accounts()[1].ID, app.Absence{From: "1 dec", Back: "7 dec", Text: "Away."})
	require.NoError(w.t, err)
	_, err = w.app.BeginSitting(w.ctx, w.who, app.SittingDown{Command: rand.Text(), Heap: sitting.Heap{Place: decide.Inbox}, Minutes: 15})
	require.NoError(w.t, err)
	_, err = w.makeRoutine("Loan papers", "8", filing...)
	require.NoError(w.t, err)
	w.makeRule("Crates", from("bram@freight.example"), []routine.Step{{Do: routine.Label, Text: "crates"}, {Do: routine.FollowUp, When: "fri"}}, func(f *app.RuleFields) { f.Until = ref("31 dec") })
	_, err = w.app.DeclineRule(w.ctx, w.who, rand.Text(), "from:oda@school.example:done:")
	require.NoError(w.t, err)
	_, err = w.app.NewSpot(w.ctx, w.who, rand.Text(), "the orangery")
	require.NoError(w.t, err)
	stage := "Drafting"
	_, err = w.app.NewStage(w.ctx, w.who, rand.Text(), app.StageFields{Name: &stage})
	require.NoError(w.t, err)
	_, err = w.app.KeepFilter(w.ctx, w.who, rand.Text(), "Urgent ones", followup.ByDue, followup.Filter{Priority: []followup.Priority{followup.Urgent}})
	require.NoError(w.t, err)
	_, err = w.app.NewAppointment(w.ctx, w.who, rand.Text(), app.AppointmentFields{Title: ref("Site meeting"), When: ref("fri 10 to 11"), Attendees: &[]string{"bram@freight.example"}}, 0)
	require.NoError(w.t, err)
	_, err = w.app.NewAppointment(w.ctx, w.who, rand.Text(), app.AppointmentFields{Title: ref("Rota"), When: ref("mon 9 to 9:30"), Recurs: ref("every week")}, 0)
	require.NoError(w.t, err)
	_, err = w.app.ImportTasks(w.ctx, w.who, rand.Text(), "BEGIN:VCALENDAR\r\nVERSION:2.0\r\nPRODID:x\r\nBEGIN:VTODO\r\nUID:t1\r\nDTSTAMP:20261124T080000Z\r\nSUMMARY:Read it\r\nATTACH:mid:not-here@x.example\r\nEND:VTODO\r\nEND:VCALENDAR\r\n")
	require.NoError(w.t, err)
	_, err = w.app.Capture(w.ctx, w.who, rand.Text(), "Water the ferns, every fri, for House 2, stage drafting, remind 1 day before at 10")
	require.NoError(w.t, err)
	w.decide(decide.PutOff, rows["Quote"], later("mon 10:00 or when I am at the orangery"))
	w.decide(decide.PutOff, rows["Invoice"], later("in 2 hours"))
	due, remind, title := "fri 14:00", "fri 10:00", "Answer Oda"
	w.decide(decide.FollowUp, rows["Class 4"], func(d *app.Deciding) {
		d.FollowUp = &app.FollowUpFields{Title: &title, Due: &due, Remind: &[]string{remind}}
	})
	_, err = w.app.Sort(w.ctx, w.who, app.Sorting{Command: rand.Text(), Kind: sorting.Person, Scope: sorting.ByList, On: []store.Seen{seen(rows["[seeds] Swap"])}})
	require.NoError(w.t, err)
	_, err = w.app.Refuse(w.ctx, w.who, app.Refusing{Command: rand.Text(), Kind: sorting.TurnedAway, Scope: sorting.ByAddress, On: []store.Seen{seen(rows["You won"])}})
	require.NoError(w.t, err)
	w.receive(mail{id: "nine@prize.example", from: "Prize <prize@prize.example>", subject: "You won again"})
	w.decide(decide.File, rows["[seeds] Swap"], func(d *app.Deciding) { d.Labels = []string{"seeds"} })
	w.decide(decide.ToBin, rows["You won"])
	w.pass(time.Minute) // the answer leaves
	_, err = w.app.SaveDraft(w.ctx, w.who, rand.Text(), 0, show.Writing{Kind: "new", From: "ines@norrholm.example", To: []string{}, Subject: "Half", Text: "writt"})
	require.NoError(w.t, err)
	w.plan("daily quiet 21-6\nreading: daily 9")
	w.receive(mail{id: "swap@seeds.example", from: "Seeds <other@seeds.example>", subject: "Another list", extra: byList})
	w.setJunk(true)
	w.through(app.ThroughFields{Kind: delivery.ByWords, Value: "frost alarm", Until: "18 dec"})
	_, err = w.app.Hold(w.ctx, w.who, rand.Text(), app.Holding{Until: "in 1 hour"})
	require.NoError(w.t, err)
	w.receive(mail{id: "nine@freight.example", from: "Bram <bram@freight.example>", subject: "Held"})
	w.receive(mail{id: "missing@school.example", from: "Oda <oda@school.example>", subject: "The parent"})
	w.receive(mail{id: "links@school.example", from: "Oda <oda@school.example>", subject: "Both", extra: "References: <five@school.example> <one@freight.example>\r\n"})
	w.pass(time.Hour) // let in; the late parent joins two
	w.undo()
	w.pass(2 * time.Hour)
	w.importFile(mboxOf(w.t, mail{id: "old@freight.example", from: "Bram <bram@freight.example>", subject: "Old"}.bytes(start.AddDate(0, -2, 0)), []byte("no header\n")), nil)
	w.decide(decide.PutOff, w.titled(decide.Inbox, "Held"), later("2d if nobody has answered"))
	_, err = w.app.LookOfLabel(w.ctx, w.who, rand.Text(), "seeds", "kelp", "drop")
	require.NoError(w.t, err)
	_, err = w.app.WriteContact(w.ctx, w.who, rand.Text(), 0, contact.Contact{Name: "Bram Oosterhuis", Emails: []string{"bram@freight.example"}, Phones: []string{"+47 913 22 118"}})
	require.NoError(w.t, err)
	w.app.Folder = folder.Folder(w.t.TempDir())
	w.makeRule("Bills", from("bills@freight.example"), []routine.Step{{Do: routine.SaveFiles}})
	extra, text := attaching("bill.pdf", "one")
	w.receive(mail{id: "bill@freight.example", from: "bills@freight.example", subject: "Bill", extra: extra, text: text})
	_, err = w.app.KeepSearch(w.ctx, w.who, rand.Text(), store.KeptSearch{Name: "Seeds", Query: "seeds", Within: "at:archive"})
	require.NoError(w.t, err)
	_, err = w.app.Forget(w.ctx, w.who, rand.Text(), rows["Class 4"].ID)
	require.NoError(w.t, err)
	_, err = w.app.PicturesOf(w.ctx, w.who, rand.Text(), "oda@school.example", true)
	require.NoError(w.t, err)
	_, err = w.app.Hold(w.ctx, w.who, rand.Text(), app.Holding{})
	require.NoError(w.t, err)
	w.receive(mail{id: "code@desk.example", from: "door@desk.example", subject: "Your code", text: "Use 481 922 to sign in."})
	w.receive(mail{id: "visit@gone.example", from: "Visitor <visitor@gone.example>", subject: "A visit"})
	w.erase("visitor@gone.example")
	w.receive(mail{id: "ten@school.example", from: "Oda <oda@school.example>", subject: "Waits at the gate"})
}

func ref[T any](v T) *T { return &v }

func TestFilledWorldIsSound(t *testing.T) {
	w := newWorld(t)
	fillWorld(w)
	if *fill == "" {
		return
	}
	path := filepath.Join(t.TempDir(), "copy.db")
	require.NoError(t, w.app.Store.Backup(w.ctx, path))
	raw, err := os.ReadFile(path)
	require.NoError(t, err)
	var packed bytes.Buffer
	z, err := zstd.NewWriter(&packed, zstd.WithEncoderLevel(zstd.SpeedBestCompression))
	require.NoError(t, err)
	_, err = z.Write(raw)
	require.NoError(t, err)
	require.NoError(t, z.Close())
	require.NoError(t, os.WriteFile(filepath.Join("../..", filled.Folder, *fill+filled.Suffix), packed.Bytes(), 0o600))
}

// Every database that a landed Ebbe has left is brought to the newest schema
// and is sound there.
func TestFilledDatabasesMigrate(t *testing.T) {
	for _, name := range filled.Names(t) {
		t.Run(name, func(t *testing.T) {
			path := filled.Unpack(t, name)
			s, err := store.Open(path)
			require.NoError(t, err)
			problems, err := s.Check(context.Background())
			assert.NoError(t, err)
			assert.Empty(t, problems)
			people, err := s.People(context.Background())
			assert.NoError(t, err)
			assert.Len(t, people, 1)
			assert.NoError(t, s.Close())
		})
	}
}
