package app_test

import (
	"crypto/rand"
	"fmt"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"ebbe.example/ebbe/internal/app"
	"ebbe.example/ebbe/internal/core/decide"
	"ebbe.example/ebbe/internal/core/routine"
	"ebbe.example/ebbe/internal/core/rule"
	"ebbe.example/ebbe/internal/show"
	"ebbe.example/ebbe/internal/work"
)

func from(is string) rule.Conditions {
	return rule.Conditions{All: []rule.Condition{{Of: rule.From, Is: is}}}
}

func (w *world) makeRule(name string, c rule.Conditions, steps []routine.Step, more ...func(*app.RuleFields)) int64 {
	w.t.Helper()
	f := app.RuleFields{Name: &name, Conditions: &c, Steps: &steps}
	for _, m := range more {
		m(&f)
	}
	made, err := w.app.NewRule(w.ctx, w.who, rand.Text(), f)
	require.NoError(w.t, err)
	return made.ID
}

// sentOut are the letters that have left.
func (w *world) sentOut() (out []string) {
	w.post.mu.Lock()
	defer w.post.mu.Unlock()
	for _, raw := range w.post.sent {
		out = append(out, string(raw))
	}
	return out
}

// ruled are the titles of what rules did, the newest first.
func (w *world) ruled() (titles []string) {
	w.t.Helper()
	all, err := w.app.Journal(w.ctx, w.who, show.JournalAsk{Words: "Rule"})
	require.NoError(w.t, err)
	for _, e := range all {
		if e.Actor == work.ByRule {
			titles = append(titles, e.Title)
		}
	}
	return titles
}

var toLoans = []routine.Step{{Do: routine.Label, Text: "loans"}, {Do: routine.Star}, {Do: routine.FollowUp, When: "fri"}, {Do: routine.Decide, Decision: decide.File, Text: "papers"}}

// A rule acts when letters are let in, singly or in a round, by the same actions as the keys; in its
// own name, undone by itself, for one letter, or all of it.
func TestARuleActsOnWhatComes(t *testing.T) {
	w := newWorld(t)
	id := w.makeRule("Loans", from("bram@freight.example"), toLoans)
	w.receive(mail{id: "a", from: "Bram <bram@freight.example>", subject: "Crates", text: "Can you send the sizes?"})
	w.receive(mail{id: "b", from: "oda@school.example", subject: "Class 4"})
	assert.Equal(t, []string{"Rule “Loans”: label loans, star, follow up fri, file under papers: “Crates”"}, w.ruled())
	filed := w.row(decide.Archive)
	assert.ElementsMatch(t, []string{"loans", "papers"}, filed.Labels)
	assert.True(t, filed.Star)
	assert.Len(t, filed.FollowUps, 1)
	assert.Equal(t, "Class 4", w.row(decide.Inbox).Title)
	require.NoError(t, w.app.Learn(w.ctx))
	assert.Empty(t, w.lessons(), "what a rule decides, its owner hasn't")

	w.plan("daily 20:00")
	for i := range 3 {
		w.receive(mail{id: fmt.Sprint("c", i), from: "Bram <bram@freight.example>", subject: fmt.Sprint("Box ", i)})
	}
	before := w.steps()
	_, err := w.app.LetIn(w.ctx, w.who, rand.Text(), 0, false)
	require.NoError(t, err)
	assert.Equal(t, before+2, w.steps(), "the round, and what the rule did in it")
	assert.Equal(t, "Rule “Loans”: label loans, star, follow up fri, file under papers: 3 letters", w.ruled()[0])
	require.Len(t, w.rows(decide.Archive), 4)

	did, err := w.app.RuleDid(w.ctx, w.who, id)
	require.NoError(t, err)
	require.Len(t, did, 2)
	require.Len(t, did[0].Letters, 3)
	one := did[0].Letters[1]
	undone, err := w.app.UndoRuleFor(w.ctx, w.who, rand.Text(), did[0].Entry, one.Conversation)
	require.NoError(t, err)
	assert.Empty(t, undone.Left)
	back := w.titled(decide.Inbox, one.Title)
	assert.Empty(t, back.Labels)
	assert.Empty(t, back.FollowUps)
	assert.False(t, back.Star)
	require.Len(t, w.rows(decide.Archive), 3)

	all, err := w.app.UndoRule(w.ctx, w.who, rand.Text(), id)
	require.NoError(t, err)
	assert.Equal(t, "Undone: all that the rule “Loans” did (2 times)", all.Title)
	assert.Empty(t, w.rows(decide.Archive))
	assert.Len(t, w.rows(decide.Inbox), 5)
	_, err = w.app.UndoRule(w.ctx, w.who, rand.Text(), id)
	assert.EqualError(t, err, "Nothing that “Loans” did is left to undo.")
	w.sound()
}

