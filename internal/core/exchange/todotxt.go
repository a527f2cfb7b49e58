package exchange

import (
	"fmt"
	"net/url"
	"regexp"
	"slices"
	"strconv"
	"strings"
	"time"

	"ebbe.example/ebbe/internal/core/followup"
	"ebbe.example/ebbe/internal/core/when"
)

// In todo.txt a task is a line: "x" and the days on which it was done and made,
// or a priority and the day on which it was made, then words, among them
// +project, @context and key:value.

var letters = map[followup.Priority]string{followup.Urgent: "A", followup.High: "B", followup.Low: "D"}

func writeTodoTxt(tasks []Task, c when.Calendar) string {
	var b strings.Builder
	for _, t := range tasks {
		b.WriteString(todoLine(t, c) + "\n")
	}
	return b.String()
}

func todoLine(t Task, c when.Calendar) string {
	day := func(at time.Time) string { return at.In(c.Zone).Format(time.DateOnly) }
	var w []string
	closed := t.Status.Closed()
	if closed {
		w = append(w, "x")
		if !t.DoneAt.IsZero() {
			w = append(w, day(t.DoneAt))
		}
	} else if l := letters[t.Priority]; l != "" {
		w = append(w, "("+l+")")
	}
	if !t.MadeAt.IsZero() && (!closed || !t.DoneAt.IsZero()) {
		w = append(w, day(t.MadeAt))
	}
	w = append(w, plainWords(t.Title))
	if t.Project != "" {
		w = append(w, "+"+oneWord(t.Project))
	}
	if t.Context != "" {
		w = append(w, "@"+oneWord(t.Context))
	}
	key := func(k, v string) {
		if v != "" {
			w = append(w, k+":"+v)
		}
	}
	key("due", printMoment(t.Due, c))
	key("t", printMoment(t.Start, c))
	if t.Recurs != nil {
		key("rrule", t.Recurs.Rule)
		if t.Recurs.AfterDone {
			key("from", "done")
		}
	}
	if t.Estimate > 0 {
		key("min", strconv.Itoa(t.Estimate))
	}
	if closed {
		key("pri", letters[t.Priority])
	}
	if t.Status == followup.Under || t.Status == followup.Waiting || t.Status == followup.Dropped {
		key("status", string(t.Status))
	}
	key("stage", oneWord(t.Stage))
	key("who", oneWord(t.Assignee))
	key("uid", oneWord(t.UID))
	return strings.Join(w, " ")
}

// plainWords keeps the words of a title from being taken for anything else: a
// word that would be is written with a zero-width joiner before it.
func plainWords(title string) string {
	words := strings.Fields(title)
	for i, word := range words {
		if special(word, i) {
			words[i] = guard + word
		}
	}
	return strings.Join(words, " ")
}

const guard = "\u2060" // word joiner: no width, no break

func special(word string, at int) bool {
	if at == 0 && (word == "x" || priorityMark.MatchString(word) || dayMark.MatchString(word)) {
		return true
	}
	if len(word) > 1 && (word[0] == '+' || word[0] == '@') {
		return true
	}
	k, v, ok := strings.Cut(word, ":")
	return ok && v != "" && keys[k]
}

var (
	priorityMark = regexp.MustCompile(`^\([A-Z]\)$`)
	dayMark      = regexp.MustCompile(`^\d{4}-\d\d-\d\d$`)
	keys         = map[string]bool{"due": true, "t": true, "rrule": true, "from": true, "min": true, "pri": true, "status": true, "stage": true, "who": true, "uid": true}
)

// oneWord writes a name without blanks: they become underscores, and what
// would be mistaken for one is escaped.
func oneWord(name string) string {
	escaped := strings.NewReplacer("%", "%25", "_", "%5F").Replace(name)
	return strings.Join(strings.Fields(escaped), "_")
}

func fromWord(word string) string {
	name := strings.ReplaceAll(word, "_", " ")
	if text, err := url.PathUnescape(name); err == nil {
		return text
	}
	return name
}

func readTodoTxt(data string, c when.Calendar, now time.Time) (tasks []Task, troubles []Trouble) {
	n := 0
	for line := range strings.Lines(data) {
		n++
		text := strings.TrimSpace(line)
		if text == "" || strings.HasPrefix(text, "#") {
			continue
		}
		t, err := readTodoLine(text, c, now)
		if err != nil {
			troubles = append(troubles, Trouble{n, text, err.Error()})
			continue
		}
		tasks = append(tasks, t)
	}
	return tasks, troubles
}

func readTodoLine(text string, c when.Calendar, now time.Time) (Task, error) {
	t := Task{Priority: followup.Normal, Status: followup.Open}
	words := strings.Fields(text)
	take := func(mark *regexp.Regexp) string {
		if len(words) > 0 && mark.MatchString(words[0]) {
			w := words[0]
			words = words[1:]
			return w
		}
		return ""
	}
	if words[0] == "x" {
		t.Status, words = followup.Done, words[1:]
	}
	if p := take(priorityMark); p != "" {
		t.Priority = lettered(p[1:2])
	}
	var days []string
	for len(days) < 2 {
		d := take(dayMark)
		if d == "" {
			break
		}
		days = append(days, d)
	}
	for i, d := range days {
		m, err := readMoment(d, c, now)
		if err != nil || m == nil {
			return t, fmt.Errorf("“%s” is no day", d)
		}
		if t.Status == followup.Done && i == 0 {
			t.DoneAt = m.UTC
		} else {
			t.MadeAt = m.UTC
		}
	}
	var title []string
	rule, after := "", ""
	for _, w := range words {
		k, v, pair := strings.Cut(w, ":")
		switch {
		case strings.HasPrefix(w, guard):
			title = append(title, strings.TrimPrefix(w, guard))
		case len(w) > 1 && w[0] == '+' && t.Project == "":
			t.Project = fromWord(w[1:])
		case len(w) > 1 && w[0] == '@' && t.Context == "":
			t.Context = fromWord(w[1:])
		case !pair || v == "" || !keys[k]:
			title = append(title, w)
		case k == "rrule":
			rule = v
		case k == "from":
			after = v
		default:
			if err := t.todoKey(k, v, c, now); err != nil {
				return t, err
			}
		}
	}
	if after == "done" && rule != "" {
		rule += doneSuffix
	}
	var err error
	if t.Recurs, err = readRecurs(rule, "", c, now); err != nil {
		return t, err
	}
	if t.Title = strings.Join(title, " "); t.Title == "" {
		return t, fmt.Errorf("nothing is to be done on this line")
	}
	return t, nil
}

func lettered(l string) followup.Priority {
	i := slices.Index([]string{"A", "B", "C"}, l)
	return []followup.Priority{followup.Low, followup.Urgent, followup.High, followup.Normal}[i+1]
}

func (t *Task) todoKey(k, v string, c when.Calendar, now time.Time) (err error) {
	switch k {
	case "due":
		t.Due, err = readMoment(v, c, now)
	case "t":
		t.Start, err = readMoment(v, c, now)
	case "min":
		if t.Estimate, err = strconv.Atoi(v); err != nil || t.Estimate < 0 || t.Estimate > 10_000 {
			err = fmt.Errorf("“%s” is no number of minutes", v)
		}
	case "pri":
		t.Priority = lettered(strings.ToUpper(v))
	case "status":
		s, ok := statusNamed(v)
		if t.Status = s; !ok {
			err = fmt.Errorf("“%s” is no status", v)
		}
	case "stage":
		t.Stage = fromWord(v)
	case "who":
		t.Assignee = fromWord(v)
	case "uid":
		t.UID = fromWord(v)
	}
	return err
}
