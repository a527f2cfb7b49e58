package letter

import "strings"

// Typed is an address as it was typed or pasted. Trouble says why nothing can be sent to it;
// it is empty where something can.
type Typed struct {
	Text    string `json:"text"`
	Trouble string `json:"trouble,omitempty"`
}

// Addresses reads a list of addresses in whatever form it was pasted: by commas, semicolons
// or lines, with names or without, each only in its place. What is no address stays, with
// what is wrong with it.
func Addresses(text string) []Typed {
	out := []Typed{}
	seen := map[string]bool{}
	for _, piece := range addressPieces(text) {
		a, err := CheckAddress(piece)
		if err != nil {
			if name, bare, ok := strings.Cut(strings.TrimSuffix(piece, ">"), "<"); ok && !strings.ContainsAny(name, `"`+"\x00") {
				if named, err := CheckAddress(bare); err == nil { // Bo, Lise <lise@x.example>
					named.Name = strings.TrimSpace(name)
					piece = named.String()
				}
			}
			if words := strings.FieldsFunc(piece, func(r rune) bool { return r == ' ' || r == ',' }); len(words) > 1 && allAddresses(words) {
				out = append(out, Addresses(strings.Join(words, "\n"))...)
				continue
			}
			a, err = CheckAddress(piece)
		}
		if err != nil {
			out = append(out, Typed{Text: piece, Trouble: err.Error()})
			continue
		}
		if !seen[a.Key()] {
			seen[a.Key()] = true
			out = append(out, Typed{Text: piece})
		}
	}
	return out
}

func allAddresses(words []string) bool {
	for _, w := range words {
		if _, err := CheckAddress(w); err != nil {
			return false
		}
	}
	return true
}

// addressPieces cuts a list where one address ends: not within quotes, nor within angle
// brackets.
func addressPieces(text string) (pieces []string) {
	var b strings.Builder
	quoted, angled := false, false
	end := func() {
		piece := strings.TrimSpace(strings.TrimLeft(strings.TrimSpace(b.String()), "•*-·"))
		piece = strings.TrimPrefix(piece, "mailto:")
		if piece != "" {
			pieces = append(pieces, piece)
		}
		b.Reset()
		quoted, angled = false, false
	}
	for _, r := range text {
		switch {
		case r == '\n' || r == '\r' || r == '\t': // no address goes over lines
			end()
			continue
		case r == '"':
			quoted = !quoted
		case r == '<' && !quoted:
			angled = true
		case r == '>' && !quoted && angled:
			angled = false
		case (r == ',' || r == ';') && !quoted && !angled:
			// “Bo, Lise <lise@x.example>” is one: a name without an address goes on.
			if so := b.String(); r == ';' || strings.Contains(so, "@") || !strings.Contains(so, " ") && strings.TrimSpace(so) == "" {
				end()
				continue
			}
		}
		b.WriteRune(r)
	}
	end()
	return pieces
}
