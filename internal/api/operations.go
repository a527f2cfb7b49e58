package api

import (
	"context"
	"net/http"
	"strings"

	"github.com/danielgtaylor/huma/v2"

	"ebbe.example/ebbe/internal/app"
	"ebbe.example/ebbe/internal/core/decide"
	"ebbe.example/ebbe/internal/core/letter"
	"ebbe.example/ebbe/internal/core/waiting"
	"ebbe.example/ebbe/internal/show"
	"ebbe.example/ebbe/internal/store"
	"ebbe.example/ebbe/internal/work"
)

type output[T any] struct {
	// Stale names what a command has made stale of what pages read.
	Stale string `header:"Ebbe-Stale"`
	Body  T
}

type none struct{}

// operation registers one typed operation for the person signed in.
func operation[I, O any](s *server, a huma.API, method, path, id, summary string, fn func(ctx context.Context, who store.Who, in *I) (O, error)) {
	huma.Register(a, huma.Operation{OperationID: id, Method: method, Path: path, Summary: summary, MaxBodyBytes: 12 << 20},
		func(ctx context.Context, in *I) (*output[O], error) {
			who := whoOf(ctx)
			if who.Person == 0 {
				return nil, huma.Error401Unauthorized("Please sign in.")
			}
			ctx, made := work.Watch(ctx)
			out, err := fn(ctx, who, in)
			if err != nil {
				return nil, s.failure(err)
			}
			return &output[O]{staleHeader(made), out}, nil
		})
}

// everything is the header of an answer that made stale what is not known.
const everything = "*"

func staleHeader(m *work.Made) string {
	if m.Everything {
		return everything
	}
	names := make([]string, len(m.Stale))
	for i, r := range m.Stale {
		names[i] = string(r)
	}
	return strings.Join(names, ",")
}

// describe registers every operation.
func (s *server) describe(a huma.API) {
	huma.Register(a, huma.Operation{OperationID: "session", Method: http.MethodGet, Path: "/api/session", Summary: "Who is signed in"},
		func(ctx context.Context, _ *none) (*sessionOutput, error) {
			view, err := s.sessionView(ctx)
			return &sessionOutput{Body: view}, s.failure(err)
		})
	huma.Register(a, huma.Operation{OperationID: "sign-in", Method: http.MethodPost, Path: "/api/session", Summary: "Sign in"}, s.enter)
	huma.Register(a, huma.Operation{OperationID: "set-up", Method: http.MethodPost, Path: "/api/setup", Summary: "Make the owner"}, s.setup)
	huma.Register(a, huma.Operation{OperationID: "sign-out", Method: http.MethodDelete, Path: "/api/session", Summary: "Sign out", DefaultStatus: http.StatusOK},
		func(ctx context.Context, _ *none) (*sessionOutput, error) {
			cookie, err := s.signOut(ctx)
			return &sessionOutput{SetCookie: cookie, Body: SessionView{State: "signed-out", People: []PersonView{}}}, s.failure(err)
		})
	s.describeReading(a)
	s.describeDeciding(a)
	s.describeWriting(a)
	s.describeComposing(a)
	s.describePrepared(a)
	s.describeShared(a)
	s.describeTracking(a)
	s.describeFollowUps(a)
	s.describeAppointments(a)
	s.describeSettling(a)
	s.describeImports(a)
	s.describeRemotes(a)
	s.describeBeginning(a)
	s.describeTimes(a)
	s.describeSorting(a)
	s.describeGroups(a)
	s.describeLearned(a)
	s.describeSittings(a)
	s.describeRoutines(a)
	s.describeRules(a)
	s.describeBacklog(a)
	s.describeSearches(a)
	s.describeLabels(a)
	s.describeContacts(a)
	s.describeAttached(a)
	s.describeSheets(a)
	s.describeDelivery(a)
	if s.Demo != nil {
		s.describeDemo(a)
	}
}

// IDInput names an object by its id.
type IDInput struct {
	ID int64 `path:"id"`
}

type pageInput struct {
	Place   listedPlace `path:"place"`
	Cursor  string      `query:"cursor"`
	Oldest  bool        `query:"oldest"`
	Account int64       `query:"account"`
}

