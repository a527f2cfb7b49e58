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
	"ebbe.example/ebbe/internal/show"
)

// Words of which none is the beginning of another, so that an unfinished one means
// what the whole one does.
var matters = []string{"crate", "orchid", "rope", "vent", "glass", "ferry", "pump", "quilt"}

// shelved is a letter as somebody would remember it.
type shelved struct {
	subject, from, to string
	text              []string
	day               time.Time
	title             string // of its row; each letter has a conversation of its own
	starred, labelled bool
}

// shelf is a world with letters of its own kind, some starred, some labelled and filed.
func shelf(t *testing.T, n int) (*world, []shelved) {
	w := newWorld(t)
	r := mrand.New(mrand.NewPCG(7, 21))
	var letters []shelved
	for i := range n {
		l := shelved{subject: matters[r.IntN(len(matters))], from: fmt.Sprintf("p%d@x.example", r.IntN(4)), to: []string{"ines@norrholm.example", "walks@norrholm.example"}[r.IntN(2)],
			day: start.AddDate(0, 0, -r.IntN(80))}
		for range 2 + r.IntN(3) {
			l.text = append(l.text, matters[r.IntN(len(matters))])
		}
		l.title = fmt.Sprintf("%s number%d", l.subject, i)
		m := mail{id: fmt.Sprintf("f%d@x.example", i), from: l.from, subject: l.title, text: strings.Join(l.text, " "), to: l.to}
		require.NoError(t, w.app.Receive(w.ctx, app.Incoming{Inbox: w.who.Inbox, To: l.to, Source: "smtp", Raw: m.bytes(l.day), At: l.day}))
		letters = append(letters, l)
	}
	for i, row := range w.rows(decide.Inbox) {
		at := slices.IndexFunc(letters, func(l shelved) bool { return l.title == row.Title })
		require.GreaterOrEqual(t, at, 0)
		if i%5 == 0 {
			letters[at].starred = true
			w.mark("star", false, row.ID)
		}
		if i%3 == 0 {
			letters[at].labelled = true
			w.decide(decide.File, row, func(d *app.Deciding) { d.Labels = []string{"Kept"} })
		}
	}
	return w, letters
}

// asked is one part of a search, and what it means of a letter.
type asked struct {
	typed string
	means func(shelved) bool
}

func has(l shelved, word string) bool {
	return strings.HasPrefix(l.subject, word) || slices.ContainsFunc(l.text, func(w string) bool { return strings.HasPrefix(w, word) })
}

// anyPart draws a part of a search.
func anyPart(t *rapid.T) asked {
	word := rapid.SampledFrom(matters).Draw(t, "word")
	person := fmt.Sprintf("p%d", rapid.IntRange(0, 4).Draw(t, "person"))
	day := start.AddDate(0, 0, -rapid.IntRange(0, 90).Draw(t, "days")).Format(time.DateOnly)
	zone := start.Location()
	written := func(l shelved) string { return l.day.In(zone).Format(time.DateOnly) }
	return rapid.SampledFrom([]asked{
		{word, func(l shelved) bool { return has(l, word) }},
		{"-" + word, func(l shelved) bool { return !has(l, word) }},
		{"subject:" + word, func(l shelved) bool { return l.subject == word }},
		{"from:" + person, func(l shelved) bool { return strings.HasPrefix(l.from, person) }},
		{"to:walks", func(l shelved) bool { return strings.HasPrefix(l.to, "walks") }},
		{"before:" + day, func(l shelved) bool { return written(l) < day }},
		{"after:" + day, func(l shelved) bool { return written(l) > day }},
		{"mark:starred", func(l shelved) bool { return l.starred }},
		{"label:kept", func(l shelved) bool { return l.labelled }},
	}).Draw(t, "part")
}

// A search finds exactly the letters that all of its parts are true of, whatever the
// parts and wherever the letters are.
func TestASearchFindsWhatItsPartsSay(t *testing.T) {
	w, letters := shelf(t, 60)
	rapid.Check(t, func(t *rapid.T) {
		parts := rapid.SliceOfN(rapid.Custom(anyPart), 1, 4).Draw(t, "parts")
		var typed, want, got []string
		for _, p := range parts {
			typed = append(typed, p.typed)
		}
		for _, l := range letters {
			if !slices.ContainsFunc(parts, func(p asked) bool { return !p.means(l) }) {
				want = append(want, l.title)
			}
		}
		page, err := w.app.Search(w.ctx, w.who, show.Asked{Q: strings.Join(typed, " ")})
		require.NoError(t, err)
		require.Empty(t, page.Next, "they are fewer than a page")
		for _, row := range page.Rows {
			got = append(got, row.Title)
		}
		assert.ElementsMatch(t, want, got, "%s", typed)
		assert.Empty(t, page.Problems)
	})
}

