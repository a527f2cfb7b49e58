// Package remote holds what is done on which side where the letters of an account
// are on a mail server too: what its folders are for, what was done there by another
// program, and what the server is to be told. It knows no protocol.
package remote

import (
	"slices"
	"strings"

	"ebbe.example/ebbe/internal/core/sorting"
)

// Role is what a folder of a mail server is for.
type Role string

// The roles of folders. The first are those of RFC 6154; Later waits for Ebbe,
// Held for its gate, Shallows hold what is sorted out, Deciding and Track are the folders that decide.
const (
	Other    Role = "" // any other: an archive with a label
	Inbox    Role = "inbox"
	Archive  Role = "archive"
	Bin      Role = "bin"
	Junk     Role = "junk"
	Sent     Role = "sent"
	Drafts   Role = "drafts"
	All      Role = "all" // shows what stands in other folders
	Later    Role = "later"
	Shallows Role = "shallows" // “Shallows/Reading”: what is of a kind
	Held     Role = "held"     // holds what the gate here holds, so that a phone is quiet too
	Deciding Role = "deciding" // “Later/tomorrow”: puts off until what its name says
	Track    Role = "track"    // “Follow up”: makes a follow-up, due today
	Hidden   Role = "hidden"   // holds no letters
)

// Listed is a folder as a mail server lists it (RFC 9051, 7.3.1).
type Listed struct {
	// Name is its whole path, with Delimiter between the parts; 0 where the
	// server knows no folders within folders.
	Name      string
	Delimiter rune
	// Uses are its attributes for special uses, such as \Archive (RFC 6154).
	Uses []string
	// NoLetters tells that it can't be opened.
	NoLetters bool
}

// Folder is a folder with what it is for.
type Folder struct {
	Listed
	Role Role
	// Label is what its letters are filed under, for any other folder; Phrase is
	// until when they are put off, for one that decides, and the kind of one of the Shallows.
	Label, Phrase string
}

// The folders of Ebbe's own.
const (
	LaterName    = "Later"
	TrackName    = "Follow up"
	HeldName     = "Held"
	ShallowsName = "Shallows"
)

// Phrases are the times that get a folder of their own within Later, so that
// letters can be put off from anywhere.
var Phrases = []string{"this evening", "tomorrow", "next week"}

// uses are the roles of RFC 6154.
var uses = map[string]Role{`\archive`: Archive, `\trash`: Bin, `\junk`: Junk, `\sent`: Sent, `\drafts`: Drafts, `\all`: All, `\flagged`: All, `\important`: All}

// names are what folders are mostly called where the server doesn't say what they
// are for.
var names = map[Role][]string{
	Archive: {"archive", "archives", "archiv"},
	Bin:     {"trash", "bin", "deleted", "deleted items", "deleted messages", "papierkorb", "corbeille"},
	Junk:    {"junk", "spam", "junk e-mail", "junk mail", "bulk mail"},
	Sent:    {"sent", "sent items", "sent messages", "sent mail", "gesendet", "envoyés"},
	Drafts:  {"drafts", "draft", "entwürfe", "brouillons"},
}

// Sort says what each folder is for: as the server says, else by its name. Of the
// folders of one role by name the first is taken; the others are archives with a
// label. With holds, the folder of what is held is one of Ebbe's own.
func Sort(listed []Listed, holds bool) []Folder {
	out := make([]Folder, len(listed))
	taken := map[Role]bool{}
	for i, l := range listed {
		out[i] = Folder{Listed: l, Role: given(l)}
		taken[out[i].Role] = true
	}
	for i := range out {
		f := &out[i]
		if f.Role == Other {
			role, phrase := named(f.Listed, holds)
			if role != Other && (role == Deciding || role == Shallows || !taken[role]) {
				f.Role, f.Phrase = role, phrase
				taken[role] = true
			}
		}
		if f.Role == Other {
			f.Label = f.path()
		}
	}
	return out
}

// given is the role of a folder by what the server says.
func given(l Listed) Role {
	if l.NoLetters {
		return Hidden
	}
	for _, u := range l.Uses {
		if role, ok := uses[strings.ToLower(u)]; ok {
			return role
		}
	}
	if strings.EqualFold(l.Name, "INBOX") {
		return Inbox
	}
	return Other
}

// named is the role of a folder by its name.
func named(l Listed, holds bool) (Role, string) {
	path := l.path()
	if strings.EqualFold(path, LaterName) {
		return Later, ""
	}
	if strings.EqualFold(path, TrackName) {
		return Track, ""
	}
	if holds && strings.EqualFold(path, HeldName) {
		return Held, ""
	}
	if within, ok := cutFold(path, LaterName+"/"); ok {
		return Deciding, within
	}
	if strings.EqualFold(path, ShallowsName) {
		return Shallows, ""
	}
	if within, ok := cutFold(path, ShallowsName+"/"); ok {
		for _, a := range sorting.Table {
			if strings.EqualFold(within, a.Name) {
				return Shallows, string(a.Kind)
			}
		}
	}
	for role, list := range names {
		if slices.Contains(list, strings.ToLower(path)) {
			return role, ""
		}
	}
	return Other, ""
}

// path is the name of a folder with slashes between its parts, and without the
// inbox in which some servers keep all folders.
func (l Listed) path() string {
	path := l.Name
	if l.Delimiter != 0 {
		path = strings.ReplaceAll(path, string(l.Delimiter), "/")
	}
	if within, ok := cutFold(path, "INBOX/"); ok && within != "" {
		path = within
	}
	return path
}

func cutFold(text, prefix string) (string, bool) {
	if len(text) < len(prefix) || !strings.EqualFold(text[:len(prefix)], prefix) {
		return text, false
	}
	return text[len(prefix):], true
}

// Names of the folders that Ebbe makes where a server has none, by their role.
var ownNames = map[Role]string{Archive: "Archive", Bin: "Trash", Junk: "Junk", Sent: "Sent", Later: LaterName, Track: TrackName, Held: HeldName, Drafts: "Drafts"}

// NameFor is what a folder of a role is called that is to be made on a server
// with folders like these.
func NameFor(role Role, folders []Folder) string { return rooted(ownNames[role], folders) }

// NameOfPhrase is the same for a folder that decides.
func NameOfPhrase(phrase string, folders []Folder) string {
	return rooted(LaterName+"/"+phrase, folders)
}

// NameOfKind is the same for a folder of the Shallows.
func NameOfKind(kind sorting.Kind, folders []Folder) string {
	about, _ := kind.About()
	return rooted(ShallowsName+"/"+about.Name, folders)
}

// rooted is a path as the server writes it.
func rooted(path string, folders []Folder) string {
	delimiter, within := '/', ""
	for _, f := range folders {
		if f.Delimiter == 0 {
			continue
		}
		delimiter = f.Delimiter
		if root, ok := cutFold(f.Name, "INBOX"+string(delimiter)); ok && root != "" {
			within = f.Name[:len(f.Name)-len(root)]
		}
	}
	return within + strings.ReplaceAll(path, "/", string(delimiter))
}

// KindOf is of what kind letters are in a folder of the Shallows with a phrase: for reading in the folder of all.
func KindOf(phrase string) sorting.Kind {
	if phrase == "" {
		return sorting.Reading
	}
	return sorting.Kind(phrase)
}