func (s *server) describeReading(a huma.API) {
	operation(s, a, http.MethodGet, "/api/overview", "overview", "What every view shows", func(ctx context.Context, who store.Who, _ *none) (show.Overview, error) {
		return s.App.Overview(ctx, who)
	})
	operation(s, a, http.MethodPost, "/api/troubles/{id}/again", "try-again", "Try at once what could not happen", func(ctx context.Context, who store.Who, in *IDInput) (none, error) {
		return none{}, s.App.TryAgain(ctx, who, in.ID)
	})
	operation(s, a, http.MethodGet, "/api/day", "day", "The day line", func(ctx context.Context, who store.Who, in *struct {
		Away int `query:"away" doc:"Days from today; negative for past ones"`
	}) (show.Day, error) {
		return s.App.Day(ctx, who, in.Away)
	})
	operation(s, a, http.MethodGet, "/api/accounts", "accounts", "The person's accounts", func(ctx context.Context, who store.Who, _ *none) ([]show.AccountView, error) {
		return s.App.Accounts(ctx, who)
	})
	operation(s, a, http.MethodGet, "/api/labels", "labels", "The labels in use", func(ctx context.Context, who store.Who, _ *none) ([]string, error) {
		return s.App.Labels(ctx, who)
	})
	operation(s, a, http.MethodGet, "/api/people", "people", "Complete a name or an address", func(ctx context.Context, who store.Who, in *struct {
		Q string `query:"q" maxLength:"200"`
	}) ([]show.Known, error) {
		return s.App.Knows(ctx, who, in.Q)
	})
	operation(s, a, http.MethodGet, "/api/places/{place}", "list", "A page of a place", func(ctx context.Context, who store.Who, in *pageInput) (show.RowPage, error) {
		return s.App.List(ctx, who, decide.Place(in.Place), in.Oldest, in.Account, in.Cursor)
	})
	operation(s, a, http.MethodGet, "/api/places/{place}/all", "list-all", "All of a place, to decide on it at once", func(ctx context.Context, who store.Who, in *pageInput) ([]store.Seen, error) {
		return s.App.Everything(ctx, who, decide.Place(in.Place), in.Account)
	})
	operation(s, a, http.MethodGet, "/api/sent", "sent", "A page of own letters", func(ctx context.Context, who store.Who, in *struct {
		Cursor string `query:"cursor"`
	}) (show.RowPage, error) {
		return s.App.Sent(ctx, who, in.Cursor)
	})
	operation(s, a, http.MethodGet, "/api/search", "search", "Find letters", func(ctx context.Context, who store.Who, in *show.Asked) (show.SearchPage, error) {
		return s.App.Search(ctx, who, *in)
	})
	operation(s, a, http.MethodGet, "/api/search/counts", "search-counts", "What a search finds, counted, and what would find something where it finds nothing", func(ctx context.Context, who store.Who, in *show.Asked) (show.SearchCounts, error) {
		return s.App.SearchCounts(ctx, who, *in)
	})
	operation(s, a, http.MethodGet, "/api/search/beside", "search-beside", "What a search finds beside letters", func(ctx context.Context, who store.Who, in *struct {
		Q string `query:"q" maxLength:"4000"`
	}) (show.FoundBeside, error) {
		return s.App.SearchBeside(ctx, who, in.Q)
	})
	operation(s, a, http.MethodGet, "/api/search/lines", "search-lines", "The lines of letters in which something is found", func(ctx context.Context, who store.Who, in *struct {
		show.Asked
		Letters []int64 `query:"letters,explode" maxItems:"100"`
	}) ([]show.FoundLine, error) {
		return s.App.SearchLines(ctx, who, in.Asked, in.Letters)
	})
	operation(s, a, http.MethodGet, "/api/search/filters", "filters", "By what a search is narrowed, each with the search that it makes", func(ctx context.Context, who store.Who, in *struct {
		Q string `query:"q" maxLength:"4000"`
	}) ([]show.FilterView, error) {
		return s.App.Filters(ctx, who, in.Q)
	})
	operation(s, a, http.MethodGet, "/api/search/fields", "search-fields", "The fields of a search, and values for the one that is being typed", func(ctx context.Context, who store.Who, in *struct {
		Q string `query:"q" maxLength:"4000" doc:"What is typed up to the caret"`
	}) (show.Completions, error) {
		return s.App.Completions(ctx, who, in.Q)
	})
	operation(s, a, http.MethodGet, "/api/conversations/{id}", "conversation", "A conversation with its letters", func(ctx context.Context, who store.Who, in *IDInput) (show.Conversation, error) {
		return s.App.Open(ctx, who, in.ID)
	})
	operation(s, a, http.MethodPost, "/api/conversations/{id}/seen", "seen", "Remember that it was looked at", func(ctx context.Context, who store.Who, in *struct {
		IDInput
		Body struct {
			Last int64 `json:"last"`
		}
	}) (none, error) {
		return none{}, s.App.See(ctx, who, in.ID, in.Body.Last)
	})
	operation(s, a, http.MethodGet, "/api/letters/{id}", "letter", "One letter with its text", func(ctx context.Context, who store.Who, in *IDInput) (show.Letter, error) {
		return s.App.ReadLetter(ctx, who, in.ID)
	})
	operation(s, a, http.MethodGet, "/api/letters/{id}/quote", "quote", "What an answer or a forward carries below it", func(ctx context.Context, who store.Who, in *struct {
		IDInput
		Kind string `query:"kind" enum:"answer,hand-on"`
	}) (string, error) {
		return s.App.QuoteOf(ctx, who, in.ID, in.Kind)
	})
	operation(s, a, http.MethodGet, "/api/phrases", "phrase", "Read a phrase that names a time", func(ctx context.Context, who store.Who, in *struct {
		Phrase       string `query:"phrase" maxLength:"200"`
		Conversation int64  `query:"for" doc:"The conversation that is to come back"`
		Count        int    `query:"count" doc:"How many letters are"`
		Plain        bool   `query:"plain" doc:"Only a time is asked for: no conditions, no load"`
		As           string `query:"as" enum:"span,appointment,times,remind,recurs" doc:"What else than a time may be typed"`
		Due          string `query:"due" maxLength:"200" doc:"What a reminder may be reckoned from"`
	}) (show.PhraseView, error) {
		return s.App.ReadPhrase(ctx, who, show.Asking(*in))
	})
	operation(s, a, http.MethodGet, "/api/phrases/ready", "ready-phrases", "Phrases read before they are typed, for a page without its server", func(ctx context.Context, who store.Who, _ *none) ([]show.ReadyPhrase, error) {
		return s.App.ReadyPhrases(ctx, who)
	})
	operation(s, a, http.MethodPost, "/api/spread", "spread", "How letters would be put off over several days", func(ctx context.Context, who store.Who, in *struct {
		Body struct {
			On   []int64 `json:"on" maxItems:"100000"`
			Over string  `json:"over" enum:"week,next-week,two-weeks"`
		}
	}) (show.SpreadView, error) {
		return s.App.Spread(ctx, who, in.Body.On, in.Body.Over)
	})
	operation(s, a, http.MethodGet, "/api/ahead", "ahead", "All that is to come, in time order", func(ctx context.Context, who store.Who, _ *none) (show.AheadView, error) {
		return s.App.Ahead(ctx, who)
	})
	operation(s, a, http.MethodGet, "/api/journal", "journal", "Every change, newest first", func(ctx context.Context, who store.Who, in *struct {
		Before int64  `query:"before"`
		Q      string `query:"q" maxLength:"200" doc:"Words that the titles have"`
		Day    string `query:"day" maxLength:"10" doc:"The last day, 2006-01-02"`
	}) ([]show.JournalEntry, error) {
		return s.App.Journal(ctx, who, show.JournalAsk{Before: in.Before, Words: in.Q, Day: in.Day})
	})
}

