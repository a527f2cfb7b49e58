package filetext_test

import (
	"archive/zip"
	"bytes"
	"fmt"
	"io"
	"path"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"github.com/xuri/excelize/v2"

	"ebbe.example/ebbe/internal/core/filetext"
)

// zipped packs files, in their order: name, content, name, content.
func zipped(t testing.TB, files ...string) []byte {
	var b bytes.Buffer
	z := zip.NewWriter(&b)
	for i := 0; i < len(files); i += 2 {
		w, err := z.Create(files[i])
		require.NoError(t, err)
		_, err = io.WriteString(w, files[i+1])
		require.NoError(t, err)
	}
	require.NoError(t, z.Close())
	return b.Bytes()
}

// pdf is a document of pages of one line each.
func pdf(pages int) []byte {
	var b bytes.Buffer
	var at []int
	object := func(format string, args ...any) {
		at = append(at, b.Len())
		fmt.Fprintf(&b, "%d 0 obj\n"+format+"\nendobj\n", append([]any{len(at)}, args...)...)
	}
	b.WriteString("%PDF-1.4\n")
	kids := make([]string, pages)
	for i := range kids {
		kids[i] = fmt.Sprintf("%d 0 R", 4+2*i)
	}
	object("<< /Type /Catalog /Pages 2 0 R >>")
	object("<< /Type /Pages /Kids [%s] /Count %d >>", strings.Join(kids, " "), pages)
	object("<< /Type /Font /Subtype /Type1 /BaseFont /Helvetica >>")
	for i := range pages {
		object("<< /Type /Page /Parent 2 0 R /MediaBox [0 0 200 200] /Resources << /Font << /F1 3 0 R >> >> /Contents %d 0 R >>", 5+2*i)
		stream := fmt.Sprintf("BT /F1 12 Tf 10 100 Td (Fern number %d) Tj ET", i+1)
		object("<< /Length %d >>\nstream\n%s\nendstream", len(stream), stream)
	}
	xref := b.Len()
	fmt.Fprintf(&b, "xref\n0 %d\n0000000000 65535 f \n", len(at)+1)
	for _, o := range at {
		fmt.Fprintf(&b, "%010d 00000 n \n", o)
	}
	fmt.Fprintf(&b, "trailer\n<< /Size %d /Root 1 0 R >>\nstartxref\n%d\n%%%%EOF\n", len(at)+1, xref)
	return b.Bytes()
}

func workbook(t testing.TB) []byte {
	f := excelize.NewFile()
	require.NoError(t, f.SetSheetRow("Sheet1", "A1", &[]any{"Fern", 12.5, "Oslo"}))
	b, err := f.WriteToBuffer()
	require.NoError(t, err)
	return b.Bytes()
}

