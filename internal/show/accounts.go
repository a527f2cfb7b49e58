package show

import (
	"context"
	"time"

	"ebbe.example/ebbe/internal/core/autoanswer"
	"ebbe.example/ebbe/internal/core/letter"
	"ebbe.example/ebbe/internal/core/when"
	"ebbe.example/ebbe/internal/store"
)

// AccountView is an account as the page shows it.
type AccountView struct {
	store.Account
	Away AwayView `json:"away"`
}

// AwayView is when nobody reads the letters to an account, and what is answered then.
type AwayView struct {
	// Set tells that there is an absence that is not over, On that it is now.
	Set bool `json:"set"`
	On  bool `json:"on"`
	// From and Back are phrases that are read as the same times.
	From      string `json:"from"`
	Back      string `json:"back"`
	FromWords string `json:"fromWords"`
	BackWords string `json:"backWords"`
	Text      string `json:"text"`
	Contact   string `json:"contact"`
	// Next is when On changes by itself.
	Next *time.Time `json:"next,omitempty"`
}

// Accounts lists the owner's accounts.
func (a *Show) Accounts(ctx context.Context, who store.Who) ([]AccountView, error) {
	return read(ctx, a, who, func(tx *store.Tx) ([]AccountView, error) {
		accounts, err := tx.Accounts()
		if err != nil {
			return nil, err
		}
		v, err := a.Viewer(tx)
		if err != nil {
			return nil, err
		}
		out := make([]AccountView, len(accounts))
		for i, acc := range accounts {
			acc.Block = letter.SignatureBlock(acc.Signature)
			for j, one := range acc.More {
				acc.More[j].Block = letter.SignatureBlock(one.Text)
			}
			out[i] = AccountView{acc, v.away(acc.Away)}
		}
		return out, nil
	})
}

func (v Viewer) away(a *autoanswer.Absence) AwayView {
	if a == nil {
		return AwayView{Text: autoanswer.UsualAbsence}
	}
	out := AwayView{
		Set: v.Now.Before(a.Back.In(v.Cal).UTC), On: a.On(v.Now, v.Cal), From: a.From.Canonical(v.Cal), Back: a.Back.Canonical(v.Cal),
		FromWords: v.speak(a.From), BackWords: v.speak(a.Back), Text: a.Text, Contact: a.Contact,
	}
	for _, end := range []when.Moment{a.Back, a.From} {
		if at := end.In(v.Cal).UTC; v.Now.Before(at) {
			out.Next = &at
		}
	}
	return out
}