type decideInput struct {
	Body struct {
		Command  string            `json:"command" minLength:"8" maxLength:"80"`
		Kind     decisionKind      `json:"kind"`
		On       []store.Seen      `json:"on" maxItems:"100000"`
		When     string            `json:"when,omitempty" maxLength:"200"`
		Each     []show.SpreadTime `json:"each,omitempty" maxItems:"100000" doc:"Times of their own, in place of when"`
		Stay     bool              `json:"stay,omitempty"`
		Labels   []string          `json:"labels,omitempty" maxItems:"50"`
		Tell     string            `json:"tell,omitempty" maxLength:"10000" doc:"A note to the senders of what is put off"`
		FollowUp *FollowUpBody     `json:"followUp,omitempty"`
		Sure     bool              `json:"sure,omitempty" doc:"Put off all the same what was put off often already; without it that is refused as put-off-again, with what can be done instead"`
	}
}

func (s *server) describeDeciding(a huma.API) {
	operation(s, a, http.MethodPost, "/api/decisions", "decide", "Decide on one or many conversations", func(ctx context.Context, who store.Who, in *decideInput) (app.Decided, error) {
		b := in.Body
		d := app.Deciding{Command: b.Command, Kind: decide.Kind(b.Kind), On: b.On, When: b.When, Stay: b.Stay, Labels: b.Labels, Tell: b.Tell, Sure: b.Sure, Each: map[int64]string{}}
		for _, e := range b.Each {
			d.Each[e.ID] = e.Phrase
		}
		if d.Kind == decide.FollowUp {
			f := app.FollowUpFields{}
			if b.FollowUp != nil {
				f = b.FollowUp.fields()
			}
			d.FollowUp = &f
		}
		return s.App.Decide(ctx, who, d)
	})
	operation(s, a, http.MethodPost, "/api/marks", "mark", "Star or label", func(ctx context.Context, who store.Who, in *struct {
		Body struct {
			Command string  `json:"command" minLength:"8" maxLength:"80"`
			On      []int64 `json:"on" maxItems:"100000"`
			Mark    string  `json:"mark" enum:"star,label,quiet"`
			Value   string  `json:"value,omitempty" maxLength:"200"`
			Off     bool    `json:"off,omitempty"`
		}
	}) (app.Decided, error) {
		return s.App.Mark(ctx, who, app.Marking(in.Body))
	})
	operation(s, a, http.MethodPost, "/api/flags", "flag", "Flag, or mark the flag as done", func(ctx context.Context, who store.Who, in *struct {
		Body struct {
			Command string       `json:"command" minLength:"8" maxLength:"80"`
			On      []store.Seen `json:"on" maxItems:"100000"`
			When    string       `json:"when,omitempty" maxLength:"200" doc:"Due, or start to due, and reminders; today if empty"`
		}
	}) (app.Decided, error) {
		return s.App.Flag(ctx, who, in.Body.Command, in.Body.On, in.Body.When)
	})
	operation(s, a, http.MethodPost, "/api/undo", "undo", "Take back the latest step, or the one named", func(ctx context.Context, who store.Who, in *struct {
		Body struct {
			Command string `json:"command" minLength:"8" maxLength:"80"`
			Entry   int64  `json:"entry,omitempty"`
			Sure    bool   `json:"sure,omitempty" doc:"Go on also to what is of another kind or day; without it that is refused as undo-further"`
		}
	}) (app.Undone, error) {
		return s.App.Undo(ctx, who, in.Body.Command, in.Body.Entry, in.Body.Sure)
	})
	operation(s, a, http.MethodPost, "/api/redo", "redo", "Do once more what the latest undo took back", func(ctx context.Context, who store.Who, in *struct{ Body CommandBody }) (app.Undone, error) {
		return s.App.Redo(ctx, who, in.Body.Command)
	})
}

