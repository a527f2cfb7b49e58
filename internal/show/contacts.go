package show

import (
	"cmp"
	"context"
	"net/url"
	"slices"
	"strings"

	"ebbe.example/ebbe/internal/core/contact"
	"ebbe.example/ebbe/internal/core/decide"
	"ebbe.example/ebbe/internal/core/find"
	"ebbe.example/ebbe/internal/core/letter"
	"ebbe.example/ebbe/internal/core/meeting"
	"ebbe.example/ebbe/internal/core/review"
	"ebbe.example/ebbe/internal/say"
	"ebbe.example/ebbe/internal/store"
	"ebbe.example/ebbe/internal/work"
)

// CorrespondentRow is somebody the owner writes with, or who is written down.
type CorrespondentRow struct {
	// Address is by which they are opened; "" for one who is written down without any.
	Address string `json:"address"`
	Contact int64  `json:"contact,omitempty" doc:"By which they are written down"`
	Name    string `json:"name"`
	Says    string `json:"says" doc:"Their address, or what they belong to"`
	Letters int    `json:"letters" doc:"Both ways"`
	Last    string `json:"last,omitempty" doc:"When the last was written, in words"`
	Key     bool   `json:"key,omitempty" doc:"A key person"`
}

// CorrespondentList are those whose names, addresses or offices are like what was typed.
type CorrespondentList struct {
	Rows   []CorrespondentRow   `json:"rows"`
	More   int                  `json:"more" doc:"So many others"`
	Groups []CorrespondentGroup `json:"groups"`
}

// CorrespondentGroup are people who are written to together.
type CorrespondentGroup struct {
	ID      int64                `json:"id"`
	Name    string               `json:"name"`
	Members []CorrespondentNamed `json:"members"`
	Mailto  string               `json:"mailto" doc:"By which a letter to all of them is begun (RFC 6068)"`
}

// CorrespondentNamed is somebody by name.
type CorrespondentNamed struct {
	Address string `json:"address"`
	Name    string `json:"name"`
}

// groupOf is a group with its members by name, as they are known where the group doesn't say.
func groupOf(g store.ReceiverGroup, names map[string]string) CorrespondentGroup {
	out := CorrespondentGroup{ID: g.ID, Name: g.Name, Members: []CorrespondentNamed{}}
	var to []string
	for _, m := range g.Members {
		a, err := letter.CheckAddress(m)
		if err != nil {
			continue // what can't be written to stands in the group itself
		}
		out.Members = append(out.Members, CorrespondentNamed{a.Key(), cmp.Or(a.Name, names[a.Key()], a.Email)})
		to = append(to, url.PathEscape(a.Email))
	}
	out.Mailto = "mailto:" + strings.Join(to, ",")
	return out
}

// mostCorrespondents bounds how many are listed, and known how many are looked through.
const (
	mostCorrespondents  = 200
	knownCorrespondents = 50_000
)

// Correspondents lists the latest first; whoever is written down with several addresses is one of them.
func (a *Show) Correspondents(ctx context.Context, who store.Who, typed string) (CorrespondentList, error) {
	return read(ctx, a, who, func(tx *store.Tx) (CorrespondentList, error) {
		out := CorrespondentList{Rows: []CorrespondentRow{}, Groups: []CorrespondentGroup{}}
		v, err := a.Viewer(tx)
		if err != nil {
			return out, err
		}
		rows, err := v.everybody(tx)
		if err != nil {
			return out, err
		}
		keys, err := tx.KeyPersons(v.Now)
		if err != nil {
			return out, err
		}
		groups, err := tx.ReceiverGroups()
		if err != nil {
			return out, err
		}
		words := letter.Words(typed)
		names := map[string]string{} // of those in groups
		for _, r := range rows {
			if len(groups) > 0 {
				names[r.Address] = r.Name
			}
			switch {
			case !likePerson(r, words):
			case len(out.Rows) == mostCorrespondents:
				out.More++
			default:
				r.Key = keys[r.Address]
				out.Rows = append(out.Rows, r.CorrespondentRow)
			}
		}
		for _, g := range groups {
			if letter.StartsWith(letter.Words(g.Name), words) || len(words) == 0 {
				out.Groups = append(out.Groups, groupOf(g, names))
			}
		}
		return out, nil
	})
}

