package sorting_test

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"ebbe.example/ebbe/internal/core/letter"
	"ebbe.example/ebbe/internal/core/sorting"
)

func TestTheFirstRuleThatSpeaksWins(t *testing.T) {
	const list = "seeds.list.example"
	for _, c := range []struct {
		name string
		f    sorting.Facts
		want sorting.Kind
	}{
		{"turned away", sorting.Facts{Settled: map[sorting.Scope]sorting.Kind{sorting.ByAddress: sorting.TurnedAway}, Address: sorting.Reading, Followed: true}, sorting.TurnedAway},
		{"turned away by its list, and said to be wanted", sorting.Facts{Settled: map[sorting.Scope]sorting.Kind{sorting.ByAddress: sorting.Wanted, sorting.ByList: sorting.TurnedAway}}, sorting.TurnedAway},
		{"always junk, of that domain", sorting.Facts{Settled: map[sorting.Scope]sorting.Kind{sorting.ByDomain: sorting.Junk}}, sorting.Junk},
		{"never junk wins", sorting.Facts{Settled: map[sorting.Scope]sorting.Kind{sorting.ByDomain: sorting.Junk, sorting.ByAddress: sorting.Wanted}, Traits: sorting.Machine, Automatic: true}, sorting.Notices},
		{"turned away, and I wrote to them", sorting.Facts{Settled: map[sorting.Scope]sorting.Kind{sorting.ByDomain: sorting.TurnedAway}, Known: true}, sorting.Person},
		{"turned away, and it answers me", sorting.Facts{Settled: map[sorting.Scope]sorting.Kind{sorting.ByAddress: sorting.TurnedAway}, Traits: sorting.Answers}, sorting.Person},
		{"turned away, and it answers me by itself", sorting.Facts{Settled: map[sorting.Scope]sorting.Kind{sorting.ByAddress: sorting.TurnedAway}, Traits: sorting.Answers | sorting.Machine, Automatic: true}, sorting.TurnedAway},
		{"turned away, and a key person", sorting.Facts{Settled: map[sorting.Scope]sorting.Kind{sorting.ByAddress: sorting.TurnedAway}, Key: true}, sorting.Person},
		{"turned away, and a failure of mine", sorting.Facts{Settled: map[sorting.Scope]sorting.Kind{sorting.ByDomain: sorting.TurnedAway}, Fails: true, Automatic: true}, sorting.Person},
		{"nothing is known", sorting.Facts{}, sorting.Person},
		{"a failure of mine, by a machine", sorting.Facts{Fails: true, Traits: sorting.Machine, Automatic: true}, sorting.Person},
		{"it meets what is waited for, by a list", sorting.Facts{Meets: true, Traits: sorting.Listed, Automatic: true}, sorting.Person},
		{"it answers me, by a list, and is automatic", sorting.Facts{Traits: sorting.Answers | sorting.Listed, Automatic: true}, sorting.Reading},
		{"it answers me, corrected to reading", sorting.Facts{Traits: sorting.Answers, Address: sorting.Reading}, sorting.Person},
		{"a key person by a list", sorting.Facts{Key: true, Traits: sorting.Listed, Automatic: true}, sorting.Person},
		{"somebody who says to be a key person, and the server says is not", sorting.Facts{Key: true, Traits: sorting.Machine | sorting.Spoofed, Automatic: true}, sorting.Notices},
		{"a notice about a follow-up", sorting.Facts{Followed: true, Traits: sorting.Machine, Automatic: true}, sorting.Person},
		{"the address outranks the list", sorting.Facts{Address: sorting.Person, ListSaid: sorting.Reading, List: list, Traits: sorting.Listed, Automatic: true}, sorting.Person},
		{"the list outranks the domain", sorting.Facts{ListSaid: sorting.Notices, Domain: sorting.Receipts, List: list, Automatic: true}, sorting.Notices},
		{"a list's correction needs the list", sorting.Facts{ListSaid: sorting.Notices}, sorting.Person},
		{"a domain's touches its machines", sorting.Facts{Domain: sorting.Receipts, Traits: sorting.Machine, Automatic: true}, sorting.Receipts},
		{"and not its people", sorting.Facts{Domain: sorting.Receipts}, sorting.Person},
		{"a plain acceptance", sorting.Facts{Traits: sorting.Accepts, Automatic: true}, sorting.Meetings},
		{"a refusal by a machine", sorting.Facts{Traits: sorting.Replies | sorting.Machine, Automatic: true}, sorting.Person},
		{"a bill by a machine to a list", sorting.Facts{Traits: sorting.Machine | sorting.Bill | sorting.Listed, Automatic: true}, sorting.Receipts},
		{"a machine to a list", sorting.Facts{Traits: sorting.Machine | sorting.Listed, Automatic: true}, sorting.Reading},
		{"a machine of somebody I wrote to", sorting.Facts{Traits: sorting.Machine, Known: true, Automatic: true}, sorting.Notices},
		{"somebody I wrote to, by a list", sorting.Facts{Traits: sorting.Listed, Known: true, Automatic: true}, sorting.Person},
		{"somebody I wrote to, with a copy to me", sorting.Facts{Traits: sorting.Copied, Known: true}, sorting.Copies},
		{"who names me in it", sorting.Facts{Traits: sorting.Copied, Known: true, Named: true}, sorting.Person},
		{"a stranger by a list", sorting.Facts{Traits: sorting.Listed, Automatic: true}, sorting.Reading},
		{"a stranger's copy", sorting.Facts{Traits: sorting.Copied}, sorting.Copies},
		{"a stranger's copy that names me", sorting.Facts{Traits: sorting.Copied, Named: true}, sorting.Person},
	} {
		v := sorting.Judge(c.f)
		assert.Equal(t, c.want, v.Kind, c.name)
		if v.Kind != sorting.Person {
			assert.NotEmpty(t, v.Why, c.name)
		}
	}
}

