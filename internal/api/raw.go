package api

import (
	"cmp"
	"fmt"
	"io/fs"
	"maps"
	"mime"
	"net/http"
	"reflect"
	"regexp"
	"slices"
	"strconv"
	"strings"

	"github.com/danielgtaylor/huma/v2"
	"github.com/gin-gonic/gin"

	"ebbe.example/ebbe/internal/core/letter"
	"ebbe.example/ebbe/internal/post"
	"ebbe.example/ebbe/internal/store"
	"ebbe.example/ebbe/internal/work"
)

// rawRoute is an operation that takes or gives something else than JSON: a
// letter's own page, a file, the stream of changes. It is described like all
// others, and refuses in the same form.
type rawRoute struct {
	method, path, id, summary string
	// query are its query parameters, with what they mean.
	query map[string]string
	// takes and gives are the types of its body and of its answer; "" for none.
	takes, gives string
	// open tells that nobody has to be signed in.
	open   bool
	handle func(c *gin.Context, who store.Who) error
}

func (s *server) rawRoutes() []rawRoute {
	return slices.Concat([]rawRoute{
		{http.MethodGet, "/api/letters/{id}/page", "letter-page", "A letter’s HTML, made safe, on a page of its own", map[string]string{"images": "1 to load remote pictures"}, "", "text/html", false, s.letterPage},
		{http.MethodGet, "/api/letters/{id}/parts/{index}", "letter-part", "An attachment", map[string]string{"save": "1 to have it saved"}, "", "application/octet-stream", false, s.letterPart},
		{http.MethodGet, "/api/letters/{id}/original", "letter-original", "A letter byte for byte", nil, "", "application/octet-stream", false, s.letterOriginal},
		{http.MethodGet, "/api/events", "events", "What changes, as server-sent events", nil, "", "text/event-stream", false, s.events},
	}, s.fileRoutes(), s.writingRoutes(), s.shareRoutes(), s.sheetRoutes(), s.contactRoutes())
}

var pathParam = regexp.MustCompile(`\{(\w+)\}`)

// raw registers the routes.
func (s *server) raw(r *gin.Engine) {
	for _, route := range s.rawRoutes() {
		r.Handle(route.method, pathParam.ReplaceAllString(route.path, ":$1"), func(c *gin.Context) {
			who := whoOf(c.Request.Context())
			if who.Person == 0 && !route.open {
				s.fail(c, errSignedOut)
				return
			}
			if err := route.handle(c, who); err != nil {
				s.fail(c, err)
			}
		})
	}
}

// describeRaw puts the routes into the API's description.
func (s *server) describeRaw(a huma.API) {
	text := &huma.Schema{Type: huma.TypeString}
	failed := a.OpenAPI().Components.Schemas.Schema(problemType, true, "")
	for _, route := range s.rawRoutes() {
		op := &huma.Operation{OperationID: route.id, Method: route.method, Path: route.path, Summary: route.summary, Responses: map[string]*huma.Response{
			"default": {Description: "Error", Content: map[string]*huma.MediaType{"application/problem+json": {Schema: failed}}},
		}}
		for _, m := range pathParam.FindAllStringSubmatch(route.path, -1) {
			op.Parameters = append(op.Parameters, &huma.Param{Name: m[1], In: "path", Required: true, Schema: text})
		}
		for _, name := range slices.Sorted(maps.Keys(route.query)) {
			op.Parameters = append(op.Parameters, &huma.Param{Name: name, In: "query", Description: route.query[name], Schema: text})
		}
		binary := &huma.Schema{Type: huma.TypeString, Format: "binary"}
		if route.takes != "" {
			op.RequestBody = &huma.RequestBody{Content: map[string]*huma.MediaType{route.takes: {Schema: binary}}}
		}
		status, said := "200", &huma.Response{Description: "OK"}
		if route.gives == "" {
			status = "204"
		} else {
			said.Content = map[string]*huma.MediaType{route.gives: {Schema: binary}}
		}
		if route.id == "events" {
			said.Content[route.gives].Schema = newsSchema(a)
		}
		op.Responses[status] = said
		a.OpenAPI().AddOperation(op)
	}
}

// newsSchema describes the data of an event, with all that can become stale.
func newsSchema(a huma.API) *huma.Schema {
	schemas := a.OpenAPI().Components.Schemas
	news := schemas.Schema(reflect.TypeFor[work.News](), true, "")
	items := schemas.SchemaFromRef(news.Ref).Properties["stale"].Items
	for _, r := range work.Readings {
		items.Enum = append(items.Enum, string(r))
	}
	return news
}

// number reads a number of the path; what is none is nowhere.
func number(c *gin.Context, name string) (int64, error) {
	n, err := strconv.ParseInt(c.Param(name), 10, 64)
	if err != nil || n < 0 {
		return 0, errNoSuchThing
	}
	return n, nil
}

