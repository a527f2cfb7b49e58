package letter

import (
	"strings"
	"unicode/utf8"
)

// How long the lines of format=flowed are, in characters (RFC 3676, 4.2): longer ones
// are broken where a word ends.
const (
	flowedLine = 78
	brokenLine = 72
)

// signatureMark is the line above a signature (RFC 3676, 4.3).
const signatureMark = "-- "

// flow writes text as format=flowed (RFC 3676), with LF line ends: lines that are too
// long end in a space and go on in the next. Blanks at the end of a line are lost, for they
// would say that it goes on; those of the signature mark are kept.
func flow(text string) string {
	var out strings.Builder
	for i, line := range strings.Split(text, "\n") {
		if i > 0 {
			out.WriteByte('\n')
		}
		line = strings.TrimSuffix(line, "\r")
		if line == signatureMark {
			out.WriteString(line)
			continue
		}
		line = strings.TrimRight(line, " ")
		rest := strings.TrimLeft(line, ">")
		quoted := line[:len(line)-len(rest)]
		if quoted != "" {
			rest = strings.TrimPrefix(rest, " ")
		}
		for j, piece := range broken(rest) {
			if j > 0 {
				out.WriteByte('\n')
			}
			out.WriteString(quoted)
			if quoted != "" && piece != "" || strings.HasPrefix(piece, " ") || strings.HasPrefix(piece, ">") || strings.HasPrefix(piece, "From ") {
				out.WriteByte(' ') // space-stuffing
			}
			out.WriteString(piece)
		}
	}
	return out.String()
}

// broken cuts a line into pieces, each but the last ending in the space at which it was
// cut. None of them is a signature mark.
func broken(line string) []string {
	if utf8.RuneCountInString(line) <= flowedLine {
		return []string{line}
	}
	var out []string
	start, length, space := 0, 0, -1
	for i, r := range line {
		if length >= brokenLine && space > start && line[start:space+1] != signatureMark {
			out = append(out, line[start:space+1])
			length, start = utf8.RuneCountInString(line[space+1:i]), space+1
			space = -1
		}
		length++
		if r == ' ' {
			space = i
		}
	}
	return append(out, line[start:])
}

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
		signature := line == signatureMark
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
