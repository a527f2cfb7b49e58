package api

import (
	"context"
	"net/http"

	"github.com/danielgtaylor/huma/v2"

	"ebbe.example/ebbe/internal/app"
	"ebbe.example/ebbe/internal/core/attached"
	"ebbe.example/ebbe/internal/show"
	"ebbe.example/ebbe/internal/store"
)

// describeAttached registers the files of letters.
func (s *server) describeAttached(a huma.API) {
	operation(s, a, http.MethodGet, "/api/attached", "attached", "The files of letters", func(ctx context.Context, who store.Who, in *struct {
		Sort  attached.Sort  `query:"sort" enum:"picture,pdf,text,table,slides,calendar,letter,sound,film,packed,other" doc:"All without it"`
		Near  string         `query:"near" maxLength:"200" doc:"Words of a file's name, its sender or its letter's subject"`
		Order attached.Order `query:"order" enum:"newest,largest,name,sender" default:"newest"`
		From  int            `query:"from" minimum:"0" doc:"Of the first one"`
	}) (show.AttachedList, error) {
		return s.App.Attached(ctx, who, attached.Asked{Sort: in.Sort, Near: in.Near, Order: in.Order}, in.From)
	})
	operation(s, a, http.MethodGet, "/api/letters/{id}/parts/{index}/preview", "preview-part", "What a file of a letter shows at its beginning", func(ctx context.Context, who store.Who, in *struct {
		IDInput
		Index int `path:"index" minimum:"0"`
	}) (app.Preview, error) {
		return s.App.Preview(ctx, who, in.ID, in.Index)
	})
}
