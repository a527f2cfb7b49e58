package exchange

import (
	"fmt"
	"regexp"
	"slices"
	"strconv"
	"strings"
	"time"

	ics "github.com/arran4/golang-ical"

	"ebbe.example/ebbe/internal/core/followup"
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

const stampLayout = "20060102T150405Z"

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
	return cal.Serialize()
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
		todo.SetProperty(ics.ComponentPropertyCompleted, t.DoneAt.UTC().Format(stampLayout))
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
		a.SetProperty(ics.ComponentPropertyTrigger, m.UTC.UTC().Format(stampLayout), &ics.KeyValues{Key: "VALUE", Value: []string{"DATE-TIME"}})
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
		todo.SetProperty(p, m.UTC.UTC().Format(stampLayout))
	default:
		todo.SetProperty(p, local.Format("20060102T150405"), &ics.KeyValues{Key: "TZID", Value: []string{c.Zone.String()}})
	}
}

// maxTasks bounds how many tasks a file is read for.
const maxTasks = 50_000

func readICal(data string, c when.Calendar, now time.Time) (tasks []Task, troubles []Trouble) {
	cal, err := ics.ParseCalendar(strings.NewReader(data))
	if err != nil {
		return nil, []Trouble{{What: "the calendar can't be read: " + err.Error()}}
	}
	at := map[string]int{}
	var checks []*ics.VTodo
	for _, todo := range cal.Todos() {
		if len(tasks) >= maxTasks {
			troubles = append(troubles, Trouble{What: fmt.Sprintf("more than %d tasks; the rest is left out", maxTasks)})
			break
		}
		if todo.GetProperty(xCheck) != nil {
			checks = append(checks, todo)
			continue
		}
		t, err := readTodo(todo, c, now)
		if err != nil {
			troubles = append(troubles, Trouble{Text: value(todo, ics.ComponentPropertySummary), What: err.Error()})
			continue
		}
		at[t.UID] = len(tasks)
		tasks = append(tasks, t)
	}
	slices.SortStableFunc(checks, func(a, b *ics.VTodo) int { return order(a) - order(b) })
	for _, check := range checks {
		if i, ok := at[value(check, ics.ComponentPropertyRelatedTo)]; ok {
			tasks[i].Checklist = append(tasks[i].Checklist, followup.Item{Text: value(check, ics.ComponentPropertySummary), Done: value(check, ics.ComponentPropertyStatus) == "COMPLETED"})
		}
	}
	return tasks, troubles
}

func order(todo *ics.VTodo) int {
	n, _ := strconv.Atoi(value(todo, xCheck))
	return n
}

func value(todo *ics.VTodo, p ics.ComponentProperty) string {
	if v := todo.GetProperty(p); v != nil {
		return v.Value
	}
	return ""
}

func readTodo(todo *ics.VTodo, c when.Calendar, now time.Time) (Task, error) {
	t := Task{
		UID: todo.Id(), Title: strings.TrimSpace(value(todo, ics.ComponentPropertySummary)), Notes: value(todo, ics.ComponentPropertyDescription),
		Project: value(todo, xProject), Context: value(todo, xContext), Stage: value(todo, xStage), Assignee: value(todo, xOwner), Status: followup.Open,
	}
	if t.Title == "" {
		return t, fmt.Errorf("the task has no title")
	}
	n, _ := strconv.Atoi(value(todo, ics.ComponentPropertyPriority))
	t.Priority = priorityOf(n)
	switch strings.ToUpper(value(todo, ics.ComponentPropertyStatus)) {
	case "COMPLETED":
		t.Status = followup.Done
	case "CANCELLED":
		t.Status = followup.Dropped
	case "IN-PROCESS":
		t.Status = followup.Under
	default:
		if s, ok := statusNamed(value(todo, xStatus)); ok {
			t.Status = s
		}
	}
	var err error
	if t.Start, err = readICalTime(todo, ics.ComponentPropertyDtStart, c); err != nil {
		return t, err
	}
	if t.Due, err = readICalTime(todo, ics.ComponentPropertyDue, c); err != nil {
		return t, err
	}
	if at, err := time.Parse(stampLayout, value(todo, ics.ComponentPropertyCreated)); err == nil {
		t.MadeAt = at
	}
	if at, err := time.Parse(stampLayout, value(todo, ics.ComponentPropertyCompleted)); err == nil {
		t.DoneAt = at
		if todo.GetProperty(ics.ComponentPropertyStatus) == nil {
			t.Status = followup.Done
		}
	}
	t.Estimate, _ = strconv.Atoi(value(todo, xMinutes))
	t.Estimate = min(max(t.Estimate, 0), 10_000)
	t.categories(todo)
	rule := value(todo, ics.ComponentPropertyRrule)
	if value(todo, xAfter) == "TRUE" {
		rule += doneSuffix
	}
	if t.Recurs, err = readRecurs(rule, value(todo, xPhrase), c, now); err != nil {
		return t, err
	}
	if t.Recurs != nil {
		t.Recurs.From = value(todo, xFrom)
	}
	for _, a := range todo.GetProperties(ics.ComponentPropertyAttach) {
		if id, ok := strings.CutPrefix(a.Value, "mid:"); ok {
			t.Letters = append(t.Letters, Letter{MessageID: strings.ReplaceAll(id, "%25", "%")})
		}
	}
	for _, a := range todo.Alarms() {
		if r, ok := readAlarm(a, c); ok {
			t.Remind = append(t.Remind, r)
		}
	}
	return t, nil
}