// known is a row with all by which it is found.
type knownRow struct {
	CorrespondentRow
	texts []string
}

func likePerson(r knownRow, words []string) bool {
	for _, w := range words {
		if !slices.ContainsFunc(r.texts, func(t string) bool { return letter.StartsWith(letter.Words(t), []string{w}) }) {
			return false
		}
	}
	return true
}

// everybody is whom the owner has written with, the latest first, and who is written down.
func (v Viewer) everybody(tx *store.Tx) ([]knownRow, error) {
	known, err := tx.Correspondents(knownCorrespondents)
	if err != nil {
		return nil, err
	}
	contacts, err := tx.Contacts()
	return joined(v, known, contacts), err
}

// joined are the known ones, those who are written down once each, and then who was written down and never
// written with.
func joined(v Viewer, known []store.Correspondent, contacts []store.Contact) []knownRow {
	book := contact.Book{}
	for i, c := range contacts {
		book.Put(i, c.Contact)
	}
	out := make([]knownRow, 0, len(known))
	at := map[int]int{} // rows of contacts
	for _, k := range known {
		i, ok := book[k.Email]
		if row, again := at[i]; ok && again {
			out[row].Letters += k.Sent + k.Received
			out[row].texts = append(out[row].texts, k.Name)
			continue
		}
		r := knownRow{CorrespondentRow{Address: k.Email, Name: cmp.Or(k.Name, k.Email), Says: k.Email, Letters: k.Sent + k.Received, Last: v.short(k.LastAt)}, []string{k.Name, k.Email}}
		if ok {
			at[i] = len(out)
			r.written(contacts[i])
		}
		out = append(out, r)
	}
	for i, c := range contacts {
		if _, ok := at[i]; !ok {
			r := knownRow{CorrespondentRow: CorrespondentRow{}}
			if len(c.Emails) > 0 {
				r.Address, r.Says = c.Emails[0], c.Emails[0]
			}
			r.written(c)
			out = append(out, r)
		}
	}
	return out
}

func (r *knownRow) written(c store.Contact) {
	r.Contact, r.Name = c.ID, c.Name
	r.texts = append(append(r.texts, c.Name, c.Org), c.Emails...)
	if c.Org != "" {
		r.Says = strings.TrimPrefix(r.Says+" · "+c.Org, " · ")
	}
}

// CorrespondentView is all that is known of somebody.
type CorrespondentView struct {
	Name string `json:"name"`
	// You tells that it is one of the owner's own addresses.
	You       bool                   `json:"you,omitempty"`
	Contact   *ContactView           `json:"contact,omitempty" doc:"What is written down of them"`
	Addresses []CorrespondentAddress `json:"addresses"`
	Letters   []CorrespondentLetter  `json:"letters" doc:"The latest, both ways, the newest first"`
	Q         string                 `json:"q" doc:"The search that finds all of theirs"`
	Waits     []CorrespondentWait    `json:"waits" doc:"What waits: undecided letters, what they owe, what is due, meetings"`
	Mine      string                 `json:"mine,omitempty" doc:"How long their letters waited for an answer: the median, and of how many"`
	Theirs    string                 `json:"theirs,omitempty" doc:"How long they took to answer"`
	Learned   *LearnedView           `json:"learned,omitempty"`
	Through   []ThroughView          `json:"through" doc:"What lets their letters through a closed gate"`
	Settled   []CorrectionView       `json:"settled" doc:"What was settled about their letters"`
	Groups    []string               `json:"groups"`
	Files     int                    `json:"files" doc:"Attachments of the letters that were looked at"`
}

// ContactView is what is written down of somebody.
type ContactView struct {
	ID int64 `json:"id"`
	contact.Contact
}

// CorrespondentAddress is one of their addresses.
type CorrespondentAddress struct {
	Email    string `json:"email"`
	Sent     int    `json:"sent" doc:"To them"`
	Received int    `json:"received"`
	Last     string `json:"last,omitempty"`
}

// CorrespondentLetter is a letter from or to them.
type CorrespondentLetter struct {
	Conversation int64  `json:"conversation"`
	Subject      string `json:"subject"`
	Own          bool   `json:"own" doc:"To them"`
	At           string `json:"at"`
}

