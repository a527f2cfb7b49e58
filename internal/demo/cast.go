package demo

import (
	"embed"
	"fmt"
	"math/rand/v2"
	"net/mail"
	"strings"
	"time"

	"github.com/goccy/go-yaml"

	"ebbe.example/ebbe/internal/core/letter"
	"ebbe.example/ebbe/internal/core/sorting"
	"ebbe.example/ebbe/internal/core/when"
)

// texts are the letters of the world, as templates: see grammar.go.
//
//go:embed texts
var texts embed.FS

// sender is somebody, or something, that writes to Ines again and again.
type sender struct {
	From  string  `yaml:"from"`
	To    string  `yaml:"to"`
	Per   int     `yaml:"per"`
	Every []clock `yaml:"every"`
	// Alternate leaves out every other week.
	Alternate bool    `yaml:"alternate"`
	Greets    string  `yaml:"greets"`
	Signs     string  `yaml:"signs"`
	Topics    []topic `yaml:"topics"`
	Storm     bool    `yaml:"storm"`
	List      bool    `yaml:"list"`
	ListID    string  `yaml:"listID"`
	// Kind is of what kind its letters are; "" of a person's.
	Kind sorting.Kind `yaml:"kind"`
	// Since and Until are the days of the world in which it writes; 0 for all.
	Since  int    `yaml:"since"`
	Until  int    `yaml:"until"`
	Auto   bool   `yaml:"auto"`
	HTML   bool   `yaml:"html"`
	Remote bool   `yaml:"remote"`
	Style  string `yaml:"style"`
	Layout string `yaml:"layout"`
	Colour string `yaml:"colour"`

	from letter.Address
}

// topic is what a sender writes about, and what Ines does with it.
type topic struct {
	Subject string   `yaml:"subject"`
	Text    string   `yaml:"text"`
	Reply   string   `yaml:"reply"`
	Fates   string   `yaml:"fates"`
	Label   string   `yaml:"label"`
	Files   []string `yaml:"files"`
	Style   string   `yaml:"style"`
	To      string   `yaml:"to"`
	// Rare is what comes up a few times a year.
	Rare bool `yaml:"rare"`
}

// clock is when a letter comes by the clock: "mon 06:10", "day 02:40", or
// "first 08:00" for the first of a month.
type clock struct {
	day    string
	minute int
}

func (c *clock) UnmarshalYAML(text []byte) error {
	day, at, _ := strings.Cut(strings.TrimSpace(string(text)), " ")
	t, err := time.Parse("15:04", at)
	if err != nil {
		return fmt.Errorf("%q: %w", text, err)
	}
	c.day, c.minute = day, t.Hour()*60+t.Minute()
	return nil
}

// on tells whether it strikes on a day.
func (c clock) on(d when.Date) bool {
	return c.day == "day" || c.day == "first" && d.Day == 1 || strings.EqualFold(c.day, d.Weekday().String()[:3])
}

// company are all who write.
type company struct {
	senders   []sender
	hard      []sender
	strangers []topic
	threads   []thread
	weight    int
}

// cast is the company of the world. What it is made of ships with the
// application, so that a slip in it is one in the program.
var cast = gather()

func gather() (c company) {
	for _, name := range []string{"people", "machines"} {
		var some []sender
		read(name, &some)
		c.senders = append(c.senders, some...)
	}
	read("strangers", &c.strangers)
	read("threads", &c.threads)
	read("hard", &c.hard)
	for _, some := range [][]sender{c.senders, c.hard} {
		for i := range some {
			s := &some[i]
			a, err := mail.ParseAddress(quoted(s.From))
			if err != nil {
				panic(fmt.Sprintf("%s: %v", s.From, err))
			}
			s.from = letter.Address{Name: a.Name, Email: a.Address}
		}
	}
	for _, s := range c.senders {
		c.weight += s.Per
	}
	return c
}

// quoted writes a name so that an apostrophe or an ampersand may stand in it.
func quoted(from string) string {
	name, address, _ := strings.Cut(from, " <")
	return `"` + name + `" <` + address
}

func read(name string, into any) {
	data, err := texts.ReadFile("texts/" + name + ".yaml")
	if err == nil {
		err = yaml.Unmarshal(data, into)
	}
	if err != nil {
		panic(fmt.Sprintf("%s: %v", name, err))
	}
}

// strangersPer is how many letters in a hundred come from people whom Ines does
// not know.
const strangersPer = 10

// pick draws a sender, and what it is about; a stranger is made up on the spot.
func (c company) pick(r *rand.Rand, f *filling) (sender, topic) {
	at := r.IntN(c.weight + strangersPer)
	for _, s := range c.senders {
		if at -= s.Per; at < 0 {
			return s, s.topic(r)
		}
	}
	t := c.strangers[r.IntN(len(c.strangers))]
	name := f.slot("stranger")
	host := mailHosts[r.IntN(len(mailHosts))]
	s := sender{
		from:   person(name, strings.ReplaceAll(ascii(name), " ", ".")+"@"+host),
		Greets: "{Dear Ms Halvorsen,|Hello,|Good day,|Dear garden,|Hei,}", Signs: "{With kind regards,\n|Best wishes,\n|}" + name,
	}
	return s, t
}

// topic draws what a letter is about; for what is rare it throws once more.
func (s sender) topic(r *rand.Rand) topic {
	for range 4 {
		if t := s.Topics[r.IntN(len(s.Topics))]; !t.Rare {
			return t
		}
	}
	return s.Topics[r.IntN(len(s.Topics))]
}

// addressed is where a letter goes.
func addressed(to string) letter.Address {
	switch to {
	case "walks":
		return walks
	case "private":
		return private
	}
	return ines
}

// compose writes a letter about a topic.
func (s sender) compose(t topic, f *filling) message {
	text := f.say(t.Text)
	greeting := f.say(s.Greets)
	if greeting == "" {
		text = capital(text)
	} else {
		text = greeting + "\n\n" + text
	}
	if sign := f.say(s.Signs); sign != "" {
		text += "\n\n" + sign
	}
	to, style := t.To, t.Style
	if to == "" {
		to = s.To
	}
	if style == "" {
		style = s.Style
	}
	m := message{
		from: s.from, to: addressed(to), subject: capital(f.say(t.Subject)), text: text,
		list: s.List, listID: s.ListID, html: s.HTML, remote: s.Remote, style: style, layout: s.Layout, colour: s.Colour, attach: t.Files,
	}
	if s.Auto {
		m.auto = "auto-generated"
	}
	return m
}

// machine tells whether nobody wrote it by hand.
func (s sender) machine() bool { return s.List || s.Auto || s.Style == "accept" || s.Layout != "" }
