package api

import (
	"context"
	"net/http"

	"github.com/danielgtaylor/huma/v2"

	"ebbe.example/ebbe/internal/core/decide"
	"ebbe.example/ebbe/internal/core/group"
	"ebbe.example/ebbe/internal/show"
	"ebbe.example/ebbe/internal/store"
)

// GroupInput is which groups are asked for.
type GroupInput struct {
	Place   string `path:"place" enum:"inbox,shallows,archive,bin,junk,found" doc:"found is what is found by q"`
	Q       string `query:"q" maxLength:"4000"`
	Within  string `query:"within" maxLength:"500"`
	By      string `query:"by" enum:"sender,domain,subject,kind,label,account,age,matters" default:"sender"`
	Account int64  `query:"account"`
}

func (in GroupInput) ask() show.GroupAsk {
	ask := show.GroupAsk{By: group.By(in.By), Place: decide.Place(in.Place), Account: in.Account}
	if in.Place == "found" {
		ask.Place, ask.Found = decide.Nowhere, show.Asked{Q: in.Q, Within: in.Within}
	}
	return ask
}

// describeGroups registers the groups of lists.
func (s *server) describeGroups(a huma.API) {
	operation(s, a, http.MethodGet, "/api/groups/{place}", "groups", "The groups of a list", func(ctx context.Context, who store.Who, in *GroupInput) (show.Groups, error) {
		return s.App.Groups(ctx, who, in.ask())
	})
	operation(s, a, http.MethodGet, "/api/groups/{place}/all", "group-all", "All of a group, to decide on it at once", func(ctx context.Context, who store.Who, in *struct {
		GroupInput
		Key   string `query:"key" maxLength:"1000"`
		Until int64  `query:"until" doc:"The newest letter that was there when the groups were drawn"`
	}) (show.GroupMembers, error) {
		return s.App.GroupMembers(ctx, who, in.ask(), in.Key, in.Until)
	})
	operation(s, a, http.MethodGet, "/api/groups/{place}/rows", "group-rows", "A page of a group", func(ctx context.Context, who store.Who, in *struct {
		GroupInput
		Key    string `query:"key" maxLength:"1000"`
		Cursor string `query:"cursor" maxLength:"20"`
	}) (show.RowPage, error) {
		return s.App.GroupRows(ctx, who, in.ask(), in.Key, in.Cursor)
	})
	operation(s, a, http.MethodGet, "/api/groups/{place}/like/{id}", "like", "What is like a conversation in its list: of its list, its sender, its subject", func(ctx context.Context, who store.Who, in *struct {
		IDInput
		GroupInput
	}) (show.Like, error) {
		return s.App.LikeThis(ctx, who, in.ask(), in.ID)
	})
}
