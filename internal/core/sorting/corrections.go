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
)

// Correction is what a move has taught: whatever comes from there is of a kind from now on.
type Correction struct {
	Scope Scope
	// Value is an address, a List-Id or a domain, in lower case.
	Value string
	Kind  Kind
}

// String says of whom it speaks: "news@moss.example", "list moss.example".
func (c Correction) String() string {
	switch c.Scope {
	case ByList:
		return "list " + c.Value
	case ByDomain:
		return "automatic mail from @" + c.Value
	case ByAddress:
	}
	return c.Value
}

// Covers tells whether it speaks of a letter from an address, by a list; a domain's speaks of
// automatic mail only, since people share domains with machines.
func (c Correction) Covers(address, list string, automatic bool) bool {
	switch c.Scope {
	case ByAddress:
		return c.Value == address
	case ByList:
		return list != "" && c.Value == list
	case ByDomain:
		return automatic && c.Value == DomainOf(address)
	}
	return false
}

// Corrections are those of an owner; of several that speak of one, the latest counts.
type Corrections map[Scope]map[string]Kind

// CorrectionsOf gathers corrections, the earliest first.
func CorrectionsOf(list []Correction) Corrections {
	out := Corrections{}
	for _, c := range list {
		if out[c.Scope] == nil {
			out[c.Scope] = map[string]Kind{}
		}
		out[c.Scope][c.Value] = c.Kind
	}
	return out
}

// Fill adds to the facts of a letter what was corrected for its sender and list.
func (c Corrections) Fill(f *Facts, address string) {
	f.Address, f.Domain = c[ByAddress][address], c[ByDomain][DomainOf(address)]
	if f.List != "" {
		f.ListSaid = c[ByList][f.List]
	}
}

// DomainOf is the domain of an address, "" of what has none.
func DomainOf(address string) string {
	return strings.ToLower(address[strings.LastIndexByte(address, '@')+1:])
}

// Of makes the correction that a letter from an address, by a list, teaches within a scope;
// it fails where the letter names nothing of the kind.
func Of(scope Scope, address, list string, kind Kind) (Correction, error) {
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
	if !kind.Is() {
		return c, fmt.Errorf("“%s” is no kind of letter", kind)
	}
	return c, nil
}
