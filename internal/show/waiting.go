package show

import (
	"context"
	"fmt"
	"slices"
	"strings"

	"ebbe.example/ebbe/internal/core/letter"
	"ebbe.example/ebbe/internal/core/waiting"
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
		first := ""
		for _, p := range e.Persons {
			if slices.Contains(e.Answered, p) {
				continue
			}
			name := v.waitingName(tx, p)
			to := letter.Address{Email: p}
			if name != p {
				to.Name = name
			}
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

// waitingName is what somebody is called, or the address.
func (v Viewer) waitingName(tx *store.Tx, email string) string {
	if known, err := tx.Knows(email, 1); err == nil && len(known) == 1 && known[0].Name != "" {
		return known[0].Name
	}
	return email
}
