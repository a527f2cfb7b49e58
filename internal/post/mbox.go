// Package post brings letters in and out of Ebbe: by SMTP, and as files.
package post

import (
	"bufio"
	"bytes"
	"fmt"
	"io"
	"iter"
	"regexp"
	"strconv"
	"strings"
	"time"
)

// MaxLetter is the largest letter taken from a file or over SMTP, in bytes.
const MaxLetter = 150 << 20

// ErrTooLarge is given for a letter over MaxLetter; the ones after it are
// still read.
var ErrTooLarge = fmt.Errorf("the letter is larger than %d MB", MaxLetter>>20)

// Quoting is how an mbox file hides lines of letters that begin with "From ".
type Quoting int

const (
	// QuotedRD puts ">" before "From " and before ">From " alike, so that
	// nothing is lost (mboxrd).
	QuotedRD Quoting = iota
	// QuotedO puts it before "From " only (mboxo): a ">From " that was there
	// before can't be told from one that was made.
	QuotedO
)

// Enveloped is a letter from a file, with what the file says besides.
type Enveloped struct {
	Raw []byte
	// Time is when the file says that it came; zero if it does not.
	Time time.Time
	// Doubt says what of the file can be read in two ways; "" for nothing.
	Doubt string
}

// doubtful is said of a letter that may hold another.
const doubtful = "a line in it looks like the beginning of another letter, but no header follows"

// Mbox reads the letters of an mbox file (RFC 4155). A letter begins at a line
// "From " after an empty line or at the start of the file; also without the
// empty line, where that line names a date and a header follows. Where a
// Content-Length fits, it ends after as many bytes (mboxcl, mboxcl2). One
// letter is in memory at a time. An error that ends the reading comes last.
func Mbox(r io.Reader, quoting Quoting) iter.Seq2[Enveloped, error] {
	return func(yield func(Enveloped, error) bool) {
		m := &mboxReader{in: newWindow(r), quoting: quoting}
		m.skipLead()
		for m.begin() {
			e, err := m.letter()
			if !yield(e, err) {
				return
			}
		}
		if err := m.in.failed(); err != nil {
			yield(Enveloped{}, fmt.Errorf("the file could not be read any further: %w", err))
		}
	}
}

type mboxReader struct {
	in      *window
	quoting Quoting
	at      time.Time // of the letter that begins
}

// skipLead passes over a byte order mark and empty lines before the first
// letter.
func (m *mboxReader) skipLead() {
	if bytes.HasPrefix(m.in.peek(3), bom) {
		m.in.skip(3)
	}
	for {
		line, _ := m.in.line()
		if len(line) == 0 || len(bytes.TrimSpace(line)) > 0 {
			return
		}
		m.in.skip(len(line))
	}
}

var bom = []byte("\ufeff")

// begin takes the line at which a letter begins; false at the end of the file.
func (m *mboxReader) begin() bool {
	line, _ := m.in.line()
	if !bytes.HasPrefix(line, fromWord) {
		return false
	}
	m.at = fromLineTime(string(line))
	m.in.skip(len(line))
	return true
}

var fromWord = []byte("From ")

// letter reads up to the next letter.
func (m *mboxReader) letter() (Enveloped, error) {
	out := gatherer{}
	defer out.close()
	e := Enveloped{Time: m.at}
	if body, ok := m.counted(&out); ok {
		return m.end(e, &out, body)
	}
	blank, lineStart := false, true
	for {
		line, whole := m.in.line()
		if len(line) == 0 {
			break
		}
		if lineStart && bytes.HasPrefix(line, fromWord) {
			if blank {
				break
			}
			switch dated := !fromLineTime(string(line)).IsZero(); {
			case dated && headerLike(m.in.after(len(line))):
				return m.end(e, &out, nil)
			case dated:
				e.Doubt = doubtful
			}
		}
		n := len(line)
		if lineStart {
			line = m.quoting.take(line)
		}
		out.write(line)
		blank = lineStart && whole && len(bytes.TrimRight(line, "\r\n")) == 0
		lineStart = whole
		m.in.skip(n)
	}
	return m.end(e, &out, nil)
}

func (m *mboxReader) end(e Enveloped, out *gatherer, body []byte) (Enveloped, error) {
	out.write(body)
	raw, err := out.bytes()
	e.Raw = withoutGap(raw)
	if err != nil {
		return Enveloped{}, err
	}
	return e, nil
}

// mostCounted bounds the bodies that are taken by their Content-Length: they
// are looked at as a whole.
const mostCounted = 8 << 20

