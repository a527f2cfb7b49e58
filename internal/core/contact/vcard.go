package contact

import (
	"bytes"
	"errors"
	"fmt"
	"io"
	"mime/quotedprintable"
	"strings"

	"github.com/emersion/go-vcard"

	"ebbe.example/ebbe/internal/core/letter"
)

// Unread is a card of a file that can't be read.
type Unread struct {
	// Card counts from 1; Name is what it seems to be called.
	Card int    `json:"card"`
	Name string `json:"name"`
	What string `json:"what"`
}

var errBreaksOff = errors.New("it breaks off before its end")

// Write writes vCards (RFC 6350).
func Write(list []Contact) (string, error) {
	var out bytes.Buffer
	enc := vcard.NewEncoder(&out)
	for _, c := range list {
		card := vcard.Card{}
		card.SetValue(vcard.FieldVersion, "4.0")
		card.SetValue(vcard.FieldFormattedName, c.Name)
		for _, e := range c.Emails {
			card.AddValue(vcard.FieldEmail, e)
		}
		for _, p := range c.Phones {
			card.AddValue(vcard.FieldTelephone, p)
		}
		for name, value := range map[string]string{vcard.FieldOrganization: c.Org, vcard.FieldNote: c.Note} {
			if value != "" {
				card.SetValue(name, value)
			}
		}
		if err := enc.Encode(card); err != nil {
			return "", fmt.Errorf("write card: %w", err)
		}
	}
	return out.String(), nil
}

// Read reads vCards as they come: versions 2.1 to 4.0, several in a file, in any charset. A card that can't be
// read is told and stops no other; two of one person are joined.
func Read(data []byte) (list []Contact, troubles []Unread) {
	list, troubles = []Contact{}, []Unread{}
	book := Book{}
	for i, text := range cards(letter.DecodeText(data, "")) {
		card, err := vcard.NewDecoder(strings.NewReader(text)).Decode()
		c := Contact{}
		if err == nil {
			c, err = Clean(contactOf(card))
		} else {
			err = errBreaksOff
		}
		if err != nil {
			troubles = append(troubles, Unread{i + 1, nameOf(card), err.Error()})
			continue
		}
		if at, ok := book.Of(c); ok {
			if both, err := Joined(list[at], c); err == nil {
				list[at] = both
				book.Put(at, both)
				continue
			}
		}
		book.Put(len(list), c)
		list = append(list, c)
	}
	return list, troubles
}

// cards are the cards of a file, each by itself, in lines that the decoder knows.
func cards(text string) (out []string) {
	var at strings.Builder
	open := false
	for _, l := range lines(text) {
		begins := strings.EqualFold(l, "BEGIN:VCARD")
		if begins && open { // the one before has no end
			out = append(out, at.String())
		}
		if begins {
			at.Reset()
			open = true
		}
		if !open {
			continue
		}
		at.WriteString(known(l) + "\r\n")
		if strings.EqualFold(l, "END:VCARD") {
			out = append(out, at.String())
			open = false
		}
	}
	if open {
		out = append(out, at.String())
	}
	return out
}

// lines are unfolded: by a blank at the next one's beginning (RFC 6350, 3.2), and in quoted-printable by “=” at
// the end (vCard 2.1).
func lines(text string) (out []string) {
	soft := false
	for l := range strings.SplitSeq(strings.ReplaceAll(strings.ReplaceAll(text, "\r\n", "\n"), "\r", "\n"), "\n") {
		switch {
		case soft:
			out[len(out)-1] += strings.TrimLeft(l, " \t")
		case len(out) > 0 && (strings.HasPrefix(l, " ") || strings.HasPrefix(l, "\t")):
			out[len(out)-1] += l[1:]
		default:
			out = append(out, strings.TrimRight(l, " \t"))
		}
		soft = quoted(out[len(out)-1]) && strings.HasSuffix(out[len(out)-1], "=")
		if soft {
			out[len(out)-1] = strings.TrimSuffix(out[len(out)-1], "=")
		}
	}
	return out
}

func quoted(l string) bool {
	head, _, _ := strings.Cut(l, ":")
	return strings.Contains(strings.ToUpper(head), "QUOTED-PRINTABLE")
}

