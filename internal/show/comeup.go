package show

import (
	"fmt"

	"ebbe.example/ebbe/internal/core/sorting"
	"ebbe.example/ebbe/internal/gate"
	"ebbe.example/ebbe/internal/store"
)

// mostUp is how many conversations of a kind that has come up stand above the inbox.
const mostUp = 20

// up are the rows of kinds that have come up, each kind a group above the inbox. While delivery is held
// none are shown.
func (v Viewer) up(tx *store.Tx) ([]Row, error) {
	p, err := tx.InboxSettings()
	up := p.Up()
	if err != nil || len(up) == 0 {
		return nil, err
	}
	g, err := gate.Of(tx)
	if err != nil || !g.State(0, v.Now).Shown() {
		return nil, err
	}
	var out []Row
	for _, about := range sorting.Table {
		at, ok := up[about.Kind]
		if !ok {
			continue
		}
		rows, n, err := tx.CameUp(about.Kind, at, mostUp)
		if err != nil {
			return nil, err
		}
		label := about.Name + " came up " + v.short(at)
		if n > len(rows) {
			label += fmt.Sprintf(": the newest %d of %d, the others in the Shallows", len(rows), n)
		}
		for _, r := range v.rows(rows) {
			r.Group = Group{Key: "up", Label: label, Kind: about.Kind}
			out = append(out, r)
		}
	}
	return out, nil
}
