package remote_test

import (
	"fmt"
	"slices"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"pgregory.net/rapid"

	"ebbe.example/ebbe/internal/core/decide"
	"ebbe.example/ebbe/internal/core/remote"
	"ebbe.example/ebbe/internal/core/sorting"
)

var morning = time.Date(2026, 11, 24, 8, 0, 0, 0, time.UTC)

// keepsAll is what most servers keep.
const keepsAll = remote.Seen | remote.Flagged | remote.Answered | remote.Forwarded | remote.ReceiptSent | remote.Labels

// copies are letters in folders, the oldest first.
func copies(roles ...remote.Role) (out []remote.Copy) {
	for i, r := range roles {
		out = append(out, remote.Copy{Letter: int64(i + 1), At: morning.Add(time.Duration(i) * time.Hour), Role: r, Own: r == remote.Sent, Keeps: keepsAll})
	}
	return out
}

// shallow is a letter in the folder of a kind.
func shallow(kind string) []remote.Copy {
	out := copies(remote.Shallows)
	out[0].Phrase = kind
	return out
}

func TestPlaceThere(t *testing.T) {
	cases := []struct {
		in   []remote.Copy
		want decide.Place
	}{
		{nil, decide.Nowhere},
		{copies(remote.Sent, remote.Drafts), decide.Nowhere},
		{copies(remote.Archive, remote.Inbox, remote.Bin), decide.Inbox},
		{copies(remote.Archive, remote.Later), decide.Later},
		{copies(remote.Bin, remote.Bin, remote.Sent), decide.Bin},
		{copies(remote.Bin, remote.Archive), decide.Archive},
		{copies(remote.Bin, remote.Other), decide.Archive},
		{copies(remote.Junk), decide.Junk},
		{copies(remote.Junk, remote.Bin), decide.Archive},
		{copies(remote.Shallows, remote.Archive), decide.Shallows},
		{copies(remote.Shallows, remote.Inbox), decide.Inbox},
		{copies(remote.Shallows, remote.Later), decide.Later},
		{copies(remote.All), decide.Archive},
		{copies(remote.All, remote.Inbox), decide.Inbox},
		{copies(remote.All, remote.Bin), decide.Bin},
	}
	for _, c := range cases {
		assert.Equal(t, c.want, remote.PlaceThere(c.in), "%v", c.in)
	}
}

