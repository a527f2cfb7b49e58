package decide

import (
	"encoding/json"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"ebbe.example/ebbe/internal/core/change"
	"ebbe.example/ebbe/internal/core/letter"
	"ebbe.example/ebbe/internal/core/when"
)

var noon = time.Date(2026, 11, 24, 12, 0, 0, 0, time.UTC)

func at(hours int) *when.Moment {
	return &when.Moment{Precision: when.ToMinute, UTC: noon.Add(time.Duration(hours) * time.Hour)}
}

// value is what a list of changes sets a field to; "" if it leaves it.
func value(l change.List, field string) string {
	for _, c := range l {
		if c.Field == field {
			return string(c.Now)
		}
	}
	return ""
}

func TestDecisionsGoWhereTheRulesSay(t *testing.T) {
	cases := []struct {
		d    Decision
		want string
	}{
		{Decision{Kind: Answer}, `"archive"`},
		{Decision{Kind: Answer, Stay: true}, ``},
		{Decision{Kind: Done}, `"archive"`},
		{Decision{Kind: File, Labels: []string{"loans"}}, `"archive"`},
		{Decision{Kind: PutOff, When: at(3)}, `"later"`},
		{Decision{Kind: FollowUp}, `"archive"`},
		{Decision{Kind: FollowUp, Stay: true}, ``},
		{Decision{Kind: FollowUp, When: at(3)}, `"later"`},
		{Decision{Kind: HandOn}, `"archive"`},
		{Decision{Kind: ToBin}, `"bin"`},
		{Decision{Kind: ToJunk}, `"junk"`},
	}
	for _, c := range cases {
		c.d.At, c.d.Saw = noon, 7
		changes := Decide(State{ID: 1, Place: Inbox, Last: 7, Back: &Back{Reason: BackTime, At: noon}}, c.d)
		assert.Equal(t, c.want, value(changes, "place"), "%+v", c.d)
		if c.want != "" {
			assert.Equal(t, "null", value(changes, "back"), "it no longer came back: %+v", c.d)
		}
	}
	filed := Decide(State{Place: Inbox, Labels: []string{"old"}}, Decision{Kind: File, Labels: []string{"old", "new"}})
	assert.Equal(t, "true", value(filed, "label:new"))
	assert.Equal(t, "", value(filed, "label:old"))
}

func TestALetterAfterTheLastOneSeenIsNotCovered(t *testing.T) {
	for _, kind := range []Kind{Done, ToBin, File, FollowUp, HandOn, PutOff} {
		changes := Decide(State{ID: 1, Place: Inbox, Last: 8}, Decision{Kind: kind, At: noon, Saw: 7, When: at(1)})
		assert.Equal(t, "", value(changes, "place"), "%s: it stays in the inbox", kind)
		assert.Contains(t, value(changes, "back"), `"new"`, kind)
	}
	assert.Equal(t, `"junk"`, value(Decide(State{Place: Inbox, Last: 8}, Decision{Kind: ToJunk, Saw: 7}), "place"))
}

func TestPutOffsAreCounted(t *testing.T) {
	s := State{ID: 1, Place: Inbox}
	assert.Equal(t, "1", value(Decide(s, Decision{Kind: PutOff, At: noon, When: at(24)}), "putOffs"))
	s.PutOffs = 2
	assert.Equal(t, "3", value(Decide(s, Decision{Kind: PutOff, At: noon, When: at(24)}), "putOffs"))
	assert.Equal(t, "0", value(Decide(s, Decision{Kind: Done, At: noon}), "putOffs"), "another decision starts anew")
	put := State{ID: 1, Place: Later, PutOffs: 2, Return: &Return{When: *at(24), SetAt: noon, Since: noon.Add(-time.Hour)}}
	assert.Equal(t, "", value(Decide(put, Decision{Kind: PutOff, At: noon, When: at(2)}), "putOffs"), "a move to earlier does not count")
	assert.Equal(t, "3", value(Decide(put, Decision{Kind: PutOff, At: noon, When: at(48)}), "putOffs"))
	assert.Equal(t, "0", value(Arrive(State{Place: Inbox, PutOffs: 2}, Came{At: noon}), "putOffs"))
	moved := value(Decide(put, Decision{Kind: PutOff, At: noon, When: at(48)}), "return")
	assert.Contains(t, moved, `"since":"2026-11-24T11:00:00Z"`, "put off since the first time")
}

