package api

import (
	"context"
	"net/http"
	"strconv"

	"github.com/danielgtaylor/huma/v2"
	"github.com/gin-gonic/gin"

	"ebbe.example/ebbe/internal/app"
	"ebbe.example/ebbe/internal/core/contact"
	"ebbe.example/ebbe/internal/show"
	"ebbe.example/ebbe/internal/store"
)

// describeContacts registers whom one writes with, and what is written down of them.
func (s *server) describeContacts(a huma.API) {
	operation(s, a, http.MethodGet, "/api/contacts", "correspondents", "Whom one writes with", func(ctx context.Context, who store.Who, in *struct {
		Near string `query:"near" maxLength:"200" doc:"Words of a name, an address or an office"`
	}) (show.CorrespondentList, error) {
		return s.App.Correspondents(ctx, who, in.Near)
	})
	operation(s, a, http.MethodGet, "/api/contacts/of", "correspondent", "All that is known of somebody", func(ctx context.Context, who store.Who, in *struct {
		Address string `query:"address" maxLength:"320" doc:"One of their addresses"`
	}) (show.CorrespondentView, error) {
		return s.App.Correspondent(ctx, who, in.Address)
	})
	operation(s, a, http.MethodPost, "/api/contacts", "new-contact", "Write down who somebody is", func(ctx context.Context, who store.Who, in *struct{ Body ContactBody }) (app.WroteContact, error) {
		return s.App.WriteContact(ctx, who, in.Body.Command, 0, in.Body.Contact)
	})
	operation(s, a, http.MethodPatch, "/api/contacts/{id}", "edit-contact", "Change what is written down of somebody", func(ctx context.Context, who store.Who, in *struct {
		IDInput
		Body ContactBody
	}) (app.WroteContact, error) {
		return s.App.WriteContact(ctx, who, in.Body.Command, in.ID, in.Body.Contact)
	})
	operation(s, a, http.MethodPost, "/api/contacts/{id}/drop", "drop-contact", "Forget what is written down of somebody", func(ctx context.Context, who store.Who, in *struct {
		IDInput
		Body CommandBody
	}) (app.Decided, error) {
		return s.App.DropContact(ctx, who, in.Body.Command, in.ID)
	})
	operation(s, a, http.MethodGet, "/api/contacts/erasing", "erasing", "What erasing somebody would take away, and what it would leave", func(ctx context.Context, who store.Who, in *struct {
		Address string `query:"address" maxLength:"320" doc:"One of their addresses"`
	}) (app.ErasingView, error) {
		return s.App.Erasing(ctx, who, in.Address)
	})
	operation(s, a, http.MethodPost, "/api/contacts/erase", "erase", "Erase somebody: letters, addresses, lessons. It can't be undone", func(ctx context.Context, who store.Who, in *struct {
		Body struct {
			CommandBody
			Address string `json:"address" maxLength:"320"`
			Seal    string `json:"seal" maxLength:"100" doc:"Of what was said to go"`
			Servers bool   `json:"servers,omitempty" doc:"Take the copies on mail servers away too"`
		}
	}) (app.Decided, error) {
		return s.App.Erase(ctx, who, in.Body.Command, in.Body.Address, in.Body.Seal, in.Body.Servers)
	})
	operation(s, a, http.MethodPost, "/api/contacts/file", "take-contacts", "Write down whom a file of vCards names", func(ctx context.Context, who store.Who, in *struct {
		Body struct {
			CommandBody
			File []byte `json:"file" doc:"In base64"`
		}
	}) (app.TookContacts, error) {
		return s.App.TakeContacts(ctx, who, in.Body.Command, in.Body.File)
	})
}

// ContactBody is what is written down of somebody.
type ContactBody struct {
	CommandBody
	contact.Contact
}

// contactRoutes are those who are written down as a file.
func (s *server) contactRoutes() []rawRoute {
	return []rawRoute{
		{http.MethodGet, "/api/contacts/file", "contacts-file", "Who is written down, as vCards", map[string]string{"id": "One of them; all without it"}, "", "text/vcard", false, s.contactsFile},
	}
}

func (s *server) contactsFile(c *gin.Context, who store.Who) error {
	id, err := strconv.ParseInt(c.DefaultQuery("id", "0"), 10, 64)
	if err != nil {
		return invalid("id", "That is nobody who is written down.")
	}
	text, err := s.App.ContactsFile(c.Request.Context(), who, id)
	if err != nil {
		return err
	}
	attach(c, "attachment", "people.vcf")
	c.Data(http.StatusOK, "text/vcard; charset=utf-8", []byte(text))
	return nil
}
