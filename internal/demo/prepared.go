package demo

import (
	"fmt"
	"strings"

	"ebbe.example/ebbe/internal/app"
)

// templates are what she writes again and again.
var templates = []struct{ name, subject, text string }{
	{"A guided walk is possible", "Your winter walk", "Dear {first name},\n\nthank you for your wish to walk with us. {day} at {time} is free; a walk takes an hour, and the stove house is warm enough to leave the coats on a chair.\n\nWould you tell me how many you are?\n\nKind regards\n{my name}"},
	{"Asking for a quotation", "Quotation: {work}", "Dear {first name},\n\nplease send me a quotation for the following:\n\n{work}\n\nI would need it by {date: next fri}.\n\nWith thanks\n{my name}"},
	{"Plants on loan: terms", "", "Dear {first name},\n\nwe lend plants for exhibitions on these terms: the borrower carries both ways, insures {sum}, and tells us at once of any pest. The loan ends on {end}.\n\nKind regards\n{my name}"},
	{"Thank you, noted", "", "Thank you, {first name}, that is noted."},
}

// groups are who she writes to together.
var groups = []struct {
	name    string
	members []string
}{
	{"Walk guides", []string{"Tove Lindqvist <tove@norrholm.example>", "Henrik Aas <henrik@norrholm.example>", "Lise Bo <lise@norrholm.example>"}},
}

// prepare is what she has made to write with.
func (w *world) prepare() error {
	for _, t := range templates {
		if _, err := w.app.NewTemplate(w.ctx, w.who, w.command(), app.TemplateFields{Name: &t.name, Subject: &t.subject, Text: &t.text}); err != nil {
			return fmt.Errorf("%q: %w", t.name, err)
		}
	}
	for _, g := range groups {
		members := strings.Join(g.members, "\n")
		if _, err := w.app.NewGroup(w.ctx, w.who, w.command(), app.GroupFields{Name: &g.name, Members: &members}); err != nil {
			return fmt.Errorf("%q: %w", g.name, err)
		}
	}
	return nil
}
