package show_test

import (
	"fmt"
	"slices"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"ebbe.example/ebbe/internal/app"
	"ebbe.example/ebbe/internal/core/decide"
	"ebbe.example/ebbe/internal/core/group"
	"ebbe.example/ebbe/internal/show"
)

// However a list is grouped, each conversation is in one group, by head, members and rows alike;
// what is starred stands apart, and what came since is not covered.
func TestGroupsCoverAList(t *testing.T) {
	d := begin(t)
	for i := range 130 {
		d.brings(fmt.Sprintf("From: S%[1]d <s%[1]d@d%[2]d.example>\r\nTo: ines@norrholm.example\r\nMessage-ID: <%[3]d@x.example>\r\nSubject: About %[1]d\r\n\r\nHello %[3]d?\r\n", i%4, i%3, i))
	}
	page, err := d.List(d.Context(), d.who, decide.Inbox, false, 0, "")
	require.NoError(t, err)
	for _, r := range page.Rows[:2] {
		_, err := d.Mark(d.Context(), d.who, app.Marking{Command: crand(), On: []int64{r.ID}, Mark: "star"})
		require.NoError(t, err)
	}
	_, err = d.Mark(d.Context(), d.who, app.Marking{Command: crand(), On: []int64{page.Rows[3].ID}, Mark: "label", Value: "loan"})
	require.NoError(t, err)
	all, err := d.Everything(d.Context(), d.who, decide.Inbox, 0)
	require.NoError(t, err)
	for _, by := range group.Table {
		ask := show.GroupAsk{By: by.By, Place: decide.Inbox}
		groups, err := d.Groups(d.Context(), d.who, ask)
		require.NoError(t, err)
		members, rows, starred := 0, 0, 0
		for _, g := range groups.Groups {
			of, err := d.GroupMembers(d.Context(), d.who, ask, g.Key, groups.Until)
			require.NoError(t, err)
			assert.Equal(t, []int{g.N, g.Starred}, []int{len(of.Rest) + len(of.Starred), len(of.Starred)}, "%s %s", by.Name, g.Label)
			members, starred = members+g.N, starred+g.Starred
			for cursor := ""; ; {
				page, err := d.GroupRows(d.Context(), d.who, ask, g.Key, cursor)
				require.NoError(t, err)
				rows += len(page.Rows)
				if cursor = page.Next; cursor == "" {
					break
				}
			}
		}
		assert.Equal(t, []int{len(all), len(all), 2}, []int{members, rows, starred}, by.Name)
	}
	ask := show.GroupAsk{By: group.Sender, Place: decide.Inbox}
	groups, err := d.Groups(d.Context(), d.who, ask)
	require.NoError(t, err)
	first := groups.Groups[0]
	d.brings("From: S <" + first.Key + ">\r\nTo: ines@norrholm.example\r\nMessage-ID: <late@x.example>\r\nSubject: Later\r\n\r\nHello?\r\n")
	of, err := d.GroupMembers(d.Context(), d.who, ask, first.Key, groups.Until)
	require.NoError(t, err)
	assert.Equal(t, first.N, len(of.Rest)+len(of.Starred), "what came since is not covered")
	_, err = d.Groups(d.Context(), d.who, show.GroupAsk{By: "weather", Place: decide.Inbox})
	assert.ErrorContains(t, err, "not grouped by that")
	_, err = d.GroupRows(d.Context(), d.who, ask, first.Key, "soon")
	assert.ErrorContains(t, err, "no longer there")
}

