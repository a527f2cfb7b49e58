package show

import (
	"cmp"
	"context"
	"fmt"
	"slices"
	"strconv"
	"strings"

	"ebbe.example/ebbe/internal/core/decide"
	"ebbe.example/ebbe/internal/core/find"
	"ebbe.example/ebbe/internal/core/letter"
	"ebbe.example/ebbe/internal/core/sorting"
	"ebbe.example/ebbe/internal/store"
)

// FoundCount is how many letters of those that were found have something, and what finds only those.
type FoundCount struct {
	Name string `json:"name"`
	N    int    `json:"n"`
	Add  string `json:"add" doc:"What is added to the search to find only these"`
}

// FoundInstead is a search that finds something where another one doesn't.
type FoundInstead struct {
	Says   string `json:"says"`
	Q      string `json:"q"`
	Within string `json:"within"`
	N      int    `json:"n"`
	More   bool   `json:"more,omitempty" doc:"There are more than that"`
}

// SearchCounts are what a search finds, counted.
type SearchCounts struct {
	N       int          `json:"n" doc:"How many letters"`
	Places  []FoundCount `json:"places"`
	Years   []FoundCount `json:"years"`
	Senders []FoundCount `json:"senders" doc:"Those with the most"`
	Kinds   []FoundCount `json:"kinds"`
	// Instead are searches that find something, where this one does not.
	Instead []FoundInstead `json:"instead"`
}

const (
	// mostCounted bounds how many finds are counted.
	mostCounted = 1_000_000
	// mostSenders bounds how many senders are named; enough is how many finds of a proposal are counted.
	mostSenders, enough = 8, 100
)

// SearchCounts counts what a search finds, and proposes others where it finds nothing.
func (a *Show) SearchCounts(ctx context.Context, who store.Who, ask Asked) (SearchCounts, error) {
	return read(ctx, a, who, func(tx *store.Tx) (SearchCounts, error) {
		out := SearchCounts{Places: []FoundCount{}, Years: []FoundCount{}, Senders: []FoundCount{}, Kinds: []FoundCount{}, Instead: []FoundInstead{}}
		v, err := a.Viewer(tx)
		if err != nil {
			return out, err
		}
		q, r := v.reads(ask)
		if q.Empty() {
			return out, nil
		}
		list, err := tx.FoundAbout(q, mostCounted)
		if err != nil {
			return out, err
		}
		if out.N = len(list); out.N == 0 {
			out.Instead, err = v.instead(tx, ask, r.Query)
			return out, err
		}
		var places, years, senders, kinds tally
		for _, l := range list {
			places.add(l.Place)
			years.add(strconv.Itoa(l.At().In(v.Cal.Zone).Year()))
			senders.add(strings.ToLower(l.FromEmail))
			kinds.add(l.Kind)
		}
		out.Places = places.counts(func(p string) (string, string) { return decide.Place(p).About().Name, term(find.At, p) })
		out.Years = years.counts(func(y string) (string, string) { return y, term(find.On, y) })
		slices.SortFunc(out.Years, func(a, b FoundCount) int { return cmp.Compare(b.Name, a.Name) })
		name := map[string]string{}
		for _, l := range list {
			if email := strings.ToLower(l.FromEmail); name[email] == "" {
				name[email] = letter.Address{Name: l.FromName, Email: l.FromEmail}.Display()
			}
		}
		out.Senders = senders.counts(func(s string) (string, string) { return name[s], term(find.From, s) })
		out.Senders = out.Senders[:min(len(out.Senders), mostSenders)]
		out.Kinds = kinds.counts(func(k string) (string, string) {
			if about, ok := sorting.Kind(k).About(); ok {
				return about.Name, term(find.Kind, k)
			}
			return "People", term(find.Kind, string(sorting.Person))
		})
		return out, nil
	})
}

// term is a term as it is typed.
func term(f find.Field, value string) string { return find.Term{Field: f, Value: value}.String() }

// tally counts values, and keeps the order in which they came first.
type tally struct {
	n     map[string]int
	order []string
}

func (t *tally) add(value string) {
	if value == "" {
		return
	}
	if t.n == nil {
		t.n = map[string]int{}
	}
	if t.n[value]++; t.n[value] == 1 {
		t.order = append(t.order, value)
	}
}

// counts are the values with their numbers, the most first.
func (t *tally) counts(name func(string) (name, add string)) []FoundCount {
	out := make([]FoundCount, len(t.order))
	for i, value := range t.order {
		out[i].N = t.n[value]
		out[i].Name, out[i].Add = name(value)
	}
	slices.SortStableFunc(out, func(a, b FoundCount) int { return b.N - a.N })
	return out
}

// mostInstead bounds how many other searches are proposed.
const mostInstead = 4

// instead are searches that find something where one does not: elsewhere, with words spelt as letters have
// them, or without one of its parts.
func (v Viewer) instead(tx *store.Tx, ask Asked, q find.Query) ([]FoundInstead, error) {
	out := []FoundInstead{}
	try := func(says string, other find.Query, within string) error {
		if len(out) == mostInstead || other.Empty() || slices.ContainsFunc(out, func(o FoundInstead) bool { return o.Q == other.String() && o.Within == within }) {
			return nil
		}
		list, err := tx.FoundAbout(find.Both(find.Read(within, v.Now, v.Cal).Query, other), enough+1)
		if err == nil && len(list) > 0 {
			out = append(out, FoundInstead{Says: says, Q: other.String(), Within: within, N: min(len(list), enough), More: len(list) > enough})
		}
		return err
	}
	if ask.Within != "" {
		if err := try("Everywhere", q, ""); err != nil {
			return out, err
		}
	}
	var failed error
	spelt := q.Replaced(func(word string) string {
		near, err := tx.SpeltNear(word)
		if err != nil {
			failed = err
		}
		return near
	})
	if failed != nil {
		return out, failed
	}
	if !spelt.Same(q) {
		for _, within := range slices.Compact([]string{ask.Within, ""}) {
			if err := try("Spelt otherwise", spelt, within); err != nil {
				return out, err
			}
		}
	}
	for _, other := range q.Instead() {
		if err := try("With less", other, ask.Within); err != nil {
			return out, err
		}
	}
	return out, nil
}

