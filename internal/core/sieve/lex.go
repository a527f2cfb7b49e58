// Package sieve reads and writes mail filters in the Sieve language (RFC 5228): rules become a script
// that a mail server can run, and scripts become rules.
package sieve

import (
	"fmt"
	"math"
	"strconv"
	"strings"
	"unicode/utf8"
)

// Error is what is wrong with a script, and on which line, counted from 1.
type Error struct {
	Line int
	What string
}

func (e *Error) Error() string { return fmt.Sprintf("line %d: %s", e.Line, e.What) }

// kind is what sort of token one is (RFC 5228, 8.1).
type kind int

const (
	end kind = iota
	identifier
	tag
	number
	text
	sign // one of ( ) { } [ ] , ;
)

type token struct {
	kind   kind
	line   int
	text   string // of identifiers and tags in lower case
	number int64
	// said is the comment that stands right before it.
	said string
}

// lexer cuts a script into tokens.
type lexer struct {
	rest string
	line int
	said string
}

func (l *lexer) wrong(format string, args ...any) error {
	return &Error{l.line, fmt.Sprintf(format, args...)}
}

// take gives the next n bytes and goes on behind them.
func (l *lexer) take(n int) string {
	out := l.rest[:n]
	l.rest = l.rest[n:]
	l.line += strings.Count(out, "\n")
	return out
}

// skip passes over white space and comments (RFC 5228, 2.2 and 2.3).
func (l *lexer) skip() error {
	for l.rest != "" {
		switch {
		case strings.ContainsRune(" \t\r\n", rune(l.rest[0])):
			if strings.HasPrefix(l.rest, "\n\n") || strings.HasPrefix(l.rest, "\n\r\n") {
				l.said = "" // an empty line parts a comment from what follows
			}
			l.take(1)
		case l.rest[0] == '#':
			n := strings.IndexByte(l.rest, '\n')
			if n < 0 {
				n = len(l.rest)
			}
			l.said = strings.TrimSpace(strings.TrimLeft(l.take(n), "#"))
		case strings.HasPrefix(l.rest, "/*"):
			n := strings.Index(l.rest[2:], "*/")
			if n < 0 {
				return l.wrong("a comment is not closed")
			}
			l.said = strings.TrimSpace(l.take(n + 4)[2 : n+2])
		default:
			return nil
		}
	}
	return nil
}

func (l *lexer) next() (t token, err error) {
	if err := l.skip(); err != nil {
		return t, err
	}
	t = token{line: l.line, said: l.said}
	l.said = ""
	if l.rest == "" {
		return t, nil
	}
	switch c := l.rest[0]; {
	case strings.IndexByte("(){}[],;", c) >= 0:
		t.kind, t.text = sign, l.take(1)
	case c == '"':
		t.kind = text
		t.text, err = l.quoted()
	case c >= '0' && c <= '9':
		t.kind = number
		t.number, err = l.number()
	case c == ':' && len(l.rest) > 1 && starts(l.rest[1]):
		l.take(1)
		t.kind, t.text = tag, strings.ToLower(l.word())
	case starts(c):
		t.kind, t.text = identifier, strings.ToLower(l.word())
		if t.text == "text" && strings.HasPrefix(l.rest, ":") {
			t.kind = text
			t.text, err = l.lines()
		}
	default:
		return t, l.wrong("“%s” has no meaning here", firstRune(l.rest))
	}
	return t, err
}

func firstRune(s string) string {
	_, n := utf8.DecodeRuneInString(s)
	return strings.ToValidUTF8(s[:n], "�")
}

func starts(c byte) bool { return c == '_' || c|0x20 >= 'a' && c|0x20 <= 'z' }

func (l *lexer) word() string {
	n := 1
	for n < len(l.rest) && (starts(l.rest[n]) || l.rest[n] >= '0' && l.rest[n] <= '9') {
		n++
	}
	return l.take(n)
}

// number reads digits and a quantifier, of powers of 1024 (RFC 5228, 2.4.1).
func (l *lexer) number() (int64, error) {
	n := 0
	for n < len(l.rest) && l.rest[n] >= '0' && l.rest[n] <= '9' {
		n++
	}
	v, err := strconv.ParseInt(l.take(n), 10, 64)
	shift := 0
	if l.rest != "" {
		shift = map[byte]int{'k': 10, 'm': 20, 'g': 30}[l.rest[0]|0x20]
	}
	if shift > 0 {
		l.take(1)
	}
	if err != nil || v > math.MaxInt32<<10 {
		return 0, l.wrong("that number is too large")
	}
	return v << shift, nil
}

// quoted reads a quoted string; a backslash takes the next sign as it is.
func (l *lexer) quoted() (string, error) {
	var b strings.Builder
	for i := 1; i < len(l.rest); i++ {
		switch c := l.rest[i]; {
		case c == '\\' && i+1 < len(l.rest):
			i++
			b.WriteByte(l.rest[i])
		case c == '"':
			l.take(i + 1)
			return b.String(), nil
		default:
			b.WriteByte(c)
		}
	}
	return "", l.wrong("a text is not closed")
}

// lines reads a multi-line string: to a line that is a dot; dots that begin a line are doubled.
func (l *lexer) lines() (string, error) {
	l.take(1) // the colon
	n := strings.IndexByte(l.rest, '\n')
	if n < 0 {
		return "", l.wrong("a text is not closed")
	}
	if head := strings.TrimSpace(l.rest[:n]); head != "" && head[0] != '#' {
		return "", l.wrong("the lines of a text begin on the next line")
	}
	l.take(n + 1)
	var b strings.Builder
	for l.rest != "" {
		n := strings.IndexByte(l.rest, '\n')
		if n < 0 {
			n = len(l.rest) - 1
		}
		line := strings.TrimRight(l.take(n+1), "\r\n")
		if line == "." {
			return b.String(), nil
		}
		if strings.HasPrefix(line, "..") {
			line = line[1:]
		}
		b.WriteString(line + "\n")
	}
	return "", l.wrong("a text is not closed")
}
