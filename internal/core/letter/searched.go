package letter

import "strings"

// NestedDepth is how deep letters within letters are read: deeper ones stay
// attachments.
const NestedDepth = 5

// Searched is the text by which a letter is found: what it says, the names of
// what is attached, and the same of every letter within it.
func (l Letter) Searched() string {
	var said []string
	l.searched(&said, NestedDepth)
	return strings.Join(said, "\n")
}

func (l Letter) searched(said *[]string, depth int) {
	*said = append(*said, l.Text)
	for _, p := range l.Parts {
		*said = append(*said, p.Name)
		if depth == 0 || !IsLetterType(p.ContentType) || p.Content == nil {
			continue
		}
		in := Parse(p.Content)
		*said = append(*said, in.Subject, in.From.Name, in.From.Email)
		in.searched(said, depth-1)
	}
}
