package sieve

import (
	"fmt"
	"slices"
	"strings"

	"ebbe.example/ebbe/internal/core/decide"
	"ebbe.example/ebbe/internal/core/remote"
	"ebbe.example/ebbe/internal/core/routine"
	"ebbe.example/ebbe/internal/core/rule"
	"ebbe.example/ebbe/internal/core/sorting"
)

// Read is a rule that was read from a script.
type Read struct {
	rule.Rule
	// Left is what of its part of the script could not be made of it, line by line.
	Left []string
}

// MostRead is how many rules are read from a script.
const MostRead = 1000

// Rules makes rules of a script. What they can't do is said with each, line by line; a part of which no
// condition could be made becomes a rule without any, which takes nothing.
func Rules(script string) ([]Read, error) {
	commands, err := Parse(script)
	if err != nil {
		return nil, err
	}
	r := &reader{dispatch: dispatches(commands)}
	r.walk(commands, asked{}, "")
	if len(r.out) > MostRead {
		return nil, &Error{1, fmt.Sprintf("the script makes more than %d rules", MostRead)}
	}
	list := make([]Read, len(r.out))
	for i, one := range r.out {
		list[i] = *one
	}
	return list, nil
}

// asked is what is asked before a block is carried out.
type asked struct {
	rule.Conditions
	never bool // “false” is among it
	left  []string
}

func (a asked) clone() asked {
	a.All, a.Any, a.None, a.left = slices.Clone(a.All), slices.Clone(a.Any), slices.Clone(a.None), slices.Clone(a.left)
	return a
}

func (a *asked) miss(c Command, why string) {
	a.left = append(a.left, fmt.Sprintf("line %d: %s", c.Line, why))
}

type reader struct {
	out []*Read
	// dispatch tells that the script takes letters to the place in the variable at its end.
	dispatch bool
}

// dispatches tells whether a script ends as Script ends one.
func dispatches(list []Command) bool {
	return slices.ContainsFunc(list, func(c Command) bool {
		return c.Name == "if" && len(c.Tests) == 1 && c.Tests[0].isVariable("place") && !c.Tests[0].has("")
	})
}

// isVariable tells whether a test asks for a variable.
func (c Command) isVariable(name string) bool {
	list := c.allTexts()
	return c.Name == "string" && len(list) == 2 && len(list[0]) == 1 && list[0][0] == "${"+name+"}"
}

// has tells whether one of the texts of a command is this.
func (c Command) has(s string) bool {
	return slices.ContainsFunc(c.allTexts(), func(l []string) bool { return slices.Contains(l, s) })
}

func (c Command) allTexts() (out [][]string) {
	for _, a := range c.Args {
		if a.Is == IsTexts {
			out = append(out, a.Texts)
		}
	}
	return out
}

// tags are the tags of a command, but for those that say what is so anyway.
func (c Command) tags() (out []string) {
	for i := 0; i < len(c.Args); i++ {
		a := c.Args[i]
		if a.Is != IsTag {
			continue
		}
		if a.Tag == "comparator" && i+1 < len(c.Args) {
			if t := c.Args[i+1].Texts; len(t) == 1 && t[0] == "i;ascii-casemap" {
				i++
				continue
			}
		}
		out = append(out, a.Tag)
	}
	return out
}

// walk makes rules of commands that are carried out after something was asked.
func (r *reader) walk(list []Command, a asked, name string) {
	var open *Read
	var before []Command // the tests of the branches before
	for _, c := range list {
		switch c.Name {
		case "require":
		case "if", "elsif", "else":
			if c.Name == "if" {
				before = nil
			}
			in := a.clone()
			for _, t := range before {
				in.add(Command{Line: t.Line, Name: "not", Tests: []Command{t}})
			}
			if c.Name != "else" && len(c.Tests) == 1 {
				if r.ofPlace(c, &open) {
					continue
				}
				in.add(c.Tests[0])
				before = append(before, c.Tests[0])
			}
			open = nil
			r.walk(c.Block, in, called(c, name))
		default:
			if open == nil {
				open = r.begin(a, name, c)
			}
			r.act(open, c)
		}
	}
}

// ofPlace reads what Script writes about the place of a letter.
func (r *reader) ofPlace(c Command, open **Read) bool {
	if !r.dispatch || !c.Tests[0].isVariable("place") {
		return false
	}
	if c.Tests[0].has("") && *open == nil {
		return false
	}
	for _, in := range c.Block {
		if *open != nil && c.Tests[0].has("") {
			r.act(*open, in)
		}
	}
	return true
}

// called is what the rules of a block are called.
func called(c Command, name string) string {
	said := strings.Trim(oneLine(strings.TrimPrefix(c.Said, "rule:")), "[] ")
	if r := []rune(said); len(r) > 60 {
		said = string(r[:59]) + "…"
	}
	if said == "" {
		return name
	}
	return said
}

