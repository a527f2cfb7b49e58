package show

import (
	"context"
	"errors"
	"slices"
	"strings"
	"time"

	"ebbe.example/ebbe/internal/core/findings"
	"ebbe.example/ebbe/internal/core/letter"
	"ebbe.example/ebbe/internal/core/load"
	"ebbe.example/ebbe/internal/core/when"
	"ebbe.example/ebbe/internal/core/writing"
	"ebbe.example/ebbe/internal/store"
)

// Prepared is what a person writes with: templates, and groups of receivers.
type Prepared struct {
	Templates []TemplateView  `json:"templates"`
	Groups    []ReceiverGroup `json:"groups"`
}

// TemplateView is a template with its fields and files.
type TemplateView struct {
	store.Template
	Fields []string   `json:"fields" doc:"What is filled in when it is used"`
	Files  []KeptFile `json:"files"`
}

// KeptFile is a file that was added to a conversation, or goes along with a template.
type KeptFile struct {
	ID          int64     `json:"id"`
	Name        string    `json:"name"`
	Size        int64     `json:"size" doc:"In bytes"`
	ContentType string    `json:"contentType"`
	AddedAt     time.Time `json:"addedAt"`
	File        string    `json:"file" doc:"Under which its bytes are had"`
}

// ReceiverGroup are people who are written to together.
type ReceiverGroup struct {
	ID      int64    `json:"id"`
	Name    string   `json:"name"`
	Members []string `json:"members"`
}

// Prepared lists the templates and the groups of receivers.
func (a *Show) Prepared(ctx context.Context, who store.Who) (Prepared, error) {
	return read(ctx, a, who, func(tx *store.Tx) (Prepared, error) {
		out := Prepared{Templates: []TemplateView{}, Groups: []ReceiverGroup{}}
		templates, err := tx.Templates()
		if err != nil {
			return out, err
		}
		files, err := tx.FilesOfTemplates()
		if err != nil {
			return out, err
		}
		for _, t := range templates {
			out.Templates = append(out.Templates, TemplateView{t, OrEmpty(writing.Fields(t.Subject + "\n" + t.Text)), keptFiles(files[t.ID])})
		}
		groups, err := tx.ReceiverGroups()
		for _, g := range groups {
			out.Groups = append(out.Groups, ReceiverGroup{g.ID, g.Name, OrEmpty(g.Members)})
		}
		return out, err
	})
}

func keptFiles(list []store.KeptFile) []KeptFile {
	out := make([]KeptFile, len(list))
	for i, f := range list {
		out[i] = KeptFile{f.ID, f.Name, f.Size, f.ContentType, f.AddedAt, f.Attachment.ID}
	}
	return out
}

// ValuesFor are what the fields of a text have for a letter that is being written.
func ValuesFor(tx *store.Tx, w Writing, now time.Time) (writing.Values, error) {
	p, err := tx.Person()
	if err != nil {
		return writing.Values{}, err
	}
	cal := p.Calendar()
	v := writing.Values{MyName: p.Name, Date: func(phrase string) (string, bool) {
		r, err := when.Read(phrase, now, cal)
		if err != nil || r.Precision == when.Open {
			return "", false
		}
		return when.InFull(r.Moment, now, cal), true
	}}
	answered, err := answeredBy(tx, w)
	if err != nil {
		return v, err
	}
	if asks := findings.Asks(letter.Unquoted(answered.Text)); len(asks) > 0 {
		v.Ask = asks[0]
	}
	v.Letter, v.Sender = letter.WithoutPrefixes(answered.Subject), answered.From.Display()
	if len(w.To) == 0 || w.Kind == "new" && len(w.To) > 1 { // several have no first name
		return v, nil
	}
	if to, err := letter.CheckAddress(w.To[0]); err == nil {
		if v.FirstName = to.FirstName(); v.FirstName == "" && answered.From.Key() == to.Key() {
			v.FirstName = answered.From.FirstName()
		}
		if v.FirstName == "" {
			known, err := tx.NamesOf([]string{to.Key()})
			if err != nil {
				return v, err
			}
			v.FirstName = letter.Address{Name: known[to.Key()]}.FirstName()
		}
	}
	return v, nil
}

// answeredBy is the letter that is answered; an empty one where none is, or it is gone.
func answeredBy(tx *store.Tx, w Writing) (letter.Letter, error) {
	if w.Letter == 0 {
		return letter.Letter{}, nil
	}
	l, err := dated(tx, w.Letter)
	if errors.Is(err, store.ErrNotFound) {
		return letter.Letter{}, nil
	}
	return l, err
}

