package letter

import (
	"net/textproto"
	"strings"

	"github.com/jhillyerd/enmime/v2"
)

// classify tells automatic mail from a person's: by Auto-Submitted (RFC
// 3834), an empty return path, multipart/report (RFC 6522), list fields (RFC
// 2369, RFC 2919), Precedence, and meeting answers (RFC 5546).
func classify(f textproto.MIMEHeader, root *enmime.Part) Automatic {
	auto, _, _ := strings.Cut(strings.ToLower(f.Get("Auto-Submitted")), ";")
	auto = strings.TrimSpace(auto)
	precedence := strings.ToLower(f.Get("Precedence"))
	_, hasPath := f["Return-Path"]
	path := strings.TrimSpace(f.Get("Return-Path"))
	switch {
	case strings.HasPrefix(strings.ToLower(f.Get("Content-Type")), "multipart/report"):
		return Report
	case auto == "auto-replied":
		return AutoReply
	case auto != "" && auto != "no":
		return Generated
	case hasPath && (path == "<>" || path == ""):
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