// CorrespondentWait is something open between them and the owner.
type CorrespondentWait struct {
	Kind         string `json:"kind" enum:"undecided,later,answer,follow-up,meeting"`
	Conversation int64  `json:"conversation,omitempty"`
	FollowUp     int64  `json:"followUp,omitempty"`
	Title        string `json:"title"`
	Says         string `json:"says,omitempty"`
	Late         bool   `json:"late,omitempty"`
}

const (
	shownLetters = 12
	// lookedLetters and lookedConversations bound what answer times and what waits are read from.
	lookedLetters       = 2000
	lookedConversations = 400
	meetingDays         = 60
)

// Correspondent gives all that is known of somebody by one of their addresses.
func (a *Show) Correspondent(ctx context.Context, who store.Who, address string) (CorrespondentView, error) {
	return read(ctx, a, who, func(tx *store.Tx) (CorrespondentView, error) {
		out := CorrespondentView{
			Addresses: []CorrespondentAddress{}, Letters: []CorrespondentLetter{}, Waits: []CorrespondentWait{},
			Through: []ThroughView{}, Settled: []CorrectionView{}, Groups: []string{},
		}
		v, err := a.Viewer(tx)
		if err != nil {
			return out, err
		}
		address = strings.ToLower(strings.TrimSpace(address))
		emails := []string{}
		if address != "" {
			emails = append(emails, address)
		}
		contacts, err := tx.Contacts()
		if err != nil {
			return out, err
		}
		if i := slices.IndexFunc(contacts, func(c store.Contact) bool { return slices.Contains(c.Emails, address) }); i >= 0 {
			emails = contacts[i].Emails
			out.Contact, out.Name = &ContactView{contacts[i].ID, contacts[i].Contact}, contacts[i].Name
		}
		own, err := tx.OwnAddresses()
		if err != nil {
			return out, err
		}
		_, out.You = own[address]
		for _, fill := range []func(*store.Tx, []string, *CorrespondentView) error{v.addresses, v.lettersWith, v.waits, v.settledOf, a.learnedOf} {
			if err := fill(tx, emails, &out); err != nil {
				return out, err
			}
		}
		out.Name = cmp.Or(out.Name, address)
		return out, nil
	})
}

func (v Viewer) addresses(tx *store.Tx, emails []string, out *CorrespondentView) error {
	known, err := tx.CorrespondentsAt(emails)
	var terms []find.Query
	for _, e := range emails {
		a := CorrespondentAddress{Email: e}
		if k := slices.IndexFunc(known, func(c store.Correspondent) bool { return c.Email == e }); k >= 0 {
			a.Sent, a.Received, a.Last = known[k].Sent, known[k].Received, v.short(known[k].LastAt)
			out.Name = cmp.Or(out.Name, known[k].Name)
		}
		out.Addresses = append(out.Addresses, a)
		for _, f := range []find.Field{find.From, find.To} {
			terms = append(terms, find.Query{Op: find.Is, Term: find.Term{Field: f, Value: e}})
		}
	}
	out.Q = find.Query{Op: find.Any, Of: terms}.String()
	return err
}

func (v Viewer) lettersWith(tx *store.Tx, emails []string, out *CorrespondentView) error {
	list, err := tx.LettersWith(emails, lookedLetters)
	var exchanges []review.Exchange
	for i, l := range list {
		if i < shownLetters {
			out.Letters = append(out.Letters, CorrespondentLetter{l.Conversation, l.Subject, l.Own, v.short(l.At)})
		}
		if l.Exchange != nil {
			exchanges = append(exchanges, *l.Exchange)
		}
		out.Files += l.Attachments
	}
	mine, theirs := review.Answers(exchanges)
	out.Mine, out.Theirs = medianOf(mine), medianOf(theirs)
	return err
}

// medianOf says a median with of how many it is; "" of none.
func medianOf(m review.Median) string {
	if m.N == 0 {
		return ""
	}
	return medianInWords(m) + ", of " + say.Count(m.N, "answer")
}

