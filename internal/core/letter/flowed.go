package letter

import "strings"

// unflow joins the lines that format=flowed has broken (RFC 3676): a line that
// ends in a space goes on in the next one of the same depth of quotation. With
// delsp that space is not part of the text.
func unflow(text string, delsp bool) string {
	var out strings.Builder
	open, openDepth := false, 0
	for i, line := range strings.Split(text, "\n") {
		line = strings.TrimSuffix(line, "\r")
		depth := len(line) - len(strings.TrimLeft(line, ">"))
		line = strings.TrimPrefix(line[depth:], " ") // space-stuffing
		signature := line == "-- "
		flows := strings.HasSuffix(line, " ") && !signature
		if flows && delsp {
			line = line[:len(line)-1]
		}
		if open && depth == openDepth && !signature {
			out.WriteString(line)
		} else {
			if i > 0 {
				out.WriteByte('\n')
			}
			out.WriteString(strings.Repeat(">", depth))
			if depth > 0 && line != "" {
				out.WriteByte(' ')
			}
			out.WriteString(line)
		}
		open, openDepth = flows, depth
	}
	return out.String()
}