// categories of another program: the first is a project, the second a context.
func (t *Task) categories(todo *ics.VTodo) {
	if t.Project != "" || t.Context != "" {
		return
	}
	var names []string
	for _, p := range todo.GetProperties(ics.ComponentPropertyCategories) {
		for name := range strings.SplitSeq(p.Value, ",") {
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

func readICalTime(todo *ics.VTodo, p ics.ComponentProperty, c when.Calendar) (*when.Moment, error) {
	prop := todo.GetProperty(p)
	if prop == nil {
		return nil, nil
	}
	m, err := ICalTime(prop.Value, prop.ICalParameters, c)
	if err != nil {
		return nil, err
	}
	if m.Precision == when.ToDay {
		for _, part := range todo.GetProperties(xPart) {
			clock, err := time.Parse("15:04", part.Value)
			if err == nil && slices.Contains(part.ICalParameters["X-OF"], string(p)) {
				m.Wall = m.Wall[:10] + clock.Format("T15:04")
				*m = m.In(c)
				m.Phrase = m.Canonical(c)
			}
		}
	}
	return m, nil
}

// ICalTime reads a DATE or DATE-TIME with its parameters (RFC 5545, 3.3.4 and
// 3.3.5). A floating time, or one of a zone that is not known, is the person's
// own wall-clock time.
func ICalTime(text string, params map[string][]string, c when.Calendar) (*when.Moment, error) {
	if t, err := time.Parse("20060102", text); err == nil {
		m := when.OnDay(when.Date{Year: t.Year(), Month: t.Month(), Day: t.Day()}, c)
		return &m, nil
	}
	if t, err := time.Parse(stampLayout, text); err == nil {
		return exact(t, c), nil
	}
	t, err := time.Parse("20060102T150405", text)
	if err != nil {
		return nil, fmt.Errorf("“%s” is not a time", text)
	}
	zone := c
	if id := params["TZID"]; len(id) > 0 {
		if loaded, err := time.LoadLocation(strings.Trim(id[0], `"`)); err == nil && id[0] != "" && id[0] != "Local" {
			zone.Zone = loaded
		}
	}
	return exact(wallTime(t, zone), c), nil
}

var before = regexp.MustCompile(`^([+-]?)P(?:(\d+)W)?(?:(\d+)D)?(?:T(?:(\d+)H)?(?:(\d+)M)?(?:\d+S)?)?$`)

// Duration reads a DURATION (RFC 5545, 3.3.6), negative ones too.
func Duration(text string) (d time.Duration, ok bool) {
	m := before.FindStringSubmatch(text)
	if m == nil {
		return 0, false
	}
	for i, unit := range []time.Duration{7 * 24 * time.Hour, 24 * time.Hour, time.Hour, time.Minute} {
		n, _ := strconv.Atoi(m[i+2])
		d += time.Duration(n) * unit
	}
	if m[1] == "-" {
		d = -d
	}
	return d, true
}

func readAlarm(a *ics.VAlarm, c when.Calendar) (followup.Reminding, bool) {
	if p := a.GetProperty(xRemind); p != nil {
		if rel, ok, err := when.ReadRelative(p.Value, c); ok && err == nil {
			return followup.Reminding{Relative: &rel}, true
		}
	}
	trigger := a.GetProperty(ics.ComponentPropertyTrigger)
	if trigger == nil {
		return followup.Reminding{}, false
	}
	if d, ok := Duration(trigger.Value); ok {
		if d > 0 {
			return followup.Reminding{}, false // after it: reminders come before
		}
		anchor := when.FromStart
		if slices.Contains(trigger.ICalParameters["RELATED"], "END") {
			anchor = when.FromDue
		}
		return followup.Reminding{Relative: &when.Relative{Anchor: anchor, Before: -d}}, true
	}
	m, err := ICalTime(trigger.Value, trigger.ICalParameters, c)
	if err != nil || m.Precision != when.ToMinute {
		return followup.Reminding{}, false
	}
	return followup.Reminding{Moment: m}, true
}
