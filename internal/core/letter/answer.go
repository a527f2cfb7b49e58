package letter

import "slices"

// Answering says from whom and to whom an answer to a letter goes.
type Answering struct {
	From   string // one of the own addresses, as given
	To, Cc []Address
}

// Answer computes sender and recipients of an answer: from the own address
// that received the letter (To before Cc), to Reply-To where there is one,
// and with all also to the other recipients, without the own addresses. An
// answer to one's own letter goes again to whom that went. A name without an address
// gets nothing.
func Answer(l Letter, own []string, all bool) Answering {
	mine := func(a Address) bool { return slices.Contains(own, a.Key()) }
	var out Answering
	for _, list := range [][]Address{l.To, l.Cc, {l.From}} {
		for _, a := range list {
			if out.From == "" && mine(a) {
				out.From = a.Key()
			}
		}
	}
	if out.From == "" && len(own) > 0 {
		out.From = own[0]
	}
	others := func(list []Address) []Address {
		return slices.DeleteFunc(slices.Clone(list), mine)
	}
	switch {
	case mine(l.From) && len(others(l.Recipients())) > 0:
		out.From = l.From.Key()
		out.To = others(l.To)
		if all || len(out.To) == 0 {
			out.Cc = others(l.Cc)
		}
	case slices.ContainsFunc(l.ReplyTo, func(a Address) bool { return a.Email != "" }):
		out.To = l.ReplyTo
	default:
		out.To = []Address{l.From}
	}
	if all && !mine(l.From) {
		out.Cc = others(append(slices.Clone(l.To), l.Cc...))
	}
	seen := map[string]bool{}
	needless := func(a Address) bool {
		again := seen[a.Key()]
		seen[a.Key()] = true
		return again || a.Email == ""
	}
	out.To = slices.DeleteFunc(slices.Clone(out.To), needless)
	out.Cc = slices.DeleteFunc(out.Cc, needless)
	return out
}

// maxReferences bounds the chain that an answer carries on; the first and the
// newest are worth most to whoever threads it.
const maxReferences = 20

// Chain is the References field of an answer to l (RFC 5322, 3.6.4).
func Chain(l Letter) []string {
	refs := slices.Clone(l.References)
	if len(refs) == 0 && len(l.InReplyTo) == 1 {
		refs = slices.Clone(l.InReplyTo)
	}
	if l.MessageID != "" {
		refs = append(refs, l.MessageID)
	}
	if len(refs) > maxReferences {
		refs = append(refs[:1:1], refs[len(refs)-maxReferences+1:]...)
	}
	return refs
}
