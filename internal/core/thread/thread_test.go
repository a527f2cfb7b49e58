package thread

import (
	"math/rand/v2"
	"slices"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"pgregory.net/rapid"

	"ebbe.example/ebbe/internal/core/letter"
)

var now = time.Date(2026, 11, 24, 12, 0, 0, 0, time.UTC)

func TestPredecessor(t *testing.T) {
	reply := Facts{Key: "r", BareSubject: "crates", BySubject: true, Persons: []string{"bram@x.example"}, At: now}
	near := Facts{Key: "n", BareSubject: "crates", Persons: []string{"bram@x.example"}, At: now.Add(-time.Hour)}
	with := func(f Facts, change func(*Facts)) Facts { change(&f); return f }
	for _, c := range []struct {
		name    string
		f       Facts
		letters []Facts
		want    int
	}{
		{"nothing there", reply, nil, -1},
		{"by subject", reply, []Facts{near}, 0},
		{"the latest of several", reply, []Facts{with(near, func(f *Facts) { f.At = now.Add(-48 * time.Hour) }), near}, 1},
		{"of one moment, by name", reply, []Facts{with(near, func(f *Facts) { f.Key = "z" }), near}, 0},
		{"no shared person", reply, []Facts{with(near, func(f *Facts) { f.Persons = []string{"x@y.example"} })}, -1},
		{"exactly thirty days", reply, []Facts{with(near, func(f *Facts) { f.At = now.Add(-SubjectWindow) })}, 0},
		{"over thirty days", reply, []Facts{with(near, func(f *Facts) { f.At = now.Add(-SubjectWindow - 1) })}, -1},
		{"a later one", reply, []Facts{with(near, func(f *Facts) { f.At = now.Add(1) })}, -1},
		{"another subject", reply, []Facts{with(near, func(f *Facts) { f.BareSubject = "boxes" })}, -1},
		{"no answer", with(reply, func(f *Facts) { f.BySubject = false }), []Facts{near}, -1},
		{"itself", reply, []Facts{reply}, -1},
	} {
		assert.Equal(t, c.want, Predecessor(c.f, c.letters), c.name)
	}
}

func TestFactsOf(t *testing.T) {
	base := letter.Letter{
		MessageID: "c@x", Subject: "Re: Crates", Date: now,
		From: letter.Address{Email: "Bram@x.example"}, To: []letter.Address{{Email: "ines@n.example"}, {Email: "bram@X.example"}},
	}
	own := []string{"ines@n.example"}
	f := FactsOf(base, own, now.Add(time.Hour))
	assert.Equal(t, []string{"bram@x.example"}, f.Persons)
	assert.True(t, f.BySubject)
	assert.Equal(t, now, f.At)

	answer := base
	answer.InReplyTo, answer.References = []string{"b@x"}, []string{"a@x", "b@x"}
	f = FactsOf(answer, own, now)
	assert.Equal(t, []string{"c@x", "a@x", "b@x"}, f.IDs)
	assert.False(t, f.BySubject, "it names what it answers")
	listed := base
	listed.Automatic, listed.Date = letter.List, time.Time{}
	f = FactsOf(listed, own, now)
	assert.False(t, f.BySubject, "list mail does not join by subject")
	assert.Equal(t, now, f.At, "without a date, when it came")
}

// Letters for properties: few ids, subjects and persons, so that they meet.
var drawn = rapid.Custom(func(t *rapid.T) Facts {
	ids := rapid.SampledFrom([]string{"a", "b", "c", "d", "e", "f", "g"})
	f := Facts{
		Key: rapid.StringN(4, 4, 4).Draw(t, "key"), IDs: rapid.SliceOfN(ids, 0, 2).Draw(t, "ids"),
		BareSubject: rapid.SampledFrom([]string{"x", "y"}).Draw(t, "subject"), Persons: []string{rapid.SampledFrom([]string{"p", "q"}).Draw(t, "person")},
		At: now.Add(time.Duration(rapid.IntRange(0, 60).Draw(t, "day")) * 24 * time.Hour),
	}
	f.BySubject = len(f.IDs) == 0 && rapid.Bool().Draw(t, "answer")
	return f
})

// byKeys names the groups by the letters in them, whatever their order.
func byKeys(letters []Facts, groups [][]int) [][]string {
	var out [][]string
	for _, g := range groups {
		var keys []string
		for _, i := range g {
			keys = append(keys, letters[i].Key)
		}
		slices.Sort(keys)
		out = append(out, keys)
	}
	slices.SortFunc(out, slices.Compare)
	return out
}