func (v Viewer) waits(tx *store.Tx, emails []string, out *CorrespondentView) error {
	ids, err := tx.ConversationsOfPeople(emails, lookedConversations)
	if err != nil {
		return err
	}
	rows, err := tx.Conversations(ids)
	if err != nil {
		return err
	}
	slices.SortFunc(rows, func(a, b store.Row) int { return cmp.Or(b.LastAt.Compare(a.LastAt), cmp.Compare(b.ID, a.ID)) })
	for _, r := range rows {
		switch {
		case r.Place.Undecided():
			out.Waits = append(out.Waits, CorrespondentWait{Kind: "undecided", Conversation: r.ID, Title: r.Title(), Says: v.short(r.LastAt)})
		case r.Place == decide.Later && r.Return != nil:
			out.Waits = append(out.Waits, CorrespondentWait{Kind: "later", Conversation: r.ID, Title: r.Title(), Says: v.returns(*r.Return)})
		}
		for _, f := range r.FollowUps {
			m := v.mark(f)
			out.Waits = append(out.Waits, CorrespondentWait{Kind: "follow-up", FollowUp: f.ID, Title: f.Title, Says: m.Due, Late: m.Late})
		}
	}
	awaited, err := tx.Waiting()
	if err != nil {
		return err
	}
	theirs := slices.DeleteFunc(awaited, func(e store.Expectation) bool {
		return !slices.ContainsFunc(e.Persons, func(p string) bool { return slices.Contains(emails, p) && !slices.Contains(e.Answered, p) })
	})
	owed, err := v.waitings(tx, theirs)
	if err != nil {
		return err
	}
	for _, w := range owed {
		out.Waits = append(out.Waits, CorrespondentWait{Kind: "answer", Conversation: w.Conversation, Title: w.Title, Says: w.Until, Late: w.Late})
	}
	meetings, err := tx.AppointmentsFrom(v.Now, v.Now.AddDate(0, 0, meetingDays), mostBeside*10)
	for _, m := range meetings {
		if slices.ContainsFunc(m.Attendees, func(a meeting.Attendee) bool { return slices.Contains(emails, a.Key()) }) || slices.Contains(emails, m.Organizer.Key()) {
			out.Waits = append(out.Waits, CorrespondentWait{Kind: "meeting", Conversation: m.Conversation, Title: m.Title, Says: v.speak(m.Start)})
		}
	}
	return err
}

func (v Viewer) settledOf(tx *store.Tx, emails []string, out *CorrespondentView) error {
	through, err := tx.Throughs(v.Now)
	if err != nil {
		return err
	}
	for _, t := range through {
		if slices.ContainsFunc(emails, t.OfSender) {
			out.Through = append(out.Through, v.through(t))
		}
	}
	corrections, err := tx.Corrections()
	if err != nil {
		return err
	}
	for _, c := range corrections {
		if slices.ContainsFunc(emails, func(e string) bool { return c.Correction().Covers(e, "", false) }) {
			out.Settled = append(out.Settled, CorrectionView{ID: c.ID, Of: c.Correction().String(), Kind: c.Kind, Made: c.MadeAt.Time, Took: c.Took})
		}
	}
	groups, err := tx.ReceiverGroups()
	for _, g := range groups {
		if slices.ContainsFunc(g.Members, func(m string) bool {
			at, err := letter.CheckAddress(m)
			return err == nil && slices.Contains(emails, at.Key())
		}) {
			out.Groups = append(out.Groups, g.Name)
		}
	}
	return err
}

func (a *Show) learnedOf(tx *store.Tx, emails []string, out *CorrespondentView) error {
	m, err := a.Learned.Of(tx)
	if err != nil {
		return err
	}
	for _, e := range emails {
		if s := m.Sender(e); s.Letters > 0 {
			out.Learned = &LearnedView{Sender: e, Letters: s.Letters, Acted: s.Acted, Facts: OrEmpty(s.Facts)}
			return nil
		}
	}
	return nil
}

// ContactsFile writes who is written down as vCards (RFC 6350), or one of them.
func (a *Show) ContactsFile(ctx context.Context, who store.Who, id int64) (string, error) {
	return read(ctx, a, who, func(tx *store.Tx) (string, error) {
		list, err := tx.Contacts()
		if err != nil {
			return "", err
		}
		var out []contact.Contact
		for _, c := range list {
			if id == 0 || c.ID == id {
				out = append(out, c.Contact)
			}
		}
		if len(out) == 0 && id != 0 {
			return "", work.Gone("Nobody is written down there.")
		}
		return contact.Write(out)
	})
}
