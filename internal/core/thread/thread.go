// Package thread decides to which conversation a letter belongs.
package thread

import (
	"slices"
	"time"

	"ebbe.example/ebbe/internal/core/letter"
)

// Facts are what decides where a letter belongs.
type Facts struct {
	// IDs are the letter's own Message-ID and all that it refers to.
	IDs         []string
	HasRefs     bool
	BareSubject string
	IsReply     bool
	Automatic   letter.Automatic
	// Persons are the keys of sender and recipients, without the own addresses.
	Persons []string
	At      time.Time
}

// FactsOf collects the facts of a letter. own are the keys of the owner's
// addresses.
func FactsOf(l letter.Letter, own []string, at time.Time) Facts {
	f := Facts{
		HasRefs:     len(l.References)+len(l.InReplyTo) > 0,
		BareSubject: letter.BareSubject(l.Subject), IsReply: letter.IsReplySubject(l.Subject),
		Automatic: l.Automatic, At: at,
	}
	for _, id := range slices.Concat([]string{l.MessageID}, l.References, l.InReplyTo) {
		if id != "" && !slices.Contains(f.IDs, id) {
			f.IDs = append(f.IDs, id)
		}
	}
	for _, a := range append([]letter.Address{l.From}, l.Recipients()...) {
		if k := a.Key(); k != "" && !slices.Contains(own, k) && !slices.Contains(f.Persons, k) {
			f.Persons = append(f.Persons, k)
		}
	}
	return f
}

// SubjectWindow is how old the last letter of a conversation may be for an
// answer without references to join it by its subject.
const SubjectWindow = 30 * 24 * time.Hour

// BySubject is a conversation with the same bare subject.
type BySubject struct {
	ID      int64
	Last    time.Time
	Persons []string
}

// WantsSubject tells whether the letter may join by its subject at all.
func (f Facts) WantsSubject() bool {
	return !f.HasRefs && f.IsReply && f.BareSubject != "" && !f.Automatic.Is()
}

// Join names the conversations to which the letter belongs, oldest first:
// none for a new one; several when it joins them into one, of which the first
// lives on. byID are those that hold one of its IDs, or refer to one.
func Join(f Facts, byID []int64, bySubject []BySubject) []int64 {
	ids := slices.Compact(slices.Sorted(slices.Values(byID)))
	if len(ids) > 0 || !f.WantsSubject() {
		return ids
	}
	var best *BySubject
	for i, c := range bySubject {
		shared := slices.ContainsFunc(c.Persons, func(p string) bool { return slices.Contains(f.Persons, p) })
		gap := f.At.Sub(c.Last)
		if shared && gap >= 0 && gap <= SubjectWindow && (best == nil || c.Last.After(best.Last)) {
			best = &bySubject[i]
		}
	}
	if best == nil {
		return nil
	}
	return []int64{best.ID}
}
