package waiting_test

import (
	"slices"
	"testing"
	"time"

	"pgregory.net/rapid"

	"ebbe.example/ebbe/internal/core/letter"
	"ebbe.example/ebbe/internal/core/waiting"
)

// Whatever comes, in whatever order: an expectation of all is met by the letter that
// makes them complete and by none before, one of any by the first; what is older,
// elsewhere, automatic or of somebody else never meets it.
func TestWhatMeetsAnExpectation(t *testing.T) {
	people := []string{"bram", "tove", "maren", "somebody"}
	since := time.Date(2026, 11, 24, 10, 0, 0, 0, time.UTC)
	rapid.Check(t, func(rt *rapid.T) {
		e := waiting.Expectation{
			Conversation: 5, StartID: rapid.SampledFrom([]string{"", "start@x"}).Draw(rt, "start"), Since: since,
			Persons: rapid.SliceOfNDistinct(rapid.SampledFrom(people[:3]), 1, 3, rapid.ID[string]).Draw(rt, "persons"), All: rapid.Bool().Draw(rt, "all"),
		}
		for range rapid.IntRange(1, 12).Draw(rt, "letters") {
			a := waiting.Arrival{
				From: rapid.SampledFrom(people).Draw(rt, "from"), Received: since.Add(time.Duration(rapid.IntRange(-1, 3).Draw(rt, "hours")) * time.Hour),
				Automatic: rapid.SampledFrom([]letter.Automatic{"", letter.AutoReply}).Draw(rt, "automatic"), Conversation: rapid.SampledFrom([]int64{0, 5, 6}).Draw(rt, "conversation"),
				Answers: rapid.SampledFrom([][]string{nil, {"start@x"}, {"other@x"}}).Draw(rt, "answers"),
			}
			got := waiting.Judge(e, a)
			named := slices.Contains(e.Persons, a.From)
			belongs := a.Conversation == 5 || e.StartID != "" && slices.Contains(a.Answers, e.StartID)
			answers := named && belongs && a.Received.After(since) && !a.Automatic.Is()
			switch got {
			case waiting.Meets:
				complete := !slices.ContainsFunc(e.Persons, func(p string) bool { return p != a.From && !slices.Contains(e.Answered, p) })
				if !answers || e.All && !complete {
					rt.Fatalf("%v is met by %v", e, a)
				}
				return
			case waiting.Partly:
				if !answers || !e.All {
					rt.Fatalf("%v is partly met by %v", e, a)
				}
				if !slices.Contains(e.Answered, a.From) {
					e.Answered = append(e.Answered, a.From)
				}
			case waiting.Offers:
				if named || a.Automatic.Is() || !belongs {
					rt.Fatalf("%v offers %v", e, a)
				}
			case waiting.Away:
				if !named || !a.Automatic.Is() {
					rt.Fatalf("%v is away by %v", e, a)
				}
			default:
				if answers {
					rt.Fatalf("%v takes no notice of %v", e, a)
				}
			}
		}
	})
}
