package writing

import (
	"strings"

	"ebbe.example/ebbe/internal/core/letter"
)

// Above puts a text below what was written so far and above the signature.
func Above(text, put string) string {
	written, _ := letter.CutSignature(text)
	signature := strings.TrimLeft(strings.TrimPrefix(text, written), "\n")
	if written = strings.TrimSpace(written); written != "" {
		put = written + "\n\n" + put
	}
	put = strings.TrimRight(put, "\n") + "\n"
	if signature != "" {
		return put + "\n" + signature
	}
	return put
}
