package rule

import (
	"errors"
	"fmt"
	"net/mail"
	"regexp"
	"slices"
	"strconv"
	"strings"
	"time"
	"unicode"
	"unicode/utf8"

	"ebbe.example/ebbe/internal/core/find"
	"ebbe.example/ebbe/internal/core/findings"
	"ebbe.example/ebbe/internal/core/sorting"
)

// Field is what a condition looks at.
type Field string

// The fields.
const (
	From     Field = "from"    // an address, or a part of the name or address
	Domain   Field = "domain"  // that of the sender, or one below it
	To       Field = "to"      // as From
	Cc       Field = "cc"      // as From
	List     Field = "list"    // its List-Id (RFC 2919)
	Subject  Field = "subject" // words in it
	Text     Field = "text"    // words in it
	Kind     Field = "kind"    // of what kind it is (see sorting)
	Size     Field = "size"    // more than so much: “500 kB”
	Attached Field = "file"    // a part of the name or type of something attached
	Account  Field = "account" // where it came in, by number
	Label    Field = "label"   // that of its conversation, also by an earlier rule
	Hours    Field = "hours"   // when it came: “9:00 to 12:00”, by its owner's clock
	Amount   Field = "amount"  // the sum that it is about is more: “500 EUR”
)

// FieldAbout is what is to be known of a field.
type FieldAbout struct {
	Of Field `json:"of"`
	// Name is what it is called in a rule, Example a value.
	Name    string `json:"name"`
	Example string `json:"example"`
}

// Fields are all of them.
var Fields = []FieldAbout{
	{From, "Sender", "bram@hexa.example"},
	{Domain, "Sender’s domain", "hexa.example"},
	{Subject, "Words in the subject", "loan agreement"},
	{Text, "Words in the text", "please sign"},
	{List, "List", "news.hexa.example"},
	{To, "To", "office@norrholm.example"},
	{Cc, "Copy to", "tove"},
	{Kind, "Kind", "reading"},
	{Attached, "Attached file", ".pdf"},
	{Amount, "Amount over", "500 EUR"},
	{Size, "Larger than", "5 MB"},
	{Label, "Label", "loans"},
	{Account, "Account", ""},
	{Hours, "Came between", "18:00 to 7:00"},
}

// Condition is one condition.
type Condition struct {
	Of Field  `json:"of" enum:"from,domain,to,cc,list,subject,text,kind,size,file,account,label,hours,amount"`
	Is string `json:"is" maxLength:"500"`
}

// longestValue bounds values, in characters.
const longestValue = 200

// test tells whether facts meet a condition.
type test func(*seen) bool

// compile reads the value of a condition, once for all letters.
func (c Condition) compile() (test, error) {
	is := fold(strings.TrimSpace(c.Is))
	name := c.Of.name()
	switch {
	case name == "":
		return nil, fmt.Errorf("there is no condition “%s”", c.Of)
	case is == "":
		return nil, fmt.Errorf("“%s” needs a value", name)
	case utf8.RuneCountInString(is) > longestValue:
		return nil, fmt.Errorf("“%s” is longer than %d characters", name, longestValue)
	case strings.ContainsFunc(is, unicode.IsControl) || !utf8.ValidString(is):
		return nil, fmt.Errorf("“%s” has a line break or another sign that can’t be typed", name)
	}
	switch c.Of {
	case From:
		return people(is, func(s *seen) []person { return s.from() }), nil
	case To:
		return people(is, func(s *seen) []person { return s.to() }), nil
	case Cc:
		return people(is, func(s *seen) []person { return s.cc() }), nil
	case Domain:
		return domain(strings.TrimPrefix(is, "@"))
	case List:
		return func(s *seen) bool { return s.list() == is }, nil
	case Subject:
		return func(s *seen) bool { return strings.Contains(s.subject(), is) }, nil
	case Text:
		return func(s *seen) bool { return strings.Contains(s.text(), is) }, nil
	case Kind:
		return kind(is)
	case Size:
		n, err := ReadSize(is)
		return func(s *seen) bool { return s.Size > n }, err
	case Attached:
		return file(is), nil
	case Account:
		id, err := strconv.ParseInt(is, 10, 64)
		if err != nil {
			return nil, errors.New("there is no such account")
		}
		return func(s *seen) bool { return slices.Contains(s.Accounts, id) }, nil
	case Label:
		return func(s *seen) bool { return s.labels[is] }, nil
	case Hours:
		from, to, err := ReadHours(is)
		return func(s *seen) bool { return within(s.At, from, to) }, err
	case Amount:
		over, err := ReadAmount(is)
		return func(s *seen) bool {
			a, ok := s.amount()
			return ok && a.Currency == over.Currency && a.Cents > over.Cents
		}, err
	}
	return nil, fmt.Errorf("there is no condition “%s”", c.Of)
}

