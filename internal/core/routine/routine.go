// Package routine says what routines are: several steps on one key, made by the person whose key it
// is, and carried out in their order by the same actions that the keys of the steps take.
package routine

import (
	"cmp"
	"errors"
	"fmt"
	"slices"
	"strings"
	"unicode"
	"unicode/utf8"

	"ebbe.example/ebbe/internal/core/attached"
	"ebbe.example/ebbe/internal/core/decide"
	"ebbe.example/ebbe/internal/core/followup"
	"ebbe.example/ebbe/internal/core/label"
	"ebbe.example/ebbe/internal/core/letter"
	"ebbe.example/ebbe/internal/core/sorting"
)

// Do is what a step does.
type Do string

// What steps do.
const (
	Label       Do = "label"
	Star        Do = "star"
	Flag        Do = "flag"
	Note        Do = "note"
	FollowUp    Do = "follow-up"
	Appointment Do = "appointment"
	Decide      Do = "decide"
	// Write opens a new letter to To, or to everybody in Group, with a template; routines only.
	Write Do = "write"
	// What only rules do: AutoAnswer answers with a template by itself (RFC 3834), Forward sends the
	// letter on to To, and SortOut puts it among the Shallows, as of the kind Text.
	AutoAnswer Do = "auto-answer"
	Forward    Do = "forward"
	SortOut    Do = "sort-out"
	// SaveFiles saves what is attached into the folder that whoever runs Ebbe has chosen, named by the
	// pattern Text (attached.File.Path).
	SaveFiles Do = "save-files"
)

// Step is one step of a routine.
type Step struct {
	Do Do `json:"do" enum:"label,star,flag,note,follow-up,appointment,write,decide,auto-answer,forward,sort-out,save-files"`
	// Text is the label, the line that is added to the note, the title of the follow-up or appointment
	// (empty for what the letter asks, or what it is called), how files are named that are saved.
	Text string `json:"text,omitempty" maxLength:"2000"`
	// When is a phrase: when a flag, follow-up or put-off letter is due, when an appointment is.
	When string `json:"when,omitempty" maxLength:"200"`
	// Priority is that of a follow-up; empty for normal.
	Priority followup.Priority `json:"priority,omitempty"`
	// Decision is which one ends the routine. To, and whoever is in the group of receivers Group, get
	// what is handed on or written; Template is put into an answer, into what is handed on or written.
	// These three are opened; with Send, what the template says leaves after the usual delay, unless
	// something of it is not filled in or doubtful.
	Decision decide.Kind `json:"decision,omitempty" enum:"answer,done,later,file,hand-on,bin,junk"`
	To       string      `json:"to,omitempty" maxLength:"1000"`
	Group    int64       `json:"group,omitempty"`
	Template int64       `json:"template,omitempty"`
	Send     bool        `json:"send,omitempty"`
}

const (
	// Most is how many steps a routine has at most.
	Most = 20
	// longest bounds what is typed in a step, in characters; a label is shorter (label.Max).
	longest, longestLabel = 500, label.Max
)

// Opening is the step that opens a letter, so that a routine works on one letter at a time; false
// where none does.
func Opening(steps []Step) (Step, bool) {
	if i := slices.IndexFunc(steps, Step.opens); i >= 0 {
		return steps[i], true
	}
	return Step{}, false
}

func (s Step) opens() bool { return s.Do == Write || s.Do == Decide && s.Decision.About().Sends() }

// Check tells what is wrong with the steps of a routine: which one, counted from 1, and why.
func Check(steps []Step) error { return check(steps, "routine") }

// CheckRule tells what is wrong with the steps of a rule, which has some that routines have not.
func CheckRule(steps []Step) error { return check(steps, "rule") }

func check(steps []Step, of string) error {
	if len(steps) == 0 {
		return fmt.Errorf("a %s needs a step", of)
	}
	if len(steps) > Most {
		return fmt.Errorf("a %s has at most %d steps", of, Most)
	}
	for i, s := range steps {
		if err := s.check(of == "rule"); err != nil {
			return fmt.Errorf("step %d: %w", i+1, err)
		}
		if s.Decides() && i < len(steps)-1 {
			if slices.ContainsFunc(steps[i+1:], Step.Decides) {
				return fmt.Errorf("step %d: there can be one decision only", i+1)
			}
			return fmt.Errorf("step %d: the decision comes last", i+1)
		}
		if s.opens() && slices.ContainsFunc(steps[i+1:], Step.opens) {
			return fmt.Errorf("step %d: there can be one letter only that is opened", i+1)
		}
	}
	return nil
}

// Decides tells whether a step says where a letter goes; it is the last one.
func (s Step) Decides() bool { return s.Do == Decide || s.Do == SortOut }

// HidesAway tells whether a step takes a letter out of sight that its receiver has not seen.
func (s Step) HidesAway() bool {
	return s.Do == SortOut || s.Do == Decide && (s.Decision == decide.ToBin || s.Decision == decide.ToJunk)
}