// A delivery that is undone takes along what rules did with its letters, and anew they do it again.
func TestAnUndoneDeliveryTakesAlongWhatRulesDid(t *testing.T) {
	w := newWorld(t)
	w.makeRule("Loans", from("bram@freight.example"), []routine.Step{{Do: routine.Label, Text: "loans"}, {Do: routine.Decide, Decision: decide.Done}})
	w.plan("daily 20:00")
	w.receive(mail{id: "a", from: "Bram <bram@freight.example>", subject: "Crates"})
	_, err := w.app.LetIn(w.ctx, w.who, rand.Text(), 0, false)
	require.NoError(t, err)
	require.Len(t, w.rows(decide.Archive), 1)
	u := w.undo()
	assert.Equal(t, "Held again: 1 letter", u.Title)
	assert.Empty(t, u.Left)
	assert.Empty(t, w.rows(decide.Archive))
	w.sound()
	_, err = w.app.LetIn(w.ctx, w.who, rand.Text(), 0, false)
	require.NoError(t, err)
	assert.Equal(t, []string{"loans"}, w.row(decide.Archive).Labels)
	w.sound()
}

// A rule doesn't decide on what isn't its own to decide on, and says why.
func TestWhatARuleLeavesToItsOwner(t *testing.T) {
	w := newWorld(t)
	bin := []routine.Step{{Do: routine.Label, Text: "seen"}, {Do: routine.Decide, Decision: decide.ToBin}}
	w.makeRule("Bin him", from("bram@freight.example"), bin)
	w.makeRule("Keep", rule.Conditions{Any: []rule.Condition{{Of: rule.Subject, Is: "report"}}}, []routine.Step{{Do: routine.Decide, Decision: decide.Done}})
	w.makeRule("Bin reports", rule.Conditions{All: []rule.Condition{{Of: rule.Subject, Is: "report"}}}, bin)
	w.receive(mail{id: "a", from: "Bram <bram@freight.example>", subject: "Crates"})
	assert.Equal(t, "Rule “Bin him”: label seen: “Crates”; not decided: a person wrote it", w.ruled()[0])
	assert.Equal(t, []string{"seen"}, w.row(decide.Inbox).Labels)

	w.receive(mail{id: "r", from: "climate@x.example", subject: "Report", extra: byMachine})
	assert.Equal(t, []string{"Rule “Bin reports”: label seen: “Report”; not decided: “Keep” had decided on it", "Rule “Keep”: done: “Report”"}, w.ruled()[:2])
	assert.Equal(t, "Report", w.row(decide.Archive).Title)

	// Another letter waits in the conversation; and one that was put off is its owner's.
	w.makeRule("Done with her", from("oda@school.example"), []routine.Step{{Do: routine.Decide, Decision: decide.Done}})
	w.receive(mail{id: "p@x", from: "anton@x.example", subject: "Panes"})
	w.receive(mail{id: "q@x", from: "oda@school.example", subject: "Re: Panes", extra: "References: <p@x>\r\n"})
	assert.Equal(t, "Rule “Done with her”: “Panes”; not decided: there are other letters with it", w.ruled()[0])
	w.decide(decide.PutOff, w.titled(decide.Inbox, "Panes"), until("3 weeks"))
	w.receive(mail{id: "s@x", from: "oda@school.example", subject: "Re: Panes", extra: "References: <p@x>\r\n"})
	assert.Equal(t, "Rule “Done with her”: “Panes”; not decided: it came back to be decided on", w.ruled()[0])
	w.titled(decide.Inbox, "Panes")
	w.sound()
}

