package sieve

import (
	"fmt"
	"unicode/utf8"
)

// Command is a command or a test (RFC 5228, 8.2): its arguments, the tests that it takes, and for a
// command the block behind it.
type Command struct {
	Line  int
	Name  string // in lower case
	Said  string // the comment right before it
	Args  []Arg
	Tests []Command
	Block []Command
	// Blocked tells that there is a block, if an empty one.
	Blocked bool
}

// Arg is a tag without its colon, a number, or texts.
type Arg struct {
	Tag    string
	Number int64
	Texts  []string
	// Is tells of which sort it is.
	Is ArgKind
}

// ArgKind is of which sort an argument is.
type ArgKind int

// The sorts.
const (
	IsTag ArgKind = iota
	IsNumber
	IsTexts
)

const (
	// MaxSize bounds scripts, in bytes; maxDepth blocks, tests and lists within each other.
	MaxSize  = 1 << 20
	maxDepth = 32
)

// Parse reads a script by the grammar of RFC 5228, section 8. It gives the first error with its line.
func Parse(script string) ([]Command, error) {
	if len(script) > MaxSize {
		return nil, &Error{1, fmt.Sprintf("the script is larger than %d kB", MaxSize>>10)}
	}
	if !utf8.ValidString(script) {
		return nil, &Error{1, "the script is not UTF-8"}
	}
	p := &parser{lexer: lexer{rest: script, line: 1}}
	if err := p.advance(); err != nil {
		return nil, err
	}
	out, err := p.commands(0)
	if err == nil && p.at.kind != end {
		err = p.unexpected()
	}
	return out, err
}

type parser struct {
	lexer
	at token
}

func (p *parser) advance() (err error) {
	p.at, err = p.next()
	return err
}

func (p *parser) is(s string) bool { return p.at.kind == sign && p.at.text == s }

func (p *parser) unexpected() error {
	if p.at.kind == end {
		return &Error{p.at.line, "the script ends in the middle of a command"}
	}
	what := p.at.text
	if p.at.kind == number {
		what = fmt.Sprint(p.at.number)
	}
	if r := []rune(what); len(r) > 40 {
		what = string(r[:40]) + "…"
	}
	return &Error{p.at.line, fmt.Sprintf("“%s” is not expected here", what)}
}

func (p *parser) expect(s string) error {
	if !p.is(s) {
		return p.unexpected()
	}
	return p.advance()
}

func (p *parser) deep(depth int) error {
	if depth > maxDepth {
		return &Error{p.at.line, fmt.Sprintf("blocks or tests are nested more than %d deep", maxDepth)}
	}
	return nil
}

func (p *parser) commands(depth int) (out []Command, err error) {
	if err := p.deep(depth); err != nil {
		return nil, err
	}
	for p.at.kind == identifier {
		c, err := p.command(depth)
		if err != nil {
			return nil, err
		}
		out = append(out, c)
	}
	return out, nil
}

func (p *parser) command(depth int) (Command, error) {
	c, err := p.call(depth)
	if err != nil {
		return c, err
	}
	branch := c.Name == "if" || c.Name == "elsif"
	switch {
	case branch && len(c.Tests) != 1:
		return c, &Error{c.Line, "“" + c.Name + "” needs one test"}
	case p.is(";") && (branch || c.Name == "else"):
		return c, &Error{p.at.line, "“" + c.Name + "” needs a block"}
	case p.is(";"):
		return c, p.advance()
	}
	if err := p.expect("{"); err != nil {
		return c, err
	}
	c.Blocked = true
	if c.Block, err = p.commands(depth + 1); err != nil {
		return c, err
	}
	return c, p.expect("}")
}

// call reads a name with its arguments and tests.
func (p *parser) call(depth int) (c Command, err error) {
	if err := p.deep(depth); err != nil {
		return c, err
	}
	if p.at.kind != identifier {
		return c, p.unexpected()
	}
	c = Command{Line: p.at.line, Name: p.at.text, Said: p.at.said}
	if err := p.advance(); err != nil {
		return c, err
	}
	for {
		a := Arg{}
		switch {
		case p.at.kind == tag:
			a = Arg{Tag: p.at.text, Is: IsTag}
		case p.at.kind == number:
			a = Arg{Number: p.at.number, Is: IsNumber}
		case p.at.kind == text:
			a = Arg{Texts: []string{p.at.text}, Is: IsTexts}
		case p.is("["):
			if a, err = p.texts(); err != nil {
				return c, err
			}
			c.Args = append(c.Args, a)
			continue
		default:
			c.Tests, err = p.tests(depth)
			return c, err
		}
		c.Args = append(c.Args, a)
		if err := p.advance(); err != nil {
			return c, err
		}
	}
}

// texts reads a list of strings.
func (p *parser) texts() (a Arg, err error) {
	a.Is = IsTexts
	for {
		if err := p.advance(); err != nil { // the bracket or comma
			return a, err
		}
		if p.at.kind != text {
			return a, p.unexpected()
		}
		a.Texts = append(a.Texts, p.at.text)
		if err := p.advance(); err != nil {
			return a, err
		}
		if p.is(",") {
			continue
		}
		return a, p.expect("]")
	}
}

// tests reads the test, or the tests in parentheses, that follow.
func (p *parser) tests(depth int) (out []Command, err error) {
	if p.at.kind == identifier {
		t, err := p.call(depth + 1)
		return []Command{t}, err
	}
	if !p.is("(") {
		return nil, nil
	}
	for {
		if err := p.advance(); err != nil { // the parenthesis or comma
			return nil, err
		}
		t, err := p.call(depth + 1)
		if err != nil {
			return nil, err
		}
		out = append(out, t)
		if p.is(",") {
			continue
		}
		return out, p.expect(")")
	}
}