// What was done elsewhere is told from what both sides last agreed on, what is there
// now, and how it stands here.
func TestElsewhere(t *testing.T) {
	cases := []struct {
		name        string
		here        decide.Place
		before, now []remote.Copy
		want        remote.Decision
	}{
		{"nothing", decide.Inbox, copies(remote.Inbox), copies(remote.Inbox), remote.Decision{}},
		{"archived", decide.Inbox, copies(remote.Inbox), copies(remote.Archive), remote.Decision{Kind: decide.Done}},
		{"one of two archived", decide.Inbox, copies(remote.Inbox, remote.Inbox), copies(remote.Archive, remote.Inbox), remote.Decision{}},
		{"filed in another folder", decide.Inbox, copies(remote.Inbox), copies(remote.Other), remote.Decision{Kind: decide.Done}},
		{"binned", decide.Inbox, copies(remote.Inbox), copies(remote.Bin), remote.Decision{Kind: decide.ToBin}},
		{"the last one binned, the rest archived", decide.Inbox, copies(remote.Archive, remote.Inbox), copies(remote.Archive, remote.Bin), remote.Decision{Kind: decide.Done}},
		{"taken off the server", decide.Inbox, copies(remote.Inbox), nil, remote.Decision{Kind: decide.ToBin}},
		{"junk", decide.Inbox, copies(remote.Inbox), copies(remote.Junk), remote.Decision{Kind: decide.ToJunk}},
		{"back", decide.Archive, copies(remote.Archive), copies(remote.Inbox), remote.Decision{Kind: decide.ToInbox}},
		{"put off by a folder", decide.Inbox, copies(remote.Inbox), []remote.Copy{{Letter: 1, Role: remote.Deciding, Phrase: "next week"}}, remote.Decision{Kind: decide.PutOff, When: "next week"}},
		{"put off by Later itself", decide.Inbox, copies(remote.Inbox), copies(remote.Later), remote.Decision{Kind: decide.PutOff, When: remote.UsualPhrase}},
		{"followed up, and not moved on yet", decide.Archive, copies(remote.Track), copies(remote.Track), remote.Decision{}},
		{"put off, and not moved on yet", decide.Later, copies(remote.Deciding), copies(remote.Deciding), remote.Decision{}},
		{"followed up, half taken in before a crash", decide.Inbox, []remote.Copy{{Letter: 1, Role: remote.Inbox}, {Letter: 1, Role: remote.Track}}, copies(remote.Track), remote.Decision{Kind: decide.FollowUp}},
		{"followed up", decide.Archive, copies(remote.Archive), copies(remote.Track), remote.Decision{Kind: decide.FollowUp}},
		{"on both sides alike", decide.Archive, copies(remote.Inbox), copies(remote.Archive), remote.Decision{}},
		{"on both sides, the later wins", decide.Later, copies(remote.Inbox), copies(remote.Archive), remote.Decision{Kind: decide.Done}},
		{"the bin never wins by itself", decide.Later, copies(remote.Inbox), copies(remote.Bin), remote.Decision{Lost: true}},
		{"gone there, decided here", decide.Archive, copies(remote.Inbox), nil, remote.Decision{Lost: true}},
		{"what has come is an arrival", decide.Archive, copies(remote.Archive), copies(remote.Archive, remote.Inbox), remote.Decision{}},
		{"only sent there", decide.Archive, copies(remote.Sent), nil, remote.Decision{}},
		{"sorted out lies in its inbox", decide.Shallows, copies(remote.Inbox), copies(remote.Inbox), remote.Decision{}},
		{"sorted out, and archived there", decide.Shallows, copies(remote.Inbox), copies(remote.Archive), remote.Decision{Kind: decide.Done}},
		{"sorted out, and back there", decide.Shallows, copies(remote.Archive), copies(remote.Inbox), remote.Decision{Sort: sorting.Person}},
		{"from its folder to the inbox", decide.Shallows, shallow("notices"), copies(remote.Inbox), remote.Decision{Sort: sorting.Person}},
		{"from its folder to the inbox, and decided here", decide.Archive, shallow("notices"), copies(remote.Inbox), remote.Decision{Kind: decide.ToInbox}},
		{"from its folder to another", decide.Shallows, shallow("notices"), shallow("reading"), remote.Decision{Sort: sorting.Reading}},
		{"to where it lies here", decide.Shallows, shallow("reading"), shallow("notices"), remote.Decision{}},
		{"to a kind from the inbox", decide.Inbox, copies(remote.Inbox), shallow("receipts"), remote.Decision{Sort: sorting.Receipts}},
		{"to the Shallows themselves", decide.Inbox, copies(remote.Inbox), shallow(""), remote.Decision{Sort: sorting.Reading}},
		{"its folder, as it was", decide.Shallows, shallow("notices"), shallow("notices"), remote.Decision{}},
		{"its folder, put off here", decide.Later, shallow("notices"), shallow("notices"), remote.Decision{}},
		{"archived out of its folder", decide.Shallows, shallow("notices"), copies(remote.Archive), remote.Decision{Kind: decide.Done}},
		{"taken off out of its folder", decide.Shallows, shallow("notices"), nil, remote.Decision{Kind: decide.ToBin}},
		{"binned out of its folder, done here", decide.Archive, shallow("notices"), copies(remote.Bin), remote.Decision{Lost: true}},
		{"sorted out, and binned there", decide.Shallows, copies(remote.Inbox), copies(remote.Bin), remote.Decision{Kind: decide.ToBin}},
		{"fetched from Later", decide.Later, copies(remote.Later), copies(remote.Inbox), remote.Decision{Kind: decide.ToInbox}},
	}
	for _, c := range cases {
		assert.Equal(t, c.want, remote.Elsewhere(remote.Here{Place: c.here, Kind: sorting.Notices}, c.before, c.now), c.name)
	}
}

