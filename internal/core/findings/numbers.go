package findings

import (
	"cmp"
	"regexp"
	"slices"
	"strings"
	"time"

	"ebbe.example/ebbe/internal/core/when"
)

// NumberKind is what a number in a letter names.
type NumberKind string

// The kinds of numbers.
const (
	Invoice NumberKind = "invoice"
	Order   NumberKind = "order"
	Parcel  NumberKind = "parcel"
	Ticket  NumberKind = "ticket"
	Receipt NumberKind = "receipt"
)

// Number is the number of an invoice, order, parcel or ticket.
type Number struct {
	Kind  NumberKind
	Value string
}

// String is the number as it is told: "invoice 1187".
func (n Number) String() string { return string(n.Kind) + " " + n.Value }

var numbered = []struct {
	kind  NumberKind
	words *regexp.Regexp
}{
	{Invoice, numberAfter(`invoice|bill|faktura`)},
	{Order, numberAfter(`order|ordre|bestilling|purchase|booking`)},
	{Parcel, numberAfter(`parcel|package|shipment|consignment|tracking|pakke|sending|sendingen`)},
	{Ticket, numberAfter(`tickets?|billett(?:er)?`)},
	{Receipt, numberAfter(`receipt|kvittering`)},
}

// numberAfter matches a word and the number behind it: one sign in it is a digit.
func numberAfter(words string) *regexp.Regexp {
	return regexp.MustCompile(`(?i)(?:^|[^\p{L}])(?:` + words + `)(?:s?number|nummer|nr)?(?: (?:no|nr|number|nummer|id|code))?[.:]?[ \t]*[#:]?[ \t]*(\d[\p{L}\d/-]{2,24}|(?-i:[A-Z]{1,4})(?: \d{2,12}(?: \d{2,6}){0,4}|-?\d[\p{L}\d/-]{1,24}))`)
}

// Numbers are the first number of each kind that a text names.
func Numbers(text string) (out []Number) {
	text = glance(text)
	for _, n := range numbered {
		if m := n.words.FindStringSubmatch(text); m != nil {
			out = append(out, Number{n.kind, strings.TrimRight(m[1], "-/")})
		}
	}
	return out
}

var (
	// dueOn stands beside the day itself, payBy where it may be a span (“pay within 30 days”).
	dueOn     = regexp.MustCompile(`(?i)\b(due|forfall\w*|betalingsfrist|no later than|latest)\b`)
	payBy     = regexp.MustCompile(`(?i)\b(pay(ment)?|payable|paid|betales)\b`)
	bringsOn  = regexp.MustCompile(`(?i)\b(deliver(y|ed|s)?|arriv(es?|al|ing)|comes|reach(es)? you|lever(es|ing)|ankommer|kommer|expected|collect(ed)? (at|from)|hentes)\b`)
	delivered = regexp.MustCompile(`(?i)\b(was|has been|is|er|ble) (now )?(delivered|collected|picked up|handed over|levert|hentet|utlevert)\b|\byour (parcel|package) was left\b`)
	parcels   = regexp.MustCompile(`(?i)\b(parcels?|packages?|shipments?|consignments?|pakke[nr]?|sending(en)?)\b`)
	// aboutMoney are labels that stand beside a sum or a day.
	aboutMoney = regexp.MustCompile(`(?i)\b(total|in all|amount|due|to pay|payable|balance|paid|charged|sum|å betale|totalt|beløp|i alt|summa|forfall\w*|betalingsfrist|delivery|arrival|levering)\b`)
	settled    = regexp.MustCompile(`(?i)\b(paid (by itself|by card|with card)|direct debit|avtalegiro|autogiro|no action is needed|has been paid|was paid|er betalt|paid in full|is paid from your account)`)
)

