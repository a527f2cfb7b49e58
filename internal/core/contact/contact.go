// Package contact has what is written down of a correspondent: names, addresses, telephones, and how that
// goes in and out as a vCard.
package contact

import (
	"cmp"
	"errors"
	"fmt"
	"slices"
	"strings"

	"ebbe.example/ebbe/internal/core/letter"
)

// Contact is what is written down of somebody who is written with.
type Contact struct {
	Name   string   `json:"name"`
	Emails []string `json:"emails"`
	Phones []string `json:"phones"`
	Org    string   `json:"org"`
	Note   string   `json:"note" doc:"Markdown"`
}

// The bounds of a contact, in bytes of a text and in how many of a kind.
const (
	MaxText = 200
	MaxNote = 20_000
	MaxMany = 20
)

var errNobody = errors.New("somebody has a name or an address")

// Clean is a contact as it is kept: blanks single, addresses in lower case and once each. The error, in words,
// says what can't be kept.
func Clean(c Contact) (Contact, error) {
	c.Name, c.Org, c.Note = line(c.Name), line(c.Org), strings.TrimSpace(c.Note)
	emails := []string{}
	for _, typed := range letter.Addresses(strings.Join(c.Emails, "\n")) {
		a, err := letter.CheckAddress(typed.Text)
		if err != nil {
			return c, err
		}
		emails = add(emails, a.Key())
		c.Name = cmp.Or(c.Name, a.Name)
	}
	phones := []string{}
	for _, p := range c.Phones {
		phones = add(phones, line(p))
	}
	c.Emails, c.Phones = emails, phones
	switch {
	case c.Name == "" && len(c.Emails) == 0:
		return c, errNobody
	case len(c.Name) > MaxText || len(c.Org) > MaxText || slices.ContainsFunc(c.Phones, func(p string) bool { return len(p) > MaxText }):
		return c, fmt.Errorf("a name or a number may have %d signs at most", MaxText)
	case len(c.Note) > MaxNote:
		return c, fmt.Errorf("a note may have %d signs at most", MaxNote)
	case len(c.Emails) > MaxMany || len(c.Phones) > MaxMany:
		return c, fmt.Errorf("somebody may have %d addresses and numbers at most", MaxMany)
	}
	c.Name = cmp.Or(c.Name, first(c.Emails))
	return c, nil
}

// Book finds contacts, by their places in a list, by an address or, for those that have none, by their name.
type Book map[string]int

// Put takes a contact in that stands at i.
func (b Book) Put(i int, c Contact) {
	for _, key := range keys(c) {
		b[key] = i
	}
}

// Of finds whom a contact is of: one with an address of it; or where it has none, one without any that has its
// name.
func (b Book) Of(c Contact) (int, bool) {
	for _, key := range keys(c) {
		if i, ok := b[key]; ok {
			return i, true
		}
	}
	return 0, false
}

func keys(c Contact) []string {
	if len(c.Emails) > 0 {
		return c.Emails
	}
	return []string{strings.ToLower(c.Name)}
}

// Joined is what is known of somebody after more of them was read: nothing that stood there is lost. The
// error is as Clean's.
func Joined(was, more Contact) (Contact, error) {
	out := was
	out.Name, out.Org = cmp.Or(was.Name, more.Name), cmp.Or(was.Org, more.Org)
	if slices.Contains(was.Emails, was.Name) {
		out.Name = more.Name // it was but an address
	}
	out.Emails = slices.Concat(was.Emails, more.Emails)
	out.Phones = slices.Concat(was.Phones, more.Phones)
	if !strings.Contains(was.Note, more.Note) {
		out.Note = strings.TrimSpace(was.Note + "\n\n" + more.Note)
	}
	return Clean(out)
}

func line(text string) string { return strings.Join(strings.Fields(text), " ") }

func add(list []string, one string) []string {
	if one == "" || slices.Contains(list, one) {
		return list
	}
	return append(list, one)
}

func first(list []string) string {
	if len(list) == 0 {
		return ""
	}
	return list[0]
}
