package show

import (
	"context"
	"strings"

	"ebbe.example/ebbe/internal/core/find"
	"ebbe.example/ebbe/internal/core/when"
	"ebbe.example/ebbe/internal/store"
)

// Beside is something beside letters in which a search finds its words.
type Beside struct {
	ID    int64  `json:"id"`
	Title string `json:"title"`
	Says  string `json:"says" doc:"When it is, or how it stands"`
	// Conversation is what a step of the Journal changed first; 0 for none.
	Conversation int64 `json:"conversation,omitempty"`
	// Address is a person's.
	Address string `json:"address,omitempty"`
}

// FoundBeside is what a search finds beside letters, by its kind.
type FoundBeside struct {
	FollowUps    []Beside `json:"followUps"`
	Appointments []Beside `json:"appointments"`
	People       []Beside `json:"people"`
	Journal      []Beside `json:"journal" doc:"The latest steps whose titles have the words"`
}

// mostBeside bounds how many of a kind are named.
const mostBeside = 30

// SearchBeside finds words in follow-ups, appointments, people and the Journal; nothing where it is looked
// for what only letters have.
func (a *Show) SearchBeside(ctx context.Context, who store.Who, typed string) (FoundBeside, error) {
	return read(ctx, a, who, func(tx *store.Tx) (FoundBeside, error) {
		out := FoundBeside{FollowUps: []Beside{}, Appointments: []Beside{}, People: []Beside{}, Journal: []Beside{}}
		v, err := a.Viewer(tx)
		if err != nil {
			return out, err
		}
		q := find.Read(typed, v.Now, v.Cal).Query
		if !q.InNotes() {
			return out, nil
		}
		tracked, err := tx.TitledFollowUps()
		if err != nil {
			return out, err
		}
		out.FollowUps = v.titled(q, tracked)
		planned, err := tx.TitledAppointments()
		if err != nil {
			return out, err
		}
		out.Appointments = v.titled(q, planned)
		people, err := v.everybody(tx)
		if err != nil {
			return out, err
		}
		for _, p := range people {
			if len(out.People) < mostBeside && p.Address != "" && q.Takes(find.Doc{From: strings.Join(p.texts, " ")}) {
				b := Beside{Title: p.Name, Address: p.Address}
				if p.Name != p.Address {
					b.Says = p.Address
				}
				out.People = append(out.People, b)
			}
		}
		out.Journal, err = v.inJournal(tx, q)
		return out, err
	})
}

// titled are those of a list in which a query is found.
func (v Viewer) titled(q find.Query, list []store.Titled) []Beside {
	out := []Beside{}
	for _, t := range list {
		if len(out) == mostBeside || !q.Takes(find.Doc{Subject: t.Title, Body: t.Notes}) {
			continue
		}
		b := Beside{ID: t.ID, Title: t.Title}
		switch {
		case t.Closed:
			b.Says = "done"
		case !t.At.IsZero():
			b.Says = v.speak(when.Moment{UTC: t.At, Precision: when.ToMinute})
		}
		out = append(out, b)
	}
	return out
}

// inJournal are the latest steps whose titles have the words. The Journal is looked through by what stands
// in it, and what is found there is compared as all else.
func (v Viewer) inJournal(tx *store.Tx, q find.Query) ([]Beside, error) {
	out := []Beside{}
	list, err := tx.Entries(0, v.Now.AddDate(1, 0, 0), nil, latestSteps)
	if err != nil {
		return out, err
	}
	steps := []JournalEntry{}
	for _, e := range list {
		if len(steps) < mostBeside && e.Kind != purgeKind && q.Takes(find.Doc{Subject: e.Title}) {
			steps = append(steps, journalEntry(e))
		}
	}
	if err := aboutLetters(tx, steps); err != nil {
		return out, err
	}
	for _, s := range steps {
		says := v.short(s.At)
		if s.Undone {
			says += ", undone"
		}
		out = append(out, Beside{ID: s.Entry, Title: s.Title, Says: says, Conversation: s.Conversation})
	}
	return out, nil
}

// latestSteps is how many of the latest steps of the Journal a search looks through.
const latestSteps = 5000