func TestStarsAndSeen(t *testing.T) {
	plain, star := copies(remote.Inbox, remote.Inbox), copies(remote.Inbox, remote.Inbox)
	star[0].Flags = remote.Flagged
	on, changed := remote.StarElsewhere(false, plain, star)
	assert.True(t, on && changed)
	on, changed = remote.StarElsewhere(true, star, plain)
	assert.True(t, !on && changed)
	_, changed = remote.StarElsewhere(true, plain, star)
	assert.False(t, changed, "it has one here already")
	_, changed = remote.StarElsewhere(true, plain, plain)
	assert.False(t, changed, "the one here is not told yet")

	assert.Zero(t, remote.SeenElsewhere(plain, plain))
	seen := copies(remote.Inbox, remote.Inbox)
	seen[0].Flags = remote.Seen
	assert.EqualValues(t, 1, remote.SeenElsewhere(plain, seen))
	assert.Zero(t, remote.SeenElsewhere(seen, plain))
	last, changed := remote.UnseenElsewhere(seen, plain)
	assert.True(t, changed)
	assert.Zero(t, last)
	both := copies(remote.Inbox, remote.Inbox)
	both[0].Flags, both[1].Flags = remote.Seen, remote.Seen
	last, changed = remote.UnseenElsewhere(both, seen)
	assert.True(t, changed)
	assert.EqualValues(t, 1, last, "the older one is still read")
	_, changed = remote.UnseenElsewhere(plain, plain)
	assert.False(t, changed)
}

// server carries out what it is told.
func server(list []remote.Copy, acts []remote.Act) {
	for _, a := range acts {
		c := &list[a.Copy]
		if a.Moves {
			c.Role, c.Phrase = a.To, a.Phrase
		}
		c.Flags = c.Flags&^a.Clear | a.Set
		c.Labels = slices.DeleteFunc(append(slices.Clone(c.Labels), a.Label...), func(l string) bool { return slices.Contains(a.Unlabel, l) })
	}
}

// Whatever the server has: once it was told, a conversation stands there as it does
// here; telling it again tells nothing; and it isn't taken for something that was done
// elsewhere.
func TestToldOnceBothAgree(t *testing.T) {
	roles := []remote.Role{remote.Inbox, remote.Archive, remote.Other, remote.Bin, remote.Junk, remote.Sent, remote.Later, remote.Deciding, remote.Track, remote.Held, remote.All, remote.Shallows}
	labels := []string{"Spring fair", "Suppliers", "spring FAIR"}
	places := []decide.Place{decide.Inbox, decide.Archive, decide.Later, decide.Bin, decide.Junk, decide.Shallows}
	rapid.Check(t, func(rt *rapid.T) {
		list := copies(rapid.SliceOfN(rapid.SampledFrom(roles), 1, 6).Draw(rt, "roles")...)
		for i := range list {
			list[i].Flags = remote.Flags(rapid.IntRange(0, 31).Draw(rt, "flags"))
			list[i].Keeps = remote.Flags(rapid.IntRange(0, 63).Draw(rt, "keeps"))
			list[i].Flags &= list[i].Keeps
			if list[i].Role == remote.Shallows {
				list[i].Phrase = rapid.SampledFrom([]string{"reading", "notices", ""}).Draw(rt, "folder")
			}
			if list[i].Keeps.Has(remote.Labels) {
				list[i].Labels = rapid.SliceOfNDistinct(rapid.SampledFrom(labels), 0, 2, rapid.ID[string]).Draw(rt, "labels")
			}
		}
		seen := rapid.IntRange(0, 6).Draw(rt, "seen")
		h := remote.Here{
			Place: rapid.SampledFrom(places).Draw(rt, "place"), Kind: rapid.SampledFrom([]sorting.Kind{sorting.Reading, sorting.Notices}).Draw(rt, "kind"), Star: rapid.Bool().Draw(rt, "star"),
			Seen:   func(c remote.Copy) bool { return c.Letter <= int64(seen) },
			Labels: rapid.SliceOfNDistinct(rapid.SampledFrom(labels[:2]), 0, 2, rapid.ID[string]).Draw(rt, "labels here"),
			Marks:  func(letter int64) remote.Flags { return remote.Flags(letter) & (remote.Answered | remote.Forwarded) },
		}
		was, stands := fmt.Sprint(list), h.Place
		server(list, remote.Push(h, list))
		if there := remote.PlaceThere(list); there != decide.Nowhere && there != stands && !onlyShown(list) {
			rt.Fatalf("%s became %v, which is %s, not %s", was, list, there, stands)
		}
		if again := remote.Push(h, list); len(again) > 0 {
			rt.Fatalf("%s became %v, of which %v is told again", was, list, again)
		}
		if d := remote.Elsewhere(h, list, list); d.Sort != "" || d.Kind != "" && d.Kind != decide.PutOff && d.Kind != decide.FollowUp {
			rt.Fatalf("%v is taken for %v", list, d)
		}
		if star, changed := remote.StarElsewhere(h.Star, list, list); changed {
			rt.Fatalf("%v is taken for a star %v", list, star)
		}
		if on, off := remote.LabelsElsewhere(h.Labels, list, list); len(on)+len(off) > 0 {
			rt.Fatalf("%v is taken for the labels %v and not %v", list, on, off)
		}
		for _, c := range list {
			if c.Flags&^c.Keeps != 0 {
				rt.Fatalf("%v: a folder was told what it doesn't keep", list)
			}
			if (c.Role == remote.Deciding || c.Role == remote.Track || c.Role == remote.Held) && h.Place != decide.Nowhere {
				rt.Fatalf("%v: a folder that decides is not empty", list)
			}
		}
	})
}