// known is a line as the decoder reads it whole: the parameters of vCard 2.1, which have no names, as those of
// later ones.
func known(l string) string {
	head, value, ok := strings.Cut(l, ":")
	value = strings.ReplaceAll(value, `\`, string(stroke))
	if !ok || !strings.Contains(head, ";") || strings.Contains(head, `"`) {
		return head + ":" + value
	}
	parts := strings.Split(head, ";")
	for i, p := range parts[1:] {
		if strings.Contains(p, "=") {
			continue
		}
		name := "TYPE="
		if up := strings.ToUpper(p); up == "QUOTED-PRINTABLE" || up == "BASE64" {
			name = "ENCODING="
		}
		parts[i+1] = name + p
	}
	return strings.Join(parts, ";") + ":" + value
}

func contactOf(card vcard.Card) Contact {
	c := Contact{Name: plain(card.Get(vcard.FieldFormattedName))}
	if c.Name == "" {
		c.Name = line(strings.Join(given(value(card.Get(vcard.FieldName))), " "))
	}
	for _, f := range card[vcard.FieldEmail] {
		email := strings.TrimPrefix(plain(f), "mailto:")
		if _, err := letter.CheckAddress(email); err == nil { // some keep other networks' names there
			c.Emails = append(c.Emails, email)
		}
	}
	for _, f := range card[vcard.FieldTelephone] {
		c.Phones = append(c.Phones, strings.TrimPrefix(plain(f), "tel:"))
	}
	if f := card.Get(vcard.FieldOrganization); f != nil {
		var parts []string
		for _, p := range components(value(f)) {
			parts = append(parts, strings.TrimSpace(p))
		}
		c.Org = strings.Trim(strings.Join(parts, ", "), ", ")
	}
	var notes []string
	for _, f := range card[vcard.FieldNote] {
		notes = append(notes, plain(f))
	}
	c.Note = strings.Join(notes, "\n\n")
	if len(c.Phones) > MaxMany {
		c.Phones = c.Phones[:MaxMany]
	}
	return c
}

// given is a structured name (RFC 6350, 6.2.2) in the order in which it is said.
func given(value string) []string {
	parts := append(components(value), "", "", "", "", "")
	return []string{parts[3], parts[1], parts[2], parts[0], parts[4]}
}

// stroke stands for the sign that escapes in values: the decoder would take it away, and what it escaped with
// other signs could no longer be told.
const stroke = '\x01'

// components splits a value at its semicolons, but for escaped ones (RFC 6350, 3.4).
func components(value string) (out []string) {
	from, escaped := 0, false
	for i, r := range value {
		if r == ';' && !escaped {
			out = append(out, unescaped(value[from:i]))
			from = i + 1
		}
		escaped = r == stroke && !escaped
	}
	return append(out, unescaped(value[from:]))
}

// unescaped is a value without its escapes; one that escapes nothing stays.
func unescaped(value string) string {
	var out strings.Builder
	escaped := false
	for _, r := range value {
		switch {
		case escaped && (r == 'n' || r == 'N'):
			out.WriteByte('\n')
		case escaped && r == stroke:
			out.WriteByte('\\')
		case escaped && (r == ',' || r == ';' || r == ':'):
			out.WriteRune(r)
		case escaped:
			out.WriteString(`\` + string(r))
		case r != stroke:
			out.WriteRune(r)
		}
		escaped = r == stroke && !escaped
	}
	if escaped {
		out.WriteByte('\\')
	}
	return out.String()
}

func plain(f *vcard.Field) string { return unescaped(value(f)) }

// value is a field's value, decoded (vCard 2.1).
func value(f *vcard.Field) string {
	if f == nil {
		return ""
	}
	if !strings.EqualFold(f.Params.Get("ENCODING"), "QUOTED-PRINTABLE") {
		return f.Value
	}
	raw, err := io.ReadAll(quotedprintable.NewReader(strings.NewReader(f.Value)))
	if err != nil {
		return f.Value
	}
	return letter.DecodeText(raw, f.Params.Get("CHARSET"))
}

// nameOf is what a card that can't be read seems to be called.
func nameOf(card vcard.Card) string {
	if card == nil {
		return ""
	}
	return contactOf(card).Name
}