// FoundLine is the line of a letter in which something was found.
type FoundLine struct {
	Letter int64      `json:"letter"`
	Line   string     `json:"line"`
	Marked []find.Hit `json:"marked"`
	// Quotes are what was found in its text, as it stands there, each once.
	Quotes []string `json:"quotes"`
}

// SearchLines gives of some letters the lines in which a search finds something, "" where it finds it in the
// subject, and what to mark in them; none of those in which it finds it elsewhere.
func (a *Show) SearchLines(ctx context.Context, who store.Who, ask Asked, letters []int64) ([]FoundLine, error) {
	return read(ctx, a, who, func(tx *store.Tx) ([]FoundLine, error) {
		out := []FoundLine{}
		v, err := a.Viewer(tx)
		if err != nil {
			return out, err
		}
		q, _ := v.reads(ask)
		let, err := tx.SeenLetters(letters)
		if err != nil {
			return out, err
		}
		subjects, err := tx.Subjects(let)
		if err != nil {
			return out, err
		}
		for i, id := range let {
			text := tx.ReadText(id)
			line, marked := q.Line(text)
			// Its HTML may say in its head what its text leaves to the subject.
			if quotes := q.Quotes(text+"\n"+subjects[i], mostQuotes); len(quotes) > 0 {
				out = append(out, FoundLine{id, line, OrEmpty(marked), quotes})
				continue
			}
			l, err := tx.Letter(id)
			if err != nil {
				return out, err
			}
			if q.Says() && l.Files() && len(q.Hits(besideText(l), "")) == 0 {
				out = append(out, FoundLine{id, "In what is attached.", []find.Hit{}, []string{}})
			}
		}
		return out, nil
	})
}

// mostQuotes bounds how many different words of a letter are marked.
const mostQuotes = 40

// Completion is a value for a field, or a field.
type Completion struct {
	// Put is what takes the place of what is typed of it.
	Put  string `json:"put"`
	Says string `json:"says"`
}

// Completions are what may be typed on where the caret stands.
type Completions struct {
	// From is where what they replace begins, in characters.
	From int          `json:"from"`
	List []Completion `json:"list"`
}

// mostProposed bounds how many are shown.
const mostProposed = 8

// Completions proposes how what is typed may go on: fields, and values of the field that is typed.
func (a *Show) Completions(ctx context.Context, who store.Who, typed string) (Completions, error) {
	return read(ctx, a, who, func(tx *store.Tx) (Completions, error) {
		from, field, value := find.Typing(typed)
		out := Completions{From: from, List: []Completion{}}
		add := func(value, says string) {
			if len(out.List) < mostProposed {
				out.List = append(out.List, Completion{term(field, value), says})
			}
		}
		if field == find.Words {
			for _, f := range find.Fields {
				if value != "" && strings.HasPrefix(string(f.Field), strings.ToLower(value)) {
					out.List = append(out.List, Completion{string(f.Field) + ":", f.Says})
				}
			}
			return out, nil
		}
		for _, c := range find.ChoicesOf(field) {
			if strings.HasPrefix(c.Value, strings.ToLower(value)) {
				add(c.Value, c.Says)
			}
		}
		typedTerm := find.Term{Value: value}
		switch field {
		case find.From, find.To, find.Cc:
			people, err := tx.Knows(value, mostProposed)
			for _, p := range people {
				add(p.Email, p.Name)
			}
			return out, err
		case find.Label:
			labels, err := tx.Labels()
			for _, l := range labels {
				if value == "" || typedTerm.In(l) {
					add(l, "")
				}
			}
			return out, err
		case find.Account:
			accounts, err := tx.Accounts()
			for _, acc := range accounts {
				if value == "" || typedTerm.Names(acc.Label) || typedTerm.Names(acc.Address) {
					add(cmp.Or(acc.Label, acc.Address), acc.Address)
				}
			}
			return out, err
		case find.Before, find.After, find.On:
			v, err := a.Viewer(tx)
			for _, phrase := range find.DaysLike(value) {
				if since, _, ok := find.Days(phrase, v.Now, v.Cal); ok {
					add(phrase, since.In(v.Cal.Zone).Format("Mon 2 Jan 2006"))
				}
			}
			return out, err
		case find.With:
			if value != "" {
				names, err := tx.FileNames(value, mostProposed)
				for _, n := range names {
					add(n, "a file’s name")
				}
				return out, err
			}
		case find.Size:
			for _, s := range []string{">100kb", ">1mb", ">5mb"} {
				add(s, fmt.Sprintf("larger than %s", strings.TrimPrefix(s, ">")))
			}
		}
		return out, nil
	})
}

// besideText is what of a letter is searched beside its text, subject and files.
func besideText(l store.Letter) string {
	var out []string
	for _, list := range [][]letter.Address{{l.From}, l.Recipients.To, l.Recipients.Cc} {
		for _, a := range list {
			out = append(out, a.Name, a.Email)
		}
	}
	for _, p := range l.Parts {
		out = append(out, p.Name)
	}
	return strings.Join(out, "\n")
}