// What is exempt is a person's, whatever else is true of it.
func TestNothingSortsOutWhatIsExempt(t *testing.T) {
	kinds := rapid.SampledFrom([]sorting.Kind{"", sorting.Person, sorting.Reading, sorting.Notices, sorting.Receipts, sorting.Copies, sorting.Meetings})
	rapid.Check(t, func(t *rapid.T) {
		f := sorting.Facts{
			Traits: sorting.Traits(rapid.IntRange(0, int(sorting.Answers)*2-1).Draw(t, "traits")), Automatic: rapid.Bool().Draw(t, "automatic"), List: rapid.SampledFrom([]string{"", "a.b.example"}).Draw(t, "list"),
			Named: rapid.Bool().Draw(t, "named"), Meets: rapid.Bool().Draw(t, "meets"), Fails: rapid.Bool().Draw(t, "fails"), Key: rapid.Bool().Draw(t, "key"),
			Followed: rapid.Bool().Draw(t, "followed"), Known: rapid.Bool().Draw(t, "known"), Address: kinds.Draw(t, "address"), ListSaid: kinds.Draw(t, "list said"), Domain: kinds.Draw(t, "domain"),
		}
		v := sorting.Judge(f)
		require.True(t, v.Kind.Is())
		require.False(t, v.Out, "whether that is sorted out is not for the judge to say")
		if f.Meets || f.Fails || f.Followed || f.Key && !f.Traits.Has(sorting.Spoofed) || f.Traits.Has(sorting.Answers) && !f.Automatic {
			require.Equal(t, sorting.Person, v.Kind)
		}
		if f.Address == "" && f.ListSaid == "" && f.Domain == "" && f.Traits&(sorting.Machine|sorting.Listed|sorting.Accepts|sorting.Copied) == 0 {
			require.Equal(t, sorting.Person, v.Kind, "without a machine's or a list's mark nothing is sorted out")
		}
	})
}

func read(head, body string) letter.Letter {
	return letter.Parse([]byte("From: shop@x.example\r\nTo: ines@norrholm.example\r\n" + head + "\r\n" + body))
}

const contents = sorting.Sums | sorting.Dated | sorting.Linked | sorting.Pictured

