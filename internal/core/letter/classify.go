package letter

import (
	"net/textproto"
	"slices"
	"strings"

	"github.com/emersion/go-msgauth/authres"
	"github.com/jhillyerd/enmime/v2"
)

// classify tells automatic mail from a person's: by Auto-Submitted (RFC
// 3834), an empty return path, multipart/report (RFC 6522), list fields (RFC
// 2369, RFC 2919), Precedence, and meeting answers (RFC 5546).
func classify(f textproto.MIMEHeader, root *enmime.Part, emptyPath bool) Automatic {
	auto, _, _ := strings.Cut(strings.ToLower(f.Get("Auto-Submitted")), ";")
	auto = strings.TrimSpace(auto)
	precedence := precedenceOf(f)
	switch {
	case strings.HasPrefix(strings.ToLower(f.Get("Content-Type")), "multipart/report"):
		return Report
	case auto == "auto-replied":
		return AutoReply
	case auto != "" && auto != "no":
		return Generated
	case emptyPath:
		return Report
	case strings.Contains(strings.ToLower(f.Get("Content-Type")), "method=reply") || isMeetingReply(root):
		return MeetingReply
	case f.Get("List-Id") != "" || f.Get("List-Unsubscribe") != "":
		return List
	case precedence == "bulk" || precedence == "list" || precedence == "junk":
		return Bulk
	}
	return Personal
}

func precedenceOf(f textproto.MIMEHeader) string {
	return strings.ToLower(strings.TrimSpace(f.Get("Precedence")))
}

// longListID bounds, in bytes, the name of a list: RFC 2919 allows 255.
const longListID = 255

// listOf is the name of a list out of a List-Id field (RFC 2919): what stands in the last
// angle brackets, or all of a field that has none. A name that is too long is none.
func listOf(field string) string {
	if from := strings.LastIndexByte(field, '<'); from >= 0 {
		field, _, _ = strings.Cut(field[from+1:], ">")
	}
	id := strings.ToLower(strings.Join(strings.Fields(clean(field)), " "))
	if len(id) > longListID {
		return ""
	}
	return id
}

// spoofed tells that the own server, whose Authentication-Results field stands above all that
// others may have written, says that DMARC failed.
func spoofed(f textproto.MIMEHeader) bool {
	_, results, err := authres.Parse(f.Get("Authentication-Results"))
	return err == nil && slices.ContainsFunc(results, func(r authres.Result) bool {
		d, ok := r.(*authres.DMARCResult)
		return ok && d.Value == authres.ResultFail
	})
}

// namesEmptyPath tells that the header keeps an empty return path.
func namesEmptyPath(f textproto.MIMEHeader) bool {
	_, has := f["Return-Path"]
	path := strings.TrimSpace(f.Get("Return-Path"))
	return has && (path == "<>" || path == "")
}

// Under is the letter as it came in an envelope with that sender (RFC 5321,
// reverse-path; "" for an empty one). What the envelope says outranks a
// Return-Path field, which anybody can write.
func (l Letter) Under(returnPath string) Letter {
	l.ReturnPath, l.Automatic = returnPath, l.byItself
	if returnPath == "" {
		l.Automatic = l.underEmpty
	}
	return l
}

func isMeetingReply(root *enmime.Part) bool {
	if root == nil {
		return false
	}
	return root.BreadthMatchFirst(func(p *enmime.Part) bool {
		if !strings.EqualFold(p.ContentType, "text/calendar") {
			return false
		}
		return strings.EqualFold(paramsOf(p)["method"], "reply") ||
			strings.Contains(strings.ToUpper(string(p.Content)), "METHOD:REPLY")
	}) != nil
}
