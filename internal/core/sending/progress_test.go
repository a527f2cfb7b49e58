package sending_test

import (
	"slices"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"pgregory.net/rapid"

	"ebbe.example/ebbe/internal/core/letter"
	"ebbe.example/ebbe/internal/core/sending"
)

func TestAlong(t *testing.T) {
	at := func(minute int) time.Time { return time.Date(2026, 11, 24, 10, minute, 0, 0, time.UTC) }
	said := []sending.Outcome{{To: "bram@x.example", State: sending.Accepted, At: at(0)}, {To: "oda@y.example", State: sending.Refused, Reason: "550", At: at(0)}}
	report := func(kind letter.ReportKind, to string, minute int) sending.Report {
		return sending.Report{Reported: letter.Reported{Kind: kind, Recipient: to}, At: at(minute)}
	}
	got := sending.Along(said, []sending.Report{
		report(letter.Delivered, "BRAM@x.example", 2), report(letter.Delayed, "bram@x.example", 3), report(letter.WasRead, "bram@x.example", 9),
		report(letter.Relayed, "other@z.example", 4), report(letter.NotRead, "bram@x.example", 5),
	})
	assert.Equal(t, []sending.Progress{
		{To: "bram@x.example", Step: sending.StepRead, At: at(9)},
		{To: "oda@y.example", Step: sending.StepFailed, At: at(0), Reason: "550"},
		{To: "other@z.example", Step: sending.StepRelayed, At: at(4)},
	}, got)
	alone := sending.Along(said[:1], []sending.Report{report(letter.Delivered, "b.oosterhuis@else.example", 2)})
	assert.Equal(t, []sending.Progress{{To: "bram@x.example", Step: sending.StepDelivered, At: at(2)}}, alone)
	assert.Empty(t, sending.Along(nil, nil))
}

// In whatever order reports come, the same is told in the end.
func TestTheOrderOfReportsMakesNoDifference(t *testing.T) {
	kinds := []letter.ReportKind{letter.Failed, letter.Delayed, letter.Relayed, letter.Expanded, letter.Delivered, letter.WasRead}
	rapid.Check(t, func(t *rapid.T) {
		some := rapid.SliceOfNDistinct(rapid.SampledFrom(kinds), 1, len(kinds), rapid.ID).Draw(t, "kinds")
		reports := make([]sending.Report, len(some))
		for i, k := range some {
			reports[i] = sending.Report{Reported: letter.Reported{Kind: k, Recipient: "a@x.example"}, At: time.Unix(int64(slices.Index(kinds, k)), 0)}
		}
		said := []sending.Outcome{{To: "a@x.example", State: sending.Accepted}}
		want := sending.Along(said, reports)
		assert.Equal(t, want, sending.Along(said, rapid.Permutation(reports).Draw(t, "order")))
	})
}
