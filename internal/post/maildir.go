package post

import (
	"fmt"
	"strings"
	"time"
)

// MaildirName is the path of a letter in a Maildir. The name is made of when
// the letter came and of its id, so that it is the same each time; letters
// that are written out have been seen (":2,S"), stars are flags ("F"). copy
// counts the copies of one letter, from 0.
func MaildirName(id int64, copy int, at time.Time, starred bool) string {
	flags := "S"
	if starred {
		flags = "FS"
	}
	return fmt.Sprintf("cur/%d.%s.ebbe:2,%s", at.Unix(), numbered(id, copy), flags)
}

// MaildirFolders are the folders that every Maildir has.
var MaildirFolders = []string{"cur", "new", "tmp"}

// LetterName is the name of a letter as a file of its own: its day, its id and
// what it is about, in characters that every file system takes. copy counts
// the copies of one letter, from 0.
func LetterName(id int64, copy int, at time.Time, subject string) string {
	return fmt.Sprintf("%s %s %s.eml", at.UTC().Format("2006-01-02"), numbered(id, copy), FileName(subject))
}

func numbered(id int64, copy int) string {
	if copy == 0 {
		return fmt.Sprint(id)
	}
	return fmt.Sprintf("%d-%d", id, copy+1)
}

// FileName makes a name that every file system takes.
func FileName(name string) string {
	name = strings.Map(func(r rune) rune {
		if r < 0x20 || r == 0x7f || strings.ContainsRune(`/\:*?"<>|`, r) {
			return '-'
		}
		return r
	}, strings.TrimSpace(name))
	if r := []rune(name); len(r) > 100 {
		name = string(r[:100])
	}
	if name = strings.Trim(name, ". "); name == "" {
		return "letter"
	}
	return name
}
