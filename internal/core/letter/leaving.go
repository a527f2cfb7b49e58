package letter

import (
	"net/textproto"
	"net/url"
	"strings"
)

// Leaving says how a list says that it can be left (RFC 2369, RFC 8058); the zero Leaving of
// a letter that says nothing of it. Whether any of it may be done is for others to say.
type Leaving struct {
	// OneClick is an https address that takes one POST, "" for none.
	OneClick string `json:"oneClick,omitempty"`
	// Letter is the letter that is to be written; nil for none.
	Letter *Link `json:"letter,omitempty"`
	// Page is an address to be opened by hand, "" for none.
	Page string `json:"page,omitempty"`
}

// Is tells whether it says anything.
func (l Leaving) Is() bool { return l.OneClick != "" || l.Letter != nil || l.Page != "" }

// LeavingBy is how a list is left.
type LeavingBy string

// The ways; "" of a letter that says nothing of it.
const (
	ByOneClick LeavingBy = "click"
	ByLetter   LeavingBy = "letter"
	ByPage     LeavingBy = "page" // to be opened by hand
)

// Way is how the list is left and where that goes: by one click only where a signature was found to
// cover what the letter says (RFC 8058, 4), else by a letter, else on its page.
func (l Leaving) Way(signed bool) (by LeavingBy, to string) {
	switch {
	case l.OneClick != "" && signed:
		return ByOneClick, l.OneClick
	case l.Letter != nil:
		return ByLetter, l.Letter.To[0]
	case l.Page != "":
		return ByPage, l.Page
	}
	return "", ""
}

// What is read of a List-Unsubscribe field at most: the world sends fields of ten kilobytes.
const (
	longLeaving   = 8 << 10
	mostLeaving   = 10
	longLeavingAt = 2000
)

// LeavingOf reads it off the header of a letter alone.
func LeavingOf(raw []byte) Leaving {
	header, _ := splitHeader(raw)
	return leaving(readFields(header))
}

// leaving reads the fields that say how a list is left. Of several addresses of a kind the first
// counts. Others than https, http and mailto are none, as are those with a password in them.
func leaving(f textproto.MIMEHeader) (out Leaving) {
	field := clean(f.Get("List-Unsubscribe"))
	if len(field) > longLeaving {
		field = field[:longLeaving]
	}
	oneClick := strings.EqualFold(strings.Join(strings.Fields(f.Get("List-Unsubscribe-Post")), ""), "List-Unsubscribe=One-Click")
	for range mostLeaving {
		_, rest, ok := strings.Cut(field, "<")
		if !ok {
			break
		}
		var link string
		if link, field, ok = strings.Cut(rest, ">"); !ok {
			break
		}
		link = strings.Join(strings.Fields(link), "") // it may be folded anywhere
		if len(link) > longLeavingAt {
			continue
		}
		if to, err := Mailto(link); err == nil {
			if out.Letter == nil && len(to.To) == 1 && strings.Contains(to.To[0], "@") {
				out.Letter = &Link{To: to.To, Cc: []string{}, Bcc: []string{}, Subject: to.Subject, Body: to.Body}
			}
			continue
		}
		u, err := url.Parse(link)
		if err != nil || u.Host == "" || u.User != nil || u.Scheme != "https" && u.Scheme != "http" {
			continue
		}
		if out.Page == "" {
			out.Page = u.String()
		}
		if oneClick && out.OneClick == "" && u.Scheme == "https" {
			out.OneClick = u.String()
		}
	}
	return out
}
