package group_test

import (
	"testing"
	"time"

	"github.com/stretchr/testify/assert"

	"ebbe.example/ebbe/internal/core/group"
	"ebbe.example/ebbe/internal/core/learning"
	"ebbe.example/ebbe/internal/core/letter"
	"ebbe.example/ebbe/internal/core/sorting"
	"ebbe.example/ebbe/internal/core/when"
)

func TestGroups(t *testing.T) {
	zone, err := time.LoadLocation("Europe/Oslo")
	assert.NoError(t, err)
	c := when.Standard(zone)
	now := time.Date(2026, 11, 24, 9, 0, 0, 0, zone)
	ago := func(days int) time.Time { return now.AddDate(0, 0, -days) }
	bram := letter.Address{Name: "Bram", Email: "Bram@Freight.example"}
	for _, c2 := range []struct {
		by   group.By
		m    group.Member
		want group.Key
	}{
		{group.Sender, group.Member{From: bram}, group.Key{Key: "bram@freight.example", Label: "Bram"}},
		{group.Sender, group.Member{}, group.Key{Label: "Nobody named"}},
		{group.Domain, group.Member{From: bram}, group.Key{Key: "freight.example", Label: "@freight.example"}},
		{group.Domain, group.Member{From: letter.Address{Email: "root"}}, group.Key{Label: "No domain"}},
		{group.Subject, group.Member{Subject: "Crates"}, group.Key{Key: "crates", Label: "Crates"}},
		{group.Subject, group.Member{Subject: "  "}, group.Key{Label: "No subject"}},
		{group.Kind, group.Member{Kind: sorting.Reading}, group.Key{Key: "reading", Label: "Reading"}},
		{group.Kind, group.Member{}, group.Key{Key: "person", Label: "People’s letters"}},
		{group.Kind, group.Member{Kind: sorting.Junk}, group.Key{Key: "person", Label: "People’s letters"}},
		{group.Label, group.Member{Label: "loan"}, group.Key{Key: "loan", Label: "loan"}},
		{group.Account, group.Member{}, group.Key{Label: "No account"}},
		{group.Age, group.Member{At: ago(0)}, group.Key{Key: "0", Label: "Today"}},
		{group.Age, group.Member{At: now.Add(time.Hour)}, group.Key{Key: "0", Label: "Today"}},
		{group.Age, group.Member{At: time.Date(2026, 11, 23, 23, 59, 0, 0, zone)}, group.Key{Key: "1", Label: "Yesterday"}},
		{group.Age, group.Member{At: ago(7)}, group.Key{Key: "2", Label: "The past 7 days"}},
		{group.Age, group.Member{At: ago(8)}, group.Key{Key: "3", Label: "The past 30 days"}},
		{group.Age, group.Member{At: ago(91)}, group.Key{Key: "5", Label: "The past year"}},
		{group.Age, group.Member{At: ago(366)}, group.Key{Key: "6", Label: "Older than a year"}},
		{group.Matters, group.Member{Learned: true, Chance: learning.Chance{P: 0.8}}, group.Key{Key: "0", Label: "Ranked high"}},
		{group.Matters, group.Member{Learned: true, Chance: learning.Chance{P: 0.5}}, group.Key{Key: "1", Label: "The rest"}},
		{group.Matters, group.Member{Learned: true}, group.Key{Key: "2", Label: "Hardly matters, by what you did with others"}},
		{group.Matters, group.Member{}, group.Key{Key: "1", Label: "The rest"}},
	} {
		assert.Equal(t, c2.want, c2.by.Of(c2.m, now, c), "%s %+v", c2.by, c2.m)
	}
	assert.Positive(t, group.Sender.Compare(group.Group{N: 1}, group.Group{N: 2}), "the largest first")
	assert.Negative(t, group.Age.Compare(group.Group{Key: group.Key{Key: "1"}, N: 1}, group.Group{Key: group.Key{Key: "2"}, N: 2}))
	assert.False(t, group.By("weather").Is())
}
