package show

import (
	"slices"
	"strings"
	"time"

	"ebbe.example/ebbe/internal/core/delivery"
	"ebbe.example/ebbe/internal/core/findings"
	"ebbe.example/ebbe/internal/core/letter"
	"ebbe.example/ebbe/internal/core/when"
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

// billOf is what a letter from somebody else tells of a payment or a parcel; ok is false
// where it tells of neither.
func (v Viewer) billOf(l letter.Letter) (findings.Bill, bool) {
	b := findings.BillOf(l.Subject, letter.Unquoted(l.Text), l.Date, v.Cal)
	return b, b.Is()
}

func (v Viewer) bill(tx *store.Tx, l letter.Letter) (*BillView, error) {
	b, ok := v.billOf(l)
	if !ok {
		return nil, nil // it is none
	}
	if b.Way(v.Now, v.Cal) == findings.Late {
		var err error
		if b.Delivered, err = v.hasCome(tx, b, l.Date); err != nil {
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
	if title, due, ok := toPay(b); ok {
		if out.task = title; out.Payment == findings.Ahead {
			out.by = due.Canonical(v.Cal)
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
			if err != nil {
				return false, err
			}
			if row.InAt.IsZero() || row.Own { // what is held says nothing yet
				continue
			}
			raw, err := tx.Original(id)
			if err != nil {
				return false, err
			}
			if other, ok := v.billOf(letter.Parse(raw)); ok && other.Delivered && other.Same(b) {
				return true, nil
			}
		}
	}
	return false, nil
}

// toPay is what a bill asks for, as a follow-up: its title, and by when; ok is false where
// nothing is to be paid.
func toPay(b findings.Bill) (title string, due *when.Moment, ok bool) {
	if b.Amount == nil || b.Paid || b.Due == nil {
		return "", nil, false
	}
	words := make([]string, len(b.Numbers))
	for i, n := range b.Numbers {
		words[i] = n.String()
	}
	return strings.Join(slices.Insert(words, 0, "Pay "+b.Amount.String()), ", "), b.Due, true
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
