package app

import (
	"cmp"
	"context"
	"crypto/rand"
	"crypto/sha256"
	"encoding/hex"
	"strings"
	"time"

	"ebbe.example/ebbe/internal/core/change"
	"ebbe.example/ebbe/internal/core/decide"
	"ebbe.example/ebbe/internal/core/findings"
	"ebbe.example/ebbe/internal/core/followup"
	"ebbe.example/ebbe/internal/core/kinds"
	"ebbe.example/ebbe/internal/core/letter"
	"ebbe.example/ebbe/internal/core/when"
	"ebbe.example/ebbe/internal/say"
	"ebbe.example/ebbe/internal/show"
	"ebbe.example/ebbe/internal/store"
	"ebbe.example/ebbe/internal/work"
)

// RenewIntake makes an intake address that nobody can guess; letters to the
// one before are no longer taken.
func (a *App) RenewIntake(ctx context.Context, who store.Who, command string) (Decided, error) {
	cmd := work.Command{ID: command, Who: who, Actor: work.ByPerson, Kind: "settings", Title: "A new intake address"}
	return run(ctx, a, cmd, func(s *step) (Decided, error) {
		p, err := s.InboxSettings()
		if err != nil {
			return Decided{}, err
		}
		var changes change.List
		kinds.Person.Intake.Set(&changes, p.ID, p.Intake, strings.ToLower(rand.Text()))
		return Decided{Entry: s.ID, Title: s.Title}, s.Change(changes)
	})
}

// intakePart is what a letter to the intake address asks for, the part before
// the @; ok is false for any other address.
func intakePart(p store.Person, to string) (local string, ok bool) {
	local, domain, _ := strings.Cut(strings.ToLower(to), "@")
	secret, _, _ := strings.Cut(domain, ".")
	return local, p.Intake != "" && secret == p.Intake
}

// takeIntake makes a follow-up of a letter that was sent to the intake address,
// or puts it off to the time that the address carries. What can't be read as a
// time stays in the inbox, where it is seen.
func (s *step) takeIntake(in Incoming, l letter.Letter, local string) (int64, error) {
	accounts, err := s.Accounts()
	if err != nil {
		return 0, err
	}
	in.To, in.Pass = accounts[0].Address, true
	sender, found := l.From, false
	if carried := l.Carried(); carried != nil {
		inner := letter.Parse(carried)
		in.Raw, in.Read, sender, found = carried, &inner, inner.From, true
		l = inner
	} else if from, ok := l.ForwardedFrom(); ok {
		sender, found = from, true
	}
	id, err := s.receive(in, l)
	if err != nil {
		return 0, err
	}
	stored, err := s.Letter(id)
	if err != nil {
		return 0, err
	}
	row, err := s.Conversation(stored.Conversation)
	if err != nil {
		return 0, err
	}
	rows := []seenRow{{row, row.LastLetter, nil}}
	if local != show.IntakeName {
		return id, s.intakeTime(rows, local)
	}
	text := letter.Unquoted(l.Text)
	if found && l.Carried() == nil && stored.From.Key() != sender.Key() {
		text = l.Text // forwarded within the text: what is asked stands below
	}
	ask, asks := findings.Ask(text)
	f := store.FollowUp{
		Title: findings.Action(ask, asks, letter.BareSubject(cmp.Or(l.Subject, row.Title()))), Priority: followup.Normal, Status: followup.Open, MadeAt: s.At,
		Letters: []store.FollowUpLetter{{LetterID: id, Subject: l.Subject, Sender: sender.Display(), Date: stored.Date, Ask: ask}},
	}
	if f.Title == "" {
		f.Title = "See to a forwarded letter"
	}
	if _, err := s.addFollowUp(f, nil, nil); err != nil {
		return 0, err
	}
	s.Title = "Follow-up from a forwarded letter: “" + say.Shorten(f.Title, 60) + "”"
	return id, s.settle(rows, decide.Decision{Kind: decide.Done, At: s.At, Saw: row.LastLetter})
}