// onlyShown tells of a conversation of which nothing but a view of all is there.
func onlyShown(list []remote.Copy) bool {
	for _, c := range list {
		if c.Role != remote.All && c.Role != remote.Sent {
			return false
		}
	}
	return true
}

func TestSort(t *testing.T) {
	type want struct {
		role          remote.Role
		label, phrase string
	}
	cases := []struct {
		listed remote.Listed
		want   want
	}{
		{remote.Listed{Name: "inbox", Delimiter: '/'}, want{role: remote.Inbox}},
		{remote.Listed{Name: "Kept", Delimiter: '/', Uses: []string{`\HasNoChildren`, `\Archive`}}, want{role: remote.Archive}},
		{remote.Listed{Name: "Archive", Delimiter: '/'}, want{label: "Archive"}},
		{remote.Listed{Name: "Papierkorb", Delimiter: '/'}, want{role: remote.Bin}},
		{remote.Listed{Name: "INBOX.Sent", Delimiter: '.'}, want{role: remote.Sent}},
		{remote.Listed{Name: "Projects/Spring", Delimiter: '/'}, want{label: "Projects/Spring"}},
		{remote.Listed{Name: "INBOX.Projects.Spring", Delimiter: '.'}, want{label: "Projects/Spring"}},
		{remote.Listed{Name: "Later", Delimiter: '/'}, want{role: remote.Later}},
		{remote.Listed{Name: "INBOX.Later.next week", Delimiter: '.'}, want{role: remote.Deciding, phrase: "next week"}},
		{remote.Listed{Name: "Later/tomorrow", Delimiter: '/'}, want{role: remote.Deciding, phrase: "tomorrow"}},
		{remote.Listed{Name: "Follow up"}, want{role: remote.Track}},
		{remote.Listed{Name: "Held"}, want{role: remote.Held}},
		{remote.Listed{Name: "Everything", Uses: []string{`\All`}}, want{role: remote.All}},
		{remote.Listed{Name: "Projects", NoLetters: true}, want{role: remote.Hidden}},
	}
	var list []remote.Listed
	for _, c := range cases {
		list = append(list, c.listed)
	}
	for i, f := range remote.Sort(list, true) {
		w := cases[i].want
		assert.Equal(t, w, want{f.Role, f.Label, f.Phrase}, f.Name)
	}
}

// New folders are named as the server names its own.
func TestNamesOfNewFolders(t *testing.T) {
	slashes := remote.Sort([]remote.Listed{{Name: "INBOX", Delimiter: '/'}, {Name: "Sent", Delimiter: '/'}}, false)
	within := remote.Sort([]remote.Listed{{Name: "INBOX", Delimiter: '.'}, {Name: "INBOX.Sent", Delimiter: '.'}}, false)
	assert.Equal(t, "Later/next week", remote.NameOfPhrase("next week", slashes))
	assert.Equal(t, "INBOX.Later.next week", remote.NameOfPhrase("next week", within))
	assert.Equal(t, "INBOX.Archive", remote.NameFor(remote.Archive, within))
	assert.Equal(t, "Trash", remote.NameFor(remote.Bin, nil))
}

