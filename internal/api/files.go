package api

import (
	"archive/zip"
	"context"
	"errors"
	"fmt"
	"io"
	"mime"
	"net/http"
	"strconv"
	"strings"

	"github.com/danielgtaylor/huma/v2"
	"github.com/gin-gonic/gin"

	"ebbe.example/ebbe/internal/app"
	"ebbe.example/ebbe/internal/core/exchange"
	"ebbe.example/ebbe/internal/post"
	"ebbe.example/ebbe/internal/store"
)

func (s *server) describeImports(a huma.API) {
	operation(s, a, http.MethodGet, "/api/imports", "imports", "The latest imports", func(ctx context.Context, owner int64, _ *none) ([]app.ImportView, error) {
		return s.App.Imports(ctx, owner)
	})
	operation(s, a, http.MethodPost, "/api/imports", "new-import", "Begin an import; its files are uploaded next", func(ctx context.Context, owner int64, in *struct {
		Body struct {
			Command    string `json:"command" minLength:"8" maxLength:"80"`
			Name       string `json:"name" minLength:"1" maxLength:"200"`
			InboxDays  int    `json:"inboxDays,omitempty" minimum:"0" maximum:"40000" doc:"Letters newer than this go to the inbox; the others to the archive"`
			OldQuoting bool   `json:"oldQuoting,omitempty" doc:"mbox files are of the mboxo kind"`
		}
	}) (app.ImportView, error) {
		b := in.Body
		return s.App.NewImport(ctx, owner, app.Importing{Command: b.Command, Name: b.Name, InboxDays: b.InboxDays, OldQuoting: b.OldQuoting})
	})
	operation(s, a, http.MethodPost, "/api/imports/{id}/start", "start-import", "Take in what was uploaded", func(ctx context.Context, owner int64, in *IDInput) (app.ImportView, error) {
		return s.App.StartImport(ctx, owner, in.ID)
	})
	operation(s, a, http.MethodPost, "/api/imports/{id}/stop", "stop-import", "End an import; what was taken in stays", func(ctx context.Context, owner int64, in *IDInput) (app.ImportView, error) {
		return s.App.StopImport(ctx, owner, in.ID)
	})
}

// rawFiles registers uploads and downloads.
func (s *server) rawFiles(r *gin.Engine) {
	r.PUT("/api/imports/:id/files/:number", s.upload)
	r.GET("/api/export", s.export)
	r.GET("/api/tasks/file", s.tasksFile)
	r.GET("/feed/:secret", s.feed)
	r.POST("/api/follow-ups/drop", s.dropFollowUp)
	r.GET("/api/archive", s.archive)
}

// upload takes one file of an import, as it comes.
func (s *server) upload(c *gin.Context) {
	owner, id, ok := s.letterID(c)
	number, err := strconv.Atoi(c.Param("number"))
	if !ok || err != nil || number < 0 {
		c.Status(http.StatusNotFound)
		return
	}
	err = s.App.FillImport(c.Request.Context(), owner, id, number, c.Query("name"), c.Request.Body)
	var p *app.Problem
	switch {
	case err == nil:
		c.Status(http.StatusNoContent)
	case errors.As(err, &p):
		c.String(http.StatusUnprocessableEntity, p.Reason)
	case errors.Is(err, store.ErrNotFound):
		c.String(http.StatusNotFound, "That import is no longer there.")
	case errors.Is(err, app.ErrTooMuch):
		c.String(http.StatusRequestEntityTooLarge, err.Error())
	default:
		s.Log.Warn("an upload failed", "reason", err)
		c.String(http.StatusInternalServerError, "The file could not be taken; nothing of it was imported.")
	}
}

// tasksFile gives all follow-ups as a file.
func (s *server) tasksFile(c *gin.Context) {
	owner := ownerOf(c.Request.Context())
	kinds := map[exchange.Format]string{exchange.ICalendar: "text/calendar; charset=utf-8", exchange.TodoTxt: "text/plain; charset=utf-8", exchange.CSV: "text/csv; charset=utf-8"}
	f := exchange.Format(c.Query("format"))
	if owner == 0 || kinds[f] == "" {
		c.Status(http.StatusNotFound)
		return
	}
	text, err := s.App.ExportTasks(c.Request.Context(), owner, f)
	if err != nil {
		s.Log.Error("follow-ups could not be written", "reason", err)
		c.String(http.StatusInternalServerError, "The follow-ups could not be written.")
		return
	}
	c.Header("Content-Disposition", mime.FormatMediaType("attachment", map[string]string{"filename": "follow-ups." + string(f)}))
	c.Data(http.StatusOK, kinds[f], []byte(text))
}