func (r *reader) begin(a asked, name string, c Command) *Read {
	if name == "" {
		name = fmt.Sprintf("Script, line %d", c.Line)
	}
	out := Read{Rule: rule.Rule{Name: name, Conditions: a.clone().Conditions, Off: a.never}, Left: slices.Clone(a.left)}
	if len(a.left) > 0 || len(a.All)+len(a.Any) == 0 {
		if len(a.left) == 0 {
			out.Left = append(out.Left, fmt.Sprintf("line %d: it takes every letter, which no rule does", c.Line))
		}
		// With a condition less it would take more: it takes nothing until its owner has looked.
		out.Off = true
	}
	r.out = append(r.out, &out)
	return &out
}

// add takes up a test that must be met.
func (a *asked) add(t Command) {
	switch t.Name {
	case "allof":
		for _, one := range t.Tests {
			a.add(one)
		}
	case "true":
	case "false":
		a.never = true
	case "not":
		if len(t.Tests) == 1 {
			a.addNot(t.Tests[0])
		}
	case "anyof":
		a.addAny(t)
	default:
		if t.isVariable("over") {
			return // it is what “stop” means
		}
		list, why := conditions(t)
		switch {
		case why != "":
			a.miss(t, why)
		case len(list) == 1:
			a.All = append(a.All, list[0])
		default:
			a.either(t, list)
		}
	}
}

// either takes up conditions of which one must be met.
func (a *asked) either(t Command, list []rule.Condition) {
	if len(a.Any) > 0 {
		a.miss(t, "a rule has one list only of conditions of which one is enough")
		return
	}
	a.Any = list
}

func (a *asked) addAny(t Command) {
	var all []rule.Condition
	for _, one := range t.Tests {
		list, why := conditions(one)
		if why != "" {
			a.miss(one, why)
			return
		}
		all = append(all, list...)
	}
	if len(all) == 1 {
		a.All = append(a.All, all[0])
		return
	}
	a.either(t, all)
}

// addNot takes up a test that must not be met.
func (a *asked) addNot(t Command) {
	switch t.Name {
	case "not":
		if len(t.Tests) == 1 {
			a.add(t.Tests[0])
		}
	case "true":
		a.never = true
	case "false":
	case "anyof":
		for _, one := range t.Tests {
			a.addNot(one)
		}
	case "allof":
		if len(t.Tests) == 1 {
			a.addNot(t.Tests[0])
			return
		}
		a.miss(t, "a rule has no condition that several are not met together")
	default:
		if t.isVariable("over") {
			return
		}
		list, why := conditions(t)
		if why != "" {
			a.miss(t, why)
			return
		}
		a.None = append(a.None, list...)
	}
}

// conditions are those of which one is enough for a test to be met; why says why there are none.
func conditions(t Command) (out []rule.Condition, why string) {
	cannot := "“" + t.Name + "” is nothing that rules look at"
	lists, tags := t.allTexts(), t.tags()
	is := func(some ...string) bool {
		return !slices.ContainsFunc(tags, func(tag string) bool { return !slices.Contains(some, tag) })
	}
	each := func(of rule.Field, keys []string) {
		for _, k := range keys {
			if k = oneLine(k); k != "" && !slices.Contains(out, rule.Condition{Of: of, Is: k}) {
				out = append(out, rule.Condition{Of: of, Is: k})
			}
		}
	}
	switch {
	case t.Name == "size" && len(t.Args) == 2 && t.Args[1].Is == IsNumber && t.Args[0].Tag == "over":
		return []rule.Condition{{Of: rule.Size, Is: fmt.Sprint(t.Args[1].Number)}}, ""
	case t.Name == "hasflag" && len(lists) == 1 && is("is"):
		for _, k := range lists[0] {
			label, ok := remote.LabelOf(k)
			if !ok {
				return nil, "“" + k + "” is no label"
			}
			each(rule.Label, []string{label})
		}
	case t.Name == "body" && len(lists) == 1 && slices.Contains(tags, "contains") && is("contains", "text"):
		each(rule.Text, lists[0])
	case (t.Name == "header" || t.Name == "address") && len(lists) == 2:
		for _, header := range lists[0] {
			if w := ofHeader(t, strings.ToLower(header), lists[1], tags, each); w != "" {
				return nil, w
			}
		}
	default:
		return nil, cannot
	}
	if len(out) == 0 {
		return nil, cannot
	}
	return out, ""
}