func TestWhatIsLookedForInLetters(t *testing.T) {
	const picture = "Content-Type: multipart/mixed; boundary=b\r\n"
	for _, c := range []struct {
		name, head, body string
		want             sorting.Traits
	}{
		{"nothing", "", "Dear Ines, the crates are here.", 0},
		{"a sum", "", "It is 96.00 EUR.", sorting.Sums},
		{"a sum before its currency's sign", "", "It is €96 now", sorting.Sums},
		{"a number beside a word", "", "We have 12 krill and 4 riskier ones", 0},
		{"a day to come", "Date: Tue, 24 Nov 2026 09:00:00 +0000\r\n", "Can we meet on Friday?", sorting.Dated},
		{"a day that has passed", "Date: Tue, 24 Nov 2026 09:00:00 +0000\r\n", "It was warm yesterday.", 0},
		{"a month that is none", "", "This monthly sundial may march on", 0},
		{"a link", "", "See https://x.example/a", sorting.Linked},
		{"a link in HTML", "Content-Type: text/html\r\n", "<p><A class=x HREF='https://x.example/a'>here</A>", sorting.Linked},
		{"an address to write to", "Content-Type: text/html\r\n", "<a href=mailto:a@x.example>here</a>", 0},
		{"a picture", picture, "--b\r\n\r\nx\r\n--b\r\nContent-Type: image/png; name=a.png\r\nContent-Disposition: attachment\r\n\r\nx\r\n--b--", sorting.Pictured},
	} {
		assert.Equal(t, c.want, sorting.TraitsOf(read(c.head, c.body))&contents, c.name)
	}
}

func TestTraits(t *testing.T) {
	reply := func(event string) (head, body string) {
		return "Content-Type: text/calendar; method=REPLY\r\n", "BEGIN:VCALENDAR\r\nMETHOD:REPLY\r\nBEGIN:VEVENT\r\nUID:a\r\n" + event + "END:VEVENT\r\nEND:VCALENDAR\r\n"
	}
	accept, said := reply("ATTENDEE;PARTSTAT=ACCEPTED:mailto:a@x.example\r\n")
	_, worded := reply("ATTENDEE;PARTSTAT=ACCEPTED:mailto:a@x.example\r\nCOMMENT:Only until ten.\r\n")
	_, declines := reply("ATTENDEE;PARTSTAT=DECLINED:mailto:a@x.example\r\n")
	for _, c := range []struct {
		name, head, body string
		want             sorting.Traits
	}{
		{"a person's", "", "Dear Ines,", 0},
		{"a person's bill", "", "Invoice 1187, total 96.00 EUR", 0},
		{"a machine's", "Auto-Submitted: auto-generated\r\n", "It is 9.4 degrees.", sorting.Machine},
		{"one that says it is not automatic", "Auto-Submitted: no\r\n", "x", 0},
		{"a machine's bill", "Auto-Submitted: auto-generated\r\n", "Invoice 1187\nTotal 96.00 EUR", sorting.Machine | sorting.Bill},
		{"a machine's sum without a number", "Auto-Submitted: auto-generated\r\n", "Total 96.00 EUR", sorting.Machine},
		{"an amount of 1e400", "Precedence: bulk\r\n", "Invoice 1187, total 1e400 EUR", sorting.Machine},
		{"five currencies, none of them the total", "Precedence: bulk\r\n", "Invoice 1187\n10.00 EUR 10.00 USD 10.00 GBP 10.00 NOK 10.00 CHF\n", sorting.Machine},
		{"five currencies and a total", "Precedence: bulk\r\n", "Invoice 1187\n10.00 USD 10.00 GBP 10.00 NOK 10.00 CHF\nTotal: 10.00 EUR\n", sorting.Machine | sorting.Bill},
		{"an empty return path", "Return-Path: <>\r\n", "x", sorting.Machine},
		{"bulk", "Precedence: Bulk\r\n", "x", sorting.Machine},
		{"a list by its Precedence alone", "Precedence: list\r\n", "x", 0},
		{"a list", "List-Id: Seeds <seeds.list.example>\r\n", "x", sorting.Listed},
		{"one that can be left", "List-Unsubscribe: <mailto:leave@x.example>\r\n", "x", sorting.Listed},
		{"ten ways to leave it", "List-Unsubscribe: <javascript:alert(1)>, <file:///etc/passwd>, <http://127.0.0.1/>\r\n", "x", sorting.Listed},
		{"an acceptance", accept, said, sorting.Accepts},
		{"an acceptance with a word", accept, worded, sorting.Replies},
		{"a refusal", accept, declines, sorting.Replies},
		{"an answer that can't be read", accept, "METHOD:REPLY", sorting.Replies},
		{"what the own server found", "Authentication-Results: mx.norrholm.example; dmarc=fail header.from=x.example\r\n", "x", sorting.Spoofed},
		{"what stands below it", "Authentication-Results: mx.norrholm.example; dmarc=pass\r\nAuthentication-Results: evil.example; dmarc=fail\r\n", "x", 0},
		{"what nobody can read", "Authentication-Results: ;;;\r\n", "x", 0},
	} {
		assert.Equal(t, c.want, sorting.TraitsOf(read(c.head, c.body))&^contents, c.name)
	}
	own := func(a letter.Address) bool { return a.Key() == "ines@norrholm.example" }
	ines, bram := []letter.Address{{Email: "Ines@norrholm.example"}}, []letter.Address{{Email: "bram@x.example"}}
	assert.Equal(t, sorting.Copied, sorting.CopiedTo(bram, ines, own))
	assert.Zero(t, sorting.CopiedTo(ines, bram, own))
	assert.Zero(t, sorting.CopiedTo(bram, bram, own), "a group may be behind it")
}

