package writing

import "fmt"

// UsualLimit is how large a letter may be, in bytes, where its account says nothing else:
// most mail services take that much.
const UsualLimit = 25 << 20

// LeastLimit and MostLimit bound what a person may say of an account.
const (
	LeastLimit = 1 << 20
	MostLimit  = 150 << 20
)

// Limit is how large a letter of an account may be, in bytes: what was chosen for it, or what
// its mail server takes (SIZE of RFC 1870), where that is less; 0 where that doesn't say.
func Limit(chosen, taken int64) int64 {
	if taken <= 0 {
		return chosen
	}
	return min(chosen, max(taken, LeastLimit))
}

// MostFiles is how many files go along with one letter.
const MostFiles = 100

// Sent is how many bytes of a letter a file becomes: base64 in lines of 76 signs (RFC 2045,
// 6.8).
func Sent(size int64) int64 {
	signs := (size + 2) / 3 * 4
	return signs + (signs+75)/76*2
}

// Fits tells whether files of these sizes, in bytes, go in one letter under a limit; words
// say why not.
func Fits(sizes []int64, limit int64) (words string, ok bool) {
	var all int64
	for _, s := range sizes {
		all += Sent(s)
	}
	if all <= limit {
		return "", true
	}
	return fmt.Sprintf("With its files the letter has %s; this account sends up to %s.", Megabytes(all), Megabytes(limit)), false
}

// Megabytes is a size in words.
func Megabytes(bytes int64) string {
	return fmt.Sprintf("%.1f MB", float64(bytes)/(1<<20))
}
