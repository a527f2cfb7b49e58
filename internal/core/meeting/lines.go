package meeting

import (
	"fmt"
	"strings"
)

// Calendars of the world break the grammar of RFC 5545 in small ways. They are
// read line by line here, so that one bad line costs only itself; what can't
// be read is named.

// property is a content line (RFC 5545, 3.1).
type property struct {
	name   string
	params map[string][]string
	value  string
}

func (p property) param(name string) string {
	if list := p.params[name]; len(list) > 0 {
		return list[0]
	}
	return ""
}

// text is a value of the type TEXT (RFC 5545, 3.3.11).
func (p property) text() string {
	return strings.TrimSpace(strings.NewReplacer(`\\`, `\`, `\n`, "\n", `\N`, "\n", `\;`, ";", `\,`, ",").Replace(p.value))
}

type component struct {
	name     string
	props    []property
	children []*component
}

func (c *component) get(name string) (property, bool) {
	for _, p := range c.props {
		if p.name == name {
			return p, true
		}
	}
	return property{}, false
}

func (c *component) text(name string) string {
	p, _ := c.get(name)
	return p.text()
}

func (c *component) all(name string) (out []property) {
	for _, p := range c.props {
		if p.name == name {
			out = append(out, p)
		}
	}
	return out
}

func (c *component) named(name string) (out []*component) {
	for _, child := range c.children {
		if child.name == name {
			out = append(out, child)
		}
	}
	return out
}

// maxLines bounds how many lines of a file are read.
const maxLines = 2_000_000

// components reads the components of a file, whichever stand at its top.
func components(data string) (top *component, troubles []string) {
	top = &component{}
	stack := []*component{top}
	for n, line := range unfolded(data) {
		if n > maxLines {
			return top, append(troubles, "the file is too long: its end was left out")
		}
		p, ok := contentLine(line)
		if !ok {
			troubles = append(troubles, fmt.Sprintf("a line can’t be read: “%s”", shorten(line)))
			continue
		}
		switch p.name {
		case "BEGIN":
			c := &component{name: strings.ToUpper(strings.TrimSpace(p.value))}
			parent := stack[len(stack)-1]
			parent.children = append(parent.children, c)
			stack = append(stack, c)
		case "END":
			name := strings.ToUpper(strings.TrimSpace(p.value))
			for i := len(stack) - 1; i > 0; i-- {
				if stack[i].name == name {
					stack = stack[:i]
					break
				}
			}
		default:
			c := stack[len(stack)-1]
			c.props = append(c.props, p)
		}
	}
	return top, troubles
}

func shorten(s string) string {
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
func contentLine(line string) (property, bool) {
	p := property{params: map[string][]string{}}
	end := strings.IndexAny(line, ";:")
	if end <= 0 {
		return p, false
	}
	p.name = strings.ToUpper(strings.TrimSpace(line[:end]))
	if strings.ContainsAny(p.name, " \t\"") {
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
	p.value = value
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
			p.params[key] = append(p.params[key], strings.NewReplacer("^n", "\n", "^^", "^", "^'", `"`).Replace(strings.Trim(strings.TrimSpace(one), `"`)))
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
func (c *component) String() string {
	var b strings.Builder
	b.WriteString("BEGIN:" + c.name + "\r\n")
	for _, p := range c.props {
		b.WriteString(p.name + ":" + p.value + "\r\n")
	}
	for _, child := range c.children {
		b.WriteString(child.String())
	}
	b.WriteString("END:" + c.name + "\r\n")
	return b.String()
}