func TestWhatIsRefusedOfRules(t *testing.T) {
	w := newWorld(t)
	for i := range 3 {
		w.receive(mail{id: fmt.Sprint("a", i), from: "bram@freight.example", subject: "Crates"})
	}
	name, on := "x", from("bram@freight.example")
	star := []routine.Step{{Do: routine.Star}}
	bin := []routine.Step{{Do: routine.Decide, Decision: decide.ToBin}}
	yes, past := true, "today 8:00"
	for wrong, f := range map[string]app.RuleFields{
		"A rule needs a name, a condition and something to do.":                                                                    {Name: &name},
		"A rule needs a condition of “all” or “one of”. Without one it would have taken all of the 3 letters of the last 60 days.": {Name: &name, Conditions: &rule.Conditions{}, Steps: &star},
		"Step 1: to forward it needs an address.":                                                                                  {Name: &name, Conditions: &on, Steps: &[]routine.Step{{Do: routine.Forward}}},
		"Every letter that it takes would be sent on to tove@norrholm.example. This has to be confirmed.":                          {Name: &name, Conditions: &on, Steps: &[]routine.Step{{Do: routine.Forward, To: "tove@norrholm.example"}}},
		"Step 1: there can be one decision only.":                                                                                  {Name: &name, Conditions: &on, Steps: &[]routine.Step{bin[0], bin[0]}},
		"Step 1: Its template is no longer there.":                                                                                 {Name: &name, Conditions: &on, Steps: &[]routine.Step{{Do: routine.AutoAnswer, Template: 99}}},
		"That has passed. Name a time that is still to come.":                                                                      {Name: &name, Conditions: &on, Steps: &star, Until: &past},
		"It would have taken no letter that a person wrote in the last 60 days, so there is nothing to confirm.":                   {Name: &name, Conditions: &on, Steps: &star, People: &yes},
	} {
		_, err := w.app.NewRule(w.ctx, w.who, rand.Text(), f)
		assert.EqualError(t, err, wrong)
	}
	rules, err := w.app.Rules(w.ctx, w.who)
	require.NoError(t, err)
	assert.Empty(t, rules.Rules)

	// Seen and confirmed, it may take what people wrote; changed, that has to be said anew.
	id := w.makeRule("Bin him", on, bin, func(f *app.RuleFields) { f.People = &yes })
	w.receive(mail{id: "b", from: "bram@freight.example", subject: "Boxes"})
	assert.Equal(t, "Boxes", w.row(decide.Bin).Title)
	_, err = w.app.EditRule(w.ctx, w.who, rand.Text(), id, app.RuleFields{Conditions: ref(from("freight"))})
	require.NoError(t, err)
	w.receive(mail{id: "c", from: "bram@freight.example", subject: "Lids"})
	assert.Len(t, w.rows(decide.Bin), 1)
}

// The dry run says what a rule would have taken and what speaks against it; it is applied to what is
// here as one step, and proposed only where enough speaks for it.
func TestDryRunApplyingAndProposals(t *testing.T) {
	w := newWorld(t)
	for i := range 12 {
		w.receive(mail{id: fmt.Sprint("n", i, "@x"), from: "Bram <bram@freight.example>", subject: fmt.Sprint("List ", i), text: "The crates are there."})
		if i < 9 {
			w.decide(decide.File, w.titled(decide.Inbox, fmt.Sprint("List ", i)), func(d *app.Deciding) { d.Labels = []string{"crates"} })
		}
	}
	first := w.titled(decide.Inbox, "List 9")
	w.send(&first, func(s *app.Sending) {})
	w.pass(time.Minute)
	require.NoError(t, w.app.Learn(w.ctx))
	done := []routine.Step{{Do: routine.Label, Text: "boxes"}, {Do: routine.Decide, Decision: decide.Done}}
	tried, err := w.app.TryRule(w.ctx, w.who, from("freight"), done)
	require.NoError(t, err)
	assert.Equal(t, 12, tried.N)
	assert.Equal(t, 12, tried.Of)
	assert.Equal(t, 2, tried.Here)
	assert.Equal(t, []string{"answered 1 of these 12 yourself"}, tried.Against)
	assert.Equal(t, "label boxes, done", tried.Words)
	none, err := w.app.TryRule(w.ctx, w.who, rule.Conditions{All: []rule.Condition{{Of: rule.Text, Is: "panes"}}}, done)
	require.NoError(t, err)
	assert.Zero(t, none.N)

	list, err := w.app.Rules(w.ctx, w.who)
	require.NoError(t, err)
	require.NotNil(t, list.Proposed)
	assert.Equal(t, "Filed 9 of the last 10 letters from bram@freight.example.", list.Proposed.Why)
	assert.Len(t, list.Proposed.Letters, 9)
	_, err = w.app.DeclineRule(w.ctx, w.who, rand.Text(), list.Proposed.Key)
	require.NoError(t, err)
	list, err = w.app.Rules(w.ctx, w.who)
	require.NoError(t, err)
	assert.Nil(t, list.Proposed)

	id := w.makeRule("Boxes", from("freight"), done)
	assert.Len(t, w.rows(decide.Inbox), 2, "by itself it acts on what comes")
	d, err := w.app.ApplyRule(w.ctx, w.who, rand.Text(), id, false)
	require.NoError(t, err)
	assert.Equal(t, "Applied to what is here: Rule “Boxes”: label boxes, done: 2 letters", d.Title)
	assert.Empty(t, w.rows(decide.Inbox))
	w.undo()
	assert.Len(t, w.rows(decide.Inbox), 2)
	_, err = w.app.ApplyRule(w.ctx, w.who, rand.Text(), id, true)
	require.NoError(t, err)
	for _, r := range w.rows(decide.Archive) {
		assert.Contains(t, r.Labels, "boxes")
	}
	_, err = w.app.ApplyRule(w.ctx, w.who, rand.Text(), w.makeRule("None", from("nobody@x.example"), done), false)
	assert.EqualError(t, err, "“None” takes none of what is here.")
	w.sound()
}