const (
	// comparedAnswers is how many earlier answers are compared with a letter.
	comparedAnswers = 12
	// comparedWords is how many words of a letter others are looked for by.
	comparedWords = 8
)

// Suggestions proposes short answers to the letter that is answered.
func (a *Show) Suggestions(ctx context.Context, who store.Who, w Writing) ([]writing.Suggestion, error) {
	now := a.now()
	return read(ctx, a, who, func(tx *store.Tx) ([]writing.Suggestion, error) {
		none := []writing.Suggestion{}
		if w.Kind != "answer" || w.Letter == 0 {
			return none, nil
		}
		answered, err := answeredBy(tx, w)
		if err != nil {
			return none, err
		}
		p, err := tx.Person()
		if err != nil {
			return none, err
		}
		l := writing.Asking{Text: ownText(answered), From: answered.From, Mine: letter.Address{Name: p.Name}}
		l.Asks = findings.Asks(l.Text)
		if l.Dates, err = offered(tx, l, answered.Date, now, p.Calendar()); err != nil {
			return none, err
		}
		past, err := pastAnswers(tx, w.Letter, l)
		if err != nil {
			return none, err
		}
		return OrEmpty(writing.Suggest(l, past)), nil
	})
}

// ownText is what somebody wrote themselves, without what they quote and their signature.
func ownText(l letter.Letter) string {
	text, _ := letter.CutSignature(letter.Unquoted(l.Text))
	return text
}

// offered are the dates that a letter asks about, against the calendar.
func offered(tx *store.Tx, l writing.Asking, written, now time.Time, cal when.Calendar) (out []writing.Offered, err error) {
	for _, d := range findings.Dates(l.Text, written, now, cal) {
		if !slices.Contains(l.Asks, d.Quote) || !writing.Offers(d.Quote) {
			continue
		}
		o := writing.Offered{Words: when.InFull(d.Moment, now, cal)}
		from, to := d.UTC, d.UTC.Add(time.Hour)
		if d.Precision == when.ToDay {
			day := d.Day(cal)
			from, to = cal.Begins(day), cal.Begins(day.Add(1))
		}
		list, err := tx.AppointmentsBetween(from, to, maxListed)
		if err != nil {
			return nil, err
		}
		var busy []load.Busy
		for _, a := range list {
			if a.TakesTime(a.Reply) {
				busy = append(busy, load.Busy{From: a.Start.UTC, To: a.End})
			}
		}
		o.Busy = len(busy) > 0 && (d.Precision == when.ToMinute || load.Free(d.Day(cal), now, cal, busy) == 0)
		out = append(out, o)
	}
	return out, nil
}

// pastAnswers are one's own answers to letters that share rare words with one, and the
// templates.
func pastAnswers(tx *store.Tx, id int64, l writing.Asking) ([]writing.Past, error) {
	pairs, err := tx.AnswersLike(writing.Telling(l.Text, comparedWords), id, comparedAnswers)
	if err != nil {
		return nil, err
	}
	var ids []int64
	for _, p := range pairs {
		ids = append(ids, p.Asked, p.Answer)
	}
	raw, err := tx.OriginalsOf(ids)
	if err != nil {
		return nil, err
	}
	var out []writing.Past
	for _, p := range pairs {
		asked, answer := letter.Parse(raw[p.Asked]), letter.Parse(raw[p.Answer])
		if !slices.Contains(answer.InReplyTo, asked.MessageID) { // it answers another
			continue
		}
		out = append(out, writing.Past{Asked: ownText(asked), Text: answer.Text, To: asked.From, At: answer.Date, Letter: p.Answer, Name: answer.Subject})
	}
	templates, err := tx.Templates()
	for _, t := range templates {
		out = append(out, writing.Past{Asked: t.Name + "\n" + t.Subject + "\n" + t.Text, Text: t.Text, Template: t.ID, Name: t.Name})
	}
	return out, err
}

// TemplateOf is what a letter is as a template: without its quotation and signature, its
// reader's first name a field.
func (a *Show) TemplateOf(ctx context.Context, who store.Who, id int64) (store.Template, error) {
	return read(ctx, a, who, func(tx *store.Tx) (store.Template, error) {
		raw, err := tx.Original(id)
		if err != nil {
			return store.Template{}, err
		}
		l := letter.Parse(raw)
		var to letter.Address
		if len(l.To) > 0 {
			to = l.To[0]
		}
		subject := strings.TrimPrefix(letter.WithPrefix("Re: ", l.Subject), "Re: ")
		return store.Template{Name: subject, Subject: subject, Text: writing.Greeted(l.Text, to)}, nil
	})
}