// Bill is what a receipt, bill or parcel note is about.
type Bill struct {
	Amount  *Amount
	Numbers []Number
	// Due is by when it is to be paid.
	Due *when.Moment
	// Paid tells that nothing is to be done: it was paid, or pays itself.
	Paid bool
	// Comes is when what was ordered comes, Delivered that it has.
	Comes     *when.Moment
	Delivered bool
	// Parcel tells that it speaks of one.
	Parcel bool
}

// Is tells that there is a sum or a parcel, with a number that names what it is for: that makes
// a machine's letter a receipt.
func (b Bill) Is() bool { return len(b.Numbers) > 0 && (b.Amount != nil || b.Parcel) }

// ToPay is the title of a follow-up that pays it: “Pay 96.00 EUR, invoice 1188”; ok is false
// where nothing is to be paid by a day.
func (b Bill) ToPay() (title string, ok bool) {
	if !b.Is() || b.Amount == nil || b.Paid || b.Due == nil {
		return "", false
	}
	title = "Pay " + b.Amount.String()
	for _, n := range b.Numbers {
		title += ", " + n.String()
	}
	return title, true
}

// Bills tells whether a letter is a bill or about a parcel (Bill.Is), without reading its days.
func Bills(subject, text string) bool { return billOf(subject, text).Is() }

func billOf(subject, text string) (b Bill) {
	if a, ok := Total(text); ok {
		b.Amount = &a
	} else if a, ok := Total(subject); ok {
		b.Amount = &a
	}
	b.Numbers, b.Parcel = Numbers(subject+"\n"+text), parcels.MatchString(subject+"\n"+glance(text))
	return b
}

// BillOf reads a bill or a parcel's way out of the subject and text of a letter; written is
// when its letter was.
func BillOf(subject, text string, written time.Time, c when.Calendar) Bill {
	b := billOf(subject, text)
	if !b.Is() { // dates are the dear part
		return b
	}
	b.Paid, b.Delivered = settled.MatchString(text), delivered.MatchString(subject+"\n"+text)
	rows := rowsOf(subject + "\n" + text)
	day := func(words *regexp.Regexp) *when.Moment {
		for _, line := range rows {
			if !words.MatchString(line) {
				continue
			}
			// A day that has passed was meant all the same: it is read from the letter's own time.
			if dates := Dates(withoutSums(line), written, written.Add(-time.Second), c); len(dates) > 0 {
				return &dates[0].Moment
			}
		}
		return nil
	}
	b.Due, b.Comes = cmp.Or(day(dueOn), day(payBy)), day(bringsOn)
	if b.Delivered {
		b.Comes = nil // what is told now is when it came
	}
	return b
}

// Stand is how a payment or a parcel stands.
type Stand string

// How they stand.
const (
	Nothing Stand = ""
	Ahead   Stand = "ahead"
	Late    Stand = "late" // its day is over
	Past    Stand = "past" // long over: nobody waits for it any more
	Settled Stand = "settled"
)

// latest is how many days after its day something is late, and no longer only past.
const latest = 30

// Payment is how what is to be paid stands.
func (b Bill) Payment(now time.Time, c when.Calendar) Stand {
	if b.Paid {
		return Settled
	}
	return standing(b.Due, now, c)
}

// Way is how what was ordered stands.
func (b Bill) Way(now time.Time, c when.Calendar) Stand {
	if b.Delivered {
		return Settled
	}
	return standing(b.Comes, now, c)
}

func standing(m *when.Moment, now time.Time, c when.Calendar) Stand {
	if m == nil {
		return Nothing
	}
	day := m.In(c).UTC.In(c.Zone)
	end := func(days int) time.Time {
		return time.Date(day.Year(), day.Month(), day.Day()+1+days, 0, 0, 0, 0, c.Zone)
	}
	switch {
	case now.Before(end(0)):
		return Ahead
	case now.Before(end(latest)):
		return Late
	}
	return Past
}

// Same tells that two bills name the same invoice, order or parcel.
func (b Bill) Same(other Bill) bool {
	return slices.ContainsFunc(b.Numbers, func(n Number) bool { return slices.Contains(other.Numbers, n) })
}
