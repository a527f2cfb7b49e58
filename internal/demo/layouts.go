package demo

import (
	"fmt"
	"html"
	"strings"
)

// layouts are the habits of those who write HTML: a newsletter under a banner, a
// bill as a table, a notice on a card, news in columns, an offer on a dark page.
// Each gives what stands before the text and after it; "" is a plain letter.
var layouts = map[string]func(m message, body string) string{
	"": func(m message, body string) string {
		head := ""
		if m.list {
			head = fmt.Sprintf(`<h2 style="color:#3F7436">%s</h2>`, html.EscapeString(m.subject))
		}
		return `<div style="font-family: Georgia, serif; color: #22302c">` + head + body + "</div>"
	},
	"plain": func(m message, body string) string {
		return `<font face="Arial" size="2">` + body + `</font><hr><font face="Arial" size="1" color="#888888">` + html.EscapeString(m.from.Name) + `. This letter was written by a machine.</font>`
	},
	"banner": func(m message, body string) string {
		return fmt.Sprintf(`<center><table width="600" cellpadding="0" cellspacing="0"><tr><td style="background:%s;color:#ffffff;padding:24px;font:bold 24px Georgia">%s</td></tr>
<tr><td style="padding:24px;font:16px/1.5 Georgia;color:#222222"><h2>%s</h2>%s</td></tr><tr><td style="padding:12px 24px;font:12px Arial;color:#777777;border-top:1px solid #dddddd">You get this because you asked for it. <a href="https://%s/leave">Leave the list</a></td></tr></table></center>`,
			m.colour, html.EscapeString(m.from.Name), html.EscapeString(m.subject), body, domainOf(m))
	},
	"ledger": func(m message, body string) string {
		return fmt.Sprintf(`<div style="max-width:560px;font:14px/1.5 Arial;color:#222222"><p style="border-left:6px solid %s;padding-left:12px;font-weight:bold">%s</p>%s<p style="color:#888888;font-size:12px">%s, by post and by wire</p></div>`,
			m.colour, html.EscapeString(m.from.Name), body, html.EscapeString(m.from.Name))
	},
	"card": func(m message, body string) string {
		return fmt.Sprintf(`<div style="background:#f3f3f1;padding:32px"><div style="max-width:460px;margin:auto;background:#ffffff;border-top:4px solid %s;border-radius:8px;padding:20px;font:15px/1.5 Helvetica,Arial"><h3 style="margin-top:0">%s</h3>%s
<p><a href="https://%s/" style="display:inline-block;background:%s;color:#ffffff;padding:8px 16px;border-radius:6px;text-decoration:none">Look</a></p></div></div>`,
			m.colour, html.EscapeString(m.subject), body, domainOf(m), m.colour)
	},
	"columns": func(m message, body string) string {
		return fmt.Sprintf(`<table width="100%%" style="font:14px/1.5 Verdana;color:#333333"><tr><td width="120" valign="top" style="color:%s"><b>%s</b></td><td>%s</td></tr></table>`,
			m.colour, html.EscapeString(m.from.Name), body)
	},
	"dark": func(m message, body string) string {
		return fmt.Sprintf(`<body bgcolor="#1d1d1d"><div style="background:#1d1d1d;color:#f0f0f0;padding:40px;text-align:center;font:18px Arial"><div style="font-size:30px;color:%s">%s</div>%s<p style="font-size:11px;color:#999999"><a style="color:#999999" href="https://%s/out">No more of this</a></p></div></body>`,
			m.colour, html.EscapeString(m.subject), body, domainOf(m))
	},
}

func domainOf(m message) string {
	_, domain, _ := strings.Cut(m.from.Email, "@")
	return domain
}

// paragraphs writes a text as HTML; lines with a bar are rows of a table.
func paragraphs(text string) string {
	var b strings.Builder
	for p := range strings.SplitSeq(text, "\n\n") {
		if !strings.Contains(p, " | ") {
			b.WriteString("<p>" + strings.ReplaceAll(html.EscapeString(p), "\n", "<br>") + "</p>")
			continue
		}
		b.WriteString(`<table cellpadding="6" style="border-collapse:collapse">`)
		for line := range strings.SplitSeq(p, "\n") {
			left, right, _ := strings.Cut(line, " | ")
			fmt.Fprintf(&b, `<tr style="border-bottom:1px solid #dddddd"><td>%s</td><td align="right">%s</td></tr>`, html.EscapeString(left), html.EscapeString(right))
		}
		b.WriteString("</table>")
	}
	return b.String()
}