// ofHeader reads a test of one field of the header.
func ofHeader(t Command, header string, keys, tags []string, each func(rule.Field, []string)) string {
	tags = slices.DeleteFunc(slices.Clone(tags), func(s string) bool { return s == "all" && t.Name == "address" })
	var how string
	domain := slices.Contains(tags, "domain") && t.Name == "address"
	for _, tag := range tags {
		switch {
		case tag == "is" || tag == "contains" || tag == "matches":
			how = tag
		case tag == "domain" && domain:
		default:
			return "rules have nothing for “:" + tag + "”"
		}
	}
	person := map[string]rule.Field{"from": rule.From, "to": rule.To, "cc": rule.Cc}[header]
	switch {
	case domain && header == "from" && how == "matches" && len(keys) == 2 && keys[1] == "*."+keys[0]:
		each(rule.Domain, keys[:1])
	case domain && header == "from" && (how == "is" || how == ""):
		each(rule.Domain, keys)
	case domain:
		return "of domains, rules look only at those of senders"
	case person != "" && how == "contains",
		person != "" && (how == "is" || how == "") && t.Name == "address" && !slices.ContainsFunc(keys, func(k string) bool { return !rule.IsAddress(k) }):
		each(person, keys)
	case header == "list-id" && how == "contains":
		for _, k := range keys {
			each(rule.List, []string{strings.Trim(k, "<>")})
		}
	case header == "subject" && how == "contains":
		each(rule.Subject, keys)
	case (header == "subject" || person != "") && how == "matches":
		for _, k := range keys {
			inner := strings.Trim(k, "*")
			if len(k) != len(inner)+2 || strings.ContainsAny(inner, `*?\`) {
				return "of patterns, rules know only “*words*”"
			}
			each(map[bool]rule.Field{true: rule.Subject, false: person}[header == "subject"], []string{inner})
		}
	case header == "subject" || header == "list-id" || person != "":
		return "rules look for words in it, not for all of it"
	default:
		return "“" + header + "” is nothing that rules look at"
	}
	return ""
}

// act takes up an action.
func (r *reader) act(to *Read, c Command) {
	miss := func(why string) { to.Left = append(to.Left, fmt.Sprintf("line %d: %s", c.Line, why)) }
	add := func(s routine.Step) {
		at := len(to.Steps)
		if at > 0 && to.Steps[at-1].Decides() {
			if s.Decides() {
				miss("it says a second place")
				return
			}
			at-- // the decision comes last
		}
		to.Steps = slices.Insert(to.Steps, at, s)
	}
	lists, tags := c.allTexts(), c.tags()
	one := func() string {
		if len(lists) == 0 || len(lists[len(lists)-1]) == 0 {
			return ""
		}
		return lists[len(lists)-1][0]
	}
	decision := func(k decide.Kind) { add(routine.Step{Do: routine.Decide, Decision: k}) }
	switch c.Name {
	case "keep":
	case "stop":
		to.Stop = true
	case "discard":
		decision(decide.ToBin)
	case "redirect":
		add(routine.Step{Do: routine.Forward, To: one()})
	case "set":
		switch {
		case len(lists) == 2 && lists[0][0] == "over":
			to.Stop = true
		case len(lists) == 2 && lists[0][0] == "place" && r.dispatch:
			add(placed(one()))
		default:
			miss("rules have no variables")
		}
	case "addflag", "setflag":
		for _, k := range lists[max(0, len(lists)-1):] {
			for _, keyword := range k {
				label, ok := remote.LabelOf(keyword)
				switch {
				case strings.EqualFold(keyword, `\Flagged`):
					add(routine.Step{Do: routine.Star})
				case ok:
					add(routine.Step{Do: routine.Label, Text: label})
				default:
					miss("“" + keyword + "” is no mark of a rule’s")
				}
			}
		}
	case "fileinto":
		if one() == "" {
			miss("it says no folder")
		} else if slices.Contains(tags, "copy") {
			add(routine.Step{Do: routine.Label, Text: lastOf(one())})
		} else {
			add(placed(one()))
		}
	default:
		miss("“" + c.Name + "” is nothing that rules do")
	}
}

// placed is the decision that takes a letter to a folder.
func placed(folder string) routine.Step {
	decision := func(k decide.Kind) routine.Step { return routine.Step{Do: routine.Decide, Decision: k} }
	folder = strings.TrimPrefix(strings.TrimPrefix(folder, "INBOX/"), "INBOX.")
	switch strings.ToLower(folder) {
	case "archive", "archives":
		return decision(decide.Done)
	case "trash", "bin", "deleted", "deleted items", "deleted messages":
		return decision(decide.ToBin)
	case "junk", "spam":
		return decision(decide.ToJunk)
	}
	if name, ok := strings.CutPrefix(folder, shallows); ok {
		for _, k := range sorting.Table {
			if k.Name == name {
				return routine.Step{Do: routine.SortOut, Text: string(k.Kind)}
			}
		}
	}
	return routine.Step{Do: routine.Decide, Decision: decide.File, Text: lastOf(folder)}
}

// lastOf is a folder as a label, which is shorter.
func lastOf(folder string) string {
	if r := []rune(folder); len(r) > 30 {
		folder = string(r[len(r)-30:])
	}
	return folder
}
