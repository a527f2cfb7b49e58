package app_test

import (
	"crypto/rand"
	"fmt"
	mrand "math/rand/v2"
	"slices"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"ebbe.example/ebbe/internal/app"
	"ebbe.example/ebbe/internal/core/decide"
	"ebbe.example/ebbe/internal/core/find"
	"ebbe.example/ebbe/internal/core/letter"
	"ebbe.example/ebbe/internal/core/routine"
	"ebbe.example/ebbe/internal/core/rule"
	"ebbe.example/ebbe/internal/core/when"
	"ebbe.example/ebbe/internal/show"
	"ebbe.example/ebbe/internal/store"
)

// What random letters are made of: beginnings of each other, accents, letters that no table takes apart,
// signs without blanks between them, and what looks like the index's own language.
var (
	someWords = []string{"crate", "Crates", "crème", "Creme", "ÅRSMØTE", "arsmote", "straße", "strasse", "東京都", "京都", "東", "שָׁלוֹם", "naïve", "AND", "NEAR", "x*", "l'été", "ete", "a-b", "b", "14:30", "ﬁne", "fine"}
	someNames = []string{"Bram Oosting", "Øystein Å", "Tove", "J. O'Neil", "京子"}
)

// corpus is a world with random letters, and what a slow search sees of each.
func corpus(t *testing.T, r *mrand.Rand) (*world, map[int64][]find.Doc) {
	w := newWorld(t)
	pick := func(list []string, n int) string {
		var out []string
		for range n {
			out = append(out, list[r.IntN(len(list))])
		}
		return strings.Join(out, " ")
	}
	type sent struct {
		doc find.Doc
		id  string
	}
	var all []sent
	for i := range 40 {
		at := start.AddDate(0, 0, -r.IntN(40)).Add(-time.Duration(r.IntN(9000)) * time.Second)
		m := mail{id: fmt.Sprintf("c%d@x.example", i), from: fmt.Sprintf("%q <p%d@x.example>", pick(someNames, 1), r.IntN(3)), subject: pick(someWords, 2), text: pick(someWords, 1+r.IntN(6))}
		if r.IntN(3) == 0 {
			m.extra = "Cc: " + fmt.Sprintf("%q <c@y.example>", pick(someNames, 1)) + "\r\n"
		}
		if r.IntN(4) == 0 && i > 4 {
			m.answers = all[r.IntN(len(all))].id
		}
		if r.IntN(3) == 0 {
			m.extra += "MIME-Version: 1.0\r\nContent-Type: multipart/mixed; boundary=q\r\n"
			m.text = fmt.Sprintf("--q\r\nContent-Type: text/plain; charset=utf-8\r\n\r\n%s\r\n--q\r\nContent-Type: %s\r\nContent-Disposition: attachment; filename=%q\r\n\r\nabc\r\n--q--\r\n", m.text, []string{"image/png", "text/csv"}[r.IntN(2)], pick(someWords[:6], 1)+".dat")
		}
		raw := m.bytes(at)
		l := letter.Parse(raw)
		text, files := l.Searched()
		d := find.Doc{Subject: l.Subject, From: l.From.Name + " " + l.From.Email, Body: text, Files: files, At: at, Size: int64(len(raw)), Has: map[string]bool{}}
		for _, a := range l.To {
			d.To += a.Name + " " + a.Email + " "
		}
		for _, a := range l.Cc {
			d.Cc += a.Name + " " + a.Email + " "
		}
		for _, p := range l.Parts {
			d.Has["file"] = d.Has["file"] || !p.Inline
			d.Has["picture"] = d.Has["picture"] || strings.HasPrefix(p.ContentType, "image/")
		}
		require.NoError(t, w.app.Receive(w.ctx, app.Incoming{Inbox: w.who.Inbox, To: "ines@norrholm.example", Source: "smtp", Raw: raw, At: at}))
		all = append(all, sent{d, m.id})
	}
	for i, row := range w.rows(decide.Inbox) {
		switch i % 5 {
		case 0:
			w.mark("star", false, row.ID)
		case 1:
			w.decide(decide.File, row, func(d *app.Deciding) { d.Labels = []string{"Kept/Straße"} })
		case 2:
			w.decide(decide.ToBin, row)
		case 3:
			_, err := w.app.Flag(w.ctx, w.who, rand.Text(), []store.Seen{seen(row)}, "")
			require.NoError(t, err)
		}
	}
	docs := map[int64][]find.Doc{}
	for _, place := range []decide.Place{decide.Inbox, decide.Archive, decide.Bin} {
		for _, row := range w.rows(place) {
			require.NoError(t, w.app.Store.Read(w.ctx, w.who, func(tx *store.Tx) error {
				letters, err := tx.LettersIn(row.ID)
				for _, l := range letters {
					at := slices.IndexFunc(all, func(s sent) bool { return s.id == l.MessageID })
					d := all[at].doc
					d.Place, d.Kind, d.Labels, d.Own = string(row.Place), string(l.Sort.Kind), row.Labels, l.Own
					d.Has = mapWith(d.Has, map[string]bool{"starred": row.Star, "unread": row.Unread, "flagged": len(row.FollowUps) > 0 && row.FollowUps[0].Flag, "asks": l.Asks, "tracked": len(row.FollowUps) > 0})
					docs[row.ID] = append(docs[row.ID], d)
				}
				return err
			}))
		}
	}
	return w, docs
}

