package show

import (
	"context"
	"fmt"
	"strings"

	"ebbe.example/ebbe/internal/core/letter"
	"ebbe.example/ebbe/internal/core/waiting"
	"ebbe.example/ebbe/internal/core/when"
	"ebbe.example/ebbe/internal/store"
	"ebbe.example/ebbe/internal/work"
)

// HandOver drafts the letter with which a follow-up is handed to somebody else:
// with the letter behind it, its due, and what is asked. Nothing is sent.
func (a *Show) HandOver(ctx context.Context, who store.Who, id int64) (Nudge, error) {
	return read(ctx, a, who, func(tx *store.Tx) (Nudge, error) {
		v, err := a.Viewer(tx)
		if err != nil {
			return Nudge{}, err
		}
		f, err := tx.FollowUp(id)
		if err != nil || !f.Alive || f.Status.Closed() {
			return Nudge{}, work.Gone("That follow-up is no longer open.")
		}
		accounts, err := tx.Accounts()
		if err != nil {
			return Nudge{}, err
		}
		w := Writing{Kind: "new", From: accounts[0].Address, To: []string{}, Subject: f.Title, FollowUp: id, Wait: waiting.DefaultWait}
		by := ""
		if f.Due != nil && f.Due.Precision != when.Open && f.Due.UTC.After(v.Now) {
			w.Wait = f.Due.Canonical(v.Cal)
			words, _ := v.due(*f.Due)
			by = " by " + words
		}
		out := Nudge{}
		for _, l := range f.Letters {
			if l.Conversation == 0 {
				continue
			}
			row, err := tx.Conversation(l.Conversation)
			if err != nil {
				continue
			}
			w.Kind, w.Letter, w.Stay, out.Conversation, out.Last = "hand-on", l.LetterID, true, row.ID, row.LastLetter
			w.Subject = letter.WithPrefix("Fwd: ", row.Title())
			break
		}
		w.Text = fmt.Sprintf("Hello,\n\ncan you see to this%s, please: %s\n", by, f.Title)
		if f.Notes != "" {
			w.Text += "\n" + strings.TrimSpace(f.Notes) + "\n"
		}
		w.Text += letter.SignatureBlock(accounts[0].Signature)
		out.Writing = w
		return out, nil
	})
}
