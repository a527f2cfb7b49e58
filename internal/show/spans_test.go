package show

import (
	"testing"

	"github.com/stretchr/testify/assert"
)

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
