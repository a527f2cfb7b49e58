package api

import (
	"context"
	"net/http"

	"github.com/danielgtaylor/huma/v2"

	"ebbe.example/ebbe/internal/app"
	"ebbe.example/ebbe/internal/core/sorting"
	"ebbe.example/ebbe/internal/show"
	"ebbe.example/ebbe/internal/store"
)

// describeSorting registers what goes with the kinds of letters: the Shallows, and how letters
// are sorted.
func (s *server) describeSorting(a huma.API) {
	operation(s, a, http.MethodGet, "/api/shallows", "shallows", "What is sorted out of the inbox, by kind", func(ctx context.Context, who store.Who, _ *none) (show.Shallows, error) {
		return s.App.Shallows(ctx, who)
	})
	operation(s, a, http.MethodGet, "/api/journal/{id}/sorted", "sorted-in", "What was sorted out under a step of the Journal and lies there still", func(ctx context.Context, who store.Who, in *IDInput) (show.SortedLetters, error) {
		return s.App.Sorted(ctx, who, in.ID)
	})
	operation(s, a, http.MethodPost, "/api/sorted", "sort", "Put conversations among letters of another kind", func(ctx context.Context, who store.Who, in *struct {
		Body struct {
			Command string        `json:"command" minLength:"8" maxLength:"80"`
			Kind    sorting.Kind  `json:"kind" enum:"person,receipts,notices,reading,meetings,copies"`
			Scope   sorting.Scope `json:"scope,omitempty" enum:"address,list,domain,source" doc:"For whom that is settled from now on; nobody without it"`
			On      []store.Seen  `json:"on" minItems:"1" maxItems:"100000"`
			Sure    bool          `json:"sure,omitempty" doc:"Also what was decided otherwise since it was seen"`
		}
	}) (app.Decided, error) {
		return s.App.Sort(ctx, who, app.Sorting(in.Body))
	})
	operation(s, a, http.MethodPost, "/api/refused", "refuse", "Turn senders away, or settle that their letters are always or never junk", func(ctx context.Context, who store.Who, in *struct {
		Body struct {
			Command string        `json:"command" minLength:"8" maxLength:"80"`
			Kind    sorting.Kind  `json:"kind" enum:"away,junk,wanted"`
			Scope   sorting.Scope `json:"scope" enum:"address,list,domain,source" doc:"source is the list where there is one, else the address"`
			On      []store.Seen  `json:"on" minItems:"1" maxItems:"100000"`
			Sure    bool          `json:"sure,omitempty" doc:"Also what was decided otherwise since it was seen"`
		}
	}) (app.Decided, error) {
		return s.App.Refuse(ctx, who, app.Refusing(in.Body))
	})
	operation(s, a, http.MethodPost, "/api/letters/{id}/unsubscribe", "unsubscribe", "Leave the list by which a letter came", func(ctx context.Context, who store.Who, in *struct {
		IDInput
		Body struct {
			Command string `json:"command" minLength:"8" maxLength:"80"`
		}
	}) (app.Decided, error) {
		return s.App.Unsubscribe(ctx, who, in.Body.Command, in.ID)
	})
	operation(s, a, http.MethodGet, "/api/clearing", "clearing", "Lists and bulk senders about which nothing was settled yet, the busiest first", func(ctx context.Context, who store.Who, _ *none) (show.Clearing, error) {
		return s.App.Clearing(ctx, who)
	})
	operation(s, a, http.MethodGet, "/api/first-sorted", "first-sorted", "Senders of whom something was sorted out this week for the first time", func(ctx context.Context, who store.Who, _ *none) ([]show.FirstSorted, error) {
		return s.App.FirstSorted(ctx, who)
	})
	operation(s, a, http.MethodPost, "/api/kinds", "sort-out", "Settle which kinds are sorted out of the inbox, from now on", func(ctx context.Context, who store.Who, in *struct {
		Body struct {
			Command string         `json:"command" minLength:"8" maxLength:"80"`
			Out     []sorting.Kind `json:"out" maxItems:"10" enum:"receipts,notices,reading,meetings,copies"`
		}
	}) (app.Decided, error) {
		return s.App.SortOut(ctx, who, in.Body.Command, in.Body.Out)
	})
	operation(s, a, http.MethodPost, "/api/sorted/before", "sort-before", "Sort what stands in the inbox and was there before", func(ctx context.Context, who store.Who, in *struct {
		Body struct {
			Command string `json:"command" minLength:"8" maxLength:"80"`
		}
	}) (app.Decided, error) {
		return s.App.SortBefore(ctx, who, in.Body.Command)
	})
	operation(s, a, http.MethodPost, "/api/kinds/rounds", "surface-at", "Settle when a kind of the Shallows comes up by itself", func(ctx context.Context, who store.Who, in *struct {
		Body struct {
			Command string       `json:"command" minLength:"8" maxLength:"80"`
			Kind    sorting.Kind `json:"kind" enum:"receipts,notices,reading,meetings,copies"`
			Rounds  string       `json:"rounds" maxLength:"1000" doc:"fri 15:00; never without any"`
		}
	}) (app.Decided, error) {
		return s.App.SurfaceAt(ctx, who, in.Body.Command, in.Body.Kind, in.Body.Rounds)
	})
	operation(s, a, http.MethodPost, "/api/kinds/pass-over", "pass-over", "Let a kind that has come up lie in the Shallows until its next round", func(ctx context.Context, who store.Who, in *struct {
		Body struct {
			Command string       `json:"command" minLength:"8" maxLength:"80"`
			Kind    sorting.Kind `json:"kind" enum:"receipts,notices,reading,meetings,copies"`
		}
	}) (app.Decided, error) {
		return s.App.PassOver(ctx, who, in.Body.Command, in.Body.Kind)
	})
	operation(s, a, http.MethodGet, "/api/junk", "junk", "How junk is learned, and how much came since a letter", func(ctx context.Context, who store.Who, in *struct {
		Since int64 `query:"since" doc:"The newest letter that was seen there"`
	}) (app.JunkView, error) {
		return s.App.Junk(ctx, who, in.Since)
	})
	operation(s, a, http.MethodPost, "/api/junk", "learn-junk", "Settle whether letters are put into Junk that are like what lies there", func(ctx context.Context, who store.Who, in *struct {
		Body struct {
			Command string `json:"command" minLength:"8" maxLength:"80"`
			Learn   bool   `json:"learn"`
		}
	}) (app.Decided, error) {
		return s.App.SetJunk(ctx, who, in.Body.Command, in.Body.Learn)
	})
	operation(s, a, http.MethodGet, "/api/corrections", "corrections", "What was settled of senders, lists and domains, the latest first", func(ctx context.Context, who store.Who, _ *none) ([]show.CorrectionView, error) {
		return s.App.Corrections(ctx, who)
	})
	operation(s, a, http.MethodPost, "/api/corrections/{id}/end", "end-correction", "Let a correction count no longer", func(ctx context.Context, who store.Who, in *struct {
		IDInput
		Body struct {
			Command string `json:"command" minLength:"8" maxLength:"80"`
			Fetch   bool   `json:"fetch,omitempty" doc:"Bring back what it has put away"`
		}
	}) (app.Decided, error) {
		return s.App.EndCorrection(ctx, who, in.Body.Command, in.ID, in.Body.Fetch)
	})
}
