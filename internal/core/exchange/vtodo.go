package exchange

import (
	"fmt"
	"slices"
	"strconv"
	"strings"
	"time"

	ics "github.com/arran4/golang-ical"

	"ebbe.example/ebbe/internal/core/followup"
	"ebbe.example/ebbe/internal/core/ical"
	"ebbe.example/ebbe/internal/core/when"
)

// Properties of our own, for what VTODO has no property for.
const (
	xStatus  = ics.ComponentProperty("X-EBBE-STATUS")
	xProject = ics.ComponentProperty("X-EBBE-PROJECT")
	xContext = ics.ComponentProperty("X-EBBE-CONTEXT")
	xStage   = ics.ComponentProperty("X-EBBE-STAGE")
	xOwner   = ics.ComponentProperty("X-EBBE-OWNER")
	xMinutes = ics.ComponentProperty("X-EBBE-MINUTES")
	xPhrase  = ics.ComponentProperty("X-EBBE-RECURS")
	xFrom    = ics.ComponentProperty("X-EBBE-RECURS-FROM")
	xAfter   = ics.ComponentProperty("X-EBBE-RECURS-AFTER-DONE")
	xCheck   = ics.ComponentProperty("X-EBBE-CHECK")
	xPart    = ics.ComponentProperty("X-EBBE-PART-OF-DAY")
	xRemind  = ics.ComponentProperty("X-EBBE-REMIND")
)

// bands are the priorities of RFC 5545, 3.8.1.9: 1 to 4 is high, 5 is normal, 6
// to 9 is low; urgent is the highest of the high.
var bands = map[followup.Priority]int{followup.Urgent: 1, followup.High: 3, followup.Normal: 5, followup.Low: 7}

func priorityOf(n int) followup.Priority {
	switch {
	case n == 1:
		return followup.Urgent
	case n >= 2 && n <= 4:
		return followup.High
	case n >= 6 && n <= 9:
		return followup.Low
	}
	return followup.Normal
}

var statuses = map[followup.Status]string{followup.Open: "NEEDS-ACTION", followup.Under: "IN-PROCESS", followup.Waiting: "NEEDS-ACTION", followup.Done: "COMPLETED", followup.Dropped: "CANCELLED"}

func writeICal(tasks []Task, c when.Calendar, now time.Time) string {
	cal := ics.NewCalendar()
	cal.SetProductId("-//Ebbe//Follow-ups//EN")
	for i, t := range tasks {
		uid := t.UID
		if uid == "" {
			uid = fmt.Sprintf("task-%d-%d", now.Unix(), i)
		}
		todo := cal.AddTodo(uid)
		t.into(todo, c, now)
		for k, item := range t.Checklist { // a part of it is a task of its own
			part := cal.AddTodo(fmt.Sprintf("%s-check-%d", uid, k))
			part.SetDtStampTime(now)
			part.SetSummary(item.Text)
			part.SetProperty(xCheck, strconv.Itoa(k))
			part.SetProperty(ics.ComponentPropertyRelatedTo, uid)
			if item.Done {
				part.SetProperty(ics.ComponentPropertyStatus, "COMPLETED")
			} else {
				part.SetProperty(ics.ComponentPropertyStatus, "NEEDS-ACTION")
			}
		}
	}
	return cal.Serialize(ics.WithNewLineWindows)
}

