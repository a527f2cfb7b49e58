package show

import (
	"time"

	"ebbe.example/ebbe/internal/core/delivery"
	"ebbe.example/ebbe/internal/core/when"
	"ebbe.example/ebbe/internal/store"
)

// ThroughView is an entry of the let-through list.
type ThroughView struct {
	ID    int64                `json:"id"`
	Kind  delivery.ThroughKind `json:"kind" enum:"sender,domain,words,project,label,answer,to,code"`
	Value string               `json:"value"`
	Words string               `json:"words"`
	Until string               `json:"until,omitempty" doc:"In words; empty for no end"`
	Key   bool                 `json:"key,omitempty" doc:"A key person"`
}

func (v Viewer) through(t store.Through) ThroughView {
	out := ThroughView{ID: t.ID, Kind: t.Kind, Value: t.Value, Words: t.Through.String(), Key: t.Key}
	if t.Until != nil {
		out.Until = v.UntilWords(*t.Until)
	}
	return out
}

// UntilWords names the minute, or the last day.
func (v Viewer) UntilWords(m when.Moment) string {
	if m.Precision == when.ToMinute {
		return v.speak(m)
	}
	return v.Cal.Instant(m.Day(v.Cal), when.At(12, 0)).Format("Mon 2 Jan")
}

// Throughs are the entries in force, as the core knows them.
func Throughs(tx *store.Tx, at time.Time) ([]delivery.Through, error) {
	list, err := tx.Throughs(at)
	out := make([]delivery.Through, len(list))
	for i, t := range list {
		out[i] = t.Through
	}
	return out, err
}

// MaxSamples bounds how many letters are tried at once.
const MaxSamples = 50_000

// Samples are the letters of a stretch of time with what entries need to know
// of them: words of bodies are looked up in the full-text index.
func Samples(tx *store.Tx, entries []delivery.Through, from, to time.Time, accounts []int64) ([]store.Came, error) {
	came, err := tx.CameBetween(from, to, accounts, MaxSamples)
	if err != nil {
		return nil, err
	}
	for _, e := range entries {
		if e.Kind != delivery.ByWords {
			continue
		}
		ids, err := tx.WithWords(from, MaxSamples, e.Value)
		if err != nil {
			return nil, err
		}
		for i := range came {
			if ids[came[i].ID] {
				came[i].Facts.Text += " " + e.Value + " ."
			}
		}
	}
	return came, nil
}