func (s *server) describeWriting(a huma.API) {
	operation(s, a, http.MethodGet, "/api/drafts", "drafts", "Letters being written", func(ctx context.Context, who store.Who, _ *none) ([]show.DraftView, error) {
		return s.App.Drafts(ctx, who)
	})
	operation(s, a, http.MethodPut, "/api/drafts/{id}", "save-draft", "Keep what is typed", func(ctx context.Context, who store.Who, in *struct {
		ID   string `path:"id" minLength:"8" maxLength:"80"`
		Body struct {
			Conversation int64        `json:"conversation,omitempty"`
			Writing      show.Writing `json:"writing"`
		}
	}) (app.Kept, error) {
		return s.App.SaveDraft(ctx, who, in.ID, in.Body.Conversation, in.Body.Writing)
	})
	operation(s, a, http.MethodPost, "/api/drafts/{id}/drop", "drop-draft", "Throw a draft away", func(ctx context.Context, who store.Who, in *struct {
		ID   string `path:"id"`
		Body struct {
			Command string `json:"command" minLength:"8" maxLength:"80"`
		}
	}) (app.Decided, error) {
		return s.App.DropDraft(ctx, who, in.Body.Command, in.ID)
	})
	operation(s, a, http.MethodPost, "/api/letters", "send", "Send a letter", func(ctx context.Context, who store.Who, in *struct {
		Body struct {
			Command      string       `json:"command" minLength:"8" maxLength:"80"`
			Draft        string       `json:"draft,omitempty" maxLength:"80"`
			Conversation int64        `json:"conversation,omitempty"`
			Saw          int64        `json:"saw,omitempty"`
			Version      *int64       `json:"version,omitempty"`
			Writing      show.Writing `json:"writing"`
		}
	}) (app.Sent, error) {
		b := in.Body
		return s.App.Send(ctx, who, app.Sending{Command: b.Command, Draft: b.Draft, Conversation: b.Conversation, Saw: b.Saw, Version: b.Version, Writing: b.Writing})
	})
}

