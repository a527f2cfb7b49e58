package letter

import (
	"crypto/sha256"
	"encoding/hex"
	"hash"
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
	h.Write(l.digest)
	return hex.EncodeToString(h.Sum(nil)[:16])
}

func write(h hash.Hash, s string) {
	h.Write([]byte(s))
	h.Write([]byte{0})
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
