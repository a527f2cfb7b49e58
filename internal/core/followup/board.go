package followup

import (
	"cmp"
	"errors"
	"fmt"
	"slices"
	"strconv"
	"strings"
	"time"

	"ebbe.example/ebbe/internal/core/load"
	"ebbe.example/ebbe/internal/core/when"
)

// Item is a line of a checklist.
type Item struct {
	Text string `json:"text" maxLength:"500"`
	Done bool   `json:"done,omitempty"`
}

// Card is a follow-up as far as laying it out goes.
type Card struct {
	ID       int64
	Title    string
	Due      *when.Moment
	Priority Priority
	Status   Status
	Stage    int64
	Assignee string
	Project  string
	Context  string
	// Sender is who wrote the letter behind it; "" without one.
	Sender   string
	Estimate time.Duration
	MadeAt   time.Time
	DoneAt   time.Time
}

// Person is whom a follow-up is about: who does it, else who wrote.
func (c Card) Person() string { return cmp.Or(c.Assignee, c.Sender) }

// Layout is by what follow-ups are laid out.
type Layout string

// The layouts.
const (
	ByDue      Layout = "due"
	ByStage    Layout = "stage"
	ByPriority Layout = "priority"
	ByPerson   Layout = "person"
	ByProject  Layout = "project"
	ByContext  Layout = "context"
	// ByOrder is one lane, in the order of work.
	ByOrder Layout = "order"
)

// Filter narrows follow-ups down: within a list any will do, and all the lists
// together must fit. The zero Filter lets everything through.
type Filter struct {
	// Text is words that the title, project, context or person must have.
	Text     string     `json:"text,omitempty" maxLength:"200"`
	Due      []Group    `json:"due,omitempty" maxItems:"10" doc:"Lanes of the layout by due"`
	Priority []Priority `json:"priority,omitempty" maxItems:"10"`
	Status   []Status   `json:"status,omitempty" maxItems:"10"`
	Stage    []int64    `json:"stage,omitempty" maxItems:"100" doc:"0 for none"`
	Person   []string   `json:"person,omitempty" maxItems:"100" doc:"Empty text for nobody"`
	Project  []string   `json:"project,omitempty" maxItems:"100"`
	Context  []string   `json:"context,omitempty" maxItems:"100"`
	// Mine leaves out what somebody else does.
	Mine bool `json:"mine,omitempty"`
	// Most leaves out what takes longer, in minutes; 0 for any.
	Most int `json:"most,omitempty" minimum:"0"`
}

func among[T comparable](list []T, x T) bool { return len(list) == 0 || slices.Contains(list, x) }

// Match tells whether a follow-up passes the filter.
func (f Filter) Match(c Card, now time.Time, cal when.Calendar) bool {
	estimate := c.Estimate
	if estimate == 0 {
		estimate = load.UsualEstimate
	}
	return among(f.Priority, c.Priority) && among(f.Status, c.Status) && among(f.Stage, c.Stage) && among(f.Person, c.Person()) &&
		among(f.Project, c.Project) && among(f.Context, c.Context) && (!f.Mine || c.Assignee == "") &&
		(f.Most == 0 || estimate <= time.Duration(f.Most)*time.Minute) &&
		(len(f.Due) == 0 || slices.Contains(f.Due, GroupOf(c.Due, now, cal))) && f.hasWords(c)
}

func (f Filter) hasWords(c Card) bool {
	if f.Text == "" {
		return true
	}
	text := strings.ToLower(strings.Join([]string{c.Title, c.Project, c.Context, c.Assignee, c.Sender}, "\n"))
	for _, w := range strings.Fields(strings.ToLower(f.Text)) {
		if !strings.Contains(text, w) {
			return false
		}
	}
	return true
}

// Lane is a group of a layout. Its key is what a follow-up dropped there gets.
type Lane struct {
	Key   string
	Label string
	IDs   []int64
	// Minutes is the work in it.
	Minutes int
	// Most is how many a stage should hold; 0 for any number.
	Most int
}

// NamedStage is a stage as far as laying out goes.
type NamedStage struct {
	ID   int64
	Name string
	Most int
}

var dueLabels = map[Group]string{Overdue: "Overdue", Today: "Today", ThisWeek: "This week", ThisMonth: "This month", Further: "Further on", Someday: "Someday"}
var dueOrder = []Group{Overdue, Today, ThisWeek, ThisMonth, Further, Someday}

// LayOut puts follow-ups, given in the order of work, into lanes. Lanes by due,
// stage and priority are there also when they are empty, so that something can
// be put there; those of what is overdue and further on only when they are not.
func LayOut(list []Card, by Layout, stages []NamedStage, now time.Time, c when.Calendar) []Lane {
	var lanes []Lane
	at := map[string]int{}
	add := func(key, label string, most int) {
		at[key] = len(lanes)
		lanes = append(lanes, Lane{Key: key, Label: label, Most: most})
	}
	switch by {
	case ByDue:
		for _, g := range dueOrder {
			add(string(g), dueLabels[g], 0)
		}
	case ByPriority:
		for _, p := range Priorities {
			add(string(p), strings.ToUpper(string(p[:1]))+string(p[1:]), 0)
		}
	case ByStage:
		add("0", "No stage", 0)
		for _, s := range stages {
			add(strconv.FormatInt(s.ID, 10), s.Name, s.Most)
		}
	case ByOrder:
		add("", "In the order of work", 0)
	case ByPerson, ByProject, ByContext:
		for _, name := range names(list, by) {
			add(name, cmp.Or(name, map[Layout]string{ByPerson: "Nobody", ByProject: "No project", ByContext: "Anywhere"}[by]), 0)
		}
	}
	if by == ByDue { // what is due first stands first; what is due together, by the order of work
		list = slices.Clone(list)
		slices.SortStableFunc(list, func(a, b Card) int {
			if a.Due == nil || b.Due == nil {
				return cmp.Compare(without(a.Due), without(b.Due))
			}
			return a.Due.UTC.Compare(b.Due.UTC)
		})
	}
	for _, card := range list {
		i, ok := at[card.key(by, now, c)]
		if !ok {
			i = 0 // of a stage that is gone
		}
		estimate := card.Estimate
		if estimate == 0 {
			estimate = load.UsualEstimate
		}
		lanes[i].IDs = append(lanes[i].IDs, card.ID)
		lanes[i].Minutes += int(estimate.Minutes())
	}
	return slices.DeleteFunc(lanes, func(l Lane) bool {
		return len(l.IDs) == 0 && by == ByDue && (l.Key == string(Overdue) || l.Key == string(Further))
	})
}

