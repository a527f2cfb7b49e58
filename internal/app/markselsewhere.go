package app

import (
	"context"
	"fmt"

	"ebbe.example/ebbe/internal/core/change"
	"ebbe.example/ebbe/internal/core/decide"
	"ebbe.example/ebbe/internal/core/kinds"
	"ebbe.example/ebbe/internal/store"
)

// starElsewhere takes over stars, as one step for those that were set and one for those
// that were taken off.
func (y *syncer) starElsewhere(ctx context.Context, done []doneElsewhere) error {
	for _, star := range []bool{true, false} {
		var rows []seenRow
		for _, d := range done {
			if d.star != nil && *d.star == star {
				rows = append(rows, seenRow{Row: d.row})
			}
		}
		if len(rows) == 0 {
			continue
		}
		_, err := run(ctx, y.app, y.command("elsewhere:star"), func(s *step) (bool, error) {
			var changes change.List
			for _, r := range rows {
				decide.Conversation.Star.Set(&changes, r.ID, r.Star, star)
			}
			s.Title = map[bool]string{true: "Starred elsewhere: ", false: "Unstarred elsewhere: "}[star] + namedTitle(rows)
			return true, s.Change(changes)
		})
		if err != nil {
			return err
		}
	}
	return nil
}

// labelElsewhere takes over labels, as one step for each that was put on or taken off.
func (y *syncer) labelElsewhere(ctx context.Context, done []doneElsewhere) error {
	type labelling struct {
		label string
		on    bool
	}
	rows, order := map[labelling][]seenRow{}, []labelling{}
	add := func(l labelling, row store.Row) {
		if len(rows[l]) == 0 {
			order = append(order, l)
		}
		rows[l] = append(rows[l], seenRow{Row: row})
	}
	for _, d := range done {
		for _, l := range d.label {
			if labels, err := cleanLabels([]string{l}); err == nil && len(labels) == 1 { // what is too long is no label
				add(labelling{labels[0], true}, d.row)
			}
		}
		for _, l := range d.unlabel {
			add(labelling{l, false}, d.row)
		}
	}
	for _, l := range order {
		_, err := run(ctx, y.app, y.command("elsewhere:label"), func(s *step) (bool, error) {
			var changes change.List
			for _, r := range rows[l] {
				decide.Conversation.Labels.Field(l.label).Set(&changes, r.ID, !l.on, l.on)
			}
			s.Title = fmt.Sprintf(map[bool]string{true: "Labelled “%s” elsewhere: ", false: "Took “%s” off elsewhere: "}[l.on], l.label) + namedTitle(rows[l])
			return true, s.Change(changes)
		})
		if err != nil {
			return err
		}
	}
	return nil
}

// toldElsewhere notes that senders were told elsewhere that their letters were read: nobody
// is asked again (RFC 3503, 3).
func (y *syncer) toldElsewhere(ctx context.Context, done []doneElsewhere) error {
	for _, d := range done {
		for _, id := range d.told {
			_, err := run(ctx, y.app, y.command("elsewhere:receipt"), func(s *step) (bool, error) {
				s.Final = true
				s.Title = "Told elsewhere that it was read: " + namedTitle([]seenRow{{Row: d.row}})
				s.Touch(decide.Conversation.Of(d.row.ID))
				var changes change.List
				kinds.Letter.ReadReceipt.Set(&changes, id, ReadReceiptAsked, ReadReceiptSent)
				return true, s.Change(changes)
			})
			if err != nil {
				return err
			}
		}
	}
	return nil
}