func (t Task) into(todo *ics.VTodo, c when.Calendar, now time.Time) {
	todo.SetDtStampTime(now)
	todo.SetSummary(t.Title)
	text := func(p ics.ComponentProperty, v string) {
		if v != "" {
			todo.SetProperty(p, v)
		}
	}
	if t.Notes != "" {
		todo.SetDescription(t.Notes)
	}
	if !t.MadeAt.IsZero() {
		todo.SetCreatedTime(t.MadeAt)
	}
	if !t.DoneAt.IsZero() && t.Status == followup.Done {
		todo.SetProperty(ics.ComponentPropertyCompleted, t.DoneAt.UTC().Format(ical.Stamp))
	}
	setMoment(todo, ics.ComponentPropertyDtStart, t.Start, c)
	setMoment(todo, ics.ComponentPropertyDue, t.Due, c)
	todo.SetProperty(ics.ComponentPropertyPriority, strconv.Itoa(bands[t.Priority]))
	todo.SetProperty(ics.ComponentPropertyStatus, statuses[t.Status])
	if t.Status == followup.Waiting {
		text(xStatus, string(t.Status))
	}
	for _, name := range []string{t.Project, t.Context} {
		if name != "" {
			todo.AddProperty(ics.ComponentPropertyCategories, name)
		}
	}
	text(xProject, t.Project)
	text(xContext, t.Context)
	text(xStage, t.Stage)
	text(xOwner, t.Assignee)
	if t.Estimate > 0 {
		text(xMinutes, strconv.Itoa(t.Estimate))
	}
	if t.Recurs != nil {
		todo.SetProperty(ics.ComponentPropertyRrule, t.Recurs.Rule)
		text(xPhrase, t.Recurs.Phrase)
		text(xFrom, t.Recurs.From)
		if t.Recurs.AfterDone {
			text(xAfter, "TRUE")
		}
	}
	for _, l := range t.Letters {
		if l.MessageID != "" { // RFC 2392
			todo.AddProperty(ics.ComponentPropertyAttach, "mid:"+strings.ReplaceAll(l.MessageID, "%", "%25"))
		}
	}
	for _, r := range t.Remind {
		t.alarm(todo, r, c)
	}
}

// alarm writes a reminder: a time, or a length before start or due. The phrase
// is kept beside it, for "1 day before at 10" is neither.
func (t Task) alarm(todo *ics.VTodo, r followup.Reminding, c when.Calendar) {
	a := todo.AddAlarm()
	a.SetAction(ics.ActionDisplay)
	a.SetDescription(t.Title)
	if r.Relative != nil {
		a.SetProperty(xRemind, r.Relative.String())
	}
	if r.Relative != nil && (r.Relative.Before > 0 || r.Relative.Days == 0 && r.Relative.At == nil) {
		params := []ics.PropertyParameter{}
		if r.Relative.Anchor == when.FromDue {
			params = append(params, &ics.KeyValues{Key: "RELATED", Value: []string{"END"}})
		}
		a.SetProperty(ics.ComponentPropertyTrigger, fmt.Sprintf("-PT%dM", int(r.Relative.Before.Minutes())), params...)
		return
	}
	if m := followup.RemindAt(r, t.Start, t.Due, c); m.Precision != when.Open {
		a.SetProperty(ics.ComponentPropertyTrigger, m.UTC.UTC().Format(ical.Stamp), &ics.KeyValues{Key: "VALUE", Value: []string{"DATE-TIME"}})
		return
	}
	a.SetProperty(ics.ComponentPropertyTrigger, "PT0M")
}

// setMoment writes a time: a day as a date, a minute with the zone's name, so
// that it keeps its wall-clock time.
func setMoment(todo *ics.VTodo, p ics.ComponentProperty, m *when.Moment, c when.Calendar) {
	if m == nil || m.Precision == when.Open {
		return
	}
	local := m.UTC.In(c.Zone)
	switch {
	case m.Precision == when.ToDay:
		todo.SetProperty(p, local.Format("20060102"), &ics.KeyValues{Key: "VALUE", Value: []string{"DATE"}})
		if clock := when.At(local.Hour(), local.Minute()); clock != c.DayStart {
			todo.AddProperty(xPart, clock.String(), &ics.KeyValues{Key: "X-OF", Value: []string{string(p)}})
		}
	case m.Zone != when.Mine || c.Zone == time.UTC:
		todo.SetProperty(p, m.UTC.UTC().Format(ical.Stamp))
	default:
		todo.SetProperty(p, local.Format("20060102T150405"), &ics.KeyValues{Key: "TZID", Value: []string{c.Zone.String()}})
	}
}

