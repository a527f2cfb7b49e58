package show

import (
	"context"
	"strings"

	"ebbe.example/ebbe/internal/core/attached"
	"ebbe.example/ebbe/internal/core/contact"
	"ebbe.example/ebbe/internal/core/letter"
	"ebbe.example/ebbe/internal/core/meeting"
	"ebbe.example/ebbe/internal/say"
	"ebbe.example/ebbe/internal/store"
)

// How many bytes a file has at most that is read here, and how many appointments or cards of it are said.
const (
	mostWorded = 1 << 20
	mostSaid   = 60
)

// FileWords says what a file of appointments, of cards, or a letter holds, in words; "" of any other, and of one that
// can't be read. More tells that there is more of it than is said.
func (a *Show) FileWords(ctx context.Context, who store.Who, p letter.Part) (words string, more bool, err error) {
	if len(p.Content) > mostWorded {
		return "", false, nil
	}
	var reads func(Viewer, letter.Part) []string
	switch sort := attached.SortOf(p.Name, p.ContentType); {
	case sort == attached.Calendar:
		reads = Viewer.datesIn
	case sort == attached.Letter && !strings.HasPrefix(string(p.Content), "From "): // no mbox
		reads = Viewer.letterIn
	default:
		return "", false, nil
	}
	said, err := read(ctx, a, who, func(tx *store.Tx) ([]string, error) {
		v, err := a.Viewer(tx)
		if err != nil {
			return nil, err
		}
		return reads(v, p), nil
	})
	return strings.Join(said[:min(len(said), mostSaid)], "\n\n"), len(said) > mostSaid, err
}

// datesIn are the appointments of a file; of one that has none, its cards.
func (v Viewer) datesIn(p letter.Part) (said []string) {
	_, events, _, err := meeting.Parse(letter.DecodeText(p.Content, p.Charset), v.Cal)
	if err != nil {
		return cardsIn(p)
	}
	for _, e := range events[:min(len(events), mostSaid+1)] {
		lines := []string{e.Title}
		if !e.Start.UTC.IsZero() {
			lines = append(lines, v.SpanWords(e.Start, e.End))
		}
		lines = append(lines, say.RecursInWords(e.Series), e.Place)
		if e.Organizer.Email != "" {
			lines = append(lines, "Called by "+e.Organizer.Display())
		}
		for _, who := range e.Attendees {
			line := who.Display()
			if who.Reply != meeting.NoReply {
				line += ": " + string(who.Reply)
			}
			lines = append(lines, line)
		}
		said = append(said, paragraph(append(lines, e.Comment, e.Notes)...))
	}
	return said
}

func cardsIn(p letter.Part) (said []string) {
	list, _ := contact.Read(p.Content)
	for _, c := range list {
		lines := append([]string{c.Name, c.Org}, c.Emails...)
		said = append(said, paragraph(append(append(lines, c.Phones...), c.Note)...))
	}
	return said
}

func (v Viewer) letterIn(p letter.Part) []string {
	l := letter.Parse(p.Content)
	if l.From.Email == "" && l.Subject == "" {
		return nil
	}
	head := []string{l.Subject, "from " + l.From.Display()}
	if !l.Date.IsZero() {
		head = append(head, v.short(l.Date))
	}
	return []string{paragraph(head...), l.Text}
}

// paragraph are lines without those that are empty.
func paragraph(lines ...string) string {
	var out []string
	for _, l := range lines {
		if l = strings.TrimSpace(l); l != "" {
			out = append(out, l)
		}
	}
	return strings.Join(out, "\n")
}