func (s *server) describeTracking(a huma.API) {
	operation(s, a, http.MethodPost, "/api/reminders/{id}", "quiet-reminder", "Take note of a reminder, or put it off", func(ctx context.Context, who store.Who, in *struct {
		IDInput
		Body struct {
			Command string `json:"command" minLength:"8" maxLength:"80"`
			Until   string `json:"until,omitempty" maxLength:"200"`
		}
	}) (app.Decided, error) {
		return s.App.QuietReminder(ctx, who, in.Body.Command, in.ID, in.Body.Until)
	})
	operation(s, a, http.MethodGet, "/api/waiting", "waiting", "What is waited for, or no longer is", func(ctx context.Context, who store.Who, in *struct {
		Settled bool `query:"settled"`
	}) ([]show.Waiting, error) {
		return s.App.WaitingList(ctx, who, in.Settled)
	})
	operation(s, a, http.MethodGet, "/api/waiting/{id}/nudge", "nudge", "A letter that reminds of it, to be looked over", func(ctx context.Context, who store.Who, in *IDInput) (show.Nudge, error) {
		return s.App.Nudge(ctx, who, in.ID)
	})
	operation(s, a, http.MethodPatch, "/api/waiting/{id}", "edit-waiting", "Move a limit, or stop waiting", func(ctx context.Context, who store.Who, in *struct {
		IDInput
		Body struct {
			Command string         `json:"command" minLength:"8" maxLength:"80"`
			State   *waiting.State `json:"state,omitempty" enum:"open,met,dropped"`
			Until   *string        `json:"until,omitempty" maxLength:"200"`
			Sure    bool           `json:"sure,omitempty" doc:"As for a decision"`
		}
	}) (app.Decided, error) {
		return s.App.EditWaiting(ctx, who, in.Body.Command, in.ID, in.Body.State, in.Body.Until, in.Body.Sure)
	})
}

// AccountBody are the fields of an account that can be set.
type AccountBody struct {
	Name      *string `json:"name,omitempty" maxLength:"200"`
	Label     *string `json:"label,omitempty" maxLength:"60"`
	Signature *string `json:"signature,omitempty" maxLength:"20000"`
	Colour    *string `json:"colour,omitempty"`
	Shape     *string `json:"shape,omitempty"`
	Position  *int    `json:"position,omitempty"`
	Markdown  *bool   `json:"markdown,omitempty" doc:"Letters from it are written as Markdown"`
	SizeLimit *int64  `json:"sizeLimit,omitempty" doc:"How large a letter may be, in bytes as it is sent"`
	// More and SendAs are all that it has beside the usual ones.
	More   *[]letter.Signature `json:"more,omitempty" maxItems:"50" doc:"All signatures beside the usual one"`
	SendAs *[]string           `json:"sendAs,omitempty" maxItems:"50" doc:"All addresses to send as, beside its own"`
	Alive  *bool               `json:"alive,omitempty" doc:"false lays it aside"`
}