// What is like a letter is of its list, its sender or its subject, whatever the number; one way in
// which nothing else is like it is none.
func TestWhatIsLikeALetter(t *testing.T) {
	d := begin(t)
	for i, head := range []string{
		"From: Vera <vera@alpine.example>\r\nList-Id: <circle.alpine.example>\r\nSubject: Tables",
		"From: Sten <sten@alpine.example>\r\nList-Id: <circle.alpine.example>\r\nSubject: Frost",
		"From: Vera <vera@alpine.example>\r\nSubject: Lunch",
		"From: Oda <oda@school.example>\r\nSubject: Re: Lunch",
		"From: Nobody else <alone@school.example>\r\nSubject: Once",
	} {
		d.brings(fmt.Sprintf("%s\r\nTo: ines@norrholm.example\r\nMessage-ID: <like-%d@x.example>\r\n\r\nHello?\r\n", head, i))
	}
	like := func(place decide.Place, title string) (words []string, n []int) {
		page, err := d.List(d.Context(), d.who, place, false, 0, "")
		require.NoError(t, err)
		i := slices.IndexFunc(page.Rows, func(r show.Row) bool { return r.Title == title })
		require.GreaterOrEqual(t, i, 0, title)
		got, err := d.LikeThis(d.Context(), d.who, show.GroupAsk{Place: place}, page.Rows[i].ID)
		require.NoError(t, err)
		for _, w := range got.Ways {
			words, n = append(words, w.Words), append(n, len(w.On))
		}
		return words, n
	}
	words, n := like(decide.Shallows, "Tables")
	assert.Equal(t, []string{"of the list circle.alpine.example"}, words)
	assert.Equal(t, []int{2}, n)
	words, n = like(decide.Inbox, "Lunch")
	assert.Equal(t, []string{"about “lunch”"}, words, "subjects are compared without case")
	assert.Equal(t, []int{2}, n)
	words, _ = like(decide.Inbox, "Once")
	assert.Empty(t, words)
	_, err := d.LikeThis(d.Context(), d.who, show.GroupAsk{Place: decide.Archive}, 1)
	assert.ErrorContains(t, err, "no longer there")
}

// What is found is grouped whole, wherever it lies: what the pages of the search find, and nothing else.
func TestWhatIsFoundIsGrouped(t *testing.T) {
	d := begin(t)
	for i := range 130 {
		list := ""
		if i%5 == 0 {
			list = "List-Id: <circle.alpine.example>\r\n"
		}
		d.brings(fmt.Sprintf("From: S%[1]d <s%[1]d@d.example>\r\nTo: ines@norrholm.example\r\nMessage-ID: <found-%[2]d@x.example>\r\nSubject: About %[1]d\r\n%[3]s\r\nThe panes, number %[2]d?\r\n", i%4, i, list))
	}
	for q, want := range map[string]int{"panes": 130, "subject:3": 32, "from:s1@d.example panes": 33, "nowhere": 0, "": 0, "-panes": 0} {
		ask := show.GroupAsk{By: group.Sender, Found: show.Asked{Q: q}}
		groups, err := d.Groups(d.Context(), d.who, ask)
		require.NoError(t, err)
		pages, grouped := map[int64]bool{}, map[int64]bool{}
		for cursor := ""; ; {
			page, err := d.Search(d.Context(), d.who, show.Asked{Q: q, Cursor: cursor})
			require.NoError(t, err)
			for _, r := range page.Rows {
				pages[r.ID] = true
			}
			if cursor = page.Next; cursor == "" {
				break
			}
		}
		n := 0
		for _, g := range groups.Groups {
			n += g.N
			of, err := d.GroupMembers(d.Context(), d.who, ask, g.Key, groups.Until)
			require.NoError(t, err)
			for _, s := range of.Rest {
				grouped[s.ID] = true
			}
		}
		assert.Equal(t, want, n, q)
		assert.Equal(t, pages, grouped, q)
	}
	page, err := d.Search(d.Context(), d.who, show.Asked{Q: "panes"})
	require.NoError(t, err)
	like, err := d.LikeThis(d.Context(), d.who, show.GroupAsk{Found: show.Asked{Q: "panes"}}, page.Rows[0].ID)
	require.NoError(t, err)
	assert.NotEmpty(t, like.Ways)
}