// maxTasks bounds how many tasks a file is read for.
const maxTasks = 50_000

func readICal(data string, c when.Calendar, now time.Time) (tasks []Task, troubles []Trouble) {
	top, lines := ical.Read(data)
	for _, what := range lines {
		troubles = append(troubles, Trouble{What: what})
	}
	calendars := top.Named("VCALENDAR")
	if len(calendars) == 0 {
		return nil, append(troubles, Trouble{What: "the calendar can't be read: it holds none"})
	}
	at := map[string]int{}
	var checks []*ical.Component
	for _, todo := range todosOf(calendars) {
		if len(tasks) >= maxTasks {
			troubles = append(troubles, Trouble{What: fmt.Sprintf("more than %d tasks; the rest is left out", maxTasks)})
			break
		}
		if _, ok := todo.Get(string(xCheck)); ok {
			checks = append(checks, todo)
			continue
		}
		t, err := readTodo(todo, c, now)
		if err != nil {
			troubles = append(troubles, Trouble{Text: todo.Text("SUMMARY"), What: err.Error()})
			continue
		}
		at[t.UID] = len(tasks)
		tasks = append(tasks, t)
	}
	slices.SortStableFunc(checks, func(a, b *ical.Component) int { return order(a) - order(b) })
	for _, check := range checks {
		if i, ok := at[check.Text("RELATED-TO")]; ok {
			tasks[i].Checklist = append(tasks[i].Checklist, followup.Item{Text: check.Text("SUMMARY"), Done: strings.EqualFold(check.Text("STATUS"), "COMPLETED")})
		}
	}
	return tasks, troubles
}

func todosOf(calendars []*ical.Component) (out []*ical.Component) {
	for _, cal := range calendars {
		out = append(out, cal.Named("VTODO")...)
	}
	return out
}

func order(todo *ical.Component) int {
	n, _ := strconv.Atoi(todo.Text(string(xCheck)))
	return n
}

func readTodo(todo *ical.Component, c when.Calendar, now time.Time) (Task, error) {
	own := func(p ics.ComponentProperty) string { return todo.Text(string(p)) }
	t := Task{
		UID: todo.Text("UID"), Title: todo.Text("SUMMARY"), Notes: todo.Text("DESCRIPTION"),
		Project: own(xProject), Context: own(xContext), Stage: own(xStage), Assignee: own(xOwner), Status: statusOf(todo),
	}
	if t.Title == "" {
		return t, fmt.Errorf("the task has no title")
	}
	n, _ := strconv.Atoi(todo.Text("PRIORITY"))
	t.Priority = priorityOf(n)
	var err error
	if t.Start, err = readTime(todo, ics.ComponentPropertyDtStart, c); err != nil {
		return t, err
	}
	if t.Due, err = readTime(todo, ics.ComponentPropertyDue, c); err != nil {
		return t, err
	}
	if t.Due == nil && t.Start != nil { // a task has one or the other (RFC 5545, 3.6.2)
		if length, ok := ical.Duration(todo.Text("DURATION")); ok && length > 0 {
			t.Due = lasting(*t.Start, length, c)
		}
	}
	if at, err := time.Parse(ical.Stamp, todo.Text("CREATED")); err == nil {
		t.MadeAt = at
	}
	if at, err := time.Parse(ical.Stamp, todo.Text("COMPLETED")); err == nil {
		t.DoneAt = at
	}
	t.Estimate, _ = strconv.Atoi(own(xMinutes))
	t.Estimate = min(max(t.Estimate, 0), 10_000)
	t.categories(todo)
	rule := todo.Text("RRULE")
	if own(xAfter) == "TRUE" {
		rule += doneSuffix
	}
	if t.Recurs, err = readRecurs(rule, own(xPhrase), c, now); err != nil {
		return t, err
	}
	if t.Recurs != nil {
		t.Recurs.From = own(xFrom)
	}
	for _, a := range todo.All("ATTACH") {
		if id, ok := strings.CutPrefix(a.Value, "mid:"); ok {
			t.Letters = append(t.Letters, Letter{MessageID: strings.ReplaceAll(id, "%25", "%")})
		}
	}
	for _, a := range todo.Named("VALARM") {
		if r, ok := readAlarm(a, c); ok {
			t.Remind = append(t.Remind, r)
		}
	}
	return t, nil
}

