package demo

import (
	"crypto/sha256"
	"encoding/hex"
	"strings"
	"time"

	"ebbe.example/ebbe/internal/core/letter"
	"ebbe.example/ebbe/internal/core/when"
	"ebbe.example/ebbe/internal/postoffice"
)

// Correspondents answer some of what is sent in the demo.
type Correspondents struct{}

type habit struct {
	who   letter.Address
	after time.Duration
	// texts are what they answer; which one, the letter decides.
	texts []string
	// since is the first day of the habit; the zero Date for always.
	since when.Date
	auto  string
	style string
}

// lars is somebody whose address is no longer good: letters to it are taken,
// and come back later with a report.
var lars = person("Lars Nordby", "lars@nordby-skole.example")

// habits say who answers, how late, and with what. Everybody else never does.
var habits = []habit{
	{who: bram, after: 3 * time.Minute, texts: []string{
		"Dear Ines,\n\nThank you, that is what the driver needed. I have put it into the load plan.\n\nCan you tell the gate that the van comes at 07:30 on Monday?\n\nKind regards,\nBram",
		"Dear Ines,\n\nThank you, noted.\n\nBram", "Dear Ines,\n\nThen I send the papers today.\n\nBram"}},
	{who: maren, after: 3 * time.Hour, texts: []string{"Hello Ines,\n\nGood, I will hold the price until Friday. Please send the signed order before then.\n\nMaren", "Hello Ines,\n\nfine, with the rest then.\n\nMaren"}},
	{who: tove, after: 25 * time.Minute, texts: []string{"Fine with me. I will take it from here.\n\nTove", "Thank you. Then I print it.\n\nTove"}},
	{who: lise, after: 50 * time.Minute, texts: []string{"Done.\n\nLise", "Will do, and I take a photograph before.\n\nLise"}},
	{who: vera, after: 5 * time.Hour, texts: []string{"Hello, noted, thank you.\n\nVera"}},
	{who: oda, after: 26 * time.Hour, texts: []string{"Hi Ines,\n\nlovely, the pupils look forward to it.\n\nOda"}},
	{who: anton, after: 49 * time.Hour, texts: []string{"Dear Ines,\n\nbooked. Thank you.\n\nAnton Rask"}},
	{who: henrik, after: 10 * time.Second, since: today.Add(-1), auto: "auto-replied", texts: []string{"I am in the field without a network until Thursday 26 November. For urgent matters please ask Lise Bo.\n\nHenrik"}},
	{who: lars, after: 6 * time.Minute, style: "failed", texts: []string{"Your letter could not be delivered. The mail service there says that nobody of that name is here.\n\nThe post office"}},
}

// Knows tells who of the garden works without Ebbe.
func (Correspondents) Knows(address string) bool {
	for _, p := range []letter.Address{tove, henrik, lise, director, climate, signe} {
		if p.Key() == (letter.Address{Email: address}).Key() {
			return true
		}
	}
	return false
}

// Answer gives the letters that come back for one sent to an address.
func (Correspondents) Answer(to string, l letter.Letter, sent time.Time) []postoffice.Coming {
	if l.Automatic.Is() || l.From.Email == "" {
		return nil
	}
	var out []postoffice.Coming
	for _, h := range habits {
		if !strings.EqualFold(h.who.Email, to) || sent.Before(calendar().Instant(h.since, 0)) {
			continue
		}
		sum := sha256.Sum256([]byte(l.MessageID + to))
		m := message{
			id: hex.EncodeToString(sum[:8]), answers: l.MessageID, from: h.who, to: l.From, subject: letter.WithPrefix("Re: ", l.Subject),
			text: h.texts[int(sum[1])%len(h.texts)], auto: h.auto, style: h.style, at: sent.Add(h.after),
		}
		switch {
		case h.style == "failed":
			m.from, m.subject, m.bounced, m.refs = postmaster, "Not delivered: "+l.Subject, to, []string{l.MessageID}
		case h.auto != "":
			m.subject = "Out of office: " + l.Subject
		default:
			m.text += "\n\n" + letter.Quote(l, sent.Format("Mon 2 Jan 2006, 15:04"))
		}
		raw, err := m.bytes(int64(sum[0]))
		if err != nil {
			continue // the demo's own texts can always be written
		}
		from := m.from.Email
		if h.style == "failed" || h.auto != "" {
			from = "" // neither reports nor notes are answered (RFC 3464, RFC 3834)
		}
		out = append(out, postoffice.Coming{After: h.after, From: from, To: l.From.Email, Raw: raw})
	}
	return out
}
