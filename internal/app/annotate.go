package app

import (
	"context"
	"strings"

	"ebbe.example/ebbe/internal/core/change"
	"ebbe.example/ebbe/internal/core/decide"
	"ebbe.example/ebbe/internal/core/kinds"
	"ebbe.example/ebbe/internal/say"
	"ebbe.example/ebbe/internal/store"
	"ebbe.example/ebbe/internal/work"
)

// Notes are what a person adds to a conversation for themselves; nil leaves one.
type Notes struct {
	Title *string `json:"title,omitempty" maxLength:"2000" doc:"Its working title; empty for the subject"`
	Note  *string `json:"note,omitempty" maxLength:"200000"`
	// Files are attachments that are added, Drop those that are taken away.
	Files []string `json:"files,omitempty" maxItems:"300" doc:"Uploaded files that are added"`
	Drop  []int64  `json:"drop,omitempty" maxItems:"300" doc:"Added files that are taken away"`
}

// longestTitle and longestNote bound a working title and a note, in characters.
const (
	longestTitle = 200
	longestNote  = 50_000
)

// Annotate changes the note, the working title and the added files of a conversation. None of
// them is ever sent.
func (a *App) Annotate(ctx context.Context, who store.Who, command string, conversation int64, n Notes) (Decided, error) {
	cmd := work.Command{ID: command, Who: who, Actor: work.ByPerson, Kind: "note"}
	return run(ctx, a, cmd, func(s *step) (Decided, error) {
		row, err := s.Conversation(conversation)
		if err != nil {
			return Decided{}, work.Gone("The conversation is no longer there.")
		}
		about := "“" + say.Shorten(row.Title(), 60) + "”"
		var changes change.List
		if n.Note != nil {
			note := strings.TrimRight(strings.ReplaceAll(*n.Note, "\r\n", "\n"), " \t\n")
			if len([]rune(note)) > longestNote {
				return Decided{}, work.Invalid("note", "The note is longer than %d characters. It was not changed.", longestNote)
			}
			decide.Conversation.Note.Set(&changes, row.ID, row.Note, note)
			s.Title = "Note on " + about
			if note == "" {
				s.Title = "Took the note off " + about
			}
		}
		if n.Title != nil {
			title := strings.Join(strings.Fields(*n.Title), " ")
			if len([]rune(title)) > longestTitle {
				return Decided{}, work.Invalid("title", "The title is longer than %d characters. It was not changed.", longestTitle)
			}
			if title == row.Subject {
				title = ""
			}
			decide.Conversation.WorkingTitle.Set(&changes, row.ID, row.WorkingTitle, title)
			s.Title = about + " is called “" + say.Shorten(title, 60) + "”"
			if title == "" {
				s.Title = about + " is called by its subject again"
			}
		}
		if err := s.Change(changes); err != nil {
			return Decided{}, err
		}
		for _, id := range n.Drop {
			f, err := s.KeptFile(id)
			if err != nil || f.Conversation != row.ID {
				return Decided{}, work.Gone("That file is no longer there.")
			}
			s.Title = "Took “" + f.Name + "” off " + about
			var changes change.List
			kinds.KeptFile.Alive.Set(&changes, f.ID, f.Alive, false)
			if err := s.Change(changes); err != nil {
				return Decided{}, err
			}
		}
		for _, id := range n.Files {
			f, err := s.keepFile(id, store.KeptFile{Conversation: row.ID})
			if err != nil {
				return Decided{}, err
			}
			s.Title = "Added “" + f.Name + "” to " + about
		}
		return Decided{Entry: s.ID, Title: s.Title}, nil
	})
}
