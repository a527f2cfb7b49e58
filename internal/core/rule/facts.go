package rule

import (
	"strings"
	"time"
	"unicode"

	"ebbe.example/ebbe/internal/core/findings"
	"ebbe.example/ebbe/internal/core/letter"
	"ebbe.example/ebbe/internal/core/sorting"
)

// Facts are what rules see of a letter.
type Facts struct {
	Letter, Conversation int64
	From                 letter.Address
	To, Cc               []letter.Address
	List, Subject        string
	Kind                 sorting.Kind
	Size                 int // in bytes, as it came
	Files                []File
	Accounts             []int64
	// Labels are those of its conversation.
	Labels []string
	// At is when it came, by its owner's clock.
	At time.Time
	// Text gives what it says. It is asked only where a condition needs it; nil for nothing.
	Text func() string
}

// File is something attached.
type File struct{ Name, Type string }

// person is a name and an address, or what else has two texts, ready to be compared.
type person struct{ name, email string }

// seen are facts as conditions compare them, each made ready when it is first asked for.
type seen struct {
	Facts
	labels                    map[string]bool
	fromIs, toIs, ccIs        []person
	filesAre                  []person
	listIs, subjectIs, textIs *string
	said                      *string
	total                     *findings.Amount
	totals                    bool
}

func look(f Facts) *seen {
	s := &seen{Facts: f}
	s.label(f.Labels)
	return s
}

// label adds to the labels that are seen.
func (s *seen) label(labels []string) {
	if s.labels == nil && len(labels) > 0 {
		s.labels = make(map[string]bool, len(labels))
	}
	for _, l := range labels {
		s.labels[fold(l)] = true
	}
}

func (s *seen) from() []person {
	if s.fromIs == nil {
		s.fromIs = folded([]letter.Address{s.From})
	}
	return s.fromIs
}

func (s *seen) to() []person {
	if s.toIs == nil {
		s.toIs = folded(s.To)
	}
	return s.toIs
}

func (s *seen) cc() []person {
	if s.ccIs == nil {
		s.ccIs = folded(s.Cc)
	}
	return s.ccIs
}

func folded(list []letter.Address) []person {
	out := make([]person, len(list))
	for i, a := range list {
		out[i] = person{fold(a.Name), fold(a.Email)}
	}
	return out
}

func (s *seen) files() []person {
	if s.filesAre == nil {
		s.filesAre = make([]person, len(s.Files))
		for i, f := range s.Files {
			s.filesAre[i] = person{fold(f.Name), fold(f.Type)}
		}
	}
	return s.filesAre
}

func (s *seen) domain() string {
	email := s.from()[0].email
	return email[strings.LastIndexByte(email, '@')+1:]
}

func (s *seen) list() string    { return once(&s.listIs, func() string { return fold(s.List) }) }
func (s *seen) subject() string { return once(&s.subjectIs, func() string { return fold(s.Subject) }) }
func (s *seen) text() string    { return once(&s.textIs, func() string { return fold(flat(s.says())) }) }

func (s *seen) says() string {
	return once(&s.said, func() string {
		if s.Text == nil {
			return ""
		}
		return s.Text()
	})
}

// amount is the sum that its new text is about.
func (s *seen) amount() (findings.Amount, bool) {
	if s.total == nil {
		a, ok := findings.Total(letter.Unquoted(s.says()))
		s.total, s.totals = &a, ok
	}
	return *s.total, s.totals
}

func once(kept **string, make func() string) string {
	if *kept == nil {
		made := make()
		*kept = &made
	}
	return **kept
}

// fold makes texts equal that differ in capitals only. What is beyond ASCII never becomes an ASCII
// letter by it, so that words of ASCII letters compare as Sieve's i;ascii-casemap does (RFC 4790, 9.2).
func fold(text string) string {
	return strings.Map(func(r rune) rune {
		if low := unicode.ToLower(r); r < 0x80 || low >= 0x80 {
			return low
		}
		return r
	}, text)
}

// flat puts the lines of a text into one, so that words are found across them.
func flat(text string) string { return strings.Join(strings.Fields(text), " ") }