// Whoever goes through a list page by page meets every letter once, in the order of
// the list, also while others come and go.
func TestPagesMeetEveryLetterOnce(t *testing.T) {
	w := newWorld(t)
	const n = 230
	for i := range n {
		w.clock.Advance(time.Duration(i%3) * time.Second) // some at the same moment
		w.receive(mail{id: fmt.Sprintf("p%d@x.example", i), from: fmt.Sprintf("p%d@x.example", i), subject: fmt.Sprint("Page ", i), text: "All the same."})
	}
	through := func(oldest bool, meanwhile func(page int)) (titles []string) {
		for cursor, page := "", 1; ; page++ {
			got, err := w.app.List(w.ctx, w.who, decide.Inbox, oldest, 0, cursor)
			require.NoError(t, err)
			for _, r := range got.Rows {
				titles = append(titles, r.Title)
			}
			if cursor = got.Next; cursor == "" {
				return titles
			}
			meanwhile(page)
		}
	}
	none := func(int) {}
	newest := through(false, none)
	require.Len(t, newest, n)
	oldest := through(true, none)
	slices.Reverse(oldest)
	assert.Equal(t, newest, oldest, "the one order is the other backwards")

	came := through(false, func(page int) {
		w.clock.Advance(time.Minute)
		w.receive(mail{id: fmt.Sprintf("new%d@x.example", page), from: "new@x.example", subject: fmt.Sprint("Came ", page), text: "Later."})
	})
	assert.Equal(t, newest, came, "what comes at the top meanwhile doubles nothing")

	var gone []string
	left := through(false, func(page int) {
		for _, r := range w.rows(decide.Inbox)[:2] { // read already
			gone = append(gone, r.Title)
			w.decide(decide.Done, r)
		}
	})
	for _, title := range newest {
		if !slices.Contains(gone, title) {
			assert.Equal(t, 1, count(left, title), title)
		}
	}
}

func count(list []string, one string) (n int) {
	for _, l := range list {
		if l == one {
			n++
		}
	}
	return n
}

// Pages of a search, too, meet every letter once, and say nothing more at the end.
func TestPagesOfASearchMeetEveryLetterOnce(t *testing.T) {
	w := newWorld(t)
	const n = 130
	for i := range n {
		w.receive(mail{id: fmt.Sprintf("s%d@x.example", i), from: fmt.Sprintf("p%d@x.example", i%7), subject: fmt.Sprint("Slate ", i), text: "Slates for the roof."})
	}
	var titles []string
	for cursor := ""; ; {
		page, err := w.app.Search(w.ctx, w.who, show.Asked{Q: "slates", Cursor: cursor})
		require.NoError(t, err)
		for _, r := range page.Rows {
			titles = append(titles, r.Title)
		}
		if cursor = page.Next; cursor == "" {
			break
		}
	}
	slices.Sort(titles)
	assert.Len(t, titles, n)
	assert.Len(t, slices.Compact(titles), n)
	_, err := w.app.Search(w.ctx, w.who, show.Asked{Q: "slates", Cursor: "not a page"})
	assert.ErrorContains(t, err, "no longer there")
}

// Who is known is offered by what one has typed of their name or address, those whom
// one writes to before those who only write.
func TestPeopleAreOfferedByWhatIsTyped(t *testing.T) {
	w := newWorld(t)
	for i, from := range []string{"Bram Holt <bram@freight.example>", "Brita Lund <brita@x.example>", "Ada Brandt <ada@x.example>", "Zoe <zoe@b.example>"} {
		w.receive(mail{id: fmt.Sprintf("k%d@x.example", i), from: from, subject: fmt.Sprint("K ", i)})
	}
	w.send(nil, func(s *app.Sending) { s.Command, s.To = rand.Text(), []string{"brita@x.example"} })
	w.pass(time.Hour)
	offered := func(typed string) (out []string) {
		list, err := w.app.Knows(w.ctx, w.who, typed)
		require.NoError(t, err)
		for _, p := range list {
			out = append(out, p.Email)
		}
		return out
	}
	all := offered("br")
	require.NotEmpty(t, all)
	assert.Equal(t, "brita@x.example", all[0], "I write to her")
	assert.ElementsMatch(t, []string{"bram@freight.example", "brita@x.example", "ada@x.example"}, all)
	assert.Equal(t, []string{"zoe@b.example"}, offered("ZO"))
	assert.Empty(t, offered(`%_"'`))
}