func TestArrivalsBringBack(t *testing.T) {
	cases := []struct {
		place Place
		came  Came
		want  string
	}{
		{Nowhere, Came{}, `"inbox"`}, {Nowhere, Came{Own: true}, `"archive"`},
		{Inbox, Came{}, ``}, {Archive, Came{}, `"inbox"`}, {Archive, Came{Own: true}, ``},
		{Archive, Came{Automatic: letter.List}, `"inbox"`},
		{Later, Came{}, `"inbox"`}, {Later, Came{Own: true}, ``},
		{Bin, Came{}, `"inbox"`}, {Bin, Came{Automatic: letter.List}, ``}, {Bin, Came{Automatic: letter.AutoReply}, ``},
		{Bin, Came{Automatic: letter.Report, Failed: true}, `"inbox"`},
		{Junk, Came{}, ``}, {Shallows, Came{}, `"inbox"`}, {Shallows, Came{Own: true}, ``},
		{Nowhere, Came{Sorted: true}, `"shallows"`}, {Nowhere, Came{Sorted: true, Failed: true}, `"inbox"`},
		{Inbox, Came{Sorted: true}, ``}, {Shallows, Came{Sorted: true}, ``}, {Junk, Came{Sorted: true}, ``},
		{Archive, Came{Sorted: true}, ``}, {Later, Came{Sorted: true}, ``}, {Bin, Came{Sorted: true}, ``},
	}
	for _, c := range cases {
		s := State{ID: 1, Place: c.place, Decided: 3}
		if c.place == Later {
			s.Return = &Return{When: *at(24), SetAt: noon}
		}
		changes := Arrive(s, c.came)
		assert.Equal(t, c.want, value(changes, "place"), "%s %+v", c.place, c.came)
		if c.place == Later && c.want != "" {
			assert.Equal(t, "null", value(changes, "return"))
			assert.Contains(t, value(changes, "back"), `"old"`, "the old time is offered")
		}
	}
}

func TestDueAndLimit(t *testing.T) {
	s := State{ID: 1, Place: Later, Return: &Return{When: *at(1), SetAt: noon}}
	assert.Equal(t, `"inbox"`, value(Due(s, noon), "place"))
	assert.Contains(t, value(Due(s, noon), "back"), `"putOff":"2026-11-24T12:00:00Z"`)
	assert.Empty(t, Due(State{Place: Bin}, noon), "binned meanwhile: nothing comes back")
	assert.Equal(t, `"inbox"`, value(Limit(State{Place: Archive}, noon, noon, "Bram"), "place"))
	assert.Empty(t, Limit(State{Place: Junk}, noon, noon, "Bram"))
}

func TestWhatIsSortedOutMovesOnlyItsLike(t *testing.T) {
	sorted := Came{At: noon, Sorted: true}
	place := func(s State, came ...Came) string { return value(Arrive(s, came...), "place") }
	assert.Equal(t, `"shallows"`, place(State{Place: Archive, Sorted: true, Decided: 3}, sorted))
	assert.Empty(t, place(State{Place: Archive, Decided: 3}, sorted), "it holds a person’s letter")
	assert.Empty(t, place(State{Place: Archive, Sorted: true, Quiet: true}, sorted), "it was quietened")
	assert.Empty(t, value(Arrive(State{Place: Later, PutOffs: 2, Sorted: true, Return: &Return{When: *at(24)}}, sorted), "putOffs"), "nothing of it changes")
	assert.Equal(t, `"inbox"`, place(State{Place: Nowhere}, sorted, Came{At: noon}), "a person’s letter comes with it")
	assert.Equal(t, `"inbox"`, place(State{Place: Nowhere}, Came{At: noon}, sorted))
	done := Decision{Kind: Done, At: noon, Saw: 7}
	assert.Empty(t, value(Decide(State{Place: Shallows, Sorted: true, Last: 8}, done), "place"), "one more that was not seen: it stays there")
	assert.Equal(t, `"inbox"`, value(Decide(State{Place: Shallows, Last: 8}, done), "place"))
}

func TestWhatIsJoinedWithTheShallows(t *testing.T) {
	for _, c := range []struct {
		other State
		want  Place
	}{
		{State{Place: Archive}, Archive}, {State{Place: Archive, Sorted: true}, Shallows}, {State{Place: Inbox}, Inbox},
		{State{Place: Later, Return: &Return{When: *at(24)}}, Later}, {State{Place: Bin}, Shallows}, {State{Place: Junk}, Junk}, {State{Place: Shallows, Sorted: true}, Shallows},
	} {
		lies := State{Place: Shallows, Sorted: true}
		for _, pair := range [][2]State{{lies, c.other}, {c.other, lies}} {
			got := pair[0].Place
			for _, x := range Merge(pair[0], pair[1], noon) {
				if x.Field == "place" {
					require.NoError(t, json.Unmarshal(x.Now, &got))
				}
			}
			assert.Equal(t, c.want, got, "%s with %s", pair[0].Place, pair[1].Place)
		}
	}
}

