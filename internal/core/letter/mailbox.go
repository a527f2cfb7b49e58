package letter

import "strings"

// Mailboxes are the addresses that a recipient may mean, the likeliest first:
// the address itself, and without what stands after a “+” in its local part
// (a sub-address, RFC 5233). A dot at the end of the domain only says that it
// is whole. They are in the form of Address.Key.
func Mailboxes(recipient string) []string {
	key := Address{Email: strings.TrimRight(strings.TrimSpace(recipient), ".")}.Key()
	at := strings.LastIndexByte(key, '@')
	if at < 0 {
		return []string{key}
	}
	local, domain := strings.Trim(key[:at], `"`), key[at:]
	out := []string{local + domain}
	if name, _, tagged := strings.Cut(local, "+"); tagged && name != "" {
		out = append(out, name+domain)
	}
	return out
}
