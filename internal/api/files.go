package api

import (
	"bufio"
	"cmp"
	"context"
	"errors"
	"fmt"
	"io"
	"net/http"
	"os"
	"path/filepath"
	"strconv"
	"strings"
	"time"

	"github.com/danielgtaylor/huma/v2"
	"github.com/gin-gonic/gin"

	"ebbe.example/ebbe/internal/app"
	"ebbe.example/ebbe/internal/core/exchange"
	"ebbe.example/ebbe/internal/show"
	"ebbe.example/ebbe/internal/store"
)

func (s *server) describeImports(a huma.API) {
	operation(s, a, http.MethodGet, "/api/imports", "imports", "The latest imports", func(ctx context.Context, who store.Who, _ *none) ([]app.ImportView, error) {
		return s.App.Imports(ctx, who)
	})
	operation(s, a, http.MethodPost, "/api/imports", "new-import", "Begin an import; its files are uploaded next", func(ctx context.Context, who store.Who, in *struct {
		Body struct {
			Command    string `json:"command" minLength:"8" maxLength:"80"`
			Name       string `json:"name" minLength:"1" maxLength:"200"`
			InboxDays  int    `json:"inboxDays,omitempty" minimum:"0" maximum:"40000" doc:"Letters newer than this go to the inbox; the others to the archive"`
			OldQuoting bool   `json:"oldQuoting,omitempty" doc:"mbox files are of the mboxo kind"`
		}
	}) (app.ImportView, error) {
		b := in.Body
		return s.App.NewImport(ctx, who, app.Importing{Command: b.Command, Name: b.Name, InboxDays: b.InboxDays, OldQuoting: b.OldQuoting})
	})
	operation(s, a, http.MethodPost, "/api/imports/{id}/start", "start-import", "Take in what was uploaded", func(ctx context.Context, who store.Who, in *IDInput) (app.ImportView, error) {
		return s.App.StartImport(ctx, who, in.ID)
	})
	operation(s, a, http.MethodPost, "/api/imports/{id}/stop", "stop-import", "End an import; what was taken in stays", func(ctx context.Context, who store.Who, in *IDInput) (app.ImportView, error) {
		return s.App.StopImport(ctx, who, in.ID)
	})
}

// fileRoutes are uploads and downloads.
func (s *server) fileRoutes() []rawRoute {
	anything := "application/octet-stream"
	return []rawRoute{
		{http.MethodPut, "/api/imports/{id}/files/{number}", "upload", "Upload a file of an import", map[string]string{"name": "The file’s name"}, anything, "", false, s.upload},
		{http.MethodGet, "/api/export", "export", "Letters as a file", map[string]string{
			"format": "mbox, maildir or eml", "conversations": "Ids with commas between", "label": "Only those of a label", "search": "Only what a search finds", "within": "What else that must meet", "copies": "1 for every copy of a letter that has come, as it came",
		}, "", anything, false, s.export},
		{http.MethodGet, "/api/tasks/file", "tasks-file", "All follow-ups as a file", map[string]string{"format": "ics, txt or csv"}, "", "text/plain", false, s.tasksFile},
		{http.MethodGet, "/feed/{secret}", "calendar", "The appointments, for other calendars", nil, "", "text/calendar", true, s.feed},
		{http.MethodPost, "/api/follow-ups/drop", "drop-follow-up", "Make a follow-up of a dropped file", map[string]string{"command": "The command’s id", "name": "The file’s name"}, anything, "application/json", false, s.dropFollowUp},
		{http.MethodGet, "/api/rules/script", "rule-script", "All rules as a Sieve script (RFC 5228)", nil, "", "application/sieve", false, s.ruleScript},
		{http.MethodGet, "/api/archive", "archive", "Everything, as a zip", nil, "", "application/zip", false, s.archive},
	}
}

// patient reads a body of which each piece has to come in time, however long
// all of it takes.
type patient struct {
	body    io.Reader
	control *http.ResponseController
}

func (p patient) Read(b []byte) (int, error) {
	_ = p.control.SetReadDeadline(time.Now().Add(patience)) // a connection that has none is not waited for
	return p.body.Read(b)
}

// upload takes one file of an import, as it comes.
func (s *server) upload(c *gin.Context, who store.Who) error {
	id, err := number(c, "id")
	n, bad := number(c, "number")
	if err := cmp.Or(err, bad); err != nil {
		return err
	}
	body := patient{c.Request.Body, http.NewResponseController(c.Writer)}
	if err := s.App.FillImport(c.Request.Context(), who, id, int(n), c.Query("name"), body); err != nil {
		return err
	}
	c.Status(http.StatusNoContent)
	return nil
}

// tasksFile gives all follow-ups as a file.
func (s *server) tasksFile(c *gin.Context, who store.Who) error {
	kinds := map[exchange.Format]string{exchange.ICalendar: "text/calendar; charset=utf-8", exchange.TodoTxt: "text/plain; charset=utf-8", exchange.CSV: "text/csv; charset=utf-8"}
	f := exchange.Format(c.Query("format"))
	if kinds[f] == "" {
		return invalid("format", "Follow-ups are written as ics, txt or csv.")
	}
	text, err := s.App.ExportTasks(c.Request.Context(), who, f)
	if err != nil {
		return err
	}
	attach(c, "attachment", "follow-ups."+string(f))
	c.Data(http.StatusOK, kinds[f], []byte(text))
	return nil
}

