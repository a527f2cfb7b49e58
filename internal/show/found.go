package show

import (
	"ebbe.example/ebbe/internal/core/findings"
	"ebbe.example/ebbe/internal/core/letter"
)

// FoundView is something found in a letter, with how it stands there.
type FoundView struct {
	Kind  findings.FoundKind `json:"kind" enum:"phone,code,link,nofile"`
	Quote string             `json:"quote" doc:"How it stands in the text"`
	Value string             `json:"value,omitempty" doc:"A number to dial, a code, an address"`
	Until string             `json:"until,omitempty" doc:"How long it holds, as the letter says it"`
}

// found is what one signs in with, numbers to call, and a file that is spoken of and did not come. What was
// quoted is somebody else's.
func found(l letter.Letter) []FoundView {
	var out []FoundView
	for _, f := range findings.Finds(l.Subject, letter.Unquoted(l.Text), len(l.Parts)) {
		if f.Kind == findings.NoFile && l.Automatic.Is() { // what machines and lists write speaks of much
			continue
		}
		out = append(out, FoundView{f.Kind, f.Quote, f.Value, f.Until})
	}
	return out
}
