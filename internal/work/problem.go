package work

import "fmt"

// Problem is an error meant for the person: what happened, and what to do.
type Problem struct {
	Reason string
	// Kind says for programs what it is, Field what of the command was refused,
	// Choices what can be done instead, and On with which conversations; all but
	// Kind may be empty.
	Kind, Field string
	Choices     []string
	On          []int64
}

func (p *Problem) Error() string { return p.Reason }

// Refuse is the Problem that something can't be done as things stand.
func Refuse(format string, args ...any) error {
	return &Problem{Kind: "refused", Reason: fmt.Sprintf(format, args...)}
}

// Gone is the Problem that something named is no longer there.
func Gone(format string, args ...any) error {
	return &Problem{Kind: "gone", Reason: fmt.Sprintf(format, args...)}
}

// Invalid is the Problem that a field of a command can't be what it is.
func Invalid(field, format string, args ...any) error {
	return &Problem{Kind: "invalid", Field: field, Reason: fmt.Sprintf(format, args...)}
}
