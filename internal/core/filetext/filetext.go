// Package filetext reads the text of files that are attached to letters, so that they are found by it:
// plain text, HTML, calendars, comma-separated values, PDF, OpenDocument and Office Open XML. It is a pure
// function of the bytes; whoever calls it bounds its time and memory, since a parser of foreign formats
// may hang.
package filetext

import (
	"bytes"
	"errors"
	"fmt"
	"io"
	"mime"
	"path"
	"regexp"
	"strings"
	"unicode/utf8"

	"golang.org/x/net/html"
	"golang.org/x/net/html/charset"
)

// MaxText is how much text is read of a file, in bytes: what is beyond it is not found.
const MaxText = 1 << 20

// PageEnd stands behind each page of a text that has pages.
const PageEnd = "\f"

// What keeps a file from being read, in words for whoever sees it.
var (
	ErrEncrypted = errors.New("it is encrypted")
	ErrDamaged   = errors.New("it is damaged")
	ErrTooLarge  = errors.New("there is too much in it")
)

// reader reads the text of one kind of file.
type reader func(data []byte, out *text) error

// byType are the readers by media type, byEnd by the end of a name, which tells more where the type says
// only that it is a file.
var (
	byType = map[string]reader{
		"text/html": page, "application/xhtml+xml": page, "text/calendar": lines, "text/vcard": lines, "text/csv": plain,
		"application/pdf":                         pdfText,
		"application/vnd.oasis.opendocument.text": openDocument, "application/vnd.oasis.opendocument.spreadsheet": openDocument, "application/vnd.oasis.opendocument.presentation": openDocument,
		"application/vnd.openxmlformats-officedocument.wordprocessingml.document":   office,
		"application/vnd.openxmlformats-officedocument.presentationml.presentation": office,
		"application/vnd.openxmlformats-officedocument.spreadsheetml.sheet":         spreadsheet,
	}
	byEnd = map[string]reader{
		".txt": plain, ".text": plain, ".md": plain, ".csv": plain, ".tsv": plain, ".log": plain, ".html": page, ".htm": page, ".xhtml": page,
		".ics": lines, ".vcf": lines, ".pdf": pdfText, ".odt": openDocument, ".ods": openDocument, ".odp": openDocument, ".docx": office, ".pptx": office, ".xlsx": spreadsheet,
	}
)

func readerOf(name, contentType string) reader {
	kind, _, err := mime.ParseMediaType(contentType)
	if err != nil {
		kind = contentType
	}
	if r := byType[kind]; r != nil {
		return r
	}
	if r := byEnd[strings.ToLower(path.Ext(name))]; r != nil {
		return r
	}
	if strings.HasPrefix(kind, "text/") {
		return plain
	}
	return nil
}

// Readable tells whether there is text to be read in a file of this name and type.
func Readable(name, contentType string) bool { return readerOf(name, contentType) != nil }

// Read is the text of a file, at most MaxText of it; "" for one that has none. What was read before
// something failed is given beside the error: ErrEncrypted, ErrTooLarge or ErrDamaged.
func Read(name, contentType string, data []byte) (string, error) {
	read := readerOf(name, contentType)
	if read == nil || len(data) == 0 {
		return "", nil
	}
	var out text
	err := guarded(read, data, &out)
	switch {
	case errors.Is(err, errFull), err == nil:
		err = nil
	case errors.Is(err, ErrEncrypted), errors.Is(err, ErrTooLarge):
	default:
		err = fmt.Errorf("%w: %w", ErrDamaged, err)
	}
	return out.String(), err
}

// guarded makes an error of a panic: parsers of foreign formats are not written for damaged files.
func guarded(read reader, data []byte, out *text) (err error) {
	defer func() {
		if p := recover(); p != nil {
			err = fmt.Errorf("reading it failed: %v", p)
		}
	}()
	return read(data, out)
}

// errFull ends a reading that has read enough.
var errFull = errors.New("enough")

// text collects what is read, up to MaxText.
type text struct{ b strings.Builder }

func (t *text) add(s string) error {
	if rest := MaxText - t.b.Len(); len(s) > rest {
		for rest > 0 && !utf8.RuneStart(s[rest]) {
			rest--
		}
		s = s[:max(rest, 0)]
		t.b.WriteString(strings.ToValidUTF8(s, " "))
		return errFull
	}
	t.b.WriteString(strings.ToValidUTF8(s, " "))
	return nil
}

func (t *text) String() string { return t.b.String() }

// decoded is a text in its charset: by its mark, by what it says of itself, or UTF-8, or windows-1252.
func decoded(data []byte, contentType string) io.Reader {
	r, err := charset.NewReader(bytes.NewReader(data), contentType)
	if err != nil {
		return bytes.NewReader(data)
	}
	return r
}

func plain(data []byte, out *text) error { return out.copy(decoded(data, "text/plain")) }

func (t *text) copy(r io.Reader) error {
	b, err := io.ReadAll(io.LimitReader(r, MaxText+1))
	return errors.Join(t.add(string(b)), err)
}

// mute are the names of content lines that say nothing to a reader: what holds them together, and pictures.
var mute = regexp.MustCompile(`(?i)^(BEGIN|END|VERSION|PRODID|METHOD|CALSCALE|UID|REV|SEQUENCE|CREATED|LAST-MODIFIED|DTSTAMP|PHOTO|LOGO|SOUND|KEY|ATTACH)[;:]`)

// lines are the values of content lines (RFC 5545, RFC 6350): unfolded, without their names.
func lines(data []byte, out *text) error {
	whole := strings.NewReplacer("\r\n ", "", "\r\n\t", "", "\n ", "", "\n\t", "").Replace(string(data[:min(len(data), 4*MaxText)]))
	for line := range strings.Lines(whole) {
		_, value, ok := strings.Cut(strings.TrimRight(line, "\r\n"), ":")
		if !ok || mute.MatchString(line) {
			continue
		}
		if err := out.add(strings.NewReplacer(`\n`, "\n", `\N`, "\n", `\,`, ",", `\;`, ";", `\\`, `\`).Replace(value) + "\n"); err != nil {
			return err
		}
	}
	return nil
}

// page is what a page shows: no scripts, no styles.
func page(data []byte, out *text) error {
	z := html.NewTokenizer(decoded(data, "text/html"))
	hidden := 0
	for {
		switch z.Next() {
		case html.ErrorToken:
			if errors.Is(z.Err(), io.EOF) {
				return nil
			}
			return z.Err()
		case html.StartTagToken:
			if name, _ := z.TagName(); bytes.Equal(name, []byte("script")) || bytes.Equal(name, []byte("style")) {
				hidden++
			}
		case html.EndTagToken:
			if name, _ := z.TagName(); hidden > 0 && (bytes.Equal(name, []byte("script")) || bytes.Equal(name, []byte("style"))) {
				hidden--
			}
			if err := out.add(" "); err != nil {
				return err
			}
		case html.TextToken:
			if hidden == 0 {
				if err := out.add(html.UnescapeString(string(z.Text()))); err != nil {
					return err
				}
			}
		}
	}
}