// What rules send is marked and bounded, goes to nobody twice, and is never answered in turn; what
// would be written by hand is a draft.
func TestWhatRulesSend(t *testing.T) {
	w := newWorld(t)
	name, text := "Thanks", "Dear {first name}, it has come."
	made, err := w.app.NewTemplate(w.ctx, w.who, rand.Text(), app.TemplateFields{Name: &name, Text: &text})
	require.NoError(t, err)
	to := "tove@norrholm.example"
	w.makeRule("Thank", from("oda@school.example"), []routine.Step{{Do: routine.AutoAnswer, Template: made.ID}})
	w.makeRule("Send on", from("bram@freight.example"), []routine.Step{{Do: routine.Forward, To: to}}, func(f *app.RuleFields) { f.Forwards = []string{to} })
	w.makeRule("Draft", from("anton@x.example"), []routine.Step{{Do: routine.Decide, Decision: decide.Answer, Template: made.ID}})

	w.receive(mail{id: "a@s", from: "Oda Lund <oda@school.example>", subject: "Visit"})
	w.receive(mail{id: "b@s", from: "Oda Lund <oda@school.example>", subject: "Visit 2"})
	w.pass(time.Minute)
	sent := w.sentOut()
	require.Len(t, sent, 1, "within a week, nobody gets a second one")
	assert.Contains(t, sent[0], "Auto-Submitted: auto-replied")
	assert.Contains(t, sent[0], "Dear Oda, it has come.")
	w.receive(mail{id: "auto@s", from: "Oda Lund <oda@school.example>", subject: "Auto: Visit", extra: "Auto-Submitted: auto-replied\r\n"})
	w.pass(time.Minute)
	assert.Len(t, w.sentOut(), 1, "what a rule wrote is not answered by one")

	for i := range rule.MostForwards + 2 {
		w.receive(mail{id: fmt.Sprint("f", i, "@f"), from: "bram@freight.example", subject: fmt.Sprint("Crate ", i)})
	}
	w.receive(mail{id: "loop@f", from: "bram@freight.example", subject: "Round", extra: "X-Loop: forwarded by a rule\r\n"})
	w.pass(time.Minute)
	sent = w.sentOut()
	assert.Len(t, sent, 1+rule.MostForwards)
	assert.Contains(t, sent[1], "X-Loop: forwarded by a rule")
	assert.Contains(t, sent[1], "Auto-Submitted: auto-generated")
	assert.Equal(t, []string{
		"Rule “Send on” could not act on “Round”: Step 1: A rule has forwarded this letter before; it is not sent round in circles. Nothing was done.",
		"Rule “Send on” could not act on “Crate 51”: Step 1: Rules have forwarded 50 letters within a day, and forward no more. Nothing was done.",
	}, w.ruled()[:2])

	group, members := "Walk guides", "tove@n.example, henrik@n.example"
	guides, err := w.app.NewGroup(w.ctx, w.who, rand.Text(), app.GroupFields{Name: &group, Members: &members})
	require.NoError(t, err)
	w.makeRule("Guides", from("lise@x.example"), []routine.Step{{Do: routine.Decide, Decision: decide.HandOn, Group: guides.ID}})
	w.receive(mail{id: "d@x", from: "Anton <anton@x.example>", subject: "Panes"})
	w.titled(decide.Inbox, "Panes")
	w.receive(mail{id: "e@x", from: "Lise <lise@x.example>", subject: "Walks"})
	drafts, err := w.app.Drafts(w.ctx, w.who)
	require.NoError(t, err)
	require.Len(t, drafts, 2)
	for _, d := range drafts {
		if d.Writing.Kind == "hand-on" {
			assert.Equal(t, []string{"tove@n.example", "henrik@n.example"}, d.Writing.To)
		} else {
			assert.Equal(t, "Dear Anton, it has come.\n", d.Writing.Text)
		}
	}
	w.sound()
}

