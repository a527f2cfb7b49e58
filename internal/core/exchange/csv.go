package exchange

import (
	"encoding/csv"
	"errors"
	"fmt"
	"io"
	"slices"
	"strconv"
	"strings"
	"time"

	"ebbe.example/ebbe/internal/core/followup"
	"ebbe.example/ebbe/internal/core/when"
)

// column is a column of the CSV: how it is written and read.
type column struct {
	name  string
	write func(t Task, c when.Calendar) string
	read  func(t *Task, text string, c when.Calendar, now time.Time) error
}

func textColumn(name string, at func(t *Task) *string) column {
	return column{name, func(t Task, _ when.Calendar) string { return *at(&t) },
		func(t *Task, text string, _ when.Calendar, _ time.Time) error { *at(t) = text; return nil }}
}

func momentColumn(name string, at func(t *Task) **when.Moment) column {
	return column{name, func(t Task, c when.Calendar) string { return printMoment(*at(&t), c) },
		func(t *Task, text string, c when.Calendar, now time.Time) (err error) {
			*at(t), err = readMoment(text, c, now)
			return err
		}}
}

func instantColumn(name string, at func(t *Task) *time.Time) column {
	return column{name, func(t Task, _ when.Calendar) string {
		if at(&t).IsZero() {
			return ""
		}
		return at(&t).UTC().Format(time.RFC3339)
	}, func(t *Task, text string, c when.Calendar, now time.Time) error {
		m, err := readMoment(text, c, now)
		if err != nil || m == nil {
			return err
		}
		*at(t) = m.UTC
		if exact, err := time.Parse(time.RFC3339, text); err == nil {
			*at(t) = exact
		}
		return nil
	}}
}

var columns = []column{
	textColumn("uid", func(t *Task) *string { return &t.UID }),
	textColumn("title", func(t *Task) *string { return &t.Title }),
	textColumn("notes", func(t *Task) *string { return &t.Notes }),
	momentColumn("start", func(t *Task) **when.Moment { return &t.Start }),
	momentColumn("due", func(t *Task) **when.Moment { return &t.Due }),
	{"priority", func(t Task, _ when.Calendar) string { return string(t.Priority) }, func(t *Task, text string, _ when.Calendar, _ time.Time) error {
		p, ok := priorityNamed(text)
		if t.Priority = p; !ok {
			return fmt.Errorf("“%s” is no priority", text)
		}
		return nil
	}},
	{"status", func(t Task, _ when.Calendar) string { return string(t.Status) }, func(t *Task, text string, _ when.Calendar, _ time.Time) error {
		s, ok := statusNamed(text)
		if t.Status = s; !ok {
			return fmt.Errorf("“%s” is no status", text)
		}
		return nil
	}},
	textColumn("stage", func(t *Task) *string { return &t.Stage }),
	textColumn("owner", func(t *Task) *string { return &t.Assignee }),
	textColumn("project", func(t *Task) *string { return &t.Project }),
	textColumn("context", func(t *Task) *string { return &t.Context }),
	{"minutes", func(t Task, _ when.Calendar) string {
		if t.Estimate == 0 {
			return ""
		}
		return strconv.Itoa(t.Estimate)
	}, func(t *Task, text string, _ when.Calendar, _ time.Time) (err error) {
		if text = strings.TrimSpace(text); text != "" {
			if t.Estimate, err = strconv.Atoi(text); err != nil || t.Estimate < 0 || t.Estimate > 10_000 {
				return fmt.Errorf("“%s” is no number of minutes", text)
			}
		}
		return nil
	}},
	{"recurs", func(t Task, _ when.Calendar) string { return printRecurs(t.Recurs) }, func(t *Task, text string, c when.Calendar, now time.Time) (err error) {
		t.Recurs, err = readRecurs(text, "", c, now)
		return err
	}},
	{"recurs phrase", func(t Task, _ when.Calendar) string {
		if t.Recurs == nil {
			return ""
		}
		return t.Recurs.Phrase
	}, func(t *Task, text string, _ when.Calendar, _ time.Time) error {
		if t.Recurs != nil {
			t.Recurs.Phrase = text
		}
		return nil
	}},
	{"recurs from", func(t Task, _ when.Calendar) string {
		if t.Recurs == nil {
			return ""
		}
		return t.Recurs.From
	}, func(t *Task, text string, _ when.Calendar, _ time.Time) error {
		if t.Recurs != nil {
			t.Recurs.From = text
		}
		return nil
	}},
	{"checklist", func(t Task, _ when.Calendar) string { return printChecklist(t.Checklist) }, func(t *Task, text string, _ when.Calendar, _ time.Time) error {
		t.Checklist = readChecklist(text)
		return nil
	}},
	{"reminders", func(t Task, c when.Calendar) string {
		var out []string
		for _, r := range t.Remind {
			out = append(out, printReminder(r, c))
		}
		return strings.Join(out, "; ")
	}, func(t *Task, text string, c when.Calendar, now time.Time) error {
		for part := range strings.SplitSeq(text, ";") {
			if strings.TrimSpace(part) == "" {
				continue
			}
			r, err := readReminder(strings.TrimSpace(part), c, now)
			if err != nil {
				return err
			}
			t.Remind = append(t.Remind, r)
		}
		return nil
	}},
	instantColumn("made", func(t *Task) *time.Time { return &t.MadeAt }),
	instantColumn("done", func(t *Task) *time.Time { return &t.DoneAt }),
	{"letters", func(t Task, _ when.Calendar) string {
		var out []string
		for _, l := range t.Letters {
			out = append(out, "<"+l.MessageID+">")
		}
		return strings.Join(out, " ")
	}, func(t *Task, text string, _ when.Calendar, _ time.Time) error {
		for _, id := range strings.Fields(text) {
			t.Letters = append(t.Letters, Letter{MessageID: strings.Trim(id, "<>")})
		}
		return nil
	}},
}

