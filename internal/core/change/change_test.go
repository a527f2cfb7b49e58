package change

import (
	"encoding/json"
	"fmt"
	"testing"

	"github.com/stretchr/testify/assert"
	"pgregory.net/rapid"
)

func TestAListLeavesOutWhatChangesNothing(t *testing.T) {
	var l List
	o := Object{"conversation", 7}
	l.Set(o, "place", "inbox", "inbox")
	l.Set(o, "note", nil, "call first")
	l.Set(o, "star", false, true)
	assert.Equal(t, List{
		{o, "note", Null, json.RawMessage(`"call first"`), 0},
		{o, "star", json.RawMessage("false"), json.RawMessage("true"), 0},
	}, l)
	assert.Panics(t, func() { Value(make(chan int)) })
}

// fields is a model of what the store does: every field has a value and a
// version, and each change of it makes a new version.
type fields struct {
	values   map[string]string
	versions map[string]int64
	last     int64
}

func (f *fields) change(name, to string) Recorded {
	c, _ := Set(Object{"thing", 1}, name, f.values[name], to)
	f.last++
	r := Recorded{Change: c, Before: f.versions[name], After: f.last}
	f.values[name], f.versions[name] = to, f.last
	return r
}

func (f *fields) undo(step []Recorded) (kept []Recorded) {
	undo, kept := Inverse(step, func(c Change) int64 { return f.versions[c.Field] })
	for _, u := range undo {
		var to string
		if err := json.Unmarshal(u.Now, &to); err != nil {
			panic(err)
		}
		f.values[u.Field], f.versions[u.Field] = to, u.After
	}
	return kept
}

func (f *fields) String() string { return fmt.Sprint(f.values) }

// Steps that are undone in any order leave each field with the value that the
// steps which stand gave it, or tell what they kept; undone from the last one
// back, they leave everything as it was.
func TestInverse(t *testing.T) {
	rapid.Check(t, func(rt *rapid.T) {
		f := &fields{map[string]string{"a": "", "b": "", "c": ""}, map[string]int64{}, 0}
		var steps [][]Recorded
		var before []string
		for range rapid.IntRange(1, 6).Draw(rt, "steps") {
			before = append(before, f.String())
			var step []Recorded
			for range rapid.IntRange(1, 4).Draw(rt, "changes") {
				name := rapid.SampledFrom([]string{"a", "b", "c"}).Draw(rt, "field")
				step = append(step, f.change(name, fmt.Sprint(f.last)))
			}
			steps = append(steps, step)
		}
		if early := rapid.IntRange(0, len(steps)-1).Draw(rt, "early"); early < len(steps)-1 {
			// One in the middle: what a later step changed is kept.
			later := map[string]bool{}
			for _, s := range steps[early+1:] {
				for _, r := range s {
					later[r.Field] = true
				}
			}
			was := map[string]string{}
			for name, v := range f.values {
				was[name] = v
			}
			for _, k := range f.undo(steps[early]) {
				if !later[k.Field] {
					rt.Fatalf("%s was kept though nothing changed it since", k.Field)
				}
			}
			for name := range later {
				if f.values[name] != was[name] {
					rt.Fatalf("%s was changed since, and yet undone", name)
				}
			}
			return
		}
		for i := len(steps) - 1; i >= 0; i-- {
			if kept := f.undo(steps[i]); len(kept) > 0 {
				rt.Fatalf("step %d keeps %v", i, kept)
			}
			if f.String() != before[i] {
				rt.Fatalf("step %d leaves %s, not %s", i, f, before[i])
			}
		}
	})
}

// What was changed since keeps with it what stands together with it, and
// nothing else.
func TestTogether(t *testing.T) {
	at := func(id int64, field string) Recorded {
		return Recorded{Change: Change{Object: thing.Of(id), Field: field}}
	}
	undo := []Recorded{at(1, "time"), at(1, "star"), at(2, "time"), at(2, "place")}
	assert.Equal(t, []Recorded{at(1, "star"), at(2, "time"), at(2, "place")}, Together(undo, []Recorded{at(1, "place"), at(2, "star")}))
}

var thing = Declare[struct {
	Kind
	Place Field[string] `together:"place"`
	Time  Field[*int]   `together:"place"`
	Star  Field[bool]   `field:",personal"`
	Odd   Field[int]    `field:"even"`
	Named Family[bool]  `field:"name:"`
}]("thing")

// A field knows what it is of, and its values.
func TestFields(t *testing.T) {
	var l List
	seven := 7
	thing.Time.Set(&l, 3, nil, &seven)
	thing.Odd.Set(&l, 3, 1, 1)
	thing.Star.SetFor(&l, 3, 9, false, true)
	thing.Named.Field("x").Set(&l, 3, true, false)
	assert.Equal(t, List{
		{thing.Of(3), "time", Null, json.RawMessage("7"), 0},
		{thing.Of(3), "star", json.RawMessage("false"), json.RawMessage("true"), 9},
		{thing.Of(3), "name:x", json.RawMessage("true"), json.RawMessage("false"), 0},
	}, l)
	now, ok := thing.Time.Now(l[0])
	assert.True(t, ok)
	assert.Equal(t, 7, *now)
	_, ok = thing.Place.Was(l[0])
	assert.False(t, ok, "it is of another field")
	name, ok := thing.Named.NameIn(l[2])
	assert.Equal(t, []any{"x", true}, []any{name, ok})
	for i, want := range []Named{thing.Time.Named, thing.Star.Named, thing.Named.Named} {
		f, ok := FieldOf(l[i])
		assert.True(t, ok)
		assert.Equal(t, want, f)
	}
	assert.True(t, thing.Star.Personal)
	assert.Equal(t, "even", thing.Odd.Name)
	_, ok = FieldOf(Change{Object: thing.Of(1), Field: "none"})
	assert.False(t, ok)
	assert.Panics(t, func() { Declare[struct{ Wrong int }]("wrong") })
}
