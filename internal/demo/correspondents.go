package demo

import (
	"crypto/sha256"
	"encoding/hex"
	"strings"
	"time"

	"ebbe.example/ebbe/internal/core/letter"
	"ebbe.example/ebbe/internal/postoffice"
)

// Correspondents answer some of what is sent in the demo.
type Correspondents struct{}

type habit struct {
	who   letter.Address
	after time.Duration
	text  string
	auto  string
}

// habits say who answers, how late, and with what. Everybody else never does.
var habits = []habit{
	{who: bram, after: 3 * time.Minute, text: "Dear Ines,\n\nThank you, that is what the driver needed. I have put it into the load plan.\n\nCan you tell the gate that the van comes at 07:30 on Monday?\n\nKind regards,\nBram"},
	{who: maren, after: 3 * time.Hour, text: "Hello Ines,\n\nGood, I will hold the price until Friday. Please send the signed order before then.\n\nMaren"},
	{who: tove, after: 25 * time.Minute, text: "Fine with me. I will take it from here.\n\nTove"},
	{who: henrik, after: 10 * time.Second, auto: "auto-replied", text: "I am in the field without a network until Thursday 26 November. For urgent matters please ask Lise Bo.\n\nHenrik"},
}

// Answer gives the letters that come back for one sent to an address.
func (Correspondents) Answer(to string, l letter.Letter, sent time.Time) []postoffice.Coming {
	if l.Automatic.Is() || l.From.Email == "" {
		return nil
	}
	var out []postoffice.Coming
	for _, h := range habits {
		if !strings.EqualFold(h.who.Email, to) {
			continue
		}
		sum := sha256.Sum256([]byte(l.MessageID + to))
		m := message{
			id: hex.EncodeToString(sum[:8]), answers: l.MessageID, from: h.who, to: l.From, subject: letter.WithPrefix("Re: ", l.Subject),
			text: h.text, auto: h.auto, at: sent.Add(h.after),
		}
		if h.auto != "" {
			m.subject = "Out of office: " + l.Subject
		}
		raw, err := m.bytes(int64(sum[0]))
		if err != nil {
			continue // the demo's own texts can always be written
		}
		out = append(out, postoffice.Coming{After: h.after, From: h.who.Email, To: l.From.Email, Raw: raw})
	}
	return out
}
