package store

import "strings"

var likeEscape = strings.NewReplacer(`\`, `\\`, `%`, `\%`, `_`, `\_`)

// likePattern matches what begins with the typed text, taken literally.
func likePattern(typed string) string { return likeEscape.Replace(strings.TrimSpace(typed)) + "%" }

// A note on “+owner = ?” in queries that name ids: the plus keeps SQLite from
// walking all rows of the owner by an index that begins with it, when a few
// look-ups by id are what is wanted.
