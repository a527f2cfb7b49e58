package remote

import (
	"crypto/sha256"
	"encoding/hex"
	"fmt"
	"slices"
	"strings"
)

// HashedKeyword begins the keyword of a label that would get too long.
const HashedKeyword = "$Label-"

// longestKeyword is what servers take for a keyword without complaint.
const longestKeyword = 50

// known are keywords without a “$” that programs set for themselves: no labels.
var known = []string{"junk", "nonjunk", "notjunk", "junkrecorded", "forwarded", "redirected", "mdnsent", "old", "recent"}

// Keyword is how a label is written as a flag of a letter (RFC 9051, 2.3.2): as a
// word of the “Q” encoding (RFC 2047, 4.2) with the bytes of its UTF-8, so that any
// program that shows keywords shows something that can be read. One that gets too long
// has a name made from its hash; which label that is has to be remembered.
func Keyword(label string) string {
	var b strings.Builder
	for i := range len(label) {
		switch c := label[i]; {
		case c == ' ':
			b.WriteByte('_')
		case 'a' <= c && c <= 'z', 'A' <= c && c <= 'Z', '0' <= c && c <= '9', strings.IndexByte("-+./:,;!#&'@~", c) >= 0:
			b.WriteByte(c)
		default:
			fmt.Fprintf(&b, "=%02X", c)
		}
	}
	out := b.String()
	if slices.Contains(known, strings.ToLower(out)) {
		out = fmt.Sprintf("=%02X", out[0]) + out[1:]
	}
	if len(out) > longestKeyword {
		sum := sha256.Sum256([]byte(label))
		out = HashedKeyword + hex.EncodeToString(sum[:12])
	}
	return out
}

// LabelOf is the label that a keyword stands for; not ok for a flag, and for what
// programs set for themselves.
func LabelOf(keyword string) (label string, ok bool) {
	if keyword == "" || keyword[0] == '$' || keyword[0] == '\\' || slices.Contains(known, strings.ToLower(keyword)) {
		return "", false
	}
	var b strings.Builder
	for i := 0; i < len(keyword); i++ {
		if keyword[i] == '=' && i+2 < len(keyword) {
			if c, err := hex.DecodeString(keyword[i+1 : i+3]); err == nil {
				b.Write(c)
				i += 2
				continue
			}
		}
		if keyword[i] == '_' {
			b.WriteByte(' ')
		} else {
			b.WriteByte(keyword[i])
		}
	}
	return strings.Join(strings.Fields(strings.ToValidUTF8(b.String(), "�")), " "), true
}

// LabelsElsewhere are the labels that a conversation got and lost elsewhere: it has one
// while one of its letters does. Servers may write a label in other cases than it is
// written here; that makes it no other.
func LabelsElsewhere(here []string, before, now []Copy) (on, off []string) {
	was, is := labelled(before), labelled(now)
	for _, l := range is {
		if !hasLabel(was, l) && !hasLabel(here, l) {
			on = append(on, l)
		}
	}
	for _, l := range here {
		if hasLabel(was, l) && !hasLabel(is, l) {
			off = append(off, l)
		}
	}
	return on, off
}

// labelled are the labels of letters, each once.
func labelled(copies []Copy) (out []string) {
	for _, c := range copies {
		for _, l := range c.Labels {
			if !hasLabel(out, l) {
				out = append(out, l)
			}
		}
	}
	return out
}

func hasLabel(list []string, label string) bool {
	return slices.ContainsFunc(list, func(l string) bool { return strings.EqualFold(l, label) })
}
