package contact_test

import (
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"ebbe.example/ebbe/internal/core/contact"
)

func TestReadsCardsAsTheyCome(t *testing.T) {
	bram := contact.Contact{Name: "Bram Oosterhuis", Emails: []string{"bram@freight.example"}, Phones: []string{}}
	with := func(change func(c *contact.Contact)) contact.Contact {
		c := bram
		change(&c)
		return c
	}
	cases := []struct {
		name, file string
		want       contact.Contact
	}{
		{"version 4", "BEGIN:VCARD\r\nVERSION:4.0\r\nFN:Bram Oosterhuis\r\nEMAIL:Bram@Freight.example\r\nEND:VCARD\r\n", bram},
		{"no last line end", "BEGIN:VCARD\nFN:Bram Oosterhuis\nEMAIL:bram@freight.example\nEND:VCARD", bram},
		{"old line ends", "BEGIN:VCARD\rFN:Bram Oosterhuis\rEMAIL:bram@freight.example\rEND:VCARD\r", bram},
		{"small letters and blanks", "begin:vcard\nfn:Bram  Oosterhuis \nemail:bram@freight.example\nend:vcard\n", bram},
		{"folded", "BEGIN:VCARD\r\nFN:Bram Ooster\r\n huis\r\nEMAIL:bram@frei\r\n\tght.example\r\nEND:VCARD\r\n", bram},
		{"grouped", "BEGIN:VCARD\nVERSION:3.0\nFN:Bram Oosterhuis\nitem1.EMAIL;type=INTERNET:bram@freight.example\nitem1.X-LABEL:Work\nEND:VCARD\n", bram},
		{"a link for an address", "BEGIN:VCARD\nFN:Bram Oosterhuis\nEMAIL;VALUE=uri:mailto:bram@freight.example\nEND:VCARD\n", bram},
		{"parts of a name", "BEGIN:VCARD\nVERSION:2.1\nN:Oosterhuis;Bram;;;\nEMAIL;INTERNET:bram@freight.example\nEND:VCARD\n", bram},
		{"all parts", "BEGIN:VCARD\nN:Oosterhuis;Bram;van;Dr.;MSc\nEMAIL:bram@freight.example\nEND:VCARD\n", with(func(c *contact.Contact) { c.Name = "Dr. Bram van Oosterhuis MSc" })},
		{"quoted-printable", "BEGIN:VCARD\nVERSION:2.1\nFN;CHARSET=ISO-8859-1;ENCODING=QUOTED-PRINTABLE:Bj=F8rn=\n =20Dahl\nEMAIL;PREF;INTERNET:bram@freight.example\nEND:VCARD\n", with(func(c *contact.Contact) { c.Name = "Bjørn Dahl" })},
		{"quoted-printable without a name for it", "BEGIN:VCARD\nFN;QUOTED-PRINTABLE:Bj=C3=B8rn\nEMAIL:bram@freight.example\nEND:VCARD\n", with(func(c *contact.Contact) { c.Name = "Bjørn" })},
		{"latin", "BEGIN:VCARD\nFN:Bj\xf8rn\nEMAIL:bram@freight.example\nEND:VCARD\n", with(func(c *contact.Contact) { c.Name = "Bjørn" })},
		{"a mark of the byte order", "\ufeffBEGIN:VCARD\nFN:Bram Oosterhuis\nEMAIL:bram@freight.example\nEND:VCARD\n", bram},
		{"telephones", "BEGIN:VCARD\nFN:Bram Oosterhuis\nEMAIL:bram@freight.example\nTEL;WORK;VOICE:+47 913 22 118\nTEL;VALUE=uri:tel:+31-20-555\nEND:VCARD\n", with(func(c *contact.Contact) { c.Phones = []string{"+47 913 22 118", "+31-20-555"} })},
		{"an office", "BEGIN:VCARD\nFN:Bram Oosterhuis\nEMAIL:bram@freight.example\nORG:Freight\\; Sons;Crates;\nEND:VCARD\n", with(func(c *contact.Contact) { c.Org = "Freight; Sons, Crates" })},
		{"a note in lines", "BEGIN:VCARD\nFN:Bram Oosterhuis\nEMAIL:bram@freight.example\nNOTE:Crates\\, and\\nlifts\\; mornings\nEND:VCARD\n", with(func(c *contact.Contact) { c.Note = "Crates, and\nlifts; mornings" })},
		{"only an address", "BEGIN:VCARD\nEMAIL:bram@freight.example\nEND:VCARD\n", with(func(c *contact.Contact) { c.Name = "bram@freight.example" })},
		{"an address that is none", "BEGIN:VCARD\nFN:Bram Oosterhuis\nEMAIL:bram@freight.example\nEMAIL:bram at home\nEND:VCARD\n", bram},
		{"a picture", "BEGIN:VCARD\nFN:Bram Oosterhuis\nPHOTO;ENCODING=b;TYPE=JPEG:" + strings.Repeat("QUJD\r\n ", 3000) + "QUJD\r\nEMAIL:bram@freight.example\nEND:VCARD\n", bram},
		{"a mark in a parameter", "BEGIN:VCARD\nFN;X-SAID=\"a;b\":Bram Oosterhuis\nEMAIL:bram@freight.example\nEND:VCARD\n", bram},
	}
	for _, c := range cases {
		t.Run(c.name, func(t *testing.T) {
			list, troubles := contact.Read([]byte(c.file))
			assert.Empty(t, troubles)
			assert.Equal(t, []contact.Contact{c.want}, list)
		})
	}
}