// other names of columns, as other programs have them.
var alsoCalled = map[string]string{
	"summary": "title", "task": "title", "name": "title", "description": "notes", "note": "notes", "due date": "due", "deadline": "due", "start date": "start",
	"assignee": "owner", "estimate": "minutes", "id": "uid", "tags": "context", "list": "project", "completed": "done", "created": "made",
}

func printChecklist(items []followup.Item) string {
	var out []string
	for _, i := range items {
		mark := "[ ] "
		if i.Done {
			mark = "[x] "
		}
		out = append(out, mark+i.Text)
	}
	return strings.Join(out, "\n")
}

func readChecklist(text string) (items []followup.Item) {
	for line := range strings.SplitSeq(text, "\n") {
		line = strings.TrimRight(line, "\r")
		if rest, ok := strings.CutPrefix(line, "[x] "); ok {
			items = append(items, followup.Item{Text: rest, Done: true})
		} else if rest := strings.TrimPrefix(line, "[ ] "); rest != "" {
			items = append(items, followup.Item{Text: rest})
		}
	}
	return items
}

// guarded keeps a spreadsheet from taking a text for a formula; reading takes
// the mark off again.
func guarded(text string) string {
	if text != "" && strings.ContainsRune("=+-@\t\r'", rune(text[0])) {
		return "'" + text
	}
	return text
}

func writeCSV(tasks []Task, c when.Calendar) (string, error) {
	var b strings.Builder
	w := csv.NewWriter(&b)
	head := make([]string, len(columns))
	for i, col := range columns {
		head[i] = col.name
	}
	_ = w.Write(head)
	for _, t := range tasks {
		row := make([]string, len(columns))
		for i, col := range columns {
			row[i] = guarded(col.write(t, c))
		}
		_ = w.Write(row)
	}
	w.Flush()
	return b.String(), w.Error()
}

func readCSV(data string, c when.Calendar, now time.Time) (tasks []Task, troubles []Trouble) {
	r := csv.NewReader(strings.NewReader(data))
	r.FieldsPerRecord, r.LazyQuotes, r.TrimLeadingSpace = -1, true, true
	first, _, _ := strings.Cut(data, "\n")
	for _, comma := range []rune{';', '\t'} {
		if strings.Count(first, string(comma)) > strings.Count(first, ",") {
			r.Comma = comma
		}
	}
	head, err := r.Read()
	if err != nil {
		return nil, []Trouble{{Line: 1, What: "the file has no header"}}
	}
	at := make([]int, len(head)) // which of our columns each of theirs is
	for i, name := range head {
		name = strings.ToLower(strings.TrimSpace(name))
		if also := alsoCalled[name]; also != "" {
			name = also
		}
		at[i] = slices.IndexFunc(columns, func(col column) bool { return col.name == name })
	}
	if !slices.ContainsFunc(at, func(i int) bool { return i >= 0 && columns[i].name == "title" }) {
		return nil, []Trouble{{Line: 1, Text: first, What: "there is no column “title”"}}
	}
	for {
		row, err := r.Read()
		if errors.Is(err, io.EOF) {
			return tasks, troubles
		}
		line, _ := r.FieldPos(0)
		if err != nil {
			return tasks, append(troubles, Trouble{Line: line, What: "this line can't be read, nor what follows it"})
		}
		t := Task{Priority: followup.Normal, Status: followup.Open}
		what := ""
		for i, text := range row {
			if i >= len(at) || at[i] < 0 {
				continue
			}
			if len(text) > 1 && text[0] == '\'' {
				text = text[1:]
			}
			if err := columns[at[i]].read(&t, text, c, now); err != nil && what == "" {
				what = columns[at[i]].name + ": " + err.Error()
			}
		}
		switch {
		case what != "":
			troubles = append(troubles, Trouble{line, strings.Join(row, ", "), what})
		case strings.TrimSpace(t.Title) == "":
			troubles = append(troubles, Trouble{line, strings.Join(row, ", "), "there is no title"})
		default:
			tasks = append(tasks, t)
		}
	}
}
