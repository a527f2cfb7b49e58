package show

import (
	"context"
	"slices"

	"ebbe.example/ebbe/internal/core/findings"
	"ebbe.example/ebbe/internal/core/followup"
	"ebbe.example/ebbe/internal/core/letter"
	"ebbe.example/ebbe/internal/store"
)

// ProposedFollowUp is what a letter proposes for a follow-up. Nothing of it is
// taken by itself.
type ProposedFollowUp struct {
	Asks     []ProposedAsk     `json:"asks"`
	Dates    []Proposal        `json:"dates" doc:"Found in the letter; the label is the sentence that names it"`
	Priority followup.Priority `json:"priority" enum:"urgent,high,normal,low"`
	Why      string            `json:"why" doc:"What the priority is read from; empty for nothing"`
	Names    Names             `json:"names"`
	Stages   []store.Stage     `json:"stages"`
}

// ProposedAsk is something that the letter asks, and its title as an action.
type ProposedAsk struct {
	Text  string `json:"text"`
	Title string `json:"title"`
}

// ProposeFollowUp reads what a conversation proposes for a follow-up; 0 is for
// one without a letter.
func (a *Show) ProposeFollowUp(ctx context.Context, who store.Who, conversation int64) (ProposedFollowUp, error) {
	return read(ctx, a, who, func(tx *store.Tx) (ProposedFollowUp, error) {
		out := ProposedFollowUp{Asks: []ProposedAsk{}, Dates: []Proposal{}, Priority: followup.Normal}
		v, err := a.Viewer(tx)
		if err != nil {
			return out, err
		}
		if out.Names, err = names(tx); err != nil {
			return out, err
		}
		stages, err := tx.Stages()
		if out.Stages = OrEmpty(stages); err != nil || conversation == 0 {
			return out, err
		}
		row, err := tx.Conversation(conversation)
		if err != nil {
			return out, err
		}
		letters, err := tx.LettersIn(row.ID)
		if err != nil {
			return out, err
		}
		for i := len(letters) - 1; i >= 0; i-- {
			if letters[i].Own {
				continue
			}
			raw, err := tx.Original(letters[i].ID)
			if err != nil {
				return out, err
			}
			l := letter.Parse(raw)
			text := letter.Unquoted(l.Text)
			if l.Text == "" {
				text = l.Subject
			}
			b := v.billOf(l, letters[i].Date)
			if title, ok := b.ToPay(); ok {
				out.Asks = append(out.Asks, ProposedAsk{title, title})
				if due := *b.Due; due.In(v.Cal).UTC.After(v.Now) {
					out.Dates = append(out.Dates, Proposal{Phrase: due.Canonical(v.Cal), Label: title, Words: v.speak(due), At: timeOf(due)})
				}
			}
			for _, ask := range findings.Asks(text) {
				out.Asks = append(out.Asks, ProposedAsk{ask, findings.Action(ask, true, row.Title())})
			}
			for _, d := range findings.Dates(text, letters[i].Date, v.Now, v.Cal) {
				if slices.ContainsFunc(out.Dates, func(p Proposal) bool { return p.Phrase == d.Canonical }) {
					continue // the bill's own
				}
				out.Dates = append(out.Dates, Proposal{Phrase: d.Canonical, Label: d.Quote, Words: v.speak(d.Moment), Why: v.far(d.Reading), At: timeOf(d.Moment)})
			}
			out.Priority, out.Why = findings.Urgency(l.Subject + "\n" + text)
			break
		}
		return out, nil
	})
}