func without(due *when.Moment) int {
	if due == nil {
		return 1
	}
	return 0
}

func (c Card) key(by Layout, now time.Time, cal when.Calendar) string {
	switch by {
	case ByStage:
		return strconv.FormatInt(c.Stage, 10)
	case ByPriority:
		return string(c.Priority)
	case ByPerson:
		return c.Person()
	case ByProject:
		return c.Project
	case ByContext:
		return c.Context
	case ByOrder:
		return ""
	case ByDue:
	}
	return string(GroupOf(c.Due, now, cal))
}

// names are those in use, by the alphabet; none comes last.
func names(list []Card, by Layout) []string {
	seen := map[string]bool{}
	var out []string
	for _, c := range list {
		if k := c.key(by, time.Time{}, when.Calendar{}); !seen[k] {
			seen[k] = true
			out = append(out, k)
		}
	}
	slices.SortFunc(out, func(a, b string) int {
		if (a == "") != (b == "") {
			return cmp.Compare(b, a)
		}
		return cmp.Or(cmp.Compare(strings.ToLower(a), strings.ToLower(b)), cmp.Compare(a, b))
	})
	return out
}

// PutInto is the follow-up once it is put into a lane of a layout: the one field
// by which it is laid out changes. By person, it comes to the one who wrote by
// nobody else doing it.
func (c Card) PutInto(by Layout, key string, now time.Time, cal when.Calendar) (Card, error) {
	switch by {
	case ByDue:
		due, err := dueOf(Group(key), c.Due, now, cal)
		c.Due = due
		return c, err
	case ByPriority:
		c.Priority = Priority(key)
	case ByStage:
		id, err := strconv.ParseInt(key, 10, 64)
		if err != nil {
			return c, errors.New("there is no such stage")
		}
		c.Stage = id
	case ByPerson:
		if c.Assignee = key; key == c.Sender {
			c.Assignee = ""
		}
	case ByProject:
		c.Project = key
	case ByContext:
		c.Context = key
	default:
		return c, fmt.Errorf("nothing can be put into a lane by “%s”", by)
	}
	return c, nil
}

// dueOf is the due that a follow-up gets when it is put into a lane of the
// layout by due: the end of the week or month is its last working day. One that
// lies in the lane already keeps its due.
func dueOf(lane Group, was *when.Moment, now time.Time, c when.Calendar) (*when.Moment, error) {
	if GroupOf(was, now, c) == lane {
		return was, nil
	}
	today := c.Today(now)
	day := today
	switch lane {
	case Someday:
		return nil, nil
	case Today:
	case ThisWeek:
		day = lastWorkday(c, c.WeekEnd(today))
		if !day.After(today) {
			return nil, errors.New("no working day is left in this week")
		}
	case ThisMonth:
		day = lastWorkday(c, c.MonthEnd(today))
		if !day.After(c.WeekEnd(today)) {
			return nil, errors.New("this month ends with this week; name a day")
		}
	case Overdue:
		return nil, errors.New("nothing can be made late; name a day")
	case Further:
		return nil, errors.New("name the day: press 3")
	default:
		return nil, fmt.Errorf("there is no lane “%s”", lane)
	}
	m := when.OnDay(day, c)
	return &m, nil
}

func lastWorkday(c when.Calendar, d when.Date) when.Date {
	for range 7 {
		if c.Works(d) {
			break
		}
		d = d.Add(-1)
	}
	return d
}

// RemindAt is when a reminder rings: its own moment, or reckoned from the due
// or start. Without what it is reckoned from it has no time.
func RemindAt(r Reminding, start, due *when.Moment, c when.Calendar) when.Moment {
	if r.Relative == nil {
		return *r.Moment
	}
	anchor := due
	if r.Relative.Anchor == when.FromStart {
		anchor = start
	}
	if anchor == nil || anchor.Precision == when.Open {
		return when.Moment{Phrase: r.Relative.String(), Precision: when.Open}
	}
	m := r.Relative.From(*anchor, c)
	m.Phrase = r.Relative.String()
	return m
}

// CheckTimes tells what is wrong with a start, a due and reminders, for the
// person.
func CheckTimes(start, due *when.Moment, reminders []when.Moment) error {
	timed := func(m *when.Moment) bool { return m != nil && m.Precision != when.Open }
	if timed(start) && timed(due) && due.UTC.Before(start.UTC) {
		return errors.New("it would be due before it starts")
	}
	for _, r := range reminders {
		if timed(due) && due.Precision == when.ToMinute && r.Precision != when.Open && r.UTC.After(due.UTC) {
			return errors.New("the reminder would come after it is due")
		}
	}
	return nil
}
