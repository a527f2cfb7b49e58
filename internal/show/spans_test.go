package show

import (
	"testing"
	"time"

	"github.com/stretchr/testify/assert"

	"ebbe.example/ebbe/internal/core/review"
)

// What is left at night is the mean of the nights, by the curve before each of them.
func TestMeanOfNights(t *testing.T) {
	at := func(hour int) time.Time { return time.Date(2026, 11, 24, hour, 0, 0, 0, time.UTC) }
	curve := []review.Point{{At: at(0), Count: 4}, {At: at(8), Count: 10}, {At: at(20), Count: 1}}
	for _, c := range []struct {
		nights nights
		want   int
	}{
		{nil, 0}, {nights{at(4)}, 4}, {nights{at(8)}, 4}, {nights{at(9)}, 10}, {nights{at(9), at(23)}, 6}, {nights{at(4), at(9), at(23)}, 5},
	} {
		assert.Equal(t, c.want, c.nights.mean(curve), "%v", c.nights)
	}
	assert.Zero(t, nights{at(4)}.mean(nil))
}

// What is put beside each other is said only where it differs, and never judged.
func TestBeside(t *testing.T) {
	was := DaysPart{Came: 10, Night: 7, PutOffs: 3, Interrupted: 40, MineSays: "2 h", TheirsSays: "3 h"}
	now := DaysPart{Came: 10, Night: 2, PutOffs: 4, Interrupted: 40, MineSays: "1 h", TheirsSays: "3 h"}
	assert.Equal(t, []SheetLine{{"undecided at night", "7 → 2"}, {"put-offs", "3 → 4"}, {"you answered in", "2 h → 1 h"}}, beside(was, now))
	assert.Equal(t, "Against your first full week: 5 fewer undecided at night, 1 more put-offs.", sinceInWords(was, now))
	assert.Contains(t, sinceInWords(was, was), "As many")
}

// A sheet reads as Markdown whatever stands in letters.
func TestSheetAsMarkdown(t *testing.T) {
	s := DaySheet{Label: "Tuesday 24 November", Head: "low water · 2 decided", Came: SheetBar{2, []SheetPart{{"once", "as they came", 2}}},
		Waits: []SheetWait{{1, "Bram <b>", "*Crates*\n# now | [x](y)", "3 d"}}, Tomorrow: &SheetTomorrow{Label: "Tomorrow", Free: "195 min free", Lines: []SheetLine{{"Come back", "1 letter"}}, Fits: "It fits."}}
	assert.Equal(t, "# Tuesday 24 November\n\nLow water · 2 decided\n\n## Came 2\n\n- as they came: 2\n\n## Decided 0\n\n\n## Waits longest on you\n\n- Bram \\<b>, \\*Crates\\* \\# now \\| \\[x\\](y): 3 d\n\n## Tomorrow, 195 min free\n\n- Come back: 1 letter\n\nIt fits.\n", s.Markdown())
}

func TestDaysAsCSV(t *testing.T) {
	two := int64(7200)
	d := Days{Parts: []DaysPart{{From: "2026-11-24", Came: 3, Mine: &two}, {From: "2026-11-25", Future: true}}}
	assert.Equal(t, [][]string{csvHead, {"2026-11-24", "3", "0", "0", "0", "0", "0", "7200", "", "0", "0"}}, d.CSV())
}
