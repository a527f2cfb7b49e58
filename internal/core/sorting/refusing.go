package sorting

import "time"

// What somebody has settled of a sender beside the kinds: that its letters are not wanted, or
// that they are. Letters that are not wanted are of a kind of their own, which no list of kinds
// has; they lie in the bin or in Junk, and not in the Shallows.
const (
	// TurnedAway letters go to the bin, unseen.
	TurnedAway Kind = "away"
	// Junk letters go to Junk.
	Junk Kind = "junk"
	// Wanted is settled of whose letters are never junk. No letter is of that kind.
	Wanted Kind = "wanted"
	// Left is settled of a list that was asked to be left. It decides nothing: what still comes
	// is counted.
	Left Kind = "left"
)

// PatienceDays is how long a list that was asked to be left may go on sending (RFC 8058 names no
// time; lists that are sent by the week are still on their way).
const PatienceDays = 10

// LateLeaving tells whether a list that was asked to be left has sent something after its time;
// last is when its latest letter came, zero for none since.
func LateLeaving(asked, last, now time.Time) bool {
	until := asked.AddDate(0, 0, PatienceDays)
	return last.After(until) && now.After(until)
}

// Refused tells of the kinds of letters that are not wanted.
func (k Kind) Refused() bool { return k == TurnedAway || k == Junk }

// Counts tells of what is settled of which the letters are counted that still come.
func (k Kind) Counts() bool { return k.Refused() || k == Left }

// Refuses tells of what is settled beside the kinds.
func (k Kind) Refuses() bool { return k.Refused() || k == Wanted }

// scopes are the scopes with what is said of them.
var scopes = []struct {
	scope Scope
	words string
}{{ByAddress, "this sender"}, {ByList, "this list"}, {ByDomain, "this domain"}}

// exempted tells of letters that are never refused: key persons', of whom the owner has
// written to, those that answer the owner, and what says that a letter failed.
func exempted(f Facts) bool {
	return f.Fails || f.Meets || f.Known || f.Traits.Has(Answers) && !f.Automatic || f.Key && !f.Traits.Has(Spoofed)
}

// refused follows what the owner has refused: first what is turned away, then what is always junk,
// then what is like it. What is said to be wanted, or to be of a kind, is no junk.
func refused(f Facts) Verdict {
	if len(f.Settled) == 0 && f.Junk == "" || exempted(f) {
		return Verdict{}
	}
	said := func(k Kind) string {
		for _, s := range scopes {
			if f.Settled[s.scope] == k {
				return s.words
			}
		}
		return ""
	}
	if of := said(TurnedAway); of != "" {
		return Verdict{Kind: TurnedAway, Why: "you turned away " + of}
	}
	if of := said(Junk); of != "" && said(Wanted) == "" {
		return Verdict{Kind: Junk, Why: "you said that " + of + " is always junk"}
	}
	if corrected := f.Address != "" || f.ListSaid != "" || f.Domain != ""; f.Junk != "" && said(Wanted) == "" && !corrected {
		return Verdict{Kind: Junk, Why: "like what you put into Junk: " + f.Junk}
	}
	return Verdict{}
}

// Settle tells where a letter lies by its verdict, for whoever sorts out some kinds: what is
// refused, and what is sorted out unless the let-through list let it through.
func (v Verdict) Settle(out Sorted, through bool) Verdict {
	v.Out = v.Kind.Refused() || out.Has(v.Kind) && !through
	return v
}
