package find

import (
	"regexp"
	"strconv"
	"strings"
)

var aSize = regexp.MustCompile(`^([<>]?)(\d{1,9})(?:\.(\d))?(b|kb?|mb?|gb?)?$`)

// size reads a size: “>1.5mb” of powers of 1024. Without a sign it is larger that is meant.
func size(value string) (over bool, bytes int64, ok bool) {
	m := aSize.FindStringSubmatch(strings.ToLower(strings.ReplaceAll(value, " ", "")))
	if m == nil {
		return false, 0, false
	}
	n, err := strconv.ParseInt(m[2], 10, 64)
	tenth, _ := strconv.ParseInt(m[3], 10, 64) // one digit, or none
	unit := int64(1)
	if m[4] != "" {
		unit = map[byte]int64{'b': 1, 'k': 1 << 10, 'm': 1 << 20, 'g': 1 << 30}[m[4][0]]
	}
	return m[1] != "<", n*unit + tenth*unit/10, err == nil
}
