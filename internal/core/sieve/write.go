package sieve

import (
	"fmt"
	"slices"
	"strings"
	"time"

	"ebbe.example/ebbe/internal/core/decide"
	"ebbe.example/ebbe/internal/core/remote"
	"ebbe.example/ebbe/internal/core/routine"
	"ebbe.example/ebbe/internal/core/rule"
	"ebbe.example/ebbe/internal/core/sorting"
)

// Folders to which what rules decide goes.
const (
	Archive, Bin, Junk = "Archive", "Trash", "Junk"
	shallows           = "Shallows/"
)

// Script writes rules as one script, in their order. What Sieve can't say stands in it as a comment, by
// the rule's name. It means what the rules mean on a server: a letter is taken to the place that the
// first rule says which decides, whatever later ones say (the variable “place”), and none is asked after
// one that stops (“over”).
func Script(rules []rule.Rule) string {
	w := &writer{needs: map[string]bool{}}
	for _, r := range rules {
		w.rule(r)
	}
	var head strings.Builder
	head.WriteString("# The rules of Ebbe, in their order.\n")
	if len(w.needs) > 0 {
		var list []string
		for ext := range w.needs {
			list = append(list, ext)
		}
		slices.Sort(list)
		head.WriteString("require " + texts(list) + ";\n")
	}
	head.WriteString(w.out.String())
	if len(w.places) > 0 {
		head.WriteString("\n# Where it goes.\n")
	}
	for i, p := range w.places {
		fmt.Fprintf(&head, "%s string :is \"${place}\" %s {\n\tfileinto %s;\n}\n", map[bool]string{true: "if", false: "elsif"}[i == 0], quote(p), quote(p))
	}
	return head.String()
}

type writer struct {
	out    strings.Builder
	needs  map[string]bool
	places []string
	stops  bool // a rule before may have stopped
}

// need notes extensions that the script uses.
func (w *writer) need(extensions ...string) {
	for _, e := range extensions {
		w.needs[e] = true
	}
}

func (w *writer) rule(r rule.Rule) {
	name := strings.Join(strings.Fields(r.Name), " ")
	var all []string
	for _, part := range []struct {
		list   []rule.Condition
		around string
	}{{r.All, ""}, {r.Any, "anyof"}, {r.None, "not anyof"}} {
		var tests []string
		for _, c := range part.list {
			t := w.test(c)
			if t == "" {
				fmt.Fprintf(&w.out, "\n# rule: %s\n# Sieve can’t say it, as it looks at “%s”.\n", name, oneLine(c.InWords()))
				return
			}
			tests = append(tests, t)
		}
		switch {
		case len(tests) == 0:
		case part.around == "":
			all = append(all, tests...)
		default:
			all = append(all, part.around+" ("+strings.Join(tests, ", ")+")")
		}
	}
	if len(all) == 0 {
		return // it takes nothing
	}
	if r.Off {
		all = append([]string{"false"}, all...)
	}
	if !r.Until.IsZero() {
		w.need("date", "relational")
		all = append(all, fmt.Sprintf(`currentdate :zone "+0000" :value "lt" "iso8601" %s`, quote(r.Until.UTC().Format("2006-01-02T15:04:05+00:00"))))
	}
	if w.stops {
		w.need("variables")
		all = append([]string{`not string :is "${over}" "1"`}, all...)
	}
	fmt.Fprintf(&w.out, "\n# rule: %s\nif allof (%s) {\n", name, strings.Join(all, ",\n\t"))
	for _, s := range r.Steps {
		w.step(r, s)
	}
	if r.Stop {
		w.need("variables")
		w.stops = true
		w.out.WriteString("\tset \"over\" \"1\";\n")
	}
	w.out.WriteString("}\n")
}

func (w *writer) step(r rule.Rule, s routine.Step) {
	flag := func(keyword string) string {
		w.need("imap4flags")
		return "addflag " + quote(keyword) + ";"
	}
	place := func(to, more string) {
		w.need("variables", "fileinto")
		if !slices.Contains(w.places, to) {
			w.places = append(w.places, to)
		}
		if more != "" {
			more = "\t\t" + more + "\n"
		}
		fmt.Fprintf(&w.out, "\tif string :is \"${place}\" \"\" {\n%s\t\tset \"place\" %s;\n\t}\n", more, quote(to))
	}
	about := s.Decision.About()
	switch {
	case s.HidesAway() && !r.People:
		w.not("takes only what no person wrote out of sight: " + s.InWords())
	case s.Do == routine.Label:
		w.out.WriteString("\t" + flag(remote.Keyword(s.Text)) + "\n")
	case s.Do == routine.Star:
		w.out.WriteString("\t" + flag(`\Flagged`) + "\n")
	case s.Do == routine.Forward:
		w.need("copy")
		w.out.WriteString("\tredirect :copy " + quote(s.To) + ";\n")
	case s.Do == routine.SortOut:
		kind, _ := sorting.Kind(s.Text).About()
		place(shallows+kind.Name, "")
	case s.Do == routine.Decide && s.Decision == decide.File:
		place(Archive, flag(remote.Keyword(s.Text)))
	case s.Do == routine.Decide && about.Needs == decide.Nothing && folders[s.Decision] != "":
		place(folders[s.Decision], "")
	default:
		w.not(s.InWords())
	}
}