func TestRead(t *testing.T) {
	const docx = `<w:document xmlns:w="w"><w:body><w:p><w:r><w:t>Ferns</w:t></w:r><w:r><w:t> and moss</w:t></w:r></w:p><w:p><w:r><w:t>Oslo</w:t></w:r></w:p></w:body></w:document>`
	for _, c := range []struct {
		name, kind string
		data       []byte
		want       []string
		not        string
		err        error
	}{
		{"a.txt", "text/plain", []byte("Ferns"), []string{"Ferns"}, "", nil},
		{"a.txt", "application/octet-stream", []byte("Gr\xf8nn"), []string{"Grønn"}, "", nil},
		{"a.txt", "text/plain", []byte("\xff\xfeF\x00e\x00r\x00n\x00"), []string{"Fern"}, "", nil},
		{"a.csv", "text/csv", []byte("fern;12\nmoss;3\n"), []string{"fern", "moss"}, "", nil},
		{"a.html", "text/html; charset=iso-8859-1", []byte("<style>x{}</style><p>Gr&oslash;nn<script>hidden()</script> fern"), []string{"Grønn", "fern"}, "hidden", nil},
		{"a.ics", "text/calendar", []byte("BEGIN:VEVENT\r\nSUMMARY:Fern wa\r\n lk\\, Oslo\r\nEND:VEVENT\r\n"), []string{"Fern walk, Oslo"}, "SUMMARY", nil},
		{"b.ics", "text/calendar", []byte("BEGIN:VEVENT\r\nUID;X=1:aa@x.example\r\nSUMMARY:Walk\r\nEND:VEVENT\r\n"), []string{"Walk"}, "VEVENT", nil},
		{"b.vcf", "text/vcard", []byte("BEGIN:VCARD\r\nFN:Oda\r\nPHOTO;ENCODING=b:AAAA\r\n BBBB\r\nEND:VCARD\r\n"), []string{"Oda"}, "AAAABBBB", nil},
		{"a.pdf", "application/pdf", pdf(3), []string{"Fern number 1", "Fern number 3"}, "", nil},
		{"a.pdf", "application/pdf", pdf(2)[:300], nil, "", filetext.ErrDamaged},
		{"a.pdf", "application/pdf", []byte("%PDF-1.4\n/Encrypt"), nil, "", filetext.ErrEncrypted},
		{"a.docx", "application/octet-stream", zipped(t, "word/document.xml", docx, "word/media/x.xml", "<x>secret</x>"), []string{"Ferns and moss\n", "Oslo"}, "secret", nil},
		{"a.pptx", "", zipped(t, "ppt/slides/slide10.xml", "<a:p xmlns:a='a'><a:t>last</a:t></a:p>", "ppt/slides/slide2.xml", "<a:p xmlns:a='a'><a:t>first</a:t></a:p>"), []string{"first\nlast"}, "", nil},
		{"a.odt", "application/vnd.oasis.opendocument.text", zipped(t, "content.xml", "<o><text:p xmlns:text='t'>Ferns<text:s/>and</text:p></o>"), []string{"Ferns and"}, "", nil},
		{"a.odt", "", zipped(t, "META-INF/manifest.xml", "<encryption-data/>", "content.xml", "x"), nil, "", filetext.ErrEncrypted},
		{"a.docx", "", []byte("\xd0\xcf\x11\xe0\xa1\xb1\x1a\xe1 more"), nil, "", filetext.ErrEncrypted},
		{"a.docx", "", []byte("PK no zip"), nil, "", filetext.ErrDamaged},
		{"a.docx", "", zipped(t, "word/document.xml", "<w:p>Ferns<w:broken"), []string{"Ferns"}, "", filetext.ErrDamaged},
		{"a.docx", "", zipped(t, "other.xml", "<x/>"), nil, "", filetext.ErrDamaged},
		{"a.docx", "", zipped(t, "word/document.xml", "<x>"+strings.Repeat("<b x='"+strings.Repeat("y", 1<<16)+"'></b>", 1<<11)+"</x>"), nil, "", filetext.ErrTooLarge},
		{"a.xlsx", "", workbook(t), []string{"Fern\t12.5\tOslo"}, "", nil},
		{"a.xlsx", "", []byte("PK"), nil, "", filetext.ErrDamaged},
		{"a.jpg", "image/jpeg", []byte("\xff\xd8"), nil, "", nil},
		{"a.txt", "text/plain", nil, nil, "", nil},
	} {
		says, err := filetext.Read(c.name, c.kind, c.data)
		if c.err == nil {
			require.NoError(t, err, c.name)
		} else {
			require.ErrorIs(t, err, c.err, "%s %s", c.name, says)
		}
		for _, want := range c.want {
			assert.Contains(t, says, want, c.name)
		}
		if c.not != "" {
			assert.NotContains(t, says, c.not)
		}
	}
}

// Of what is very long so much is read, and no letter is cut in two.
func TestReadsSoMuch(t *testing.T) {
	says, err := filetext.Read("a.txt", "text/plain", []byte(strings.Repeat("ø", filetext.MaxText)))
	require.NoError(t, err)
	assert.LessOrEqual(t, len(says), filetext.MaxText)
	assert.Equal(t, strings.Repeat("ø", len(says)/2), says)
	says, err = filetext.Read("a.pdf", "application/pdf", pdf(2001))
	require.ErrorIs(t, err, filetext.ErrTooLarge)
	assert.Contains(t, says, "Fern number 2000")
	assert.NotContains(t, says, "Fern number 2001")
}

// The PDF library may hang for ever on what is damaged, which the process apart bears (package apart); so it
// is left out.
func FuzzRead(f *testing.F) {
	for _, name := range []string{"a.docx", "a.xlsx", "a.odt", "a.html", "a.ics"} {
		f.Add(name, workbook(f))
		f.Add(name, zipped(f, "content.xml", "<p>x</p>", "word/document.xml", "<p>x</p>"))
	}
	f.Fuzz(func(t *testing.T, name string, data []byte) {
		if strings.EqualFold(path.Ext(name), ".pdf") {
			t.Skip()
		}
		says, err := filetext.Read(name, "", data)
		assert.LessOrEqual(t, len(says), filetext.MaxText)
		if err != nil {
			assert.True(t, strings.HasPrefix(err.Error(), "it is ") || strings.HasPrefix(err.Error(), "there is "), err.Error())
		}
	})
}