// statusOf is the status of a task; one that says none may say how much of it is
// done, or when it was.
func statusOf(todo *ical.Component) followup.Status {
	switch strings.ToUpper(todo.Text("STATUS")) {
	case "COMPLETED":
		return followup.Done
	case "CANCELLED":
		return followup.Dropped
	case "IN-PROCESS":
		return followup.Under
	case "":
		if _, done := todo.Get("COMPLETED"); done {
			return followup.Done
		}
		return statusByPart(todo.Text("PERCENT-COMPLETE"))
	}
	s, _ := statusNamed(todo.Text(string(xStatus)))
	return s
}

// lasting is the end of what begins at a moment: days are those of the calendar,
// whatever the clocks do in between (RFC 5545, 3.3.6).
func lasting(start when.Moment, length time.Duration, c when.Calendar) *when.Moment {
	const day = 24 * time.Hour
	if length%day == 0 {
		end := start.MovedTo(start.Day(c).Add(int(length/day)), c)
		return &end
	}
	return exact(start.UTC.Add(length), c)
}

// statusByPart is the status of a task that only says how many of a hundred parts
// of it are done (RFC 5545, 3.8.1.8).
func statusByPart(text string) followup.Status {
	switch n, _ := strconv.Atoi(text); {
	case n >= 100:
		return followup.Done
	case n > 0:
		return followup.Under
	}
	return followup.Open
}

// categories of another program: the first is a project, the second a context.
func (t *Task) categories(todo *ical.Component) {
	if t.Project != "" || t.Context != "" {
		return
	}
	var names []string
	for _, p := range todo.All("CATEGORIES") {
		for _, name := range p.Texts() {
			if name = strings.TrimSpace(name); name != "" {
				names = append(names, name)
			}
		}
	}
	if len(names) > 0 {
		t.Project = names[0]
	}
	if len(names) > 1 {
		t.Context = names[1]
	}
}

func readTime(todo *ical.Component, name ics.ComponentProperty, c when.Calendar) (*when.Moment, error) {
	p, ok := todo.Get(string(name))
	if !ok {
		return nil, nil
	}
	m, err := ical.Time(p.Text(), p.Params, c)
	if err != nil {
		return nil, err
	}
	if m.Precision == when.ToDay {
		for _, part := range todo.All(string(xPart)) {
			clock, err := time.Parse("15:04", part.Value)
			if err == nil && part.Param("X-OF") == string(name) {
				m.Wall = m.Wall[:10] + clock.Format("T15:04")
				*m = m.In(c)
				m.Phrase = m.Canonical(c)
			}
		}
	}
	return m, nil
}

func readAlarm(a *ical.Component, c when.Calendar) (followup.Reminding, bool) {
	if phrase := a.Text(string(xRemind)); phrase != "" {
		if rel, ok, err := when.ReadRelative(phrase, c); ok && err == nil {
			return followup.Reminding{Relative: &rel}, true
		}
	}
	trigger, ok := a.Get("TRIGGER")
	if !ok {
		return followup.Reminding{}, false
	}
	if d, ok := ical.Duration(trigger.Text()); ok {
		if d > 0 {
			return followup.Reminding{}, false // after it: reminders come before
		}
		anchor := when.FromStart
		if strings.EqualFold(trigger.Param("RELATED"), "END") {
			anchor = when.FromDue
		}
		return followup.Reminding{Relative: &when.Relative{Anchor: anchor, Before: -d}}, true
	}
	m, err := ical.Time(trigger.Text(), trigger.Params, c)
	if err != nil || m.Precision != when.ToMinute {
		return followup.Reminding{}, false
	}
	return followup.Reminding{Moment: m}, true
}
