package demo

import (
	"fmt"
	"strings"
	"time"

	"ebbe.example/ebbe/internal/core/letter"
)

// small are the letters of the small made-up world, the oldest first, with the hours ago at
// which they came: things to answer, to put off, to follow up, to hand on, to file and to bin.
var small = []struct {
	ago int
	m   message
}{
	{52, message{from: journal, subject: "Under glass, the December issue", text: "Mistletoe from seed, a warm wall, and what to read by lamplight.", html: true, list: true, layout: "banner", colour: "#3F7436"}},
	{46, say(society, "Minutes of the autumn meeting", "Dear members,\n\nthe minutes are attached. Corrections by the end of the month, please.\n\nThe Bergflora Society").withFiles("minutes.pdf")},
	{30, say(bram, "Lift height at the door", "Dear Ines,\n\nBefore we load on Friday I need the height of the lift. Could you send it to me by Wednesday?\n\nBram")},
	{27, say(kestrel, "Proof of the winter programme", "Dear Ines,\n\nPlease find the proof attached. May we print?\n\nKestrel Print").withFiles("proof.pdf")},
	{25, say(person("Norr Energi", "faktura@norr-energi.example"), "Invoice for November", "Customer 22817. Your consumption: 612 kWh. Due on 15 December.")},
	{22, say(lise, "Banner text", "“Green Hours: spring at Norrholm”. Can you live with that?\n\nLise")},
	{6, say(climate, "House 4: 9.4 °C", "Alarm: the temperature in house 4 has fallen below 10 °C.")},
	{5, say(oda, "One pupil more", "Hi Ines, we are 29 now. Is that still all right?\n\nOda")},
	{4, say(vera, "Bowls", "Hello, do you have bowls, or shall we bring paper ones?\n\nVera")},
	{3, say(maren, "Scaffolding", "Hello Ines,\n\nThe scaffolders could start on Tuesday already. Please tell me today whether the south side is free.\n\nMaren")},
	{2, say(signe, "Cake", "Marzipan or carrot? S.")},
	{1, say(tove, "Guides’ supper", "Could you bring the list of guides to the supper on Thursday?\n\nTove")},
}

// Small is a small made-up world for somebody who looks around: a dozen letters.
func Small(now time.Time, me letter.Address) ([][]byte, error) {
	first, _, _ := strings.Cut(me.Name, " ")
	out := make([][]byte, 0, len(small))
	for i, s := range small {
		m := s.m
		m.id, m.to, m.at = fmt.Sprintf("small-%d-%d", now.Unix(), i), me, now.Add(-time.Duration(s.ago)*time.Hour)
		m.text = strings.ReplaceAll(m.text, "Ines", first)
		raw, err := m.bytes(int64(i))
		if err != nil {
			return nil, err
		}
		out = append(out, raw)
	}
	return out, nil
}
