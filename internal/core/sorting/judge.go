package sorting

// Facts are what decides of what kind a letter is.
type Facts struct {
	Traits Traits
	// Automatic tells that a machine or a list sent it, in the widest sense (letter.Automatic).
	Automatic bool
	// List is its List-Id, "" without one.
	List string
	// Named tells that its new text speaks to the owner by name.
	Named bool
	// Meets tells that it meets an expectation, Fails that it reports a letter of the owner's
	// as undeliverable.
	Meets, Fails bool
	// Key tells that it says to be from a key person, Followed that its conversation has an open
	// follow-up, Known that the owner has written to its sender.
	Key, Followed, Known bool
	// Address, ListSaid and Domain are the owner's latest corrections for its sender's
	// address, its list and its sender's domain; "" for none.
	Address, ListSaid, Domain Kind
	// Matters is how likely it matters to the owner by what they did with others, between 0 and
	// 1, as was learned from so many Lessons; Because says why.
	Matters float64
	Lessons int
	Because string
	// Junk says what makes it like what its owner puts into Junk, where they wish that to be
	// learned; "" where nothing does.
	Junk string
	// Settled is what was settled of them beside that: whether they are wanted.
	Settled map[Scope]Kind
}

// Verdict is of what kind a letter is, and why, in words. Out tells that it is sorted out of
// the inbox, or refused: that its kind is, and nothing holds it there.
type Verdict struct {
	Kind Kind   `json:"kind"`
	Why  string `json:"why,omitempty"`
	Out  bool   `json:"out,omitempty"`
}

// Moved is of what kind a letter is that its owner has put there by hand. It lies where it was
// put, whatever else is sorted out.
func Moved(k Kind) Verdict { return Verdict{Kind: k, Why: "you put it here", Out: k != Person} }

// Judge tells of what kind a letter is. The first rule that speaks wins.
func Judge(f Facts) Verdict {
	for _, rule := range rules {
		if v := rule(f); v.Kind != "" {
			return v
		}
	}
	return Verdict{Kind: Person, Why: ""}
}

var rules = []func(Facts) Verdict{refused, exempt, corrected, replies, fromMachine, fromKnown, learned, byList, copied}

// exempt is what is never sorted out, whatever was corrected.
func exempt(f Facts) Verdict {
	switch {
	case f.Fails:
		return Verdict{Kind: Person, Why: "a letter of yours could not be delivered"}
	case f.Meets:
		return Verdict{Kind: Person, Why: "you wait for this answer"}
	case f.Traits.Has(Answers) && !f.Automatic:
		return Verdict{Kind: Person, Why: "it answers a letter of yours"}
	case f.Key && !f.Traits.Has(Spoofed):
		return Verdict{Kind: Person, Why: "from a key person"}
	case f.Followed:
		return Verdict{Kind: Person, Why: "its conversation has an open follow-up"}
	}
	return Verdict{}
}

// corrected follows what the owner has settled; a domain's settlement touches automatic mail
// only, since people share domains with machines.
func corrected(f Facts) Verdict {
	switch {
	case f.Address != "":
		return Verdict{Kind: f.Address, Why: "you said so of this sender"}
	case f.List != "" && f.ListSaid != "":
		return Verdict{Kind: f.ListSaid, Why: "you said so of this list"}
	case f.Automatic && f.Domain != "":
		return Verdict{Kind: f.Domain, Why: "you said so of automatic mail from this domain"}
	}
	return Verdict{}
}

func replies(f Facts) Verdict {
	switch {
	case f.Traits.Has(Accepts):
		return Verdict{Kind: Meetings, Why: "accepts an invitation, without a word"}
	case f.Traits.Has(Replies):
		return Verdict{Kind: Person, Why: "answers an invitation"}
	}
	return Verdict{}
}

func fromMachine(f Facts) Verdict {
	switch {
	case !f.Traits.Has(Machine):
		return Verdict{}
	case f.Traits.Has(Bill):
		return Verdict{Kind: Receipts, Why: "sent by a machine, with a sum or a parcel and its number"}
	case f.Traits.Has(Listed):
		return Verdict{Kind: Reading, Why: "sent by a machine to a list"}
	}
	return Verdict{Kind: Notices, Why: "sent by a machine"}
}

func fromKnown(f Facts) Verdict {
	switch {
	case !f.Known:
		return Verdict{}
	case f.Traits.Has(Copied) && !f.Named:
		return Verdict{Kind: Copies, Why: "to others, with a copy to you"}
	}
	return Verdict{Kind: Person, Why: "you have written to them"}
}

const (
	// learnedFrom is from how many lessons on what was learned sorts a letter.
	learnedFrom = 20
	// wanted is from which chance on a letter is kept in the inbox whatever brings it, and
	// unwanted up to which an automatic one is sorted out.
	wanted, unwanted = 0.9, 0.005
)

// learned follows what the owner did with letters like this one. It sorts out only what a
// machine or a list has sent.
func learned(f Facts) Verdict {
	switch {
	case f.Lessons < learnedFrom:
		return Verdict{}
	case f.Matters >= wanted:
		return Verdict{Kind: Person, Why: f.Because}
	case f.Matters > unwanted || !f.Automatic && !f.Traits.Has(Listed):
		return Verdict{}
	case f.Traits.Has(Listed):
		return Verdict{Kind: Reading, Why: "letters like it hardly ever matter to you"}
	}
	return Verdict{Kind: Notices, Why: "letters like it hardly ever matter to you"}
}

func byList(f Facts) Verdict {
	if !f.Traits.Has(Listed) {
		return Verdict{}
	}
	return Verdict{Kind: Reading, Why: "it came by a list"}
}

func copied(f Facts) Verdict {
	if f.Traits.Has(Copied) && !f.Named {
		return Verdict{Kind: Copies, Why: "to others, with a copy to you"}
	}
	return Verdict{}
}
