package api

import (
	"context"
	"net/http"
	"strconv"

	"github.com/danielgtaylor/huma/v2"
	"github.com/gin-gonic/gin"

	"ebbe.example/ebbe/internal/app"
	"ebbe.example/ebbe/internal/core/letter"
	"ebbe.example/ebbe/internal/core/writing"
	"ebbe.example/ebbe/internal/show"
	"ebbe.example/ebbe/internal/store"
	"ebbe.example/ebbe/internal/work"
)

// describeComposing registers what helps while a letter is written.
func (s *server) describeComposing(a huma.API) {
	type written struct{ Body show.Writing }
	operation(s, a, http.MethodPost, "/api/asks", "asks", "What a letter asks, and what an answer to it covers so far", func(ctx context.Context, who store.Who, in *written) ([]writing.Ask, error) {
		return s.App.Asks(ctx, who, in.Body)
	})
	operation(s, a, http.MethodPost, "/api/doubts", "doubts", "What is doubtful in a letter that is about to be sent", func(ctx context.Context, who store.Who, in *written) ([]writing.Doubt, error) {
		return s.App.Doubts(ctx, who, in.Body)
	})
	operation(s, a, http.MethodPost, "/api/mail-link", "mail-link", "The letter that a link to an address proposes", func(_ context.Context, _ store.Who, in *struct {
		Body struct {
			Link string `json:"link" maxLength:"100000"`
		}
	}) (letter.Link, error) {
		link, err := letter.Mailto(in.Body.Link)
		if err != nil {
			return link, work.Invalid("link", "%v.", err)
		}
		return link, nil
	})
	operation(s, a, http.MethodPost, "/api/addresses", "addresses", "The addresses in a text, and which can’t be any", func(_ context.Context, _ store.Who, in *struct {
		Body struct {
			Text string `json:"text" maxLength:"200000"`
		}
	}) ([]letter.Typed, error) {
		return letter.Addresses(in.Body.Text), nil
	})
	operation(s, a, http.MethodGet, "/api/drafts/{id}/files", "files", "The files of a letter that is being written", func(ctx context.Context, who store.Who, in *struct {
		ID string `path:"id" minLength:"8" maxLength:"80"`
	}) ([]app.FileView, error) {
		return s.App.Files(ctx, who, in.ID)
	})
	operation(s, a, http.MethodPost, "/api/drafts/{id}/files", "begin-file", "Begin to upload a file, or learn how much of it has come", func(ctx context.Context, who store.Who, in *struct {
		ID   string `path:"id" minLength:"8" maxLength:"80"`
		Body show.AttachedFile
	}) (app.FileView, error) {
		return s.App.BeginFile(ctx, who, in.ID, in.Body)
	})
}

