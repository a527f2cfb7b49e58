// Package ical reads files of calendars and of tasks (iCalendar, RFC 5545).
package ical

import (
	"fmt"
	"strings"
)

// Calendars of the world break the grammar of RFC 5545 in small ways. They are
// read line by line here, so that one bad line costs only itself; what can't
// be read is named.

// Property is a content line (RFC 5545, 3.1).
type Property struct {
	Name   string
	Params map[string][]string
	Value  string
}

// Param is the first value of a parameter; "" where there is none.
func (p Property) Param(name string) string {
	if list := p.Params[name]; len(list) > 0 {
		return list[0]
	}
	return ""
}

// Text is a value of the type TEXT (RFC 5545, 3.3.11).
func (p Property) Text() string { return unescaped.Replace(strings.TrimSpace(p.Value)) }

// Texts are the values of a list of them: a comma that is escaped divides none.
func (p Property) Texts() (out []string) {
	start := 0
	for i := 0; i <= len(p.Value); i++ {
		switch {
		case i == len(p.Value) || p.Value[i] == ',':
			out = append(out, Property{Value: p.Value[start:i]}.Text())
			start = i + 1
		case p.Value[i] == '\\' && i+1 < len(p.Value):
			i++
		}
	}
	return out
}

var unescaped = strings.NewReplacer(`\\`, `\`, `\n`, "\n", `\N`, "\n", `\;`, ";", `\,`, ",")

// Component is a BEGIN, its END, and what stands between (RFC 5545, 3.6).
type Component struct {
	Name     string
	Props    []Property
	Children []*Component
}

// Get is its first property of a name.
func (c *Component) Get(name string) (Property, bool) {
	for _, p := range c.Props {
		if p.Name == name {
			return p, true
		}
	}
	return Property{}, false
}

// Text is the text of its first property of a name; "" where there is none.
func (c *Component) Text(name string) string {
	p, _ := c.Get(name)
	return p.Text()
}

// All are its properties of a name.
func (c *Component) All(name string) (out []Property) {
	for _, p := range c.Props {
		if p.Name == name {
			out = append(out, p)
		}
	}
	return out
}

// Named are the components in it of a name.
func (c *Component) Named(name string) (out []*Component) {
	for _, child := range c.Children {
		if child.Name == name {
			out = append(out, child)
		}
	}
	return out
}

// maxLines bounds how many lines of a file are read.
const maxLines = 2_000_000

// Read reads the components of a file, whichever stand at its top.
func Read(data string) (top *Component, troubles []string) {
	top = &Component{}
	stack := []*Component{top}
	for n, line := range unfolded(data) {
		if n > maxLines {
			return top, append(troubles, "the file is too long: its end was left out")
		}
		p, ok := contentLine(line)
		if !ok {
			troubles = append(troubles, fmt.Sprintf("a line can’t be read: “%s”", Shorten(line)))
			continue
		}
		switch p.Name {
		case "BEGIN":
			c := &Component{Name: strings.ToUpper(strings.TrimSpace(p.Value))}
			parent := stack[len(stack)-1]
			parent.Children = append(parent.Children, c)
			stack = append(stack, c)
		case "END":
			name := strings.ToUpper(strings.TrimSpace(p.Value))
			for i := len(stack) - 1; i > 0; i-- {
				if stack[i].Name == name {
					stack = stack[:i]
					break
				}
			}
		default:
			c := stack[len(stack)-1]
			c.Props = append(c.Props, p)
		}
	}
	return top, troubles
}

// Shorten keeps what is said of a file short.
func Shorten(s string) string {
	if r := []rune(s); len(r) > 60 {
		return string(r[:60]) + "…"
	}
	return s
}

// unfolded gives the lines of a file, joined where they were folded, and none
// that are empty.
func unfolded(data string) []string {
	data = strings.TrimPrefix(data, "\ufeff")
	data = strings.NewReplacer("\r\n", "\n", "\r", "\n").Replace(data)
	var out []string
	var line strings.Builder
	flush := func() {
		if strings.TrimSpace(line.String()) != "" {
			out = append(out, line.String())
		}
		line.Reset()
	}
	for raw := range strings.SplitSeq(data, "\n") {
		if raw != "" && (raw[0] == ' ' || raw[0] == '\t') && line.Len() > 0 {
			line.WriteString(raw[1:])
			continue
		}
		flush()
		line.WriteString(raw)
	}
	flush()
	return out
}

// contentLine reads one line. Where a quotation is never closed the value
// begins at an address, or at the first colon.
func contentLine(line string) (Property, bool) {
	p := Property{Params: map[string][]string{}}
	end := strings.IndexAny(line, ";:")
	if end <= 0 {
		return p, false
	}
	p.Name = strings.ToUpper(strings.TrimSpace(line[:end]))
	if p.Name == "" || strings.ContainsAny(p.Name, " \t\"") {
		return p, false
	}
	head, value, ok := cutUnquoted(line[end:], ':')
	if !ok {
		i := strings.Index(strings.ToLower(line), ":mailto:")
		if i < 0 {
			i = strings.IndexByte(line, ':')
		}
		if i < end {
			return p, false
		}
		head, value = line[end:i], line[i+1:]
	}
	p.Value = value
	for head != "" {
		var param string
		param, head, _ = cutUnquoted(strings.TrimPrefix(head, ";"), ';')
		key, text, _ := strings.Cut(param, "=")
		if key = strings.ToUpper(strings.TrimSpace(key)); key == "" {
			continue
		}
		for text != "" {
			var one string
			one, text, _ = cutUnquoted(text, ',')
			p.Params[key] = append(p.Params[key], strings.NewReplacer("^n", "\n", "^^", "^", "^'", `"`).Replace(strings.Trim(strings.TrimSpace(one), `"`)))
		}
	}
	return p, true
}

// cutUnquoted cuts at a byte that does not stand within quotes.
func cutUnquoted(s string, at byte) (before, after string, found bool) {
	quoted := false
	for i := range len(s) {
		switch {
		case s[i] == '"':
			quoted = !quoted
		case s[i] == at && !quoted:
			return s[:i], s[i+1:], true
		}
	}
	return s, "", false
}

// String writes a component as it was read: for what is kept as it is.
func (c *Component) String() string {
	var b strings.Builder
	b.WriteString("BEGIN:" + c.Name + "\r\n")
	for _, p := range c.Props {
		b.WriteString(p.Name + ":" + p.Value + "\r\n")
	}
	for _, child := range c.Children {
		b.WriteString(child.String())
	}
	b.WriteString("END:" + c.Name + "\r\n")
	return b.String()
}