func invalid(field, detail string) *ProblemView {
	p := newProblem(http.StatusBadRequest, detail)
	p.Field = field
	return p
}

// dropFollowUp takes a file that was dropped onto the follow-ups.
func (s *server) dropFollowUp(c *gin.Context, who store.Who) error {
	body := patient{http.MaxBytesReader(c.Writer, c.Request.Body, 26<<20), http.NewResponseController(c.Writer)}
	data, err := io.ReadAll(body)
	if err != nil {
		return newProblem(http.StatusRequestEntityTooLarge, "The file is larger than 25 MB, or did not come whole. Nothing was made.")
	}
	out, err := s.App.DropFollowUp(c.Request.Context(), who, c.Query("command"), app.Dropped{Name: c.Query("name"), Data: data})
	if err != nil {
		return err
	}
	c.Header("Content-Type", "application/json")
	return writeJSON(c.Writer, out)
}

// exportFormats are what letters are written out as.
var exportFormats = map[string]struct {
	end, kind string
	write     func(ctx context.Context, e show.Export, w io.Writer) error
}{
	"mbox": {".mbox", "application/mbox", func(ctx context.Context, e show.Export, w io.Writer) error { return e.Mbox(ctx, w) }},
	"maildir": {".maildir.zip", "application/zip", func(ctx context.Context, e show.Export, w io.Writer) error {
		return app.InZip(w, func(f show.Folder) error { return e.Maildir(ctx, f) })
	}},
	"eml": {".zip", "application/zip", func(ctx context.Context, e show.Export, w io.Writer) error {
		return app.InZip(w, func(f show.Folder) error { return e.Files(ctx, f) })
	}},
}

// export gives letters as a file: of conversations, of a label, of a search,
// or all.
func (s *server) export(c *gin.Context, who store.Who) error {
	format, known := exportFormats[c.Query("format")]
	if !known {
		return invalid("format", "Letters are written as mbox, maildir or eml.")
	}
	what := show.Exporting{Label: c.Query("label"), Search: c.Query("search"), Within: c.Query("within"), Copies: c.Query("copies") == "1"}
	name := "Ebbe letters"
	if list := c.Query("conversations"); list != "" {
		for text := range strings.SplitSeq(list, ",") {
			id, err := strconv.ParseInt(text, 10, 64)
			if err != nil {
				return invalid("conversations", "Those are no conversations.")
			}
			what.Conversations = append(what.Conversations, id)
		}
		name = fmt.Sprintf("Ebbe, %d chosen", len(what.Conversations))
	} else if what.Label != "" {
		name = "Ebbe, " + what.Label
	} else if what.Search != "" {
		name = "Ebbe, found " + what.Search
	}
	e, err := s.App.PrepareExport(c.Request.Context(), who, what)
	if err != nil {
		return err
	}
	return s.download(c, name+format.end, format.kind, func(w io.Writer) error { return format.write(c.Request.Context(), e, w) })
}

// archive gives everything that is the owner's.
func (s *server) archive(c *gin.Context, who store.Who) error {
	name := "Ebbe archive " + s.App.Now().Format("2006-01-02") + ".zip"
	return s.download(c, name, "application/zip", func(w io.Writer) error {
		_, err := s.App.Archive(c.Request.Context(), who, w)
		return err
	})
}

// download writes a file and then gives it away. It is whole before the first
// byte leaves, so that what fails is said as such and a client knows how long
// it is; and whoever reads slowly keeps nothing waiting but a file.
func (s *server) download(c *gin.Context, name, kind string, write func(io.Writer) error) error {
	f, err := os.CreateTemp(filepath.Dir(s.App.Store.Path()), ".download-*")
	if err != nil {
		return err
	}
	defer f.Close()
	if err := os.Remove(f.Name()); err != nil { // it goes with the last who reads it, also in a crash
		return err
	}
	buffer := bufio.NewWriterSize(f, 1<<20)
	if err := errors.Join(write(buffer), buffer.Flush()); err != nil {
		return err
	}
	size, err := f.Seek(0, io.SeekCurrent)
	if err == nil {
		_, err = f.Seek(0, io.SeekStart)
	}
	if err != nil {
		return err
	}
	attach(c, "attachment", name)
	c.Header("Content-Type", kind)
	c.Header("Content-Length", strconv.FormatInt(size, 10))
	c.Status(http.StatusOK)
	control := http.NewResponseController(c.Writer)
	for piece := make([]byte, 256<<10); ; {
		n, err := f.Read(piece)
		if n > 0 {
			_ = control.SetWriteDeadline(time.Now().Add(patience))
			if _, err := c.Writer.Write(piece[:n]); err != nil {
				panic(http.ErrAbortHandler) // the client has gone, or reads nothing
			}
		}
		if errors.Is(err, io.EOF) {
			return nil
		}
		if err != nil {
			s.Log.Error("a download was cut off", "file", name, "reason", err)
			panic(http.ErrAbortHandler)
		}
	}
}