// counted takes a header whose Content-Length fits, and gives the body: at its
// end the file ends or another letter begins. Where it does not fit, nothing is
// taken.
func (m *mboxReader) counted(out *gatherer) (body []byte, ok bool) {
	const mostHeader = 256 << 10
	var head []byte
	header, size := 0, 0
	for n := 2 << 10; header == 0 && n <= mostHeader && (head == nil || len(head) == n/2); n *= 2 {
		head = m.in.peek(n)
		header, size = headerOf(head)
	}
	length := contentLength(head[:header])
	if header == 0 || length < 0 || length > mostCounted {
		return nil, false
	}
	all := m.in.peek(header + size + length + len("\r\n\r\nFrom "))
	if len(all) < header+size+length {
		return nil, false
	}
	rest := all[header+size+length:]
	end := bytes.TrimLeft(rest, "\r\n")
	if len(end) > 0 && (!bytes.HasPrefix(end, fromWord) || len(end) == len(rest) && length > 0 && all[header+size+length-1] != '\n') {
		return nil, false
	}
	gap := len(rest) - len(end)
	out.write(all[:header+size])
	body = bytes.Clone(all[header+size : header+size+length])
	if !unquotedFrom(body) { // mboxcl quotes; mboxcl2 does not
		body = m.unquote(body)
	}
	m.in.skip(header + size + length + gap)
	if gap > 0 || length > 0 && body[len(body)-1] == '\n' {
		body = append(body, '\n') // the empty line that withoutGap takes off
	}
	return body, true
}

// headerOf is how long a header is, and the empty line after it; zeros if it
// does not end.
func headerOf(head []byte) (header, gap int) {
	for _, end := range []string{"\n\r\n", "\n\n"} {
		if i := bytes.Index(head, []byte(end)); i >= 0 && (header == 0 || i+1 < header) {
			header, gap = i+1, len(end)-1
		}
	}
	return header, gap
}

var lengthField = regexp.MustCompile(`(?im)^content-length:[ \t]*(\d{1,9})[ \t]*\r?$`)

func contentLength(header []byte) int {
	m := lengthField.FindSubmatch(header)
	if m == nil {
		return -1
	}
	n, err := strconv.Atoi(string(m[1]))
	if err != nil {
		return -1
	}
	return n
}

func unquotedFrom(body []byte) bool {
	return bytes.HasPrefix(body, fromWord) || bytes.Contains(body, []byte("\nFrom "))
}

func (m *mboxReader) unquote(body []byte) []byte {
	out := make([]byte, 0, len(body)+1)
	for line := range bytes.Lines(body) {
		out = append(out, m.quoting.take(line)...)
	}
	return out
}

var fieldLine = regexp.MustCompile(`^(?:>?From |[!-9;-~]{1,76}:)`)

// headerLike tells that a header begins.
func headerLike(head []byte) bool { return fieldLine.Match(head) }

// withoutGap takes off the empty line before the next "From ", which belongs
// to the file.
func withoutGap(raw []byte) []byte {
	if cut, ok := bytes.CutSuffix(raw, []byte("\r\n\r\n")); ok {
		return raw[:len(cut)+2]
	}
	if cut, ok := bytes.CutSuffix(raw, []byte("\n\n")); ok {
		return raw[:len(cut)+1]
	}
	return raw
}

// take takes one ">" off a line that was quoted.
func (q Quoting) take(line []byte) []byte {
	if len(line) == 0 || line[0] != '>' {
		return line
	}
	rest := line[1:]
	if q == QuotedRD {
		rest = bytes.TrimLeft(rest, ">")
	}
	if bytes.HasPrefix(rest, []byte("From ")) {
		return line[1:]
	}
	return line
}

// fromLineTime reads the time in a "From " line, with or without a zone.
func fromLineTime(line string) time.Time {
	words := strings.Fields(line)
	for i := range words {
		text := strings.Join(words[i:], " ")
		for _, layout := range []string{time.ANSIC, "Mon Jan 2 15:04:05 2006 -0700", "Mon Jan 2 15:04:05 MST 2006", "Mon Jan 2 15:04:05 -0700 2006"} {
			if t, err := time.Parse(layout, text); err == nil {
				return t.UTC()
			}
		}
	}
	return time.Time{}
}

// WriteMbox appends a letter to an mbox file of the mboxrd kind. Read again it
// is the same bytes; only a missing last line end is added.
func WriteMbox(w io.Writer, raw []byte, sender string, at time.Time) error {
	if sender = strings.Join(strings.Fields(sender), ""); sender == "" {
		sender = "MAILER-DAEMON"
	}
	out := bufio.NewWriterSize(w, 64<<10)
	fmt.Fprintf(out, "From %s %s\n", sender, at.UTC().Format(time.ANSIC))
	for len(raw) > 0 {
		line := raw
		if i := bytes.IndexByte(raw, '\n'); i >= 0 {
			line = raw[:i+1]
		}
		raw = raw[len(line):]
		if bytes.HasPrefix(bytes.TrimLeft(line, ">"), []byte("From ")) {
			_ = out.WriteByte('>')
		}
		_, _ = out.Write(line)
		if line[len(line)-1] != '\n' {
			_ = out.WriteByte('\n')
		}
	}
	_ = out.WriteByte('\n')
	return out.Flush() // tells of whatever failed above
}

// IsMbox tells whether a file that begins so is an mbox, rather than one
// letter. A byte order mark and empty lines before it don't count.
func IsMbox(head []byte) bool { return bytes.HasPrefix(begun(head), fromWord) }

// begun is a file without what may stand before its beginning.
func begun(head []byte) []byte { return bytes.TrimLeft(bytes.TrimPrefix(head, bom), " \t\r\n") }