// One rule that can't act never stops the others, and says so; nor does one that can't be read.
func TestABadRuleFailsAlone(t *testing.T) {
	w := newWorld(t)
	w.makeRule("Meet", from("bram@freight.example"), []routine.Step{{Do: routine.Label, Text: "half"}, {Do: routine.Appointment, When: "fri 10 to 11"}})
	name, text := "Thanks", "Thank you."
	made, err := w.app.NewTemplate(w.ctx, w.who, rand.Text(), app.TemplateFields{Name: &name, Text: &text})
	require.NoError(t, err)
	w.makeRule("Answer", from("bram@freight.example"), []routine.Step{{Do: routine.Label, Text: "half"}, {Do: routine.AutoAnswer, Template: made.ID}})
	_, err = w.app.EditTemplate(w.ctx, w.who, rand.Text(), made.ID, app.TemplateFields{Remove: true})
	require.NoError(t, err)
	w.makeRule("Star", from("bram@freight.example"), []routine.Step{{Do: routine.Star}})
	w.receive(mail{id: "a", from: "bram@freight.example", subject: "Crates"})
	row := w.row(decide.Inbox)
	assert.True(t, row.Star)
	assert.Contains(t, w.ruled(), "Rule “Answer” could not act on “Crates”: Step 2: Its template is no longer there. Nothing was done.")
	list, err := w.app.Rules(w.ctx, w.who)
	require.NoError(t, err)
	assert.Equal(t, "Its template is gone", list.Rules[1].Trouble)
	w.sound()
}

// A script becomes rules that are off until they were looked at; what it forwards is confirmed then.
func TestAScriptIsLookedAtBefore(t *testing.T) {
	w := newWorld(t)
	w.makeRule("Loans", from("bram@freight.example"), []routine.Step{{Do: routine.Star}})
	script := "# rule: Loans\nif header :contains \"subject\" \"crate\" { redirect \"x@y.example\"; discard; }\nkeep;\nmoon;\n"
	d, err := w.app.ReadScript(w.ctx, w.who, rand.Text(), script)
	require.NoError(t, err)
	assert.Equal(t, "2 rules from a script, off until looked at", d.Title)
	assert.Equal(t, []string{"2 lines of it can’t be done by rules; they are named with each."}, d.Left)
	list, err := w.app.Rules(w.ctx, w.who)
	require.NoError(t, err)
	require.Len(t, list.Rules, 3)
	one := list.Rules[1]
	assert.Equal(t, "Loans 2", one.Name)
	assert.True(t, one.Off)
	assert.Contains(t, list.Rules[2].Said, "line 4: “moon” is nothing that rules do")
	edit := func(id int64, f app.RuleFields) error {
		_, err := w.app.EditRule(w.ctx, w.who, rand.Text(), id, f)
		return err
	}
	_, err = w.app.ApplyRule(w.ctx, w.who, rand.Text(), list.Rules[2].ID, false)
	assert.EqualError(t, err, "“"+list.Rules[2].Name+"” came of a script. Look at it with “Change”, and keep it; then it is on.")
	on := false
	assert.EqualError(t, edit(one.ID, app.RuleFields{Off: &on}), "“Loans 2” came of a script. Look at it with “Change”, and keep it; then it is on.")
	looked := app.RuleFields{Conditions: &one.Conditions, Steps: &one.Steps, Off: &on}
	assert.ErrorContains(t, edit(one.ID, looked), "would be sent on to x@y.example")
	looked.Forwards = []string{"x@y.example"}
	require.NoError(t, edit(one.ID, looked))
	text, err := w.app.RuleScript(w.ctx, w.who)
	require.NoError(t, err)
	assert.Contains(t, text, "redirect :copy \"x@y.example\";")
	_, err = w.app.ReadScript(w.ctx, w.who, rand.Text(), "if {")
	assert.EqualError(t, err, "Line 1: “if” needs one test.")
	w.undo()
	w.sound()
}