func mapWith(a, b map[string]bool) map[string]bool {
	out := map[string]bool{}
	for _, m := range []map[string]bool{a, b} {
		for k, v := range m {
			out[k] = v
		}
	}
	return out
}

// anySearch draws what is typed.
func anySearch(t *rapid.T) string {
	word := rapid.SampledFrom(someWords)
	term := rapid.Custom(func(t *rapid.T) string {
		w := word.Draw(t, "word")
		if n := rapid.IntRange(1, 9).Draw(t, "cut"); rapid.Bool().Draw(t, "begun") && n < len([]rune(w)) {
			w = string([]rune(w)[:n])
		}
		name := rapid.SampledFrom(someNames).Draw(t, "name")
		return rapid.SampledFrom([]string{
			w, w, w, `"` + w + `"`, `"` + w + " " + word.Draw(t, "second") + `"`, "-" + w, "subject:" + w, "from:" + strings.Fields(name)[0], `from:"` + name + `"`, "cc:" + strings.Fields(name)[0], "to:ines", "with:" + w, "with:file", "with:picture",
			"mark:starred", "-mark:starred", "mark:flagged", "mark:tracked", "mark:unread", "label:kept", `label:"kept"`, "label:strasse", "at:inbox", "-at:bin", "at:archive", "at:sent", "size:>400b", "size:<400b",
			"before:" + start.AddDate(0, 0, -20).Format(time.DateOnly), "after:" + start.AddDate(0, 0, -20).Format(time.DateOnly), "on:" + start.AddDate(0, 0, -3).Format("2006-01"), "kind:person",
		}).Draw(t, "term")
	})
	parts := rapid.SliceOfN(term, 1, 4).Draw(t, "parts")
	switch rapid.IntRange(0, 4).Draw(t, "shape") {
	case 0:
		return strings.Join(parts, " or ")
	case 1:
		return "-(" + strings.Join(parts, " ") + ") " + parts[0]
	case 2:
		return "(" + strings.Join(parts, " or ") + ") " + term.Draw(t, "more")
	}
	return strings.Join(parts, " ")
}

// A search finds what a slow reading of each letter finds, whatever the letters are and whatever is typed.
func TestASearchFindsWhatASlowOneDoes(t *testing.T) {
	for seed := range uint64(3) {
		w, docs := corpus(t, mrand.New(mrand.NewPCG(seed, 5)))
		found := 0
		rapid.Check(t, func(t *rapid.T) {
			typed := anySearch(t)
			q := find.Read(typed, w.clock.Now(), when.Standard(start.Location())).Query
			var want []int64
			for id, letters := range docs {
				if slices.ContainsFunc(letters, q.Takes) {
					want = append(want, id)
				}
			}
			for _, best := range []bool{false, true} {
				var got []int64
				page, err := w.app.Search(w.ctx, w.who, show.Asked{Q: typed, Best: best})
				require.NoError(t, err)
				for _, row := range page.Rows {
					got = append(got, row.ID)
				}
				if q.Empty() {
					want = nil
				}
				assert.ElementsMatch(t, want, got, "%q, the best first: %v", typed, best)
				found += len(got)
			}
			counts, err := w.app.SearchCounts(w.ctx, w.who, show.Asked{Q: typed})
			require.NoError(t, err)
			n := 0
			for _, letters := range docs {
				for _, l := range letters {
					if !q.Empty() && q.Takes(l) {
						n++
					}
				}
			}
			assert.Equal(t, n, counts.N, typed)
		})
		assert.Greater(t, found, 500, "the searches find something")
	}
}

// No letter is left out in which a text stands, when a rule asks where it may: whatever part of whatever
// text it is.
func TestWhereATextMayStand(t *testing.T) {
	w, docs := corpus(t, mrand.New(mrand.NewPCG(9, 9)))
	var texts []string
	for _, letters := range docs {
		for _, d := range letters {
			texts = append(texts, d.Body)
		}
	}
	slices.Sort(texts)
	narrowed := 0
	require.NoError(t, w.app.Store.Read(w.ctx, w.who, func(tx *store.Tx) error {
		all, err := tx.RuledSince(start.AddDate(-1, 0, 0), 1000, func(rule.Field) bool { return false })
		require.NoError(t, err)
		rapid.Check(t, func(t *rapid.T) {
			text := []rune(rapid.SampledFrom(texts).Draw(t, "text"))
			from := rapid.IntRange(0, len(text)-1).Draw(t, "from")
			part := strings.TrimSpace(string(text[from:min(len(text), from+rapid.IntRange(1, 8).Draw(t, "long"))]))
			set := rule.Of([]rule.Rule{{ID: 1, Conditions: rule.Conditions{All: []rule.Condition{{Of: rule.Text, Is: part}}}, Steps: []routine.Step{{Do: routine.Star}}}})
			may, err := tx.MaySay([]string{part})
			require.NoError(t, err)
			if may == nil {
				return
			}
			narrowed++
			for _, l := range all {
				l.Text = func() string { return tx.ReadText(l.Letter) }
				if len(set.Judge(l.Facts, start)) > 0 {
					assert.True(t, may[l.Letter], "%q stands in a letter that is left out", part)
				}
			}
		})
		return nil
	}))
	assert.Greater(t, narrowed, 20)
}