func TestGroupsDoNotDependOnTheOrder(t *testing.T) {
	rapid.Check(t, func(rt *rapid.T) {
		letters := rapid.SliceOfNDistinct(drawn, 1, 12, func(f Facts) string { return f.Key }).Draw(rt, "letters")
		want := byKeys(letters, Group(letters))
		shuffled := slices.Clone(letters)
		rand.New(rand.NewPCG(rapid.Uint64().Draw(rt, "seed"), 1)).Shuffle(len(shuffled), func(i, j int) { shuffled[i], shuffled[j] = shuffled[j], shuffled[i] })
		if got := byKeys(shuffled, Group(shuffled)); !slices.EqualFunc(got, want, slices.Equal) {
			rt.Fatalf("got %v, want %v", got, want)
		}
	})
}

func TestLettersThatShareAnIDAreTogether(t *testing.T) {
	letters := []Facts{{Key: "1", IDs: []string{"a", "missing"}}, {Key: "2", IDs: []string{"b", "missing"}}, {Key: "3", IDs: []string{"c"}}, {Key: "4", IDs: []string{"d", "c"}}, {Key: "5"}, {Key: "6"}}
	assert.Equal(t, [][]int{{0, 1}, {2, 3}, {4}, {5}}, Group(letters), "also by a parent that has not come")
}

// A round seats letters together only if they belong together, and apart only
// if a letter that takes the long way will join them.
func TestARoundMakesTheSameConversations(t *testing.T) {
	rapid.Check(t, func(rt *rapid.T) {
		letters := rapid.SliceOfNDistinct(drawn, 1, 12, func(f Facts) string { return f.Key }).Draw(rt, "letters")
		for i := range letters {
			letters[i].BySubject = false // no round seats those
		}
		before := rapid.IntRange(0, len(letters)).Draw(rt, "let in before")
		homes, seats := map[string][]int64{}, make([]Seat, before)
		for n, g := range Group(letters[:before]) {
			c := int64(n + 1)
			for _, i := range g {
				seats[i] = Seat{Conversation: c}
				for _, id := range letters[i].IDs {
					if !slices.Contains(homes[id], c) {
						homes[id] = append(homes[id], c)
					}
				}
			}
		}
		var ids [][]string
		for _, l := range letters[before:] {
			ids = append(ids, l.IDs)
		}
		seats = append(seats, Seats(ids, homes)...)
		group := map[Seat]int{}
		for n, g := range Group(letters) {
			linked := slices.ContainsFunc(g, func(i int) bool { return seats[i].Long })
			for _, i := range g {
				if seats[i].Long {
					continue
				}
				if of, ok := group[seats[i]]; ok && of != n {
					rt.Fatalf("letter %d sits with letters of another conversation", i)
				}
				group[seats[i]] = n
				if !linked && seats[i] != seats[g[0]] {
					rt.Fatalf("letters %d and %d belong together and nothing joins them", g[0], i)
				}
			}
		}
	})
}

func TestSeats(t *testing.T) {
	homes := map[string][]int64{"old": {7}, "one": {1}, "two": {2}}
	for name, c := range map[string]struct {
		ids  [][]string
		want []Seat
	}{
		"each begins its own":          {[][]string{{"a"}, {"b"}, nil}, []Seat{{With: 0}, {With: 1}, {With: 2}}},
		"an answer to what is there":   {[][]string{{"a", "old"}}, []Seat{{Conversation: 7}}},
		"an answer to a letter beside": {[][]string{{"a"}, {"b", "a"}}, []Seat{{With: 0}, {With: 0}}},
		"answered before it comes":     {[][]string{{"b", "a"}, {"a"}}, []Seat{{With: 0}, {With: 0}}},
		"an answer to an answer":       {[][]string{{"a", "old"}, {"b", "a"}}, []Seat{{Conversation: 7}, {Conversation: 7}}},
		"two conversations":            {[][]string{{"a", "one", "two"}}, []Seat{{Long: true}}},
		"one that answers such a one":  {[][]string{{"a", "one", "two"}, {"b", "a"}}, []Seat{{Long: true}, {Long: true}}},
		"two of this round":            {[][]string{{"a"}, {"b"}, {"c", "a", "b"}}, []Seat{{With: 0}, {With: 1}, {Long: true}}},
	} {
		assert.Equal(t, c.want, Seats(c.ids, homes), name)
	}
}
