package app_test

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"ebbe.example/ebbe/internal/app"
	"ebbe.example/ebbe/internal/core/decide"
)

// Every decision that can be commanded can be made on a letter wherever it stands; it
// stands then where the core says, and undone where it stood.
func TestEveryDecisionFromEverywhere(t *testing.T) {
	for _, from := range decide.PlaceTable {
		if !from.Listed {
			continue
		}
		for _, d := range decide.Kinds {
			for _, stay := range []bool{false, true} {
				if d.Sends() || stay && d.Needs != decide.AFollowUp {
					continue
				}
				w := newWorld(t)
				m := mail{from: "bram@freight.example", subject: "Crates"}
				if from.Place == decide.Shallows {
					m.extra = "List-Id: <crates.list.example>\r\n"
				}
				w.receive(m)
				bring := map[decide.Place]decide.Kind{decide.Later: decide.PutOff, decide.Archive: decide.Done, decide.Bin: decide.ToBin, decide.Junk: decide.ToJunk}
				if kind := bring[from.Place]; kind != "" {
					w.decide(kind, w.row(decide.Inbox), func(in *app.Deciding) { in.When = phraseFor(kind) })
				}
				row := w.row(from.Place)
				w.decide(d.Kind, row, func(in *app.Deciding) {
					in.Stay, in.When, in.Labels = stay, phraseFor(d.Kind), []string{"2026"}
					if d.Needs == decide.AFollowUp {
						title := "Ask for the bill"
						in.FollowUp = &app.FollowUpFields{Title: &title}
					}
				})
				to := d.To
				if stay {
					to = from.Place
				}
				now := w.row(to)
				assert.Equal(t, row.ID, now.ID, "%s from %s", d.Kind, from.Place)
				if stay {
					assert.Equal(t, row.Return, now.Return, "what stays comes back when it was to")
				}
				require.Empty(t, w.undo().Left)
				back := w.row(from.Place)
				assert.Equal(t, row.Return, back.Return, "%s from %s, undone", d.Kind, from.Place)
				w.sound()
			}
		}
	}
}

// phraseFor is the phrase that a decision needs.
func phraseFor(kind decide.Kind) string {
	if kind.About().Needs == decide.ATime {
		return "in 3 days"
	}
	return ""
}
