package app_test

import (
	"crypto/rand"
	"fmt"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"ebbe.example/ebbe/internal/app"
	"ebbe.example/ebbe/internal/core/decide"
	"ebbe.example/ebbe/internal/core/sorting"
	"ebbe.example/ebbe/internal/show"
	"ebbe.example/ebbe/internal/store"
)

// prize is junk, of its own address; crate is a letter from somebody who is new.
func prize(n int) mail {
	return mail{id: fmt.Sprintf("prize%d@x.example", n), from: fmt.Sprintf("win%d@prize%d.example", n, n), subject: fmt.Sprintf("Your PRIZE number %d waits", n),
		text: "Dear winner, claim your lottery jackpot today. Send us your bank account at once.", answers: ""}
}

func crate(n int) mail {
	return mail{id: fmt.Sprintf("crate%d@x.example", n), from: fmt.Sprintf("Anton %d <anton%d@freight%d.example>", n, n, n), subject: fmt.Sprintf("Crates for week %d", n),
		text: "The crates with panes come on the second ferry. Please meet the driver at the quay."}
}

// learnedJunk is a world whose owner has put a hundred and twenty letters into Junk.
func learnedJunk(t *testing.T) *world {
	w := newWorld(t)
	for n := range 120 {
		w.receive(prize(n))
		w.receive(crate(n))
	}
	var junk, fine []show.Row
	for _, place := range []decide.Place{decide.Inbox} {
		next := ""
		for {
			page, err := w.app.List(w.ctx, w.who, place, false, 0, next)
			require.NoError(t, err)
			for _, r := range page.Rows {
				if strings.HasPrefix(r.Title, "Crates") {
					fine = append(fine, r)
				} else {
					junk = append(junk, r)
				}
			}
			if next = page.Next; next == "" {
				break
			}
		}
	}
	for kind, rows := range map[decide.Kind][]show.Row{decide.ToJunk: junk, decide.Done: fine} {
		var on []store.Seen
		for _, r := range rows {
			on = append(on, store.Seen{ID: r.ID, Last: r.Last})
		}
		_, err := w.app.Decide(w.ctx, w.who, app.Deciding{Command: rand.Text(), Kind: kind, On: on})
		require.NoError(t, err)
	}
	return w
}

func (w *world) setJunk(learn bool) {
	w.t.Helper()
	_, err := w.app.SetJunk(w.ctx, w.who, rand.Text(), learn)
	require.NoError(w.t, err)
	require.NoError(w.t, w.app.LearnJunk(w.ctx))
}

func TestJunkIsLearnedWhereWished(t *testing.T) {
	w := learnedJunk(t)
	require.NoError(t, w.app.LearnJunk(w.ctx))
	w.receive(prize(500))
	assert.Equal(t, decide.Inbox, w.lies("Your PRIZE number 500 waits"), "off at first")
	w.setJunk(true)
	view, err := w.app.Junk(w.ctx, w.who, 0)
	require.NoError(t, err)
	assert.Equal(t, app.JunkView{Learn: true, Junk: 120, Fine: 120, Fewest: 20, Since: 120}, view)

	w.plan("daily 20:00")
	w.receive(prize(501))
	assert.Equal(t, decide.Junk, w.lies("Your PRIZE number 501 waits"), "at once, whatever is held")
	w.receive(crate(502))
	assert.Empty(t, w.lies("Crates for week 502"), "held")
	_, err = w.app.LetIn(w.ctx, w.who, rand.Text(), 0, true)
	require.NoError(t, err)
	assert.Equal(t, decide.Inbox, w.lies("Crates for week 502"))
	why := w.open(w.titled(decide.Junk, "Your PRIZE number 501 waits").ID).Sorted.Why
	assert.Contains(t, why, "like what you put into Junk: no name, “")
	assert.Equal(t, "Sorted out: 1 junk, “Your PRIZE number 501 waits”", w.sortedEntries()[0].Title)

	// What comes from somebody one has written to, or whose letters are wanted, never is.
	w.receive(prize(503))
	w.refuse(sorting.Wanted, sorting.ByAddress, w.titled(decide.Junk, "Your PRIZE number 503 waits"))
	assert.Equal(t, decide.Inbox, w.lies("Your PRIZE number 503 waits"))
	wanted := prize(503)
	wanted.id, wanted.subject = "again503@x.example", "Your PRIZE again"
	w.receive(wanted)
	assert.Equal(t, decide.Inbox, w.lies("Your PRIZE again"))

	// Taken out of Junk, it teaches that it is none.
	w.takeBack(w.sortedEntries()[1].Entry)
	require.NoError(t, w.app.LearnJunk(w.ctx))
	view, err = w.app.Junk(w.ctx, w.who, 0)
	require.NoError(t, err)
	assert.Equal(t, 122, view.Fine, "the one that was fetched and the one that is wanted")

	w.setJunk(false)
	w.receive(prize(504))
	assert.Equal(t, decide.Inbox, w.lies("Your PRIZE number 504 waits"))
	w.sound()
}

// A letter that can't be read teaches nothing; the others do.
func TestADamagedLetterTeachesNothing(t *testing.T) {
	w := learnedJunk(t)
	w.behind("CREATE TABLE whole AS SELECT sha, packed FROM blobs WHERE sha = (SELECT sha FROM letters ORDER BY id LIMIT 1)", "UPDATE blobs SET packed = x'00' WHERE sha IN (SELECT sha FROM whole)")
	defer w.behind("UPDATE blobs SET packed = w.packed FROM whole w WHERE w.sha = blobs.sha", "DROP TABLE whole")
	w.setJunk(true)
	w.receive(prize(501))
	assert.Equal(t, decide.Junk, w.lies("Your PRIZE number 501 waits"))
}