func (s *step) intakeTime(rows []seenRow, local string) error {
	moment, err := s.read(addressPhrase(local))
	if err != nil {
		s.Title = "“" + say.Shorten(local, 40) + "” in an address is no time; the letter is in the inbox"
		return nil //nolint:nilerr // the letter is there, and says so
	}
	s.Title = "Sent back " + s.speak(*moment) + ": “" + say.Shorten(rows[0].Title(), 60) + "”"
	s.sure = true // a letter can't be asked
	return s.settle(rows, decide.Decision{Kind: decide.PutOff, At: s.At, Saw: rows[0].LastLetter, When: moment})
}

// addressPhrase is the time that the local part of an address names:
// "fri-1400", "2026-12-01", "next-week", "in.3.hours".
func addressPhrase(local string) string {
	if _, err := time.Parse(time.DateOnly, local); err == nil {
		return local
	}
	return strings.NewReplacer("-", " ", ".", " ", "_", " ", "+", " ").Replace(local)
}

// Dropped is what was dropped onto the follow-ups.
type Dropped struct {
	Name string
	Data []byte
}

// maxDropped bounds a dropped file, in bytes.
const maxDropped = 25 << 20

// DropFollowUp makes a follow-up of a file: a letter is kept in the archive
// with it; any other file as the attachment of a note to self.
func (a *App) DropFollowUp(ctx context.Context, who store.Who, command string, d Dropped) (Decided, error) {
	if len(d.Data) == 0 || len(d.Data) > maxDropped {
		return Decided{}, work.Invalid("data", "The file is empty, or larger than 25 MB. Nothing was made.")
	}
	cmd := work.Command{ID: command, Who: who, Actor: work.ByPerson, Kind: "followup:new"}
	return run(ctx, a, cmd, func(s *step) (Decided, error) {
		accounts, err := s.Accounts()
		if err != nil {
			return Decided{}, err
		}
		raw := d.Data
		l := letter.Parse(raw)
		if l.From.Email == "" || l.Date.IsZero() {
			if raw, err = noteWith(d, accounts[0], s); err != nil {
				return Decided{}, err
			}
			l = letter.Parse(raw)
		}
		id, err := s.receive(Incoming{Inbox: who.Inbox, To: accounts[0].Address, Source: "file", Raw: raw, Read: &l, At: s.At, Pass: true}, l)
		if err != nil {
			return Decided{}, err
		}
		stored, err := s.Letter(id)
		if err != nil {
			return Decided{}, err
		}
		row, err := s.Conversation(stored.Conversation)
		if err != nil {
			return Decided{}, err
		}
		rows := []seenRow{{row, row.LastLetter, nil}}
		title := actionOf(rows[0])
		if l.Subject == d.Name {
			title = "See to: " + d.Name
		}
		followUp, err := s.addFollowUp(store.FollowUp{Title: title, Priority: followup.Normal, Status: followup.Open, MadeAt: s.At}, rows, nil)
		if err != nil {
			return Decided{}, err
		}
		s.Title = "New follow-up “" + say.Shorten(title, 60) + "” from " + say.Shorten(d.Name, 60)
		return Decided{Entry: s.ID, Title: s.Title, FollowUp: followUp}, s.settle(rows, decide.Decision{Kind: decide.Done, At: s.At, Saw: row.LastLetter})
	})
}

// noteWith writes a note to self that carries a file. The same file again is
// the same note.
func noteWith(d Dropped, account store.Account, s *step) ([]byte, error) {
	sum := sha256.Sum256(d.Data)
	me := letter.Address{Name: account.Name, Email: account.Address}
	_, domain, _ := strings.Cut(account.Address, "@")
	kind := "application/octet-stream"
	if text := string(d.Data); strings.HasSuffix(strings.ToLower(d.Name), ".pdf") {
		kind = "application/pdf"
	} else if !strings.Contains(text, "\x00") && strings.HasSuffix(strings.ToLower(d.Name), ".txt") {
		kind = "text/plain"
	}
	o := letter.Outgoing{
		MessageID: "file-" + hex.EncodeToString(sum[:10]) + "@" + domain, From: me, To: []letter.Address{me}, Subject: d.Name, Date: s.At,
		Text: "Dropped onto the follow-ups on " + s.speak(when.Moment{UTC: s.At, Precision: when.ToMinute}) + ".\n", Parts: []letter.Part{{Name: d.Name, ContentType: kind, Content: d.Data}},
	}
	return o.Bytes()
}