func TestServersFromDNS(t *testing.T) {
	found, ok := remote.Incoming[0].Found(remote.Target{Host: "Mail.Example.", Port: 993})
	assert.True(t, ok)
	assert.Equal(t, remote.Server{Host: "mail.example", Port: 993, Security: "tls"}, found)
	_, ok = remote.Incoming[0].Found(remote.Target{Host: ".", Port: 0})
	assert.False(t, ok, "a single dot says that there is none")
	assert.False(t, remote.Foreign(found, "example"))
	assert.False(t, remote.Foreign(remote.Server{Host: "a.b.example"}, "b.example"))
	assert.True(t, remote.Foreign(remote.Server{Host: "b.example.evil"}, "b.example"))
	assert.True(t, remote.Foreign(remote.Server{Host: "notb.example"}, "b.example"))
}

func ExampleElsewhere() {
	before := []remote.Copy{{Letter: 1, Role: remote.Inbox}}
	now := []remote.Copy{{Letter: 1, Role: remote.Deciding, Phrase: "tomorrow"}}
	d := remote.Elsewhere(remote.Here{Place: decide.Inbox}, before, now)
	fmt.Println(d.Kind, d.When)
	// Output: later tomorrow
}

func TestAFolderCalledHeldIsSomebodysOwn(t *testing.T) {
	assert.Equal(t, "Held", remote.Sort([]remote.Listed{{Name: "Held"}}, false)[0].Label, "unless the account says that it holds")
}

func TestKeywords(t *testing.T) {
	cases := []struct{ label, keyword string }{
		{"Suppliers", "Suppliers"}, {"Spring fair", "Spring_fair"}, {"a_b", "a=5Fb"}, {"Küche", "K=C3=BCche"}, {"50% (late)", "50=25_=28late=29"},
		{"$important", "=24important"}, {"Junk", "=4Aunk"}, {"Projects/Spring", "Projects/Spring"}, {`a"b\c]`, "a=22b=5Cc=5D"},
	}
	for _, c := range cases {
		assert.Equal(t, c.keyword, remote.Keyword(c.label))
		label, ok := remote.LabelOf(c.keyword)
		assert.True(t, ok)
		assert.Equal(t, c.label, label)
	}
	long := remote.Keyword(strings.Repeat("ü", 40))
	assert.True(t, strings.HasPrefix(long, remote.HashedKeyword) && len(long) <= 50, long)
	for _, none := range []string{"", `\Seen`, "$Forwarded", "NonJunk", "junk", "$label1"} {
		_, ok := remote.LabelOf(none)
		assert.False(t, ok, none)
	}
}

// Any label comes back as it was, from something that a server takes for a flag (RFC 9051:
// flag-keyword is an atom).
func TestAnyLabelIsAKeyword(t *testing.T) {
	rapid.Check(t, func(rt *rapid.T) {
		label := strings.Join(strings.Fields(rapid.String().Draw(rt, "label")), " ")
		if label == "" {
			return
		}
		keyword := remote.Keyword(label)
		if i := strings.IndexFunc(keyword, func(r rune) bool { return r <= ' ' || r >= 0x7f || strings.ContainsRune(`(){%*"\]`, r) }); i >= 0 {
			rt.Fatalf("%q has %q in it", keyword, keyword[i])
		}
		if got, ok := remote.LabelOf(keyword); !strings.HasPrefix(keyword, remote.HashedKeyword) && (!ok || got != label) {
			rt.Fatalf("%q became %q", label, got)
		}
	})
}

func TestLabelsElsewhere(t *testing.T) {
	with := func(labels ...string) []remote.Copy {
		out := copies(remote.Inbox, remote.Inbox)
		out[0].Labels = labels
		return out
	}
	cases := []struct {
		name        string
		here        []string
		before, now []remote.Copy
		on, off     []string
	}{
		{"put on", nil, with(), with("Spring"), []string{"Spring"}, nil},
		{"taken off", []string{"Spring"}, with("Spring"), with(), nil, []string{"Spring"}},
		{"as it was", []string{"Spring"}, with("Spring"), with("Spring"), nil, nil},
		{"not told yet", []string{"Spring"}, with(), with(), nil, nil},
		{"put on in both places", []string{"Spring"}, with(), with("SPRING"), nil, nil},
		{"in another case", []string{"Spring"}, with("spring"), with(), nil, []string{"Spring"}},
	}
	for _, c := range cases {
		on, off := remote.LabelsElsewhere(c.here, c.before, c.now)
		assert.Equal(t, c.on, on, c.name)
		assert.Equal(t, c.off, off, c.name)
	}
}
