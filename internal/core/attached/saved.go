package attached

import (
	"errors"
	"fmt"
	"path"
	"regexp"
	"strings"
	"unicode"
	"unicode/utf8"
)

// UsualPattern is how files are named where nothing else is said.
const UsualPattern = "{date} {name}"

// Fields are what a pattern of names may have in braces, with what each stands for.
var Fields = []struct{ Name, Says string }{
	{"name", "the file's own name"}, {"date", "the day of the letter, 2026-11-24"}, {"month", "its month, 2026-11"}, {"year", "its year"},
	{"sender", "who wrote it"}, {"address", "their address"}, {"subject", "the letter's subject"},
}

// maxPattern and maxPart bound a pattern and one part of a path, in bytes: file systems take 255.
const (
	maxPattern = 200
	maxPart    = 150
)

var field = regexp.MustCompile(`\{([^{}]*)\}`)

// CheckPattern tells, in words, what keeps a pattern from naming files. A stroke in it begins a folder.
func CheckPattern(pattern string) error {
	if len(pattern) > maxPattern {
		return errors.New("the name is too long")
	}
	for _, m := range field.FindAllStringSubmatch(pattern, -1) {
		if _, ok := (File{}).field(m[1]); !ok {
			return fmt.Errorf("there is no field {%s}", m[1])
		}
	}
	if strings.ContainsAny(field.ReplaceAllString(pattern, ""), "{}") {
		return errors.New("a brace is not closed")
	}
	return nil
}

// field is what a file has for a field; its time is already of the zone in which it is meant.
func (f File) field(name string) (string, bool) {
	switch name {
	case "name":
		return f.Name, true
	case "date":
		return f.At.Format("2006-01-02"), true
	case "month":
		return f.At.Format("2006-01"), true
	case "year":
		return f.At.Format("2006"), true
	case "sender":
		return f.From.Display(), true
	case "address":
		return f.From.Key(), true
	case "subject":
		return f.Subject, true
	}
	return "", false
}

// Path is where a file is put by a pattern, as a path with strokes that leads out of no folder: what fields
// bring makes no folders, and no part of it is one that a file system takes for something else. The end of the
// file's name stays the end.
func (f File) Path(pattern string) string {
	if strings.TrimSpace(pattern) == "" {
		pattern = UsualPattern
	}
	end := path.Ext(safe(f.Name))
	var parts []string
	for part := range strings.SplitSeq(pattern, "/") {
		part = field.ReplaceAllStringFunc(part, func(m string) string {
			value, _ := f.field(strings.Trim(m, "{}"))
			return value
		})
		if part = bounded(safe(part), path.Ext(safe(part))); part != "" {
			parts = append(parts, part)
		}
	}
	if len(parts) == 0 {
		parts = []string{"file"}
	}
	last := &parts[len(parts)-1]
	if end != "" && !strings.EqualFold(path.Ext(*last), end) {
		*last = bounded(*last+end, end)
	}
	return path.Join(parts...)
}

// named are names that some systems take for devices.
var named = regexp.MustCompile(`(?i)^(con|prn|aux|nul|com[0-9]|lpt[0-9])(\..*)?$`)

// safe is a text as one part of a path: without what separates, controls, turns the direction of writing, or is
// forbidden somewhere; without dots and blanks at its ends.
func safe(text string) string {
	text = strings.Map(func(r rune) rune {
		switch {
		case strings.ContainsRune(`/\:*?"<>|`, r):
			return '-'
		case unicode.IsControl(r) || unicode.Is(unicode.Cf, r) || r == utf8.RuneError:
			return -1
		case unicode.IsSpace(r):
			return ' '
		}
		return r
	}, text)
	text = strings.Trim(strings.Join(strings.Fields(text), " "), ". ")
	if named.MatchString(text) {
		text = "_" + text
	}
	return text
}

// bounded cuts a name before its end to what a file system takes.
func bounded(name, end string) string {
	if len(end) > 20 {
		end = ""
	}
	most := maxPart - len(end)
	stem := strings.TrimSuffix(name, end)
	for len(stem) > most {
		_, n := utf8.DecodeLastRuneInString(stem)
		stem = stem[:len(stem)-n]
	}
	return strings.TrimRight(stem, " ") + end
}
