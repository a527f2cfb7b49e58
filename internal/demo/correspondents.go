package demo

import (
	"crypto/sha256"
	"encoding/hex"
	"math/rand/v2"
	"strings"
	"time"

	"ebbe.example/ebbe/internal/core/letter"
	"ebbe.example/ebbe/internal/core/when"
	"ebbe.example/ebbe/internal/postoffice"
	"ebbe.example/ebbe/internal/postoffice/listserver"
)

// Correspondents answer some of what is sent in the demo.
type Correspondents struct {
	// Lists takes who writes to leave a list; nil for none.
	Lists *listserver.Server
}

type habit struct {
	who   letter.Address
	after time.Duration
	// texts are what they answer; which one, the letter decides.
	texts []string
	// since is the first day of the habit, until the first that is none any
	// more; the zero Date for always.
	since, until when.Date
	auto         string
	style        string
}

// lars is somebody whose address is no longer good: letters to it are taken,
// and come back later with a report.
var lars = person("Lars Nordby", "lars@nordby-skole.example")

// habits say who answers, how late, and with what. Everybody else never does.
var habits = []habit{
	{who: bram, after: 3 * time.Minute, until: today, texts: []string{
		"Dear Ines,\n\n{Thank you, noted.|Very good, I pass it on.} {The papers leave today.|I write again when the van is on its way.}\n\nBram", "Dear Ines,\n\n{Then I send the papers today.|Understood. The customs people will be pleased for once.}\n\nBram"}},
	{who: bram, after: 3 * time.Minute, since: today, texts: []string{
		"Dear Ines,\n\nThank you, that is what the driver needed. I have put it into the load plan.\n\nCan you tell the gate that the van comes at 07:30 on Friday?\n\nKind regards,\nBram"}},
	{who: maren, after: 3 * time.Hour, texts: []string{"Hello Ines,\n\n{Good, I will hold the price until Friday. Please send the signed order before then.|Good. The signed order, please, then we start.}\n\nMaren", "Hello Ines,\n\n{fine, with the rest then.|thank you, I tell the men.|all right. It will rain anyway.}\n\nMaren"}},
	{who: tove, after: 25 * time.Minute, texts: []string{"{Fine with me.|Good.|Perfect.} {I will take it from here.|I tell the others.|I put it on the board.}\n\nTove", "{Thank you. Then I print it.|You are an angel.|Noted, and crossed out.|{guide} will be glad.|Then {soon} is saved.}\n\nTove"}},
	{who: lise, after: 50 * time.Minute, texts: []string{"{Done.|Done, and swept.|It is done. {few} trays.}\n\nLise", "{Will do|Yes|Gladly}, {and I take a photograph before.|but not before {soon}.|with the small knife.}\n\nLise", "{A pity, but you are right.|I had hoped you would say that.|Then the {plants} thank you.|Good. {guide} helps me.|If you say so. The {plants} won’t like it.}\n\nLise"}},
	{who: vera, after: 5 * time.Hour, texts: []string{"Hello,\n\n{noted, thank you.|good, then we start at ten.|and the bread as last time?}\n\nVera"}},
	{who: oda, after: 26 * time.Hour, texts: []string{"Hi Ines,\n\n{lovely, the pupils look forward to it.|thank you! We bring our own pencils.|you are kind. Until then!}\n\nOda"}},
	{who: anton, after: 49 * time.Hour, texts: []string{"Dear Ines,\n\n{booked. Thank you.|thank you, that closes it.|then it is as I thought.}\n\nAnton Rask"}},
	{who: person("Rasmus Holt", "rasmus@cafe-drivhuset.example"), after: 40 * time.Minute, texts: []string{"{Super.|You are the best landlady on the island.|Good, then so.|I tell the kitchen.|Then we open at {hour}.} {Coffee is on me.|See you tomorrow.}\n\nRasmus"}},
	{who: person("Magda Wolny", "magda@norrholm.example"), after: 8 * time.Minute, texts: []string{"{Thank you so much.|Of course, how silly of me.|I should have seen that.|Lise said so too!|I ask {guide} then.}\n\nMagda"}},
	{who: person("Yusuf Demir", "y.demir@botany.norduni.example"), after: 30 * time.Hour, texts: []string{"Dear Ines,\n\n{most kind.|that helps us a great deal.} {We shall be there.|The boxes are packed.}\n\nYusuf"}},
	{who: signe, after: 70 * time.Minute, texts: []string{"{Yes! {soon} then.|I knew it.|You always say that.|Mother says hello.|Good, good, good.}\n\nS."}},
	{who: henrik, after: 10 * time.Second, since: today.Add(-1), auto: "auto-replied", texts: []string{"I am in the field without a network until Thursday 26 November. For urgent matters please ask Lise Bo.\n\nHenrik"}},
	{who: lars, after: 6 * time.Minute, style: "failed", texts: []string{"Your letter could not be delivered. The mail service there says that nobody of that name is here.\n\nThe post office"}},
}

func (h habit) on(d when.Date) bool {
	return !d.Before(h.since) && (h.until == when.Date{} || d.Before(h.until))
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
func (c Correspondents) Answer(to string, l letter.Letter, sent time.Time) []postoffice.Coming {
	if c.Lists != nil {
		if taken, err := c.Lists.Take(to); taken || err != nil {
			return nil
		}
	}
	if l.Automatic.Is() || l.From.Email == "" {
		return nil
	}
	var out []postoffice.Coming
	for _, h := range habits {
		if !strings.EqualFold(h.who.Email, to) || !h.on(calendar().Today(sent)) {
			continue
		}
		sum := sha256.Sum256([]byte(l.MessageID + to))
		f := fill(rand.New(rand.NewPCG(uint64(sum[2]), uint64(sum[3]))), calendar().Today(sent)) //nolint:gosec // nothing is to be kept secret
		said := f.say(h.texts[int(sum[1])%len(h.texts)])
		m := message{
			id: hex.EncodeToString(sum[:8]), answers: l.MessageID, from: h.who, to: l.From, subject: letter.WithPrefix("Re: ", l.Subject),
			text: said, auto: h.auto, style: h.style, at: sent.Add(h.after),
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
