package show

import (
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

func (v Viewer) bill(tx *store.Tx, l letter.Letter, date time.Time) (*BillView, error) {
	b := v.billOf(l, date)
	if !b.Is() {
		return nil, nil
	}
	if b.Way(v.Now, v.Cal) == findings.Late {
		var err error
		if b.Delivered, err = v.hasCome(tx, b, date); err != nil {
			return nil, err
		}
	}
	out := &BillView{Payment: b.Payment(v.Now, v.Cal), Way: b.Way(v.Now, v.Cal)}
	if b.Amount != nil {
		out.Amount = b.Amount.String()
	}
	for _, n := range b.Numbers {
		out.Numbers = append(out.Numbers, n.String())
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
	return out, nil
}

// mostOfOne bounds how many letters about one parcel are looked at.
const mostOfOne = 20

// hasCome tells whether a later letter says that what a bill tells of has come.
func (v Viewer) hasCome(tx *store.Tx, b findings.Bill, since time.Time) (bool, error) {
	for _, n := range b.Numbers {
		ids, err := tx.WithWords(n.Value, since, mostOfOne)
		if err != nil {
			return false, err
		}
		for id := range ids {
			row, err := tx.Letter(id)
			if err != nil || row.InAt.IsZero() || row.Own { // what is held says nothing yet
				continue
			}
			raw, err := tx.Original(id)
			if err != nil {
				continue // another letter that can't be read is no matter of this one
			}
			if other := v.billOf(letter.Parse(raw), row.Date); other.Delivered && other.Same(b) {
				return true, nil
			}
		}
	}
	return false, nil
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
