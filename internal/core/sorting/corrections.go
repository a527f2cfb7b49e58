package sorting

import (
	"fmt"
	"strings"
)

// Scope is of whom a correction speaks.
type Scope string

// The scopes, the narrowest first.
const (
	ByAddress Scope = "address"
	ByList    Scope = "list"   // a List-Id
	ByDomain  Scope = "domain" // its automatic mail
	// BySource is the list where a letter names one, else the address. No correction is of it:
	// it becomes one of these.
	BySource Scope = "source"
)

// For is what a scope comes to for a letter of a list, "" for one of none.
func (s Scope) For(list string) Scope {
	switch {
	case s != BySource:
		return s
	case list != "":
		return ByList
	}
	return ByAddress
}

// Correction is what a move has taught: whatever comes from there is of a kind from now on.
type Correction struct {
	Scope Scope
	// Value is an address, a List-Id or a domain, in lower case.
	Value string
	Kind  Kind
}

// String says of whom it speaks: "news@moss.example", "list moss.example".
func (c Correction) String() string {
	switch {
	case c.Scope == ByList:
		return "list " + c.Value
	case c.Scope == ByDomain && !c.Kind.Is():
		return "@" + c.Value
	case c.Scope == ByDomain:
		return "automatic mail from @" + c.Value
	}
	return c.Value
}

// Covers tells whether it speaks of a letter from an address, by a list; a domain's speaks of
// automatic mail only, since people share domains with machines, unless it refuses all of it.
func (c Correction) Covers(address, list string, automatic bool) bool {
	switch c.Scope {
	case ByAddress:
		return c.Value == address
	case ByList:
		return list != "" && c.Value == list
	case ByDomain:
		return (automatic || !c.Kind.Is()) && c.Value == DomainOf(address)
	}
	return false
}

// Corrections are those of an owner; of several that speak of one, the latest counts.
type Corrections struct {
	kinds, wanted map[Scope]map[string]Kind
	counts        bool
}

// Replaces tells whether a correction takes the place of one that was made before. What is
// said of a sender's kind also says that its letters are wanted.
func (c Correction) Replaces(before Correction) bool {
	if c.Scope != before.Scope || c.Value != before.Value || (c.Kind == Left) != (before.Kind == Left) {
		return false
	}
	return !c.Kind.Refuses() || before.Kind.Refuses()
}

// CorrectionsOf gathers corrections, the earliest first.
func CorrectionsOf(list []Correction) Corrections {
	out := Corrections{kinds: map[Scope]map[string]Kind{}, wanted: map[Scope]map[string]Kind{}}
	for _, c := range list {
		out.counts = out.counts || c.Kind.Counts()
		if c.Kind == Left {
			continue
		}
		of := out.kinds
		if c.Kind.Refuses() {
			of = out.wanted
		}
		if of[c.Scope] == nil {
			of[c.Scope] = map[string]Kind{}
		}
		of[c.Scope][c.Value] = c.Kind
	}
	return out
}

// Count tells whether any of them counts the letters that come.
func (c Corrections) Count() bool { return c.counts }

// Refuse tells whether any of them says what is wanted and what is not.
func (c Corrections) Refuse() bool { return len(c.wanted) > 0 }

// Fill adds to the facts of a letter what was corrected for its sender and list.
func (c Corrections) Fill(f *Facts, address string) {
	f.Address, f.Domain = c.kinds[ByAddress][address], c.kinds[ByDomain][DomainOf(address)]
	if f.List != "" {
		f.ListSaid = c.kinds[ByList][f.List]
	}
	for scope, value := range map[Scope]string{ByAddress: address, ByList: f.List, ByDomain: DomainOf(address)} {
		if k := c.wanted[scope][value]; k != "" && value != "" {
			if f.Settled == nil {
				f.Settled = map[Scope]Kind{}
			}
			f.Settled[scope] = k
		}
	}
}

// DomainOf is the domain of an address, "" of what has none.
func DomainOf(address string) string {
	return strings.ToLower(address[strings.LastIndexByte(address, '@')+1:])
}

// Of makes the correction that a letter from an address, by a list, teaches within a scope;
// it fails where the letter names nothing of the kind.
func Of(scope Scope, address, list string, kind Kind) (Correction, error) {
	scope = scope.For(list)
	c := Correction{Scope: scope, Kind: kind}
	switch scope {
	case ByAddress:
		c.Value = strings.ToLower(address)
	case ByList:
		c.Value = list
	case ByDomain:
		if strings.Contains(address, "@") {
			c.Value = DomainOf(address)
		}
	default:
		return c, fmt.Errorf("nothing can be settled for “%s”", scope)
	}
	if c.Value == "" {
		return c, fmt.Errorf("the letter names no %s", scope)
	}
	if !kind.Is() && !kind.Refuses() && kind != Left {
		return c, fmt.Errorf("“%s” is no kind of letter", kind)
	}
	return c, nil
}