func TestListIDs(t *testing.T) {
	for field, want := range map[string]string{
		"Seeds <Seeds.List.example>": "seeds.list.example", "<a.b.example> <c.d.example>": "c.d.example", "bare.list.example": "bare.list.example", "<": "", "<>": "",
	} {
		assert.Equal(t, want, read("List-Id: "+field+"\r\n", "x").ListID, field)
	}
}

// A correction speaks of just those letters for which it is found.
func TestCorrectionsCoverWhatTheyAreFoundFor(t *testing.T) {
	addresses, lists := rapid.SampledFrom([]string{"a@x.example", "b@x.example", "a@y.example", "nobody", ""}), rapid.SampledFrom([]string{"", "l.x.example", "m.x.example"})
	rapid.Check(t, func(t *rapid.T) {
		scope := rapid.SampledFrom([]sorting.Scope{sorting.ByAddress, sorting.ByList, sorting.ByDomain}).Draw(t, "scope")
		c, err := sorting.Of(scope, addresses.Draw(t, "of"), lists.Draw(t, "its list"), sorting.Receipts)
		if err != nil {
			return
		}
		f := sorting.Facts{Automatic: rapid.Bool().Draw(t, "automatic"), List: lists.Draw(t, "list")}
		address := addresses.Draw(t, "address")
		sorting.CorrectionsOf([]sorting.Correction{c}).Fill(&f, address)
		require.Equal(t, sorting.Judge(f).Kind == sorting.Receipts, c.Covers(address, f.List, f.Automatic))
	})
}

func TestTheLatestCorrectionCounts(t *testing.T) {
	c := sorting.CorrectionsOf([]sorting.Correction{
		{Scope: sorting.ByAddress, Value: "a@x.example", Kind: sorting.Reading}, {Scope: sorting.ByAddress, Value: "a@x.example", Kind: sorting.Person},
	})
	var f sorting.Facts
	c.Fill(&f, "a@x.example")
	assert.Equal(t, sorting.Person, f.Address)
	for _, bad := range []struct {
		scope         sorting.Scope
		address, list string
		kind          sorting.Kind
	}{{sorting.ByList, "a@x.example", "", sorting.Reading}, {sorting.ByDomain, "nobody", "", sorting.Reading}, {sorting.ByAddress, "a@x.example", "", "spam"}, {"planet", "a@x.example", "", sorting.Reading}} {
		_, err := sorting.Of(bad.scope, bad.address, bad.list, bad.kind)
		require.Error(t, err)
	}
}

func TestKindsAndMinutes(t *testing.T) {
	assert.Equal(t, sorting.Sorted{sorting.Receipts, sorting.Notices, sorting.Reading, sorting.Meetings}, sorting.Usual())
	assert.False(t, sorting.Sorted{sorting.Person}.Has(sorting.Person), "a person's letter is never sorted out")
	assert.Equal(t, sorting.Sorted{sorting.Notices, sorting.Copies}, sorting.Only([]sorting.Kind{sorting.Copies, "x", sorting.Person, sorting.Notices, sorting.Notices}))
	assert.Equal(t, []int{1, 1, 2, 5}, []int{sorting.Minutes(0), sorting.Minutes(300), sorting.Minutes(400), sorting.Minutes(1100)})
}
