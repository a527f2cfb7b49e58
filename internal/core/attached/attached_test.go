package attached_test

import (
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"ebbe.example/ebbe/internal/core/attached"
	"ebbe.example/ebbe/internal/core/letter"
)

func TestSortOf(t *testing.T) {
	for _, c := range []struct {
		name, kind string
		want       attached.Sort
	}{
		{"plan.PDF", "application/octet-stream", attached.PDF},
		{"plan", "application/pdf", attached.PDF},
		{"plan", "application/pdf; name=\"x\"", attached.PDF},
		{"photo", "image/png", attached.Picture},
		{"photo", "image/x-unheard", attached.Picture},
		{"numbers.xlsx", "", attached.Table},
		{"readings", "text/csv", attached.Table},
		{"notes", "text/plain", attached.Text},
		{"talk.odp", "", attached.Slides},
		{"invite.ics", "text/calendar", attached.Calendar},
		{"", "message/rfc822", attached.Letter},
		{"song", "audio/ogg", attached.Sound},
		{"walk.mov", "", attached.Film},
		{"all.tar.gz", "", attached.Packed},
		{"", "", attached.Other},
		{"what.is", "a b c", attached.Other},
	} {
		assert.Equal(t, c.want, attached.SortOf(c.name, c.kind), "%s %s", c.name, c.kind)
	}
}

// What is picked is what is asked for, all of it, in order; counts are of all sorts.
func TestPicked(t *testing.T) {
	at := time.Date(2026, 11, 24, 8, 20, 0, 0, time.UTC)
	list := []attached.File{
		{Letter: 1, Name: "plan-2.pdf", Sort: attached.PDF, Size: 30, From: letter.Address{Name: "Bram Oosterhuis", Email: "bram@freight.example"}, At: at},
		{Letter: 2, Name: "Ærø.png", Sort: attached.Picture, Size: 10, From: letter.Address{Email: "oda@school.example"}, Subject: "Class 4", At: at.Add(time.Hour)},
		{Letter: 2, Part: 1, Name: "list.csv", Sort: attached.Table, Size: 20, From: letter.Address{Email: "oda@school.example"}, Subject: "Class 4", At: at.Add(time.Hour)},
	}
	for _, c := range []struct {
		ask  attached.Asked
		want string
	}{
		{attached.Asked{}, "Ærø.png list.csv plan-2.pdf"},
		{attached.Asked{Order: attached.Largest}, "plan-2.pdf list.csv Ærø.png"},
		{attached.Asked{Order: attached.ByName}, "list.csv plan-2.pdf Ærø.png"},
		{attached.Asked{Order: attached.BySender}, "plan-2.pdf Ærø.png list.csv"},
		{attached.Asked{Sort: attached.Table}, "list.csv"},
		{attached.Asked{Near: "oost"}, "plan-2.pdf"},
		{attached.Asked{Near: "class li"}, "list.csv"},
		{attached.Asked{Near: "aero"}, "Ærø.png"},
		{attached.Asked{Near: "nothing"}, ""},
	} {
		files, of := attached.Picked(list, c.ask)
		var names []string
		for _, f := range files {
			names = append(names, f.Name)
		}
		assert.Equal(t, c.want, strings.Join(names, " "), "%+v", c.ask)
		if c.ask.Near == "" {
			assert.Equal(t, map[attached.Sort]int{attached.PDF: 1, attached.Picture: 1, attached.Table: 1}, of)
		}
	}
}

func TestRows(t *testing.T) {
	for _, c := range []struct {
		text string
		want [][]string
	}{
		{"", nil},
		{"a,b\r\n1,2\r\n", [][]string{{"a", "b"}, {"1", "2"}}},
		{"\ufeffa;b\n1,5;2\n", [][]string{{"a", "b"}, {"1,5", "2"}}},
		{"a\tb, c\n1\t2", [][]string{{"a", "b, c"}, {"1", "2"}}},
		{"\"a,;;;\",b\n", [][]string{{"a,;;;", "b"}}},
		{"a,\"b\nc\"\nd", [][]string{{"a", "b\nc"}, {"d"}}},
		{"a\"b,c\n", [][]string{{"a\"b", "c"}}},
	} {
		rows, more := attached.Rows(c.text)
		assert.Equal(t, c.want, rows, "%q", c.text)
		assert.False(t, more)
	}
	rows, more := attached.Rows(strings.Repeat(strings.Repeat("x", 300)+","+strings.Repeat("y,", 100)+"\n", 200))
	require.Len(t, rows, attached.MaxRows)
	assert.True(t, more)
	assert.Len(t, rows[0], 24)
	assert.Len(t, []rune(rows[0][0]), 200)
}

// However a table is written, it is shown, and bounded.
func TestAnyTextIsATable(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		rows, _ := attached.Rows(rapid.String().Draw(t, "text"))
		require.LessOrEqual(t, len(rows), attached.MaxRows)
	})
}
