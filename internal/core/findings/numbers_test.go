package findings_test

import (
	"fmt"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"ebbe.example/ebbe/internal/core/findings"
	"ebbe.example/ebbe/internal/core/when"
)

func TestNumbers(t *testing.T) {
	for text, want := range map[string][]string{
		"Invoice 1187 for glass":                           {"invoice 1187"},
		"Invoice no. 2231, order #5520":                    {"invoice 2231", "order 5520"},
		"Fakturanummer: F-20931":                           {"invoice F-20931"},
		"Your parcel 370123456789 is on its way":           {"parcel 370123456789"},
		"Parcel NP 4512 44 is with the driver":             {"parcel NP 4512 44"},
		"Receipt 26-1310":                                  {"receipt 26-1310"},
		"Tracking number: LX123456785NO":                   {"parcel LX123456785NO"},
		"Order number 2026-11-204 and tickets no 88123":    {"order 2026-11-204", "ticket 88123"},
		"In order to order 2 crates, the invoice is below": nil,
		"":                         nil,
		"a reorder 5520 is no one": nil,
	} {
		var got []string
		for _, n := range findings.Numbers(text) {
			got = append(got, n.String())
		}
		assert.Equal(t, want, got, text)
	}
}

var (
	oslo, _ = time.LoadLocation("Europe/Oslo")
	usual   = when.Standard(oslo)
	// written is a Tuesday.
	written = time.Date(2026, 11, 24, 9, 0, 0, 0, oslo)
)

func TestBillOf(t *testing.T) {
	day := func(m *when.Moment) string {
		if m == nil {
			return ""
		}
		return m.UTC.In(oslo).Format("2 Jan")
	}
	for _, c := range []struct {
		subject, text, amount, due, comes string
		paid, delivered, is               bool
	}{
		{"Invoice 1187", "Glazing of the orangery.\nTotal 1,420.00 EUR\nDue Thu 3 Dec 2026.\n", "1,420.00 EUR", "3 Dec", "", false, false, true},
		{"Faktura 0419", "Å betale: 96,00 EUR\nForfall 12 Dec\n", "96.00 EUR", "12 Dec", "", false, false, true},
		{"Your parcel", "Order 5520: your parcel 370123456 arrives on Monday.\n", "", "", "30 Nov", false, false, true},
		{"Your parcel was delivered", "Parcel 370123456 was delivered at 14:10.\n", "", "", "", false, true, true},
		{"November", "Bill 99120: 612.33 EUR, paid by itself on 30 Nov by direct debit.\n", "612.33 EUR", "30 Nov", "", true, false, true},
		{"Invoice 1290", "To be paid by 3 December: 40.00 EUR", "40.00 EUR", "3 Dec", "", false, false, true},
		{"Receipt 26-1310", "12 screws\nTotal 19.20 EUR\nPaid by card ending 0042", "19.20 EUR", "", "", true, false, true},
		{"Your parcel comes today between 10:00 and 18:30", "Parcel NP 4512 44 is on the ferry.", "", "", "24 Nov", false, false, true},
		{"Invoice 1184", "Please pay within 30 days.\n\nOrder 5469 3,920.00 EUR\nDue Monday 7 December\n", "3,920.00 EUR", "7 Dec", "", false, false, true},
		{"Invoice 1185", "Total 20.00 EUR. Please pay within 10 days.", "20.00 EUR", "4 Dec", "", false, false, true},
		{"Lunch", "Shall we meet on Thursday? It is 12.00 EUR.\n", "12.00 EUR", "", "", false, false, false},
		{"Order 5520", "Thank you for your order.\n", "", "", "", false, false, false},
	} {
		b := findings.BillOf(c.subject, c.text, written, usual)
		amount := ""
		if b.Amount != nil {
			amount = b.Amount.String()
		}
		assert.Equal(t, []any{c.amount, c.due, c.comes, c.paid, c.delivered, c.is}, []any{amount, day(b.Due), day(b.Comes), b.Paid, b.Delivered, b.Is()}, c.subject)
	}
}

