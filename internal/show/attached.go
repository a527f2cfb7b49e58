package show

import (
	"cmp"
	"context"

	"ebbe.example/ebbe/internal/core/attached"
	"ebbe.example/ebbe/internal/store"
)

// LetterFile is a file of a letter.
type LetterFile struct {
	Letter       int64         `json:"letter"`
	Conversation int64         `json:"conversation"`
	Part         int           `json:"part"`
	Name         string        `json:"name"`
	Sort         attached.Sort `json:"sort" enum:"picture,pdf,text,table,slides,calendar,letter,sound,film,packed,other"`
	Size         int           `json:"size" doc:"In bytes"`
	From         string        `json:"from"`
	Own          bool          `json:"own,omitempty" doc:"In a letter of the owner's own"`
	Subject      string        `json:"subject"`
	At           string        `json:"at" doc:"In words"`
}

// AttachedSort is how many files there are of a sort.
type AttachedSort struct {
	Sort attached.Sort `json:"sort" enum:"picture,pdf,text,table,slides,calendar,letter,sound,film,packed,other"`
	Name string        `json:"name"`
	N    int           `json:"n"`
}

// AttachedList are the files that are asked for.
type AttachedList struct {
	Files []LetterFile   `json:"files"`
	N     int            `json:"n" doc:"How many there are"`
	Next  int            `json:"next,omitempty" doc:"Where the next begin; 0 for no more"`
	Sorts []AttachedSort `json:"sorts"`
	Older bool           `json:"older,omitempty" doc:"There are older letters, whose files are not looked through"`
}

const (
	// attachedLetters bounds of how many letters files are looked through, attachedPage how many come at once.
	attachedLetters = 50_000
	attachedPage    = 100
)

// Attached lists files of letters from one on.
func (a *Show) Attached(ctx context.Context, who store.Who, ask attached.Asked, from int) (AttachedList, error) {
	return read(ctx, a, who, func(tx *store.Tx) (AttachedList, error) {
		out := AttachedList{Files: []LetterFile{}, Sorts: []AttachedSort{}}
		v, err := a.Viewer(tx)
		if err != nil {
			return out, err
		}
		all, err := tx.AttachedFiles(attachedLetters)
		if err != nil {
			return out, err
		}
		letters := map[int64]bool{}
		for _, f := range all {
			letters[f.Letter] = true
		}
		out.Older = len(letters) == attachedLetters
		files, of := attached.Picked(all, ask)
		out.N = len(files)
		for _, s := range attached.Sorts {
			if of[s.Sort] > 0 {
				out.Sorts = append(out.Sorts, AttachedSort{s.Sort, s.Name, of[s.Sort]})
			}
		}
		files = files[min(max(from, 0), len(files)):]
		if len(files) > attachedPage {
			files = files[:attachedPage]
			out.Next = from + attachedPage
		}
		for _, f := range files {
			from := f.From.Display()
			if f.Own {
				from = "you"
			}
			out.Files = append(out.Files, LetterFile{f.Letter, f.Conversation, f.Part, cmp.Or(f.Name, "a file without a name"), f.Sort, f.Size, from, f.Own, f.Subject, v.short(f.At)})
		}
		return out, nil
	})
}
