package letter

import (
	netmail "net/mail"
	"regexp"
	"strings"
)

var forwardedFrom = regexp.MustCompile(`(?im)^[>\s]*\*?(?:from|fra|von|van|de)\*?:\s*(.+)$`)

// Carried is the letter that this one was forwarded with, as an attachment;
// nil if there is none.
func (l Letter) Carried() []byte {
	for _, p := range l.Parts {
		if IsLetterType(p.ContentType) && p.Content != nil {
			return p.Content
		}
	}
	return nil
}

// ForwardedFrom is who wrote the letter that was forwarded within the text; ok
// is false if nobody is named.
func (l Letter) ForwardedFrom() (from Address, ok bool) {
	for _, m := range forwardedFrom.FindAllStringSubmatch(l.Text, 5) {
		text := strings.TrimSpace(strings.NewReplacer("[mailto:", "<", "]", ">", "*", "").Replace(m[1]))
		if a, err := netmail.ParseAddress(text); err == nil {
			return Address{Name: a.Name, Email: a.Address}, true
		}
		if name, rest, found := strings.Cut(text, "<"); found { // a name that should have been quoted
			if a, err := netmail.ParseAddress(strings.TrimSuffix(strings.TrimSpace(rest), ">")); err == nil {
				return Address{Name: strings.Trim(strings.TrimSpace(name), `"`), Email: a.Address}, true
			}
		}
	}
	return Address{}, false
}

// Calendar is the text of the letter's calendar part (RFC 6047); "" if it has
// none.
func (l Letter) Calendar() string {
	for _, p := range l.Parts {
		kind, _, _ := strings.Cut(strings.ToLower(p.ContentType), ";")
		if strings.TrimSpace(kind) == "text/calendar" && p.Content != nil {
			return decodeText(p.Content, p.Charset, false)
		}
	}
	return ""
}