func TestMerge(t *testing.T) {
	later := func(h int) State { return State{Place: Later, Return: &Return{When: *at(h)}} }
	someday := State{Place: Later, Return: &Return{When: when.Moment{Precision: when.Open}}}
	cases := []struct {
		a, b  State
		place string
		due   string
	}{
		{State{Place: Archive}, State{Place: Inbox}, `"inbox"`, ""},
		{later(5), State{Place: Inbox}, `"inbox"`, "null"},
		{later(5), later(2), "", "14:00:00Z"},
		{later(2), later(5), "", ""},
		{someday, later(5), "", "17:00:00Z"},
		{State{Place: Archive}, later(2), `"later"`, "14:00:00Z"},
		{State{Place: Bin}, State{Place: Archive}, `"archive"`, ""},
	}
	for _, c := range cases {
		changes := Merge(c.a, c.b, noon)
		assert.Equal(t, c.place, value(changes, "place"))
		assert.Contains(t, value(changes, "return"), c.due)
	}
	united := Merge(State{Place: Archive, Labels: []string{"a"}}, State{Place: Archive, Labels: []string{"a", "b"}}, noon)
	assert.Equal(t, "true", value(united, "label:b"))
}

// Whatever is decided, in whatever order, taking the changes back one by one
// from the newest gives the state that was there at the start.
func TestDecisionsCanBeTakenBack(t *testing.T) {
	kinds := []Kind{Answer, Done, PutOff, FollowUp, HandOn, File, ToBin, ToJunk, ToInbox}
	rapid.Check(t, func(rt *rapid.T) {
		values := map[string]json.RawMessage{}
		versions := map[string]int64{}
		s := State{ID: 1, Place: Inbox, Last: 9}
		var log [][]change.Recorded
		next := int64(0)
		for range rapid.IntRange(1, 8).Draw(rt, "steps") {
			d := Decision{Kind: rapid.SampledFrom(kinds).Draw(rt, "kind"), At: noon, Saw: 9}
			if d.Kind == PutOff {
				d.When = at(rapid.IntRange(1, 99).Draw(rt, "hours"))
			}
			var step []change.Recorded
			for _, c := range Decide(s, d) {
				next++
				if _, ok := values[c.Field]; !ok {
					values[c.Field] = c.Was
				}
				if string(values[c.Field]) != string(c.Was) {
					rt.Fatalf("%s starts from %s, but stands at %s", c.Field, c.Was, values[c.Field])
				}
				step = append(step, change.Recorded{Change: c, Before: versions[c.Field], After: next})
				versions[c.Field], values[c.Field] = next, c.Now
			}
			log = append(log, step)
			s = replay(rt, s, step)
		}
		for i := len(log) - 1; i >= 0; i-- {
			undo, kept := change.Inverse(log[i], func(c change.Change) int64 { return versions[c.Field] })
			if len(kept) > 0 {
				rt.Fatalf("step %d keeps %v", i, kept)
			}
			for _, u := range undo {
				versions[u.Field] = u.After
			}
			s = replay(rt, s, undo)
		}
		if s.Place != Inbox || s.Return != nil || s.PutOffs != 0 || s.Decided != 0 {
			rt.Fatalf("not as at the start: %+v", s)
		}
	})
}

func replay(rt *rapid.T, s State, changes []change.Recorded) State {
	for _, c := range changes {
		into := map[string]any{"place": &s.Place, "return": &s.Return, "back": &s.Back, "putOffs": &s.PutOffs, "decided": &s.Decided}[c.Field]
		if err := json.Unmarshal(c.Now, into); err != nil {
			rt.Fatal(err)
		}
	}
	return s
}

func TestInverseLeavesWhatChangedSince(t *testing.T) {
	o := change.Object{Kind: "conversation", ID: 1}
	recorded := []change.Recorded{
		{Change: change.Change{Object: o, Field: "place", Was: change.Value("inbox"), Now: change.Value("bin")}, Before: 0, After: 1},
		{Change: change.Change{Object: o, Field: "star", Was: change.Value(false), Now: change.Value(true)}, Before: 0, After: 2},
	}
	undo, kept := change.Inverse(recorded, func(c change.Change) int64 { return map[string]int64{"place": 5, "star": 2}[c.Field] })
	require.Len(t, undo, 1)
	assert.Equal(t, "star", undo[0].Field)
	require.Len(t, kept, 1)
	assert.Equal(t, "place", kept[0].Field)
}

func TestOvertakenAndUntil(t *testing.T) {
	seen := int64(7)
	assert.False(t, Overtaken(State{Version: 7}, &seen))
	assert.True(t, Overtaken(State{Version: 9}, &seen))
	assert.True(t, Overtaken(State{Version: 5}, &seen), "the step that it was seen at is undone")
	assert.False(t, Overtaken(State{Version: 9}, nil), "how it was seen makes no difference")

	s := State{Place: Later, Last: 4, Return: &Return{When: *at(24), If: when.IfSilent, Who: "bram"}}
	d := Until(s, at(48), noon)
	assert.Equal(t, Decision{Kind: PutOff, At: noon, Saw: 4, When: at(48), If: when.IfSilent, Who: "bram"}, d)
	d = Until(s, nil, noon)
	assert.Equal(t, when.IfAnswered, d.If)
	assert.Equal(t, when.Open, d.When.Precision)
}