var folders = map[decide.Kind]string{decide.Done: Archive, decide.ToBin: Bin, decide.ToJunk: Junk}

func (w *writer) not(what string) { fmt.Fprintf(&w.out, "\t# Sieve can’t say: %s\n", oneLine(what)) }

func oneLine(s string) string { return strings.Join(strings.Fields(s), " ") }

// test is a condition as a test; "" for what Sieve can't say.
func (w *writer) test(c rule.Condition) string {
	is := strings.TrimSpace(c.Is)
	keys := texts(cases(is))
	people := func(header string) string {
		if rule.IsAddress(is) {
			return `address :is ` + quote(header) + ` ` + keys
		}
		return `header :contains ` + quote(header) + ` ` + keys
	}
	switch c.Of {
	case rule.From, rule.To, rule.Cc:
		return people(string(c.Of))
	case rule.Domain:
		is = strings.TrimPrefix(is, "@")
		return `address :domain :matches "from" ` + texts([]string{is, "*." + is})
	case rule.List:
		return `header :contains "list-id" ` + quote("<"+is+">")
	case rule.Subject:
		return `header :contains "subject" ` + keys
	case rule.Text:
		w.need("body")
		return `body :text :contains ` + texts(broken(cases(is)))
	case rule.Size:
		n, err := rule.ReadSize(is)
		if err != nil {
			return ""
		}
		return fmt.Sprintf("size :over %d", n)
	case rule.Attached:
		w.need("mime")
		return fmt.Sprintf(`anyof (header :mime :anychild :param "filename" :contains "content-disposition" %[1]s, header :mime :anychild :param "name" :contains "content-type" %[1]s, header :mime :anychild :contenttype :contains "content-type" %[1]s)`, keys)
	case rule.Label:
		w.need("imap4flags")
		return "hasflag " + quote(remote.Keyword(is))
	case rule.Hours:
		from, to, err := rule.ReadHours(is)
		if err != nil {
			return ""
		}
		w.need("date", "relational")
		at := func(rel string, m int) string {
			return fmt.Sprintf(`currentdate :value %s "time" %s`, quote(rel), quote(time.Date(0, 1, 1, 0, m, 0, 0, time.UTC).Format("15:04:05")))
		}
		switch {
		case to == 24*60:
			return at("ge", from)
		case from > to:
			return "anyof (" + at("ge", from) + ", " + at("lt", to) + ")"
		}
		return "allof (" + at("ge", from) + ", " + at("lt", to) + ")"
	case rule.Kind, rule.Account, rule.Amount:
	}
	return ""
}

// cases are the ways in which a text is looked for: Sieve makes capitals equal only in ASCII letters
// (i;ascii-casemap), so that others are looked for small, large, and with a capital.
func cases(is string) []string {
	ascii := !strings.ContainsFunc(is, func(r rune) bool { return r >= 0x80 })
	if ascii {
		return []string{is}
	}
	small, large := strings.ToLower(is), strings.ToUpper(is)
	out := []string{small}
	for _, other := range []string{large, is} {
		if !slices.Contains(out, other) {
			out = append(out, other)
		}
	}
	return out
}

// broken adds to texts of several words those in which a line ends at one of the spaces.
func broken(list []string) []string {
	out := slices.Clone(list)
	for _, is := range list {
		words := strings.Fields(is)
		for i := 1; i < len(words); i++ {
			for _, line := range []string{"\r\n", "\n"} {
				out = append(out, strings.Join(words[:i], " ")+line+strings.Join(words[i:], " "))
			}
		}
	}
	return out
}

func quote(s string) string {
	return `"` + strings.NewReplacer(`\`, `\\`, `"`, `\"`).Replace(s) + `"`
}

func texts(list []string) string {
	if len(list) == 1 {
		return quote(list[0])
	}
	quoted := make([]string, len(list))
	for i, s := range list {
		quoted[i] = quote(s)
	}
	return "[" + strings.Join(quoted, ", ") + "]"
}
