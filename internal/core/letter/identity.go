package letter

import (
	"crypto/sha256"
	"encoding/hex"
	"hash"
	"strings"
	"time"
)

// Identity is what one letter of one owner is known by: equal Message-ID,
// From, Date and decoded body. Copies that differ only in line ends, in
// transport fields or in trailing white space have the same Identity. A
// letter without a Message-ID is known by Date, From, Subject and body.
func (l Letter) Identity() string {
	h := sha256.New()
	id := l.MessageID
	if id == "" {
		id = "subject:" + l.Subject
	}
	write(h, id)
	write(h, l.From.Key())
	write(h, l.Date.UTC().Format(time.RFC3339))
	write(h, trimLines(l.Text))
	write(h, trimLines(l.HTML))
	for _, p := range l.Parts {
		content := p.Content
		if strings.HasPrefix(p.ContentType, "text/") || strings.HasPrefix(p.ContentType, "message/") {
			content = []byte(trimLines(string(content)))
		}
		sum := sha256.Sum256(content)
		h.Write(sum[:])
	}
	return hex.EncodeToString(h.Sum(nil)[:16])
}

func write(h hash.Hash, s string) {
	h.Write([]byte(s))
	h.Write([]byte{0})
}

func trimLines(s string) string {
	lines := strings.Split(strings.ReplaceAll(s, "\r\n", "\n"), "\n")
	for i, line := range lines {
		lines[i] = strings.TrimRight(line, " \t\r")
	}
	return strings.TrimRight(strings.Join(lines, "\n"), "\n")
}

// ReceivedAt is when the letter reached us: the topmost Received field, else
// Date, else the time of the file it came from; never later than now.
func (l Letter) ReceivedAt(file, now time.Time) time.Time {
	at := l.Received
	if at.IsZero() {
		at = l.Date
	}
	if at.IsZero() {
		at = file
	}
	if at.IsZero() || at.After(now) {
		at = now
	}
	return at
}
