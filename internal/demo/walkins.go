package demo

import (
	"context"
	"fmt"
	"slices"
	"strconv"
	"time"

	"ebbe.example/ebbe/internal/app"
	"ebbe.example/ebbe/internal/core/letter"
	"ebbe.example/ebbe/internal/post"
	"ebbe.example/ebbe/internal/show"
	"ebbe.example/ebbe/internal/store"
)

// walkIns are what the demo bar sends in, by kind. Those that answer are made
// from what Ines has sent.
var walkIns = map[string][]message{
	"ask": {
		say(bram, "Driver’s telephone", "Dear Ines,\n\nThe driver on Friday is Joop. Could you send him the gate code by Thursday evening? His number is 555-0142.\n\nBram"),
		say(oda, "One pupil more", "Hi Ines, we are 29 now. Is that still all right?\n\nOda"),
		say(maren, "Scaffolding", "Hello Ines,\n\nThe scaffolders could start on Tuesday already. Please tell me today whether the south side is free.\n\nMaren"),
		say(signe, "Cake", "Marzipan or carrot? S.").toPrivate(),
		say(vera, "Bowls", "Hello, do you have bowls, or shall we bring paper ones?\n\nVera").toWalks(),
		say(lise, "Banner text", "“Green Hours: spring at Norrholm”. Can you live with that?\n\nLise"),
	},
	"bill": {
		say(kestrel, "Invoice 26-0871", "Dear Ines,\n\nPlease find our invoice over 1,420.00 for the winter programme attached. It is due on 10 December.\n\nKestrel Print").withFiles("invoice-26-0871.pdf"),
		{from: person("Norr Energi", "faktura@norr-energi.example"), to: ines, subject: "Invoice for November", text: "Bill 22817. Your consumption: 612 kWh.\n\nTo pay | 2,194.00 EUR\nOf it grid | 214.00\nDue | 15 December", html: true, layout: "ledger", colour: "#A86C00", auto: "auto-generated"},
	},
	"newsletter": {
		{from: journal, to: ines, subject: "Under glass, the December issue", text: "Mistletoe from seed, a warm wall, and what to read by lamplight.", html: true, list: true, remote: true, style: "tracked", layout: "banner", colour: "#3F7436"},
		{from: person("Tools & Sheds", "winter@tools-sheds.example"), to: ines, subject: "Rakes: two for one", text: "While there are any.", html: true, list: true, remote: true, layout: "dark", colour: "#C8481B"},
	},
	"invitation": {
		{from: tove, to: ines, subject: "Guides’ supper", text: "Can you come?\n\nTove", style: "invite"},
		{from: director, to: ines, subject: "Walk with the chair", text: "The chair would like to see the orangery with you.", style: "invite"},
	},
	"failure": {{style: "failed"}},
	"answer":  {{}},
}

const sentInFact = "demo letters sent in"

// SendLetter sends a letter of a kind in, over SMTP, and gives its subject.
func (d *Demo) SendLetter(ctx context.Context, who store.Who, kind string) (string, error) {
	if kind == "lists" {
		return d.sendLists(ctx)
	}
	some := walkIns[kind]
	if len(some) == 0 {
		return "", fmt.Errorf("no letter is %q", kind)
	}
	text, err := d.app.Store.Fact(ctx, sentInFact)
	if err != nil {
		return "", err
	}
	n, _ := strconv.Atoi(text) // "" is none so far
	m := some[n%len(some)]
	m.id, m.at = fmt.Sprintf("walk-in-%d", n), d.app.Now()
	sender := m.from.Email
	if kind == "failure" || kind == "answer" {
		own, err := d.waitedFor(ctx, who)
		if err != nil {
			return "", err
		}
		m.to = own.From
		if kind == "answer" {
			m.from, m.answers, m.subject = own.To[0], own.MessageID, letter.WithPrefix("Re: ", own.Subject)
			m.text = "Hello Ines,\n\nthank you for your patience. It is all settled, you can go ahead.\n\n" + own.To[0].Display() + "\n\n" + letter.Quote(own, own.Date.Format("Mon 2 Jan 2006, 15:04"))
			sender = m.from.Email
		} else {
			m.from, m.subject, m.bounced, m.refs = postmaster, "Not delivered: "+own.Subject, own.To[0].Email, []string{own.MessageID}
			m.text = "Your letter could not be delivered. The mail service there says that nobody of that name is here.\n\nThe post office"
			sender = "" // reports are not answered (RFC 3464)
		}
	}
	if err := d.app.Store.SetFact(ctx, sentInFact, strconv.Itoa(n+1)); err != nil {
		return "", err
	}
	raw, err := m.bytes(int64(n))
	if err != nil {
		return "", err
	}
	_, err = post.Relay{Addr: d.Office, Timeout: 10 * time.Second}.Send(ctx, post.Envelope{From: sender, To: []string{m.to.Email}}, raw)
	return m.subject, err
}

// waitedFor is the latest letter that the owner sent and waits for an answer to.
func (d *Demo) waitedFor(ctx context.Context, who store.Who) (own letter.Letter, err error) {
	list, err := d.app.WaitingList(ctx, who, false)
	if err != nil {
		return own, err
	}
	slices.SortFunc(list, func(a, b show.Waiting) int { return b.Since.Compare(a.Since) })
	err = d.app.Store.Read(ctx, who, func(tx *store.Tx) error {
		for _, w := range list {
			letters, err := tx.Exported([]int64{w.Conversation}, "", false)
			if err != nil {
				return err
			}
			for _, e := range letters {
				raw, err := tx.Original(e.ID)
				if err != nil {
					return err
				}
				l := letter.Parse(raw)
				mine := slices.ContainsFunc(accounts, func(a store.Account) bool { return a.Address == l.From.Key() })
				if mine && len(l.To) > 0 && !l.Date.Before(own.Date) {
					own = l
				}
			}
			if own.MessageID != "" {
				return nil
			}
		}
		return &app.Problem{Reason: "Nothing waits for an answer. Send something first, and wait for it."}
	})
	return own, err
}
