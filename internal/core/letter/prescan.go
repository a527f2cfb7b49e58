package letter

import (
	"bytes"
	"errors"
	"fmt"
	"regexp"
)

// The limits under which a letter's parts are read at all. Beyond them only
// its header and first text are shown; the bytes are kept either way.
const (
	maxDepth  = 50
	maxParts  = 1000
	maxHeader = 256 << 10
	// MaxSize is the largest letter whose parts are read, in bytes.
	MaxSize = 25 << 20
)

var boundaryParam = regexp.MustCompile(`(?i)boundary\s*=\s*(?:"([^"\r\n]{1,200})"|([^\s;"]{1,200}))`)

// prescan walks the lines once, without building anything, and tells whether
// a parser that recurses and keeps everything in memory may be let loose on
// the letter.
func prescan(raw []byte) error {
	if len(raw) > MaxSize {
		return fmt.Errorf("it is larger than %d MB: shown in part", MaxSize>>20)
	}
	if header, _ := splitHeader(raw); len(header) > maxHeader {
		return errors.New("its header is too long: shown in part")
	}
	open := map[string]bool{}
	depth, parts := 0, 0
	for len(raw) > 0 {
		line := raw
		if i := bytes.IndexByte(raw, '\n'); i >= 0 {
			line, raw = raw[:i], raw[i+1:]
		} else {
			raw = nil
		}
		if bytes.HasPrefix(line, []byte("--")) {
			mark := string(bytes.TrimRight(line[2:], " \t\r"))
			if open[mark] {
				parts++
			} else if n := len(mark) - 2; n > 0 && mark[n:] == "--" && open[mark[:n]] {
				depth--
			}
		}
		// Only a line that can carry the parameter is worth the expression.
		if i := bytes.IndexByte(line, '='); i >= 8 && len(line) < 2000 {
			if m := boundaryParam.FindSubmatch(line); m != nil {
				name := string(m[1]) + string(m[2])
				if !open[name] {
					open[name] = true
					depth++
				}
			}
		}
		if depth > maxDepth {
			return errors.New("its parts are nested too deeply: shown in part")
		}
		if parts > maxParts {
			return errors.New("it has too many parts: shown in part")
		}
	}
	return nil
}