// paperFont is the font of letters, under the name that its contents give it.
func paperFont(page fs.FS) string {
	found, err := fs.Glob(page, "assets/newsreader-latin-wght-normal-*.woff2")
	if err != nil || len(found) == 0 {
		return "assets/none" // the interface is not built; another font does
	}
	return found[0]
}

// letterStyle is how a letter's page looks where the letter itself says
// nothing. Letters bring their own colours, so their paper stays light.
const letterStyle = `<style>@font-face{font-family:Newsreader;src:url(/PAPERFONT);font-weight:200 800}
html{background:#FDFDFA;color:#15282C;font:17px/1.55 Newsreader,Georgia,serif;overflow-wrap:anywhere}
body{margin:0;padding:2px}img{max-width:100%;height:auto}table{max-width:100%}a{color:#0C6A70}blockquote{margin:0 0 0 .5em;padding-left:.8em;border-left:2px solid #D3DAD3;color:#4C5F63}
pre{white-space:pre-wrap}summary{cursor:pointer;font:13px sans-serif;color:#4C5F63;margin:.5em 0}img[data-blocked]{display:inline-block;min-width:2em;min-height:1em;background:#E6EAE4;outline:1px dashed #B5C0B8}</style>`

// letterPage serves a letter's HTML on its own page, under a policy that runs
// nothing and fetches nothing but, if asked for, images.
func (s *server) letterPage(c *gin.Context, who store.Who) error {
	id, err := number(c, "id")
	if err != nil {
		return err
	}
	remote := c.Query("images") == "1"
	html, err := s.App.Page(c.Request.Context(), who, id, remote, func(index int) string {
		return fmt.Sprintf("/api/letters/%d/parts/%d", id, index)
	})
	if err != nil {
		return err
	}
	s.servePaper(c, html, remote)
	return nil
}

// servePaper serves what a letter's page holds.
func (s *server) servePaper(c *gin.Context, html string, remote bool) {
	images := "img-src 'self' data:"
	if remote {
		images += " https: http:"
	}
	c.Header("Content-Security-Policy", "default-src 'none'; style-src 'unsafe-inline'; font-src 'self'; "+images+
		"; base-uri 'none'; form-action 'none'; frame-ancestors 'self'; sandbox allow-same-origin allow-popups allow-popups-to-escape-sandbox")
	c.Data(http.StatusOK, "text/html; charset=utf-8", []byte("<!doctype html><html><head><meta charset=\"utf-8\"><base target=\"_blank\">"+strings.Replace(letterStyle, "PAPERFONT", s.font, 1)+"</head><body>"+html+"</body></html>"))
}

// shown are the types that a browser may show in place; everything else is
// saved. None of them can run anything, and the policy forbids it besides.
var shown = map[string]bool{
	"image/png": true, "image/jpeg": true, "image/gif": true, "image/webp": true, "application/pdf": true, "text/plain": true,
}

// letterPart serves an attachment so that none runs.
func (s *server) letterPart(c *gin.Context, who store.Who) error {
	id, err := number(c, "id")
	index, bad := number(c, "index")
	if err := cmp.Or(err, bad); err != nil {
		return err
	}
	part, err := s.App.PartOf(c.Request.Context(), who, id, int(index))
	if err != nil {
		return err
	}
	servePart(c, part)
	return nil
}

// servePart serves a file of a letter.
func servePart(c *gin.Context, part letter.Part) {
	kind, disposition := part.ContentType, "inline"
	if !shown[kind] || c.Query("save") == "1" {
		disposition = "attachment"
	}
	if !shown[kind] {
		kind = "application/octet-stream"
	}
	if kind == "text/plain" {
		kind += "; charset=" + cmp.Or(part.Charset, "utf-8")
	}
	attach(c, disposition, part.Name)
	if kind != "application/pdf" { // a browser's own PDF reader will not start in a sandbox
		c.Header("Content-Security-Policy", "default-src 'none'; style-src 'unsafe-inline'; sandbox")
	} else {
		c.Header("Content-Security-Policy", "default-src 'none'; object-src 'self'; plugin-types application/pdf; style-src 'unsafe-inline'")
	}
	c.Data(http.StatusOK, kind, part.Content)
}

func attach(c *gin.Context, disposition, name string) {
	c.Header("Content-Disposition", mime.FormatMediaType(disposition, map[string]string{"filename": post.FileName(name)}))
}

// letterOriginal serves a letter byte for byte.
func (s *server) letterOriginal(c *gin.Context, who store.Who) error {
	id, err := number(c, "id")
	if err != nil {
		return err
	}
	raw, err := s.App.Original(c.Request.Context(), who, id)
	if err != nil {
		return err
	}
	l, err := s.App.ReadLetter(c.Request.Context(), who, id)
	if err != nil {
		return err
	}
	attach(c, "attachment", post.FileName(l.Subject)+".eml")
	c.Data(http.StatusOK, "application/octet-stream", raw)
	return nil
}