// SendsItself tells whether steps send something that nobody looks at before.
func SendsItself(steps []Step) bool {
	return slices.ContainsFunc(steps, func(s Step) bool { return s.Do == AutoAnswer || s.Do == Forward })
}

// Labels are those that steps put on.
func Labels(steps []Step) (out []string) {
	for _, s := range steps {
		if s.labels() {
			out = append(out, s.Text)
		}
	}
	return out
}

func (s Step) check(byRule bool) error {
	if utf8.RuneCountInString(s.Text) > longest {
		return fmt.Errorf("its text is longer than %d characters", longest)
	}
	if s.Send && (s.Template == 0 || !s.opens()) {
		return errors.New("only an answer, what is handed on or a new letter, with a template, can be sent at once")
	}
	empty := strings.TrimSpace(s.Text) == ""
	switch s.Do {
	case Label:
		return checkLabel(s.Text)
	case Note:
		if empty {
			return errors.New("a note needs a text")
		}
	case FollowUp:
		if s.Priority != "" && !slices.Contains(followup.Priorities, s.Priority) {
			return fmt.Errorf("there is no priority “%s”", s.Priority)
		}
	case Appointment:
		if strings.TrimSpace(s.When) == "" {
			return errors.New("an appointment needs a time")
		}
	case Decide:
		switch {
		case byRule && s.Decision == decide.ToJunk:
			return nil
		case byRule && s.Send:
			return errors.New("a rule writes a draft; it can’t send what nobody has looked at")
		}
		return s.checkDecision()
	case Write:
		if byRule {
			return errors.New("a rule writes no new letters; it can forward what came")
		}
		return s.checkReceivers("to write")
	case Star, Flag:
	default:
		if byRule {
			return s.checkOfRules()
		}
		return fmt.Errorf("there is no such step “%s”", s.Do)
	}
	return nil
}

// checkOfRules checks what only rules do.
func (s Step) checkOfRules() error {
	switch s.Do {
	case AutoAnswer:
		if s.Template == 0 {
			return errors.New("an automatic answer needs a template")
		}
	case Forward:
		if strings.TrimSpace(s.To) == "" {
			return errors.New("to forward it needs an address")
		}
	case SortOut:
		if _, ok := sorting.Kind(s.Text).About(); !ok {
			return fmt.Errorf("there is no kind “%s”", s.Text)
		}
	case SaveFiles:
		return attached.CheckPattern(s.Text)
	default:
		return fmt.Errorf("there is no such step “%s”", s.Do)
	}
	return nil
}

func (s Step) checkReceivers(what string) error {
	if strings.TrimSpace(s.To) == "" && s.Group == 0 {
		return errors.New(what + " it needs a group or an address")
	}
	for _, a := range letter.Addresses(s.To) {
		if a.Trouble != "" {
			return errors.New(a.Trouble)
		}
	}
	return nil
}

// Receivers are those to whom a step writes or hands on, each once, also what is no address:
// the members of its group and who is named in it.
func (s Step) Receivers(members []string) (out []string) {
	for _, a := range letter.Addresses(strings.Join(append(slices.Clone(members), s.To), "\n")) {
		out = append(out, a.Text)
	}
	return out
}

func checkLabel(label string) error {
	switch {
	case strings.TrimSpace(label) == "":
		return errors.New("a label needs a name")
	case len(label) > longestLabel:
		return errors.New("the label is too long")
	}
	return nil
}

func (s Step) checkDecision() error {
	about := s.Decision.About()
	if !about.Deck {
		return fmt.Errorf("there is no decision “%s”", s.Decision)
	}
	switch about.Needs {
	case decide.ATime:
		if strings.TrimSpace(s.When) == "" {
			return errors.New("to put off it needs a time")
		}
	case decide.SomeLabels:
		return checkLabel(s.Text)
	case decide.ALetter:
		if s.Decision == decide.HandOn {
			return s.checkReceivers("to hand on")
		}
	case decide.AFollowUp:
		return errors.New("a follow-up is a step of its own, before the decision")
	case decide.Nothing:
	}
	return nil
}

// ErrKey is what is wrong with the key of a routine.
var ErrKey = errors.New("a routine’s key is one letter or digit")

// CheckKey tells whether something can be the key of a routine; "" is for none.
func CheckKey(key string) error {
	r, size := utf8.DecodeRuneInString(key)
	if key != "" && (size != len(key) || !unicode.IsLetter(r) && !unicode.IsDigit(r)) {
		return ErrKey
	}
	return nil
}

// About is what a routine is looked at with.
type About struct {
	// Speak says a phrase that names a time as it is meant now; an error where it names none.
	Speak func(phrase string) (string, error)
	// Action is what the letter asks, as a title; "" where no letter is in focus.
	Action string
	// Title is what its conversation is called.
	Title string
	// Template gives the name of a template; "" for one that is gone.
	Template func(id int64) string
	// Group gives the name of a group of receivers; "" for one that is gone.
	Group func(id int64) string
	// Labelled are labels that it has, Starred and Flagged marks.
	Labelled         []string
	Starred, Flagged bool
}

