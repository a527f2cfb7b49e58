package show

import (
	"cmp"
	"context"
	"fmt"
	"slices"
	"strings"
	"time"

	"ebbe.example/ebbe/internal/core/letter"
	"ebbe.example/ebbe/internal/core/waiting"
	"ebbe.example/ebbe/internal/core/when"
	"ebbe.example/ebbe/internal/say"
	"ebbe.example/ebbe/internal/store"
	"ebbe.example/ebbe/internal/work"
)

// Nudge is a letter that reminds somebody of what is waited for.
type Nudge struct {
	Conversation int64   `json:"conversation"`
	Last         int64   `json:"last"`
	Writing      Writing `json:"writing"`
}

// nudgeWait is how much longer is waited after a nudge.
const nudgeWait = "3d"

// Nudge drafts a letter that reminds of what is waited for. Nothing is sent.
func (a *Show) Nudge(ctx context.Context, who store.Who, id int64) (Nudge, error) {
	return read(ctx, a, who, func(tx *store.Tx) (Nudge, error) {
		v, err := a.Viewer(tx)
		if err != nil {
			return Nudge{}, err
		}
		e, err := tx.Expectation(id)
		if err != nil || e.State != waiting.Open {
			return Nudge{}, work.Gone("That is no longer waited for.")
		}
		row, err := tx.Conversation(e.Conversation)
		if err != nil {
			return Nudge{}, work.Gone("The conversation is no longer there.")
		}
		letters, err := tx.LettersIn(row.ID)
		if err != nil || len(letters) == 0 {
			return Nudge{}, work.Refuse("The letter that waits for an answer has not left yet.")
		}
		accounts, err := tx.Accounts()
		if err != nil {
			return Nudge{}, err
		}
		w := Writing{Kind: "answer", From: accounts[0].Address, To: []string{}, Letter: letters[len(letters)-1].ID, Wait: nudgeWait, Nudges: id, Subject: say.ReplySubject(row.Title())}
		for _, l := range letters {
			if l.Own {
				w.From = l.From.Email
			}
		}
		names, err := tx.NamesOf(e.Persons)
		if err != nil {
			return Nudge{}, err
		}
		first := ""
		for _, p := range e.Persons {
			if slices.Contains(e.Answered, p) {
				continue
			}
			to := letter.Address{Name: names[p], Email: p}
			w.To = append(w.To, written([]letter.Address{to})...)
			if first == "" {
				first = to.FirstName()
			}
		}
		greeting := "Hello,"
		if first != "" {
			greeting = "Dear " + first + ","
		}
		w.Text = fmt.Sprintf("%s\n\non %s I wrote to you about “%s”. Have you been able to look at it? A line on when I can expect an answer would help.\n",
			greeting, e.Since.In(v.Cal.Zone).Format("Monday 2 January"), row.Title())
		for _, acc := range accounts {
			if strings.EqualFold(acc.Address, w.From) {
				w.Text += letter.SignatureBlock(acc.Signature)
			}
		}
		return Nudge{Conversation: row.ID, Last: row.LastLetter, Writing: w}, nil
	})
}

// Waiting is an expectation as the page shows it.
type Waiting struct {
	ID           int64     `json:"id"`
	Conversation int64     `json:"conversation"`
	Title        string    `json:"title"`
	Persons      []string  `json:"persons"`
	All          bool      `json:"all,omitempty" doc:"All of them must answer"`
	Answered     []string  `json:"answered,omitempty" doc:"Those who have"`
	Since        time.Time `json:"since"`
	Until        string    `json:"until" doc:"In words; empty for no limit"`
	UntilAs      string    `json:"untilAs"`
	Late         bool      `json:"late"`
	Offered      string    `json:"offered,omitempty" doc:"Somebody else who has answered"`
	State        string    `json:"state" enum:"open,met,dropped"`
	Away         string    `json:"away,omitempty" doc:"Subject of an automatic answer"`
	AwayUntil    *Proposal `json:"awayUntil,omitempty" doc:"The day that it names, offered as a limit"`
}

// waitings shows expectations, however many, by as many questions.
func (v Viewer) waitings(tx *store.Tx, list []store.Expectation) ([]Waiting, error) {
	var conversations, offered []int64
	var emails []string
	for _, e := range list {
		conversations = append(conversations, e.Conversation)
		emails = append(emails, e.Persons...)
		if e.Offered != 0 {
			offered = append(offered, e.Offered)
		}
	}
	names, err := tx.NamesOf(emails)
	if err != nil {
		return nil, err
	}
	leads, err := tx.Follows(conversations)
	if err != nil {
		return nil, err
	}
	titles, err := tx.Titles(leads)
	if err != nil {
		return nil, err
	}
	senders, err := tx.SendersOf(offered)
	out := make([]Waiting, len(list))
	for i, e := range list {
		out[i] = v.waiting(e, names)
		if title, ok := titles[leads[e.Conversation]]; ok {
			out[i].Conversation, out[i].Title = leads[e.Conversation], title
		}
		if from, ok := senders[e.Offered]; ok {
			out[i].Offered = from.Display()
		}
	}
	return out, err
}

func (v Viewer) waiting(e store.Expectation, names map[string]string) Waiting {
	out := Waiting{ID: e.ID, Conversation: e.Conversation, Since: e.Since, Late: e.Late, State: string(e.State), Away: e.Away, Persons: []string{}, All: e.All && len(e.Persons) > 1}
	for _, p := range e.Persons {
		name := cmp.Or(names[p], p)
		out.Persons = append(out.Persons, name)
		if out.All && slices.Contains(e.Answered, p) {
			out.Answered = append(out.Answered, name)
		}
	}
	if e.Until != nil {
		out.Until, out.UntilAs = v.speak(*e.Until), e.Until.Canonical(v.Cal)
	}
	if e.AwayUntil != "" {
		if r, err := when.Read(e.AwayUntil, v.Now, v.Cal); err == nil {
			out.AwayUntil = &Proposal{Phrase: r.Canonical, Label: e.AwayUntil, Words: v.speak(r.Moment), Why: v.far(r)}
		}
	}
	return out
}

// WaitingList lists what is waited for, by its limit, or what no longer is.
func (a *Show) WaitingList(ctx context.Context, who store.Who, settled bool) ([]Waiting, error) {
	return read(ctx, a, who, func(tx *store.Tx) ([]Waiting, error) {
		list, err := tx.Waiting()
		if settled {
			list, err = tx.Settled(200)
		}
		if err != nil {
			return nil, err
		}
		v, err := a.Viewer(tx)
		if err != nil {
			return nil, err
		}
		return v.waitings(tx, list)
	})
}