// A parcel is late once its day is over where the person is, unless it has come; so is a bill,
// and after a month nobody waits any more.
func TestHowBillsStand(t *testing.T) {
	b := findings.BillOf("Your parcel", "Parcel 370123456 arrives on Monday.\nTotal 12.00 EUR\nDue on Monday\n", written, usual)
	require.NotNil(t, b.Comes)
	require.NotNil(t, b.Due)
	for at, want := range map[time.Time]findings.Stand{
		time.Date(2026, 11, 30, 23, 59, 0, 0, oslo): findings.Ahead,
		time.Date(2026, 12, 1, 0, 0, 0, 0, oslo):    findings.Late,
		time.Date(2026, 12, 30, 23, 0, 0, 0, oslo):  findings.Late,
		time.Date(2026, 12, 31, 0, 0, 0, 0, oslo):   findings.Past,
	} {
		assert.Equal(t, []findings.Stand{want, want}, []findings.Stand{b.Way(at, usual), b.Payment(at, usual)}, at)
	}
	b.Delivered, b.Paid = true, true
	assert.Equal(t, []findings.Stand{findings.Settled, findings.Settled}, []findings.Stand{b.Way(written, usual), b.Payment(written, usual)})
	assert.Equal(t, findings.Nothing, findings.Bill{}.Way(written, usual))

	came := findings.BillOf("Parcel 370123456 was handed over", "", written, usual)
	assert.True(t, came.Delivered)
	assert.True(t, came.Same(b))
	assert.False(t, came.Same(findings.BillOf("Parcel 370123457", "", written, usual)))
}

// Nothing that a letter may say stops the reading of it, or makes a bill of what has no number.
func TestBillsOfAnyText(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		text := rapid.StringMatching(`((invoice|order|parcel|due|EUR|Total|Thu|3 Dec|1,420\.00|\d{1,8}|\n| |[.:#€])){0,40}`).Draw(t, "text")
		b := findings.BillOf("", text, written, usual)
		if b.Is() {
			assert.NotEmpty(t, b.Numbers)
		} else {
			assert.Nil(t, b.Due)
		}
	})
}

// Whatever comes as a bill is read in bounds: what it names stands in it, and a sum is never
// below nothing.
func FuzzBillOf(f *testing.F) {
	for _, seed := range []string{
		"Invoice 1187\nTotal 1,420.00 EUR\nDue Thu 3 Dec 2026", "Faktura 0419\nÅ betale: 96,00 EUR\nForfall 12 Dec", "Parcel NP 4512 44 comes tomorrow",
		"Invoice 1\n1e400 EUR 9999999999.99 EUR 1,2,3.4.5 EUR", "Due Due Due\n\n\nTotal\n|||", "invoice #\x00 €", "Order 1234 1 EUR 2 USD 3 GBP 4 NOK 5 SEK",
	} {
		f.Add(seed)
	}
	f.Fuzz(func(t *testing.T, text string) {
		b := findings.BillOf("", text, written, usual)
		for _, n := range b.Numbers {
			assert.Contains(t, text, n.Value)
		}
		if b.Amount != nil {
			assert.GreaterOrEqual(t, b.Amount.Cents, int64(0))
			assert.Contains(t, text, b.Amount.Quote)
		}
		for _, stand := range []findings.Stand{b.Payment(written, usual), b.Way(written, usual)} {
			assert.NotEqual(t, findings.Past, stand, "nothing is long over on the day of its letter")
		}
	})
}

func ExampleBillOf() {
	b := findings.BillOf("Invoice 1187", "Glazing of the orangery\nTotal 1,420.00 EUR\nDue Thu 3 Dec 2026", written, usual)
	fmt.Println(b.Amount, b.Numbers, b.Due.Phrase)
	fmt.Println(b.Payment(written, usual), b.Payment(written.AddDate(0, 0, 14), usual))
	// Output:
	// 1,420.00 EUR [invoice 1187] Thu 3 Dec 2026
	// ahead late
}
