package api

import (
	"context"
	"encoding/json"
	"errors"
	"net/http"

	"github.com/danielgtaylor/huma/v2"
	"github.com/gin-gonic/gin"

	"ebbe.example/ebbe/internal/app"
	"ebbe.example/ebbe/internal/store"
)

// ProblemView is what every request that fails is answered with (RFC 9457).
type ProblemView struct {
	huma.ErrorModel
	Kind string `json:"kind" doc:"What went wrong, for programs: signed-out, somebody-else, not-found, refused, invalid, conflict, too-many, too-large, wrong-method, cross-site, wrong-host, unavailable or broken, or a kind of the use case"`
	// Field is what of the request was refused.
	Field string `json:"field,omitempty" doc:"What of the request was refused"`
	// Choices are what can be done instead.
	Choices []string `json:"choices,omitempty" doc:"What can be done instead"`
	// On are the conversations with which it can be done.
	On []int64 `json:"on,omitempty" doc:"The conversations with which it can be done"`
}

// kinds are what a status means where nothing says more.
var kinds = map[int]string{
	http.StatusBadRequest: "invalid", http.StatusUnauthorized: "signed-out", http.StatusForbidden: "refused", http.StatusNotFound: "not-found",
	http.StatusMethodNotAllowed: "wrong-method", http.StatusConflict: "conflict", http.StatusRequestEntityTooLarge: "too-large",
	http.StatusUnprocessableEntity: "refused", http.StatusTooManyRequests: "too-many", http.StatusInternalServerError: "broken",
	http.StatusServiceUnavailable: "unavailable", http.StatusMisdirectedRequest: "wrong-host", http.StatusInsufficientStorage: "unavailable",
}

func newProblem(status int, detail string, errs ...error) *ProblemView {
	p := &ProblemView{ErrorModel: huma.ErrorModel{Status: status, Title: http.StatusText(status), Detail: detail}, Kind: kinds[status]}
	for _, err := range errs {
		if err != nil {
			p.Add(err)
		}
	}
	if len(p.Errors) > 0 && status == http.StatusUnprocessableEntity {
		p.Kind, p.Field = "invalid", p.Errors[0].Location
	}
	return p
}

func init() {
	// All that Huma itself refuses takes the same form.
	huma.NewError = func(status int, detail string, errs ...error) huma.StatusError {
		return newProblem(status, detail, errs...)
	}
}

// problemOf turns an error of a use case into an answer.
func (s *server) problemOf(err error) *ProblemView {
	var p *app.Problem
	var already *ProblemView
	switch {
	case errors.As(err, &already):
		return already
	case errors.As(err, &p):
		out := newProblem(http.StatusUnprocessableEntity, p.Reason)
		out.Field, out.Choices, out.On = p.Field, p.Choices, p.On
		if p.Kind != "" {
			out.Kind = p.Kind
		}
		return out
	case errors.Is(err, store.ErrForeign):
		return newProblem(http.StatusConflict, "This command’s id was used by somebody else. Nothing was done.")
	case errors.Is(err, store.ErrNotFound):
		return newProblem(http.StatusNotFound, "That is no longer there.")
	case errors.Is(err, app.ErrTooMuch):
		return newProblem(http.StatusRequestEntityTooLarge, "The file is larger than can be taken. Nothing of it was taken.")
	case errors.Is(err, context.Canceled):
		return newProblem(http.StatusServiceUnavailable, "The request was cut off.")
	case store.Garbled(err):
		s.Log.Error("a kept value can't be read", "reason", err)
		out := newProblem(http.StatusConflict, "Something that is kept of it can’t be read, so nothing was changed. “ebbe check” says where.")
		out.Kind = "unreadable"
		return out
	case store.Unavailable(err) != "":
		s.Log.Error("the database can't be used", "reason", err)
		return newProblem(http.StatusServiceUnavailable, store.Unavailable(err)+" Nothing was changed; what you did is kept in this page and tried again.")
	}
	s.Log.Error("a request failed", "reason", err)
	return newProblem(http.StatusInternalServerError, "Something went wrong in Ebbe; nothing was changed. It is written in the server’s log.")
}

// failure turns an error of a use case into an answer of a typed operation.
func (s *server) failure(err error) error {
	if err == nil {
		return nil
	}
	return s.problemOf(err)
}

// fail answers a request that is no typed operation.
func (s *server) fail(c *gin.Context, err error) { refuse(c.Writer, s.problemOf(err)); c.Abort() }

// refuse writes a problem.
func refuse(w http.ResponseWriter, p *ProblemView) {
	body, err := json.Marshal(p)
	if err != nil {
		w.WriteHeader(http.StatusInternalServerError)
		return
	}
	h := w.Header()
	h.Del("Content-Disposition")
	h.Set("Content-Type", "application/problem+json")
	w.WriteHeader(p.Status)
	_, _ = w.Write(body)
}

var (
	errSignedOut    = newProblem(http.StatusUnauthorized, "Please sign in.")
	errNoSuchThing  = newProblem(http.StatusNotFound, "There is nothing at this address.")
	errWrongMethod  = newProblem(http.StatusMethodNotAllowed, "That can’t be done at this address.")
	errSomebodyElse = func() *ProblemView {
		p := newProblem(http.StatusConflict, "Somebody else has signed in in this browser meanwhile.")
		p.Kind = "somebody-else"
		return p
	}()
	errCrossSite = func() *ProblemView {
		p := newProblem(http.StatusForbidden, "A page of another site asked for this; it was refused.")
		p.Kind = "cross-site"
		return p
	}()
	errWrongHost = newProblem(http.StatusMisdirectedRequest, "This Ebbe is not known by that name. Where it stands behind a proxy, start it with --host and that name.")
)