// describePrepared registers templates, groups of receivers, suggested answers, and what a
// person adds to a conversation.
func (s *server) describePrepared(a huma.API) {
	operation(s, a, http.MethodPost, "/api/suggestions", "suggestions", "Short answers that are proposed to the letter that is answered", func(ctx context.Context, who store.Who, in *struct{ Body show.Writing }) ([]writing.Suggestion, error) {
		return s.App.Suggestions(ctx, who, in.Body)
	})
	operation(s, a, http.MethodGet, "/api/templates", "templates", "Templates and groups of receivers", func(ctx context.Context, who store.Who, _ *none) (show.Prepared, error) {
		return s.App.Prepared(ctx, who)
	})
	operation(s, a, http.MethodPost, "/api/templates", "new-template", "Make a template", func(ctx context.Context, who store.Who, in *struct {
		Body struct {
			Command string `json:"command" minLength:"8" maxLength:"80"`
			app.TemplateFields
		}
	}) (app.Made, error) {
		return s.App.NewTemplate(ctx, who, in.Body.Command, in.Body.TemplateFields)
	})
	operation(s, a, http.MethodPatch, "/api/templates/{id}", "edit-template", "Change a template, or take it away", func(ctx context.Context, who store.Who, in *struct {
		IDInput
		Body struct {
			Command string `json:"command" minLength:"8" maxLength:"80"`
			app.TemplateFields
		}
	}) (app.Decided, error) {
		return s.App.EditTemplate(ctx, who, in.Body.Command, in.ID, in.Body.TemplateFields)
	})
	operation(s, a, http.MethodPost, "/api/templates/{id}/filled", "put-in", "A letter with a template filled in", func(ctx context.Context, who store.Who, in *struct {
		IDInput
		Body struct {
			Draft   string       `json:"draft" minLength:"8" maxLength:"80"`
			Writing show.Writing `json:"writing"`
		}
	}) (show.Writing, error) {
		return s.App.PutIn(ctx, who, in.Body.Draft, in.ID, in.Body.Writing)
	})
	operation(s, a, http.MethodPost, "/api/template-of", "template-of", "What a letter is as a template", func(ctx context.Context, who store.Who, in *struct {
		Body struct {
			Letter int64 `json:"letter"`
		}
	}) (store.Template, error) {
		return s.App.TemplateOf(ctx, who, in.Body.Letter)
	})
	operation(s, a, http.MethodPost, "/api/groups", "new-group", "Make a group of receivers", func(ctx context.Context, who store.Who, in *struct {
		Body struct {
			Command string `json:"command" minLength:"8" maxLength:"80"`
			app.GroupFields
		}
	}) (app.Made, error) {
		return s.App.NewGroup(ctx, who, in.Body.Command, in.Body.GroupFields)
	})
	operation(s, a, http.MethodPatch, "/api/groups/{id}", "edit-group", "Change a group of receivers, or take it away", func(ctx context.Context, who store.Who, in *struct {
		IDInput
		Body struct {
			Command string `json:"command" minLength:"8" maxLength:"80"`
			app.GroupFields
		}
	}) (app.Decided, error) {
		return s.App.EditGroup(ctx, who, in.Body.Command, in.ID, in.Body.GroupFields)
	})
	operation(s, a, http.MethodPatch, "/api/conversations/{id}", "annotate", "The note, the working title and the added files of a conversation", func(ctx context.Context, who store.Who, in *struct {
		IDInput
		Body struct {
			Command string `json:"command" minLength:"8" maxLength:"80"`
			app.Notes
		}
	}) (app.Decided, error) {
		return s.App.Annotate(ctx, who, in.Body.Command, in.ID, in.Body.Notes)
	})
}

// writingRoutes are the bytes of files that go along, and the page that their letter makes.
func (s *server) writingRoutes() []rawRoute {
	return []rawRoute{
		{http.MethodPut, "/api/attached/{file}", "fill-file", "Upload a file of a letter from a byte on", map[string]string{"from": "How much has come before"}, "application/octet-stream", "application/json", false, s.fillFile},
		{http.MethodGet, "/api/attached/{file}", "file", "A file of a letter that is being written", map[string]string{"save": "1 to have it saved"}, "", "application/octet-stream", false, s.draftFile},
		{http.MethodGet, "/api/drafts/{id}/page", "draft-page", "A letter as its reader will see it", map[string]string{"without": "How many of its files are still on their way; the answer is the same"}, "", "text/html", false, s.draftPage},
	}
}

func (s *server) fillFile(c *gin.Context, who store.Who) error {
	from, err := strconv.ParseInt(c.DefaultQuery("from", "0"), 10, 64)
	if err != nil || from < 0 {
		return errNoSuchThing
	}
	out, err := s.App.FillFile(c.Request.Context(), who, c.Param("file"), from, patient{c.Request.Body, http.NewResponseController(c.Writer)})
	if err != nil {
		return err
	}
	c.JSON(http.StatusOK, out)
	return nil
}

func (s *server) draftFile(c *gin.Context, who store.Who) error {
	f, content, err := s.App.File(c.Request.Context(), who, c.Param("file"))
	if err != nil {
		return err
	}
	servePart(c, letter.Part{Name: f.Name, ContentType: f.ContentType, Content: content})
	return nil
}

func (s *server) draftPage(c *gin.Context, who store.Who) error {
	html, err := s.App.DraftPage(c.Request.Context(), who, c.Param("id"))
	if err != nil {
		return err
	}
	s.servePaper(c, html, false)
	return nil
}