// A card that can't be read stops no other, and two of one person are one.
func TestABrokenCardStopsNoOther(t *testing.T) {
	list, troubles := contact.Read([]byte("nonsense\nBEGIN:VCARD\nFN:Half\nEMAIL:half@freight.example\nBEGIN:VCARD\nNOTE:nobody\nEND:VCARD\n" +
		"BEGIN:VCARD\nFN:Bram\nEMAIL:bram@freight.example\nTEL:1\nEND:VCARD\nBEGIN:VCARD\nFN:B. Oosterhuis\nEMAIL:bram@home.example\nEMAIL:bram@freight.example\nTEL:2\nEND:VCARD\nBEGIN:VCARD\nFN:End"))
	assert.Equal(t, []contact.Contact{{Name: "Bram", Emails: []string{"bram@freight.example", "bram@home.example"}, Phones: []string{"1", "2"}}}, list)
	assert.Equal(t, []contact.Unread{
		{Card: 1, Name: "Half", What: "it breaks off before its end"},
		{Card: 2, Name: "", What: "somebody has a name or an address"},
		{Card: 5, Name: "End", What: "it breaks off before its end"},
	}, troubles)
}

func TestClean(t *testing.T) {
	got, err := contact.Clean(contact.Contact{Emails: []string{" Bram <BRAM@freight.example> ", "bram@freight.example", ""}, Phones: []string{" 1  2 ", ""}, Note: " x\n"})
	require.NoError(t, err)
	assert.Equal(t, contact.Contact{Name: "Bram", Emails: []string{"bram@freight.example"}, Phones: []string{"1 2"}, Note: "x"}, got)
	got, err = contact.Clean(contact.Contact{Name: "Bo", Emails: []string{`"Oosterhuis, Bram" <bram@freight.example>; bo@home.example, b@home.example`}})
	require.NoError(t, err)
	assert.Equal(t, []string{"bram@freight.example", "bo@home.example", "b@home.example"}, got.Emails, "a line may have several")
	for _, wrong := range []contact.Contact{
		{}, {Name: "Bram", Emails: []string{"nowhere"}}, {Name: strings.Repeat("x", contact.MaxText+1)},
		{Name: "Bram", Note: strings.Repeat("x", contact.MaxNote+1)}, {Name: "Bram", Phones: strings.Split(strings.Repeat("1 2 3 4 5 6 7 8 9 10 11 12 13 14 15 16 17 18 19 20 21", 1), " ")},
	} {
		_, err := contact.Clean(wrong)
		assert.Error(t, err, "%.60v", wrong)
	}
}

// What is written is read again as it was.
func TestCardsGoOutAndIn(t *testing.T) {
	text := rapid.StringMatching(`[ A-Za-zøß,;:\\"=.日-]{1,40}`)
	rapid.Check(t, func(t *rapid.T) {
		var list []contact.Contact
		for i := range rapid.IntRange(1, 4).Draw(t, "cards") {
			c, err := contact.Clean(contact.Contact{
				Name: "N" + text.Draw(t, "name"), Emails: []string{string(rune('a'+i)) + "@freight.example"},
				Phones: rapid.SliceOfN(rapid.StringMatching(`[+0-9 ]{1,12}`), 0, 3).Draw(t, "phones"),
				Org:    rapid.StringMatching(`[A-Za-zø ]{0,20}`).Draw(t, "org"), Note: rapid.StringMatching(`[a-zø,;: \n*#]{0,60}`).Draw(t, "note"),
			})
			if err != nil {
				t.Skip()
			}
			list = append(list, c)
		}
		file, err := contact.Write(list)
		require.NoError(t, err)
		again, troubles := contact.Read([]byte(file))
		require.Empty(t, troubles)
		require.Equal(t, list, again)
	})
}

// Joining loses nothing, and joining once more changes nothing.
func TestJoined(t *testing.T) {
	was := contact.Contact{Name: "bram@freight.example", Emails: []string{"bram@freight.example"}, Note: "crates"}
	more := contact.Contact{Name: "Bram", Emails: []string{"bram@home.example", "bram@freight.example"}, Phones: []string{"1"}, Org: "Freight", Note: "mornings"}
	got, err := contact.Joined(was, more)
	require.NoError(t, err)
	assert.Equal(t, contact.Contact{Name: "Bram", Emails: []string{"bram@freight.example", "bram@home.example"}, Phones: []string{"1"}, Org: "Freight", Note: "crates\n\nmornings"}, got)
	again, err := contact.Joined(got, more)
	require.NoError(t, err)
	assert.Equal(t, got, again)
}

func FuzzRead(f *testing.F) {
	f.Add([]byte("BEGIN:VCARD\nFN;QUOTED-PRINTABLE:=\n=41=\nEMAIL:a@b.example\nEND:VCARD"))
	f.Fuzz(func(t *testing.T, data []byte) {
		list, _ := contact.Read(data)
		for _, c := range list {
			clean, err := contact.Clean(c)
			require.NoError(t, err)
			require.Equal(t, c, clean)
			require.NotEmpty(t, c.Name)
		}
	})
}