// dropFollowUp takes a file that was dropped onto the follow-ups.
func (s *server) dropFollowUp(c *gin.Context) {
	owner := ownerOf(c.Request.Context())
	if owner == 0 {
		c.Status(http.StatusNotFound)
		return
	}
	data, err := io.ReadAll(http.MaxBytesReader(c.Writer, c.Request.Body, 26<<20))
	if err != nil {
		c.JSON(http.StatusRequestEntityTooLarge, gin.H{"detail": "The file is larger than 25 MB. Nothing was made."})
		return
	}
	out, err := s.App.DropFollowUp(c.Request.Context(), owner, c.Query("command"), app.Dropped{Name: c.Query("name"), Data: data})
	var p *app.Problem
	switch {
	case err == nil:
		c.JSON(http.StatusOK, out)
	case errors.As(err, &p):
		c.JSON(http.StatusUnprocessableEntity, gin.H{"detail": p.Reason})
	default:
		s.Log.Error("a dropped file could not be taken", "reason", err)
		c.JSON(http.StatusInternalServerError, gin.H{"detail": "The file could not be taken; nothing was made."})
	}
}

// exportFormats are what letters are written out as.
var exportFormats = map[string]struct {
	end, kind string
	write     func(ctx context.Context, e app.Export, w http.ResponseWriter) error
}{
	"mbox": {".mbox", "application/mbox", func(ctx context.Context, e app.Export, w http.ResponseWriter) error { return e.Mbox(ctx, w) }},
	"maildir": {".maildir.zip", "application/zip", func(ctx context.Context, e app.Export, w http.ResponseWriter) error {
		return zipped(w, func(f app.Folder) error { return e.Maildir(ctx, f) })
	}},
	"eml": {".zip", "application/zip", func(ctx context.Context, e app.Export, w http.ResponseWriter) error {
		return zipped(w, func(f app.Folder) error { return e.Files(ctx, f) })
	}},
}

func zipped(w http.ResponseWriter, write func(app.Folder) error) error {
	z := zip.NewWriter(w)
	if err := write(app.Zipped{Writer: z}); err != nil {
		return err
	}
	return z.Close()
}

// export streams letters as a file: of conversations, of a label, of a search,
// or all.
func (s *server) export(c *gin.Context) {
	owner := ownerOf(c.Request.Context())
	format, known := exportFormats[c.Query("format")]
	if owner == 0 || !known {
		c.Status(http.StatusNotFound)
		return
	}
	what := app.Exporting{Label: c.Query("label"), Search: c.Query("search")}
	name := "Ebbe letters"
	if list := c.Query("conversations"); list != "" {
		for text := range strings.SplitSeq(list, ",") {
			id, err := strconv.ParseInt(text, 10, 64)
			if err != nil {
				c.String(http.StatusBadRequest, "Those are no conversations.")
				return
			}
			what.Conversations = append(what.Conversations, id)
		}
		name = fmt.Sprintf("Ebbe, %d chosen", len(what.Conversations))
	} else if what.Label != "" {
		name = "Ebbe, " + what.Label
	} else if what.Search != "" {
		name = "Ebbe, found " + what.Search
	}
	e, err := s.App.PrepareExport(c.Request.Context(), owner, what)
	if err != nil {
		s.Log.Error("an export failed", "reason", err)
		c.String(http.StatusInternalServerError, "The letters could not be read; nothing was written.")
		return
	}
	s.download(c, name+format.end, format.kind, func() error { return format.write(c.Request.Context(), e, c.Writer) })
}

// archive streams everything that is the owner's.
func (s *server) archive(c *gin.Context) {
	owner := ownerOf(c.Request.Context())
	if owner == 0 {
		c.Status(http.StatusNotFound)
		return
	}
	name := "Ebbe archive " + s.App.Now().Format("2006-01-02") + ".zip"
	s.download(c, name, "application/zip", func() error { return s.App.Archive(c.Request.Context(), owner, c.Writer) })
}

// download streams a file. One that breaks off is cut, so that the browser
// does not take half of it for the whole.
func (s *server) download(c *gin.Context, name, kind string, write func() error) {
	c.Header("Content-Disposition", mime.FormatMediaType("attachment", map[string]string{"filename": post.FileName(name)}))
	c.Header("Content-Type", kind)
	c.Status(http.StatusOK)
	if err := write(); err != nil {
		s.Log.Error("a download was cut off", "file", name, "reason", err)
		panic(http.ErrAbortHandler)
	}
}
