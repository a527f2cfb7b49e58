package show

import (
	"context"
	"encoding/json"
	"maps"
	"slices"

	"ebbe.example/ebbe/internal/core/findings"
	"ebbe.example/ebbe/internal/core/letter"
	"ebbe.example/ebbe/internal/core/writing"
	"ebbe.example/ebbe/internal/store"
)

// Asks tells what the letter that is answered asks, and what of it the answer covers so
// far.
func (a *Show) Asks(ctx context.Context, who store.Who, w Writing) ([]writing.Ask, error) {
	return read(ctx, a, who, func(tx *store.Tx) ([]writing.Ask, error) {
		_, asks, err := asksOf(tx, w)
		return asks, err
	})
}

func asksOf(tx *store.Tx, w Writing) (answered letter.Letter, asks []writing.Ask, err error) {
	if w.Kind != "answer" || w.Letter == 0 {
		return answered, []writing.Ask{}, nil
	}
	raw, err := tx.Original(w.Letter)
	if err != nil {
		return answered, nil, err
	}
	answered = letter.Parse(raw)
	asks = writing.Covers(findings.Asks(letter.Unquoted(answered.Text)), w.Text)
	for i := range asks {
		asks[i].Covered = asks[i].Covered || slices.Contains(w.Covered, asks[i].Text)
	}
	return answered, asks, nil
}

// Doubts tells what is doubtful in a letter that is about to be sent.
func (a *Show) Doubts(ctx context.Context, who store.Who, w Writing) ([]writing.Doubt, error) {
	return read(ctx, a, who, func(tx *store.Tx) ([]writing.Doubt, error) {
		answered, asks, err := asksOf(tx, w)
		if err != nil {
			return nil, err
		}
		l := writing.Letter{Text: w.Text, ToAll: w.Kind == "answer" && w.All, Files: len(w.Files), Asks: asks, Unfilled: writing.Unfilled(w.Subject, w.Text, w.Fields)}
		if w.Kind == "hand-on" && w.Along != "text" {
			l.Files++ // what goes along is theirs
		}
		for _, typed := range slices.Concat(w.To, w.Cc, w.Bcc) {
			if checked, err := letter.CheckAddress(typed); err == nil {
				l.Receivers = append(l.Receivers, checked.Key())
			}
		}
		own, err := tx.OwnAddresses()
		if err != nil {
			return nil, err
		}
		l.Colleagues = writing.Colleagues(append(answered.Recipients(), answered.From), slices.Collect(maps.Keys(own)))
		l.Known, err = tx.KnownDomains()
		return OrEmpty(writing.Doubts(l)), err
	})
}

// DraftPage is a draft as its reader will see it, made safe like any letter.
func (a *Show) DraftPage(ctx context.Context, who store.Who, id string) (string, error) {
	d, err := read(ctx, a, who, func(tx *store.Tx) (store.Draft, error) { return tx.Draft(id) })
	if err != nil {
		return "", err
	}
	var w Writing
	if err := json.Unmarshal(d.Value, &w); err != nil {
		return "", store.ErrNotFound
	}
	return letter.Clean(writing.Page(w.Text, w.Quoted), false, func(contentID string) string {
		if slices.ContainsFunc(w.Files, func(f AttachedFile) bool { return f.ID == contentID }) {
			return "/api/attached/" + contentID
		}
		return ""
	}).HTML, nil
}