// describeSettling registers what is settled about accounts, senders and
// single letters.
func (s *server) describeSettling(a huma.API) {
	operation(s, a, http.MethodPost, "/api/accounts", "new-account", "One more address", func(ctx context.Context, who store.Who, in *struct {
		Body struct {
			Command string `json:"command" minLength:"8" maxLength:"80"`
			Address string `json:"address" maxLength:"300"`
			AccountBody
		}
	}) (app.Decided, error) {
		return s.App.NewAccount(ctx, who, in.Body.Command, in.Body.Address, app.AccountFields(in.Body.AccountBody))
	})
	operation(s, a, http.MethodPatch, "/api/accounts/{id}", "edit-account", "Change an account", func(ctx context.Context, who store.Who, in *struct {
		IDInput
		Body struct {
			Command string `json:"command" minLength:"8" maxLength:"80"`
			AccountBody
		}
	}) (app.Decided, error) {
		return s.App.EditAccount(ctx, who, in.Body.Command, in.ID, app.AccountFields(in.Body.AccountBody))
	})
	operation(s, a, http.MethodPost, "/api/accounts/{id}/absence", "absence", "Say when nobody reads the letters to an account, and what is answered then", func(ctx context.Context, who store.Who, in *struct {
		IDInput
		Body struct {
			Command string `json:"command" minLength:"8" maxLength:"80"`
			app.Absence
		}
	}) (app.Decided, error) {
		return s.App.SetAbsence(ctx, who, in.Body.Command, in.ID, in.Body.Absence)
	})
	operation(s, a, http.MethodPost, "/api/senders/pictures", "pictures", "Load a sender's pictures, or no longer", func(ctx context.Context, who store.Who, in *struct {
		Body struct {
			Command string `json:"command" minLength:"8" maxLength:"80"`
			Email   string `json:"email" maxLength:"300"`
			Load    bool   `json:"load"`
		}
	}) (app.Decided, error) {
		return s.App.PicturesOf(ctx, who, in.Body.Command, in.Body.Email, in.Body.Load)
	})
	operation(s, a, http.MethodPost, "/api/letters/{id}/receipt", "receipt", "Tell the sender that it was read, or don't", func(ctx context.Context, who store.Who, in *struct {
		IDInput
		Body struct {
			Command string `json:"command" minLength:"8" maxLength:"80"`
			Send    bool   `json:"send"`
		}
	}) (app.Decided, error) {
		return s.App.ReadReceipt(ctx, who, in.Body.Command, in.ID, in.Body.Send)
	})
	operation(s, a, http.MethodPost, "/api/letters/{id}/split", "split", "Start a new conversation from a letter", func(ctx context.Context, who store.Who, in *struct {
		IDInput
		Body struct {
			Command string `json:"command" minLength:"8" maxLength:"80"`
		}
	}) (app.Decided, error) {
		return s.App.Split(ctx, who, in.Body.Command, in.ID)
	})
	operation(s, a, http.MethodGet, "/api/letters/{id}/again", "again", "A letter that could not be delivered, to be sent once more", func(ctx context.Context, who store.Who, in *IDInput) (show.Writing, error) {
		return s.App.Again(ctx, who, in.ID)
	})
}

func (s *server) describeDemo(a huma.API) {
	operation(s, a, http.MethodPost, "/api/demo/clock", "demo-clock", "Move the demo's clock", func(ctx context.Context, _ store.Who, in *struct {
		Body struct {
			To string `json:"to" enum:"10min,hour,next,tomorrow"`
		}
	}) (none, error) {
		return none{}, s.Demo.MoveClock(ctx, in.Body.To)
	})
	operation(s, a, http.MethodPost, "/api/demo/letter", "demo-letter", "Send a letter in", func(ctx context.Context, who store.Who, in *struct {
		Body struct {
			Kind string `json:"kind" enum:"ask,bill,newsletter,lists,invitation,failure,answer"`
		}
	}) (string, error) {
		return s.Demo.SendLetter(ctx, who, in.Body.Kind)
	})
	operation(s, a, http.MethodGet, "/api/demo/phone", "demo-phone", "What another program shows of the private account", func(context.Context, store.Who, *none) ([]PhoneLetter, error) {
		return s.Demo.Phone(), nil
	})
	operation(s, a, http.MethodPost, "/api/demo/phone", "demo-on-phone", "Do something with a letter in that program", func(ctx context.Context, _ store.Who, in *struct {
		Body struct {
			Folder string `json:"folder"`
			UID    uint32 `json:"uid"`
			Act    string `json:"act" enum:"move,star,unstar,read"`
			To     string `json:"to,omitempty"`
		}
	}) (none, error) {
		b := in.Body
		return none{}, s.Demo.OnPhone(ctx, b.Folder, b.UID, b.Act, b.To)
	})
}
