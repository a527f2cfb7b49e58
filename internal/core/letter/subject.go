package letter

import (
	"regexp"
	"strings"
)

// Prefixes of answers and forwards in the languages of our users: English,
// the Nordic ones, Dutch, German, French, Spanish, Italian, Polish.
var (
	replyPrefix = regexp.MustCompile(`(?i)^\s*(re|sv|vs|aw|antw|odp|res|rif|réf|ref)(\[\d+\]|\(\d+\))?\s*:\s*`)
	anyPrefix   = regexp.MustCompile(`(?i)^\s*(re|sv|vs|aw|antw|odp|res|rif|réf|ref|fwd?|vb|wg|tr|i|pd|doorst)(\[\d+\]|\(\d+\))?\s*:\s*`)
	listTag     = regexp.MustCompile(`^\s*\[[^\]]{1,40}\]\s*`)
)

// IsReplySubject tells whether the subject says that it answers something.
func IsReplySubject(subject string) bool { return replyPrefix.MatchString(subject) }

// BareSubject is the subject without its prefixes in lower case: what two letters of one conversation
// share.
func BareSubject(subject string) string { return strings.ToLower(WithoutPrefixes(subject)) }

// WithoutPrefixes is the subject without prefixes of answering and forwarding and without list tags,
// in one line.
func WithoutPrefixes(subject string) string {
	for {
		stripped := anyPrefix.ReplaceAllString(subject, "")
		if stripped == subject {
			stripped = listTag.ReplaceAllString(subject, "")
		}
		if stripped == subject || stripped == "" {
			return strings.Join(strings.Fields(subject), " ")
		}
		subject = stripped
	}
}

// WithPrefix puts "Re: " or "Fwd: " before the subject, once.
func WithPrefix(prefix, subject string) string {
	if strings.HasPrefix(strings.ToLower(subject), strings.ToLower(prefix)) {
		return subject
	}
	if prefix == "Re: " && IsReplySubject(subject) {
		return prefix + replyPrefix.ReplaceAllString(subject, "")
	}
	return strings.TrimRight(prefix+subject, " ")
}
