package main

import (
	"errors"
	"fmt"

	"ebbe.example/ebbe/internal/store"
)

// version is what “ebbe --version” says.
const version = "0.13.0"

// The codes that the process ends with, besides 0 for all well.
const (
	failedCode  = 1 // nothing was done, or the database is not sound
	usageCode   = 2 // the command's words are off
	stoppedCode = 3 // it was stopped before its end; what was done stays
	nothingCode = 4 // there was nothing to take
	partCode    = 5 // done, but for what is named
)

// exit is an error with the code that the process ends with.
type exit struct {
	code int
	err  error
}

func (e *exit) Error() string { return e.err.Error() }
func (e *exit) Unwrap() error { return e.err }

// codeOf is the code that an error ends the process with.
func codeOf(err error) int {
	var e *exit
	switch {
	case err == nil:
		return 0
	case errors.As(err, &e):
		return e.code
	}
	return failedCode
}

// inWords says what an error of the database means.
func inWords(err error) string {
	if why := store.Unavailable(err); why != "" {
		return fmt.Sprintf("%s (%v)", why, err)
	}
	return err.Error()
}
