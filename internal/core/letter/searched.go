package letter

import "strings"

// NestedDepth is how deep letters within letters are read: deeper ones stay
// attachments.
const NestedDepth = 5

// Searched are the texts by which a letter is found: what it says, and the names of what is attached;
// and the same of every letter within it.
func (l Letter) Searched() (text, files string) {
	var said, names []string
	l.searched(&said, &names, NestedDepth)
	return strings.Join(said, "\n"), strings.Join(names, "\n")
}

func (l Letter) searched(said, names *[]string, depth int) {
	*said = append(*said, l.Text)
	for _, p := range l.Parts {
		*names = append(*names, p.Name)
		if depth == 0 || !IsLetterType(p.ContentType) || p.Content == nil {
			continue
		}
		in := Parse(p.Content)
		*said = append(*said, in.Subject, in.From.Name, in.From.Email)
		in.searched(said, names, depth-1)
	}
}
