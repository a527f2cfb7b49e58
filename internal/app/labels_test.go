package app_test

import (
	"crypto/rand"
	"fmt"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"ebbe.example/ebbe/internal/app"
	"ebbe.example/ebbe/internal/core/decide"
	"ebbe.example/ebbe/internal/core/delivery"
	"ebbe.example/ebbe/internal/core/routine"
	"ebbe.example/ebbe/internal/core/rule"
	"ebbe.example/ebbe/internal/show"
	"ebbe.example/ebbe/internal/store"
)

// labels are those that there are, with how much stands under them and how they look.
func (w *world) labels() (out []string) {
	list, err := w.app.LabelViews(w.ctx, w.who)
	require.NoError(w.t, err)
	for _, l := range list {
		out = append(out, fmt.Sprintf("%s %d/%d %s", l.Name, l.Undecided, l.N, l.Colour))
	}
	return out
}

func (w *world) label(r show.Row, names ...string) {
	for _, name := range names {
		_, err := w.app.Mark(w.ctx, w.who, app.Marking{Command: rand.Text(), On: []int64{r.ID}, Mark: "label", Value: name})
		require.NoError(w.t, err)
	}
}

func (w *world) rename(from, to string) {
	_, err := w.app.RenameLabel(w.ctx, w.who, rand.Text(), from, to)
	require.NoError(w.t, err)
}

// A renamed label takes along what is nested in it, its look, and what puts it on; all of it is undone.
func TestRenamingALabel(t *testing.T) {
	w := newWorld(t)
	for _, subject := range []string{"One", "Two", "Three"} {
		w.receive(mail{id: subject + "@x.example", from: "p@x.example", subject: subject})
	}
	w.label(w.titled(decide.Inbox, "One"), "loans")
	w.label(w.titled(decide.Inbox, "Two"), "loans / 2025", "seeds")
	w.decide(decide.File, w.titled(decide.Inbox, "Three"), func(d *app.Deciding) { d.Labels = []string{"loansome"} })
	look := func(name, colour, shape string) error {
		_, err := w.app.LookOfLabel(w.ctx, w.who, rand.Text(), name, colour, shape)
		return err
	}
	require.NoError(t, look("loans", "kelp", "drop"))
	require.Error(t, look("loans", "pink", "drop"))
	_, err := w.app.NewRoutine(w.ctx, w.who, rand.Text(), app.RoutineFields{Name: ref("Lend"), Steps: &[]routine.Step{{Do: routine.Label, Text: "loans"}, {Do: routine.Decide, Decision: decide.File, Text: "seeds"}}})
	require.NoError(t, err)
	w.makeRule("Loans", rule.Conditions{All: []rule.Condition{{Of: rule.Label, Is: "Loans"}}, Any: []rule.Condition{{Of: rule.Subject, Is: "loans"}}}, []routine.Step{{Do: routine.Star}})
	w.through(app.ThroughFields{Kind: delivery.ByLabel, Value: "loans"})
	_, err = w.app.KeepSearch(w.ctx, w.who, rand.Text(), store.KeptSearch{Name: "Lent out", Query: "ferns (label:loans or label:seeds) after:monday", Within: "at:archive"})
	require.NoError(t, err)
	named := func() (out []string) {
		rules, err := w.app.Rules(w.ctx, w.who)
		require.NoError(t, err)
		for _, r := range rules.Rules {
			out = append(out, r.Conditions.All[0].Is, r.Conditions.Any[0].Is)
		}
		gate, err := w.app.Delivery(w.ctx, w.who, 0)
		require.NoError(t, err)
		for _, one := range gate.Through {
			out = append(out, one.Words)
		}
		searches, err := w.app.KeptSearches(w.ctx, w.who, false)
		require.NoError(t, err)
		for _, one := range searches {
			out = append(out, one.Q, one.Within)
		}
		return out
	}
	as := []string{"Loans", "loans", "label: loans", "ferns (label:loans or label:seeds) after:monday", "at:archive"}
	require.Equal(t, as, named())
	before := []string{"loans 1/1 kelp", "loans/2025 1/1 ", "loansome 0/1 ", "seeds 1/1 "}
	require.Equal(t, before, w.labels())

	w.rename("loans", " lent ")
	assert.Equal(t, []string{"lent 1/1 kelp", "lent/2025 1/1 ", "loansome 0/1 ", "seeds 1/1 "}, w.labels())
	list, err := w.app.Routines(w.ctx, w.who)
	require.NoError(t, err)
	assert.Equal(t, "lent", list[0].Steps[0].Text)
	assert.Equal(t, []string{"lent", "loans", "label: lent", "ferns (label:lent or label:seeds) after:monday", "at:archive"}, named())
	w.undo()
	assert.Equal(t, before, w.labels())
	assert.Equal(t, as, named())

	// Into what is nested in it, and one with another.
	w.rename("loans", "loans/2025")
	assert.Equal(t, []string{"loans/2025 1/1 kelp", "loans/2025/2025 1/1 ", "loansome 0/1 ", "seeds 1/1 "}, w.labels())
	w.undo()
	require.NoError(t, look("seeds", "buoy", "bar"))
	w.rename("loans/2025", "seeds")
	assert.Equal(t, []string{"loans 1/1 kelp", "loansome 0/1 ", "seeds 1/1 buoy"}, w.labels(), "two labels of one letter are one")
	w.rename("loans", "seeds")
	assert.Equal(t, []string{"loansome 0/1 ", "seeds 2/2 buoy"}, w.labels())

	_, err = w.app.RenameLabel(w.ctx, w.who, rand.Text(), "loans", "lent")
	require.Error(t, err, "it is gone")
	_, err = w.app.DropLabel(w.ctx, w.who, rand.Text(), "seeds")
	require.NoError(t, err)
	assert.Equal(t, []string{"loansome 0/1 "}, w.labels())
	w.undo()
	assert.Equal(t, []string{"loansome 0/1 ", "seeds 2/2 buoy"}, w.labels())
}

// A label of ten thousand letters is renamed in one step, and no letter is lost.
func TestRenamingALabelOfMany(t *testing.T) {
	w := newWorld(t)
	w.receive(mail{id: "one@x.example", from: "p@x.example", subject: "One"})
	for n := range 300 {
		w.receive(mail{id: fmt.Sprintf("%d@x.example", n), from: "p@x.example", subject: fmt.Sprint("Many ", n)})
	}
	rows := w.rows(decide.Inbox)
	ids := make([]int64, len(rows))
	for i, r := range rows {
		ids[i] = r.ID
	}
	_, err := w.app.Mark(w.ctx, w.who, app.Marking{Command: rand.Text(), On: ids, Mark: "label", Value: "many"})
	require.NoError(t, err)
	w.rename("many", "few")
	assert.Equal(t, []string{fmt.Sprintf("few %d/%d ", len(ids), len(ids))}, w.labels())
}
