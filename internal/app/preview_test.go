package app_test

import (
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"ebbe.example/ebbe/internal/app"
	"ebbe.example/ebbe/internal/core/decide"
)

const rotaFile = "BEGIN:VCALENDAR\r\nVERSION:2.0\r\nMETHOD:REPLY\r\nBEGIN:VEVENT\r\nUID:1@x.example\r\nDTSTART:20261128T160000Z\r\nDTEND:20261128T170000Z\r\nSUMMARY:Guides' rota\r\nLOCATION:Fern house\r\n" +
	"ORGANIZER;CN=Ines:mailto:ines@x.example\r\nATTENDEE;CN=Tove;PARTSTAT=ACCEPTED:mailto:tove@x.example\r\nEND:VEVENT\r\nEND:VCALENDAR\r\n"

// What is attached is shown as what it is, whatever type its sender gives it.
func TestWhatIsAttachedIsShown(t *testing.T) {
	text := func(text string) app.Preview { return app.Preview{Shows: "text", Text: text} }
	files := []struct {
		name, content string
		shown         app.Preview
	}{
		{"rota.ics", rotaFile, text("Guides' rota\nSat 28 Nov, 17:00 to 18:00\nFern house\nCalled by Ines\nTove: accepted")},
		{"small.ics", strings.NewReplacer("BEGIN", "begin", "VCALENDAR", "vcalendar", "VEVENT", "vevent", "SUMMARY", "Summary").Replace(rotaFile),
			text("Guides' rota\nSat 28 Nov, 17:00 to 18:00\nFern house\nCalled by Ines\nTove: accepted")},
		{"broken.ics", "BEGIN:VCALENDAR\r\nSUMMARY:Walk\r\n", text("Walk")},
		{"two.vcf", "BEGIN:VCARD\nVERSION:3.0\nFN:Oda Frisvold\nORG:School\nEMAIL:Oda@School.example\nTEL:+47 12\nEND:VCARD\nBEGIN:VCARD\nVERSION:2.1\nFN:Per\nEND:VCARD\n",
			text("Oda Frisvold\nSchool\noda@school.example\n+47 12\n\nPer")},
		{"older.eml", "From: Eva <eva@x.example>\r\nDate: Mon, 16 Nov 2026 10:00:00 +0000\r\nSubject: Older\r\n\r\nCome by.\r\n", text("Older\nfrom Eva\nMon 16 Nov, 11:00\n\nCome by.")},
		{"readings.csv", "house;degrees\r\n4;9,4\r\n", app.Preview{Shows: "table", Rows: [][]string{{"house", "degrees"}, {"4", "9,4"}}}},
		{"noise.bin", "\x00\x01", app.Preview{Shows: "nothing", Says: "Nothing of such a file can be shown here."}},
	}
	w := newWorld(t)
	w.app.Texts = texts{}
	var all []string
	for _, f := range files {
		all = append(all, f.name, f.content)
	}
	extra, body := attaching(all...)
	w.receive(mail{id: "1@x.example", from: "Bram <bram@x.example>", subject: "Files", extra: extra, text: body})
	list, err := w.app.Open(w.ctx, w.who, w.row(decide.Inbox).ID)
	require.NoError(t, err)
	for i, f := range files {
		got, err := w.app.Preview(w.ctx, w.who, list.LetterList[0].ID, i)
		require.NoError(t, err, f.name)
		assert.Equal(t, f.shown, got, f.name)
	}
}
