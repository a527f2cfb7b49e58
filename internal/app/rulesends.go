package app

import (
	"crypto/rand"
	"encoding/json"
	"slices"
	"strings"
	"time"

	"ebbe.example/ebbe/internal/core/autoanswer"
	"ebbe.example/ebbe/internal/core/change"
	"ebbe.example/ebbe/internal/core/decide"
	"ebbe.example/ebbe/internal/core/kinds"
	"ebbe.example/ebbe/internal/core/letter"
	"ebbe.example/ebbe/internal/core/routine"
	"ebbe.example/ebbe/internal/core/rule"
	"ebbe.example/ebbe/internal/core/sending"
	"ebbe.example/ebbe/internal/post"
	"ebbe.example/ebbe/internal/show"
	"ebbe.example/ebbe/internal/store"
	"ebbe.example/ebbe/internal/work"
)

// What rules send. Automatic answers go by the same rules as holding notes; what is forwarded is
// marked, so that it never comes round.

// autoRule and autoForward mark in the outbox what rules send.
const (
	autoRule    = "rule"
	autoForward = "forward"
)

// prepared is what is written with the template of a step, filled in as far as that is known.
func (s *step) prepared(template int64, w show.Writing) (show.Writing, error) {
	if template == 0 {
		return w, nil
	}
	all, err := s.Templates()
	if err != nil {
		return w, err
	}
	i := slices.IndexFunc(all, func(t store.Template) bool { return t.ID == template })
	if i < 0 {
		return w, work.Gone("Its template is no longer there.")
	}
	return filledIn(s.Tx, all[i], w, s.At)
}

// accountOf is the account at which a letter came.
func (s *step) accountOf(letterID int64) (store.Account, error) {
	at, err := s.ArrivalAccounts(letterID)
	if err != nil {
		return store.Account{}, err
	}
	accounts, err := s.Accounts()
	if err != nil {
		return store.Account{}, err
	}
	if len(accounts) == 0 {
		return store.Account{}, work.Refuse("There is no account from which to send.")
	}
	return accounts[max(0, slices.IndexFunc(accounts, func(a store.Account) bool { return slices.Contains(at, a.ID) }))], nil
}

// answerByRule answers a letter with a template by itself, if the rules for automatic answers allow it.
func (s *step) answerByRule(st routine.Step, h hit) error {
	l, err := arrived(s.Tx, h.Letter)
	if err != nil {
		return err
	}
	row, err := s.Letter(h.Letter)
	if err != nil {
		return err
	}
	account, err := s.accountOf(h.Letter)
	if err != nil {
		return err
	}
	w, err := s.prepared(st.Template, show.Writing{Kind: "answer", To: []string{autoanswer.To(l).Email}, Subject: l.Subject, Letter: h.Letter})
	if err != nil {
		return err
	}
	if open := w.Fields; len(open) > 0 {
		return work.Refuse("Its template has fields that nothing fills: {%s}.", strings.Join(open, "}, {"))
	}
	return s.autoAnswer(stored{id: h.Letter, l: l, row: row}, account, []int64{h.Conversation}, autoanswer.Asked{}, autoRule, w.Text+"\n")
}

// forwardByRule sends a letter on, as long as it was not sent on before and the day's measure isn't full.
func (s *step) forwardByRule(r store.Rule, st routine.Step, h hit) error {
	raw, err := s.Original(h.Letter)
	if err != nil {
		return err
	}
	l := letter.Parse(raw)
	sent, err := s.SentByRules(autoForward, s.At.Add(-24*time.Hour))
	if err != nil {
		return err
	}
	if why := rule.NotForwarded(l, sent); why != "" {
		return work.Refuse("%s", why)
	}
	account, err := s.accountOf(h.Letter)
	if err != nil {
		return err
	}
	to, err := checkAddresses([]string{st.To})
	if err != nil {
		return err
	}
	_, domain, _ := strings.Cut(account.Address, "@")
	out := letter.Outgoing{
		MessageID: s.app.NewID() + "@" + domain, From: letter.Address{Name: account.Name, Email: account.Address}, To: to, Subject: letter.WithPrefix("Fwd: ", l.Subject), Date: s.At,
		Text: "Forwarded by the rule “" + r.Name + "”.\n", AutoSubmitted: "auto-generated", SentOn: true,
		Parts: []letter.Part{{Name: post.FileName(l.Subject) + ".eml", ContentType: "message/rfc822", Content: raw}},
	}
	packed, err := out.Bytes()
	if err != nil {
		return err
	}
	id, err := s.AddOutgoing(store.Outgoing{
		AccountID: account.ID, MessageID: out.MessageID, Sender: out.From.Email, Recipients: receivers(out), Subject: out.Subject, SendAt: s.At, AutoTo: to[0].Key(), AutoKind: autoForward,
	}, store.Pack(packed), s.At)
	if err != nil {
		return err
	}
	var changes change.List
	kinds.Outbox.State.Set(&changes, id, sending.Unmade, sending.Waiting)
	return s.Change(changes)
}

// draftByRule writes the draft of an answer, or of what is handed on; nothing is sent by itself.
func (s *step) draftByRule(st routine.Step, h hit) error {
	row, err := s.Letter(h.Letter)
	if err != nil {
		return err
	}
	raw, err := s.Original(h.Letter)
	if err != nil {
		return err
	}
	account, err := s.accountOf(h.Letter)
	if err != nil {
		return err
	}
	l := letter.Parse(raw)
	w := show.Writing{Kind: "answer", From: account.Address, To: []string{}, Letter: h.Letter, Subject: letter.WithPrefix("Re: ", row.Subject)}
	if st.Decision == decide.HandOn {
		w.Kind, w.Subject = "hand-on", letter.WithPrefix("Fwd: ", row.Subject)
		var to store.ReceiverGroup
		if st.Group != 0 {
			if to, err = s.group(st.Group); err != nil {
				return err
			}
		}
		w.To = st.Receivers(to.Members)
	} else {
		addresses, err := s.addresses()
		if err != nil {
			return err
		}
		for _, a := range letter.Answer(l, ownKeys(addresses), false).To {
			w.To = append(w.To, a.Email)
		}
	}
	w.Quoted = show.Quote(w.Kind, l, s.calendar())
	if w, err = s.prepared(st.Template, w); err != nil {
		return err
	}
	value, err := json.Marshal(w)
	if err != nil {
		return err
	}
	id := "by-rule-" + strings.ToLower(rand.Text())
	if err := s.SaveDraft(store.Draft{ID: id, Conversation: h.Conversation, Kind: w.Kind, Value: value, UpdatedAt: s.At}); err != nil {
		return err
	}
	d, err := s.Draft(id)
	if err != nil {
		return err
	}
	// It is alive as soon as it is kept; that is written down, so that an undo takes it away.
	var changes change.List
	kinds.Draft.Alive.Set(&changes, d.Number, false, true)
	return s.Change(changes)
}