func (f Field) name() string {
	i := slices.IndexFunc(Fields, func(a FieldAbout) bool { return a.Of == f })
	if i < 0 {
		return ""
	}
	return Fields[i].Name
}

// InWords says a condition: “Sender: bram@hexa.example”.
func (c Condition) InWords() string { return c.Of.name() + ": " + strings.TrimSpace(c.Is) }

// IsAddress tells whether a value of a sender or receiver stands for an address, and not for a part
// of one.
func IsAddress(is string) bool {
	a, err := mail.ParseAddress(is)
	return err == nil && a.Name == "" && a.Address == is
}

func people(is string, of func(*seen) []person) test {
	if IsAddress(is) {
		return func(s *seen) bool { return slices.ContainsFunc(of(s), func(p person) bool { return p.email == is }) }
	}
	return func(s *seen) bool {
		return slices.ContainsFunc(of(s), func(p person) bool { return strings.Contains(p.name, is) || strings.Contains(p.email, is) })
	}
}

// aDomain is what a domain may look like (RFC 1035, 2.3.1, and what is beyond ASCII).
var aDomain = regexp.MustCompile(`^[\p{L}\d_-]+(\.[\p{L}\d_-]+)*$`)

func domain(is string) (test, error) {
	if !aDomain.MatchString(is) {
		return nil, fmt.Errorf("“%s” is no domain", is)
	}
	return func(s *seen) bool {
		d := s.domain()
		return d == is || strings.HasSuffix(d, "."+is)
	}, nil
}

// kind reads a kind. What was never sorted counts as a person's.
func kind(is string) (test, error) {
	k := sorting.Kind(is)
	if _, ok := k.About(); !ok && k != sorting.Person {
		return nil, fmt.Errorf("there is no kind “%s”", is)
	}
	return func(s *seen) bool { return s.Kind == k || k == sorting.Person && OfPerson(s.Kind) }, nil
}

func file(is string) test {
	return func(s *seen) bool {
		return slices.ContainsFunc(s.files(), func(f person) bool { return strings.Contains(f.name, is) || strings.Contains(f.email, is) })
	}
}

// ReadSize reads a size in bytes, as it is written in searches.
func ReadSize(is string) (int, error) {
	n, ok := find.ReadSize(is)
	if !ok {
		return 0, fmt.Errorf("“%s” is no size; write it as 500 kB or 5 MB", is)
	}
	return int(n), nil
}

var someHours = regexp.MustCompile(`^(\d{1,2}):(\d\d)\s*(?:to|-|–)\s*(\d{1,2}):(\d\d)$`)

// ReadHours reads a part of the day, in minutes after midnight: from the first until before the
// second, over midnight where the second is the earlier one.
func ReadHours(is string) (from, to int, err error) {
	m := someHours.FindStringSubmatch(fold(strings.TrimSpace(is)))
	if m == nil {
		return 0, 0, fmt.Errorf("“%s” is no part of a day; write it as 9:00 to 12:00", is)
	}
	var n [4]int
	for i := range n {
		n[i], _ = strconv.Atoi(m[i+1]) // two digits
	}
	from, to = n[0]*60+n[1], n[2]*60+n[3]
	if n[1] > 59 || n[3] > 59 || from >= 24*60 || to > 24*60 || from == to {
		return 0, 0, fmt.Errorf("“%s” is no part of a day", is)
	}
	return from, to, nil
}

func within(at time.Time, from, to int) bool {
	m := at.Hour()*60 + at.Minute()
	if from < to {
		return m >= from && m < to
	}
	return m >= from || m < to
}

// ReadAmount reads a sum of money with its currency.
func ReadAmount(is string) (findings.Amount, error) {
	a, ok := findings.Total(is)
	if !ok || a.Currency == "" {
		return a, fmt.Errorf("“%s” is no amount; write it as 500 EUR", is)
	}
	return a, nil
}
