package show

import (
	"maps"
	"slices"
	"strings"
	"time"

	"ebbe.example/ebbe/internal/core/delivery"
	"ebbe.example/ebbe/internal/core/findings"
	"ebbe.example/ebbe/internal/core/letter"
	"ebbe.example/ebbe/internal/store"
)

// BillView is what a letter tells of a payment or a parcel.
type BillView struct {
	Amount  string   `json:"amount,omitempty"`
	Quotes  []string `json:"quotes,omitempty" doc:"How the sum and the numbers stand in the text"`
	Numbers []string `json:"numbers" doc:"What it is for: invoice 1187"`
	// Payment and Way are how what is to be paid, and what was ordered, stand; Due and Comes
	// are their days in words.
	Payment findings.Stand `json:"payment,omitempty" enum:"ahead,late,past,settled"`
	Due     string         `json:"due,omitempty"`
	Way     findings.Stand `json:"way,omitempty" enum:"ahead,late,past,settled"`
	Comes   string         `json:"comes,omitempty"`

	// task is what a follow-up of it would be, and by its due as a phrase, where that is ahead.
	task, by string
}

// billOf is what a letter of a date tells of a payment or a parcel. Its own date may be missing.
func (v Viewer) billOf(l letter.Letter, date time.Time) findings.Bill {
	return findings.BillOf(l.Subject, letter.Unquoted(l.Text), date, v.Cal)
}

// datedBill is what a letter of a date tells of a payment or a parcel.
type datedBill struct {
	findings.Bill
	date time.Time
}

func (v Viewer) bill(tx *store.Tx, l letter.Letter, date time.Time) (*BillView, error) {
	b := datedBill{v.billOf(l, date), date}
	if err := v.follow(tx, []*datedBill{&b}); err != nil {
		return nil, err
	}
	return v.billView(b.Bill), nil
}

// billView is what is shown of it; nil where it tells of nothing.
func (v Viewer) billView(b findings.Bill) *BillView {
	if !b.Is() {
		return nil
	}
	out := &BillView{Payment: b.Payment(v.Now, v.Cal), Way: b.Way(v.Now, v.Cal)}
	if b.Amount != nil {
		out.Amount, out.Quotes = b.Amount.String(), append(out.Quotes, b.Amount.Quote)
	}
	for _, n := range b.Numbers {
		out.Numbers, out.Quotes = append(out.Numbers, n.String()), append(out.Quotes, n.Value)
	}
	if b.Due != nil {
		out.Due = v.UntilWords(*b.Due)
	}
	if title, ok := b.ToPay(); ok {
		if out.task = title; out.Payment == findings.Ahead {
			out.by = b.Due.Canonical(v.Cal)
		}
	}
	if b.Comes != nil {
		out.Comes = v.UntilWords(*b.Comes)
	}
	return out
}

// mostOfOne bounds how many letters about one parcel are looked at.
const mostOfOne = 20

// follow notes of what is late whether a later letter says that it has come.
func (v Viewer) follow(tx *store.Tx, bills []*datedBill) error {
	var numbers []string
	var late []*datedBill
	since := v.Now
	for _, b := range bills {
		if b.Way(v.Now, v.Cal) != findings.Late {
			continue
		}
		late = append(late, b)
		for _, n := range b.Numbers {
			numbers = append(numbers, n.Value)
		}
		if b.date.Before(since) {
			since = b.date
		}
	}
	if len(numbers) == 0 {
		return nil
	}
	ids, err := tx.WithWords(since, mostOfOne*len(numbers), numbers...)
	if err != nil {
		return err
	}
	found := slices.Collect(maps.Keys(ids))
	rows, err := tx.Letters(found)
	if err != nil {
		return err
	}
	raw, err := tx.OriginalsOf(found)
	if err != nil {
		return err
	}
	for _, row := range rows {
		said, ok := raw[row.ID]
		if !ok || row.InAt.IsZero() || row.Own { // what is held says nothing yet
			continue
		}
		other := v.billOf(letter.Parse(said), row.Date)
		for _, b := range late {
			b.Delivered = b.Delivered || other.Delivered && !row.Date.Before(b.date) && other.Same(b.Bill)
		}
	}
	return nil
}

// posing is the key person whose name the sender of a letter has, at an address to which
// nobody has ever written.
func (v Viewer) posing(tx *store.Tx, l letter.Letter) (*letter.Address, error) {
	list, err := tx.Throughs(v.Now)
	if err != nil || l.From.Name == "" {
		return nil, err
	}
	var emails []string
	for _, t := range list {
		if t.Key && t.Kind == delivery.BySender {
			emails = append(emails, strings.ToLower(t.Value))
		}
	}
	if len(emails) == 0 {
		return nil, nil
	}
	names, err := tx.NamesOf(emails)
	if err != nil {
		return nil, err
	}
	var matter []letter.Address
	for _, e := range emails {
		matter = append(matter, letter.Address{Name: names[e], Email: e})
	}
	known := slices.Contains(emails, l.From.Key())
	if !known {
		if known, err = tx.WrittenTo(l.From.Key()); err != nil {
			return nil, err
		}
	}
	real, ok := findings.Posing(l.From, matter, func(string) bool { return known })
	if !ok {
		return nil, nil
	}
	return &real, nil
}