// InWords says what steps would do, and what of that can't be done.
func InWords(steps []Step, about About) (words string, trouble error) {
	var parts []string
	for _, s := range steps {
		part, err := s.inWords(about)
		if err != nil && trouble == nil {
			trouble = err
		}
		if part != "" {
			parts = append(parts, part)
		}
	}
	return strings.Join(parts, ", "), trouble
}

func (s Step) inWords(a About) (string, error) {
	when, err := "", error(nil)
	if s.When != "" {
		if when, err = a.Speak(s.When); err != nil {
			return s.When, fmt.Errorf("“%s” is no time: %w", s.When, err)
		}
	}
	switch s.Do {
	case Label:
		if slices.Contains(a.Labelled, s.Text) {
			return "", nil
		}
		return "label " + s.Text, nil
	case Star:
		if a.Starred {
			return "", nil
		}
		return "star", nil
	case Flag:
		if a.Flagged && when == "" {
			return "", nil
		}
		return join("flag", when), nil
	case Note:
		return "note", nil
	case FollowUp:
		return join("follow up", quote(s.Text, a.Action), s.priority(), when), nil
	case Appointment:
		return join("appointment", quote(s.Text, a.Title), when), nil
	case Write:
		whom, gone := s.whom(a)
		words, trouble := s.sent(s.withTemplate(a, join("write", whom)))
		return words, cmp.Or(gone, trouble)
	case Decide:
		return s.decisionInWords(a, when)
	case AutoAnswer:
		return s.withTemplate(a, "answer by itself")
	case Forward:
		return "forward to " + s.To, nil
	case SortOut:
		about, _ := sorting.Kind(s.Text).About()
		return "sort out to " + about.Name, nil
	case SaveFiles:
		return "save what is attached", nil
	}
	return "", nil
}

// whom says to whom a step writes or hands on.
func (s Step) whom(a About) (words string, gone error) {
	var whom []string
	if s.Group != 0 {
		if name := a.Group(s.Group); name != "" {
			whom = append(whom, quote(name, ""))
		} else {
			gone = errors.New("its group is gone")
		}
	}
	if s.To != "" {
		whom = append(whom, s.To)
	}
	if len(whom) == 0 {
		return "", gone
	}
	return "to " + strings.Join(whom, " and "), gone
}

// priority is said where it is not the usual one.
func (s Step) priority() string {
	if s.Priority == "" || s.Priority == followup.Normal {
		return ""
	}
	return "(" + string(s.Priority) + ")"
}

// withTemplate says what is done with the template of a step.
func (s Step) withTemplate(a About, what string) (string, error) {
	if s.Template == 0 {
		return what, nil
	}
	name := a.Template(s.Template)
	if name == "" {
		return what, errors.New("its template is gone")
	}
	return what + " with “" + name + "”", nil
}

func (s Step) decisionInWords(a About, when string) (string, error) {
	name := strings.ToLower(s.Decision.About().Name)
	switch s.Decision {
	case decide.PutOff:
		return join(name, "until", when), nil
	case decide.File:
		return join(name, "under", s.Text), nil
	case decide.HandOn:
		whom, gone := s.whom(a)
		words, trouble := s.sent(s.withTemplate(a, join(name, whom)))
		return words, cmp.Or(gone, trouble)
	case decide.ToJunk:
		return "to junk", nil
	}
	return s.sent(s.withTemplate(a, name))
}

// sent says that what is written leaves at once.
func (s Step) sent(words string, trouble error) (string, error) {
	if s.Send {
		words += ", sent"
	}
	return words, trouble
}

func quote(text, otherwise string) string {
	if text == "" {
		text = otherwise
	}
	if text == "" {
		return ""
	}
	return "“" + text + "”"
}

func join(words ...string) string {
	return strings.Join(slices.DeleteFunc(words, func(w string) bool { return w == "" }), " ")
}

// plain is with what steps are told that are of no letter.
var plain = About{Speak: func(p string) (string, error) { return p, nil }, Template: func(int64) string { return "a template" }, Group: func(int64) string { return "a group" }}

// InWords says a step as it stands.
func (s Step) InWords() string {
	words, _ := s.inWords(plain)
	return words
}

// Said says steps as they stand.
func Said(steps []Step) string {
	words, _ := InWords(steps, plain)
	return words
}

// labels tells whether the step puts a label on.
func (s Step) labels() bool { return s.Do == Label || s.Do == Decide && s.Decision == decide.File }

// Relabelled are steps in which labels have other names; false where none of them has.
func Relabelled(steps []Step, renamed func(string) string) ([]Step, bool) {
	out, some := slices.Clone(steps), false
	for i, s := range out {
		if !s.labels() {
			continue
		}
		if name := renamed(s.Text); name != s.Text {
			out[i].Text, some = name, true
		}
	}
	return out, some
}
