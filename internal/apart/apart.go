// Package apart reads the text of files in a process of its own, with bounds of time and memory: a
// parser of a foreign format may hang, eat all memory or crash, and takes nobody with it. The process is
// Ebbe itself, begun with another command.
package apart

import (
	"context"
	"encoding/gob"
	"errors"
	"fmt"
	"io"
	"os/exec"
	"sync"
	"time"

	"ebbe.example/ebbe/internal/core/filetext"
)

// ErrBroke is returned for a file with which the process broke off, or that it did not read in time.
var ErrBroke = errors.New("reading it took too long, or broke off")

// asked is a file that is to be read, answered what was read of it.
type asked struct {
	Name, Type string
	Data       []byte
}

type answered struct{ Text, Trouble string }

// Reader reads files apart. It is safe to be called at once; files are read one after the other.
type Reader struct {
	// Command begins a process that serves (Serve). Patience is how long it may take for a file.
	Command  func() *exec.Cmd
	Patience time.Duration

	mu   sync.Mutex
	cmd  *exec.Cmd
	ask  *gob.Encoder
	says *gob.Decoder
	in   io.Closer
}

// Read gives the text of a file as filetext.Read does. The error says what keeps it from being read, in
// words for its owner; errors.Is(err, ErrBroke) where the process did not bear it.
func (r *Reader) Read(ctx context.Context, name, contentType string, data []byte) (string, error) {
	r.mu.Lock()
	defer r.mu.Unlock()
	if r.cmd == nil {
		if err := r.begin(); err != nil {
			return "", fmt.Errorf("begin to read files: %w", err)
		}
	}
	var a answered
	done := make(chan error, 1)
	go func() {
		err := r.ask.Encode(asked{name, contentType, data})
		if err == nil {
			err = r.says.Decode(&a)
		}
		done <- err
	}()
	timer := time.NewTimer(r.Patience)
	defer timer.Stop()
	select {
	case err := <-done:
		if err != nil {
			r.end()
			return "", ErrBroke
		}
	case <-timer.C:
		r.end()
		<-done
		return "", ErrBroke
	case <-ctx.Done():
		r.end()
		<-done
		return "", ctx.Err()
	}
	if a.Trouble != "" {
		return a.Text, errors.New(a.Trouble)
	}
	return a.Text, nil
}

func (r *Reader) begin() error {
	cmd := r.Command()
	bind(cmd)
	in, err := cmd.StdinPipe()
	if err != nil {
		return err
	}
	out, err := cmd.StdoutPipe()
	if err != nil {
		return err
	}
	if err := cmd.Start(); err != nil {
		return err
	}
	r.cmd, r.in, r.ask, r.says = cmd, in, gob.NewEncoder(in), gob.NewDecoder(out)
	return nil
}

// end kills the process; the next file begins another.
func (r *Reader) end() {
	if r.cmd == nil {
		return
	}
	_ = r.cmd.Process.Kill() // it may have died already
	_ = r.in.Close()
	_ = r.cmd.Wait()
	r.cmd = nil
}

// Rest ends the process until a file is to be read again: it costs memory.
func (r *Reader) Rest() {
	r.mu.Lock()
	defer r.mu.Unlock()
	r.end()
}

// Serve reads the files that it is asked for on in, until that ends, and answers on out. It is what the
// process apart does; it bounds its own memory.
func Serve(in io.Reader, out io.Writer) error {
	confine()
	asks, says := gob.NewDecoder(in), gob.NewEncoder(out)
	for {
		var a asked
		if err := asks.Decode(&a); err != nil {
			if errors.Is(err, io.EOF) {
				return nil
			}
			return err
		}
		text, err := filetext.Read(a.Name, a.Type, a.Data)
		answer := answered{Text: text}
		if err != nil {
			answer.Trouble = inWords(err)
		}
		if err := says.Encode(answer); err != nil {
			return err
		}
	}
}

func inWords(err error) string {
	for _, known := range []error{filetext.ErrEncrypted, filetext.ErrTooLarge, filetext.ErrDamaged} {
		if errors.Is(err, known) {
			return known.Error()
		}
	}
	return err.Error()
}
