package store

import "strings"

var likeEscape = strings.NewReplacer(`\`, `\\`, `%`, `\%`, `_`, `\_`)

// likePattern matches what begins with the typed text, taken literally.
func likePattern(typed string) string { return likeEscape.Replace(strings.TrimSpace(typed)) + "%" }
