package find

import (
	"regexp"
	"strconv"
	"strings"
)

var aSize = regexp.MustCompile(`^(\d{1,9})(?:\.(\d))?(b|kb?|mb?|gb?)?$`)

// ReadSize reads a size in bytes: “500 kB”, “1.5mb”, of powers of 1024 as Sieve counts (RFC 5228, 2.4.1).
func ReadSize(value string) (bytes int64, ok bool) {
	m := aSize.FindStringSubmatch(strings.ToLower(strings.ReplaceAll(value, " ", "")))
	if m == nil {
		return 0, false
	}
	n, err := strconv.ParseInt(m[1], 10, 64)
	tenth, _ := strconv.ParseInt(m[2], 10, 64) // one digit, or none
	unit := int64(1)
	if m[3] != "" {
		unit = map[byte]int64{'b': 1, 'k': 1 << 10, 'm': 1 << 20, 'g': 1 << 30}[m[3][0]]
	}
	return n*unit + tenth*unit/10, err == nil
}

// bound reads a bound of sizes: “>1.5mb”. Without a sign it is larger that is meant.
func bound(value string) (over bool, bytes int64, ok bool) {
	value = strings.TrimSpace(value)
	unsigned := strings.TrimLeft(value, "<>")
	if len(value)-len(unsigned) > 1 {
		return false, 0, false
	}
	bytes, ok = ReadSize(unsigned)
	return !strings.HasPrefix(value, "<"), bytes, ok
}
