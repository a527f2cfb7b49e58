package thread

import (
	"testing"
	"time"

	"github.com/stretchr/testify/assert"

	"ebbe.example/ebbe/internal/core/letter"
)

var now = time.Date(2026, 11, 24, 12, 0, 0, 0, time.UTC)

func TestJoin(t *testing.T) {
	reply := Facts{BareSubject: "crates", IsReply: true, Persons: []string{"bram@x.example"}, At: now}
	near := BySubject{ID: 4, Last: now.Add(-time.Hour), Persons: []string{"bram@x.example"}}
	with := func(change func(*Facts)) Facts { f := reply; change(&f); return f }
	cases := []struct {
		name string
		f    Facts
		byID []int64
		subj []BySubject
		want []int64
	}{
		{"new", reply, nil, nil, nil},
		{"by reference, the oldest lives on", reply, []int64{9, 3, 9}, nil, []int64{3, 9}},
		{"by subject", reply, nil, []BySubject{near}, []int64{4}},
		{"the latest of several", reply, nil, []BySubject{{ID: 2, Last: now.Add(-48 * time.Hour), Persons: near.Persons}, near}, []int64{4}},
		{"no shared person", reply, nil, []BySubject{{ID: 4, Last: near.Last, Persons: []string{"x@y.example"}}}, nil},
		{"exactly thirty days", reply, nil, []BySubject{{ID: 4, Last: now.Add(-SubjectWindow), Persons: near.Persons}}, []int64{4}},
		{"over thirty days", reply, nil, []BySubject{{ID: 4, Last: now.Add(-SubjectWindow - 1), Persons: near.Persons}}, nil},
		{"not a reply", with(func(f *Facts) { f.IsReply = false }), nil, []BySubject{near}, nil},
		{"has references", with(func(f *Facts) { f.HasRefs = true }), nil, []BySubject{near}, nil},
		{"from a list", with(func(f *Facts) { f.Automatic = letter.List }), nil, []BySubject{near}, nil},
	}
	for _, c := range cases {
		assert.Equal(t, c.want, Join(c.f, c.byID, c.subj), c.name)
	}
}

func TestFactsOf(t *testing.T) {
	f := FactsOf(letter.Letter{
		MessageID: "c@x", InReplyTo: []string{"b@x"}, References: []string{"a@x", "b@x"}, Subject: "Re: Crates",
		From: letter.Address{Email: "Bram@x.example"}, To: []letter.Address{{Email: "ines@n.example"}, {Email: "bram@X.example"}},
	}, []string{"ines@n.example"}, now)
	assert.Equal(t, []string{"c@x", "a@x", "b@x"}, f.IDs)
	assert.Equal(t, []string{"bram@x.example"}, f.Persons)
	assert.True(t, f.HasRefs && f.IsReply && !f.WantsSubject())
}
