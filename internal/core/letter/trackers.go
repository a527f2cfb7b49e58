package letter

import (
	"net/url"
	"regexp"
	"slices"
	"strconv"
	"strings"

	"golang.org/x/net/html"
)

// Spying is what a letter's HTML brings along to tell its sender that it was
// read, or what was followed.
type Spying struct {
	// Pictures are remote ones that are too small to be seen, are hidden, or
	// carry a mark of the reader in their address.
	Pictures int `json:"pictures"`
	// Unseen are those of them that show nothing, and are never loaded.
	Unseen int `json:"unseen"`
	// Links counted the reader on the way; those that could be were made direct.
	Links int `json:"links"`
	// Disguised links show another address than the one they lead to.
	Disguised int `json:"disguised"`
}

// opaque is a stretch of an address that names a reader rather than a thing:
// long, and of both letters and digits.
var opaque = regexp.MustCompile(`[A-Za-z0-9_\-]{24,}`)

func hasMark(u *url.URL) bool {
	for _, found := range opaque.FindAllString(u.Path+"?"+u.RawQuery, -1) {
		if strings.ContainsAny(found, "0123456789") && strings.ContainsFunc(found, func(r rune) bool { return r >= 'A' && r <= 'Z' || r >= 'a' && r <= 'z' }) {
			return true
		}
	}
	return false
}

// unseen tells whether a picture is too small to be seen, or hidden.
func unseen(n *html.Node) bool {
	small := func(s string) bool {
		v, err := strconv.ParseFloat(strings.TrimSuffix(strings.TrimSpace(s), "px"), 64)
		return err == nil && v <= 2
	}
	for _, a := range n.Attr {
		switch a.Key {
		case "width", "height":
			if small(a.Val) {
				return true
			}
		case "style":
			for rule := range strings.SplitSeq(strings.ToLower(a.Val), ";") {
				name, value, _ := strings.Cut(rule, ":")
				switch name, value = strings.TrimSpace(name), strings.TrimSpace(value); name {
				case "width", "height", "max-width", "max-height":
					if small(value) {
						return true
					}
				case "display":
					if value == "none" {
						return true
					}
				}
			}
		}
	}
	return false
}

// countingParameters are query parameters that say who followed a link and
// from where; no page needs them.
var countingParameters = regexp.MustCompile(`(?i)^(utm_[a-z]+|trk|trk_[a-z]+|tracking_?id|campaign_?id|cmpid|recipient(_?id)?|subscriber(_?id)?|email_?id|click_?id)$`)

// counter is a host or a path that is there to count.
var counter = regexp.MustCompile(`(?i)(^|[./_-])(click|clicks|track|tracking|trk|redirect|redir|r)([./_-]|$)`)

// direct is where a link leads without being counted; counted tells that it
// was to be.
func direct(u *url.URL) (to *url.URL, counted bool) {
	query := u.Query()
	if counter.MatchString(u.Host + u.Path) {
		for _, values := range query {
			for _, v := range values {
				if target, err := url.Parse(v); err == nil && (target.Scheme == "https" || target.Scheme == "http") && target.Host != "" {
					to, _ := direct(target)
					return to, true
				}
			}
		}
	}
	for name := range query {
		if countingParameters.MatchString(name) {
			query.Del(name)
			counted = true
		}
	}
	if counted {
		without := *u
		without.RawQuery = query.Encode()
		return &without, true
	}
	return u, counter.MatchString(u.Host+u.Path) && hasMark(u)
}

var addressText = regexp.MustCompile(`(?i)^\s*(?:https?://)?((?:[a-z0-9-]+\.)+[a-z]{2,})(?:[/?#:]\S*)?\s*$`)

// disguised gives the host to which a link leads that shows another one.
func disguised(text string, to *url.URL) string {
	m := addressText.FindStringSubmatch(text)
	if m == nil || to.Hostname() == "" {
		return ""
	}
	shown, real := strings.TrimPrefix(strings.ToLower(m[1]), "www."), strings.TrimPrefix(strings.ToLower(to.Hostname()), "www.")
	if shown == real || strings.HasSuffix(real, "."+shown) || strings.HasSuffix(shown, "."+real) {
		return ""
	}
	return real
}

// settleLink makes a link direct, and lets it say where it leads if it shows
// something else.
func (s *Spying) settleLink(n *html.Node) {
	i := slices.IndexFunc(n.Attr, func(a html.Attribute) bool { return a.Key == "href" })
	if i < 0 {
		return
	}
	u, err := url.Parse(n.Attr[i].Val)
	if err != nil || u.Scheme != "http" && u.Scheme != "https" {
		return
	}
	to, counted := direct(u)
	if counted {
		s.Links++
		n.Attr[i].Val = to.String()
	}
	if host := disguised(textOf(n), to); host != "" {
		s.Disguised++
		n.AppendChild(&html.Node{Type: html.TextNode, Data: " [leads to " + host + "]"})
	}
}
