package find

import (
	"fmt"
	"strings"

	"ebbe.example/ebbe/internal/core/decide"
	"ebbe.example/ebbe/internal/core/sorting"
)

// Choice is a value that a field may have, and what it means.
type Choice struct {
	Value string `json:"value"`
	Says  string `json:"says"`
	// other names of it are understood, too.
	other []string
}

// Marks are the values of mark:.
var Marks = []Choice{
	{Value: "unread", Says: "not read yet"},
	{Value: "starred", Says: "with a star"},
	{Value: "flagged", Says: "with a flag on a follow-up"},
	{Value: "asks", Says: "asks something"},
	{Value: "waits", Says: "an answer is expected"},
	{Value: "tracked", Says: "with a follow-up that is open"},
	{Value: "due", Says: "with a follow-up that is due"},
}

// Contents are the values of with:, beside the name of a file.
var Contents = []Choice{
	{Value: "file", Says: "something attached", other: []string{"files", "attachment"}},
	{Value: "picture", Says: "a picture", other: []string{"pictures", "image"}},
	{Value: "link", Says: "a link", other: []string{"links"}},
	{Value: "date", Says: "a time to come", other: []string{"dates"}},
	{Value: "amount", Says: "a sum of money", other: []string{"amounts", "money"}},
}

// Sent is the value of at: for what one has written, wherever its conversation is.
const Sent = "sent"

// Places are the values of at:.
func Places() (out []Choice) {
	for _, p := range decide.PlaceTable {
		if p.Place != decide.Nowhere {
			out = append(out, Choice{Value: string(p.Place), Says: p.Where})
		}
	}
	return append(out, Choice{Value: Sent, Says: "what you wrote"})
}

// Kinds are the values of kind:.
func Kinds() []Choice {
	out := []Choice{{Value: string(sorting.Person), Says: "from a person", other: []string{"people"}}}
	for _, k := range sorting.Table {
		out = append(out, Choice{Value: string(k.Kind), Says: k.Name})
	}
	return out
}

// ChoicesOf are the values that a field may have; none where anything can be typed.
func ChoicesOf(f Field) []Choice {
	switch f {
	case Mark:
		return Marks
	case With:
		return Contents
	case At:
		return Places()
	case Kind:
		return Kinds()
	default:
		return nil
	}
}

// choose finds the choice that a value names. begun tells that a name begins with it.
func choose(among []Choice, value string) (name string, begun bool) {
	value = strings.ToLower(strings.TrimSpace(value))
	for _, c := range among {
		for _, n := range append([]string{c.Value}, c.other...) {
			if n == value {
				return c.Value, true
			}
			begun = begun || strings.HasPrefix(n, value)
		}
	}
	return "", begun
}

// About is a field as people are told of it.
type About struct {
	Field Field  `json:"field"`
	Says  string `json:"says"`
	// Like is an example of a value.
	Like string `json:"like"`
}

// Fields are all fields, in the order in which they are told of.
var Fields = []About{
	{From, "who wrote it", "bram"},
	{To, "whom it is to", "tove"},
	{Cc, "who has a copy", "tove"},
	{Subject, "words of the subject", "loan"},
	{Label, "a label, and those below it", "loans"},
	{Kind, "of what kind it is", "person"},
	{Account, "at which account it came", "work"},
	{Note, "words of your note", "crate"},
	{Before, "came before a day", "november"},
	{After, "came after a day", `"last monday"`},
	{On, "came on a day, or in a month", "yesterday"},
	{At, "where it is", "archive"},
	{Mark, "what is marked on it", "starred"},
	{With, "what is in it, or a file’s name", "file"},
	{Size, "how large it is", ">1mb"},
}

// named finds a field by its name.
func named(name string) (Field, bool) {
	for _, f := range Fields {
		if string(f.Field) == strings.ToLower(name) {
			return f.Field, true
		}
	}
	return "", false
}

// noField says that no field has a name, and which may be meant.
func noField(name string) string {
	all := make([]string, len(Fields))
	for i, f := range Fields {
		all[i] = string(f.Field)
	}
	says := fmt.Sprintf("There is no field “%s:”.", name)
	if near := Near(strings.ToLower(name), all); near != "" {
		says += fmt.Sprintf(" Is “%s:” meant?", near)
	}
	return says
}
